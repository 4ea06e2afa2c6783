using System.Net;

namespace Zandrik.Web.Tests.Pages;

/// <summary>From the options to a choice, to the owner's page in a browser that nobody signed in at.</summary>
public sealed class DecideFlowTests : IClassFixture<Site>, IDisposable
{
    private const string Valve = """
        { "vehicle": { "label": "Lamp van" }, "engine": { "name": "1.8 Kestrel", "cylinders": 4, "fuel": "petrol", "layout": "inline", "lifters": "hydraulic", "displacementCc": 1800, "spec": { "unit": "psi", "nominal": 190 } },
          "tests": [ { "kind": "compression-dry", "unit": "psi", "readings": [ { "cylinder": 1, "value": 190 }, { "cylinder": 2, "value": 188 }, { "cylinder": 3, "value": 131 }, { "cylinder": 4, "value": 191 } ] },
                     { "kind": "leak-down", "unit": "psi", "supply": 100, "readings": [ { "cylinder": 3, "leakPercent": 85, "heard": [ { "at": "exhaust", "strength": "strong" } ] } ] } ] }
        """;

    private readonly Site site;
    private readonly Browser browser = new();

    public DecideFlowTests(Site site) => this.site = site;

    public void Dispose() => browser.Dispose();

    private void Go(int job)
    {
        browser.Open($"{site.Address}/jobs/{job}/decide");
        browser.Until("the step is awake", () => browser.Script("return document.documentElement.dataset.step ?? 'awake'") is "awake");
    }

    [Fact]
    public async Task An_option_is_chosen_with_its_reason_and_the_owner_sees_it_without_a_sign_in_until_it_is_revoked()
    {
        var job = await site.JobAsync(Valve);
        browser.Open($"{site.Address}/jobs/{job}/verdict");
        browser.Click(".rail a[href$='/decide']");
        browser.UntilText("[data-headline]", "Cheapest on average: doing the valves with the head off");
        browser.Text("[data-before]").ShouldStartWith("No further test would change what is best.");
        browser.All("[data-option=top-end-1] [data-best]").Count.ShouldBe(1);
        browser.Text("[data-option=top-end-1] [data-expected]").ShouldContain("kr", customMessage: "the demo shop has a rate");
        browser.Violations().ShouldBeEmpty();

        // Something else than the cheapest needs its reason; what was typed stays.
        browser.Script("document.querySelector('[data-option=leave] form details').open = true");
        browser.Click("[data-choose=leave]");
        browser.UntilText("#problem", "Say why it is not the cheapest on average");
        browser.Send("[data-option=leave] input[name=reason]", "Sold for parts next week.");
        browser.Click("[data-choose=leave]");
        browser.UntilText("[data-decided=leave]", "Decided: Run on and watch.");
        browser.Text("[data-decided=leave]").ShouldContain("Sold for parts next week.");
        browser.Click("[data-choose=top-end-1]");
        browser.UntilText("[data-decided=top-end-1]", "Decided: Top end.");

        browser.Click("[data-make-link]");
        browser.Until("the link is shown", () => browser.All("[data-new-link]").Count == 1);
        var link = browser.Text("[data-new-link]");
        browser.Open($"{site.Address}/jobs/{job}/decide");
        browser.All("[data-new-link]").ShouldBeEmpty("it is shown once");
        using (var owner = new Browser { As = null })
        {
            owner.Open(link);
            owner.Text("h1").ShouldBe("Lamp van");
            owner.All("[data-owners-option]").Count.ShouldBeInRange(2, 3);
            owner.Text(".owners-option.chosen h3").ShouldBe("Repair the valves, with the cylinder head off: this is what we would do");
            owner.Text(".owners-option.chosen [data-figure]").ShouldStartWith("about ");
            owner.All("nav, .topbar a[href='/jobs/new']").ShouldBeEmpty("nothing of the shop");
            owner.Violations().ShouldBeEmpty();
            owner.Size(390, 844, touch: true);
            owner.Open(link);
            owner.Script("return document.documentElement.scrollWidth <= innerWidth").ShouldBe(true);
        }
        using var anyone = new HttpClient();
        using var answer = await anyone.GetAsync(new Uri(link), TestContext.Current.CancellationToken);
        (answer.StatusCode, string.Join(',', answer.Headers.GetValues("X-Robots-Tag")), answer.Headers.CacheControl!.NoStore).ShouldBe((HttpStatusCode.OK, "noindex, nofollow", true));
        browser.Click("[data-revoke]");
        browser.UntilText("#links-title ~ ul", "revoked");
        (await anyone.GetAsync(new Uri(link), TestContext.Current.CancellationToken)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await anyone.GetAsync(new Uri(link[..^4] + "0000"), TestContext.Current.CancellationToken)).StatusCode.ShouldBe(HttpStatusCode.NotFound, "nobody is told which");

        browser.Open($"{site.Address}/jobs/{job}/owner-options");
        browser.All("[data-owners-option]").Count.ShouldBeInRange(2, 3);
        browser.Complaints().Where(c => !c.Contains("422", StringComparison.Ordinal)).ShouldBeEmpty();
    }

    [Fact]
    public async Task The_owners_side_figures_and_house_rules_are_typed_checked_and_weighed()
    {
        var job = await site.JobAsync(Valve);
        Go(job);
        var before = browser.Text("[data-option=top-end-1] [data-expected]");
        browser.Send("#worth", "minus ten");
        browser.Send("#km-a-year", "10000");
        browser.Click("[data-weigh]");
        browser.UntilText("#worth-problem", "Write a number from 0");
        (browser.Value("#worth"), browser.Value("#km-a-year")).ShouldBe(("minus ten", "10000"), "nothing typed is lost");
        browser.Script("document.getElementById('worth').value = '9000'");
        browser.Click("[data-weigh]");
        browser.UntilText(".done-note", "Saved. The options are weighed with it.");
        browser.Text("[data-option=top-end-1]").ShouldContain("10 years at 10000 km a year");
        browser.Text("[data-option=top-end-1]").ShouldContain("% of what the vehicle is worth");

        browser.Script("document.querySelector('[data-figure=top-end]').open = true");
        browser.Send("[data-figure=top-end] input[name=minutes]:nth-of-type(1)", "900");
        browser.Click("[data-figure=top-end] button");
        browser.UntilText("[data-figure=top-end] .field-problem", "Write the likely figure alone, or low, likely and high in that order.");
        browser.Script("const i = document.querySelectorAll('[data-figure=top-end] input[name=minutes]'); i[0].value = '900'; i[1].value = '1000'; i[2].value = '1200'");
        browser.Click("[data-figure=top-end] button");
        browser.UntilText(".done-note", "Saved for every engine of the shop.");
        browser.Text("[data-figure=top-end] summary").ShouldContain("the shop's own");
        browser.Text("[data-option=top-end-1] [data-expected]").ShouldNotBe(before);
        browser.Script("document.querySelector('[data-figure=top-end]').open = true");
        browser.Click("[data-figure=top-end] button");
        browser.UntilText(".done-note", "Back to the rule.");

        browser.Script("document.getElementById('family').closest('details').open = true; document.getElementById('repair').value = 'top-end'; document.getElementById('family').value = 'kestrel'");
        browser.Send("#says", "heads go to Marren.");
        browser.Script("document.getElementById('says').form.querySelector('button').click()");
        browser.UntilText("[data-option=top-end-1].struck [data-why]", "This shop does not do it: heads go to Marren.");
        browser.All("[data-choose=top-end-1]").ShouldBeEmpty();
        browser.Script("document.querySelector('form[action$=Unstrike] button').click()");
        browser.Until("it is allowed again", () => browser.All("[data-choose=top-end-1]").Count == 1);
        browser.Complaints().Where(c => !c.Contains("422", StringComparison.Ordinal)).ShouldBeEmpty();
    }

    [Fact]
    public async Task A_test_that_still_pays_is_offered_first_and_says_what_it_saves()
    {
        var job = await site.JobAsync(Valve.Replace(""""
            { "kind": "leak-down", "unit": "psi", "supply": 100, "readings": [ { "cylinder": 3, "leakPercent": 85, "heard": [ { "at": "exhaust", "strength": "strong" } ] } ] }
            """".Trim(), """{ "kind": "crank-sound", "sound": "uneven" }""", StringComparison.Ordinal));
        Go(job);
        browser.Text("[data-before]").ShouldStartWith("Before you decide: ");
        browser.Attribute("[data-next-test]", "href").ShouldContain("/leak-down?cylinder=3");
        browser.Open($"{site.Address}/jobs/{job}/judgement");
        browser.Text("body").ShouldContain(" on average: it decides between ");
    }
}
