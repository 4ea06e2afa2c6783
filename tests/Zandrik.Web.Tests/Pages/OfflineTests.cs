using System.Diagnostics;
using OpenQA.Selenium;
using Zandrik.Storage.Tests;
using Zandrik.Web.Tests.Front;

namespace Zandrik.Web.Tests.Pages;

/// <summary>A tablet whose server is gone before the page is opened: what was opened last still opens, and what is entered waits.</summary>
public sealed class OfflineTests : IAsyncLifetime
{
    private readonly string name = $"offline_{Guid.NewGuid():N}";
    private readonly int port = ProcessTests.FreePort();
    private string connection = "";
    private Process server = null!;

    private string Address => $"http://127.0.0.1:{port}";

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private Task<Process> StartAsync() => ProcessTests.StartAsync(connection, [], "--urls", Address);

    public async ValueTask InitializeAsync()
    {
        connection = await Site.MakeDatabaseAsync(name);
        server = await StartAsync();
    }

    public async ValueTask DisposeAsync()
    {
        await StopAsync();
        await TestDatabase.ExecuteAsync(TestDatabase.OwnerOf("postgres"), $"drop database {name} with (force)");
    }

    private async Task StopAsync()
    {
        server.Kill(entireProcessTree: true);
        await server.WaitForExitAsync(CancellationToken.None);
        server.Dispose();
    }

    // The worker has this page of the job.
    private static void UntilKept(Browser browser, string path) =>
        browser.Until($"{path} is kept", () => browser.Script($"return caches.open('zandrik-pages-1').then(c => c.match('{path}')).then(m => !!m)") is true);

    [Fact]
    public async Task A_job_that_was_opened_opens_again_without_a_server_and_its_readings_wait()
    {
        using var tablet = new Browser();
        tablet.Size(1024, 768, touch: true);
        tablet.Open($"{Address}/jobs/10/dry");
        UntilKept(tablet, "/jobs/10/dry");
        UntilKept(tablet, "/jobs/10/leak-down");
        UntilKept(tablet, "/offline");
        tablet.Until("its styles are kept", () => tablet.Script("return caches.open('zandrik-assets-1').then(c => c.keys()).then(k => k.some(r => r.url.includes('/zandrik.')) && k.some(r => r.url.includes('/js/pad.')))") is true);
        await StopAsync();

        tablet.Open($"{Address}/jobs/10/leak-down");
        tablet.UntilText("#kept-note", "No network. This page is as it was at");
        tablet.Text("h1").ShouldContain("Leak-down");
        tablet.Open($"{Address}/jobs/10/dry");
        tablet.UntilText("#kept-note", "No network");
        tablet.Violations().ShouldBeEmpty();
        tablet.Until("the pad is awake", () => tablet.Script("return document.documentElement.dataset.bench") is "awake" || tablet.All("#pad-title").Count == 1);
        tablet.Press("197" + Keys.Enter);
        tablet.UntilText("#outbox", "One entry waits");
        // What was never opened here says so, and what was is named.
        tablet.Open($"{Address}/jobs/2/dry");
        tablet.UntilText("h1", "No network");
        tablet.UntilText("[data-kept-jobs]", "Job 10");
        tablet.Violations().ShouldBeEmpty();
        tablet.Open($"{Address}/jobs/10/dry");

        server = await StartAsync();
        tablet.Until("the page is fresh again", () => tablet.All("body[data-kept-at]").Count == 0 && !tablet.Find("#outbox").Displayed);
        using var client = await SignedIn.ClientAsync(Address);
        (await client.GetStringAsync(new Uri("/jobs/10/dry", UriKind.Relative), Cancel)).ShouldContain(">197<");
    }

    [Fact]
    public void Whoever_signs_out_leaves_no_pages_behind()
    {
        using var tablet = new Browser();
        tablet.Open($"{Address}/jobs/8/dry");
        UntilKept(tablet, "/jobs/8/judgement");
        tablet.Open($"{Address}/account");
        tablet.Click("form[action*=Out] button");
        tablet.UntilText("h1", "Sign in");
        tablet.Until("nothing is kept", () => tablet.Script("return caches.open('zandrik-pages-1').then(c => c.match('/jobs/8/dry')).then(m => !m)") is true);
    }

    [Fact]
    public async Task It_can_be_put_on_the_home_screen()
    {
        using var client = new HttpClient { BaseAddress = new Uri(Address) };
        using var manifest = System.Text.Json.JsonDocument.Parse(await client.GetStringAsync(new Uri("/manifest.webmanifest", UriKind.Relative), Cancel));
        foreach (var icon in manifest.RootElement.GetProperty("icons").EnumerateArray())
        {
            using var answer = await client.GetAsync(new Uri(icon.GetProperty("src").GetString()!, UriKind.Relative), Cancel);
            answer.Content.Headers.ContentType!.MediaType.ShouldBe(icon.GetProperty("type").GetString());
            var bytes = await answer.Content.ReadAsByteArrayAsync(Cancel);
            if (icon.GetProperty("sizes").GetString() is { } sizes && sizes != "any")
            {
                // Width and height stand at a fixed place of a PNG.
                System.Buffers.Binary.BinaryPrimitives.ReadInt32BigEndian(bytes.AsSpan(16)).ShouldBe(int.Parse(sizes.Split('x')[0], System.Globalization.CultureInfo.InvariantCulture));
            }
        }
        manifest.RootElement.GetProperty("display").GetString().ShouldBe("standalone");
    }
}
