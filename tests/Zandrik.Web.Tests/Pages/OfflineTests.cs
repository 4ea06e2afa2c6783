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
        using var tablet = new Browser { KeepsPages = true };
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

    private static void Do(Browser tablet, string css, string says)
    {
        tablet.Tap(css);
        tablet.UntilText("[data-waiting]", says);
    }

    private static bool Enabled(Browser tablet, string css) => tablet.Script($"return !document.querySelector('{css}').matches(':disabled')") is true;

    [Fact]
    public async Task A_leak_down_round_goes_on_without_a_server_under_its_guard_and_over_a_restart_of_the_browser()
    {
        using var client = JobsOverTheApi.Of(Address);
        var job = await client.AddJobAsync("""{ "engine": { "cylinders": 4, "fuel": "petrol", "gearbox": "manual", "firingOrder": [1, 3, 4, 2], "rotation": "clockwise", "boreMm": 84, "strokeMm": 90 } }""");
        using var tablet = new Browser { KeepsPages = true };
        tablet.Size(1024, 768, touch: true);
        tablet.Open($"{Address}/jobs/{job}/leak-down?cylinder=1");
        UntilKept(tablet, $"/jobs/{job}/leak-down?cylinder=4");
        UntilKept(tablet, $"/jobs/{job}/dry");
        tablet.Tap("[aria-label='Crank at cylinder 1']");
        tablet.UntilText("[data-says]", "Crank at cylinder 1.");
        await StopAsync();

        // In the middle of the round: the page that is open goes on by the rules that came with it.
        Do(tablet, "[data-guard=key] button", "Key out");
        Enabled(tablet, "[data-air-on]").ShouldBeFalse();
        foreach (var word in new[] { "stroke", "chocks", "held", "bar" })
        {
            tablet.Tap($"[data-guard={word}] button");
            tablet.Until($"{word} is ticked", () => tablet.All($"[data-guard={word}].ticked").Count == 1);
        }
        Enabled(tablet, "#held").ShouldBeFalse("no air yet");
        Do(tablet, "[data-air-on]", "Air on");
        tablet.Until("only the air can be shut off", () => tablet.Find("[data-air-off]").Displayed && !tablet.Find("[data-air-on]").Displayed);
        tablet.Text(".air-on").ShouldStartWith("Air is on at cylinder 1.");
        tablet.All("[data-next-bar]").ShouldAllBe(bar => !bar.Displayed, "what is next was worked out before the air");
        tablet.Type("#supply", "100");
        tablet.Type("#held", "5000");
        tablet.Press(Keys.Enter);
        tablet.UntilText("[data-says]", "write a number from 0 to 290");
        tablet.Type("#held", "80");
        tablet.Press(Keys.Enter);
        tablet.UntilText("[data-waiting]", "supply 100, held 80");
        Do(tablet, "[data-ear=intake]", "intake, nothing");

        // Under air nobody cranks: on the page of another step neither.
        tablet.Open($"{Address}/jobs/{job}/dry");
        tablet.Press("150" + Keys.Enter);
        tablet.UntilText("#pad-message", "The air is on. Air off first.");

        tablet.Restart();
        tablet.Size(1024, 768, touch: true);
        tablet.Open($"{Address}/jobs/{job}/leak-down?cylinder=1");
        tablet.UntilText("[data-waiting]", "held 80");
        tablet.Until("the air is still on", () => tablet.Find("[data-air-off]").Displayed);
        tablet.Violations().ShouldBeEmpty();
        Do(tablet, "[data-air-off]", "Air off");
        Enabled(tablet, "[data-turned]").ShouldBeFalse("not vented");
        foreach (var word in new[] { "vented", "free" })
        {
            tablet.Tap($"[data-guard={word}] button");
            tablet.Until($"{word} is ticked", () => tablet.All($"[data-guard={word}].ticked").Count == 1);
        }
        tablet.Script("document.getElementById('turned-to').value = '3'");
        tablet.Tap("[data-turned]");
        tablet.UntilText("#read-title", "Cylinder 3");
        tablet.Until("what held cylinder 1 holds no more", () => tablet.All("[data-guard=held].ticked").Count == 0 && tablet.All("[data-guard=chocks].ticked").Count == 1);
        Enabled(tablet, "#held").ShouldBeFalse("no air at 3");

        server = await StartAsync();
        tablet.Until("all of it is sent", () => tablet.All("body[data-kept-at]").Count == 0 && tablet.Script("return window.zandrik?.outbox?.all().then(kept => kept.length === 0)") is true);
        var test = (await client.RecordAsync(job))["tests"]!.AsArray().Single()!;
        test["readings"]!.AsArray().ShouldHaveSingleItem()!["held"]!.GetValue<double>().ShouldBe(80);
        tablet.Open($"{Address}/jobs/{job}/leak-down");
        tablet.UntilText("#read-title", "Cylinder 3");
        tablet.Until("the server says the same", () => tablet.All("[data-guard=chocks].ticked").Count == 1 && tablet.All("[data-guard=held].ticked").Count == 0 && tablet.Find("[data-air-on]").Displayed);
    }

    [Fact]
    public async Task Too_much_oil_is_asked_about_without_a_server_and_the_gauge_stays_off()
    {
        using var client = JobsOverTheApi.Of(Address);
        var job = await client.AddJobAsync("""
            { "engine": { "cylinders": 4, "fuel": "petrol", "boreMm": 84, "strokeMm": 90, "compressionRatio": 10, "firingOrder": [1, 3, 4, 2] },
              "tests": [ { "kind": "compression-dry", "unit": "psi", "readings": [ { "cylinder": 1, "value": 205 }, { "cylinder": 2, "value": 150 } ] } ] }
            """);
        using var tablet = new Browser { KeepsPages = true };
        tablet.Open($"{Address}/jobs/{job}/wet?cylinder=2");
        UntilKept(tablet, $"/jobs/{job}/wet?cylinder=2");
        // The very first thing done after the server went, when nobody knows yet that it did.
        await StopAsync();
        Enabled(tablet, "#value").ShouldBeFalse();
        tablet.Type("#oil", "40");
        tablet.Click("[data-oil]");
        tablet.UntilText("[data-says]", "Do not pour it in.");
        tablet.All("[data-waiting]").ShouldBeEmpty();
        tablet.Click("[data-poured]");
        tablet.UntilText("[data-waiting]", "oil 40");
        Enabled(tablet, "#value").ShouldBeFalse();
        tablet.UntilText("[data-locked]", "more oil in cylinder 2 than fits safely");
        tablet.Click("[data-wiped]");
        tablet.UntilText("[data-waiting]", "wiped out");
        tablet.Type("#value", "190");
        tablet.Press(Keys.Enter);
        tablet.UntilText("[data-waiting]", "value 190");
        server = await StartAsync();
        tablet.Until("all of it is sent", () => tablet.All("body[data-kept-at]").Count == 0 && tablet.Script("return window.zandrik?.outbox?.all().then(kept => kept.length === 0)") is true);
        (await client.RecordAsync(job))["tests"]!.AsArray().Count(t => (string)t!["kind"]! == "compression-wet").ShouldBe(1);
    }

    [Fact]
    public void A_server_that_does_not_answer_is_not_waited_for_and_its_page_comes_when_it_does()
    {
        using var tablet = new Browser { KeepsPages = true };
        tablet.Open($"{Address}/jobs/10/dry");
        UntilKept(tablet, "/jobs/10/leak-down");
        // It takes the call, and says nothing.
        Signal("-STOP");
        try
        {
            tablet.Open($"{Address}/jobs/10/leak-down");
            tablet.UntilText("#kept-note", "The server does not answer yet. This page is as it was at");
            tablet.Text("h1").ShouldContain("Leak-down");
        }
        finally
        {
            Signal("-CONT");
        }
        tablet.Until("the page is fresh by itself", () => tablet.All("body[data-kept-at]").Count == 0 && tablet.All("h1").Count == 1);
        tablet.Text("h1").ShouldContain("Leak-down");
    }

    private void Signal(string signal)
    {
        using var kill = Process.Start("kill", [signal, $"{server.Id}"]);
        kill.WaitForExit();
        kill.ExitCode.ShouldBe(0);
    }

    [Fact]
    public void Whoever_signs_out_leaves_no_pages_behind()
    {
        using var tablet = new Browser { KeepsPages = true };
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
