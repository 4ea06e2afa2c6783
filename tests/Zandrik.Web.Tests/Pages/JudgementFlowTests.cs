using OpenQA.Selenium;

namespace Zandrik.Web.Tests.Pages;

/// <summary>From the first reading to the suspect in the browser: live, argued line by line, and leading on.</summary>
public sealed class JudgementFlowTests : IClassFixture<Site>, IDisposable
{
    private readonly Site site;
    private readonly Browser browser = new();

    public JudgementFlowTests(Site site) => this.site = site;

    public void Dispose() => browser.Dispose();

    [Fact]
    public async Task It_changes_with_every_reading_and_leads_to_the_test_that_would_settle_it()
    {
        var job = await site.JobAsync("""{ "engine": { "cylinders": 4, "fuel": "petrol", "throttle": "cable", "displacementCc": 2000, "spec": { "unit": "psi", "nominal": 190, "minimum": 140 } } }""");
        browser.Open($"{site.Address}/jobs/{job}/judgement");
        browser.Text("[data-engine]").ShouldBe("Nothing measured yet: not enough to say.");
        browser.Text(".next-tests").ShouldContain("Dry");

        // Somebody reads at the engine, and it is seen here.
        using var other = new Browser { As = "hallan" };
        other.Open($"{site.Address}/jobs/{job}/dry");
        other.Press($"190{Keys.Enter}188{Keys.Enter}131{Keys.Enter}191{Keys.Enter}");
        other.Until("all four stand in the picture", () => other.Texts(".columns .reading").SequenceEqual(["190", "188", "131", "191"]));
        browser.UntilText("#cylinder-title", "Cylinder 3: low");
        browser.Text("[data-cylinder-says]").ShouldStartWith("Can't tell yet: ");
        browser.All("[data-next='leak-down'], [data-next='compression-dry']").Count.ShouldBeGreaterThan(0);
        browser.All("[data-headline-cylinder='3'] li").Count.ShouldBeGreaterThan(1, "the suspects of the cylinder come first");
        browser.All(".whole-engine[open]").ShouldBeEmpty();
        browser.Text(".validity").ShouldContain("Nothing of the preparation is ticked");
        browser.Violations().ShouldBeEmpty();

        // Each line leads to its reading; the offer to its step and cylinder.
        new Uri(browser.Attribute("tr[data-finding=dry] a", "href")).PathAndQuery.ShouldBe($"/jobs/{job}/dry?cylinder=3");
        new Uri(browser.Attribute("[data-next=leak-down] a", "href")).PathAndQuery.ShouldBe($"/jobs/{job}/leak-down?cylinder=3");

        // Another cylinder is a tap away.
        browser.Click("[data-cylinder='1']");
        browser.UntilText("#cylinder-title", "Cylinder 1: sound");
        browser.Complaints().ShouldBeEmpty();
    }

    [Fact]
    public void A_slip_of_the_test_is_said_and_no_cylinder_blamed()
    {
        browser.Open($"{site.Address}/jobs/5/judgement");
        browser.All("[data-code=throttle-closed]").Count.ShouldBe(1);
        browser.Text("[data-next] a").ShouldContain("Dry");
        browser.All(".columns .is-low, .columns .is-dead").ShouldBeEmpty();
    }
}
