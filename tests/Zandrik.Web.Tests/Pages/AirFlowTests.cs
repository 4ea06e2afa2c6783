namespace Zandrik.Web.Tests.Pages;

/// <summary>Where the air goes, in the browser: from the judgement to the areas, and the model turned by sliders.</summary>
public sealed class AirFlowTests : IClassFixture<Site>, IDisposable
{
    private const string Engine = """ "engine": { "cylinders": 4, "fuel": "petrol", "throttle": "cable", "displacementCc": 2000, "spec": { "unit": "psi", "nominal": 190, "minimum": 140 } } """;

    private readonly Site site;
    private readonly Browser browser = new();

    public AirFlowTests(Site site) => this.site = site;

    public void Dispose() => browser.Dispose();

    [Fact]
    public async Task One_kind_of_test_fits_many_leaks_two_find_it_and_sliders_turn_the_model()
    {
        var job = await site.JobAsync($$"""{ {{Engine}}, "tests": [ { "kind": "compression-dry", "unit": "psi", "readings": [ { "cylinder": 1, "value": 190 }, { "cylinder": 2, "value": 188 }, { "cylinder": 3, "value": 131 }, { "cylinder": 4, "value": 191 } ] } ] }""");
        browser.Open($"{site.Address}/jobs/{job}/judgement");
        browser.All("[data-air]").ShouldBeEmpty();
        browser.Open($"{site.Address}/jobs/{job}/air");
        browser.Text("[data-says]").ShouldStartWith("Readings of two kinds of test are needed");

        var second = await site.JobAsync($$"""
            { {{Engine}}, "tests": [ { "kind": "compression-dry", "unit": "psi", "readings": [ { "cylinder": 1, "value": 190 }, { "cylinder": 2, "value": 188 }, { "cylinder": 3, "value": 131 }, { "cylinder": 4, "value": 191 } ] },
              { "kind": "leak-down", "unit": "psi", "supply": 100, "readings": [ { "cylinder": 1, "leakPercent": 9, "heard": [ { "at": "nowhere" } ] }, { "cylinder": 3, "leakPercent": 82, "heard": [ { "at": "exhaust", "strength": "strong" } ] } ] } ] }
            """);
        browser.Open($"{site.Address}/jobs/{second}/judgement?cylinder=3");
        browser.Click("[data-air]");
        browser.UntilText("#air-title", "Cylinder 3: where its air goes");
        browser.Text("[data-cylinder='3']").ShouldContain("by the exhaust valve");
        browser.Text("[data-cylinder='1']").ShouldContain("as a sound one");
        browser.All(".air-way.more[data-way=exhaust]").Count.ShouldBe(1, "the leak is drawn");
        browser.Text("tr[data-way=exhaust].more td:last-child").ShouldContain("%");
        browser.Text("tr[data-reading=dry]").ShouldContain("131 psi");
        browser.Text("tr[data-reading=dry] td:last-child").ShouldBe("yes");
        browser.Violations(colours: true).ShouldBeEmpty();

        // As it was fitted the model reads what was read; a slider changes what it would read, and says at once what it stands at.
        string[] Dry() => browser.Texts("tr[data-reads=dry] td");
        Dry()[0].ShouldBe(Dry()[1]);
        var before = Dry()[0];
        browser.Script("const s = document.querySelector('#s-Exhaust'); s.value = 0; s.dispatchEvent(new Event('input', { bubbles: true }))");
        browser.Text("output[for=s-Exhaust]").ShouldBe("none");
        browser.Until("the model was turned", () => browser.Texts("tr[data-reads=dry] td") is [var fitted, var set] && fitted == before && set != before);
        int.Parse(Dry()[1].Split(' ')[0], System.Globalization.CultureInfo.InvariantCulture).ShouldBeInRange(175, 205);
        browser.All("#what-if .air-way[data-way=exhaust]").ShouldBeEmpty("nothing goes there now");
        browser.Click("[data-cylinder='1']");
        browser.UntilText("#air-title", "Cylinder 1: where its air goes");
        browser.Complaints().ShouldBeEmpty();
    }

    [Fact]
    public async Task Where_the_judgement_says_otherwise_that_is_said()
    {
        // A plug wet with coolant: the judgement knows of it, the areas know of nothing but readings.
        var job = await site.JobAsync($$"""
            { {{Engine}}, "observations": [ "coolant-loss", "coolant-bubbles" ], "tests": [ { "kind": "compression-dry", "unit": "psi", "readings": [ { "cylinder": 1, "value": 190 }, { "cylinder": 2, "value": 188 }, { "cylinder": 3, "value": 176 }, { "cylinder": 4, "value": 191 } ] },
              { "kind": "compression-wet", "unit": "psi", "oilMl": 9, "readings": [ { "cylinder": 3, "value": 184 } ] }, { "kind": "plug-inspection", "readings": [ { "cylinder": 3, "signs": [ "coolant-wet" ] } ] } ] }
            """);
        browser.Open($"{site.Address}/jobs/{job}/air?cylinder=3");
        browser.Text("[data-differs]").ShouldContain("the judgement leads with head gasket or crack to the coolant");
        browser.Text("[data-differs]").ShouldEndWith("slips of the test.");
    }

    [Theory]
    [InlineData("Set.Rings=99999&Set.Intake=-5&Set.Exhaust=3&Set.Throttle=900&Set.Battery=-3&Set.Compressions=99")]
    [InlineData("Set.Rings=abc&cylinder=77")]
    public async Task Whatever_a_slider_sends_is_answered(string query)
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        using var answer = await client.GetAsync(new Uri($"{site.Address}/jobs/8/air?handler=WhatIf&{query}"), TestContext.Current.CancellationToken);
        answer.StatusCode.ShouldBe(System.Net.HttpStatusCode.OK);
        (await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken)).ShouldContain("The model reads");
    }
}
