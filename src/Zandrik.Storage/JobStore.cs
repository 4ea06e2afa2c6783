using System.Text.Json;
using System.Text.Json.Nodes;
using Dapper;
using Npgsql;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Testers;
using Zandrik.Core.Units;
using Zandrik.Storage.Documents;

namespace Zandrik.Storage;

/// <summary>Keeps jobs: makes them from records, finds and lists them, changes their intake.</summary>
public sealed class JobStore(ShopDatabase database)
{
    /// <summary>Makes a job from a record, whoever it came from: the form, another shop, or the demo data.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="record">A record that passes <see cref="RecordRules"/>.</param>
    /// <param name="now">The time, used where the record says none.</param>
    /// <param name="unit">The unit to show pressures in; absent for that of the first test with one, else the spec's, else the shop's.</param>
    /// <param name="sheetVersion">The version of the engine sheet the engine was taken from; absent for none.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    /// <returns>The job's number.</returns>
    /// <remarks>A record that says what was found is of a job that is over: it is kept closed, and can be opened again.</remarks>
    public Task<int> CreateAsync(
        ShopPerson who, TestRecord record, DateTimeOffset now, PressureUnit? unit = null, int? sheetVersion = null, CancellationToken cancel = default) =>
        CreateNumberedAsync(who, record, now, unit, sheetVersion, cancel);

    private async Task<int> CreateNumberedAsync(ShopPerson who, TestRecord record, DateTimeOffset now, PressureUnit? unit, int? sheetVersion, CancellationToken cancel)
    {
        var number = await NumberAsync(who, cancel);
        await database.InShopAsync(who, (c, t) => InsertAsync(c, t, who, number, record, now, unit, sheetVersion, cancel), cancel);
        return number;
    }

    // The shop's row is held only for this: a large record that is taken in meanwhile keeps nobody waiting. A number
    // whose job then fails is never used.
    private Task<int> NumberAsync(ShopPerson who, CancellationToken cancel) => NumbersAsync(database, who, 1, cancel);

    /// <summary>Takes numbers for new jobs.</summary>
    /// <returns>The first of them; the others follow.</returns>
    internal static Task<int> NumbersAsync(ShopDatabase database, ShopPerson who, int count, CancellationToken cancel) => database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<int>(new CommandDefinition(
        $"update shop set {Counter(who)} = {Counter(who)} + @count where id = @shop returning {Counter(who)} - @count", new { shop = who.ShopId, count }, t, cancellationToken: cancel)), cancel);

    private static string Counter(ShopPerson who) => who.Purpose == JobPurpose.Practice ? "next_practice" : "next_job";

    /// <summary>
    /// Makes a job once for each key: the same request sent again finds the job it made the first time.
    /// </summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="key">The sender's key.</param>
    /// <param name="requestHash">Hash of the request's body.</param>
    /// <param name="record">A record that passes <see cref="RecordRules"/>.</param>
    /// <param name="now">The time, used where the record says none.</param>
    /// <param name="sheetVersion">The version of the engine sheet the engine was taken from; absent for none.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    /// <returns>The job's number, and whether the key was used before with a different body (then nothing was made).</returns>
    public async Task<(int Number, bool KeyUsedForAnother)> CreateOnceAsync(
        ShopPerson who, string key, byte[] requestHash, TestRecord record, DateTimeOffset now, int? sheetVersion = null, CancellationToken cancel = default)
    {
        (int, bool)? Before(SenderKey.Made? made) => made is null ? null : (made.Job, made.Test is not null || !made.Is(requestHash));
        if (Before(await database.InShopAsync(who, (c, t) => SenderKey.MadeAsync(c, t, key, cancel), cancel)) is { } known)
        {
            return known;
        }
        var number = await NumberAsync(who, cancel);
        return await database.InShopAsync(who, async (connection, transaction) =>
        {
            if (Before(await SenderKey.ClaimAsync(connection, transaction, who, key, cancel)) is { } meanwhile)
            {
                return meanwhile;
            }
            await InsertAsync(connection, transaction, who, number, record, now, null, sheetVersion, cancel);
            await SenderKey.KeepAsync(connection, transaction, who, key, requestHash, number, null, cancel);
            return (number, false);
        }, cancel);
    }

    /// <summary>Finds a job of the shop; absent when it has none of that number.</summary>
    public async Task<Job?> FindAsync(ShopPerson who, int number, CancellationToken cancel = default)
    {
        var jobs = await database.InShopAsync(who, (c, t) => LoadAsync(c, t, "j.number = @number", new { number }, superseded: false, cancel), cancel);
        return jobs.Count == 0 ? null : jobs[0];
    }

    /// <summary>Whether the shop has a job of that number.</summary>
    public Task<bool> ExistsAsync(ShopPerson who, int number, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<bool>(new CommandDefinition(
            "select exists (select 1 from job where number = @number)", new { number }, t, cancellationToken: cancel)), cancel);

    /// <summary>The open record of a job; absent when the shop has none of that number.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="number">The job.</param>
    /// <param name="superseded">True to add readings that were corrected or taken back, each with the row that took its place.</param>
    /// <param name="cancel">Cancels the work.</param>
    public async Task<TestRecord?> RecordAsync(ShopPerson who, int number, bool superseded, CancellationToken cancel = default)
    {
        var jobs = await database.InShopAsync(who, (c, t) => LoadAsync(c, t, "j.number = @number", new { number }, superseded, cancel, asKept: true), cancel);
        return jobs.Count == 0 ? null : jobs[0].Record;
    }

    /// <summary>Lists jobs with everything measured, newest first.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="which">Which of them.</param>
    /// <param name="size">Most jobs on a page.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task<JobPage> ListAsync(ShopPerson who, JobFilter which, int size, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            var numbers = await NumbersAsync(connection, transaction, which, size, cancel);
            var jobs = await LoadAsync(connection, transaction, "j.number = any(@numbers)", new { numbers = numbers.Take(size).ToArray() }, superseded: false, cancel);
            return new JobPage(jobs, numbers.Count > size);
        }, cancel);

    /// <summary>Lists jobs as lines, newest first: what a list shows, without the readings.</summary>
    public Task<(IReadOnlyList<JobLine> Lines, bool More)> LinesAsync(ShopPerson who, JobFilter which, int size, CancellationToken cancel = default) =>
        database.InShopAsync<(IReadOnlyList<JobLine>, bool)>(who, async (connection, transaction) =>
        {
            var numbers = await NumbersAsync(connection, transaction, which, size, cancel);
            var lines = await JobLine.LoadAsync(connection, transaction, [.. numbers.Take(size)], cancel);
            return (lines, numbers.Count > size);
        }, cancel);

    // One more than a page holds, so that it is known whether there is another. Pages are cut at a job, not at
    // a count: the thousandth page costs what the first does, and a job opened meanwhile shifts nothing.
    private static async Task<List<int>> NumbersAsync(
        NpgsqlConnection connection, NpgsqlTransaction transaction, JobFilter which, int size, CancellationToken cancel)
    {
        var parameters = new DynamicParameters();
        var (where, order) = Condition(which, parameters, size);
        return (await connection.QueryAsync<int>(new CommandDefinition($"select j.number from job j where {where} {order}", parameters, transaction, cancellationToken: cancel))).AsList();
    }

    // A list's condition on "j" and its order, with their parameters.
    internal static (string Where, string Order) Condition(JobFilter which, DynamicParameters parameters, int size)
    {
        var conditions = new List<string> { "true" };
        if (which.Open is { } open)
        {
            conditions.Add(open ? "j.closed_at is null" : "j.closed_at is not null");
        }
        if (which.OpenedBy is not null)
        {
            conditions.Add("j.opened_by = @OpenedBy");
        }
        if (which.Vehicle is not null)
        {
            conditions.Add("j.vehicle_id = @Vehicle");
        }
        if (which.Engine is not null)
        {
            conditions.Add("j.engine_id = @Engine");
        }
        if (which.From is not null)
        {
            conditions.Add("j.opened_at >= @From");
        }
        if (which.To is not null)
        {
            conditions.Add("j.opened_at < @To");
        }
        if (which.After is not null)
        {
            conditions.Add("(j.opened_at, j.number) < (select a.opened_at, a.number from job a where a.number = @After)");
        }
        parameters.AddDynamicParams(new { which.OpenedBy, which.Vehicle, which.Engine, which.From, which.To, which.After, most = size + 1 });
        return (string.Join(" and ", conditions), "order by j.opened_at desc, j.number desc limit @most");
    }

    /// <summary>How many jobs the shop has.</summary>
    public Task<int> CountAsync(ShopPerson who, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<int>(new CommandDefinition("select count(*) from job", null, t, cancellationToken: cancel)), cancel);

    /// <summary>
    /// Replaces everything of a job's record but its tests. What stood there before stays as a version, with who changed
    /// it and when; a form that was opened before somebody else's change is refused.
    /// </summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="number">The job.</param>
    /// <param name="record">The record.</param>
    /// <param name="sheetVersion">The version of the engine sheet the engine was taken from; absent to leave it.</param>
    /// <param name="seen">The <see cref="Job.IntakeVersion"/> that was on the screen; absent to write whatever stands there.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task<StepAnswer> ChangeIntakeAsync(ShopPerson who, int number, TestRecord record, int? sheetVersion = null, int? seen = null, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) =>
        {
            var held = await HeldJob.OfAsync(c, t, who, number, cancel);
            if (held is not { Closed: null, Id: var id })
            {
                return StepAnswer.NotOpen(held);
            }
            var changes = await IntakeChangesAsync(c, t, id, cancel);
            if (seen is not null && seen != changes.Count)
            {
                return new StepAnswer(true, $"{(changes.Count > 0 ? changes[^1].By : null) ?? "Somebody"} changed this intake after you opened it. What you typed is still here: look at what changed, then save it again.");
            }
            // The vehicle is known by its row: whoever leaves the name alone leaves the job where it is, whatever the vehicle is called by now.
            var (vehicle, label, named, before, opened) = await c.QuerySingleAsync<(int? Vehicle, string? Label, string? Named, int Engine, DateTimeOffset Opened)>(new CommandDefinition(
                "select j.vehicle_id, j.vehicle_label, v.label, j.engine_id, j.opened_at from job j left join vehicle v on v.id = j.vehicle_id where j.id = @id", new { id }, t, cancellationToken: cancel));
            bool Is(string? name) => string.Equals(record.Vehicle?.Label, name, StringComparison.OrdinalIgnoreCase);
            var moved = vehicle is null || !(Is(label) || Is(named));
            if (moved)
            {
                vehicle = await VehicleStore.EnsureAsync(c, t, who, record.Vehicle?.Label, cancel);
            }
            // An engine is not asked for again where nothing that tells it was changed: a later swap would move an old job.
            var engine = before;
            if (moved || !string.Equals(held.Engine.Serial, record.Engine.Serial, StringComparison.OrdinalIgnoreCase) || !EngineRules.CanBeOf(held.Engine, record.Engine))
            {
                engine = await EngineStore.OfCorrectedJobAsync(c, t, who, before, moved, vehicle, held.Engine, record.Engine, sheetVersion, opened, cancel);
            }
            await c.ExecuteAsync(new CommandDefinition("""
                update job set record = @record::jsonb, vehicle_id = @vehicle, engine_id = @engine,
                    sheet_version_id = coalesce((select v.id from engine_sheet_version v where v.id = @sheetVersion), sheet_version_id)
                where id = @id
                """, new { id, record = Head(record).ToJsonString(TestRecordJson.Options), sheetVersion, vehicle, engine }, t, cancellationToken: cancel));
            if (engine != before)
            {
                await EngineStore.ForgetAsync(c, t, before, cancel);
            }
            return StepAnswer.Kept;
        }, cancel);

    /// <summary>Who changed a job's intake and when, oldest first; empty for one that stands as it was opened.</summary>
    public Task<IReadOnlyList<Change>> IntakeChangesAsync(ShopPerson who, int number, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) => await c.ExecuteScalarAsync<long?>(new CommandDefinition("select id from job where number = @number", new { number }, t, cancellationToken: cancel)) is { } id
            ? await IntakeChangesAsync(c, t, id, cancel) : [], cancel);

    private static async Task<IReadOnlyList<Change>> IntakeChangesAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, long id, CancellationToken cancel) =>
        (await connection.QueryAsync<Change>(new CommandDefinition(
            "select v.changed_at as at, p.name as by from job_version v left join person p on p.id = v.changed_by where v.job_id = @id order by v.id", new { id }, transaction, cancellationToken: cancel))).AsList();

    /// <summary>Shows a job's pressures in another unit. What was read stays as it was read.</summary>
    /// <returns>False when the shop has no such job.</returns>
    public Task<bool> ShowInAsync(ShopPerson who, int number, PressureUnit unit, CancellationToken cancel = default) =>
        ChangeAsync(who, "unit = @unit", new { number, unit = RecordWords.Of(unit) }, cancel);

    /// <summary>Closes a job, or opens it again.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="number">The job.</param>
    /// <param name="at">When it is closed; absent to open it again.</param>
    /// <param name="reason">Why it is closed with things still to be put back; absent where there are none.</param>
    /// <param name="cancel">Cancels the work.</param>
    /// <returns>Refused while the air is on: it is shut off and vented before anybody leaves.</returns>
    public Task<StepAnswer> CloseAsync(ShopPerson who, int number, DateTimeOffset? at, string? reason = null, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) =>
        {
            if (await HeldJob.OfAsync(c, t, who, number, cancel) is not { Id: var id })
            {
                return StepAnswer.Missing;
            }
            if (at is not null && (await StepStore.StateAsync(c, t, who, number, cancel)).Safety.ForbidsUnderAir is { } why)
            {
                return new StepAnswer(true, why);
            }
            await c.ExecuteAsync(new CommandDefinition("update job set closed_at = @at, close_reason = @reason where id = @id", new { id, at, reason }, t, cancellationToken: cancel));
            return StepAnswer.Kept;
        }, cancel);

    private Task<bool> ChangeAsync(ShopPerson who, string change, object parameters, CancellationToken cancel) =>
        database.InShopAsync(who, async (c, t) =>
            await c.ExecuteAsync(new CommandDefinition($"update job set {change} where number = @number", parameters, t, cancellationToken: cancel)) > 0, cancel);

    // The row of the new job. A job of the past is over on the day it was done.
    internal static async Task<long> InsertAsync(
        NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, int number, TestRecord record, DateTimeOffset now,
        PressureUnit? unit, int? sheetVersion, CancellationToken cancel, DateTimeOffset? past = null, bool sample = false)
    {
        var vehicle = await VehicleStore.EnsureAsync(connection, transaction, who, record.Vehicle?.Label, cancel);
        var opened = past ?? record.Tests?.Min(t => t.At) ?? now;
        var engine = await EngineStore.OfJobAsync(connection, transaction, who, vehicle, record.Engine, sheetVersion, opened, cancel);
        var closed = record.Found is { Count: > 0 } found ? found.Max(f => f.At) ?? opened : past;
        var gauges = unit is null && record.Tests is not { Count: > 0 } ? await TesterStore.ListAsync(connection, transaction, cancel) : [];
        var shown = unit ?? record.Tests?.Select(t => t.GaugeUnit).FirstOrDefault(u => u is not null) ?? GaugeScale.Of(gauges.Where(g => g.RetiredAt is null).Select(g => g.Tester), record.Engine);
        var job = await connection.ExecuteScalarAsync<long>(new CommandDefinition("""
            insert into job (shop_id, number, record, unit, opened_at, opened_by, closed_at, vehicle_id, engine_id, sheet_version_id, sample)
            values (@shop, @number, @record::jsonb, @unit, @opened, @person, @closed, @vehicle, @engine,
                    (select v.id from engine_sheet_version v where v.id = @sheetVersion), @sample)
            returning id
            """,
            new
            {
                shop = who.ShopId,
                number,
                record = Head(record).ToJsonString(TestRecordJson.Options),
                unit = shown is { } u ? RecordWords.Of(u) : who.Unit,
                opened,
                person = who.PersonId,
                closed,
                vehicle,
                engine,
                sheetVersion,
                sample,
            }, transaction, cancellationToken: cancel));
        foreach (var fault in record.Found ?? [])
        {
            await VerdictStore.InsertFoundAsync(connection, transaction, who, job, fault, null, fault.At ?? closed ?? opened, cancel);
        }
        await InsertTestsAsync(connection, transaction, who, job, record.Engine, 1, record.Tests ?? [], now, cancel);
        return job;
    }

    // Tests and their readings, one statement for each table however many they are; answers their rows in order.
    internal static async Task<IReadOnlyList<long>> InsertTestsAsync(
        NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, long job, EngineSheet engine, int firstPosition, IReadOnlyList<TestEntry> tests, DateTimeOffset now, CancellationToken cancel, Guid? key = null)
    {
        if (tests.Count == 0)
        {
            return [];
        }
        var bodies = new List<JsonObject>();
        var readings = new List<(int Test, int Slot, int Place, string Body, double? PressurePa)>();
        for (var t = 0; t < tests.Count; t++)
        {
            var body = JsonSerializer.SerializeToNode(tests[t], TestRecordJson.Options)!.AsObject();
            body.Remove("readings", out var list);
            bodies.Add(body);
            // A cylinder has one chain of readings in a compression test; elsewhere each line of the list has.
            var byCylinder = tests[t] is DryCompressionTest or WetCompressionTest;
            var (taken, unit) = (tests[t].CylinderReadings, RecordRules.UnitOf(tests[t].GaugeUnit, engine));
            foreach (var (reading, place) in (list as JsonArray ?? []).Select((r, i) => (r!.AsObject(), i + 1)).ToList())
            {
                // What was superseded elsewhere stays history elsewhere: only the readings that count come in.
                if (reading["supersededBy"] is null)
                {
                    reading.Remove("id");
                    readings.Add((t, byCylinder ? (int)reading["cylinder"]! : place, place, reading.ToJsonString(TestRecordJson.Options), place <= taken.Count ? taken[place - 1].PressurePa(unit) : null));
                }
            }
        }
        var rows = (await connection.QueryAsync<(int Position, long Id)>(new CommandDefinition("""
            insert into test (shop_id, job_id, position, kind, body, made_at, made_by, entry)
            select @shop, @job, @firstPosition + n - 1, kind, body::jsonb, at, @person, @key
            from unnest(@kinds, @bodies, @times) with ordinality as t (kind, body, at, n) order by n
            returning position, id
            """,
            new
            {
                shop = who.ShopId, job, firstPosition, person = who.PersonId, key,
                kinds = bodies.Select(b => (string)b["kind"]!).ToArray(),
                bodies = bodies.Select(b => b.ToJsonString(TestRecordJson.Options)).ToArray(),
                times = tests.Select(t => (t.At ?? now).UtcDateTime).ToArray(),
            }, transaction, cancellationToken: cancel))).ToDictionary(r => r.Position, r => r.Id);
        var ids = tests.Select((_, t) => rows[firstPosition + t]).ToArray();
        if (readings.Count > 0)
        {
            await connection.ExecuteAsync(new CommandDefinition("""
                insert into reading (shop_id, test_id, slot, position, body, pressure_pa, taken_at, by_person)
                select @shop, test, slot, place, body::jsonb, pressure_pa, coalesce((body::jsonb ->> 'at')::timestamptz, at), @person
                from unnest(@tests, @slots, @places, @bodies, @pressures, @times) with ordinality as r (test, slot, place, body, pressure_pa, at, n) order by n
                """,
                new
                {
                    shop = who.ShopId, person = who.PersonId,
                    tests = readings.Select(r => ids[r.Test]).ToArray(),
                    slots = readings.Select(r => r.Slot).ToArray(),
                    places = readings.Select(r => r.Place).ToArray(),
                    bodies = readings.Select(r => r.Body).ToArray(),
                    pressures = readings.Select(r => r.PressurePa).ToArray(),
                    times = readings.Select(r => (tests[r.Test].At ?? now).UtcDateTime).ToArray(),
                }, transaction, cancellationToken: cancel));
        }
        return ids;
    }

    // Why a job takes no test of so many readings any more; absent where it does.
    internal static async Task<string?> TooManyAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, long job, TestEntry test, CancellationToken cancel)
    {
        var (tests, readings) = await connection.QuerySingleAsync<(int, int)>(new CommandDefinition(
            "select (select count(*)::int from test where job_id = @job), (select count(*)::int from reading r join test t on t.id = r.test_id where t.job_id = @job)", new { job }, transaction, cancellationToken: cancel));
        return RecordRules.TooMany(tests + 1, readings + RecordRules.ReadingsOf(test));
    }

    // Asked row by row: joined, the planner reads the successors of every reading there is once there are many.
    private const string Successor = "(select n.id from reading n where n.supersedes = r.id)";

    // The statements that load the jobs of a condition on "j", in the order in which AssembleAsync reads them.
    internal static string Loading(string where, bool superseded) => $"""
        select j.id, j.number, j.record::text as record, j.unit, j.opened_at, j.closed_at, p.name as opened_by, j.vehicle_id, j.engine_id, j.sheet_version_id, j.close_reason, j.sample,
               (select count(*)::int from job_version v where v.job_id = j.id) as intake_version, w.label as vehicle_now
        from job j left join vehicle w on w.id = j.vehicle_id join person p on p.id = j.opened_by
        where {where} order by j.opened_at desc, j.number desc;
        select t.id, t.job_id, t.kind, t.body::text as body,
               exists (select 1 from test_version v where v.test_id = t.id and v.after_reading) as changed_since_read
        from test t where t.job_id = any(array(select j.id from job j where {where})) and t.withdrawn_at is null order by t.job_id, t.position;
        select r.id, r.test_id, r.slot, r.body::text as body, r.conflicting_reading::text as conflicting, r.instrument, r.trace is not null as traced, {(superseded ? Successor : "null::bigint")} as superseded_by
        from reading r
        where r.test_id = any(array(select t.id from test t where t.job_id = any(array(select j.id from job j where {where})) and t.withdrawn_at is null)) and {(superseded ? "r.body" : Successor)} is {(superseded ? "not null" : "null")}
        order by r.test_id, r.position, r.id;
        select id, job_id, body::text as body from found_fault where job_id = any(array(select j.id from job j where {where})) and withdrawn_at is null order by job_id, id;
        """;

    internal static async Task<IReadOnlyList<Job>> AssembleAsync(SqlMapper.GridReader grid, bool superseded, bool asKept = false)
    {
        var jobs = (await grid.ReadAsync<JobRow>()).AsList();
        var tests = (await grid.ReadAsync<TestRow>()).ToLookup(t => t.JobId);
        var readings = (await grid.ReadAsync<ReadingRow>()).ToLookup(r => r.TestId);
        var found = (await grid.ReadAsync<FoundRow>()).ToLookup(f => f.JobId);
        return [.. jobs.Select(j => Assemble(j, [.. tests[j.Id]], readings, [.. found[j.Id]], superseded, asKept))];
    }

    internal static async Task<IReadOnlyList<Job>> LoadAsync(
        NpgsqlConnection connection, NpgsqlTransaction transaction, string where, object parameters, bool superseded, CancellationToken cancel, bool asKept = false)
    {
        await using var grid = await connection.QueryMultipleAsync(new CommandDefinition(Loading(where, superseded), parameters, transaction, cancellationToken: cancel));
        return await AssembleAsync(grid, superseded, asKept);
    }

    private static Job Assemble(JobRow job, List<TestRow> tests, ILookup<long, ReadingRow> readings, List<FoundRow> found, bool superseded, bool asKept)
    {
        var record = JsonNode.Parse(job.Record)!.AsObject();
        if (found.Count > 0)
        {
            record["found"] = new JsonArray([.. found.Select(f => JsonNode.Parse(f.Body))]);
        }
        if (tests.Count > 0)
        {
            record["tests"] = new JsonArray([.. tests.Select(t => Body(t, readings[t.Id], superseded))]);
        }
        return new Job
        {
            Number = job.Number,
            Id = job.Id,
            // For export it is as it was kept; whoever judges it has to know what was read over oil.
            Record = asKept ? TestRecordJson.ReadTrusted(record) : OilHistory.Marked(TestRecordJson.ReadTrusted(record)),
            TestIds = [.. tests.Select(t => t.Id)],
            FoundIds = [.. found.Select(f => f.Id)],
            Rows = tests.ToDictionary(t => t.Id, t => (IReadOnlyDictionary<int, KeptReading>)readings[t.Id].Where(r => r.SupersededBy is null).ToDictionary(
                r => r.Slot,
                r => new KeptReading(r.Id, r.Conflicting is null ? null : StoredDocuments.Read<ConflictDocumentV1, ConflictingReading>(r.Conflicting), r.Instrument, r.Traced))),
            Unit = RecordWords.TryParse<PressureUnit>(job.Unit, out var unit) ? unit : PressureUnit.Psi,
            OpenedAt = job.OpenedAt,
            OpenedBy = job.OpenedBy,
            ClosedAt = job.ClosedAt,
            VehicleId = job.VehicleId,
            EngineId = job.EngineId,
            SheetVersionId = job.SheetVersionId,
            CloseReason = job.CloseReason,
            IntakeVersion = job.IntakeVersion,
            ChangedSinceRead = tests.Where(t => t.ChangedSinceRead).Select(t => t.Id).ToHashSet(),
            VehicleNow = job.VehicleNow,
            IsSample = job.Sample,
        };
    }

    private static JsonObject Body(TestRow test, IEnumerable<ReadingRow> readings, bool superseded)
    {
        var body = JsonNode.Parse(test.Body)!.AsObject();
        var list = new JsonArray();
        foreach (var row in readings)
        {
            // A row that took a reading back has nothing to show.
            if (row.Body is null)
            {
                continue;
            }
            var reading = JsonNode.Parse(row.Body)!.AsObject();
            if (superseded)
            {
                reading["id"] = row.Id;
                if (row.SupersededBy is { } by)
                {
                    reading["supersededBy"] = by;
                }
            }
            list.Add(reading);
        }
        if (list.Count > 0)
        {
            body["readings"] = list;
        }
        return body;
    }

    private static JsonObject Head(TestRecord record) => TestRecordJson.ToNode(record with { Tests = null, Found = null });

    private sealed record JobRow
    {
        public long Id { get; init; }
        public int Number { get; init; }
        public string Record { get; init; } = "";
        public string Unit { get; init; } = "";
        public DateTimeOffset OpenedAt { get; init; }
        public DateTimeOffset? ClosedAt { get; init; }
        public string OpenedBy { get; init; } = "";
        public int? VehicleId { get; init; }
        public int EngineId { get; init; }
        public int? SheetVersionId { get; init; }
        public string? CloseReason { get; init; }
        public int IntakeVersion { get; init; }
        public string? VehicleNow { get; init; }
        public bool Sample { get; init; }
    }

    private sealed record TestRow
    {
        public long Id { get; init; }
        public long JobId { get; init; }
        public string Kind { get; init; } = "";
        public string Body { get; init; } = "";
        public bool ChangedSinceRead { get; init; }
    }

    private sealed record FoundRow
    {
        public long Id { get; init; }
        public long JobId { get; init; }
        public string Body { get; init; } = "";
    }

    private sealed record ReadingRow
    {
        public long Id { get; init; }
        public long TestId { get; init; }
        public int Slot { get; init; }
        public string? Body { get; init; }
        public string? Conflicting { get; init; }
        public string? Instrument { get; init; }
        public bool Traced { get; init; }
        public long? SupersededBy { get; init; }
    }
}
