namespace Zandrik.Web.Front;

/// <summary>
/// Headers of every answer: scripts, styles and fonts come from this server only, nothing is framed, and
/// pages with readings are not kept by caches between server and bay.
/// </summary>
public sealed class PageHeaders(RequestDelegate next)
{
    /// <summary>Adds the headers and goes on.</summary>
    public Task InvokeAsync(HttpContext context)
    {
        var headers = context.Response.Headers;
        headers.ContentSecurityPolicy =
            "default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'";
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "same-origin";
        headers["Permissions-Policy"] = "geolocation=(), microphone=(), payment=(), usb=()";
        headers["Cross-Origin-Opener-Policy"] = "same-origin";
        context.Response.OnStarting(() =>
        {
            // A page with a tag says itself how it is kept (PageTag).
            // Styles, fonts and scripts are everybody's; whatever else says nothing of it is not kept anywhere.
            if ((context.Response.ContentType?.StartsWith("text/html", StringComparison.Ordinal) == true && headers.ETag.Count == 0) || headers.CacheControl.Count == 0)
            {
                headers.CacheControl = "no-store";
            }
            return Task.CompletedTask;
        });
        return next(context);
    }
}
