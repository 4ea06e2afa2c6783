using System.Globalization;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;

namespace Zandrik.Benchmarks;

/// <summary>
/// Our drawing of a trace beside a well-kept package for charts over time, in one headless Chromium on one page with the
/// same points: what the page is busy for with each frame. Run through benchmarks/trace-drawing, which fetches the package.
/// </summary>
internal static class TraceDrawingBenchmark
{
    private const int Frames = 150, Rounds = 3;

    internal static void Run(Uri server, string package)
    {
        using var browser = BenchClient.Browser("--window-size=1280,800");
        browser.Manage().Timeouts().AsynchronousJavaScript = TimeSpan.FromSeconds(40);
        browser.Navigate().GoToUrl(new Uri(server, "/sign-in"));
        browser.FindElement(By.CssSelector("[data-demo=ostrel]")).Click();
        // The first demo job with a capture.
        var job = Enumerable.Range(1, 30).First(n =>
        {
            browser.Navigate().GoToUrl(new Uri(server, $"/jobs/{n}/relative-compression"));
            return browser.FindElements(By.CssSelector("main [data-trace]")).Count > 0;
        });
        browser.ExecuteAsyncScript("""
            const done = arguments[arguments.length - 1];
            (function wait() { document.documentElement.dataset.trace === "awake" ? done() : requestAnimationFrame(wait); })();
            """);
        // Through the browser's own tools: the page's policy lets no script of another in.
        browser.ExecuteCdpCommand("Runtime.evaluate", new() { ["expression"] = File.ReadAllText(package) });
        var points = browser.ExecuteAsyncScript("""
            const done = arguments[arguments.length - 1], box = document.querySelector("main [data-trace]"), canvas = box.querySelector("canvas");
            (async () => {
                const bytes = await (await fetch(box.dataset.trace)).arrayBuffer(), head = new DataView(bytes);
                const [n, syncs, step] = [head.getInt32(0, true), head.getInt32(4, true), head.getFloat64(8, true)];
                const [from, by] = [head.getFloat32(16, true), head.getFloat32(20, true)];
                const current = new Uint16Array(bytes, 40, 2 * n), sync = new Uint16Array(bytes, 40 + 4 * n, 2 * syncs);
                const data = [[], []].concat(syncs ? [[]] : []);
                for (let i = 0; i < 2 * n; i++) { data[0].push((i + 0.5) * step / 2); data[1].push(from + by * current[i]); if (syncs) data[2].push(sync[i]); }
                const place = document.createElement("div");
                document.querySelector("main").append(place);
                const line = stroke => ({ stroke, width: 1.3, points: { show: false } });
                const chart = new uPlot({ width: canvas.clientWidth, height: canvas.clientHeight, scales: { x: { time: false }, sync: {} }, cursor: { show: false }, legend: { show: false },
                    series: [{}, line("#223")].concat(syncs ? [{ ...line("#a60"), scale: "sync" }] : []) }, data, place);
                const end = n * step, frame = () => new Promise(done => requestAnimationFrame(() => done()));
                const key = k => canvas.dispatchEvent(new KeyboardEvent("keydown", { key: k }));
                window.draws = {
                    "ours, whole": async i => key(i % 2 ? "ArrowLeft" : "ArrowRight"),
                    "package, whole": async i => chart.setScale("x", { min: 0, max: end - (i % 2) * end / 1e6 }),
                    "ours, a 64th": async i => { if (i === 0) { key("Home"); for (let z = 0; z < 6; z++) key("+"); } key(i % 2 ? "ArrowLeft" : "ArrowRight"); },
                    "package, a 64th": async i => { const shift = (i % 2) * end / 1e5; chart.setScale("x", { min: end / 2 + shift, max: end / 2 + end / 64 + shift }); },
                };
                window.drawn = async (name, frames) => { for (let i = 0; i < frames; i++) { await draws[name](i); await frame(); } };
                done(2 * n);
            })().catch(e => done(`cannot: ${e}`));
            """);
        Console.WriteLine($"job {job}, {points} points of current, and of sync as many where there is one");
        browser.ExecuteCdpCommand("Performance.enable", []);
        string[] names = ["ours, whole", "package, whole", "ours, a 64th", "package, a 64th"];
        var times = names.ToDictionary(n => n, _ => new List<double>());
        for (var round = 0; round < Rounds; round++)
        {
            // Turn about, so that whatever else the machine does falls on all alike.
            foreach (var name in names)
            {
                Draw(browser, name, 10);
                var before = Busy(browser);
                Draw(browser, name, Frames);
                times[name].Add(1000 * (Busy(browser) - before) / Frames);
            }
        }
        foreach (var (name, each) in times)
        {
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{name,-20} {each.Order().ElementAt(Rounds / 2):0.00} ms a frame"));
        }
    }

    private static void Draw(ChromeDriver browser, string name, int frames)
    {
        if (browser.ExecuteAsyncScript("const done = arguments[2]; window.drawn(arguments[0], arguments[1]).then(() => done(null), e => done(`cannot: ${e}`))", name, frames) is string problem)
        {
            throw new InvalidOperationException($"{name}: {problem}");
        }
    }

    // Seconds the page's main thread was busy, since it began.
    private static double Busy(ChromeDriver browser)
    {
        var metrics = (IEnumerable<object>)((Dictionary<string, object>)browser.ExecuteCdpCommand("Performance.getMetrics", [])!)["metrics"];
        return Convert.ToDouble(metrics.Cast<Dictionary<string, object>>().First(m => (string)m["name"] == "TaskDuration")["value"], CultureInfo.InvariantCulture);
    }
}
