using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Dapper;
using Microsoft.Extensions.Caching.Memory;
using Zandrik.Core.Life;
using Zandrik.Core.Records;
using Zandrik.Storage.Documents;

namespace Zandrik.Storage;

/// <summary>Where an engine went.</summary>
public enum EngineGone
{
    /// <summary>Sold.</summary>
    Sold,

    /// <summary>Scrapped.</summary>
    Scrapped,

    /// <summary>Looked after elsewhere.</summary>
    Elsewhere,
}

/// <summary>What can be told of a job in the life of its engine beside its tests.</summary>
/// <param name="Number">The job's number.</param>
/// <param name="At">When it was opened.</param>
/// <param name="Vehicle">The vehicle by then; absent where nobody said.</param>
/// <param name="Odometer">What its odometer said; absent for nothing.</param>
/// <param name="IsReplaced">True where somebody said that the odometer was changed before it.</param>
/// <param name="IsConfirmed">True where somebody said that the figure is right as it stands.</param>
public sealed record LifeJob(int Number, DateTimeOffset At, string? Vehicle, Odometer? Odometer, bool IsReplaced, bool IsConfirmed);

/// <summary>An engine's life, with its jobs.</summary>
/// <param name="Life">The life.</param>
/// <param name="Jobs">Its jobs, the earliest first.</param>
/// <param name="GoneAt">When it left the shop's care; absent while it did not.</param>
/// <param name="Gone">Where it went.</param>
public sealed record KeptLife(EngineLife Life, IReadOnlyList<LifeJob> Jobs, DateTimeOffset? GoneAt, EngineGone? Gone);

/// <summary>
/// Loads the lives of engines: all their jobs, tests and repairs, in whatever vehicle, and keeps the latest ones in memory for
/// as long as the engine's mark stands where it stood. What is said about odometers, and where engines went, is kept here too.
/// </summary>
public sealed class LifeStore(ShopDatabase database) : IDisposable
{
    /// <summary>So many tests are kept in memory, of all engines together.</summary>
    public const int MostTestsKept = 10_000;

    // What makes one life differ from the next: the rows of its jobs, where it went, and the shop's rule.
    private const string Mark = """
        select concat_ws('/', m.version, e.gone_at, e.gone_why, s.retest_months, s.retest_km, s.retest_hours) from engine_mark m join engine e on e.id = m.engine_id cross join shop s where e.id = @engine and s.id = current_shop()
        """;

    private readonly MemoryCache lived = new(new MemoryCacheOptions { SizeLimit = MostTestsKept });

    // Everything stands in the history but plugs, which are looked at one by one; the trend is of dry compression.
    private const string Kinds = "t.kind <> 'plug-inspection'";

    internal const string Statements = $"""
        select retest_months, retest_km, retest_hours from shop where id = current_shop();
        select e.id, e.gone_at, e.gone_why from engine e where e.id = any(@ids);
        select j.id, j.engine_id, j.number, j.opened_at, j.vehicle_id, j.vehicle_label, (j.record -> 'vehicle' -> 'odometer')::text as odometer, (j.record -> 'engine')::text as engine,
               (select n.replaced from odometer_note n where n.job_id = j.id order by n.id desc limit 1) as replaced, (select (i.body ->> 'kmAYear')::double precision from decision_input i where i.job_id = j.id order by i.id desc limit 1) as km_a_year
        from job j where j.engine_id = any(@ids) order by j.opened_at, j.number;
        select t.id, t.job_id, t.body::text as body from test t
        where t.job_id = any(array(select j.id from job j where j.engine_id = any(@ids))) and {Kinds} and t.withdrawn_at is null order by t.job_id, t.position;
        select r.test_id, '[' || string_agg(r.body::text, ',' order by r.position, r.id) || ']' as body from reading r
        where r.test_id = any(array(select t.id from test t where t.job_id = any(array(select j.id from job j where j.engine_id = any(@ids))) and {Kinds} and t.withdrawn_at is null))
            and r.body is not null and not exists (select 1 from reading n where n.supersedes = r.id) group by r.test_id;
        select d.job_id, d.body::text as body, d.done_at from repair_done d where d.job_id = any(array(select j.id from job j where j.engine_id = any(@ids))) and {RepairStore.Counts};
        """;

    /// <summary>The life of an engine; absent when the shop has none of that row.</summary>
    public async Task<KeptLife?> FindAsync(ShopPerson who, int engine, CancellationToken cancel = default)
    {
        // Sentences carry figures as they are written there, so another way of writing has its own.
        var key = (who.ShopId, who.Purpose, engine, CultureInfo.CurrentCulture.Name);
        // Asked before the rows: they may be newer than it, never older.
        var mark = await database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<string?>(new CommandDefinition(Mark, new { engine }, t, cancellationToken: cancel)), cancel);
        if (mark is not null && lived.TryGetValue(key, out (string Mark, KeptLife Life) kept) && kept.Mark == mark)
        {
            return kept.Life;
        }
        var life = await database.ReadAsync(who.ShopId, who.PersonId, who.Purpose, Statements, new DynamicParameters(new { ids = new[] { engine } }), async grid => (await ReadAsync(grid)).Values.FirstOrDefault(), cancel);
        if (mark is not null && life is not null)
        {
            lived.Set(key, (mark, life), new MemoryCacheEntryOptions { Size = 1 + life.Life.Tests.Count, SlidingExpiration = TimeSpan.FromHours(2) });
        }
        return life;
    }

    /// <inheritdoc/>
    public void Dispose() => lived.Dispose();

    /// <summary>What the odometer of a vehicle said at its jobs, the earliest first.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="vehicle">What the vehicle is called, in capitals or not.</param>
    /// <param name="cancel">Cancels the work.</param>
    /// <returns>Jobs with a figure; none for a vehicle that was not here yet.</returns>
    public Task<IReadOnlyList<Core.Life.Visit>> OdometersAsync(ShopPerson who, string vehicle, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<Core.Life.Visit>>(who, async (c, t) => [.. (await c.QueryAsync<JobRow>(new CommandDefinition("""
            select j.number, j.opened_at, j.vehicle_id, (j.record -> 'vehicle' -> 'odometer')::text as odometer, (select n.replaced from odometer_note n where n.job_id = j.id order by n.id desc limit 1) as replaced
            from job j join vehicle v on v.id = j.vehicle_id where lower(v.label) = lower(@vehicle) and j.record -> 'vehicle' -> 'odometer' is not null order by j.opened_at, j.number
            """, new { vehicle }, t, cancellationToken: cancel))).Select(j => new Core.Life.Visit(j.Number, j.OpenedAt, j.VehicleId, JsonSerializer.Deserialize<Odometer>(j.Odometer!, TestRecordJson.Options), j.Replaced == true))], cancel);

    /// <summary>The rule for testing again.</summary>
    public Task<RetestRule> RuleAsync(ShopPerson who, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) => (await c.QuerySingleAsync<RuleRow>(new CommandDefinition("select retest_months, retest_km, retest_hours from shop where id = current_shop()", null, t, cancellationToken: cancel))).ToRule(), cancel);

    /// <summary>Changes the rule for testing again.</summary>
    public Task ChangeRuleAsync(ShopPerson who, RetestRule rule, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteAsync(new CommandDefinition("update shop set retest_months = @Months, retest_km = @Km, retest_hours = @Hours where id = @ShopId", new { rule.Months, rule.Km, rule.Hours, who.ShopId }, t, cancellationToken: cancel)), cancel);

    /// <summary>Says of a job's odometer that it was changed before, or that its figure is right as it stands.</summary>
    /// <returns>False when the shop has no such job.</returns>
    public Task<bool> SayOdometerAsync(ShopPerson who, int job, bool replaced, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) => await c.ExecuteAsync(new CommandDefinition(
            "insert into odometer_note (shop_id, job_id, replaced, at, by_person) select j.shop_id, j.id, @replaced, @at, @person from job j where j.number = @job", new { job, replaced, at, person = who.PersonId }, t, cancellationToken: cancel)) > 0, cancel);

    /// <summary>Says that an engine left the shop's care, or that it is back.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="engine">The engine.</param>
    /// <param name="gone">Where it went; absent for back.</param>
    /// <param name="at">When.</param>
    /// <param name="cancel">Cancels the work.</param>
    /// <returns>False when the shop has no such engine.</returns>
    public Task<bool> SayGoneAsync(ShopPerson who, int engine, EngineGone? gone, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) => await c.ExecuteAsync(new CommandDefinition(
            "update engine set gone_at = @at, gone_why = @why where id = @engine", new { engine, at = gone is null ? (DateTimeOffset?)null : at, why = gone is { } g ? RecordWords.Of(g) : null }, t, cancellationToken: cancel)) > 0, cancel);

    /// <summary>The latest dry test of each other engine of the same sheet, the latest first.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="engine">The engine.</param>
    /// <param name="most">Most of them.</param>
    /// <param name="cancel">Cancels the work.</param>
    /// <returns>Engines by their row with the test; empty for an engine without a sheet.</returns>
    public async Task<IReadOnlyList<(int Engine, LifeTest Test)>> OthersAsync(ShopPerson who, int engine, int most, CancellationToken cancel = default)
    {
        var ids = await database.InShopAsync(who, async (c, t) => (await c.QueryAsync<int>(new CommandDefinition(
            "select o.id from engine o join engine e on e.sheet_id = o.sheet_id where e.id = @engine and o.id <> e.id order by o.id desc limit @most", new { engine, most }, t, cancellationToken: cancel))).ToArray(), cancel);
        if (ids.Length == 0)
        {
            return [];
        }
        var lives = await database.ReadAsync(who.ShopId, who.PersonId, who.Purpose, Statements, new DynamicParameters(new { ids }), ReadAsync, cancel);
        return [.. lives.Where(l => l.Value.Life.LatestDry is not null).Select(l => (l.Key, l.Value.Life.LatestDry!)).OrderByDescending(l => l.Item2.At)];
    }

    internal static async Task<IReadOnlyDictionary<int, KeptLife>> ReadAsync(SqlMapper.GridReader grid)
    {
        var rule = (await grid.ReadFirstAsync<RuleRow>()).ToRule();
        var engines = (await grid.ReadAsync<(int Id, DateTimeOffset? GoneAt, string? GoneWhy)>()).AsList();
        var jobs = (await grid.ReadAsync<JobRow>()).ToLookup(j => j.EngineId);
        var tests = (await grid.ReadAsync<(long Id, long JobId, string Body)>()).ToLookup(t => t.JobId);
        var readings = (await grid.ReadAsync<(long TestId, string Body)>()).ToDictionary(r => r.TestId, r => r.Body);
        var repairs = (await grid.ReadAsync<(long JobId, string Body, DateTimeOffset DoneAt)>()).ToLookup(r => r.JobId);
        return engines.ToDictionary(e => e.Id, e => LifeOf(e.GoneAt, e.GoneWhy, [.. jobs[e.Id]], tests, readings, repairs, rule));
    }

    private static KeptLife LifeOf(
        DateTimeOffset? goneAt, string? goneWhy, List<JobRow> jobs, ILookup<long, (long Id, long JobId, string Body)> tests, Dictionary<long, string> readings, ILookup<long, (long JobId, string Body, DateTimeOffset DoneAt)> repairs, RetestRule rule)
    {
        var told = jobs.Select(j => new LifeJob(j.Number, j.OpenedAt, j.VehicleLabel, j.Odometer is null ? null : JsonSerializer.Deserialize<Odometer>(j.Odometer, TestRecordJson.Options), j.Replaced == true, j.Replaced == false)).ToList();
        // As the latest job knows it: its figures are the maker's latest.
        var sheets = new Dictionary<string, EngineSheet>();
        EngineSheet Sheet(JobRow job) => sheets.TryGetValue(job.Engine, out var known) ? known : sheets[job.Engine] = JsonSerializer.Deserialize<EngineSheet>(job.Engine, TestRecordJson.Options)!;
        var engine = jobs.Count > 0 ? Sheet(jobs[^1]) : new EngineSheet { Cylinders = 1 };
        var banks = Core.Engines.CylinderLayout.Of(engine).Banks.Count;
        var life = EngineLife.Of(engine,
            [.. jobs.Zip(told, (j, l) => new Core.Life.Visit(j.Number, j.OpenedAt, j.VehicleId, l.Odometer, l.IsReplaced))],
            jobs.SelectMany(j => tests[j.Id].Select(t => LifeTest.Of(t.Id, j.Number, j.OpenedAt, Test(t.Body, readings.GetValueOrDefault(t.Id)), Sheet(j)))).OfType<LifeTest>(),
            jobs.SelectMany(j => repairs[j.Id].Select(r => (Done: RepairStore.Read(r.Body), r.DoneAt)).Select(r => new LifeRepair(j.Number, r.DoneAt, r.Done.Title(banks), r.Done.Cylinders))),
            rule, jobs.Select(j => j.KmAYear).LastOrDefault(k => k is not null), goneAt is not null);
        return new(life, told, goneAt, goneWhy is null ? null : StoredWords.Read<EngineGone>(goneWhy));
    }

    // A test with its readings, each parsed once.
    private static TestEntry Test(string body, string? readings) => JsonSerializer.Deserialize<TestEntry>(body, TestRecordJson.Options) switch
    {
        DryCompressionTest dry => dry with { Readings = Read<CompressionReading>(readings) },
        WetCompressionTest wet => wet with { Readings = Read<CompressionReading>(readings) },
        LeakDownTest leak => leak with { Readings = Read<LeakDownReading>(readings) },
        var other when readings is null => other!,
        _ => WithReadings(body, readings!),
    };

    private static TestEntry WithReadings(string body, string readings)
    {
        var test = JsonNode.Parse(body)!.AsObject();
        test["readings"] = JsonNode.Parse(readings);
        return test.Deserialize<TestEntry>(TestRecordJson.Options)!;
    }

    private static List<T> Read<T>(string? readings) => readings is null ? [] : JsonSerializer.Deserialize<List<T>>(readings, TestRecordJson.Options)!;

    internal sealed record RuleRow
    {
        public int RetestMonths { get; init; }
        public double RetestKm { get; init; }
        public double RetestHours { get; init; }

        public RetestRule ToRule() => new(RetestMonths, RetestKm, RetestHours);
    }

    private sealed record JobRow
    {
        public long Id { get; init; }
        public int EngineId { get; init; }
        public int Number { get; init; }
        public DateTimeOffset OpenedAt { get; init; }
        public int? VehicleId { get; init; }
        public string? VehicleLabel { get; init; }
        public string? Odometer { get; init; }
        public string Engine { get; init; } = "";
        public bool? Replaced { get; init; }
        public double? KmAYear { get; init; }
    }
}
