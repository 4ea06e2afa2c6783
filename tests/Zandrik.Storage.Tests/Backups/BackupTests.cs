using System.Formats.Tar;
using System.Text.Json;
using System.Text.Json.Nodes;
using Dapper;
using Npgsql;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage.Backups;

namespace Zandrik.Storage.Tests.Backups;

/// <summary>Backups made while people enter, restored, and held against what there was; and those that are not restored.</summary>
public sealed class BackupTests(TestDatabase db) : IClassFixture<TestDatabase>, IDisposable
{
    private readonly string folder = Directory.CreateTempSubdirectory("zandrik-backup-").FullName;
    private readonly string restored = $"restored_{Guid.NewGuid():N}";

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private string To => TestDatabase.OwnerOf(restored);

    public void Dispose()
    {
        NpgsqlConnection.ClearAllPools();
        TestDatabase.ExecuteAsync(TestDatabase.OwnerOf("postgres"), $"drop database if exists {restored} with (force)").GetAwaiter().GetResult();
        Directory.Delete(folder, recursive: true);
    }

    private Task<string> MakeAsync(string? certificates = null) => Backup.MakeAsync(db.Owner, folder, "0.2.0", certificates, null, DateTimeOffset.UtcNow, Cancel);

    private Task<BackupManifest> RestoreAsync(string path, string? certificates = null) => Backup.RestoreAsync(path, To, certificates, null, cancel: Cancel);

    private Task<int> JobAsync() => db.Jobs.CreateAsync(db.Ostrel, new TestRecord { Engine = new EngineSheet { Cylinders = 4 } }, DateTimeOffset.UtcNow, PressureUnit.Psi, cancel: Cancel);

    // Every row as text, so that nothing is equal by chance.
    private static async Task<HashSet<string>> RowsAsync(string owner, string table)
    {
        await using var connection = new NpgsqlConnection(owner);
        return [.. await connection.QueryAsync<string>($"set timezone = 'UTC'; select t::text from {table} t")];
    }

    [Fact]
    public async Task What_was_acknowledged_before_is_in_it_though_entries_went_on_and_all_of_it_is_what_it_was()
    {
        var jobs = new List<int>();
        for (var i = 0; i < 4; i++)
        {
            jobs.Add(await JobAsync());
        }
        var keys = Path.Combine(folder, "tls-before");
        Directory.CreateDirectory(keys);
        await File.WriteAllTextAsync(Path.Combine(keys, "authority.key"), "a key", Cancel);

        // Four people enter without pause while it is made.
        using var end = new CancellationTokenSource();
        var entered = 0;
        async Task EnterAsync(int job)
        {
            for (var i = 0; !end.IsCancellationRequested; i++)
            {
                (await db.DryTests.EnterAsync(db.Ostrel, job, null, new PadEntry(1 + (i % 4), PadEntryKind.Reading, new GaugePressure(100 + (i % 90), PressureUnit.Psi)), Guid.NewGuid(), DateTimeOffset.UtcNow, cancel: CancellationToken.None)).Test.ShouldNotBeNull();
                Interlocked.Increment(ref entered);
            }
        }
        var people = jobs.Select(EnterAsync).ToList();
        while (Volatile.Read(ref entered) < 40)
        {
            await Task.Delay(5, Cancel);
        }
        var before = await RowsAsync(db.Owner, "reading");
        var path = await MakeAsync(keys);
        await end.CancelAsync();
        await Task.WhenAll(people);
        var after = await RowsAsync(db.Owner, "reading");
        after.Count.ShouldBeGreaterThan(before.Count, "people went on");

        var to = Path.Combine(folder, "tls-after");
        var manifest = await RestoreAsync(path, to);
        var there = await RowsAsync(To, "reading");
        before.ShouldBeSubsetOf(there);
        there.ShouldBeSubsetOf(after);
        manifest.Tables.Single(t => t.Table == "reading").Rows.ShouldBe(there.Count);
        foreach (var table in new[] { "job", "shop", "person", "api_token", "schemaversions" })
        {
            (await RowsAsync(To, table)).ShouldBe(await RowsAsync(db.Owner, table), ignoreOrder: true);
        }
        (await File.ReadAllTextAsync(Path.Combine(to, "authority.key"), Cancel)).ShouldBe("a key");
        Migrator.Migrate(To, "zandrik").ShouldBeEmpty("it is current");
        if (!OperatingSystem.IsWindows())
        {
            File.GetUnixFileMode(path).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite, "keys are in it");
        }
        // A second one does not go over the first.
        (await Should.ThrowAsync<BackupException>(RestoreAsync(path))).Message.ShouldContain("already");
        (await RowsAsync(To, "reading")).Count.ShouldBe(there.Count);
    }

    [Fact]
    public async Task One_that_is_cut_off_damaged_foreign_or_newer_is_refused_and_leaves_nothing()
    {
        var whole = await File.ReadAllBytesAsync(await MakeAsync(), Cancel);
        var bad = Path.Combine(folder, "bad" + Backup.Ending);
        async Task<string> RefusedAsync(byte[] bytes)
        {
            await File.WriteAllBytesAsync(bad, bytes, Cancel);
            var why = (await Should.ThrowAsync<BackupException>(RestoreAsync(bad))).Message;
            (await TestDatabase.ExecuteAsync(TestDatabase.OwnerOf("postgres"), $"select count(*) from pg_database where datname = '{restored}'")).ShouldBe(0L);
            return why;
        }
        foreach (var length in new[] { 0, 1, 511, 512, 600, 2000, whole.Length / 2, whole.Length - 3000 })
        {
            (await RefusedAsync(whole[..length])).ShouldContain(bad);
        }
        (await RefusedAsync(whole[..(whole.Length / 2)])).ShouldContain("ends too early");
        foreach (var place in new[] { whole.Length / 3, whole.Length / 2, whole.Length - 4000 })
        {
            var flipped = (byte[])whole.Clone();
            flipped[place] ^= 0x10;
            (await RefusedAsync(flipped)).ShouldContain("damaged");
        }
        (await RefusedAsync("PK\x03\x04 something else altogether"u8.ToArray())).ShouldContain("no backup of Zandrik");

        static byte[] Tar(string manifest, params string[] others)
        {
            using var file = new MemoryStream();
            using (var tar = new TarWriter(file, leaveOpen: true))
            {
                foreach (var (name, text) in others.Select(o => (o, "x")).Prepend((BackupManifest.Name, manifest)))
                {
                    tar.WriteEntry(new PaxTarEntry(TarEntryType.RegularFile, name) { DataStream = new MemoryStream(System.Text.Encoding.UTF8.GetBytes(text)) });
                }
            }
            return file.ToArray();
        }
        var (sum, newest) = ("2d711642b726b04401627ca9fbac32f5c8530fb1903cc4db02258717921a4881", Migrator.Newest);
        string Manifest(int version, string schema, string member) => JsonSerializer.Serialize(new { format = "zandrik-backup", version, program = "9.9", schema, members = new[] { new { name = "database.dump", bytes = 1, sha256 = sum }, new { name = member, bytes = 1, sha256 = sum } } });
        (await RefusedAsync(Tar(Manifest(2, newest, "tls/a"), "database.dump", "tls/a"))).ShouldContain("newer Zandrik (9.9");
        (await RefusedAsync(Tar(Manifest(1, "9999-of-tomorrow.sql", "tls/a"), "database.dump", "tls/a"))).ShouldContain("9999-of-tomorrow");
        (await RefusedAsync(Tar(Manifest(1, newest, "tls/a"), "database.dump"))).ShouldContain("ends too early (tls/a is missing)");
        (await RefusedAsync(Tar(Manifest(1, newest, "tls/../../a"), "database.dump", "tls/../../a"))).ShouldContain("holds no database");
        (await RefusedAsync(Tar(Manifest(1, newest, "tls/a"), "database.dump", "tls/a", "tls/b"))).ShouldContain("of which its list says nothing");
        (await RefusedAsync(Tar("""{ "format": "something" }"""))).ShouldContain("no backup of Zandrik");
        (await RefusedAsync(Tar(Manifest(1, newest, "tls/a"), "database.dump", "tls/a"))).ShouldContain("pg_restore failed");
    }

    [Fact]
    public async Task A_table_that_is_not_what_was_saved_is_found_out()
    {
        await JobAsync();
        var changed = await ChangedAsync(await MakeAsync());
        (await Should.ThrowAsync<BackupException>(RestoreAsync(changed))).Message.ShouldContain("Table job is not what was saved");
        (await TestDatabase.ExecuteAsync(TestDatabase.OwnerOf("postgres"), $"select count(*) from pg_database where datname = '{restored}'")).ShouldBe(0L);
    }

    // Somebody made it agree with itself: only the sums of the rows still tell.
    private async Task<string> ChangedAsync(string path)
    {
        var changed = Path.Combine(folder, "changed" + Backup.Ending);
        using var from = new TarReader(File.OpenRead(path));
        using var to = new TarWriter(File.Create(changed));
        while (await from.GetNextEntryAsync(copyData: true, Cancel) is { } entry)
        {
            if (entry.Name == BackupManifest.Name)
            {
                var manifest = (await JsonNode.ParseAsync(entry.DataStream!, cancellationToken: Cancel))!;
                manifest["tables"]!.AsArray().Single(t => (string)t!["table"]! == "job")!["sum"] = "1";
                entry.DataStream = new MemoryStream(System.Text.Encoding.UTF8.GetBytes(manifest.ToJsonString()));
            }
            await to.WriteEntryAsync(new PaxTarEntry(TarEntryType.RegularFile, entry.Name) { DataStream = entry.DataStream }, Cancel);
        }
        return changed;
    }

    [Fact]
    public async Task It_is_restored_into_an_empty_database_of_an_owner_who_may_do_nothing_else()
    {
        var plain = $"owner_{Guid.NewGuid():N}";
        var postgres = TestDatabase.OwnerOf("postgres");
        await TestDatabase.ExecuteAsync(postgres, $"create role {plain} login bypassrls password 'a-long-word'");
        try
        {
            await TestDatabase.ExecuteAsync(postgres, $"create database {restored} owner {plain}");
            var owner = new NpgsqlConnectionStringBuilder(To) { Username = plain, Password = "a-long-word" }.ConnectionString;
            await JobAsync();
            var path = await MakeAsync();
            (await Should.ThrowAsync<BackupException>(Backup.RestoreAsync(await ChangedAsync(path), owner, null, null, cancel: Cancel))).Message.ShouldContain("Table job is not what was saved");
            (await TestDatabase.ExecuteAsync(To, "select count(*) from pg_class where relnamespace not in ('pg_catalog'::regnamespace, 'pg_toast'::regnamespace, 'information_schema'::regnamespace)")).ShouldBe(0L, "as empty as it was");

            await Backup.RestoreAsync(path, owner, null, null, cancel: Cancel);
            await TestDatabase.ExecuteAsync(postgres, $"alter role {plain} nobypassrls");
            Should.Throw<InvalidOperationException>(() => Migrator.Migrate(owner, "zandrik")).Message.ShouldContain("bypassrls");
            await TestDatabase.ExecuteAsync(postgres, $"alter role {plain} bypassrls");
            Migrator.Migrate(owner, "zandrik").ShouldBeEmpty("it is current");
            (await RowsAsync(To, "job")).ShouldBe(await RowsAsync(db.Owner, "job"), ignoreOrder: true);
            // The application's role is held by its rules there too, and a backup of it is whole.
            var app = new NpgsqlConnectionStringBuilder(db.Connection) { Database = restored }.ConnectionString;
            await Migrator.CheckRoleAsync(app, Cancel);
            (await TestDatabase.ExecuteAsync(app, "select count(*) from job")).ShouldBe(0L, "nobody has said of which shop");
            var again = await Backup.MakeAsync(owner, folder, "0.2.0", null, null, DateTimeOffset.UtcNow.AddHours(1), Cancel);
            (await Backup.VerifyAsync(again, cancel: Cancel)).Tables.ShouldBe((await Backup.VerifyAsync(path, cancel: Cancel)).Tables);
            (await Should.ThrowAsync<BackupException>(RestoreAsync(path))).Message.ShouldContain("already, with tables in it");
        }
        finally
        {
            NpgsqlConnection.ClearAllPools();
            await TestDatabase.ExecuteAsync(postgres, $"drop database if exists {restored} with (force)");
            await TestDatabase.ExecuteAsync(postgres, $"drop role {plain}");
        }
    }

    [Fact]
    public async Task A_database_of_version_0_1_comes_up_to_date_with_every_reading_as_it_was()
    {
        var dump = Path.Combine(AppContext.BaseDirectory, "Databases", "0.1.dump");
        await TestDatabase.ExecuteAsync(TestDatabase.OwnerOf("postgres"), $"create database {restored}");
        await new PostgresTool(null).RunAsync("pg_restore", To, ["--no-owner", "--exit-on-error", dump], Cancel);
        // Whatever a row had then it has now; columns may have come since, and one has another name (0012-names).
        string[] tables = ["shop", "job", "test", "reading", "verdict", "verdict_reopening", "found_fault", "job_tick", "plug_photo", "capture", "capture_piece", "capture_answer", "tester", "vehicle", "engine_sheet", "engine_sheet_version"];
        await using var connection = new NpgsqlConnection(To);
        await connection.OpenAsync(Cancel);
        foreach (var table in tables)
        {
            await connection.ExecuteAsync($"create temp table was_{table} as select to_jsonb(t) as was from {table} t");
        }
        Migrator.Migrate(To, "zandrik").Count.ShouldBeGreaterThanOrEqualTo(11);
        var rows = 0L;
        foreach (var table in tables)
        {
            rows += await connection.ExecuteScalarAsync<long>($"select count(*) from was_{table}");
            (await connection.QueryAsync<string>($"select was::text from was_{table} w where not exists (select 1 from {table} t where to_jsonb(t) @> (case when w.was ? 'beside' then (w.was - 'beside') || jsonb_build_object('conflicting_reading', w.was->'beside') else w.was end))")).ShouldBeEmpty(table);
        }
        rows.ShouldBeGreaterThan(140);

        // And it is worked with: every job opens, is judged, and is saved and restored once more.
        await using var database = new ShopDatabase(new NpgsqlConnectionStringBuilder(db.Connection) { Database = restored }.ConnectionString);
        var who = (await new SignInStore(database).FirstAsync(Cancel))!;
        var jobs = new JobStore(database);
        using var workspaces = new WorkspaceStore(database);
        for (var number = 1; number <= 15; number++)
        {
            (await workspaces.FindAsync(who, number, null, Cancel))!.Assessment.Next.ShouldNotBeNull();
            RecordRules.Check((await jobs.RecordAsync(who, number, superseded: false, Cancel))!).ShouldBeEmpty($"job {number}");
        }
        var path = await Backup.MakeAsync(To, folder, "0.2.0", null, null, DateTimeOffset.UtcNow, Cancel);
        (await Backup.VerifyAsync(path, cancel: Cancel)).Schema.ShouldBe(Migrator.Newest);
    }
}
