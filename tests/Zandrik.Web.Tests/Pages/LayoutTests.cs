namespace Zandrik.Web.Tests.Pages;

/// <summary>What a phone's layout is for: few taps, and everything a tap away. How each view lies on each screen is looked at with <see cref="AccessibilityTests"/>.</summary>
public sealed class LayoutTests(Site site) : IClassFixture<Site>
{
    [Fact]
    public async Task A_dry_six_on_a_phone_takes_at_most_26_taps()
    {
        var job = await site.JobAsync("""{ "vehicle": { "label": "Harbour lorry 6" }, "engine": { "cylinders": 6, "fuel": "petrol", "spec": { "unit": "psi", "nominal": 205, "minimum": 150 } } }""");
        using var browser = new Browser();
        browser.Size(390, 844, touch: true);
        browser.Open($"{site.Address}/jobs/{job}/dry");
        browser.UntilText("#pad-title", "cylinder 1");
        var taps = 0;
        void Tap(string css)
        {
            browser.Tap(css);
            taps++;
        }
        Tap("[data-prepared] button");
        browser.Until("the preparation is answered", () => browser.All("[data-prepared]").Count == 0);
        foreach (var (figure, cylinder) in new[] { "205", "203", "198", "207", "204", "201" }.Select((f, i) => (f, i + 1)))
        {
            browser.UntilText("#pad-title", $"cylinder {cylinder}");
            foreach (var digit in figure)
            {
                Tap($".pad [data-type='{digit}']");
            }
            Tap(".pad [data-enter]");
            browser.UntilText("#pad-message", $"{figure} psi saved");
        }
        browser.UntilText(".rail-bar", "Dry 6/6");
        taps.ShouldBe(25, "one to say that it is prepared, three digits and Save for each cylinder");
    }

    [Fact]
    public void On_a_phone_steps_menu_and_papers_are_a_tap_away()
    {
        using var browser = new Browser();
        browser.Size(390, 844, touch: true);
        browser.Open(site.Address + "/jobs/8/dry");
        browser.Text(".rail-bar").ShouldContain("Dry 4/4");
        browser.All("#rail-steps a").ShouldAllBe(a => !a.Displayed);
        browser.Click(".rail-bar");
        browser.Until("the steps unfold", () => browser.Find("#rail-steps a[href$='/leak-down']").Displayed);
        browser.Find(".rail-bar").GetAttribute("aria-expanded").ShouldBe("true");
        browser.Click(".rail-bar");
        browser.Until("and fold", () => !browser.Find("#rail-steps").Displayed);
        browser.Find(".job-tools").Displayed.ShouldBeFalse();
        browser.Click("#job-about");
        browser.Until("the papers", () => browser.Find(".job-tools a[href$='/sheet']").Displayed);
        browser.Click(".menu-fold");
        browser.Until("the menu", () => browser.Find("#main-nav a[href='/engines']").Displayed);
        browser.Click("#main-nav a[href='/engines']");
        browser.UntilText("h1", "Engines");
        browser.Open(site.Address + "/jobs/8/plan");
        browser.Click(".rail-bar");
        browser.Click(".fold");
        browser.Click(".menu-fold");
        browser.Until("all is open", () => browser.Find("#main-nav a[href='/engines']").Displayed && browser.Find("#rail-steps").Displayed);
        browser.Violations().ShouldBeEmpty();
    }
}
