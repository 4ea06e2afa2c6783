using System.Diagnostics;
using System.Globalization;
using Zandrik.Web.Tests.Front;

namespace Zandrik.Web.Tests.Clusters;

/// <summary>Several copies on a database of three machines, as ./cluster brings them up on loopback.</summary>
public sealed class RunningCluster : IAsyncLifetime
{
    private readonly string data = Directory.CreateTempSubdirectory("zandrik-cluster-").FullName;
    private readonly int port = ProcessTests.FreePort();

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    /// <summary>Where the proxy answers.</summary>
    public string Address => $"http://127.0.0.1:{port}";

    /// <summary>A client of its API, with the demo shop's token.</summary>
    public HttpClient Api()
    {
        var api = new HttpClient { BaseAddress = new Uri(Address) };
        api.DefaultRequestHeaders.Authorization = new("Bearer", "zandrik-demo-token");
        return api;
    }

    /// <summary>Runs a verb of ./cluster.</summary>
    /// <returns>What it said.</returns>
    public async Task<string> SayAsync(params string[] arguments)
    {
        var start = new ProcessStartInfo(Path.Combine(Repository.Root, "cluster"), [.. arguments, "--data", data]) { RedirectStandardOutput = true };
        foreach (var name in start.Environment.Keys.Where(k => k.StartsWith("ZANDRIK_", StringComparison.Ordinal)).ToList())
        {
            start.Environment.Remove(name);
        }
        using var script = Process.Start(start)!;
        // What it starts outlives it and may hold its output: it has said all once it ended.
        var said = "";
        while (await script.StandardOutput.ReadLineAsync(Cancel) is { } line)
        {
            said += line + "\n";
            if (line.StartsWith("Zandrik is ready", StringComparison.Ordinal))
            {
                break;
            }
        }
        await script.WaitForExitAsync(Cancel);
        script.ExitCode.ShouldBe(0, said);
        return said;
    }

    /// <summary>Its pieces, each with what it is just now.</summary>
    public async Task<IReadOnlyDictionary<string, string>> StatusAsync() =>
        (await SayAsync("status")).Split('\n').Select(l => l.Split(' ', 2, StringSplitOptions.TrimEntries)).Where(p => p.Length == 2).ToDictionary(p => p[0], p => p[1]);

    /// <summary>Where one copy answers, past the proxy.</summary>
    public async Task<string> AddressOfAsync(string copy) => (await StatusAsync())[copy].Split('(', ')')[1];

    /// <summary>Waits until every piece is there and what is acknowledged stands on two machines.</summary>
    public async Task WholeAsync()
    {
        var waited = Stopwatch.StartNew();
        while (true)
        {
            var status = await StatusAsync();
            string[] nodes = [.. status.Where(p => p.Key.StartsWith("node", StringComparison.Ordinal)).Select(p => p.Value)];
            if (nodes.Count(n => n == "primary") == 1 && nodes.Count(n => n.StartsWith("follows", StringComparison.Ordinal)) == 2 && nodes.Any(n => n.Contains("acknowledged", StringComparison.Ordinal))
                && status.Where(p => p.Key.StartsWith("web", StringComparison.Ordinal)).All(p => p.Value.StartsWith("ready", StringComparison.Ordinal)))
            {
                return;
            }
            Patience.IsOver(waited.Elapsed, TimeSpan.FromMinutes(2)).ShouldBeFalse($"it is whole again: {string.Join(", ", status)}");
            await Task.Delay(500, Cancel);
        }
    }

    /// <summary>Brings it up.</summary>
    public async ValueTask InitializeAsync()
    {
        // The databases run as a person of their own.
        File.SetUnixFileMode(data, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute | UnixFileMode.GroupExecute | UnixFileMode.OtherExecute | UnixFileMode.GroupRead | UnixFileMode.OtherRead);
        await SayAsync("up", "--port", port.ToString(CultureInfo.InvariantCulture));
    }

    /// <summary>Ends it and removes what it kept.</summary>
    public async ValueTask DisposeAsync()
    {
        await SayAsync("down", "--forget");
        Directory.Delete(data, recursive: true);
    }
}
