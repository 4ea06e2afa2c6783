using System.Diagnostics;
using System.Globalization;
using System.Text;
using System.Text.Json.Nodes;
using Zandrik.Web.Tests.Front;

namespace Zandrik.Web.Tests.Trust;

/// <summary>The application as a shop starts it: ./start with a data directory and processes of its own.</summary>
public sealed class StartedApp : IAsyncLifetime
{
    private readonly string data = Directory.CreateTempSubdirectory("zandrik-kill-").FullName;
    private readonly int port = ProcessTests.FreePort();
    private Process? script;

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    /// <summary>Where it is reached.</summary>
    public string Address => $"http://127.0.0.1:{port}";

    /// <summary>A client of its API, with the demo shop's token.</summary>
    public HttpClient Api()
    {
        var api = new HttpClient { BaseAddress = new Uri(Address) };
        api.DefaultRequestHeaders.Authorization = new("Bearer", "zandrik-demo-token");
        return api;
    }

    /// <summary>Makes a job of a number of cylinders.</summary>
    public static async Task<int> JobAsync(HttpClient api, int cylinders)
    {
        using var made = await api.PostAsync(new Uri("/api/v1/jobs", UriKind.Relative),
            new StringContent($$"""{ "format": "zandrik-test-record", "version": 1, "engine": { "cylinders": {{cylinders}} } }""", Encoding.UTF8, "application/json"), Cancel);
        made.EnsureSuccessStatusCode();
        return (int)JsonNode.Parse(await made.Content.ReadAsStringAsync(Cancel))!["id"]!;
    }

    /// <summary>Process of the server, as it was started last.</summary>
    public int WebPid => int.Parse(File.ReadAllText(Path.Combine(data, "web.pid")), CultureInfo.InvariantCulture);

    /// <summary>Process of the database; absent while it is away.</summary>
    public int? DatabasePid => File.Exists(Path.Combine(data, "pg", "data", "postmaster.pid")) && int.TryParse(File.ReadLines(Path.Combine(data, "pg", "data", "postmaster.pid")).First(), CultureInfo.InvariantCulture, out var pid) ? pid : null;

    /// <summary>Starts it and waits until it is ready.</summary>
    public async ValueTask InitializeAsync()
    {
        // The database runs as a person of its own.
        File.SetUnixFileMode(data, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute | UnixFileMode.GroupExecute | UnixFileMode.OtherExecute | UnixFileMode.GroupRead | UnixFileMode.OtherRead);
        var start = new ProcessStartInfo(Path.Combine(Repository.Root, "start"), ["--data", data, "--port", port.ToString(CultureInfo.InvariantCulture)]) { RedirectStandardOutput = true, RedirectStandardError = true };
        foreach (var name in start.Environment.Keys.Where(k => k.StartsWith("ZANDRIK_", StringComparison.Ordinal)).ToList())
        {
            start.Environment.Remove(name);
        }
        script = Process.Start(start)!;
        while (await script.StandardOutput.ReadLineAsync(Cancel) is { } line && !line.Contains("Zandrik is ready", StringComparison.Ordinal))
        {
            // Building and loading.
        }
        _ = script.StandardOutput.ReadToEndAsync(Cancel);
        _ = script.StandardError.ReadToEndAsync(Cancel);
    }

    /// <summary>
    /// Lets the database write nothing more, as on a full disk: its files may not grow past a few pages, which PostgreSQL takes for a full disk and ends itself. The script
    /// is held meanwhile, because on a disk that stays full whatever it starts ends as well.
    /// </summary>
    /// <param name="full">False to make room again.</param>
    public void Disk(bool full)
    {
        if (full && DatabasePid is { } pid)
        {
            Run("kill", "-STOP", $"{script!.Id}");
            // The parent first: what it starts from then on has the limit from it, and what it had started is among its children.
            Limit($"{pid}");
            foreach (var child in Run("pgrep", "-P", $"{pid}").Split('\n', StringSplitOptions.RemoveEmptyEntries))
            {
                Limit(child);
            }
        }
        else
        {
            Run("kill", "-CONT", $"{script!.Id}");
        }
    }

    // A limit is set by whoever the process belongs to.
    private static void Limit(string process)
    {
        string[] limit = ["prlimit", "--pid", process, "--fsize=65536:"];
        _ = Environment.UserName == "root" ? Run("runuser", ["-u", "postgres", "--", .. limit]) : Run(limit[0], limit[1..]);
    }

    private static string Run(string program, params string[] arguments)
    {
        using var process = Process.Start(new ProcessStartInfo(program, arguments) { RedirectStandardOutput = true, WorkingDirectory = "/" })!;
        var said = process.StandardOutput.ReadToEnd();
        process.WaitForExit();
        return said;
    }

    /// <summary>Ends a process without warning.</summary>
    public static void Kill(int pid) => Process.Start("kill", ["-9", pid.ToString(CultureInfo.InvariantCulture)]).WaitForExit();

    /// <summary>Ends it and removes what it kept.</summary>
    public ValueTask DisposeAsync()
    {
        if (script is { HasExited: false })
        {
            Disk(full: false);
            Process.Start("kill", ["-TERM", script.Id.ToString(CultureInfo.InvariantCulture)]).WaitForExit();
            script.WaitForExit(TimeSpan.FromSeconds(30));
        }
        if (DatabasePid is { } pid)
        {
            Process.Start("kill", ["-QUIT", pid.ToString(CultureInfo.InvariantCulture)]).WaitForExit();
        }
        try
        {
            Directory.Delete(data, recursive: true);
        }
        catch (IOException)
        {
            // The database writes its last words: the folder is left to the system.
        }
        return ValueTask.CompletedTask;
    }
}
