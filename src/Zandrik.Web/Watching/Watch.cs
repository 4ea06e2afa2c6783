using System.Globalization;
using System.Net;
using Npgsql;
using OpenTelemetry.Exporter;
using OpenTelemetry.Metrics;
using OpenTelemetry.Resources;
using OpenTelemetry.Trace;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Watching;

/// <summary>
/// Seen from outside: metrics on a page of their own on loopback, and metrics and traces sent to a collector, each only where
/// the settings ask for it. Addresses are sent as the pages' patterns: what stands in them (a one-time link) is nobody's.
/// </summary>
public static class Watch
{
    private static int? Port(IConfiguration settings) => int.TryParse(settings["ZANDRIK_METRICS_PORT"], NumberStyles.None, CultureInfo.InvariantCulture, out var port) && port is > 0 and <= 65535 ? port : null;

    private static Uri? Collector(IConfiguration settings) => settings["ZANDRIK_OTLP"] is { Length: > 0 } address
        ? Uri.TryCreate(address, UriKind.Absolute, out var uri) && uri.Scheme is "http" or "https" ? uri : throw new InvalidOperationException($"ZANDRIK_OTLP is the address of a collector, http or https, not '{address}'.") : null;

    /// <summary>Adds what the settings ask for.</summary>
    /// <exception cref="InvalidOperationException">A setting is not one.</exception>
    public static void Add(WebApplicationBuilder builder)
    {
        builder.Services.AddSingleton<ShopMeter>();
        var (port, collector) = (Port(builder.Configuration), Collector(builder.Configuration));
        if (port is null && collector is null)
        {
            return;
        }
        var watching = builder.Services.AddOpenTelemetry().ConfigureResource(r => r.AddService("zandrik", serviceVersion: AppVersion.Whole));
        void Send(OtlpExporterOptions to, string what)
        {
            to.Protocol = OtlpExportProtocol.HttpProtobuf;
            to.Endpoint = new Uri(collector!, what);
        }
        watching.WithMetrics(metrics =>
        {
            metrics.AddMeter(Measures.Name, "Npgsql").AddAspNetCoreInstrumentation().AddRuntimeInstrumentation();
            if (port is not null)
            {
                metrics.AddPrometheusExporter();
            }
            if (collector is not null)
            {
                metrics.AddOtlpExporter(o => Send(o, "v1/metrics"));
            }
        });
        if (collector is not null)
        {
            watching.WithTracing(traces => traces
                .AddAspNetCoreInstrumentation(o =>
                {
                    o.Filter = http => !http.Request.Path.StartsWithSegments("/health", StringComparison.Ordinal);
                    o.EnrichWithHttpResponse = (activity, response) =>
                    {
                        // The pattern instead of the address, which may hold a one-time link, a search or a file's name.
                        var pattern = (response.HttpContext.GetEndpoint() as RouteEndpoint)?.RoutePattern.RawText ?? "";
                        activity.SetTag("url.path", "/" + pattern.TrimStart('/'));
                        activity.SetTag("url.query", null);
                        activity.SetTag("client.address", null);
                        activity.SetTag("user_agent.original", null);
                    };
                })
                .AddNpgsql()
                .AddOtlpExporter(o => Send(o, "v1/traces")));
        }
        if (port is { } own)
        {
            // Beside whatever else the server listens on, and on loopback only.
            builder.WebHost.ConfigureKestrel((context, o) =>
            {
                foreach (var address in (builder.Configuration["urls"] ?? "").Split(';', StringSplitOptions.RemoveEmptyEntries))
                {
                    var at = BindingAddress.Parse(address);
                    if (IPAddress.TryParse(at.Host, out var ip))
                    {
                        o.Listen(ip, at.Port);
                    }
                    else
                    {
                        o.ListenLocalhost(at.Port);
                    }
                }
                o.Listen(IPAddress.Loopback, own);
            });
        }
    }

    /// <summary>On the port of the metrics there is nothing else; and the metrics are nowhere else.</summary>
    public static void Use(WebApplication app)
    {
        // Made now: what it tells of by itself (backups, streams) is there from the beginning.
        _ = app.Services.GetRequiredService<ShopMeter>();
        if (Port(app.Configuration) is { } own)
        {
            app.UseOpenTelemetryPrometheusScrapingEndpoint(c => c.Connection.LocalPort == own && c.Request.Path == "/metrics");
            app.Use((context, next) =>
            {
                if (context.Connection.LocalPort != own)
                {
                    return next(context);
                }
                context.Response.StatusCode = StatusCodes.Status404NotFound;
                return Task.CompletedTask;
            });
        }
    }
}
