using System.Net;
using Microsoft.AspNetCore.Connections;
using Microsoft.AspNetCore.HttpOverrides;
using Microsoft.AspNetCore.Server.Kestrel.Core;

namespace Zandrik.Web.Network;

/// <summary>The server on the shop's network: https for everybody there, http on loopback as before.</summary>
public static class ShopNetwork
{
    /// <summary>Adds what the network needs, and listens where the settings say.</summary>
    public static void Add(WebApplicationBuilder builder, NetworkSettings settings)
    {
        builder.Services.AddSingleton(settings);
        builder.Services.AddSingleton<MachineNames>();
        builder.Services.AddSingleton<ServerCertificates>();
        builder.Services.AddHostedService(s => s.GetRequiredService<ServerCertificates>());
        // Only browsers that trust the certificate heed it (RFC 6797, 8.1), so no device is locked out by it.
        builder.Services.AddHsts(o => o.MaxAge = TimeSpan.FromDays(30));
        if (!settings.IsOn)
        {
            return;
        }
        builder.WebHost.ConfigureKestrel(o =>
        {
            var certificates = o.ApplicationServices.GetRequiredService<ServerCertificates>();
            void Secure(ListenOptions listen) => listen.UseHttps(https => https.ServerCertificateSelector = (_, _) => certificates.Current());
            if (settings.IsLan)
            {
                // A machine can also be on the internet: there it answers nobody.
                o.ListenAnyIP(settings.HttpPort, l => l.Use(PrivateOnly));
                o.ListenAnyIP(settings.TlsPort, l =>
                {
                    l.Use(PrivateOnly);
                    Secure(l);
                });
                return;
            }
            o.Listen(IPAddress.Loopback, settings.HttpPort);
            foreach (var address in settings.Addresses)
            {
                if (!IPAddress.IsLoopback(address))
                {
                    o.Listen(address, settings.HttpPort);
                }
                o.Listen(address, settings.TlsPort, Secure);
            }
        });
    }

    /// <summary>The gates in front of everything else.</summary>
    public static void Use(WebApplication app)
    {
        var settings = app.Services.GetRequiredService<NetworkSettings>();
        if (settings.Proxies.Count > 0)
        {
            var forwarded = new ForwardedHeadersOptions { ForwardedHeaders = ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto | ForwardedHeaders.XForwardedHost, ForwardLimit = settings.Proxies.Count };
            forwarded.KnownIPNetworks.Clear();
            forwarded.KnownProxies.Clear();
            foreach (var proxy in settings.Proxies)
            {
                forwarded.KnownProxies.Add(proxy);
            }
            app.UseForwardedHeaders(forwarded);
        }
        app.UseMiddleware<HostGate>();
        if (settings.IsOn)
        {
            app.UseHsts();
        }
    }

    /// <summary>What a tablet asks for before it trusts the server.</summary>
    public static void Map(WebApplication app)
    {
        app.MapGet("/connect/zandrik-workshop.crt", (ServerCertificates certificates) => certificates.Authority is { } authority
            ? Results.File(authority.Der, "application/x-x509-ca-cert", "zandrik-workshop.crt")
            : Results.NotFound()).AllowAnonymous().ExcludeFromDescription();
        // Asked over https from the page in the clear: it is answered only to a device that trusts the certificate.
        app.MapGet("/connect/trusted", (HttpContext http) =>
        {
            http.Response.Headers.AccessControlAllowOrigin = "*";
            http.Response.Headers.CacheControl = "no-store";
            return Results.Text("trusted");
        }).AllowAnonymous().ExcludeFromDescription();
    }

    /// <summary>Says where it is reached, once it is.</summary>
    public static void Announce(WebApplication app)
    {
        var names = app.Services.GetRequiredService<MachineNames>();
        if (app.Services.GetRequiredService<NetworkSettings>() is { IsOn: true } settings)
        {
            app.Lifetime.ApplicationStarted.Register(() => Console.WriteLine(names.Secure is [var first, ..]
                ? $"On the shop's network: {first}   A new tablet first opens {names.Connecting[0]}"
                : $"This machine is on no network yet; it is served on port {settings.TlsPort} as soon as it is."));
        }
    }

    private static ConnectionDelegate PrivateOnly(ConnectionDelegate next) => connection =>
    {
        if (connection.LocalEndPoint is IPEndPoint at && !MachineNames.IsPrivate(at.Address))
        {
            connection.Abort();
            return Task.CompletedTask;
        }
        return next(connection);
    };
}
