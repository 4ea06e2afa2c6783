using System.IO.Compression;
using System.Net;
using System.Net.Http.Headers;

namespace Zandrik.Web.Tests.Pages;

/// <summary>From a verdict to a choice, to the owner, to what was done, to the engine's life, the fleet, and what leaves the shop.</summary>
public sealed class LifeFlowTests : IClassFixture<Site>, IDisposable
{
    private readonly Site site;
    private readonly Browser browser = new();

    public LifeFlowTests(Site site) => this.site = site;

    public void Dispose() => browser.Dispose();

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private static string Tested(string vehicle, string at, int km, string values, string? leak = null) => $$"""
        { "vehicle": { "label": "{{vehicle}}", "odometer": { "value": {{km}}, "unit": "km" } }, "engine": { "name": "1.8 Kestrel", "serial": "S-{{vehicle}}", "cylinders": 4, "fuel": "petrol", "layout": "inline", "lifters": "hydraulic", "displacementCc": 1800, "spec": { "unit": "psi", "nominal": 190, "minimum": 140 } },
          "tests": [ { "kind": "compression-dry", "at": "{{at}}", "unit": "psi", "tester": { "label": "Yard gauge" }, "conditions": { "engineTemperature": "warm", "throttle": "open", "battery": "good" }, "readings": [ {{string.Join(", ", values.Split(' ').Select((v, i) => $"{{ \"cylinder\": {i + 1}, \"value\": {v} }}"))}} ] }
                     {{(leak is null ? "" : $", {{ \"kind\": \"leak-down\", \"at\": \"{at}\", \"unit\": \"psi\", \"supply\": 100, \"readings\": [ {leak} ] }}")}} ] }
        """;

    private const string LoudExhaust = """{ "cylinder": 3, "leakPercent": 85, "heard": [ { "at": "exhaust", "strength": "strong" } ] }""";

    private async Task<(int Job, string Engine)> EngineAsync(string vehicle)
    {
        await site.JobAsync(Tested(vehicle, "2024-05-01T08:00:00Z", 90_000, "188 187 186 189"));
        var job = await site.JobAsync(Tested(vehicle, "2026-05-01T08:00:00Z", 130_000, "185 184 128 186", LoudExhaust));
        return (job, EngineOf(job));
    }

    // The address of the engine of a job, from the page that says what was done on it.
    private string EngineOf(int job)
    {
        browser.Open($"{site.Address}/jobs/{job}/decide");
        return browser.Attribute("#done-title ~ ul a[href*='/vehicles/engines/']", "href");
    }

    [Fact]
    public async Task From_verdict_to_choice_to_what_was_done_to_the_engines_life_and_the_fleet()
    {
        var (job, engine) = await EngineAsync("Reed van 1");
        browser.Open($"{site.Address}/fleet?q=Reed+van+1");
        browser.Text("[data-engine]").ShouldContain("under the minimum");
        browser.Open($"{site.Address}/jobs/{job}/verdict");
        browser.Script("[...document.querySelectorAll('main button')].find(b => b.textContent.startsWith('I agree')).click()");
        browser.Click("[data-sure] button[name=sure]");
        browser.Until("it is signed", () => browser.All("[data-sure]").Count == 0 && browser.Text("main").Contains("Signed and locked", StringComparison.Ordinal));
        browser.Open($"{site.Address}/fleet?show=undecided&q=Reed+van+1");
        browser.Click("[data-undecided]");
        browser.Click("[data-choose=top-end-1]");
        browser.UntilText("[data-decided=top-end-1]", "Decided: Top end.");

        // What was done, with a slip first: everything typed stays.
        browser.Click("[data-done-form] > summary");
        browser.Value("#done-option").ShouldBe("top-end-1", "what was chosen stands first");
        browser.Send("#done-cylinders", "9");
        browser.Send("#done-hours", "8,5");
        browser.Click("[data-save-done]");
        browser.UntilText("#done-cylinders-problem", "Write cylinder numbers from 1 to 4");
        (browser.Value("#done-hours"), browser.Value("#done-cylinders")).ShouldBe(("8,5", "9"));
        browser.Script("document.getElementById('done-cylinders').value = '3'; document.getElementById('done-right').value = 'yes'");
        browser.Click("[data-save-done]");
        browser.UntilText("[data-repair=top-end-1]", "Took 8 h 30 min, planned ");
        browser.Text("[data-repair=top-end-1]").ShouldContain("It fixed the engine.");
        browser.Click("[data-fix]");
        browser.Until("the entry is in the form", () => browser.Value("#done-hours") is "8.5" or "8,5");
        browser.Script("document.getElementById('done-hours').value = '9'");
        browser.Click("[data-save-done]");
        browser.UntilText("[data-repair=top-end-1]", "Took 9 h");
        browser.All("[data-repair]").Count.ShouldBe(1, "the slip was put right, not added to");
        browser.Violations().ShouldBeEmpty();

        browser.Open($"{site.Address}/shop/outcomes");
        browser.Text("tr[data-repair=top-end-1]").ShouldContain("8 h 45 min", customMessage: "this one and the demo's");
        browser.Open(engine);
        browser.Text("[data-again]").ShouldContain("Retest it now: repaired since the last test");
        browser.Text(".life-keys").ShouldContain("Top end");
        await site.JobAsync(Tested("Reed van 1", DateTimeOffset.UtcNow.AddMinutes(1).ToString("O"), 131_000, "185 184 187 186"));
        browser.Open(engine);
        browser.Text("[data-stands]").ShouldContain("over the maker’s minimum");
        browser.Text("[data-again]").ShouldContain("Retest by");
        browser.All("svg.life path.cylinder").Count.ShouldBeGreaterThan(2);
        browser.Violations().ShouldBeEmpty();
        browser.Click("[data-compare]");
        browser.UntilText("[data-says]", "Cylinder 3 differs by more than the gauges can explain.");
        browser.Texts("[data-compared='3'] td")[4].ShouldBe("yes");
        browser.Complaints().Where(c => !c.Contains("422", StringComparison.Ordinal)).ShouldBeEmpty();
    }

    [Fact]
    public async Task An_odometer_that_goes_back_is_asked_about_kept_and_shown()
    {
        await site.JobAsync(Tested("Reed van 2", "2024-05-01T08:00:00Z", 90_000, "188 187 186 189"));
        await site.JobAsync(Tested("Reed van 2", "2025-05-01T08:00:00Z", 110_000, "187 187 186 188"));
        var job = await site.JobAsync(Tested("Reed van 2", "2026-05-01T08:00:00Z", 3_000, "186 186 185 187"));
        browser.Open(EngineOf(job));
        browser.Text($"[data-odometer='{job}']").ShouldContain("that does not fit the odometer of the other jobs");
        browser.Text(".life-table tbody tr").ShouldContain("about ");
        browser.Click("[data-replaced]");
        browser.UntilText(".done-note", "the distance goes on from where the old one was");
        browser.All("[data-odometer]").ShouldBeEmpty();
        browser.Text(".life-table tbody tr").ShouldContain("130");
        browser.Script("document.querySelector('details.gone').open = true");
        browser.Click("[data-gone-save]");
        browser.UntilText("[data-gone]", "Sold on");
        browser.Text("[data-again]").ShouldContain("No retest due: no longer in the shop’s care.");
        browser.Script("document.querySelector('details.gone').open = true");
        browser.Click("[data-back]");
        browser.UntilText(".done-note", "Back in the shop’s care.");
    }

    [Fact]
    public async Task An_odometer_that_goes_back_is_asked_about_while_the_vehicle_is_here()
    {
        await site.JobAsync(Tested("Reed van 6", "2024-05-01T08:00:00Z", 90_000, "188 187 186 189"));
        var before = await site.JobAsync(Tested("Reed van 6", "2025-05-01T08:00:00Z", 110_000, "187 187 186 188"));
        browser.Open(EngineOf(before));
        browser.Click(".page-head .btn-primary");
        browser.Until("a new job on it", () => browser.Url.Contains("/jobs/new?vehicle=", StringComparison.Ordinal));
        browser.Value("#vehicle").ShouldBe("Reed van 6");
        browser.Send("#odometer", "11500");
        browser.Click("main .form-end .btn-primary");
        browser.UntilText("#odometer-problem", $"Job {before:0000} of 2025-05-01 says 110");
        browser.Text("#odometer-problem").ShouldContain("and this is less");
        browser.Value("#odometer").ShouldBe("11500", "nothing typed is lost");
        browser.Violations().ShouldBeEmpty();
        // Put right, it is saved; a figure that does not fit either is another question.
        browser.Type("#odometer", "1200");
        browser.Click("main .form-end .btn-primary");
        browser.UntilText("#odometer-problem", "and this is less");
        browser.Click("[data-odometer-question] input[value=replaced]");
        browser.Click("main .form-end .btn-primary");
        browser.Until("the job is open", () => ((string)browser.Script("return location.pathname")!).EndsWith("/plan", StringComparison.Ordinal));
        browser.Open(EngineOf(before));
        browser.All("[data-odometer]").ShouldBeEmpty("it was answered at intake");

        // Saved again without an answer it is kept as typed, and the engine's page asks.
        browser.Open($"{site.Address}/jobs/{before}/intake");
        browser.Type("#odometer", "1100");
        browser.Click("main .form-end .btn-primary");
        browser.UntilText("#odometer-problem", "and this is less");
        browser.Click("main .form-end .btn-primary");
        browser.Until("it is saved", () => ((string)browser.Script("return location.pathname")!).EndsWith($"/jobs/{before}/dry", StringComparison.Ordinal));
        browser.Open(EngineOf(before));
        browser.All("[data-odometer]").Count.ShouldBe(1);
    }

    [Fact]
    public async Task A_calendar_opens_by_its_secret_address_until_it_is_revoked_and_the_rule_is_the_foremans()
    {
        browser.Open($"{site.Address}/fleet");
        browser.Script("document.getElementById('months').value = 'soon'");
        browser.Click("[data-rule]");
        browser.UntilText("#months-problem", "Write a number from 1 to 120");
        browser.Value("#months").ShouldBe("soon");
        browser.Script("document.getElementById('months').value = '6'");
        browser.Click("[data-rule]");
        browser.UntilText(".done-note", "Saved. Due dates follow it.");
        browser.Click("[data-make-feed]");
        browser.Until("the address is shown", () => browser.All("[data-new-feed]").Count == 1);
        var feed = browser.Text("[data-new-feed]");
        using var anyone = new HttpClient();
        using var answer = await anyone.GetAsync(new Uri(feed), Cancel);
        answer.Content.Headers.ContentType!.MediaType.ShouldBe("text/calendar");
        var calendar = Ical.Net.Calendar.Load(await answer.Content.ReadAsStringAsync(Cancel))!;
        var pier = calendar.Events.Single(e => e.Summary == "Retest Pier sweeper");
        pier.Start!.HasTime.ShouldBeFalse("a day, not an hour");
        pier.Url!.ToString().ShouldContain("/vehicles/engines/");
        calendar.Events.ShouldNotContain(e => e.Summary!.Contains("Merle", StringComparison.Ordinal), "it was sold");
        (await anyone.GetAsync(new Uri(feed.Replace("/calendar/", "/calendar/0", StringComparison.Ordinal)), Cancel)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        browser.Click("[data-revoke-feed]");
        browser.UntilText(".done-note", "Revoked");
        (await anyone.GetAsync(new Uri(feed), Cancel)).StatusCode.ShouldBe(HttpStatusCode.NotFound);

        using var viewer = new Browser { As = "innvik" };
        viewer.Open($"{site.Address}/fleet");
        viewer.All("[data-rule], [data-make-feed]").ShouldBeEmpty();
        viewer.Open($"{site.Address}/");
        viewer.Until("the bays say what is due", () => viewer.All("[data-due]").Count == 1);
    }

    [Fact]
    public async Task A_sheet_for_selling_is_made_once_and_known_again_by_its_code_without_a_sign_in()
    {
        var (job, _) = await EngineAsync("Reed van 3");
        browser.Open($"{site.Address}/jobs/{job}/sheet");
        browser.Click("a[href$='/selling']");
        browser.UntilText("[data-code]", "none yet, this is a draft");
        browser.Click("[data-make-sheet]");
        browser.UntilText(".done-note", "Created and locked");
        var code = browser.Text("[data-code]");
        browser.Text(".selling").ShouldContain("of minimum");
        browser.Text("[data-cost]").ShouldContain("kr");
        browser.Violations().ShouldBeEmpty();
        var pdf = browser.Attribute("a[href*='handler=Pdf']", "href");
        var bytes = (byte[])Convert.FromBase64String((string)browser.Script($"const r = new XMLHttpRequest(); r.open('GET', '{pdf}', false); r.overrideMimeType('text/plain; charset=x-user-defined'); r.send(); return btoa([...r.responseText].map(c => String.fromCharCode(c.charCodeAt(0) & 255)).join(''))")!);
        System.Text.Encoding.ASCII.GetString(bytes, 0, 5).ShouldBe("%PDF-");

        using var buyer = new Browser { As = null };
        buyer.Open($"{site.Address}/check");
        buyer.Send("[name=code]", code.ToLowerInvariant().Replace("-", " ", StringComparison.Ordinal));
        buyer.Click(".check-code button");
        buyer.UntilText("[data-genuine=yes]", "Quillmoor Ferry Workshop made it on");
        buyer.Text(".selling").ShouldContain("Reed van 3");
        buyer.All("nav[aria-label=Main]").ShouldBeEmpty("nothing else of the shop");
        buyer.Violations().ShouldBeEmpty();
        buyer.Open($"{site.Address}/check?code=AAAA-AAAA-AAAA-AAAA");
        buyer.UntilText("[data-genuine=unknown]", "No sheet has this code");
        buyer.Size(390, 844, touch: true);
        buyer.Open($"{site.Address}/check?code={code}");
        buyer.Script("return document.documentElement.scrollWidth <= innerWidth").ShouldBe(true);
    }

    [Fact]
    public async Task The_archive_is_made_with_progress_and_its_download_goes_on_where_it_broke_off()
    {
        browser.Open($"{site.Address}/shop/archive");
        browser.Click("[data-make-archive]");
        browser.Until("it is made", () => browser.All("[data-archive=done]").Count == 1);
        browser.Violations().ShouldBeEmpty();
        var file = new Uri(browser.Attribute("[data-archive-file]", "href"), UriKind.RelativeOrAbsolute);
        file = file.IsAbsoluteUri ? file : new Uri(site.Address + file);
        using var signedIn = await SignedIn.ClientAsync(site.Address);
        var whole = await signedIn.GetByteArrayAsync(file, Cancel);
        using var ask = new HttpRequestMessage(HttpMethod.Get, file) { Headers = { Range = new RangeHeaderValue(100, null) } };
        using var rest = await signedIn.SendAsync(ask, Cancel);
        rest.StatusCode.ShouldBe(HttpStatusCode.PartialContent);
        (await rest.Content.ReadAsByteArrayAsync(Cancel)).AsSpan().SequenceEqual(whole.AsSpan(100)).ShouldBeTrue();
        using var zip = new ZipArchive(new MemoryStream(whole));
        zip.Entries.Count.ShouldBeGreaterThan(30);
        using var technician = await SignedIn.ClientAsync(site.Address, "hallan");
        (await technician.GetAsync(file, Cancel)).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
    }
}
