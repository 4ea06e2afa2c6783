using System.Diagnostics;
using System.Globalization;
using System.Text;
using System.Text.Json.Nodes;
using OpenQA.Selenium;

namespace Zandrik.Benchmarks;

/// <summary>
/// The steps of a V12 that has every test: server time and weight of each swap, and in headless Chromium the time
/// from a tap on the listening section or the crank ring to the frame that shows it. Run through benchmarks/steps.
/// </summary>
internal static class StepsBenchmark
{
    private const int WarmUp = 30, Rounds = 200, Taps = 60;

    internal static async Task RunAsync(Uri server)
    {
        using var api = new HttpClient { BaseAddress = server };
        api.DefaultRequestHeaders.Authorization = new("Bearer", "zandrik-demo-token");
        using var made = await api.PostAsync(new Uri("/api/v1/jobs", UriKind.Relative), new StringContent(Record().ToJsonString(), Encoding.UTF8, "application/json"));
        made.EnsureSuccessStatusCode();
        var job = (int)JsonNode.Parse(await made.Content.ReadAsStringAsync())!["id"]!;
        using var client = new HttpClient { BaseAddress = server };
        await BenchClient.SignInAsync(client);
        client.DefaultRequestHeaders.Add("HX-Request", "true");
        string[] steps = ["dry", "leak-down?cylinder=5", "wet?cylinder=5", "running?cylinder=1"];
        var times = steps.ToDictionary(s => s, _ => new List<double>());
        var bytes = new Dictionary<string, int>();
        // Turn about, so that whatever else the machine does falls on all alike.
        for (var i = 0; i < WarmUp + Rounds; i++)
        {
            foreach (var step in steps)
            {
                var clock = Stopwatch.StartNew();
                var body = await client.GetByteArrayAsync(new Uri($"/jobs/{job}/{step}", UriKind.Relative));
                if (i >= WarmUp)
                {
                    times[step].Add(clock.Elapsed.TotalMilliseconds);
                }
                bytes[step] = body.Length;
            }
        }
        foreach (var step in steps)
        {
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{step,-24} median {At(times[step], 0.5):0.0} ms   p95 {At(times[step], 0.95):0.0}   p99 {At(times[step], 0.99):0.0}   {bytes[step] / 1024.0:0.0} kB uncompressed"));
        }
        Redraws(server, job);
    }

    private static void Redraws(Uri server, int job)
    {
        using var browser = BenchClient.Browser();
        browser.Navigate().GoToUrl(new Uri(server, $"/jobs/{job}/leak-down"));
        browser.FindElement(By.CssSelector("[data-demo=ostrel]")).Click();
        browser.Navigate().GoToUrl(new Uri(server, $"/jobs/{job}/leak-down?cylinder=5"));
        foreach (var (name, targets) in new[] { ("listening section", "[data-ear]"), ("crank ring", ".station:not(.now)") })
        {
            if (name == "crank ring")
            {
                // Taps of before are still being answered, and each answer draws the step anew.
                var deadline = Stopwatch.StartNew();
                while (!(bool)browser.ExecuteScript("""
                    if (document.querySelector(".station.now")) return true;
                    document.querySelector("[aria-label='Crank at cylinder 1']:not([aria-busy])")?.click();
                    return false;
                    """)! && deadline.Elapsed < TimeSpan.FromSeconds(20))
                {
                    Thread.Yield();
                }
            }
            var shown = ((IReadOnlyCollection<object>)browser.ExecuteAsyncScript($$"""
                const done = arguments[arguments.length - 1], times = [];
                const next = () => {
                  if (times.length === {{Taps}}) return done(times);
                  const all = document.querySelectorAll("{{targets}}"), target = all[times.length % all.length];
                  const from = performance.now();
                  target.dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true }));
                  // The second frame after it is painted with the change.
                  requestAnimationFrame(() => requestAnimationFrame(() => { times.push(performance.now() - from); setTimeout(next, 30); }));
                };
                next();
                """)!).Select(t => Convert.ToDouble(t, CultureInfo.InvariantCulture)).ToList();
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{name,-24} tap to shown, median {At(shown, 0.5):0.0} ms   p95 {At(shown, 0.95):0.0}   most {shown.Max():0.0}   ({shown.Count} taps)"));
        }
    }

    private static double At(List<double> values, double part) => values.Order().ElementAt((int)(part * (values.Count - 1)));

    // Twelve cylinders, every kind of test, all of them read, listened to and repeated.
    private static JsonObject Record()
    {
        var cylinders = Enumerable.Range(1, 12).ToList();
        JsonArray Each(Func<int, string> reading) => new([.. cylinders.Select(c => JsonNode.Parse(reading(c)))]);
        JsonObject Test(string kind, string more, JsonArray readings)
        {
            var test = JsonNode.Parse($$"""{ "kind": "{{kind}}", "at": "2026-03-02T09:40:00Z", "by": "M. Ostrel" {{more}} }""")!.AsObject();
            test["readings"] = readings;
            return test;
        }
        return new JsonObject
        {
            ["format"] = "zandrik-test-record", ["version"] = 1, ["vehicle"] = new JsonObject { ["label"] = "Breakwater crane" },
            ["engine"] = JsonNode.Parse("""
                { "name": "6.0 V12", "fuel": "petrol", "cylinders": 12, "layout": "v", "banks": [[1, 2, 3, 4, 5, 6], [7, 8, 9, 10, 11, 12]], "firingOrder": [1, 7, 5, 11, 3, 9, 6, 12, 2, 8, 4, 10],
                  "rotation": "clockwise", "compressionRatio": 10, "boreMm": 84, "strokeMm": 90, "throttle": "cable", "gearbox": "manual", "spec": { "unit": "psi", "nominal": 205, "minimum": 150, "maxLeakPercent": 20 } }
                """),
            ["tests"] = new JsonArray(
                Test("compression-dry", """, "unit": "psi", "conditions": { "engineTemperature": "warm", "throttle": "open" }""", Each(c => $$"""{ "cylinder": {{c}}, "value": {{(c is 5 or 6 ? 140 : 204 + c % 3)}}, "firstPulse": 100, "pulses": 7, "repeats": [{{(c is 5 or 6 ? 141 : 203)}}], "order": {{c}} }""")),
                Test("leak-down", """, "unit": "psi", "supply": 100, "tester": { "label": "Leak tester", "restrictionMm": 1.0 }""", Each(c => $$"""{ "cylinder": {{c}}, "supply": 100, "held": {{(c is 5 or 6 ? 35 : 90)}}, "heard": [ { "at": "oil-filler", "strength": "faint" }{{(c == 5 ? """, { "at": "adjacent-plug-hole", "cylinder": 6, "strength": "strong" }""" : "")}} ], "listened": ["intake", "exhaust", "oil-filler", "coolant", "adjacent-plug-hole"] }""")),
                Test("compression-wet", """, "unit": "psi", "oilMl": 9""", Each(c => $$"""{ "cylinder": {{c}}, "value": {{(c is 5 or 6 ? 146 : 212)}} }""")),
                Test("compression-running", """, "unit": "psi" """, Each(c => $$"""{ "cylinder": {{c}}, "idle": {{108 + c % 3}}, "snap": {{178 + c % 3}}, "purged": true }""")),
                Test("plug-inspection", "", Each(c => $$"""{ "cylinder": {{c}}, "signs": ["normal"], "keep": true }""")),
                JsonNode.Parse("""{ "kind": "combustion-gas", "result": "negative" }""")),
        };
    }
}
