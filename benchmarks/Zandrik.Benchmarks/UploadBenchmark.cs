using System.Diagnostics;
using System.Globalization;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;

namespace Zandrik.Benchmarks;

/// <summary>A large capture from headless Chromium into a running server: how fast, and how much the server's working set grows while it is sent, kept and judged. Run through benchmarks/upload.</summary>
internal static class UploadBenchmark
{
    private const int JobWithoutCapture = 10;

    internal static void Run(Uri server, int pid, string file)
    {
        using var process = Process.GetProcessById(pid);
        using var browser = BenchClient.Browser();
        browser.Navigate().GoToUrl(new Uri(server, "/"));
        browser.FindElement(By.CssSelector("[data-demo=ostrel]")).Click();
        for (var round = 1; round <= 3; round++)
        {
            browser.Navigate().GoToUrl(new Uri(server, $"/jobs/{JobWithoutCapture}/relative-compression?view=Guide"));
            browser.FindElement(By.Id("file")).SendKeys(file);
            var before = WorkingSet(process);
            Stage(browser, process, before, $"round {round}, {new FileInfo(file).Length / 1e6:0} MB sent and kept", "[data-bring]", "[data-judge-now]");
            Stage(browser, process, before, $"round {round}, judged", "[data-judge-now]", "[data-headline]");
        }
    }

    private static void Stage(ChromeDriver browser, Process process, long before, string name, string press, string until)
    {
        var clock = Stopwatch.StartNew();
        var (most, shares) = (0L, new HashSet<string>());
        browser.FindElement(By.CssSelector(press)).Click();
        while (browser.FindElements(By.CssSelector(until)).Count == 0 && clock.Elapsed < TimeSpan.FromMinutes(5))
        {
            most = Math.Max(most, WorkingSet(process));
            if (browser.ExecuteScript("return document.querySelector('[data-bringing] progress')?.value.toFixed(2) ?? null") is string share)
            {
                shares.Add(share);
            }
        }
        most = Math.Max(most, WorkingSet(process));
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{name}: {clock.Elapsed.TotalSeconds:0.0} s, working set {before / 1e6:0} MB before, at most {most / 1e6:0} MB, grew by {(most - before) / 1e6:0} MB{(shares.Count > 1 ? $", {shares.Count} steps of progress seen" : "")}"));
    }

    private static long WorkingSet(Process process)
    {
        process.Refresh();
        return process.WorkingSet64;
    }
}
