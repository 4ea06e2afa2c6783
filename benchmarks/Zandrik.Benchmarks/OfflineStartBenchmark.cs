using System.Diagnostics;
using System.Globalization;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;

namespace Zandrik.Benchmarks;

/// <summary>
/// How long a tablet whose server is gone takes to open a job it knows: the browser is started anew each time. First with
/// a server that takes the call and says nothing, then with nobody at the address. Run through benchmarks/offline-start.
/// </summary>
internal static class OfflineStartBenchmark
{
    private const int Rounds = 20;
    private const string Job = "/jobs/10/";

    internal static void Run(Uri server, int pid, int start)
    {
        var profile = Directory.CreateTempSubdirectory("zandrik-offline-").FullName;
        try
        {
            using (var browser = Start(profile))
            {
                browser.Navigate().GoToUrl(new Uri(server, Job + "dry"));
                browser.FindElement(By.CssSelector("[data-demo=ostrel]")).Click();
                browser.Navigate().GoToUrl(new Uri(server, Job + "dry"));
                Until(browser, $"return caches.open('zandrik-pages-1').then(c => c.match('{Job}judgement')).then(m => !!m)");
            }
            Signal("-STOP", pid);
            Measure(profile, server, "the server takes the call and says nothing");
            Signal("-CONT", pid);
            // ./start, which would start the server again.
            Signal("-TERM", start);
            while (Directory.Exists($"/proc/{pid}"))
            {
                Thread.Sleep(100);
            }
            Measure(profile, server, "nobody is at the address");
        }
        finally
        {
            Directory.Delete(profile, recursive: true);
        }
    }

    private static void Measure(string profile, Uri server, string what)
    {
        var (page, all) = (new List<double>(), new List<double>());
        for (var i = 0; i < Rounds; i++)
        {
            var clock = Stopwatch.StartNew();
            using var browser = Start(profile);
            var started = clock.Elapsed.TotalMilliseconds;
            browser.Navigate().GoToUrl(new Uri(server, Job + (i % 2 == 0 ? "dry" : "leak-down")));
            Until(browser, "return document.body?.dataset.keptAt && !document.getElementById('kept-note').hidden && (!document.getElementById('pad') || document.documentElement.dataset.pad === 'awake')");
            all.Add(clock.Elapsed.TotalMilliseconds);
            page.Add(clock.Elapsed.TotalMilliseconds - started);
        }
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{what,-44} from address to usable: median {page.Order().ElementAt(Rounds / 2):0} ms, most {page.Max():0}; with the start of the browser: median {all.Order().ElementAt(Rounds / 2):0}, most {all.Max():0}   ({Rounds} starts)"));
    }

    private static ChromeDriver Start(string profile) => BenchClient.Browser($"--user-data-dir={profile}");

    private static void Until(ChromeDriver browser, string script)
    {
        for (var waited = Stopwatch.StartNew(); browser.ExecuteScript(script) is not true;)
        {
            if (waited.Elapsed > TimeSpan.FromMinutes(1))
            {
                throw new TimeoutException(script);
            }
            Thread.Sleep(5);
        }
    }

    private static void Signal(string signal, int pid)
    {
        using var kill = Process.Start("kill", [signal, pid.ToString(CultureInfo.InvariantCulture)]);
        kill.WaitForExit();
    }
}
