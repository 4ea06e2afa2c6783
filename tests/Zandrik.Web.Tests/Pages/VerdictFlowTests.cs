using System.Text.Json.Nodes;
using OpenQA.Selenium;
using Zandrik.Core.Diagnosis;

namespace Zandrik.Web.Tests.Pages;

/// <summary>A whole job in the browser: from the first reading to a signed verdict, what was found, and how often the shop was right.</summary>
public sealed class VerdictFlowTests : IClassFixture<Site>, IDisposable
{
    private readonly Site site;
    private readonly Browser browser = new();

    public VerdictFlowTests(Site site) => this.site = site;

    public void Dispose() => browser.Dispose();

    private const string Burnt = """
        { "engine": { "cylinders": 4, "fuel": "petrol", "throttle": "cable", "displacementCc": 2000, "lifters": "solid", "spec": { "unit": "psi", "nominal": 190, "minimum": 140 } },
          "tests": [ { "kind": "compression-dry", "unit": "psi", "readings": [ { "cylinder": 1, "value": 190, "repeats": [189] }, { "cylinder": 2, "value": 188 }, { "cylinder": 3, "value": 131, "repeats": [132] }, { "cylinder": 4, "value": 191 } ] },
                     { "kind": "leak-down", "unit": "psi", "supply": 100, "readings": [ { "cylinder": 3, "leakPercent": 60, "heard": [ { "at": "exhaust", "strength": "strong" } ] } ] } ] }
        """;

    private void Awake() => browser.Until("the step is awake", () => browser.Script("return document.documentElement.dataset.step") is "awake");

    [Fact]
    public async Task From_the_first_reading_to_a_signed_verdict_that_outlives_its_sheet()
    {
        var job = int.Parse(browser.OpenJob(site, "Harbour launch 8").Split('/')[2], System.Globalization.CultureInfo.InvariantCulture);
        browser.All("[data-strip]").ShouldBeEmpty("nothing is measured");
        foreach (var (cylinder, figure) in new[] { (1, "205"), (2, "204"), (3, "140"), (4, "206") })
        {
            browser.UntilText("#pad-title", $"cylinder {cylinder}");
            browser.Press(figure + Keys.Enter);
        }
        browser.UntilText("[data-card-headline]", "Cylinder 3, can't tell yet: ");
        browser.UntilText("[data-strip]", "Overall");
        // The plugs lie there already; the leak-down is what decides, and it is one tap from the judgement.
        browser.UntilText("[data-card-next]", "Next: Leak-down on 3");
        browser.Click("[data-strip] a");
        browser.Open($"{site.Address}/jobs/{job}/judgement");
        browser.Click("[data-next=leak-down] a.btn");
        new Uri(browser.Url).PathAndQuery.ShouldBe($"/jobs/{job}/leak-down?cylinder=3");
        Awake();
        browser.Click("[aria-label='Crank at cylinder 3']");
        browser.UntilText("[data-says]", "Crank at cylinder 3.");
        foreach (var word in new[] { "key", "stroke", "chocks", "held", "bar" })
        {
            browser.Click($"[data-guard={word}] button");
            browser.Until($"{word} is ticked", () => browser.All($"[data-guard={word}].ticked").Count == 1);
        }
        browser.Click("[data-air-on]");
        browser.UntilText(".air-on", "Air is on");
        browser.Type("#supply", "100");
        browser.Press(Keys.Tab + "40" + Keys.Enter);
        browser.UntilText("[data-lost]", "60 %");
        var before = browser.Text("[data-card-headline]");
        foreach (var loud in new[] { "nothing", "faint", "clear", "strong" })
        {
            browser.Click("[data-ear=exhaust]");
            browser.Until($"it is kept as {loud}", () => browser.All($"[data-ear=exhaust][data-loud={loud}]").Count == 1);
        }
        browser.Until("listening changes the answer", () => browser.Text("[data-card-headline]") != before);
        browser.Click("[data-silent]");
        browser.UntilText("[data-card-headline]", "ly the exhaust valve");
        browser.Click("[data-air-off]");
        browser.Until("the air is off", () => browser.All(".air-on").All(says => !says.Displayed));

        browser.Open($"{site.Address}/jobs/{job}/verdict");
        browser.Text("#engine-title").ShouldBe("The engine, not signed yet: faulty");
        browser.Text(".owner").ShouldContain("an exhaust valve does not close tightly in cylinder 3");
        browser.Text(".cautions").ShouldContain("licensed technician");
        browser.All("[data-method]").Count.ShouldBeGreaterThan(2);
        browser.Violations().ShouldBeEmpty();
        (browser.Script("return document.activeElement.tagName") as string).ShouldBe("H1", "nothing that signs has the focus");
        browser.Type("#remark", "Puff at the tailpipe too");
        browser.Click("form[action*=Agree] button");
        browser.UntilText("[data-sure]", "Sign this as M. Ostrel?");
        browser.Click("[data-sure] button");
        browser.UntilText("#stamp-title", "Signed: version 1, agreed");
        browser.Text(".stamp").ShouldContain("Puff at the tailpipe too");
        browser.All(".rail .done .step-dot").Count.ShouldBeGreaterThan(0);
        var (headline, owner, methods) = (browser.Text(".headline"), browser.Text(".owner"), browser.Texts("[data-method]"));

        // It leaves the list to decide, and what was signed is the headline everywhere.
        browser.Open(site.Address + "/");
        browser.Text("section[aria-labelledby=group-Signed]").ShouldContain("Harbour launch 8");
        browser.Texts("section[aria-labelledby=group-ToDecide] .bay-title").ShouldNotContain("Harbour launch 8");
        browser.Open($"{site.Address}/jobs/{job}/dry");
        browser.Text("[data-strip]").ReplaceLineEndings(" ").ShouldBe($"Signed by M. Ostrel {headline}");
        browser.Find("[data-card-next]").GetAttribute("data-card-next").ShouldBe("refit", "signed is decided: no test is asked for any more");

        // Another nominal figure on the sheet, and another reading: the signature does not move.
        browser.Open($"{site.Address}/jobs/{job}/intake");
        browser.Type("#nominal", "150");
        browser.Click(".form-end button");
        browser.UntilText("#pad-title", "Dry");
        browser.Open($"{site.Address}/jobs/{job}/verdict");
        browser.All("[data-changed]").Count.ShouldBe(1);
        (browser.Text(".headline"), browser.Text(".owner")).ShouldBe((headline, owner));
        browser.Texts("[data-method]").ShouldBe(methods);

        // Opened again: what was signed stays in the list, and the next one is version 2.
        browser.Click("form[action*=Reopen] button, details:has(form[action*=Reopen]) summary");
        browser.Click("form[action*=Reopen] button");
        browser.UntilText("#problem", "Say why");
        browser.Type("#why", "The sheet was wrong");
        browser.Click("form[action*=Reopen] button");
        browser.UntilText("#engine-title", "not signed yet");
        browser.Click("form[action*=Agree] button");
        browser.Click("[data-sure] button");
        browser.UntilText("#stamp-title", "Signed: version 2, agreed");
        browser.Open($"{site.Address}/jobs/{job}/verdict?version=1");
        browser.Text(".headline").ShouldBe(headline);
        browser.Text(".stamp").ShouldContain("The sheet was wrong");
        browser.Open($"{site.Address}/jobs/{job}/sheet");
        browser.Text(".sheet").ShouldContain("Signed by M. Ostrel");
        browser.Complaints().ShouldAllBe(c => c.Contains("422", StringComparison.Ordinal));
    }

    [Fact]
    public async Task Overruled_with_a_reason_then_found_and_counted()
    {
        var job = await site.JobAsync(Burnt);
        browser.Open($"{site.Address}/jobs/{job}/verdict");
        Awake();
        browser.Click(".overrule summary");
        browser.Script("document.querySelector('#says-3').value = 'intake-valve'");
        browser.Click("form[action*=Overrule] button");
        browser.UntilText("#problem", "Say why");
        browser.Value("#says-3").ShouldBe("intake-valve");
        browser.Type("#reason", "The lash was tight when I looked");
        browser.Click("form[action*=Overrule] button");
        browser.UntilText("[data-sure]", "Sign your own answer");
        browser.Value("#reason").ShouldBe("The lash was tight when I looked");
        browser.Click("[data-sure] button");
        browser.UntilText("#stamp-title", "version 1, overruled");
        browser.Text("[data-people='3']").ShouldContain("the intake valve");
        browser.Text(".owner").ShouldContain("Our technician's conclusion: an intake valve");
        browser.Violations().ShouldBeEmpty();

        // The engine is open.
        Awake();
        browser.Script("document.querySelector('#fault').value = 'exhaust-valve'");
        browser.Click("form[action*=Found] button");
        browser.UntilText("#problem", "Say where");
        browser.Value("#fault").ShouldBe("exhaust-valve");
        browser.Script("document.querySelector('#place').value = '3'");
        browser.Type("#says", "burnt at the edge");
        browser.Click("form[action*=Found] button");
        browser.UntilText("[data-found='3']", "burnt at the edge");
        browser.Attribute("[data-found='3'] [data-right]", "data-right").ShouldBe("yes");
        ((string)(await site.RecordAsync(job))["found"]![0]!["fault"]!).ShouldBe("exhaust-valve");

        browser.Open($"{site.Address}/shop/outcomes");
        var line = browser.Texts("tr[data-fault='exhaust-valve'] td");
        // One of the demo data, which was agreed to, and this one.
        (line[0], line[1], line[2]).ShouldBe(("2", "2 (100 %)", "1 (50 %)"));
        browser.Violations().ShouldBeEmpty();

        browser.Open($"{site.Address}/jobs/{job}/verdict");
        Awake();
        browser.Click("[data-found='3'] form button");
        browser.Until("it is taken back", () => browser.All("[data-found='3']").Count == 0);
        (await site.RecordAsync(job))["found"].ShouldBeNull();
    }

    [Fact]
    public async Task What_changed_since_it_was_looked_at_is_not_signed()
    {
        var job = await site.JobAsync(Burnt);
        using var client = await SignedIn.ClientAsync(site.Address);
        var answer = await client.PostFormAsync($"/jobs/{job}/verdict?handler=Agree", [("seen", "0123"), ("entry", Guid.NewGuid().ToString())]);
        ((int)answer.StatusCode).ShouldBe(422);
        (await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken)).ShouldContain("changed since you looked");
        // Nothing measured, nothing to sign.
        var empty = await site.JobAsync("""{ "engine": { "cylinders": 4 } }""");
        ((int)(await client.PostFormAsync($"/jobs/{empty}/verdict?handler=Agree", [("seen", ""), ("entry", "")])).StatusCode).ShouldBe(422);
    }

    [Fact]
    public async Task Each_figure_opens_its_formula()
    {
        var job = await site.JobAsync(Burnt);
        browser.Open($"{site.Address}/jobs/{job}/judgement?cylinder=3");
        Awake();
        browser.Click("tr[data-finding=dry] .why");
        browser.UntilText("#explained", "ln(131.5 /");
        browser.Text("#explained").ShouldContain("the mean of 2 readings");
        browser.Text("#explained").ShouldContain("weight");
        browser.Click("[data-method=percent-of-highest] .why");
        browser.UntilText("#explained", "(191 − 131) / 191 = 31.4 %");
        browser.Violations().ShouldBeEmpty();
        browser.Click("#explained a");
        browser.Until("it is closed", () => browser.All("#explained").Count == 0);
        // From the card beside a step too.
        browser.Open($"{site.Address}/jobs/{job}/leak-down?cylinder=3");
        browser.Click("[data-suspect] .why");
        browser.UntilText("#explained", "probability");
        browser.Complaints().ShouldBeEmpty();
        // What a test is worth, where one is still worth something.
        var open = await site.JobAsync("""{ "engine": { "cylinders": 4 }, "tests": [ { "kind": "compression-dry", "unit": "psi", "readings": [ { "cylinder": 1, "value": 190 }, { "cylinder": 2, "value": 188 }, { "cylinder": 3, "value": 131 }, { "cylinder": 4, "value": 191 } ] } ] }""");
        browser.Open($"{site.Address}/jobs/{open}/judgement");
        Awake();
        browser.Click("[data-next] .why");
        browser.UntilText("#explained", "bit a minute");
    }

    [Fact]
    public async Task The_page_and_the_API_say_the_same()
    {
        var job = await site.JobAsync(Burnt);
        browser.Open($"{site.Address}/jobs/{job}/judgement?cylinder=3");
        var answer = await site.Api.PostAsync(new Uri("/api/v1/diagnosis", UriKind.Relative), new StringContent((await site.RecordAsync(job)).ToJsonString(), System.Text.Encoding.UTF8, "application/json"), TestContext.Current.CancellationToken);
        var said = JsonNode.Parse(await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken))!;
        browser.Text("[data-engine]").ShouldBe((string)said["engine"]!["headline"]!);
        var lead = said["cylinders"]![2]!["suspects"]![0]!;
        browser.All("details.suspect")[0].GetAttribute("data-fault").ShouldBe((string)lead["fault"]!);
        // In words on the page; the figures stand behind each.
        browser.Texts("details.suspect[open] tr[data-finding] .why").ShouldBe(lead["evidence"]!.AsArray().Select(e => FaultWords.Strength((double)e!["weightDb"]!)));
    }

    [Fact]
    public async Task The_job_sheet_and_its_PDF_carry_the_verdict_that_stands()
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        var page = await client.GetStringAsync(new Uri("/jobs/2/sheet", UriKind.Relative), TestContext.Current.CancellationToken);
        page.ShouldContain("Verdict, version 1");
        page.ShouldContain("Signed by M. Ostrel");
        page.ShouldContain("the exhaust valve");
        var pdf = await client.GetByteArrayAsync(new Uri("/jobs/2/sheet?handler=Pdf", UriKind.Relative), TestContext.Current.CancellationToken);
        System.Text.Encoding.ASCII.GetString(pdf, 0, 5).ShouldBe("%PDF-");
        // Nothing signed, nothing said of it.
        (await client.GetStringAsync(new Uri("/jobs/8/sheet", UriKind.Relative), TestContext.Current.CancellationToken)).ShouldNotContain("Verdict, version");
    }

    [Fact]
    public async Task A_viewer_reads_verdicts_and_outcomes_and_signs_nothing()
    {
        var job = await site.JobAsync(Burnt);
        using var viewer = await SignedIn.ClientAsync(site.Address, "innvik");
        var page = await viewer.GetStringAsync(new Uri($"/jobs/{job}/verdict", UriKind.Relative), TestContext.Current.CancellationToken);
        page.ShouldContain("signing is a technician");
        page.ShouldNotContain("handler=Agree");
        page.ShouldNotContain("handler=Found");
        foreach (var handler in new[] { "Agree", "Overrule", "Reopen", "Found", "Withdraw" })
        {
            ((int)(await viewer.PostFormAsync($"/jobs/{job}/verdict?handler={handler}", ("seen", ""), ("place", "3"), ("fault", "rings"))).StatusCode).ShouldBe(403, handler);
        }
        var outcomes = await viewer.GetStringAsync(new Uri("/shop/outcomes", UriKind.Relative), TestContext.Current.CancellationToken);
        outcomes.ShouldContain("the exhaust valve");
        outcomes.ShouldNotContain("/shop/tokens", Case.Sensitive, "what is the foreman's is not offered");
    }

    [Theory]
    [InlineData("", "rings", "Say where")]
    [InlineData("9", "rings", "Say where")]
    [InlineData("2", "", "Say what was found in cylinder 2")]
    [InlineData("2", "gasket-adjacent:4", "Say what was found in cylinder 2")]
    [InlineData("2", "cam-timing", "Say what was found in cylinder 2")]
    [InlineData("engine", "rings", "Say what was found in the engine")]
    public async Task What_was_found_is_asked_for_until_it_makes_sense(string place, string fault, string says)
    {
        var job = await site.JobAsync(Burnt);
        using var client = await SignedIn.ClientAsync(site.Address);
        var answer = await client.PostFormAsync($"/jobs/{job}/verdict?handler=Found", ("place", place), ("fault", fault), ("says", "kept as typed"), ("entry", "x"));
        ((int)answer.StatusCode).ShouldBe(422);
        var page = await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken);
        page.ShouldContain(says);
        page.ShouldContain("kept as typed");
    }

    [Fact]
    public async Task A_version_that_is_not_there_is_missing()
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        ((int)(await client.GetAsync(new Uri("/jobs/2/verdict?version=7", UriKind.Relative), TestContext.Current.CancellationToken)).StatusCode).ShouldBe(404);
        ((int)(await client.GetAsync(new Uri("/jobs/2/verdict?version=1", UriKind.Relative), TestContext.Current.CancellationToken)).StatusCode).ShouldBe(200);
    }

    [Fact]
    public async Task A_start_signs_for_the_demo_data_and_for_nobody_else()
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        Task<HttpResponseMessage> SignedAsync(int job) => client.GetAsync(new Uri($"/jobs/{job}/verdict?version=1", UriKind.Relative), TestContext.Current.CancellationToken);
        await client.PostFormAsync("/jobs/6/verdict?handler=Found", ("place", "2"), ("fault", "rings"), ("entry", "x"));
        await Web.Front.Preparation.PrepareAsync(site.Owner, site.Connection, demo: true, TimeProvider.System);
        ((int)(await SignedAsync(2)).StatusCode).ShouldBe(200);
        ((int)(await SignedAsync(6)).StatusCode).ShouldBe(404, "what somebody finds does not sign what nobody signed");
    }
}
