using System.Text.Json.Nodes;
using OpenQA.Selenium;

namespace Zandrik.Web.Tests.Pages;

/// <summary>The wet test and running compression in the browser: what their guards lock, and what they say.</summary>
public sealed class WetAndRunningFlowTests : IClassFixture<Site>, IDisposable
{
    private readonly Site site;
    private readonly Browser browser = new();

    public WetAndRunningFlowTests(Site site) => this.site = site;

    public void Dispose() => browser.Dispose();

    private static string Dry(params int[] psi) =>
        $$"""{ "kind": "compression-dry", "unit": "psi", "readings": [ {{string.Join(", ", psi.Select((v, i) => $$"""{ "cylinder": {{i + 1}}, "value": {{v}} }"""))}} ] }""";

    private const string Petrol = """{ "cylinders": 4, "fuel": "petrol", "throttle": "cable", "displacementCc": 2000, "compressionRatio": 10, "spec": { "unit": "psi", "nominal": 205, "minimum": 150 } }""";

    private const string Diesel = """{ "cylinders": 4, "fuel": "diesel", "displacementCc": 2000, "compressionRatio": 19, "spec": { "unit": "psi", "nominal": 420, "minimum": 320, "wetAllowed": true } }""";

    private async Task<int> OpenAsync(string engine, string page, string tests, string more = "")
    {
        var job = await site.JobAsync($$"""{ "engine": {{engine}}, "tests": [{{tests}}] {{more}} }""");
        Go(job, page);
        return job;
    }

    private void Go(int job, string page)
    {
        browser.Open($"{site.Address}/jobs/{job}/{page}");
        browser.Until("the step is awake", () => browser.Script("return document.documentElement.dataset.step ?? 'awake'") is "awake");
    }

    private bool Enabled(string css) => (bool)browser.Script($"return !document.querySelector('{css}').matches(':disabled')")!;

    private async Task<JsonNode?> TestAsync(int job, string kind) => (await site.RecordAsync(job))["tests"]!.AsArray().LastOrDefault(t => (string)t!["kind"]! == kind);

    [Theory]
    [InlineData(Petrol, "9", "140", "171", "22 %")]
    [InlineData(Diesel, "3", "300", "345", "15 %")]
    public async Task Oil_a_minute_and_a_spin_with_the_hole_open_come_before_the_gauge(string engine, string oil, string dry, string wet, string gain)
    {
        var sound = engine == Diesel ? 420 : 205;
        var job = await OpenAsync(engine, "wet", Dry(sound, sound, int.Parse(dry, System.Globalization.CultureInfo.InvariantCulture), sound));
        browser.Text("[data-leak-first]").ShouldContain("Leak-down first");
        browser.Text(".oil-list li").ShouldStartWith("3");
        browser.Value("#oil").ShouldBe(oil);
        Enabled("#value").ShouldBeFalse();
        Enabled("[data-spun]").ShouldBeFalse();
        browser.Text("[data-locked]").ShouldContain("No oil is noted");

        // Round the page it is refused too.
        using var client = await SignedIn.ClientAsync(site.Address);
        async Task<string> RefusedAsync()
        {
            var answer = await client.PostFormAsync($"/jobs/{job}/wet?handler=Read&cylinder=3", ("value", wet), ("unit", "psi"));
            ((int)answer.StatusCode).ShouldBe(422);
            return await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken);
        }
        (await RefusedAsync()).ShouldContain("No oil is noted");

        browser.Type("#oil", oil);
        browser.Press(Keys.Enter);
        browser.UntilText(".soak", "soaking");
        Enabled("#value").ShouldBeFalse();
        (await RefusedAsync()).ShouldContain("liquid does not compress");
        browser.Script("return document.activeElement.matches('[data-spun]')").ShouldBe(false, "one Enter too many says nothing that is not so");

        browser.Click("[data-spun]");
        browser.UntilText("[data-says]", "The gauge may go on");
        browser.Violations().ShouldBeEmpty();
        browser.Type("#value", wet);
        browser.Press(Keys.Enter);
        browser.UntilText("[data-wet-table]", gain);
        browser.Text("[data-wet-table]").ShouldContain("rings or bore take part");
        browser.All(".columns .wet").Count.ShouldBe(1);
        var kept = (await TestAsync(job, "compression-wet"))!;
        ((double)kept["readings"]![0]!["oilMl"]!).ShouldBe(double.Parse(oil, System.Globalization.CultureInfo.InvariantCulture));
        ((double)kept["readings"]![0]!["value"]!).ShouldBe(double.Parse(wet, System.Globalization.CultureInfo.InvariantCulture));

        // The leak-down after it is marked, until the engine was run and the oil burnt off.
        Go(job, "leak-down");
        browser.Text(".house-rule").ShouldContain("Test oil in 3");
        Go(job, "wet");
        browser.Click("[data-cleared]");
        browser.UntilText("[data-says]", "Run and cleared");
        Go(job, "leak-down");
        browser.All(".house-rule").ShouldBeEmpty();
    }

    [Fact]
    public async Task What_was_not_taken_is_said_though_more_was_sent_after_it()
    {
        var job = await OpenAsync(Petrol, "wet", Dry(205, 204, 140, 206));
        browser.Click("[data-oil]");
        browser.UntilText(".soak", "soaking");
        browser.Click("[data-spun]");
        browser.UntilText("[data-says]", "The gauge may go on");
        browser.Network(on: false);
        // What no tablet can know: somebody else says meanwhile that the oil was burnt off.
        using var client = await SignedIn.ClientAsync(site.Address);
        (await client.PostFormAsync($"/jobs/{job}/wet?handler=Cleared&cylinder=3")).IsSuccessStatusCode.ShouldBeTrue();
        browser.Type("#value", "171");
        browser.Press(Keys.Enter);
        browser.UntilText("#outbox", "One entry waits");
        browser.Type("#oil", "90000");
        browser.Click("[data-oil]");
        browser.UntilText("[data-says]", "from 0.1 to 1000");
        browser.UntilText("#outbox", "One entry waits");
        browser.Type("#oil", "8");
        browser.Press(Keys.Enter);
        browser.UntilText("[data-says]", "Do not pour it in.");
        browser.Click("[data-poured]");
        browser.UntilText("#outbox", "2 entries wait");
        browser.Network(on: true);
        browser.UntilText("[data-oil-in]", "8 ml");
        browser.UntilText("[data-says]", "No oil is noted in cylinder 3");
    }

    [Fact]
    public async Task Too_much_oil_is_recorded_and_keeps_the_gauge_off_until_it_is_wiped_out()
    {
        var job = await OpenAsync(Petrol, "wet", Dry(205, 204, 140, 206));
        browser.Send("[name=measure]", "squirts");
        browser.Type("#oil", "4");
        browser.Press(Keys.Enter);
        browser.UntilText("[data-says]", "4 squirts (6 ml)");
        browser.Click("[data-spun]");
        browser.UntilText("[data-says]", "The gauge may go on");
        // More of it: the sum is what counts, whichever way it came.
        browser.Type("#oil", "4");
        browser.Press(Keys.Enter);
        browser.UntilText("[data-says]", "10 ml in cylinder 3 is more than the 9.2 ml that fits safely. Do not pour it in.");
        browser.Text("[data-oil-in]").ShouldContain("6 ml", customMessage: "nothing is noted before somebody says that it is in");
        browser.Violations().ShouldBeEmpty();
        browser.Click("[data-poured]");
        browser.UntilText("[data-over-limit]", "10 ml in cylinder 3 is more than the 9.2 ml that fits safely");
        Enabled("#value").ShouldBeFalse();
        using var client = await SignedIn.ClientAsync(site.Address);
        (await client.PostFormAsync($"/jobs/{job}/wet?handler=Spun&cylinder=3")).EnsureSuccessStatusCode();
        ((int)(await client.PostFormAsync($"/jobs/{job}/wet?handler=Read&cylinder=3", ("value", "171"), ("unit", "psi"))).StatusCode).ShouldBe(422, "spinning alone does not get it out");
        browser.Click("[data-wiped]");
        browser.UntilText("[data-says]", "wiped out");
        browser.Violations().ShouldBeEmpty();
        browser.Type("#value", "171");
        browser.Press(Keys.Enter);
        browser.UntilText("[data-says]", "171 psi wet, saved");
        // What is read dry there now is marked, shown and used for nothing.
        (await client.PostFormAsync($"/jobs/{job}/dry?handler=Start")).EnsureSuccessStatusCode();
        (await client.PostFormAsync($"/jobs/{job}/dry?handler=Enter&cylinder=3", ("value", "168"), ("kind", "Reading"), ("unit", "psi"))).EnsureSuccessStatusCode();
        browser.Open($"{site.Address}/jobs/{job}/dry?cylinder=3");
        browser.UntilText("[data-code=oil-before-dry]", "Read over test oil");
        ((bool)(await site.RecordAsync(job))["tests"]!.AsArray().Last(t => (string)t!["kind"]! == "compression-dry")!["readings"]![0]!["conditions"]!["oilBefore"]!).ShouldBeTrue();
        Go(job, "wet");
        browser.Text("[data-wet-table]").ShouldContain("140", customMessage: "the baseline stays the reading before the oil");
    }

    [Fact]
    public async Task Where_it_is_forbidden_the_reason_stands_in_its_place()
    {
        await OpenAsync(Petrol.Replace("\"minimum\": 150", "\"minimum\": 150, \"wetAllowed\": false", StringComparison.Ordinal), "wet", Dry(205, 204, 140, 206));
        browser.Text(".stop").ShouldContain("The sheet of this engine forbids a wet test.");
        browser.All("#oil, #value").ShouldBeEmpty();
        await OpenAsync(Diesel.Replace(", \"wetAllowed\": true", "", StringComparison.Ordinal), "wet", Dry(420, 420, 300, 420));
        browser.Text(".stop").ShouldContain("only where its sheet allows it");
    }

    [Fact]
    public async Task Running_is_guided_and_the_trapped_peak_keeps_the_snap_locked()
    {
        var job = await OpenAsync(Petrol, "running", Dry(205, 204, 140, 206));
        browser.Text("[data-running-table]").ShouldContain("Cylinder 3 is low dry");
        Enabled("#idle").ShouldBeFalse();
        void Safe(int cylinder)
        {
            Go(job, $"running?cylinder={cylinder}");
            foreach (var word in new[] { "place", "refitted", "injector", "spark", "clear" })
            {
                if (browser.All($"[data-safe={word}][aria-pressed=true]").Count == 0)
                {
                    browser.Click($"[data-safe={word}]");
                    browser.Until($"{word} is ticked", () => browser.All($"[data-safe={word}][aria-pressed=true]").Count == 1);
                }
            }
        }
        void Idle(string psi, string then)
        {
            browser.Type("#idle", psi);
            browser.Press(Keys.Enter);
            browser.UntilText("[data-idle]", psi);
            browser.UntilText("[data-idle]", then);
        }
        void Snap(string psi, string says)
        {
            browser.Type("#snap", psi);
            browser.Press(Keys.Enter);
            browser.UntilText("[data-says]", says);
        }
        Safe(1);
        Idle("188", "once more");
        Enabled("#snap").ShouldBeFalse();
        Enabled("#held").ShouldBeFalse();
        // Seen before anything was read, and noted with the reading that follows.
        browser.Click("[name=spark][value=blue]");
        browser.UntilText("[data-says]", "spark: blue");
        Idle("115", "once more");
        Idle("110", "two agree");
        browser.Violations().ShouldBeEmpty();
        Snap("180", "snap: 180 psi saved");
        // As a hand opens it: what was opened by one stays open when the step is shown anew.
        browser.Click("details:has(#held) > summary");
        browser.Type("#held", "192" + Keys.Enter);
        browser.UntilText("[data-says]", "held throttle: 192 psi saved");
        Safe(2);
        Idle("168", "once more");
        Idle("166", "two agree");
        Snap("166", "snap: 166 psi saved");
        browser.Text("[data-running-table]").ShouldContain("the burnt charge cannot get out");
        var readings = (await TestAsync(job, "compression-running"))!["readings"]!.AsArray();
        readings[0]!["idleReadings"]!.AsArray().Select(v => (double)v!).ShouldBe([188, 115, 110]);
        ((bool)readings[0]!["purged"]!).ShouldBeTrue();
        ((string)readings[0]!["spark"]!, (double)readings[0]!["heldThrottle"]!).ShouldBe(("blue", 192));
        Go(job, "running?cylinder=3");
        browser.Text("[data-locked]").ShouldContain("Find the leak first");
        browser.All("#idle").ShouldBeEmpty();
    }

    [Fact]
    public async Task Coolant_in_a_cylinder_stops_a_start_and_a_diesel_has_nothing_to_snap()
    {
        var job = await OpenAsync(Petrol, "running", Dry(205, 204, 203, 206), ", \"observations\": [\"coolant-in-cylinder\"]");
        browser.Text(".stop").ShouldContain("bends rods");
        using var client = await SignedIn.ClientAsync(site.Address);
        async Task<int> StatusAsync(string address, params (string, string)[] fields) => (int)(await client.PostFormAsync($"/jobs/{job}/{address}", fields)).StatusCode;
        (await StatusAsync("running?handler=Idle&cylinder=1", ("idle", "110"), ("unit", "psi"))).ShouldBe(422);
        (await StatusAsync("checks/crank-sound", ("Result", "even"))).ShouldBe(422);
        (await StatusAsync("checks/combustion-gas", ("Result", "negative"))).ShouldBe(422);
        (await StatusAsync("refit", ("item", "started"), ("done", "true"))).ShouldBe(422);
        (await StatusAsync("relative-compression?handler=Guide", ("item", "clear"), ("done", "true"))).ShouldBe(422);
        foreach (var page in new[] { "checks/crank-sound", "checks/combustion-gas", "relative-compression", "refit", "plugs", "dry" })
        {
            browser.Open($"{site.Address}/jobs/{job}/{page}");
            browser.Text("[data-stop]").ShouldContain("Get the liquid out");
        }
        browser.Open($"{site.Address}/jobs/{job}/checks/combustion-gas");
        browser.Text(".safe-order").ShouldContain("Cooling system under pressure");
        browser.Open($"{site.Address}/jobs/{job}/plan");
        browser.Text(".plan li").ShouldContain("Plugs out before it is cranked");

        // The way on, in order; then it opens.
        Go(job, "liquid");
        browser.Violations().ShouldBeEmpty();
        foreach (var line in new[] { "plugs-out", "clear", "spun", "dried" })
        {
            browser.Until($"{line} is next", () => Enabled($"[data-liquid={line}]"));
            browser.Click($"[data-liquid={line}]");
            browser.Until($"{line} is ticked", () => browser.All($"[data-liquid={line}][aria-pressed=true], [data-liquid-done]").Count > 0);
        }
        browser.UntilText("[data-says]", "may be cranked and started again");
        (await StatusAsync("checks/crank-sound", ("Result", "even"))).ShouldBe(200);
        Go(job, "running");
        browser.All(".stop").ShouldBeEmpty();

        // A wet plug that nobody can name locks it again.
        (await StatusAsync("plugs?cylinder=2", ("signs", "wet-unknown"), ("says", "no smell"))).ShouldBe(200);
        Go(job, "running");
        browser.Text(".stop").ShouldContain("plug 2 was wet, liquid unknown");
        await OpenAsync(Diesel, "running", Dry(420, 420, 420, 420));
        browser.Text(".stop").ShouldContain("throttle");
    }
}
