using Dapper;
using Zandrik.Core.Records;

namespace Zandrik.Storage.Archives;

/// <summary>The archive of a shop: made or being made.</summary>
public sealed record ArchiveLine
{
    /// <summary>The row.</summary>
    public int Id { get; init; }

    /// <summary>When it was begun.</summary>
    public DateTimeOffset At { get; init; }

    /// <summary>Who asked for it.</summary>
    public string By { get; init; } = "";

    /// <summary>Jobs in it.</summary>
    public int Jobs { get; init; }

    /// <summary>Jobs written so far.</summary>
    public int Done { get; init; }

    /// <summary>Its size so far, bytes.</summary>
    public long Bytes { get; init; }

    /// <summary>When something was last written.</summary>
    public DateTimeOffset TouchedAt { get; init; }

    /// <summary>When it was finished; absent while it is made.</summary>
    public DateTimeOffset? FinishedAt { get; init; }

    /// <summary>Why it was not finished; absent for none.</summary>
    public string? Failed { get; init; }

    /// <summary>True while somebody is making it: something was written a short while ago.</summary>
    /// <param name="now">The time.</param>
    public bool IsRunning(DateTimeOffset now) => FinishedAt is null && Failed is null && now - TouchedAt < ArchiveStore.Silent;
}

/// <summary>Keeps a shop's archive in pieces in the database, so that every copy of the server can hand it out, and a download that broke off goes on where it was.</summary>
public sealed class ArchiveStore(ShopDatabase database)
{
    /// <summary>After so long without a sign of life the server that made it is gone.</summary>
    public static readonly TimeSpan Silent = TimeSpan.FromMinutes(2);

    /// <summary>An archive is there for so long.</summary>
    public static readonly TimeSpan Lasts = TimeSpan.FromDays(7);

    /// <summary>Size of a piece, bytes.</summary>
    public const int Piece = 1024 * 1024;

    private const string Lines = "select a.id, a.at, p.name as by, a.jobs, a.done, a.bytes, a.touched_at, a.finished_at, a.failed from archive a join person p on p.id = a.by_person";

    /// <summary>The latest archive of the shop; absent for none, or none that is still there.</summary>
    public Task<ArchiveLine?> LatestAsync(ShopPerson who, DateTimeOffset now, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.QuerySingleOrDefaultAsync<ArchiveLine?>(new CommandDefinition(Lines + " where a.at > @oldest order by a.id desc limit 1", new { oldest = now - Lasts }, t, cancellationToken: cancel)), cancel);

    /// <summary>Begins an archive, and drops those before it; while one is being made, that one.</summary>
    /// <returns>Its row, and whether it is new.</returns>
    public Task<(int Id, bool IsNew)> BeginAsync(ShopPerson who, DateTimeOffset now, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) =>
        {
            // Two who ask at once get one.
            await c.ExecuteAsync(new CommandDefinition("select pg_advisory_xact_lock(hashtext('archive'), @ShopId)", new { who.ShopId }, t, cancellationToken: cancel));
            var latest = await c.QuerySingleOrDefaultAsync<ArchiveLine?>(new CommandDefinition(Lines + " order by a.id desc limit 1", null, t, cancellationToken: cancel));
            if (latest?.IsRunning(now) == true)
            {
                return (latest.Id, false);
            }
            await c.ExecuteAsync(new CommandDefinition("delete from archive", null, t, cancellationToken: cancel));
            return (await c.ExecuteScalarAsync<int>(new CommandDefinition("insert into archive (shop_id, at, by_person, jobs, touched_at) values (@ShopId, @now, @PersonId, (select count(*) from job where not sample), @now) returning id",
                new { who.ShopId, who.PersonId, now }, t, cancellationToken: cancel)), true);
        }, cancel);

    /// <summary>Adds a piece.</summary>
    internal Task AddAsync(ShopPerson who, int archive, int n, byte[] body, int done, DateTimeOffset now, CancellationToken cancel) =>
        database.InShopAsync(who, (c, t) => c.ExecuteAsync(new CommandDefinition("""
            insert into archive_piece (archive_id, n, shop_id, body) values (@archive, @n, @ShopId, @body);
            update archive set done = @done, bytes = bytes + @size, touched_at = @now where id = @archive;
            """, new { archive, n, who.ShopId, body, done, size = body.Length, now }, t, cancellationToken: cancel)), cancel);

    /// <summary>Says how far it is.</summary>
    internal Task TouchAsync(ShopPerson who, int archive, int done, DateTimeOffset now, CancellationToken cancel) =>
        database.InShopAsync(who, (c, t) => c.ExecuteAsync(new CommandDefinition("update archive set done = @done, touched_at = @now where id = @archive", new { archive, done, now }, t, cancellationToken: cancel)), cancel);

    /// <summary>Says that it is finished, or why it is not.</summary>
    internal Task EndAsync(ShopPerson who, int archive, int done, string? failed, DateTimeOffset now, CancellationToken cancel) =>
        database.InShopAsync(who, (c, t) => c.ExecuteAsync(new CommandDefinition("update archive set done = @done, failed = @failed, finished_at = case when @failed::text is null then @now end, touched_at = @now where id = @archive",
            new { archive, done, failed, now }, t, cancellationToken: cancel)), cancel);

    /// <summary>Opens a finished archive for reading from any place on; absent when there is none of that row.</summary>
    public async Task<Stream?> OpenAsync(ShopPerson who, int archive, CancellationToken cancel = default) =>
        await database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<long?>(new CommandDefinition("select bytes from archive where id = @archive and finished_at is not null", new { archive }, t, cancellationToken: cancel)), cancel) is { } bytes
            ? new PieceStream(bytes, (n, stop) => database.InShopAsync(who, async (c, t) => (await c.ExecuteScalarAsync<byte[]?>(new CommandDefinition(
                "select body from archive_piece where archive_id = @archive and n = @n", new { archive, n }, t, cancellationToken: stop))) ?? throw new IOException("The archive was made anew meanwhile. Begin the download again."), stop)) : null;

    /// <summary>Numbers of the jobs of the shop after one, in order.</summary>
    internal Task<IReadOnlyList<int>> NumbersAsync(ShopPerson who, int after, int most, CancellationToken cancel) =>
        database.InShopAsync<IReadOnlyList<int>>(who, async (c, t) => (await c.QueryAsync<int>(new CommandDefinition("select number from job where number > @after and not sample order by number limit @most", new { after, most }, t, cancellationToken: cancel))).AsList(), cancel);

    /// <summary>Jobs as they are kept, the parts of each put together as text: nothing of them is read or changed on the way.</summary>
    internal Task<IReadOnlyList<ArchivedJob>> JobsAsync(ShopPerson who, IReadOnlyList<int> numbers, CancellationToken cancel) =>
        database.ReadAsync(who.ShopId, who.PersonId, JobPurpose.Work, """
            select j.id, j.number, j.record::text as record, j.opened_at, j.closed_at, p.name as opened_by, v.label as vehicle, e.serial from job j join person p on p.id = j.opened_by left join vehicle v on v.id = j.vehicle_id join engine e on e.id = j.engine_id
            where j.number = any(@numbers) order by j.number;
            select t.id, t.job_id, t.kind, t.body::text as body, t.made_at, t.body -> 'tester' ->> 'label' as tester, t.body -> 'conditions' ->> 'engineTemperature' as temperature
            from test t where t.job_id = any(array(select j.id from job j where j.number = any(@numbers))) and t.withdrawn_at is null order by t.job_id, t.position;
            select r.test_id, r.slot, r.body::text as body, r.pressure_pa, (r.body ->> 'cylinder')::int as cylinder, r.body ->> 'value' as value, (r.body ->> 'leakPercent')::double precision as leak_percent, (r.body ->> 'relativePercent')::double precision as relative_percent, r.taken_at, p.name as by
            from reading r join person p on p.id = r.by_person
            where r.test_id = any(array(select t.id from test t where t.job_id = any(array(select j.id from job j where j.number = any(@numbers))) and t.withdrawn_at is null))
                and r.body is not null and not exists (select 1 from reading n where n.supersedes = r.id) order by r.test_id, r.position, r.id;
            select job_id, body::text as body from found_fault where job_id = any(array(select j.id from job j where j.number = any(@numbers))) and withdrawn_at is null order by job_id, id;
            """, new DynamicParameters(new { numbers = numbers.ToArray() }), async grid =>
            {
                var jobs = (await grid.ReadAsync<ArchivedJob>()).AsList();
                var tests = (await grid.ReadAsync<ArchivedTest>()).ToLookup(t => t.JobId);
                var readings = (await grid.ReadAsync<ArchivedReading>()).ToLookup(r => r.TestId);
                var found = (await grid.ReadAsync<(long JobId, string Body)>()).ToLookup(f => f.JobId, f => f.Body);
                return (IReadOnlyList<ArchivedJob>)[.. jobs.Select(j => j with { Tests = [.. tests[j.Id].Select(t => t with { Readings = [.. readings[t.Id]] })], Found = [.. found[j.Id]] })];
            }, cancel);
}

/// <summary>A job on its way into an archive.</summary>
internal sealed record ArchivedJob
{
    public long Id { get; init; }
    public int Number { get; init; }
    public string Record { get; init; } = "";
    public DateTimeOffset OpenedAt { get; init; }
    public DateTimeOffset? ClosedAt { get; init; }
    public string OpenedBy { get; init; } = "";
    public string? Vehicle { get; init; }
    public string? Serial { get; init; }
    public IReadOnlyList<ArchivedTest> Tests { get; init; } = [];
    public IReadOnlyList<string> Found { get; init; } = [];

    /// <summary>The open record, as text.</summary>
    public string ToRecord() => With(With(Record, "tests", Tests.Select(t => With(t.Body, "readings", t.Readings.Select(r => r.Body)))), "found", Found);

    // An object as the database writes it, with a list more at its end; an empty list is left out.
    private static string With(string json, string name, IEnumerable<string> list)
    {
        var inner = string.Join(',', list);
        return inner.Length == 0 ? json : $"{json[..^1]}{(json.Length > 2 ? "," : "")}\"{name}\":[{inner}]}}";
    }
}

/// <summary>A test on its way into an archive.</summary>
internal sealed record ArchivedTest
{
    public long Id { get; init; }
    public long JobId { get; init; }
    public string Kind { get; init; } = "";
    public string Body { get; init; } = "";
    public DateTimeOffset MadeAt { get; init; }
    public string? Tester { get; init; }
    public string? Temperature { get; init; }
    public IReadOnlyList<ArchivedReading> Readings { get; init; } = [];
}

/// <summary>A reading on its way into an archive.</summary>
internal sealed record ArchivedReading
{
    public long TestId { get; init; }
    public int Slot { get; init; }
    public string Body { get; init; } = "";
    public double? PressurePa { get; init; }
    public int? Cylinder { get; init; }
    public string? Value { get; init; }
    public double? LeakPercent { get; init; }
    public double? RelativePercent { get; init; }
    public DateTimeOffset TakenAt { get; init; }
    public string By { get; init; } = "";
}
