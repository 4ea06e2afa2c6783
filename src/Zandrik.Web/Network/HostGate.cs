using System.Net;

namespace Zandrik.Web.Network;

/// <summary>
/// Only this machine's own hosts are answered, so that no link, label or redirect can be made to name another. And beyond
/// loopback nothing is said in the clear but how to connect a tablet.
/// </summary>
public sealed class HostGate(RequestDelegate next, NetworkSettings settings, MachineNames names)
{
    // What a device without the shop's authority may ask for: the page that connects it, and what that is drawn with.
    private static readonly string[] Open = ["/connect/", "/lib/", "/js/", "/zandrik.", "/noscript.", "/favicon.", "/manifest.", "/icons/"];

    /// <summary>Answers the request, or says where to go instead.</summary>
    public Task InvokeAsync(HttpContext context)
    {
        var request = context.Request;
        var here = context.Connection.LocalIpAddress is not { } local || IPAddress.IsLoopback(local.IsIPv4MappedToIPv6 ? local.MapToIPv4() : local);
        // Probes of this machine come without a host.
        if (!names.Knows(request.Host.Host) && !(here && request.Host.Host.Length == 0))
        {
            return SayAsync(context, StatusCodes.Status400BadRequest,
                $"This is Zandrik, and it is not called by that name. Open {(names.Secure is [var first, ..] ? first : "the address that was printed when it was started")}.{(settings.IsOn ? " Another name of this machine is added with ./start --name." : "")}");
        }
        if (!here && !request.IsHttps && request.Path != "/connect" && !Open.Any(o => request.Path.Value!.StartsWith(o, StringComparison.Ordinal)))
        {
            if (HttpMethods.IsGet(request.Method) || HttpMethods.IsHead(request.Method))
            {
                context.Response.Redirect("/connect");
                return Task.CompletedTask;
            }
            return SayAsync(context, StatusCodes.Status403Forbidden, "Nothing is sent in the clear over the network. Open the secure address.");
        }
        return next(context);
    }

    private static Task SayAsync(HttpContext context, int status, string text)
    {
        context.Response.StatusCode = status;
        context.Response.ContentType = "text/plain; charset=utf-8";
        return context.Response.WriteAsync(text, context.RequestAborted);
    }
}
