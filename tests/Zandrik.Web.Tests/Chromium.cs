using System.Collections.Concurrent;
using System.Diagnostics;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;
using Zandrik.Web.Tests;

[assembly: AssemblyFixture(typeof(Chromium.AtTheEnd))]

namespace Zandrik.Web.Tests;

/// <summary>A running Chromium with its driver. Starting one takes longer than many a test, so it is handed on, cleared, from test to test.</summary>
internal sealed class Chromium
{
    private static readonly ConcurrentBag<Chromium> Idle = [];

    private readonly string profile;

    private readonly bool isLent;

    private Chromium(string? authority = null, string? again = null)
    {
        profile = again ?? Directory.CreateTempSubdirectory("zandrik-browser-").FullName;
        // The same engine without windows of its own takes less of both cores (docs/performance.md); what a person trusts it does not know.
        var options = new ChromeOptions { BinaryLocation = authority is null && File.Exists("/usr/bin/chromium-headless-shell") ? Path.Combine(Repository.Root, "tests", "Zandrik.Web.Tests", "Assets", "headless-shell") : "/usr/bin/chromium" };
        options.AddArguments("--headless=new", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
            "--disable-component-update", "--disable-sync", "--disable-extensions", "--disable-default-apps", "--mute-audio", "--disable-breakpad", "--disable-features=Translate,OptimizationHints,MediaRouter,SpareRendererForSitePerProcess",
            "--force-device-scale-factor=1", "--hide-scrollbars", $"--user-data-dir={profile}");
        if (Environment.UserName == "root")
        {
            options.AddArgument("--no-sandbox");
        }
        options.SetLoggingPreference(LogType.Browser, LogLevel.All);
        var service = ChromeDriverService.CreateDefaultService("/usr/bin", "chromedriver");
        if (authority is not null)
        {
            isLent = true;
            Trust(authority);
            // The browser looks for what a person trusts in that person's home.
            service.DriverProcessStarting += (_, e) => e.DriverServiceProcessStartInfo.Environment["HOME"] = profile;
        }
        Driver = new ChromeDriver(service, options, TimeSpan.FromSeconds(60));
        Browser.Size(Driver, 1280, 800);
    }

    public ChromeDriver Driver { get; }

    /// <summary>One that knows nothing of earlier tests: a cleared one, else a new one.</summary>
    public static Chromium Take() => Idle.TryTake(out var cleared) ? cleared : new Chromium();

    /// <summary>One that trusts an authority, as a tablet on which it was installed; it goes with its test.</summary>
    /// <param name="authority">The certificate, PEM or DER.</param>
    public static Chromium Trusting(string authority) => new(authority);

    /// <summary>Ends it and starts another with everything it had kept, as a tablet that was switched off.</summary>
    public Chromium Restart()
    {
        Driver.Quit();
        Driver.Dispose();
        return new Chromium(again: profile);
    }

    private void Trust(string authority)
    {
        var store = Directory.CreateDirectory(Path.Combine(profile, ".pki", "nssdb")).FullName;
        foreach (var arguments in new string[][] { ["-N", "--empty-password"], ["-A", "-t", "C,,", "-n", "workshop", "-i", authority] })
        {
            using var tool = Process.Start("certutil", ["-d", $"sql:{store}", .. arguments]);
            tool.WaitForExit();
            tool.ExitCode.ShouldBe(0);
        }
    }

    /// <summary>Gives it back, cleared of what the pages of these origins left. One that cannot be cleared is ended.</summary>
    public void GiveBack(IEnumerable<string> origins)
    {
        if (isLent)
        {
            End();
            return;
        }
        try
        {
            // What was emulated belongs to a tab and goes with it.
            var tabs = Driver.WindowHandles;
            Driver.SwitchTo().NewWindow(WindowType.Tab);
            var fresh = Driver.CurrentWindowHandle;
            foreach (var tab in tabs)
            {
                Driver.SwitchTo().Window(tab);
                Driver.Close();
            }
            Driver.SwitchTo().Window(fresh);
            foreach (var origin in origins)
            {
                Driver.ExecuteCdpCommand("Storage.clearDataForOrigin", new() { ["origin"] = origin, ["storageTypes"] = "all" });
            }
            Driver.ExecuteCdpCommand("Network.clearBrowserCookies", []);
            Driver.ExecuteCdpCommand("Network.clearBrowserCache", []);
            _ = Driver.Manage().Logs.GetLog(LogType.Browser);
            Browser.Size(Driver, 1280, 800);
            Idle.Add(this);
        }
        catch (WebDriverException)
        {
            End();
        }
    }

    private void End()
    {
        Driver.Quit();
        Driver.Dispose();
        try
        {
            Directory.Delete(profile, recursive: true);
        }
        catch (IOException)
        {
            // A process of the browser still writes into it: the folder is left to the system, the test is not at fault.
        }
    }

    /// <summary>Ends those that nobody takes any more.</summary>
    public sealed class AtTheEnd : IDisposable
    {
        public void Dispose()
        {
            while (Idle.TryTake(out var one))
            {
                one.End();
            }
        }
    }
}
