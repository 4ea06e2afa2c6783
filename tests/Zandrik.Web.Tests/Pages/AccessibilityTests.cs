using System.Collections.ObjectModel;
using Zandrik.Storage.Tests;

namespace Zandrik.Web.Tests.Pages;

/// <summary>
/// Every view, loaded once on a laptop and once on a phone: axe-core; and on five screens, from the smallest phone to a laptop, as wide as its screen, nothing over anything else, nothing out of its card, what is done next in
/// reach, and 44 px for a finger. A class for each kind, so that they run side by side.
/// </summary>
public abstract class AccessibilityTests
{
    // Bays, all jobs, the forms, and a workspace in every state: waiting, dead, worn, falling, high, two low, half done.
    internal static readonly string[] Views =
    [
        "/", "/?after=1", "/jobs", "/jobs?q=van", "/search?q=van", "/engines",
        "/engines/1", "/import", "/import/jobs", "/setup/shop", "/setup/method", "/setup/engine", "/setup/ready", "/help", "/help/leak-down?job=8&at=leak-down", "/jobs/8/owner", "/jobs/8/plan?tour=2&tour-job=8", "/vehicles", "/vehicles/1", "/vehicles/engines/1", "/vehicles/engines/15", "/vehicles/engines/15?over=time&show=leak-down", "/vehicles/engines/15/compare?first=0&second=others", "/fleet", "/fleet?show=gone", "/check", "/check?code=none", "/shop/archive", "/jobs/8/selling", "/jobs/18/decide", "/jobs/new",
        "/jobs/8/intake", "/jobs/10/dry", "/jobs/2/dry", "/jobs/3/dry", "/jobs/6/dry", "/jobs/7/dry",
        "/jobs/8/dry?cylinder=2", "/jobs/9/dry", "/shop", "/shop/people", "/shop/tokens", "/shop/connect", "/shop/backups", "/shop/audit", "/connect", "/account", "/account/code",
        "/testers", "/testers/2", "/jobs/9/caller", "/jobs/9/plan", "/jobs/9/prepare", "/jobs/8/plugs",
        "/jobs/8/refit", "/jobs/9/labels", "/jobs/2/paper", "/jobs/9/type-in", "/jobs/8/leak-down?cylinder=3", "/jobs/10/leak-down",
        "/jobs/2/leak-down", "/jobs/8/wet", "/jobs/3/wet", "/jobs/8/running", "/jobs/4/running", "/jobs/8/checks",
        "/jobs/8/checks/combustion-gas", "/jobs/2/checks/oil-pressure", "/jobs/8/checks/valve-clearance", "/jobs/8/checks/fluids", "/jobs/8/sheet", "/jobs/10/relative-compression",
        "/jobs/12/relative-compression", "/jobs/12/relative-compression?view=Preview", "/jobs/13/relative-compression", "/jobs/15/relative-compression", "/jobs/12/relative-compression/before-after", "/jobs/12/sheet", "/jobs/8/judgement", "/jobs/8/air", "/jobs/3/air", "/jobs/8/air?cylinder=3&Set.Rings=200&Set.Intake=300&Set.Coolant=150",
        "/jobs/10/judgement", "/jobs/8/judgement?cylinder=3&why=suspect:gasket-adjacent:2", "/jobs/8/verdict", "/jobs/8/decide", "/jobs/3/decide", "/jobs/8/owner-options", "/jobs/10/verdict", "/shop/outcomes", "/instruments", "/jobs/9/take?kind=dry&cylinder=4", "/practice", "/practice/900000001", "/practice/900000004", "/practice/900000001/call", "/jobs/900000001/dry?cylinder=3", "/jobs/900000001/leak-down?cylinder=1", "/jobs/900000001/wet", "/jobs/900000001/running", "/jobs/900000001/checks/combustion-gas", "/nowhere",
    ];

    private static readonly string Layout = File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "Assets", "layout.js"));

    /// <summary>Opens every view at a size and looks at it, then at its layout on screens of its kind; <paramref name="also"/> looks at each once more.</summary>
    private protected static async Task LookAtAllAsync(Site site, (int Width, int Height)[] screens, Action<Browser, string>? also = null)
    {
        var (width, height) = screens[0];
        var wrong = new List<string>();
        // Whatever people are called, no view gets wider than its screen.
        await TestDatabase.ExecuteAsync(site.Owner, """
            insert into person (shop_id, name) values (1, repeat('Longname', 12)) on conflict do nothing;
            insert into tester (shop_id, body) values (1, jsonb_build_object('label', repeat('Gauge', 12), 'kind', 'gauge')) on conflict do nothing;
            with s as (insert into engine_sheet (shop_id, name) values (1, repeat('Marrow', 20)) on conflict do nothing returning id)
            insert into engine_sheet_version (shop_id, sheet_id, version, body, made_at, made_by)
            select 1, id, 1, jsonb_build_object('engine', jsonb_build_object('name', repeat('Marrow', 20), 'cylinders', 4), 'workshop', '{}'::jsonb), now(), 1 from s;
            insert into vehicle (shop_id, label) values (1, repeat('Harbour', 20)) on conflict do nothing;
            """);
        using var browser = new Browser();
        browser.Size(width, height, touch: width < 500);
        // Before the page: handed over by the driver each time it takes longer than most pages do.
        using var axe = browser.BeforeScripts(Browser.Axe);
        foreach (var address in Views)
        {
            browser.Open(site.Address + address);
            foreach (var screen in screens.Reverse())
            {
                browser.Size(screen.Width, screen.Height, touch: width < 500);
                wrong.AddRange(((ReadOnlyCollection<object>)browser.Script($"const wrong = {Layout.TrimEnd()}; return wrong;")!).Select(line => $"{address} at {screen.Width}: {line}"));
            }
            browser.Script("document.querySelectorAll('details').forEach(d => d.open = true)");
            browser.Violations().ShouldBeEmpty($"{address} at {width}");
            (browser.Script("const ids = [...document.querySelectorAll('[id]')].map(e => e.id); return [...new Set(ids.filter((id, i) => ids.indexOf(id) !== i))].join(' ')") as string).ShouldBe("", $"one id twice on {address}");
            LookAtLayout(browser, address, width);
            also?.Invoke(browser, address);
        }
        wrong.ShouldBeEmpty();
        browser.Complaints().Where(c => !c.Contains("404", StringComparison.Ordinal)).ShouldBeEmpty();
    }

    private protected static void LookAtLayout(Browser browser, string address, int width)
    {
        ((long)browser.Script("return document.documentElement.scrollWidth")!).ShouldBeLessThanOrEqualTo(width, address);
        // What stands in a drawing is read at arm's length too.
        (browser.Script("""
            return [...document.querySelectorAll('main svg text')].filter(t => t.textContent.trim() && t.checkVisibility({ visibilityProperty: true, opacityProperty: true })).map(t => [t.textContent, Math.round(10 * parseFloat(getComputedStyle(t).fontSize) * t.getScreenCTM().a) / 10])
              .filter(([, size]) => size > 0 && size < 12).map(t => t.join(' ')).join(', ');
            """) as string).ShouldBe("", $"drawing text under 12 px on {address} at {width}");
        // A page can be no wider than its screen and still show its work in a column of a word.
        if (width < 500 && browser.Script("const w = [...document.querySelectorAll('main .card-plain')].map(c => c.getBoundingClientRect().width).filter(w => w > 0); return w.length ? Math.round(Math.min(...w)) : -1") is long narrowest and >= 0)
        {
            narrowest.ShouldBeGreaterThan(300, address);
        }
    }
}

/// <summary>On a laptop; and by night on a smaller one. Night changes colours and nothing else, and a small laptop has the markup of a large one: what is left to look at are contrast there and the layout here.</summary>
public sealed class LaptopAccessibilityTests(Site site) : AccessibilityTests, IClassFixture<Site>
{
    [Fact]
    public Task Every_view_is_clean_by_day_and_by_night() => LookAtAllAsync(site, [(1280, 800), (1024, 768), (768, 1024)], (browser, address) =>
    {
        // As the switch in the head does it.
        browser.Script("document.documentElement.dataset.bsTheme = 'dark'; document.getAnimations().forEach(a => a.finish())");
        browser.Size(1024, 768);
        browser.Violations(colours: true).ShouldBeEmpty($"{address} at 1024 by night");
        LookAtLayout(browser, address, 1024);
        browser.Size(1280, 800);
    });

    [Fact]
    public void A_form_with_problems_is_clean_too()
    {
        using var browser = new Browser();
        browser.Open(site.Address + "/jobs/new");
        browser.Unfold();
        browser.Type("#firing-order", "1-1");
        browser.Click(".form-end button");
        browser.UntilText(".form-problems", "another look");
        browser.Violations().ShouldBeEmpty();
    }
}

/// <summary>On a phone.</summary>
public sealed class PhoneAccessibilityTests(Site site) : AccessibilityTests, IClassFixture<Site>
{
    [Fact]
    public Task Every_view_is_clean() => LookAtAllAsync(site, [(390, 844), (320, 568)]);
}
