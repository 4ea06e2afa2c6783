using System.Diagnostics;
using System.Globalization;
using System.Net;
using AngleSharp.Html.Parser;
using Zandrik.Storage.Tests;

namespace Zandrik.Web.Tests.Front;

/// <summary>./start as a newcomer meets it, with a data folder of its own.</summary>
public sealed class StartTests : IDisposable
{
    private readonly string data = Directory.CreateTempSubdirectory("zandrik-start-").FullName;
    private readonly string shelf = Directory.CreateTempSubdirectory("zandrik-shelf-").FullName;
    private readonly string restored = Directory.CreateTempSubdirectory("zandrik-restored-").FullName;
    private readonly int port = ProcessTests.FreePort();

    public StartTests() => Array.ForEach([data, restored], folder =>
        // The user that runs the database must be able to pass through.
        File.SetUnixFileMode(folder, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute | UnixFileMode.GroupExecute | UnixFileMode.OtherExecute | UnixFileMode.GroupRead | UnixFileMode.OtherRead));

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private Process Start(params string[] arguments) => Run("start", ["--data", data, .. arguments]);

    private static Process Run(string script, params string[] arguments)
    {
        var start = new ProcessStartInfo(Path.Combine(Repository.Root, script), arguments)
        {
            RedirectStandardOutput = true, RedirectStandardError = true,
        };
        foreach (var name in start.Environment.Keys.Where(k => k.StartsWith("ZANDRIK_", StringComparison.Ordinal)).ToList())
        {
            start.Environment.Remove(name);
        }
        return Process.Start(start)!;
    }

    private Process StartServer() => Start("--port", port.ToString(CultureInfo.InvariantCulture));

    private static async Task<string> UntilReadyAsync(Process process)
    {
        var said = "";
        while (await process.StandardOutput.ReadLineAsync(Cancel) is { } line)
        {
            said += line + "\n";
            if (line.Contains("Zandrik is ready", StringComparison.Ordinal))
            {
                _ = process.StandardOutput.ReadToEndAsync(Cancel);
                _ = process.StandardError.ReadToEndAsync(Cancel);
                return said;
            }
        }
        throw new InvalidOperationException(said + await process.StandardError.ReadToEndAsync(Cancel));
    }

    private static async Task<(int Code, string Said)> RunAsync(Process process)
    {
        var output = process.StandardOutput.ReadToEndAsync(Cancel);
        var errors = process.StandardError.ReadToEndAsync(Cancel);
        await process.WaitForExitAsync(Cancel);
        return (process.ExitCode, await output + await errors);
    }

    private static void Kill(string signal, params string[] more) => Process.Start("kill", [signal, .. more]).WaitForExit();

    [Fact]
    public async Task It_starts_once_survives_a_kill_of_everything_and_stops_cleanly()
    {
        var first = StartServer();
        (await UntilReadyAsync(first)).ShouldContain($"http://127.0.0.1:{port}");
        using var client = await SignedIn.ClientAsync($"http://127.0.0.1:{port}", raw: true);
        (await client.GetStringAsync(new Uri("/", UriKind.Relative), Cancel)).ShouldContain("Shore van 9");

        await TheWorkspaceIsLightAsync(client);

        // Twice: says so, and does no harm.
        var (code, said) = await RunAsync(StartServer());
        code.ShouldBe(0);
        said.ShouldContain($"already running: http://127.0.0.1:{port}");

        // Another program on the port: with a data folder of its own, so that it is not taken for this one.
        var elsewhere = Directory.CreateTempSubdirectory("zandrik-other-").FullName;
        (code, said) = await RunAsync(Start("--data", elsewhere, "--port", port.ToString(CultureInfo.InvariantCulture)));
        code.ShouldBe(1);
        said.ShouldContain($"Port {port} is taken by another program. Start with --port {port + 1}");
        Directory.Delete(elsewhere, recursive: true);

        // Saved while it runs, restored beside it, and every record is what it was, byte for byte.
        (code, said) = await RunAsync(Run("backup", shelf, "--data", data, "--keep"));
        said.ShouldContain("Saved: ");
        code.ShouldBe(0);
        var saved = Directory.GetFiles(shelf).Single();
        (code, said) = await RunAsync(Run("restore", saved, "--data", data));
        code.ShouldBe(1, "a Zandrik is there");
        said.ShouldContain("into an empty folder only");
        (code, said) = await RunAsync(Run("restore", saved, "--data", restored));
        said.ShouldContain("Restored: as of ");
        code.ShouldBe(0);
        using var api = JobsOverTheApi.Of($"http://127.0.0.1:{port}");
        var records = await RecordsAsync(api);
        records.Count.ShouldBeGreaterThan(14);

        // Something is written, then everything is killed at once: the script, the server, the database.
        using var record = new StringContent("""{ "format": "zandrik-test-record", "version": 1, "vehicle": { "label": "Written before the kill" }, "engine": { "cylinders": 4 } }""", System.Text.Encoding.UTF8, "application/json");
        using var request = new HttpRequestMessage(HttpMethod.Post, "/api/v1/jobs") { Content = record, Headers = { { "Authorization", "Bearer zandrik-demo-token" } } };
        (await client.SendAsync(request, Cancel)).StatusCode.ShouldBe(HttpStatusCode.Created);
        var postmaster = (await File.ReadAllLinesAsync(Path.Combine(data, "pg", "data", "postmaster.pid"), Cancel))[0].Trim();
        Kill("-9", postmaster);
        first.Kill(entireProcessTree: true);
        await first.WaitForExitAsync(Cancel);

        var again = StartServer();
        await UntilReadyAsync(again);
        (await client.GetStringAsync(new Uri("/", UriKind.Relative), Cancel)).ShouldContain("Written before the kill");

        Kill("-TERM", again.Id.ToString(CultureInfo.InvariantCulture));
        await again.WaitForExitAsync(Cancel);
        again.ExitCode.ShouldBe(0);

        // On the same port, from the restored folder: whoever was signed in still is, and what came later is not there.
        var back = Run("start", "--data", restored, "--port", port.ToString(CultureInfo.InvariantCulture), "--backups", shelf);
        await UntilReadyAsync(back);
        (await client.GetStringAsync(new Uri("/shop/backups", UriKind.Relative), Cancel)).ShouldContain(Path.GetFileName(saved));
        (await RecordsAsync(api)).ShouldBe(records);
        Kill("-TERM", back.Id.ToString(CultureInfo.InvariantCulture));
        await back.WaitForExitAsync(Cancel);
        File.Exists(Path.Combine(data, "pg", "data", "postmaster.pid")).ShouldBeFalse("the database is stopped too");

        // A cluster that this PostgreSQL cannot read.
        await File.WriteAllTextAsync(Path.Combine(data, "pg", "data", "PG_VERSION"), "9\n", Cancel);
        (code, said) = await RunAsync(StartServer());
        code.ShouldBe(1);
        said.ShouldContain("were made by PostgreSQL 9");
    }

    [Fact]
    public async Task It_works_on_a_database_of_another_machine_which_it_neither_makes_nor_stops()
    {
        var name = $"elsewhere_{Guid.NewGuid():N}";
        var postgres = TestDatabase.OwnerOf("postgres");
        await TestDatabase.ExecuteAsync(postgres, $"create role {name} login bypassrls password 'a-long-word'");
        try
        {
            var (settings, second) = (await DatabaseAsync(name, name), await DatabaseAsync(name, name + "_2"));
            var server = Start("--port", port.ToString(CultureInfo.InvariantCulture), "--database", settings, "--no-instruments");
            await UntilReadyAsync(server);
            Directory.Exists(Path.Combine(data, "pg")).ShouldBeFalse("the database is not here");
            using var api = JobsOverTheApi.Of($"http://127.0.0.1:{port}");
            var records = await RecordsAsync(api);
            records.Count.ShouldBeGreaterThan(14);
            var (code, said) = await RunAsync(Run("backup", shelf, "--data", data, "--database", settings));
            said.ShouldContain("Saved: ");
            code.ShouldBe(0);
            Kill("-TERM", server.Id.ToString(CultureInfo.InvariantCulture));
            await server.WaitForExitAsync(Cancel);
            server.ExitCode.ShouldBe(0);

            (code, said) = await RunAsync(Run("restore", Directory.GetFiles(shelf).Single(), "--data", restored, "--database", settings));
            said.ShouldContain("with tables in it");
            code.ShouldBe(1);
            (code, said) = await RunAsync(Run("restore", Directory.GetFiles(shelf).Single(), "--data", restored, "--database", second));
            said.ShouldContain($"./start --data {restored} --database {second}");
            code.ShouldBe(0);
            var back = Run("start", "--data", restored, "--port", port.ToString(CultureInfo.InvariantCulture), "--database", second);
            await UntilReadyAsync(back);
            (await RecordsAsync(api)).ShouldBe(records);
            Kill("-TERM", back.Id.ToString(CultureInfo.InvariantCulture));
            await back.WaitForExitAsync(Cancel);

            // What the file has to be.
            File.SetUnixFileMode(settings, File.GetUnixFileMode(settings) | UnixFileMode.OtherRead);
            (code, said) = await RunAsync(Start("--database", settings));
            (code, said.Contains("everybody on this machine can read it", StringComparison.Ordinal)).ShouldBe((1, true), said);
            await File.WriteAllTextAsync(second, "OWNER=Host=127.0.0.1\n", Cancel);
            (code, said) = await RunAsync(Start("--database", second));
            (code, said.Contains("needs two lines", StringComparison.Ordinal)).ShouldBe((1, true), said);
        }
        finally
        {
            Npgsql.NpgsqlConnection.ClearAllPools();
            await TestDatabase.ExecuteAsync(postgres, $"drop database if exists {name} with (force)");
            await TestDatabase.ExecuteAsync(postgres, $"drop database if exists {name}_2 with (force)");
            await TestDatabase.ExecuteAsync(postgres, $"drop role {name}");
        }
    }

    // As somebody who runs a database server hands one over: an owner of nothing else, the application's role, and a file that says so.
    private async Task<string> DatabaseAsync(string role, string name)
    {
        await TestDatabase.ExecuteAsync(TestDatabase.OwnerOf("postgres"), $"create database {name} owner {role}");
        var owner = new Npgsql.NpgsqlConnectionStringBuilder(TestDatabase.OwnerOf(name)) { Username = role, Password = "a-long-word" };
        var app = new Npgsql.NpgsqlConnectionStringBuilder(Environment.GetEnvironmentVariable("ZANDRIK_TEST_DB")!) { Database = name };
        var file = Path.Combine(data, name);
        await File.WriteAllTextAsync(file, $"OWNER={owner.ConnectionString}\nAPP={app.ConnectionString}\n", Cancel);
        File.SetUnixFileMode(file, UnixFileMode.UserRead | UnixFileMode.UserWrite);
        return file;
    }

    [Fact]
    public async Task With_an_archive_a_workshop_comes_back_as_it_was_at_any_moment()
    {
        Assert.SkipUnless(File.Exists("/usr/bin/pgbackrest"), "pgBackRest is not installed here.");
        var archive = Path.Combine(restored, "archive");
        var (code, said) = await RunAsync(Run("archive", "status", "--data", data));
        (code, said.Contains("There is no Zandrik", StringComparison.Ordinal)).ShouldBe((1, true), said);
        var server = Start("--port", port.ToString(CultureInfo.InvariantCulture), "--no-instruments");
        await UntilReadyAsync(server);
        using var api = JobsOverTheApi.Of($"http://127.0.0.1:{port}");
        // A folder with something in it would become the database's own.
        (code, said) = await RunAsync(Run("archive", "on", data, "--data", data));
        (code, said.Contains("is not empty", StringComparison.Ordinal)).ShouldBe((1, true), said);
        (code, said) = await RunAsync(Run("archive", "on", archive, "--data", data));
        said.ShouldContain("from now on");
        code.ShouldBe(0);

        async Task WriteAsync(string label)
        {
            using var record = new StringContent($$"""{ "format": "zandrik-test-record", "version": 1, "vehicle": { "label": "{{label}}" }, "engine": { "cylinders": 4 } }""", System.Text.Encoding.UTF8, "application/json");
            // The database was started anew for it: the server is back on it as soon as it answers.
            (await api.PostAsync(new Uri("/api/v1/jobs", UriKind.Relative), record, Cancel)).StatusCode.ShouldBe(HttpStatusCode.Created);
        }
        await WriteAsync("Before the moment");
        var before = await RecordsAsync(api);
        var moment = DateTime.Now.ToString("yyyy-MM-dd HH:mm:ss.ffffff", CultureInfo.InvariantCulture);
        await WriteAsync("After the moment");

        var there = Path.Combine(restored, "then");
        (code, said) = await RunAsync(Run("archive", "restore", "tomorrow 12:00", "--to", there, "--data", data));
        (code, said.Contains("does not reach", StringComparison.Ordinal)).ShouldBe((1, true), said);
        (code, said) = await RunAsync(Run("archive", "restore", moment, "--to", there, "--data", data));
        said.ShouldContain("As it was at ");
        code.ShouldBe(0);
        Kill("-TERM", server.Id.ToString(CultureInfo.InvariantCulture));
        await server.WaitForExitAsync(Cancel);

        var back = Run("start", "--data", there, "--port", port.ToString(CultureInfo.InvariantCulture), "--no-instruments");
        await UntilReadyAsync(back);
        var after = await RecordsAsync(api);
        after.ShouldBe(before);
        after.ShouldContain(r => r.Contains("Before the moment", StringComparison.Ordinal));
        Kill("-TERM", back.Id.ToString(CultureInfo.InvariantCulture));
        await back.WaitForExitAsync(Cancel);
    }

    private static async Task<List<string>> RecordsAsync(HttpClient api)
    {
        var records = new List<string>();
        for (var job = 1; await api.GetAsync(new Uri($"/api/v1/jobs/{job}/record?superseded=true", UriKind.Relative), Cancel) is { IsSuccessStatusCode: true } answer; job++)
        {
            records.Add(await answer.Content.ReadAsStringAsync(Cancel));
        }
        return records;
    }

    // Every file of the first load as it is sent, and then what one tap sends.
    private static async Task TheWorkspaceIsLightAsync(HttpClient client)
    {
        async Task<long> SentAsync(string address, bool part = false)
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, address) { Headers = { { "Accept-Encoding", "br, gzip" } } };
            if (part)
            {
                request.Headers.Add("HX-Request", "true");
            }
            return (await (await client.SendAsync(request, Cancel)).Content.ReadAsByteArrayAsync(Cancel)).LongLength;
        }
        var page = new HtmlParser().ParseDocument(await client.GetStringAsync(new Uri("/jobs/3/dry", UriKind.Relative), Cancel));
        var files = page.QuerySelectorAll("link[href], script[src]").Select(e => e.GetAttribute("href") ?? e.GetAttribute("src")!).Distinct()
            .Concat(["/lib/fonts/barlow-latin-400-normal.woff2", "/lib/fonts/barlow-latin-500-normal.woff2", "/lib/fonts/barlow-latin-600-normal.woff2"]);
        var first = await SentAsync("/jobs/3/dry");
        foreach (var file in files)
        {
            first += await SentAsync(file);
        }
        first.ShouldBeInRange(50_000, 350_000);
        (await SentAsync("/jobs/3/dry?cylinder=2", part: true)).ShouldBeInRange(1_000, 40_000);
    }

    [Theory]
    [InlineData("--port", "ten", "--port takes a number")]
    [InlineData("--port", "70000", "--port takes a number")]
    [InlineData("--data", "/dev/null/here", "Cannot write to /dev/null/here")]
    [InlineData("--colour", "blue", "Unknown: --colour")]
    public async Task It_says_what_to_do_about_what_it_cannot(string option, string value, string says)
    {
        var (code, said) = await RunAsync(Start(option, value));
        code.ShouldBe(1);
        said.ShouldContain(says);
    }

    public void Dispose()
    {
        foreach (var folder in new[] { data, restored })
        {
            foreach (var pid in Directory.EnumerateFiles(folder, "postmaster.pid", SearchOption.AllDirectories))
            {
                Kill("-QUIT", File.ReadLines(pid).First().Trim());
            }
            Directory.Delete(folder, recursive: true);
        }
        Directory.Delete(shelf, recursive: true);
    }
}
