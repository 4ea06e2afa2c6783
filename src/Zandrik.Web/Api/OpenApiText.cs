using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;

namespace Zandrik.Web.Api;

/// <summary>What the OpenAPI document says beyond its addresses.</summary>
public static class OpenApiText
{
    /// <summary>Gives the document its title and the bearer scheme.</summary>
    public static void Describe(OpenApiOptions options) => options.AddDocumentTransformer((document, _, _) =>
    {
        document.Info.Title = "Zandrik";
        document.Info.Version = "1";
        document.Info.Description = "Jobs as open test records. Errors are problem details (RFC 9457) with the JSON pointer of each bad field.";
        document.Servers = [];
        document.Components ??= new OpenApiComponents();
        document.Components.SecuritySchemes ??= new Dictionary<string, IOpenApiSecurityScheme>();
        document.Components.SecuritySchemes["shopToken"] = new OpenApiSecurityScheme
        {
            Type = SecuritySchemeType.Http, Scheme = "bearer", Description = "A token from the shop's settings.",
        };
        foreach (var (path, item) in document.Paths)
        {
            if (!path.StartsWith("/api/", StringComparison.Ordinal) || item.Operations is null)
            {
                continue;
            }
            foreach (var operation in item.Operations.Values)
            {
                (operation.Security ??= []).Add(new OpenApiSecurityRequirement
                {
                    [new OpenApiSecuritySchemeReference("shopToken", document)] = [],
                });
            }
        }
        return Task.CompletedTask;
    });
}
