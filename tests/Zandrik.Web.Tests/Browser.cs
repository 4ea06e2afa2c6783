using System.Collections.ObjectModel;
using System.Diagnostics;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;
using OpenQA.Selenium.Interactions;

namespace Zandrik.Web.Tests;

/// <summary>A headless Chromium, as a technician has it at the bay: a laptop unless said otherwise.</summary>
public sealed class Browser : IDisposable
{
    /// <summary>axe-core, as a script.</summary>
    public static readonly string Axe = File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "Assets", "axe.min.js"));
    private static readonly TimeSpan Enough = TimeSpan.FromSeconds(60);

    private Chromium chromium;
    private ChromeDriver driver;
    private readonly HashSet<string> origins = [];

    /// <summary>A browser that knows nothing yet.</summary>
    /// <param name="trusting">The certificate of an authority it trusts; absent for those every browser does.</param>
    public Browser(string? trusting = null)
    {
        chromium = trusting is null ? Chromium.Take() : Chromium.Trusting(trusting);
        driver = chromium.Driver;
    }

    public string Url => driver.Url;

    public void Size(int width, int height, bool touch = false) => Size(driver, width, height, touch);

    internal static void Size(ChromeDriver driver, int width, int height, bool touch = false)
    {
        driver.ExecuteCdpCommand("Emulation.setDeviceMetricsOverride", new()
        {
            ["width"] = width, ["height"] = height, ["deviceScaleFactor"] = 1, ["mobile"] = touch,
        });
        driver.ExecuteCdpCommand("Emulation.setTouchEmulationEnabled", new() { ["enabled"] = touch });
    }

    private bool ScriptsOn { get; set; } = true;

    public void Scripts(bool on)
    {
        ScriptsOn = on;
        driver.ExecuteCdpCommand("Emulation.setScriptExecutionDisabled", new() { ["value"] = !on });
    }

    /// <summary>Runs a script before those of every page, until what it answers is disposed of.</summary>
    public IDisposable BeforeScripts(string script)
    {
        var added = (Dictionary<string, object>)driver.ExecuteCdpCommand("Page.addScriptToEvaluateOnNewDocument", new() { ["source"] = script })!;
        return new Undone(() => driver.ExecuteCdpCommand("Page.removeScriptToEvaluateOnNewDocument", new() { ["identifier"] = added["identifier"] }));
    }

    private sealed class Undone(Action undo) : IDisposable
    {
        public void Dispose() => undo();
    }

    /// <summary>What the system of the machine says of day and night.</summary>
    public void SystemColours(bool dark) => driver.ExecuteCdpCommand("Emulation.setEmulatedMedia", new()
    {
        ["features"] = new[] { new Dictionary<string, object> { ["name"] = "prefers-color-scheme", ["value"] = dark ? "dark" : "light" } },
    });

    /// <summary>Cuts the network, brings it back, or makes it slow.</summary>
    public void Network(bool on, int latencyMs = 0, int uploadBytesPerSecond = -1)
    {
        driver.ExecuteCdpCommand("Network.enable", []);
        driver.ExecuteCdpCommand("Network.emulateNetworkConditions", new()
        {
            ["offline"] = !on, ["latency"] = latencyMs, ["downloadThroughput"] = -1, ["uploadThroughput"] = uploadBytesPerSecond,
        });
    }

    /// <summary>
    /// Whether it keeps pages for when there is no network. Off, as on a tablet that does not trust the shop's authority: keeping
    /// all steps of every job a test opens took a sixth of the processor time.
    /// </summary>
    public bool KeepsPages { get; init; }

    /// <summary>The made-up account that opens pages; null to stay on the sign-in page.</summary>
    public string? As { get; init; } = "ostrel";

    /// <summary>Opens a page; on the way through the sign-in page where the browser is not signed in yet.</summary>
    public void Open(string url)
    {
        if (!KeepsPages && origins.Count == 0)
        {
            BeforeScripts("delete Navigator.prototype.serviceWorker");
        }
        origins.Add(new Uri(url).GetLeftPart(UriPartial.Authority));
        driver.Navigate().GoToUrl(url);
        if (As is { } login && driver.Url.Contains("/sign-in?", StringComparison.Ordinal))
        {
            driver.FindElement(By.CssSelector($"[data-demo={login}]")).Click();
            // The page is there when this returns, not half of it: a test may cut the network next.
            Until("the sign-in page is shown", () => !driver.Url.Contains("/sign-in?", StringComparison.Ordinal) && Script("return document.readyState") is "complete");
        }
    }

    /// <summary>Ends the browser and starts it again with what it had kept.</summary>
    public void Restart() => driver = (chromium = chromium.Restart()).Driver;

    public void Reload() => driver.Navigate().Refresh();

    public IWebElement Find(string css) => Wait(css, () => driver.FindElement(By.CssSelector(css)));

    public ReadOnlyCollection<IWebElement> All(string css) => driver.FindElements(By.CssSelector(css));

    /// <summary>What an element says to whoever looks at it.</summary>
    public string Text(string css) => Wait(css, () => Seen(css))!;

    // The driver's own way of asking walks the element in a script of its own, node by node, and took a tenth of all time of the browsers.
    private string? Seen(string css) => driver.ExecuteScript($$"""
        const e = document.querySelector({{Quoted(css)}});
        return !e ? null : !e.checkVisibility({ visibilityProperty: true }) ? "" : (e.innerText ?? e.textContent).replaceAll("\u00a0", " ").trim();
        """) as string;

    /// <summary>The texts of all elements at one moment, whatever is swapped meanwhile.</summary>
    public string[] Texts(string css) =>
        [.. ((ReadOnlyCollection<object>)driver.ExecuteScript($"return [...document.querySelectorAll({Quoted(css)})].map(e => e.textContent.trim())")!).Cast<string>()];

    /// <summary>An attribute of an element, an address as a whole one.</summary>
    public string Attribute(string css, string name) => Wait(css, () => driver.FindElement(By.CssSelector(css)).GetAttribute(name))!;

    /// <summary>What stands in a field.</summary>
    public string Value(string css) => Wait(css, () => driver.FindElement(By.CssSelector(css)).GetAttribute("value"))!;

    public void Click(string css) => Wait<object>(css, () =>
    {
        // A tap before the pad's script is awake posts the form, which works too and is tested by itself.
        if (ScriptsOn && !(bool)Script("return !document.getElementById('pad') || document.documentElement.dataset.pad === 'awake'")!)
        {
            return null;
        }
        var element = driver.FindElement(By.CssSelector(css));
        // What lies under the bar at the foot of the page is scrolled up first, as anybody does who wants to press it.
        driver.ExecuteScript("const e = arguments[0]; if ([...document.querySelectorAll('.next-bar, .air-banner, .form-end, .keys.last-row')].some(bar => !bar.contains(e) && e.getBoundingClientRect().bottom > bar.getBoundingClientRect().top)) e.scrollIntoView({ block: 'center' })", element);
        element.Click();
        return css;
    });

    /// <summary>Presses the mouse on an element and holds it there until it is let go.</summary>
    public void Hold(string css) => new Actions(driver).MoveToElement(Find(css)).ClickAndHold().Perform();

    public void LetGo() => new Actions(driver).Release().Perform();

    /// <summary>Presses keys where the focus is, as a keyboard does; on a pad once its script is awake.</summary>
    public void Press(string keys)
    {
        Until("the pad is awake", () => (bool)Script("return !document.getElementById('pad') || document.documentElement.dataset.pad === 'awake'")!);
        new Actions(driver).SendKeys(keys).Perform();
    }

    /// <summary>Presses keys while another is held.</summary>
    public void PressHolding(string held, string keys) => new Actions(driver).KeyDown(held).SendKeys(keys).KeyUp(held).Perform();

    /// <summary>Sends keys to an element: a choice in a list, a file to a field.</summary>
    public void Send(string css, string keys) => Wait<object>(css, () =>
    {
        driver.FindElement(By.CssSelector(css)).SendKeys(keys);
        return css;
    });

    /// <summary>Types into a field, over what stood there.</summary>
    public void Type(string css, string text) => Wait<object>(css, () =>
    {
        var field = driver.FindElement(By.CssSelector(css));
        field.Clear();
        field.SendKeys(text);
        return css;
    });

    /// <summary>Waits until something holds; says what when it never does.</summary>
    public void Until(string what, Func<bool> holds) => Wait<object>(what, () => holds() ? what : null);

    /// <summary>Waits until a part of the page says something; with <paramref name="reload"/> for a page that does not change by itself.</summary>
    public void UntilText(string css, string text, bool reload = false) => Until($"{css} says \"{text}\"", () =>
    {
        if (Seen(css)?.Contains(text, StringComparison.Ordinal) == true)
        {
            return true;
        }
        if (reload)
        {
            Reload();
        }
        return false;
    });

    /// <summary>Opens an address in a new tab, which has the focus from then on; answers the tab.</summary>
    public string OpenTab(string url)
    {
        origins.Add(new Uri(url).GetLeftPart(UriPartial.Authority));
        driver.SwitchTo().NewWindow(WindowType.Tab);
        driver.Navigate().GoToUrl(url);
        return driver.CurrentWindowHandle;
    }

    /// <summary>The tab that has the focus.</summary>
    public string Tab => driver.CurrentWindowHandle;

    /// <summary>Goes to a tab.</summary>
    public void GoToTab(string tab) => driver.SwitchTo().Window(tab);

    /// <summary>Closes the tab for good and goes on in a new one.</summary>
    public void CloseTab()
    {
        var old = driver.CurrentWindowHandle;
        driver.SwitchTo().NewWindow(WindowType.Tab);
        var fresh = driver.CurrentWindowHandle;
        driver.SwitchTo().Window(old);
        driver.Close();
        driver.SwitchTo().Window(fresh);
    }

    /// <summary>Tabs on until the element has the focus; fails when it is never reached.</summary>
    public void TabTo(string css)
    {
        for (var i = 0; i < 120; i++)
        {
            if ((bool)Script($"return document.activeElement === document.querySelector({Quoted(css)})")!)
            {
                return;
            }
            Press(Keys.Tab);
        }
        throw new InvalidOperationException($"{css} is not reached by the Tab key.");
    }

    public object? Script(string script) => driver.ExecuteScript(script);

    /// <summary>Taps an element with a finger.</summary>
    public void Tap(string css)
    {
        // In one go: what is found may be swapped a moment later. A finger waits until the page stands still, and lands on what it sees.
        double[] before = [];
        var place = Wait<object[]>(css, () =>
        {
            if (driver.ExecuteScript($$"""
                const e = document.querySelector({{Quoted(css)}});
                if (!e) return null;
                e.scrollIntoView({ block: 'center' });
                const r = (e.querySelector('svg') ?? e).getBoundingClientRect(), [x, y] = [r.left + r.width / 2, r.top + r.height / 2];
                return e.contains(document.elementFromPoint(x, y)) ? [x, y] : null;
                """) is not IReadOnlyList<object> at)
            {
                return null;
            }
            double[] now = [.. at.Select(v => Convert.ToDouble(v, System.Globalization.CultureInfo.InvariantCulture))];
            var still = now.SequenceEqual(before);
            before = now;
            return still ? [.. at] : null;
        });
        Dictionary<string, object>[] points = [new() { ["x"] = place[0], ["y"] = place[1] }];
        driver.ExecuteCdpCommand("Input.dispatchTouchEvent", new() { ["type"] = "touchStart", ["touchPoints"] = points });
        driver.ExecuteCdpCommand("Input.dispatchTouchEvent", new() { ["type"] = "touchEnd", ["touchPoints"] = Array.Empty<object>() });
    }

    public byte[] Picture() => driver.GetScreenshot().AsByteArray;

    /// <summary>What the browser complained about: script errors, refused content, missing files.</summary>
    public IReadOnlyList<string> Complaints() =>
        [.. driver.Manage().Logs.GetLog(LogType.Browser).Where(l => l.Level >= LogLevel.Warning).Select(l => l.Message)];

    /// <summary>Violations that axe-core finds on the page: rule, and the first element that breaks it.</summary>
    /// <param name="colours">True to look at contrast only: where nothing but the colours differs from a page that was looked at whole.</param>
    public IReadOnlyList<string> Violations(bool colours = false)
    {
        if (!(bool)Script("return 'axe' in window")!)
        {
            driver.ExecuteScript(Axe);
        }
        // Only what is wrong is written out: a line for each element that is right costs more than finding it right.
        var found = (ReadOnlyCollection<object>)driver.ExecuteAsyncScript("""
            const done = arguments[arguments.length - 1];
            axe.run(document, { resultTypes: ["violations"], runOnly: arguments[0] ? { type: "rule", values: ["color-contrast"] } : ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"] })
               .then(async r => {
                   // What a bar at the foot half hides can be scrolled clear: it is looked at again there.
                   const y = scrollY;
                   for (const v of r.violations.filter(v => v.id === "target-size")) {
                       const still = [];
                       for (const n of v.nodes) {
                           const target = document.querySelector(n.target[0]);
                           target.scrollIntoView({ block: "center", behavior: "instant" });
                           const again = await axe.run(target, { resultTypes: ["violations"], runOnly: { type: "rule", values: ["target-size"] } });
                           still.push(...again.violations.flatMap(w => w.nodes));
                       }
                       v.nodes = still;
                   }
                   scrollTo({ top: y, behavior: "instant" });
                   r.violations = r.violations.filter(v => v.nodes.length > 0);
                   return r;
               })
               .then(r => done(r.violations.map(v => v.id + ": " + v.nodes.slice(0, 3).map(n => n.target.join(" ") + " " + (n.any[0]?.message ?? n.failureSummary)).join(" | "))));
            """, colours)!;
        return [.. found.Cast<string>()];
    }

    private T Wait<T>(string what, Func<T?> look)
        where T : class
    {
        try
        {
            return WaitFor(what, look);
        }
        catch (WebDriverTimeoutException late)
        {
            // What stood there instead says more than that something did not.
            throw new WebDriverTimeoutException($"{late.Message} at {driver.Url}, which says: {driver.FindElement(By.TagName("body")).Text}{Outbox()}", late);
        }
    }

    // What waits on the tablet, and whether the browser tells at all.
    private string Outbox() => driver.ExecuteScript("""
        return window.zandrik?.outbox ? await Promise.race([
            zandrik.outbox.all().then(all => ` [Outbox: ${zandrik.outbox.trouble || "no trouble"}, for ${zandrik.outbox.person()}, ${JSON.stringify(all).slice(0, 500)}]`, broken => ` [Outbox: ${broken}]`),
            new Promise(done => setTimeout(done, 3000, " [Outbox: its database does not answer]"))]) : ""
        """) as string ?? "";

    private static T WaitFor<T>(string what, Func<T?> look)
        where T : class
    {
        var waited = Stopwatch.StartNew();
        // Often at first, then seldom: looking costs the browser that is waited for.
        for (var pause = 10; ; pause = Math.Min(2 * pause, 120))
        {
            try
            {
                if (look() is { } found)
                {
                    return found;
                }
            }
            catch (Exception notYet) when (notYet is NoSuchElementException or StaleElementReferenceException or ElementNotInteractableException)
            {
                // It may come.
            }
            if (Patience.IsOver(waited.Elapsed, Enough))
            {
                throw new WebDriverTimeoutException($"Waited {waited.Elapsed.TotalSeconds:0} s for: {what}");
            }
            Thread.Sleep(pause);
        }
    }

    private static string Quoted(string text) => System.Text.Json.JsonSerializer.Serialize(text);

    public void Dispose() => chromium.GiveBack(origins);
}
