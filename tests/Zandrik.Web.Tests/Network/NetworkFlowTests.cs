using System.Diagnostics;
using System.Net;
using System.Security.Cryptography.X509Certificates;
using Microsoft.Extensions.Logging.Abstractions;
using Microsoft.Extensions.Configuration;
using Zandrik.Storage.Tests;
using Zandrik.Web.Network;
using Zandrik.Web.Tests.Front;

namespace Zandrik.Web.Tests.Network;

/// <summary>The server as tablets reach it: https by the shop's authority, in a browser that has it and in one that has not.</summary>
public sealed class NetworkFlowTests : IAsyncLifetime
{
    private readonly string folder = Directory.CreateTempSubdirectory("zandrik-tls-").FullName;
    private readonly int port = ProcessTests.FreePort();
    private readonly int clear = ProcessTests.FreePort();
    private readonly string name = $"network_{Guid.NewGuid():N}";
    private Process server = null!;

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private string Secure => $"https://localhost:{port}";

    private string Authority => Path.Combine(folder, "authority.crt");

    private string Office => $"http://127.0.0.1:{clear}";

    public async ValueTask InitializeAsync() => server = await ProcessTests.StartAsync(await Site.MakeDatabaseAsync(name), new()
    {
        ["ZANDRIK_LISTEN"] = "127.0.0.1", ["ZANDRIK_TLS_PORT"] = $"{port}", ["ZANDRIK_HTTP_PORT"] = $"{clear}", ["ZANDRIK_TLS_DIR"] = folder,
    });

    public async ValueTask DisposeAsync()
    {
        server.Kill(entireProcessTree: true);
        await server.WaitForExitAsync(CancellationToken.None);
        server.Dispose();
        await TestDatabase.ExecuteAsync(TestDatabase.OwnerOf("postgres"), $"drop database {name} with (force)");
        Directory.Delete(folder, recursive: true);
    }

    // Trusts the shop's authority and nothing else.
    private HttpClient Client() => new(new SocketsHttpHandler
    {
        AllowAutoRedirect = false,
        SslOptions = { CertificateChainPolicy = new X509ChainPolicy { TrustMode = X509ChainTrustMode.CustomRootTrust, CustomTrustStore = { X509CertificateLoader.LoadCertificateFromFile(Authority) }, RevocationMode = X509RevocationMode.NoCheck } },
    })
    { BaseAddress = new Uri(Secure), DefaultRequestVersion = HttpVersion.Version20 };

    [Fact]
    public async Task Over_https_cookies_are_secure_and_another_host_is_not_answered()
    {
        using var client = Client();
        using var page = await client.GetAsync(new Uri("/sign-in", UriKind.Relative), Cancel);
        page.Version.ShouldBe(HttpVersion.Version20);
        page.Headers.GetValues("Set-Cookie").ShouldAllBe(c => c.Contains("secure", StringComparison.Ordinal) && c.Contains("httponly", StringComparison.Ordinal));
        using var asked = new HttpRequestMessage(HttpMethod.Get, "/shop/people") { Headers = { Host = "bank.example" } };
        using var clearly = new HttpClient { BaseAddress = new Uri(Office) };
        using var refused = await clearly.SendAsync(asked, Cancel);
        refused.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await refused.Content.ReadAsStringAsync(Cancel)).ShouldNotContain("bank.example");
        (await client.GetByteArrayAsync(new Uri("/connect/zandrik-workshop.crt", UriKind.Relative), Cancel)).ShouldBe(X509CertificateLoader.LoadCertificateFromFile(Authority).RawData);
        // The machine in the office makes labels and links that a tablet can open.
        using var office = await SignedIn.ClientAsync(Office);
        (await office.GetStringAsync(new Uri("/connect", UriKind.Relative), Cancel)).ShouldContain($"https://127.0.0.1:{port}");
        (await office.GetStringAsync(new Uri("/jobs/8/labels", UriKind.Relative), Cancel)).ShouldContain($"https://127.0.0.1:{port}/jobs/8/dry?cylinder=1");
    }

    [Fact]
    public void A_tablet_that_has_the_authority_is_told_so_and_works()
    {
        using var authority = ShopAuthority.Open(folder, [], DateTimeOffset.UnixEpoch);
        var fingerprint = authority.Fingerprint;
        using var tablet = new Browser(trusting: Authority) { KeepsPages = true };
        tablet.Size(1024, 768, touch: true);
        tablet.Open($"{Secure}/connect");
        tablet.UntilText("[data-connect-says]", "Connected safely.");
        tablet.Violations().ShouldBeEmpty();
        tablet.Click("[data-connect-open]");
        tablet.Open($"{Secure}/jobs/8/dry");
        tablet.Text("h1").ShouldContain("Dry");
        tablet.Url.ShouldStartWith(Secure);
        tablet.Open($"{Secure}/shop/connect");
        tablet.Text("[data-fingerprint]").ShouldBe(fingerprint);
        tablet.All("svg.qr").Count.ShouldBe(1);
        tablet.Violations().ShouldBeEmpty();
    }

    [Fact]
    public void A_tablet_without_it_is_told_what_to_do()
    {
        using var tablet = new Browser { KeepsPages = true };
        tablet.Size(390, 844, touch: true);
        tablet.Open($"{Office}/connect");
        tablet.UntilText("[data-connect-says]", "This is the machine Zandrik runs on");
        tablet.Script("const at = document.querySelector('[data-connect]'); return fetch(at.dataset.connect + '/connect/trusted').then(() => 'trusted', () => 'not trusted')").ShouldBe("not trusted");
        tablet.Text("main").ShouldContain("Compare the fingerprint");
        tablet.Violations().ShouldBeEmpty();
    }

    [Fact]
    public void The_certificate_is_made_anew_before_its_end_and_kept_over_a_restart()
    {
        var clock = new SetClock(new DateTimeOffset(2026, 3, 2, 9, 40, 0, TimeSpan.Zero));
        var own = Path.Combine(folder, "own");
        ServerCertificates Start(string address)
        {
            var settings = NetworkSettings.Read(new ConfigurationBuilder().AddInMemoryCollection([KeyValuePair.Create("ZANDRIK_LISTEN", (string?)address), KeyValuePair.Create("ZANDRIK_TLS_DIR", (string?)own)]).Build());
            return new ServerCertificates(settings, new MachineNames(settings, clock), clock, NullLogger<ServerCertificates>.Instance);
        }
        using var first = Start("192.168.7.4");
        var made = first.Current().Thumbprint;
        first.Renew().Thumbprint.ShouldBe(made);
        using var second = Start("192.168.7.4");
        second.Current().Thumbprint.ShouldBe(made);
        clock.Now = clock.Now.AddDays(ShopAuthority.ServerDays - ServerCertificates.RenewedBefore).AddHours(1);
        var renewed = second.Renew().Thumbprint;
        renewed.ShouldNotBe(made);
        using var moved = Start("192.168.7.5");
        moved.Current().Thumbprint.ShouldNotBe(renewed, "the machine has got another address");
        moved.Current().MatchesHostname("192.168.7.5").ShouldBeTrue();
        moved.Authority!.Fingerprint.ShouldBe(first.Authority!.Fingerprint, "no tablet has to be connected again");
        File.GetUnixFileMode(Path.Combine(own, "server.pem")).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite);
    }

    private sealed class SetClock(DateTimeOffset now) : TimeProvider
    {
        public DateTimeOffset Now { get; set; } = now;

        public override DateTimeOffset GetUtcNow() => Now;
    }
}
