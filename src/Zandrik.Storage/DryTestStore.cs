using System.Text.Json;
using Dapper;
using Npgsql;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;

namespace Zandrik.Storage;

/// <summary>
/// Keeps dry tests and their readings. A reading is only ever added: a correction names the row it
/// takes the place of, an undo is a row of its own. Two people at one test are both kept, one after the other.
/// </summary>
public sealed class DryTestStore(ShopDatabase database)
{
    /// <summary>Starts a further dry test on a job, done like the one before it unless said otherwise.</summary>
    /// <returns>Row of the test; absent when the shop has no such job.</returns>
    public Task<long?> StartAsync(ShopPerson who, int job, DryCompressionTest test, DateTimeOffset now, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => StartAsync(c, t, who, job, test, onlyIfNone: false, now, cancel), cancel);

    /// <summary>Writes down how a test is done; readings already taken keep their rows.</summary>
    /// <returns>Row of the test, which is started when the job has none; absent when the shop has no such job or test.</returns>
    public Task<long?> SetConditionsAsync(
        ShopPerson who, int job, long? test, TestConditions conditions, PressureUnit unit, DateTimeOffset now, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            var id = test ?? await StartAsync(connection, transaction, who, job, NewTest(who, unit), onlyIfNone: true, now, cancel);
            var changed = id is null ? 0 : await connection.ExecuteAsync(new CommandDefinition("""
                update test set body = jsonb_set(body, '{conditions}', @conditions::jsonb)
                where id = @id and kind = @kind and job_id = (select j.id from job j where j.number = @job)
                """, new { id, job, kind = DryCompressionTest.Kind, conditions = JsonSerializer.Serialize(conditions, TestRecordJson.Options) },
                transaction, cancellationToken: cancel));
            return changed == 0 ? null : id;
        }, cancel);

    /// <summary>Keeps one entry of the pad.</summary>
    /// <param name="who">The shop and person; stands on the row.</param>
    /// <param name="job">The job.</param>
    /// <param name="test">Row of the test; absent for the job's latest, which is started when there is none.</param>
    /// <param name="entry">What was typed.</param>
    /// <param name="key">Made once for each entry by whoever typed it: the same entry sent twice is kept once.</param>
    /// <param name="now">The time of the entry.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    /// <returns>Row of the test; absent when the shop has no such job, test or cylinder.</returns>
    public Task<long?> EnterAsync(
        ShopPerson who, int job, long? test, PadEntry entry, Guid key, DateTimeOffset now, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            var id = test ?? await StartAsync(connection, transaction, who, job, NewTest(who, entry.Pressure.Unit), onlyIfNone: true, now, cancel);
            if (id is null || await LockAsync(connection, transaction, job, id.Value, cancel) is not { } row)
            {
                return null;
            }
            var known = await connection.ExecuteScalarAsync<bool>(new CommandDefinition(
                "select exists (select 1 from reading where entry = @key)", new { key }, transaction, cancellationToken: cancel));
            if (known)
            {
                return id;
            }
            var body = JsonSerializer.Deserialize<TestEntry>(row.Body, TestRecordJson.Options) as DryCompressionTest;
            var engine = JsonSerializer.Deserialize<EngineSheet>(row.Engine, TestRecordJson.Options)!;
            if (entry.Cylinder < 1 || entry.Cylinder > engine.Cylinders)
            {
                return null;
            }
            var head = await HeadAsync(connection, transaction, id.Value, entry.Cylinder, cancel);
            var before = head?.Body is { } b ? JsonSerializer.Deserialize<CompressionReading>(b, TestRecordJson.Options) : null;
            var after = entry.Apply(before, RecordRules.UnitOf(body!.Unit, engine)) with
            {
                At = now,
                By = who.Person,
                Order = before?.Order ?? await NextOrderAsync(connection, transaction, id.Value, cancel),
            };
            await AppendAsync(connection, transaction, who, id.Value, entry.Cylinder, head, JsonSerializer.Serialize(after, TestRecordJson.Options), key, null, now, cancel);
            return id;
        }, cancel);

    /// <summary>Takes the last entry of a test back; again, the one before it. What was taken back stays on record.</summary>
    /// <returns>The cylinder whose entry was taken back; absent when nothing is left to take back.</returns>
    public Task<int?> UndoAsync(ShopPerson who, int job, long test, DateTimeOffset now, CancellationToken cancel = default) =>
        database.InShopAsync<int?>(who, async (connection, transaction) =>
        {
            if (await LockAsync(connection, transaction, job, test, cancel) is null)
            {
                return null;
            }
            var last = await connection.QuerySingleOrDefaultAsync<LastEntry>(new CommandDefinition("""
                select r.id, r.slot, b.body::text as before
                from reading r left join reading b on b.id = r.supersedes
                where r.test_id = @test and r.entry is not null and not exists (select 1 from reading u where u.undoes = r.id)
                order by r.id desc limit 1
                """, new { test }, transaction, cancellationToken: cancel));
            if (last is null)
            {
                return null;
            }
            var head = await HeadAsync(connection, transaction, test, last.Slot, cancel);
            await AppendAsync(connection, transaction, who, test, last.Slot, head, last.Before, null, last.Id, now, cancel);
            return last.Slot;
        }, cancel);

    // The first test of a job: what the shop knows of its air stands on it from the start.
    private static DryCompressionTest NewTest(ShopPerson who, PressureUnit unit) => new()
    {
        Unit = unit,
        Conditions = who.Settings.BarometricKPa is { } kPa ? new TestConditions { BarometricKPa = kPa } : null,
    };

    private static async Task<long?> StartAsync(
        NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, int job, DryCompressionTest test,
        bool onlyIfNone, DateTimeOffset now, CancellationToken cancel)
    {
        // The job's row is held while a test is added, so that two first readings start one test.
        var jobId = await connection.ExecuteScalarAsync<long?>(new CommandDefinition(
            "select id from job where number = @job for update", new { job }, transaction, cancellationToken: cancel));
        if (jobId is null)
        {
            return null;
        }
        if (onlyIfNone)
        {
            var latest = await connection.ExecuteScalarAsync<long?>(new CommandDefinition(
                "select id from test where job_id = @jobId and kind = @kind order by position desc limit 1",
                new { jobId, kind = DryCompressionTest.Kind }, transaction, cancellationToken: cancel));
            if (latest is not null)
            {
                return latest;
            }
        }
        var position = await connection.ExecuteScalarAsync<int>(new CommandDefinition(
            "select coalesce(max(position), 0) + 1 from test where job_id = @jobId", new { jobId }, transaction, cancellationToken: cancel));
        return await JobStore.InsertTestAsync(connection, transaction, who, jobId.Value, position,
            test with { At = now, By = who.Person }, now, cancel);
    }

    // Writers of one test go one after the other: each sees what the one before it wrote.
    private static Task<LockedTest?> LockAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, int job, long test, CancellationToken cancel) =>
        connection.QuerySingleOrDefaultAsync<LockedTest?>(new CommandDefinition("""
            select t.body::text as body, (j.record -> 'engine')::text as engine
            from test t join job j on j.id = t.job_id
            where t.id = @test and t.kind = @kind and j.number = @job for update of t
            """, new { test, job, kind = DryCompressionTest.Kind }, transaction, cancellationToken: cancel));

    private static Task<Head?> HeadAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, long test, int slot, CancellationToken cancel) =>
        connection.QuerySingleOrDefaultAsync<Head?>(new CommandDefinition("""
            select r.id, r.position, r.body::text as body from reading r
            where r.test_id = @test and r.slot = @slot and not exists (select 1 from reading n where n.supersedes = r.id)
            """, new { test, slot }, transaction, cancellationToken: cancel));

    private static Task<int> NextOrderAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, long test, CancellationToken cancel) =>
        connection.ExecuteScalarAsync<int>(new CommandDefinition("""
            select coalesce(max((r.body ->> 'order')::int), count(*))::int + 1 from reading r
            where r.test_id = @test and r.body is not null and not exists (select 1 from reading n where n.supersedes = r.id)
            """, new { test }, transaction, cancellationToken: cancel));

    private static Task AppendAsync(
        NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, long test, int slot, Head? head,
        string? body, Guid? key, long? undoes, DateTimeOffset now, CancellationToken cancel) =>
        connection.ExecuteAsync(new CommandDefinition("""
            insert into reading (shop_id, test_id, slot, position, supersedes, undoes, entry, body, taken_at, by_person)
            values (@shop, @test, @slot, coalesce(@position, (select coalesce(max(position), 0) + 1 from reading where test_id = @test)),
                    @supersedes, @undoes, @key, @body::jsonb, @now, @person)
            """,
            new
            {
                shop = who.ShopId, test, slot, position = head?.Position, supersedes = head?.Id, undoes, key, body, now, person = who.PersonId,
            }, transaction, cancellationToken: cancel));

    private sealed record LockedTest
    {
        public string Body { get; init; } = "";
        public string Engine { get; init; } = "";
    }

    private sealed record Head
    {
        public long Id { get; init; }
        public int Position { get; init; }
        public string? Body { get; init; }
    }

    private sealed record LastEntry
    {
        public long Id { get; init; }
        public int Slot { get; init; }
        public string? Before { get; init; }
    }
}
