using System.Globalization;
using System.Net.Http.Headers;
using Zandrik.Core.Running;
using Zandrik.Instruments.Bench;
using Zandrik.Instruments.Devices;
using Zandrik.Instruments.Protocol;

namespace Zandrik.Web.Tests.Instruments;

/// <summary>The shop's instruments in the browser: added, tried, and read from at the pad, with everything that goes wrong meanwhile.</summary>
public sealed class InstrumentFlowTests : IClassFixture<Site>, IAsyncLifetime
{
    private readonly Site site;
    private readonly Browser browser = new();
    private readonly SimulatedBench bench = new(TimeProvider.System);
    private DeviceServer gauge = null!, tester = null!, recorder = null!;

    public InstrumentFlowTests(Site site) => this.site = site;

    public ValueTask InitializeAsync()
    {
        gauge = DeviceServer.Start(new CompressionGauge(bench), 0);
        tester = DeviceServer.Start(new LeakTester(bench), 0);
        recorder = DeviceServer.Start(new ClampRecorder(bench, TimeProvider.System), 0);
        return ValueTask.CompletedTask;
    }

    public async ValueTask DisposeAsync()
    {
        browser.Dispose();
        await gauge.DisposeAsync();
        await tester.DisposeAsync();
        await recorder.DisposeAsync();
    }

    private const string Engine = """{ "cylinders": 4, "fuel": "petrol", "throttle": "cable", "firingOrder": [1, 3, 4, 2], "displacementCc": 1995, "compressionRatio": 10.2, "gearbox": "automatic", "spec": { "unit": "psi", "nominal": 205, "minimum": 150 } }""";

    private Task<int> JobAsync() => site.JobAsync($$"""{ "engine": {{Engine}} }""");

    private void Add(string name, string kind, DeviceServer server)
    {
        browser.Open(site.Address + "/instruments");
        browser.Type("[name=name]", name);
        browser.Send("[name=kind]", kind);
        browser.Type("[name=address]", $"localhost:{server.Address.Port}");
        browser.Click("[data-add]");
        browser.UntilText("[data-said]", name);
        browser.Click($"[data-test='{name}']");
        browser.UntilText("[data-tried]", "Answers: Zandrik,Simulated");
    }

    [Fact]
    public async Task A_dry_reading_is_taken_with_a_needle_that_climbs_and_its_trace_is_kept()
    {
        bench.Break(3, Core.Records.Fault.ExhaustValve, 1.5);
        browser.Open(site.Address + "/instruments");
        browser.Type("[name=name]", "Far away");
        browser.Type("[name=address]", "8.8.8.8:5025");
        browser.Click("[data-add]");
        browser.Text(".field-problem").ShouldContain("own network only");
        browser.Complaints().ShouldAllBe(c => c.Contains("422", StringComparison.Ordinal));
        Add("Bay gauge", "Compression", gauge);
        browser.Violations().ShouldBeEmpty();
        var job = await JobAsync();
        browser.Open($"{site.Address}/jobs/{job}/dry?cylinder=3");
        browser.Click("[data-take-reading]");
        browser.Until("the reading can be taken", () => browser.All("[data-take-now]").Count > 0);
        browser.Violations().ShouldBeEmpty();
        // Somebody else looks on.
        using var other = new Browser { As = "hallan" };
        other.Open(browser.Url);
        other.Until("watching", () => other.Attribute("[data-take]", "data-watching") == "yes");
        browser.Click("[data-take-now]");
        var seen = new HashSet<string>();
        other.Until("the needle moves for the other too", () => { seen.Add(other.Text("[data-gauge-figure]")); return seen.Count >= 4; });
        browser.Until("back at the pad", () => browser.Url.Contains("/dry", StringComparison.Ordinal));
        var figure = browser.Text(".columns [data-cylinder='3'] .reading");
        double.Parse(figure, System.Globalization.CultureInfo.InvariantCulture).ShouldBeInRange(60, 160);
        browser.Text("[data-trace-of]").ShouldContain("Bay gauge");
        browser.Until("the trace is drawn", () => browser.Script("return document.querySelector('[data-trace-of] img').naturalWidth") is > 0L);
        var reading = (await site.RecordAsync(job))["tests"]![0]!["readings"]![0]!;
        ((string)reading["by"]!).ShouldBe("M. Ostrel", "who read it is the person");
        reading["pulseValues"]!.AsArray().Count.ShouldBe(7);
        browser.Complaints().ShouldBeEmpty();
    }

    [Fact]
    public async Task Trouble_on_the_line_is_said_with_a_way_on_and_typing_works()
    {
        var broken = new SimulatedBench(TimeProvider.System);
        var device = new CompressionGauge(broken);
        await using var server = DeviceServer.Start(device, 0);
        Add("Tired gauge", "Compression", server);
        device.Run(new ClientSession(), "SIM:TRO GARB");
        var job = await JobAsync();
        browser.Open($"{site.Address}/jobs/{job}/take?kind=dry&cylinder=1");
        browser.Send("[name=instrument]", "Tired");
        browser.Click("[data-take-now]");
        browser.UntilText("[data-gauge-says]", "cannot be read");
        device.Run(new ClientSession(), "SIM:TRO DROP");
        browser.Until("it may be tried again", () => (bool)browser.Script("return !document.querySelector('[data-take-now]').disabled")!);
        browser.Click("[data-take-now]");
        browser.UntilText("[data-gauge-says]", "broke off");
        // Nothing cranks: it can be stopped, and nothing is saved.
        device.Run(new ClientSession(), "SIM:TRO NONE");
        browser.Until("it may be tried again", () => (bool)browser.Script("return !document.querySelector('[data-take-now]').disabled")!);
        browser.Click("[name=simulate]");
        browser.Click("[data-take-now]");
        browser.UntilText("[data-gauge-says]", "Crank now");
        // Two want it: the second is told who has it.
        using var hallan = new Browser { As = "hallan" };
        hallan.Open(browser.Url);
        hallan.Send("[name=instrument]", "Tired");
        hallan.Click("[data-take-now]");
        hallan.UntilText("[data-gauge-says]", "M. Ostrel is reading");
        browser.Click("[data-take-stop]");
        browser.UntilText("[data-gauge-says]", "Check whether a reading was saved");
        browser.Click("[data-type-instead]");
        browser.Type("#pad-value", "188");
        browser.Press(OpenQA.Selenium.Keys.Enter);
        browser.Until("it is typed", () => browser.Texts(".columns .reading").Contains("188"));
    }

    [Fact]
    public async Task The_guards_are_asked_before_an_instrument_is()
    {
        Add("Leak tester", "Leak", tester);
        var job = await JobAsync();
        browser.Open($"{site.Address}/jobs/{job}/take?kind=leak-down&cylinder=1");
        browser.Text(".gauge-panel .locked").ShouldContain("TDC on compression");
        browser.All("[data-take-now]").ShouldBeEmpty();
        // With the air on, as its own page saw to it, both gauges are read.
        using var client = await SignedIn.ClientAsync(site.Address);
        async Task DoAsync(string item, string way = "", string done = "true") => (await client.PostFormAsync($"/jobs/{job}/leak-down?handler=Crank&cylinder=1", ("item", item), ("way", way), ("done", done))).EnsureSuccessStatusCode();
        await DoAsync("turned", "1");
        await DoAsync("key");
        await DoAsync("stroke");
        await DoAsync("held", "lock");
        await DoAsync("low");
        await DoAsync("bar");
        await DoAsync("air");
        browser.Reload();
        browser.Click("[data-take-now]");
        browser.Until("back at the step", () => browser.Url.Contains("/leak-down", StringComparison.Ordinal));
        browser.UntilText("[data-lost]", "%");
    }

    [Fact]
    public async Task Idle_is_read_until_two_agree_then_the_snap_and_its_trace_is_shown()
    {
        Add("Running gauge", "Compression", gauge);
        var job = await JobAsync();
        using var client = await SignedIn.ClientAsync(site.Address);
        foreach (var line in RunningLine.All)
        {
            (await client.PostFormAsync($"/jobs/{job}/running?handler=Safe&cylinder=1", ("item", line.Word), ("done", "true"))).EnsureSuccessStatusCode();
        }
        browser.Open($"{site.Address}/jobs/{job}/running?cylinder=1");
        foreach (var told in (string[])["once more", "two agree", ""])
        {
            browser.Click("[data-take-reading]");
            browser.UntilText(".gauge-panel .caution-line", "The engine runs");
            browser.Click("[data-take-now]");
            browser.Until("back at the step", () => browser.Url.Contains("/running", StringComparison.Ordinal));
            browser.UntilText(told.Length > 0 ? "[data-idle]" : "[data-running-table]", told);
        }
        var row = browser.Texts("[data-running-table] tbody tr:first-child td");
        double.Parse(row[3], CultureInfo.InvariantCulture).ShouldBeGreaterThan(1.5 * double.Parse(row[0], CultureInfo.InvariantCulture), "a snap fills the cylinder, idle does not");
        browser.Until("the trace is drawn", () => browser.Script("const i = document.querySelector('.trace img'); return i && i.complete && i.naturalWidth > 0") is true);
    }

    [Fact]
    public async Task A_capture_is_fetched_from_the_recorder_and_judged()
    {
        bench.Break(2, Core.Records.Fault.Rings, 2);
        Add("Clamp box", "Clamp", recorder);
        var job = await JobAsync();
        browser.Open($"{site.Address}/jobs/{job}/relative-compression");
        browser.Click("[data-take-reading]");
        browser.Click("[data-take-now]");
        browser.Until("the capture is judged", () => browser.Url.Contains("relative-compression?capture=", StringComparison.Ordinal));
        var weak = (await site.RecordAsync(job))["tests"]!.AsArray().Single(t => (string)t!["kind"]! == "relative-compression")!["readings"]!.AsArray().MinBy(r => (double)r!["relativePercent"]!)!;
        ((int)weak["cylinder"]!).ShouldBe(2);
    }

    [Fact]
    public async Task A_viewer_takes_nothing_and_another_shop_has_no_instrument_of_ours()
    {
        using var innvik = await SignedIn.ClientAsync(site.Address, "innvik");
        (await innvik.PostFormAsync("/instruments?handler=Add", ("name", "x"), ("kind", "gauge"), ("address", "127.0.0.1:1"))).StatusCode.ShouldBe(System.Net.HttpStatusCode.Forbidden);
        var job = await JobAsync();
        (await innvik.PostFormAsync($"/jobs/{job}/take?kind=dry&cylinder=1", ("instrument", "1"))).StatusCode.ShouldBe(System.Net.HttpStatusCode.Forbidden);
        using var hallan = await SignedIn.ClientAsync(site.Address, "hallan");
        var answer = await hallan.PostFormAsync($"/jobs/{job}/take?kind=dry&cylinder=1", ("instrument", "424242"));
        answer.Content.Headers.ContentType.ShouldBe(new MediaTypeHeaderValue("text/event-stream"));
        (await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken)).ShouldContain("not there any more");
    }
}
