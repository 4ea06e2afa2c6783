using OpenQA.Selenium;

namespace Zandrik.Web.Tests.Trust;

/// <summary>Many jobs open in one browser: a browser opens six connections to a host, and one stream serves all tabs.</summary>
public sealed class TabsTests : IClassFixture<Site>, IDisposable
{
    private readonly Site site;
    private readonly Browser browser = new();

    public TabsTests(Site site) => this.site = site;

    public void Dispose() => browser.Dispose();

    private bool Leads => browser.Script("return zandrik.live.leads") is true;

    [Fact]
    public async Task Nine_tabs_load_and_each_hears_what_happens_on_its_job_also_when_the_one_that_listens_is_closed()
    {
        var tabs = new List<(string Tab, int Job)>();
        for (var i = 0; i < 9; i++)
        {
            var job = await site.JobAsync("""{ "engine": { "cylinders": 4 } }""");
            var address = $"{site.Address}/jobs/{job}/{(i % 2 == 0 ? "dry" : "leak-down")}";
            if (i == 0)
            {
                browser.Open(address);
                browser.Until("the first tab listens", () => Leads);
            }
            tabs.Add((i == 0 ? browser.Tab : browser.OpenTab(address), job));
            browser.Find(i % 2 == 0 ? "#bench" : "#step");
        }
        // Which one it is may change while the machine is busy: a tab that is not answered in time listens itself until the other speaks up.
        List<(string Tab, int Job)> Listening() => [.. tabs.Where(t =>
        {
            browser.GoToTab(t.Tab);
            return Leads;
        })];
        browser.Until("one tab listens for all", () => Listening().Count == 1);
        using var hallan = await SignedIn.ClientAsync(site.Address, "hallan");
        async Task HearsAsync((string Tab, int Job) tab, string psi)
        {
            (await hallan.PostFormAsync($"/jobs/{tab.Job}/dry?handler=Enter&cylinder=1", ("value", psi), ("kind", "Reading"), ("unit", "psi"))).EnsureSuccessStatusCode();
            browser.GoToTab(tab.Tab);
            browser.Until($"job {tab.Job} shows {psi}", () => browser.Texts(".columns .reading").Contains(psi));
        }
        await HearsAsync(tabs[8], "181");
        await HearsAsync(tabs[4], "182");
        // Entries go through with all of them open.
        browser.GoToTab(tabs[6].Tab);
        browser.Click("#pad-value");
        browser.Press("205" + Keys.Enter);
        browser.UntilText("#pad-message", "205 psi saved");
        browser.Text("#outbox").ShouldBeEmpty();
        // The one that listens is closed: another takes over.
        (string Tab, int Job) one = ("", 0);
        browser.Until("one tab listens", () => Listening() is [var listening, ..] && (one = listening).Job > 0);
        browser.GoToTab(one.Tab);
        browser.CloseTab();
        await HearsAsync(tabs.First(t => t != one && tabs.IndexOf(t) % 2 == 0), "183");
    }
}
