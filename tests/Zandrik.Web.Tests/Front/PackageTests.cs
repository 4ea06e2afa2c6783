using System.Diagnostics;
using System.Globalization;
using System.Text.RegularExpressions;

namespace Zandrik.Web.Tests.Front;

/// <summary>
/// The package on a machine that has nothing of it: made, installed, used, upgraded, restored, purged. It changes the
/// machine, so it runs where that is what the machine is for (CI set, as root, nothing installed), and nowhere else.
/// </summary>
public sealed class PackageTests : IDisposable
{
    private readonly string made = Directory.CreateTempSubdirectory("zandrik-packages-").FullName;
    private readonly int port = ProcessTests.FreePort();
    private Process? server;

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private static ProcessStartInfo Command(string command, params string[] arguments)
    {
        var start = new ProcessStartInfo(command, arguments) { RedirectStandardOutput = true, RedirectStandardError = true };
        start.Environment["DEBIAN_FRONTEND"] = "noninteractive";
        foreach (var name in start.Environment.Keys.Where(k => k.StartsWith("ZANDRIK_", StringComparison.Ordinal)).ToList())
        {
            start.Environment.Remove(name);
        }
        return start;
    }

    private static async Task<(int Code, string Said)> RunAsync(string command, params string[] arguments)
    {
        using var process = Process.Start(Command(command, arguments))!;
        var output = process.StandardOutput.ReadToEndAsync(Cancel);
        var errors = process.StandardError.ReadToEndAsync(Cancel);
        await process.WaitForExitAsync(Cancel);
        return (process.ExitCode, await output + await errors);
    }

    private static async Task<string> DoneAsync(string command, params string[] arguments)
    {
        var (code, said) = await RunAsync(command, arguments);
        code.ShouldBe(0, $"{command} {string.Join(' ', arguments)}: {said}");
        return said;
    }

    private static Task<string> InstallAsync(string package) => DoneAsync("apt-get", "install", "-y", "-qq", "-o", "DPkg::Lock::Timeout=300", "--no-install-recommends", package);

    private async Task<string> MakeAsync(int revision) => Regex.Match(await DoneAsync(Path.Combine(Repository.Root, "package"), "--out", made, "--revision", $"{revision}"), @"Made (\S+\.deb)").Groups[1].Value;

    private async Task ServeAsync()
    {
        server = Process.Start(Command("zandrik", "serve"))!;
        while (await server.StandardOutput.ReadLineAsync(Cancel) is { } line && !line.Contains("Zandrik is ready", StringComparison.Ordinal))
        {
        }
        server.HasExited.ShouldBeFalse();
        _ = server.StandardOutput.ReadToEndAsync(Cancel);
        _ = server.StandardError.ReadToEndAsync(Cancel);
    }

    private async Task StopAsync()
    {
        Process.Start("kill", ["-TERM", server!.Id.ToString(CultureInfo.InvariantCulture)]).WaitForExit();
        await server.WaitForExitAsync(Cancel);
        server.ExitCode.ShouldBe(0);
        server = null;
    }

    [Fact]
    public async Task It_is_installed_used_upgraded_restored_and_purged()
    {
        Assert.SkipUnless(Environment.GetEnvironmentVariable("CI") == "true" && Environment.UserName == "root" && File.Exists("/usr/bin/apt-get") && !File.Exists("/usr/bin/zandrik") && !Directory.Exists("/run/systemd/system"),
            "It installs a package: only where CI is set, as root, without one.");
        await InstallAsync(await MakeAsync(1));
        (await RunAsync("systemd-analyze", "--version")).Code.ShouldBe(0);
        foreach (var unit in new[] { "zandrik.service", "zandrik-backup.service", "zandrik-backup.timer" })
        {
            (await DoneAsync("systemd-analyze", "verify", $"/lib/systemd/system/{unit}")).ShouldBe("");
        }
        var settings = await File.ReadAllTextAsync("/etc/zandrik/zandrik.conf", Cancel);
        await File.WriteAllTextAsync("/etc/zandrik/zandrik.conf", settings.Replace("PORT=5080", $"PORT={port}", StringComparison.Ordinal), Cancel);
        (await RunAsync("zandrik", "status")).Code.ShouldBe(3);

        await ServeAsync();
        (await DoneAsync("zandrik", "status")).ShouldContain($"0.2.0-1 runs: http://127.0.0.1:{port}");
        (await DoneAsync("zandrik", "first-foreman")).ShouldContain($"http://127.0.0.1:{port}/welcome/");
        using var api = new HttpClient { BaseAddress = new Uri($"http://127.0.0.1:{port}") };
        api.DefaultRequestHeaders.Authorization = new("Bearer", (await DoneAsync("zandrik", "token", "The yard")).Split('\n')[0]);
        var job = await api.AddJobAsync("""{ "vehicle": { "label": "Ferry winch" }, "engine": { "cylinders": 4 }, "tests": [ { "kind": "compression-dry", "unit": "psi", "readings": [ { "cylinder": 1, "value": 197 } ] } ] }""");
        var record = (await api.RecordAsync(job)).ToJsonString();
        (await DoneAsync("zandrik", "backup")).ShouldContain("Saved: /var/backups/zandrik/");
        var saved = Directory.GetFiles("/var/backups/zandrik").Single();
        (await RunAsync("zandrik", "restore", saved, "--put-away")).Said.ShouldContain("stop it first");
        await StopAsync();

        // Upgraded: a backup first, the settings as they were changed, the readings as they were.
        (await DoneAsync("zandrik", "upgrade", await MakeAsync(2))).ShouldContain("Saved: ");
        (await File.ReadAllTextAsync("/etc/zandrik/zandrik.conf", Cancel)).ShouldContain($"PORT={port}");
        await ServeAsync();
        (await DoneAsync("zandrik", "status")).ShouldContain("0.2.0-2 runs");
        (await api.RecordAsync(job)).ToJsonString().ShouldBe(record);
        var later = await api.AddJobAsync("""{ "vehicle": { "label": "Later" }, "engine": { "cylinders": 4 } }""");
        await StopAsync();

        // Restored in its place; what was there is put away.
        (await RunAsync("zandrik", "restore", saved)).Said.ShouldContain("There are data already");
        (await DoneAsync("zandrik", "restore", saved, "--put-away")).ShouldContain("What was there before is in");
        await ServeAsync();
        (await api.RecordAsync(job)).ToJsonString().ShouldBe(record);
        (await api.GetAsync(new Uri($"/api/v1/jobs/{later}/record", UriKind.Relative), Cancel)).IsSuccessStatusCode.ShouldBeFalse("it came after the backup");
        await StopAsync();

        (await DoneAsync("apt-get", "purge", "-y", "-qq", "zandrik")).ShouldContain("are kept");
        Directory.Exists("/var/lib/zandrik").ShouldBeFalse();
        Directory.Exists("/etc/zandrik").ShouldBeFalse();
        File.Exists("/usr/bin/zandrik").ShouldBeFalse();
        Directory.GetFiles("/var/backups/zandrik").Length.ShouldBe(2);
        Directory.Delete("/var/backups/zandrik", recursive: true);
    }

    public void Dispose()
    {
        if (server is not null)
        {
            server.Kill(entireProcessTree: true);
            server.Dispose();
        }
        Directory.Delete(made, recursive: true);
    }
}
