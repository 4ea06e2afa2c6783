using System.Globalization;

namespace Zandrik.Web.Watching;

/// <summary>Measures every entry on a job: how long it took, what came of it, and how long it had waited on a tablet.</summary>
public sealed class EntryMeter(RequestDelegate next)
{
    /// <summary>Goes on, and measures what was an entry.</summary>
    public async Task InvokeAsync(HttpContext context, ShopMeter meter, TimeProvider clock)
    {
        if (!HttpMethods.IsPost(context.Request.Method) || !context.Request.Path.StartsWithSegments("/jobs", StringComparison.Ordinal))
        {
            await next(context);
            return;
        }
        var began = clock.GetTimestamp();
        var came = "failed";
        try
        {
            await next(context);
            came = context.Response.StatusCode switch { < 400 => "kept", < 500 => "refused", _ => "failed" };
        }
        finally
        {
            // Read by now, if it is a form: nothing is read for the measuring.
            var typed = context.Features.Get<Microsoft.AspNetCore.Http.Features.IFormFeature>()?.Form?["at"].ToString();
            meter.Entry(clock.GetElapsedTime(began), came, DateTimeOffset.TryParse(typed, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var at) ? at : null, clock.GetUtcNow());
        }
    }
}
