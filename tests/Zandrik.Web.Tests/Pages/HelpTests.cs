using OpenQA.Selenium;
using Zandrik.Web.Help;

namespace Zandrik.Web.Tests.Pages;

/// <summary>Help at the step, its search, and the tour.</summary>
public sealed class HelpTests : IClassFixture<Site>, IDisposable
{
    private readonly Site site;
    private readonly Browser browser = new();

    public HelpTests(Site site) => this.site = site;

    public void Dispose() => browser.Dispose();

    [Fact]
    public void Every_step_of_a_job_leads_to_its_page_and_back()
    {
        browser.Open(site.Address + "/jobs/8/plan");
        var steps = browser.All("#rail-steps a").Select(a => new Uri(a.GetAttribute("href")!).AbsolutePath).ToList();
        steps.Count.ShouldBeGreaterThan(12);
        foreach (var step in steps.Where(s => !s.EndsWith("/intake", StringComparison.Ordinal)))
        {
            browser.Open(site.Address + step);
            browser.All("[data-help]").Count.ShouldBe(1, step);
        }
        browser.Open(site.Address + "/jobs/8/checks/combustion-gas");
        browser.Click("[data-help]");
        browser.UntilText("h1", "Other checks");
        browser.Click(".page-head .btn-primary");
        browser.UntilText("h1", "Combustion gas");
        new Uri(browser.Url).AbsolutePath.ShouldBe("/jobs/8/checks/combustion-gas");
        browser.Open(site.Address + "/help/nothing-of-that");
        browser.UntilText("main", "There is nothing at this address");
    }

    [Fact]
    public void It_is_found_as_one_types_by_any_words_of_it()
    {
        browser.Open(site.Address + "/help");
        browser.All(".help-topics li").Count.ShouldBe(HelpTopic.All.Count);
        browser.Send("#q", "battery falling");
        browser.UntilText("#help-found", "Nothing with");
        browser.Type("#q", "battery fall");
        browser.UntilText(".help-topics li", "Readings that fall from the first cylinder");
        browser.All(".help-topics li").Count.ShouldBe(1);
        browser.Violations().ShouldBeEmpty();
    }

    [Fact]
    public void A_page_of_help_says_its_cautions_where_work_can_hurt()
    {
        foreach (var word in new[] { "prepare", "liquid", "relative-compression", "plugs", "dry", "leak-down", "wet", "running", "checks", "refit" })
        {
            HelpTopic.All.Single(t => t.Word == word).Cautions.ShouldNotBeEmpty(word);
        }
        HelpTopic.All.ShouldAllBe(t => t.Tells.Length > 0 && t.How.Count > 0);
        HelpTopic.All.Select(t => t.Word).Distinct().Count().ShouldBe(HelpTopic.All.Count);
    }

    [Fact]
    public void The_tour_goes_through_every_stop_frames_what_it_speaks_of_and_can_be_left()
    {
        browser.Open(site.Address + "/help");
        browser.Click(".page-head .btn-primary");
        for (var stop = 1; stop <= Tour.Stops.Count; stop++)
        {
            browser.UntilText(".tour-place", $"{stop} of {Tour.Stops.Count}");
            browser.Text(".tour-text").ShouldStartWith(Tour.Stops[stop - 1].Title);
            browser.Until("a part is framed", () => browser.All(".on-tour").Count == 1);
            if (stop == 2)
            {
                browser.Violations().ShouldBeEmpty();
            }
            if (stop < Tour.Stops.Count)
            {
                browser.Click("[data-tour-next]");
            }
        }
        browser.Press(Keys.ArrowLeft);
        browser.UntilText(".tour-place", $"{Tour.Stops.Count - 1} of");
        browser.Press(Keys.Escape);
        browser.Until("it is over", () => browser.All(".tour").Count == 0);
        new Uri(browser.Url).AbsolutePath.ShouldBe("/jobs/8/verdict");
    }
}
