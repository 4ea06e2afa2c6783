using System.Text.RegularExpressions;
using AngleSharp.Html.Parser;
using OpenQA.Selenium;
using Zandrik.Web.Tests.Front;

namespace Zandrik.Web.Tests.Pages;

/// <summary>Whoever looks or listens: colours of the system, a line that says what was saved, drawings in words, words of the trade.</summary>
public sealed partial class ForEverybodyTests(Site site) : IClassFixture<Site>
{
    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    [Fact]
    public void Night_colours_follow_the_system_until_somebody_chooses()
    {
        using var browser = new Browser();
        string Theme() => (string)browser.Script("return document.documentElement.dataset.bsTheme")!;
        string? Cookie() => browser.Script("return document.cookie.match(/zandrik\\.theme=(\\w+)/)?.[1] ?? null") as string;
        browser.Open(site.Address + "/jobs");
        Theme().ShouldBe("light");
        browser.SystemColours(dark: true);
        browser.Until("the page follows at once", () => Theme() == "dark");
        browser.Open(site.Address + "/engines");
        (Theme(), Cookie()).ShouldBe(("dark", null));
        browser.Attribute("[data-theme-switch]", "aria-pressed").ShouldBe("true");
        browser.Click("[data-theme-switch]");
        (Theme(), Cookie()).ShouldBe(("light", "light"));
        browser.Open(site.Address + "/jobs");
        Theme().ShouldBe("light", "chosen, whatever the system says");
        browser.Click("[data-theme-switch]");
        (Theme(), Cookie()).ShouldBe(("dark", null), "the same as the system again: nothing is chosen");
        browser.SystemColours(dark: false);
        browser.Until("it follows again", () => Theme() == "light");
    }

    [Fact]
    public void One_line_that_stays_says_what_was_saved_or_refused()
    {
        using var browser = new Browser();
        browser.OpenJob(site, "Harbour launch 17");
        browser.Script("document.getElementById('said').marked = true");
        browser.Press("205" + Keys.Enter);
        browser.UntilText("#pad-title", "cylinder 2");
        browser.Until("it is said", () => (string)browser.Script("return document.getElementById('said').textContent")! is var said && said.Contains("205 psi", StringComparison.Ordinal));
        browser.Press("1,2,3" + Keys.Enter);
        browser.Until("the refusal is said", () => (string)browser.Script("return document.getElementById('said').textContent")! is var said && said.Contains("not a number", StringComparison.Ordinal));
        browser.Script("return document.getElementById('said').marked === true").ShouldBe(true, "a region that is replaced is not read out");
        browser.Violations().ShouldBeEmpty();
    }

    [Fact]
    public async Task Strips_and_ring_are_told_in_words()
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        async Task<string[]> NamesAsync(string address, string css) =>
            [.. new HtmlParser().ParseDocument(await client.GetStringAsync(new Uri(address, UriKind.Relative), Cancel)).QuerySelectorAll(css).Select(e => e.GetAttribute("aria-label")!)];
        var strips = await NamesAsync("/", "svg.strip");
        strips.ShouldContain(s => s.Contains("Cylinder 2 163 psi, low; Cylinder 3 160 psi, low", StringComparison.Ordinal));
        strips.ShouldContain(s => s.EndsWith("nothing measured yet", StringComparison.Ordinal));
        (await NamesAsync("/jobs/8/leak-down", "svg.crank-ring")).Single().ShouldStartWith("Crank ring, two turns once round: cylinder 1 8 %, cylinder 3 70 %, cylinder 4, cylinder 2 68 %.");
    }

    [Fact]
    public async Task Every_step_has_a_title_and_one_heading_of_its_own()
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        var seen = new Dictionary<string, string>();
        foreach (var address in AccessibilityTests.Views.Where(v => v.StartsWith("/jobs/8/", StringComparison.Ordinal) && !v.Contains('?', StringComparison.Ordinal)))
        {
            var page = new HtmlParser().ParseDocument(await client.GetStringAsync(new Uri(address, UriKind.Relative), Cancel));
            var heading = page.QuerySelectorAll("h1").ShouldHaveSingleItem(address).TextContent.Trim();
            seen.TryAdd(page.Title!, address).ShouldBeTrue($"{address} is called as {seen.GetValueOrDefault(page.Title!)}");
            heading.ShouldNotBeEmpty(address);
        }
    }

    [Fact]
    public async Task No_page_says_a_word_that_a_technician_has_to_puzzle_out()
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        var found = new List<string>();
        foreach (var address in AccessibilityTests.Views)
        {
            var answer = await client.GetAsync(new Uri(address, UriKind.Relative), Cancel);
            var page = new HtmlParser().ParseDocument(await answer.Content.ReadAsStringAsync(Cancel));
            var text = Blanks().Replace(string.Join(" ", page.QuerySelectorAll("main, header").Select(e => e.TextContent).Concat(page.QuerySelectorAll("[aria-label], [placeholder], [title]").Select(e => $"{e.GetAttribute("aria-label")} {e.GetAttribute("placeholder")} {e.GetAttribute("title")}"))), " ");
            found.AddRange(WorkshopWordsTests.Out.Where(w => text.Contains(w, StringComparison.Ordinal)).Concat(WorkshopWordsTests.OnScreens().Matches(text).Select(m => m.Value)).Distinct().Select(w => $"{address}: {w}"));
        }
        found.ShouldBeEmpty();
    }

    [GeneratedRegex(@"\s+")]
    private static partial Regex Blanks();
}
