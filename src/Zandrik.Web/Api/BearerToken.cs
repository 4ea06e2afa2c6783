using Zandrik.Storage;

namespace Zandrik.Web.Api;

/// <summary>Lets a request in when it carries a token of a shop, and knows the shop afterwards.</summary>
public sealed class BearerToken(SignInStore signIn, TimeProvider clock) : IEndpointFilter
{
    private const string Scheme = "Bearer ";

    /// <inheritdoc/>
    public async ValueTask<object?> InvokeAsync(EndpointFilterInvocationContext context, EndpointFilterDelegate next)
    {
        var http = context.HttpContext;
        var header = http.Request.Headers.Authorization.ToString();
        var token = header.StartsWith(Scheme, StringComparison.OrdinalIgnoreCase) ? header[Scheme.Length..].Trim() : "";
        if (token.Length == 0 || await signIn.ByTokenAsync(token, clock.GetUtcNow(), http.RequestAborted) is not { } who)
        {
            http.Response.Headers.WWWAuthenticate = "Bearer";
            return TypedResults.Problem(
                token.Length == 0 ? "Send a token of the shop: Authorization: Bearer …" : "This token is unknown, was revoked, or is over.",
                statusCode: StatusCodes.Status401Unauthorized);
        }
        if (!who.MayMeasure && !HttpMethods.IsGet(http.Request.Method) && !HttpMethods.IsHead(http.Request.Method))
        {
            return TypedResults.Problem("This token only reads: it may look and change nothing.", statusCode: StatusCodes.Status403Forbidden);
        }
        http.Items[typeof(ShopPerson)] = who;
        return await next(context);
    }

    /// <summary>The shop and person of a request that was let in.</summary>
    public static ShopPerson Who(HttpContext context) => (ShopPerson)context.Items[typeof(ShopPerson)]!;
}
