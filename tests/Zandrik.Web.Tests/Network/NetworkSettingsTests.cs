using System.Net;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.Configuration;
using Zandrik.Web.Network;

namespace Zandrik.Web.Tests.Network;

/// <summary>Where the server listens, and which hosts it answers to.</summary>
public sealed class NetworkSettingsTests
{
    private static NetworkSettings Read(params (string Name, string? Value)[] settings) =>
        NetworkSettings.Read(new ConfigurationBuilder().AddInMemoryCollection(settings.Select(s => KeyValuePair.Create(s.Name, s.Value))).Build());

    private static NetworkSettings Lan => Read(("ZANDRIK_LISTEN", "lan"), ("ZANDRIK_TLS_DIR", "/nowhere"));

    [Fact]
    public void Loopback_alone_is_what_nobody_changed()
    {
        var settings = Read();
        settings.IsOn.ShouldBeFalse();
        settings.Proxies.ShouldBeEmpty();
        Lan.ShouldSatisfyAllConditions(s => s.IsOn.ShouldBeTrue(), s => s.TlsPort.ShouldBe(5443), s => s.HttpPort.ShouldBe(5080));
        Read(("ZANDRIK_LISTEN", "192.168.7.4, 10.0.0.2"), ("ZANDRIK_TLS_DIR", "/nowhere")).Addresses.Select(a => a.ToString()).ShouldBe(["192.168.7.4", "10.0.0.2"]);
    }

    [Theory]
    [InlineData("ZANDRIK_LISTEN", "everywhere", "lan, or addresses")]
    [InlineData("ZANDRIK_LISTEN", "203.0.113.9", "address of the internet")]
    [InlineData("ZANDRIK_TLS_PORT", "70000", "1 to 65535")]
    [InlineData("ZANDRIK_HTTP_PORT", "x", "1 to 65535")]
    [InlineData("ZANDRIK_NAMES", "two words!", "names of this machine")]
    [InlineData("ZANDRIK_PROXIES", "front", "takes addresses")]
    [InlineData("ZANDRIK_CERTIFICATE", "/nowhere.pem", "is not there")]
    [InlineData("ZANDRIK_TLS_DIR", "", "ZANDRIK_TLS_DIR")]
    public void What_cannot_be_is_said_with_what_to_write(string name, string value, string says) =>
        Should.Throw<InvalidOperationException>(() => Read([.. new (string, string?)[] { ("ZANDRIK_LISTEN", "lan"), ("ZANDRIK_TLS_DIR", "/nowhere") }.Where(s => s.Item1 != name), (name, value)])).Message.ShouldContain(says);

    [Theory]
    [InlineData("127.0.0.1", "127.0.0.1", false, "/", 200)]
    [InlineData("localhost", "127.0.0.1", false, "/jobs/1/dry", 200)]
    [InlineData("", "127.0.0.1", false, "/health/ready", 200)]
    [InlineData("", "192.168.7.4", true, "/", 400)]
    [InlineData("bank.example", "127.0.0.1", false, "/", 400)]
    [InlineData("bank.example", "192.168.7.4", true, "/", 400)]
    [InlineData("192.168.7.4", "192.168.7.4", true, "/jobs/1/dry", 200)]
    [InlineData("192.168.7.4", "192.168.7.4", false, "/jobs/1/dry", 302)]
    [InlineData("192.168.7.4", "192.168.7.4", false, "/connect", 200)]
    [InlineData("192.168.7.4", "192.168.7.4", false, "/connectors", 302)]
    [InlineData("192.168.7.4", "192.168.7.4", false, "/lib/bootstrap.css", 200)]
    [InlineData("192.168.7.4", "::ffff:192.168.7.4", false, "/api/v1/jobs", 302)]
    public async Task Only_own_hosts_are_answered_and_nothing_is_said_in_the_clear(string host, string at, bool secure, string path, int status)
    {
        var settings = Read(("ZANDRIK_LISTEN", "192.168.7.4"), ("ZANDRIK_TLS_DIR", "/nowhere"));
        (await AskAsync(settings, host, at, secure, path, "GET")).ShouldBe(status);
    }

    [Fact]
    public async Task What_is_posted_in_the_clear_is_refused() =>
        (await AskAsync(Read(("ZANDRIK_LISTEN", "192.168.7.4"), ("ZANDRIK_TLS_DIR", "/nowhere")), "192.168.7.4", "192.168.7.4", false, "/sign-in", "POST")).ShouldBe(403);

    private static async Task<int> AskAsync(NetworkSettings settings, string host, string at, bool secure, string path, string method)
    {
        var context = new DefaultHttpContext();
        (context.Request.Host, context.Request.Path, context.Request.Scheme, context.Request.Method) = (new HostString(host), path, secure ? "https" : "http", method);
        context.Connection.LocalIpAddress = IPAddress.Parse(at);
        await new HostGate(_ => Task.CompletedTask, settings, new MachineNames(settings, TimeProvider.System)).InvokeAsync(context);
        return context.Response.StatusCode;
    }
}
