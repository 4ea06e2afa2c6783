using System.Diagnostics;
using System.Globalization;
using System.Text.Json.Nodes;
using Zandrik.Web.Tests.Front;

namespace Zandrik.Web.Tests.Trust;

/// <summary>
/// The server or its database is killed, without warning, while keyed entries come in; ./start brings it back, and every
/// entry stands once. ZANDRIK_KILLS sets how many of each.
/// </summary>
public sealed class KillTests : IDisposable
{
    private static readonly int Kills = int.TryParse(Environment.GetEnvironmentVariable("ZANDRIK_KILLS"), CultureInfo.InvariantCulture, out var n) ? n : 20;

    private readonly string data = Directory.CreateTempSubdirectory("zandrik-kill-").FullName;
    private readonly int port = ProcessTests.FreePort();
    private Process? script;

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    public KillTests() =>
        File.SetUnixFileMode(data, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute | UnixFileMode.GroupExecute | UnixFileMode.OtherExecute | UnixFileMode.GroupRead | UnixFileMode.OtherRead);

    private async Task StartAsync()
    {
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

    private int WebPid => int.Parse(File.ReadAllText(Path.Combine(data, "web.pid")), CultureInfo.InvariantCulture);

    private int? DatabasePid => File.Exists(Path.Combine(data, "pg", "data", "postmaster.pid")) && int.TryParse(File.ReadLines(Path.Combine(data, "pg", "data", "postmaster.pid")).First(), CultureInfo.InvariantCulture, out var pid) ? pid : null;

    private static void Kill(int pid) => Process.Start("kill", ["-9", pid.ToString(CultureInfo.InvariantCulture)]).WaitForExit();

    [Fact]
    public async Task Killed_between_entries_nothing_is_lost_and_nothing_stands_twice()
    {
        await StartAsync();
        using var client = await SignedIn.ClientAsync($"http://127.0.0.1:{port}");
        using var api = new HttpClient { BaseAddress = client.BaseAddress };
        api.DefaultRequestHeaders.Authorization = new("Bearer", "zandrik-demo-token");
        using var made = await api.PostAsync(new Uri("/api/v1/jobs", UriKind.Relative), new StringContent("""{ "format": "zandrik-test-record", "version": 1, "engine": { "cylinders": 4 } }""", System.Text.Encoding.UTF8, "application/json"), Cancel);
        var job = (int)JsonNode.Parse(await made.Content.ReadAsStringAsync(Cancel))!["id"]!;
        var page = await client.GetStringAsync(new Uri("/account", UriKind.Relative), Cancel);
        var token = new AngleSharp.Html.Parser.HtmlParser().ParseDocument(page).QuerySelector("meta[name=zandrik-form]")!.GetAttribute("content")!;
        var random = new Random(7);
        // One entry, as the outbox sends it: again and again with its key, until it is answered.
        async Task EnterAsync(int n)
        {
            var waited = Stopwatch.StartNew();
            while (true)
            {
                try
                {
                    using var form = new FormUrlEncodedContent(new Dictionary<string, string> { ["value"] = $"{100 + n}", ["kind"] = "Repeat", ["unit"] = "psi", ["entry"] = $"entry-{n}", ["__RequestVerificationToken"] = token });
                    using var request = new HttpRequestMessage(HttpMethod.Post, $"/jobs/{job}/dry?handler=Enter&cylinder=1") { Content = form, Headers = { { "HX-Request", "true" } } };
                    using var answer = await client.SendAsync(request, Cancel).WaitAsync(TimeSpan.FromSeconds(5), Cancel);
                    if (answer.IsSuccessStatusCode)
                    {
                        return;
                    }
                    ((int)answer.StatusCode).ShouldBe(503, "the database is away, and that is what is said");
                }
                catch (Exception broken) when (broken is HttpRequestException or TimeoutException)
                {
                    // The server is being started again.
                }
                waited.Elapsed.ShouldBeLessThan(TimeSpan.FromMinutes(2), "it comes back");
                await Task.Delay(50, Cancel);
            }
        }
        var entries = 0;
        for (var kill = 0; kill < 2 * Kills; kill++)
        {
            await EnterAsync(entries++);
            var entering = EnterAsync(entries++);
            await Task.Delay(random.Next(25), Cancel);
            if (kill % 2 == 0)
            {
                Kill(WebPid);
            }
            else if (DatabasePid is { } pid)
            {
                Kill(pid);
            }
            await entering;
        }
        var record = JsonNode.Parse(await RecordAsync(api, job))!;
        var values = record["tests"]![0]!["readings"]!.AsArray().Select(r => (int)(double)r!["value"]! - 100).ToList();
        values.Order().ShouldBe(Enumerable.Range(0, entries), "each once");
        values.Chunk(2).ShouldAllBe(pair => pair.Max() - pair.Min() <= 1, "in the order they were typed");
    }

    // The last entry may have been answered just before the kill: whatever was hit is waited for.
    private static async Task<string> RecordAsync(HttpClient api, int job)
    {
        var waited = Stopwatch.StartNew();
        while (true)
        {
            try
            {
                using var answer = await api.GetAsync(new Uri($"/api/v1/jobs/{job}/record?all=true", UriKind.Relative), Cancel).WaitAsync(TimeSpan.FromSeconds(5), Cancel);
                if (answer.IsSuccessStatusCode)
                {
                    return await answer.Content.ReadAsStringAsync(Cancel);
                }
            }
            catch (Exception broken) when (broken is HttpRequestException or TimeoutException)
            {
                // It is being started again.
            }
            waited.Elapsed.ShouldBeLessThan(TimeSpan.FromMinutes(2), "it comes back");
            await Task.Delay(50, Cancel);
        }
    }

    public void Dispose()
    {
        if (script is { HasExited: false })
        {
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
    }
}
