namespace Zandrik.Web.Tests;

/// <summary>Makes every picture of docs/screenshots from the demo data. Run by ./screenshots, not with the tests.</summary>
public sealed class Screenshots(Site site) : IClassFixture<Site>
{
    [Fact(Explicit = true)]
    public void Of_every_main_view()
    {
        var folder = Environment.GetEnvironmentVariable("ZANDRIK_SCREENSHOTS") ?? Path.Combine(Repository.Root, "docs", "screenshots");
        using var browser = new Browser();
        void Take(string name, string address, int width = 1280, int height = 800, bool night = false, Action? before = null)
        {
            browser.Size(width, height, touch: width < 500);
            browser.Open(site.Address + "/missing");
            browser.Script($"document.cookie = 'zandrik.theme={(night ? "dark" : "light")};path=/'");
            browser.Open(site.Address + address);
            browser.Script("return document.fonts.ready.then(() => true)");
            before?.Invoke();
            File.WriteAllBytes(Path.Combine(folder, name + ".png"), browser.Picture());
        }
        Take("bays", "/");
        Take("new-job", "/jobs/new", before: () =>
        {
            browser.Send("#preset", "V6, odd");
            browser.Until("the preset is filled in", () => browser.Value("#banks") == "1 3 5 / 2 4 6");
            browser.Script("window.scrollTo(0, 0)");
        });
        Take("dry-test", "/jobs/8/dry?cylinder=3");
        Take("dry-test-phone", "/jobs/9/dry", 390, 844);
        Take("outcomes-night", "/shop/outcomes", night: true);
        Take("starter-current", "/jobs/12/relative-compression", 1280, 1100, before: () => browser.Until("the trace is open", () => browser.Script("return document.documentElement.dataset.trace ?? null") is "awake"));
        Take("plan", "/jobs/9/plan");
        Take("decide", "/jobs/8/decide", 1280, 1100);
        Take("engine-life", "/vehicles/engines/16", 1280, 1100);
        Take("fleet", "/fleet");
        Take("judgement", "/jobs/8/judgement", 1280, 1000);
        Take("where-the-air-goes", "/jobs/8/air", 1280, 1000);
        Take("verdict", "/jobs/8/verdict", 1280, 1500);
        Take("setup", "/setup/method");
        Take("owner", "/jobs/8/owner", 1280, 1100);
        Take("practice", "/jobs/900000001/dry?cylinder=3");
        void Tick(string css, string done)
        {
            browser.Click(css);
            browser.Until(done, () => browser.All(done).Count > 0);
        }
        Take("leak-down", "/jobs/8/leak-down", 1280, 1000, before: () =>
        {
            Tick("[aria-label='Crank at cylinder 3']", "[data-guard=key]");
            foreach (var word in new[] { "key", "stroke", "chocks", "held", "bar" })
            {
                Tick($"[data-guard={word}] button", $"[data-guard={word}].ticked");
            }
            Tick("[data-air-on]", "[data-air-off]");
        });
        Take("leak-down-phone", "/jobs/8/leak-down", 390, 844);
        // Under air nothing else is open.
        browser.Size(1280, 800);
        browser.Open(site.Address + "/jobs/8/leak-down?cylinder=3");
        Tick("[data-air-off]", "[data-air-on]");
        Take("job-sheet", "/jobs/8/sheet", 1280, 1400);
    }
}
