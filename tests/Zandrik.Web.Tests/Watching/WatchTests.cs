using System.Collections.Concurrent;
using System.Globalization;
using System.Net;
using System.Text;
using System.Text.Json;
using System.Text.RegularExpressions;
using Zandrik.Storage.Backups;
using Zandrik.Storage.Tests;
using Zandrik.Web.Tests.Front;

namespace Zandrik.Web.Tests.Watching;

/// <summary>The server seen from outside: what a scraper and a collector get, what stands in the log, and what is in neither.</summary>
public sealed class WatchTests : IAsyncLifetime
{
    private readonly string name = $"watch_{Guid.NewGuid():N}";
    private readonly string shelf = Directory.CreateTempSubdirectory("zandrik-shelf-").FullName;
    private readonly ConcurrentQueue<(string Path, string Body)> collected = [];
    private readonly ConcurrentQueue<string> log = [];
    private readonly int port = ProcessTests.FreePort(), metrics = ProcessTests.FreePort(), collector = ProcessTests.FreePort();
    private HttpListener listener = null!;
    private System.Diagnostics.Process server = null!;

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private string Address => $"http://127.0.0.1:{port}";

    public async ValueTask InitializeAsync()
    {
        var connection = await Site.MakeDatabaseAsync(name);
        listener = new HttpListener { Prefixes = { $"http://127.0.0.1:{collector}/" } };
        listener.Start();
        _ = CollectAsync();
        await File.WriteAllTextAsync(Path.Combine(shelf, $"{DateTimeOffset.UtcNow.AddHours(-5):yyyy-MM-dd'T'HHmmss'Z'}{Backup.Ending}"), "", Cancel);
        server = await ProcessTests.StartAsync(connection, new()
        {
            ["ZANDRIK_METRICS_PORT"] = metrics.ToString(CultureInfo.InvariantCulture), ["ZANDRIK_OTLP"] = $"http://127.0.0.1:{collector}", ["ZANDRIK_BACKUPS"] = shelf,
            ["OTEL_METRIC_EXPORT_INTERVAL"] = "300", ["OTEL_BSP_SCHEDULE_DELAY"] = "100",
            ["Logging__LogLevel__Default"] = "Information", ["Logging__Console__FormatterName"] = "json",
        }, log.Enqueue, "--urls", Address);
    }

    private async Task CollectAsync()
    {
        while (listener.IsListening)
        {
            try
            {
                var asked = await listener.GetContextAsync();
                using var body = new MemoryStream();
                await asked.Request.InputStream.CopyToAsync(body);
                collected.Enqueue((asked.Request.Url!.AbsolutePath, Encoding.Latin1.GetString(body.ToArray())));
                asked.Response.Close();
            }
            catch (Exception closed) when (closed is HttpListenerException or ObjectDisposedException)
            {
                return;
            }
        }
    }

    public async ValueTask DisposeAsync()
    {
        server.Kill(entireProcessTree: true);
        await server.WaitForExitAsync(CancellationToken.None);
        server.Dispose();
        listener.Close();
        Directory.Delete(shelf, recursive: true);
        await TestDatabase.ExecuteAsync(TestDatabase.OwnerOf("postgres"), $"drop database {name} with (force)");
    }

    [Fact]
    public async Task A_database_that_is_away_is_logged_in_a_line_and_not_with_a_stack_for_each_request()
    {
        using var client = await SignedIn.ClientAsync(Address);
        var postgres = TestDatabase.OwnerOf("postgres");
        await TestDatabase.ExecuteAsync(postgres, $"alter database {name} allow_connections false");
        await TestDatabase.ExecuteAsync(postgres, $"select pg_terminate_backend(pid, 10000) from pg_stat_activity where datname = '{name}'");
        for (var i = 0; i < 3; i++)
        {
            (await client.GetAsync(new Uri("/jobs/10/dry", UriKind.Relative), Cancel)).StatusCode.ShouldBe(HttpStatusCode.ServiceUnavailable);
        }
        using var api = JobsOverTheApi.Of(Address);
        (await api.GetAsync(new Uri("/api/v1/jobs", UriKind.Relative), Cancel)).StatusCode.ShouldBe(HttpStatusCode.ServiceUnavailable);
        // What is logged comes in order: when a later line is there, those of the requests are.
        await TestDatabase.ExecuteAsync(postgres, $"alter database {name} allow_connections true");
        using var stranger = new HttpClient { BaseAddress = new Uri(Address) };
        await SignedIn.TryAsync(stranger, "ostrel", "not-this-password");
        await Trust.Outbox.UntilAsync(() => Task.FromResult(log.Any(l => l.Contains("A sign-in from 127.0.0.1 failed.", StringComparison.Ordinal))), "a later line is there");
        log.ShouldContain(l => l.Contains("not heard for the moment", StringComparison.Ordinal));
        log.ShouldNotContain(l => l.Contains("unhandled exception", StringComparison.OrdinalIgnoreCase));
    }

    [Fact]
    public async Task It_counts_entries_failures_and_backups_and_tells_nobody_a_secret_or_a_reading()
    {
        using var client = await SignedIn.ClientAsync(Address);
        // Kept, kept after it had waited on a tablet, refused; a wrong password; a one-time link in an address.
        (string, string) Late(string at) => ("at", at);
        (await client.PostFormAsync("/jobs/10/dry?handler=Enter", ("cylinder", "1"), ("value", "197.31"), ("unit", "psi"), ("kind", "Reading"))).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await client.PostFormAsync("/jobs/10/dry?handler=Enter", ("cylinder", "2"), ("value", "196.42"), ("unit", "psi"), ("kind", "Reading"), Late(DateTimeOffset.UtcNow.AddMinutes(-10).ToString("o", CultureInfo.InvariantCulture)))).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await client.PostFormAsync("/jobs/10/dry?handler=Enter", ("cylinder", "2"), ("value", "many"), ("unit", "psi"), ("kind", "Reading"))).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        using var stranger = new HttpClient { BaseAddress = new Uri(Address) };
        await SignedIn.TryAsync(stranger, "ostrel", "not-this-password");
        await stranger.GetAsync(new Uri("/welcome/a1b2c3d4e5f6a1b2c3d4e5f6", UriKind.Relative), Cancel);
        await client.GetAsync(new Uri("/search?q=Bread+van+6", UriKind.Relative), Cancel);

        using var scraper = new HttpClient { BaseAddress = new Uri($"http://127.0.0.1:{metrics}") };
        async Task<double> SumAsync(string line) => Regex.Matches(await scraper.GetStringAsync(new Uri("/metrics", UriKind.Relative), Cancel), $@"^(?:{line})[^\n]* ([\d.eE+-]+)( \d+)?$", RegexOptions.Multiline).Sum(m => double.Parse(m.Groups[1].Value, CultureInfo.InvariantCulture));
        (await SumAsync("zandrik_entry_duration_seconds_count\\{[^}]*came=\"kept\"")).ShouldBe(2);
        (await SumAsync("zandrik_entry_duration_seconds_count\\{[^}]*came=\"refused\"")).ShouldBe(1);
        (await SumAsync("zandrik_entry_waited_seconds_count")).ShouldBe(1);
        (await SumAsync("zandrik_entry_waited_seconds_sum")).ShouldBeInRange(590, 700);
        (await SumAsync("zandrik_sign_in_failures_total")).ShouldBe(1);
        (await SumAsync("zandrik_judgement_duration_seconds_count")).ShouldBeGreaterThan(0);
        (await SumAsync("zandrik_backup_age_seconds")).ShouldBeInRange(5 * 3600 - 10, 5 * 3600 + 600);
        (await SumAsync("db_client_connection_max|db_client_connections_max")).ShouldBeGreaterThan(0);

        // The page of the metrics is alone on its port, and nowhere else.
        (await scraper.GetAsync(new Uri("/", UriKind.Relative), Cancel)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await client.GetAsync(new Uri("/metrics", UriKind.Relative), Cancel)).StatusCode.ShouldBe(HttpStatusCode.NotFound);

        var patience = System.Diagnostics.Stopwatch.StartNew();
        bool Collected(string path, string word) => collected.Any(c => c.Path == path && c.Body.Contains(word, StringComparison.Ordinal));
        while (!(Collected("/v1/traces", "/welcome/{") && Collected("/v1/traces", "/search") && Collected("/v1/traces", "postgresql") && Collected("/v1/metrics", "zandrik.entry.duration")))
        {
            Patience.IsOver(patience.Elapsed, TimeSpan.FromSeconds(60)).ShouldBeFalse("what is done is sent to the collector");
            await Task.Delay(50, Cancel);
        }
        var all = string.Join('\n', collected.Select(c => c.Body).Concat(log)) + await scraper.GetStringAsync(new Uri("/metrics", UriKind.Relative), Cancel);
        foreach (var secret in new[] { "not-this-password", SignedIn.DemoPassword, "a1b2c3d4e5f6", "197.31", "196.42", "Bread", "zandrik.sign-in=" })
        {
            all.ShouldNotContain(secret);
        }
        // Each line of the log is an object with its time.
        log.ShouldNotBeEmpty();
        foreach (var line in log)
        {
            using var said = JsonDocument.Parse(line);
            said.RootElement.GetProperty("LogLevel").GetString().ShouldNotBeNullOrEmpty();
        }
        log.ShouldContain(l => l.Contains("A sign-in from 127.0.0.1 failed.", StringComparison.Ordinal));
    }
}
