using System.Text.Json;
using Dapper;
using Npgsql;
using Zandrik.Core.Compression;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Preparation;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Safety;
using Zandrik.Core.Units;
using Zandrik.Storage.Documents;

namespace Zandrik.Storage;

/// <summary>
/// Keeps dry tests and their readings. A reading is only ever added: a correction names the row it
/// takes the place of, an undo is a row of its own. Two people at one test are both kept, one after the other.
/// </summary>
public sealed class DryTestStore(ShopDatabase database)
{
    /// <summary>Starts a further dry test on a job, done like the one before it unless said otherwise.</summary>
    public Task<TestAnswer> StartAsync(ShopPerson who, int job, DryCompressionTest test, DateTimeOffset now, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            var (held, refused) = await HoldAsync(connection, transaction, who, job, cancel);
            return held is null || refused is not null ? new TestAnswer(null, refused) : new TestAnswer(await held.AddTestAsync(test, null, now, cancel));
        }, cancel);

    /// <summary>
    /// Writes down how a test is done, also afterwards: what was noted before stays, with who changed it and when.
    /// Readings already taken keep their rows.
    /// </summary>
    /// <returns>Row of the test, which is started when the job has none.</returns>
    public Task<TestAnswer> SetConditionsAsync(
        ShopPerson who, int job, long? test, TestConditions conditions, PressureUnit unit, DateTimeOffset now, CancellationToken cancel = default) =>
        ChangeTestAsync(who, job, test, unit, now, (connection, transaction, _, id) => connection.ExecuteAsync(new CommandDefinition("""
            update test set body = jsonb_set(body, '{conditions}', @conditions::jsonb) where id = @id
            """, new { id, conditions = JsonSerializer.Serialize(conditions, TestRecordJson.Options) }, transaction, cancellationToken: cancel)), cancel);

    /// <summary>What was put right on how a test was done once something had been read, oldest first. What was noted before the first reading is no change.</summary>
    /// <returns>Who changed it and when, with the test before and after; empty for a test nobody changed, or that the shop has not.</returns>
    public Task<IReadOnlyList<TestChange>> ChangesAsync(ShopPerson who, int job, long test, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<TestChange>>(who, async (connection, transaction) =>
        [.. (await connection.QueryAsync<ChangeRow>(new CommandDefinition("""
            select v.changed_at as at, p.name as by, v.body::text as before, coalesce(lead(v.body) over (order by v.id), t.body)::text as after
            from test_version v join test t on t.id = v.test_id join job j on j.id = t.job_id left join person p on p.id = v.changed_by
            where t.id = @test and t.kind = @kind and j.number = @job and v.after_reading
            order by v.id
            """, new { test, job, kind = Kind }, transaction, cancellationToken: cancel)))
            .Select(r => new TestChange(new Change { At = r.At, By = r.By }, Read(r.Before), Read(r.After)))], cancel);

    /// <summary>What an instrument wrote down while a reading was taken, dry or wet; absent where nothing is kept with it.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="row">The row of the reading.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task<PressureTrace?> TraceAsync(ShopPerson who, int job, long row, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) => await c.ExecuteScalarAsync<byte[]?>(new CommandDefinition(
            "select r.trace from reading r join test x on x.id = r.test_id join job j on j.id = x.job_id where r.id = @row and j.number = @job", new { row, job }, t, cancellationToken: cancel)) is { } bytes ? PressureTrace.Unpack(bytes) : null, cancel);

    private static readonly string Kind = RecordWords.Of(TestKind.Dry);

    private static DryCompressionTest Read(string body) => (DryCompressionTest)JsonSerializer.Deserialize<TestEntry>(body, TestRecordJson.Options)!;

    /// <summary>Says how many compressions each cylinder was given, where a reading does not say its own; absent for nobody counted.</summary>
    /// <inheritdoc cref="SetConditionsAsync"/>
    public Task<TestAnswer> SetCountAsync(ShopPerson who, int job, long? test, int? count, PressureUnit unit, DateTimeOffset now, CancellationToken cancel = default) =>
        ChangeTestAsync(who, job, test, unit, now, (connection, transaction, _, id) => connection.ExecuteAsync(new CommandDefinition("""
            update test set body = case when @count::int is null then body - 'count' else jsonb_set(body, '{count}', to_jsonb(@count::int)) end where id = @id
            """, new { id, count }, transaction, cancellationToken: cancel)), cancel);

    /// <summary>Says that a test only compares gauges, or that it judges the engine after all.</summary>
    /// <inheritdoc cref="SetConditionsAsync"/>
    public Task<TestAnswer> SetRoleAsync(ShopPerson who, int job, long? test, TestRole? role, PressureUnit unit, DateTimeOffset now, CancellationToken cancel = default) =>
        ChangeTestAsync(who, job, test, unit, now, (connection, transaction, _, id) => connection.ExecuteAsync(new CommandDefinition("""
            update test set body = case when @role::text is null then body - 'role' else jsonb_set(body, '{role}', to_jsonb(@role::text)) end where id = @id
            """, new { id, role = role is { } r ? RecordWords.Of(r) : null }, transaction, cancellationToken: cancel)), cancel);

    /// <summary>Keeps one entry of the pad.</summary>
    /// <param name="who">The shop and person; stands on the row.</param>
    /// <param name="job">The job.</param>
    /// <param name="test">Row of the test; absent for the job's latest, which is started when there is none.</param>
    /// <param name="entry">What was typed.</param>
    /// <param name="key">Made once for each entry by whoever typed it: the same entry sent twice is kept once.</param>
    /// <param name="at">The time it was typed.</param>
    /// <param name="seen">
    /// The row of the cylinder that was on the screen when it was typed, 0 for none; absent when nobody can
    /// say. A reading over another person's row that was not seen is kept beside it, not over it.
    /// </param>
    /// <param name="source">The instrument that sent the figure; absent where a person read it. Whoever entered it took it either way.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    public Task<TestAnswer> EnterAsync(
        ShopPerson who, int job, long? test, PadEntry entry, Guid key, DateTimeOffset at, long? seen = null, ReadingSource? source = null, CancellationToken cancel = default) =>
        AppendEntryAsync(who, job, test, entry.Cylinder, key, at, entry.Pressure.Unit, (locked, head, before) =>
        {
            var unseen = entry.Kind == PadEntryKind.Reading && seen is { } s && head is not null && head.Id != s && head.ByPerson != who.PersonId && before?.ReadAs(locked.Unit) is not null;
            if (unseen)
            {
                return new Applied((entry with { Kind = PadEntryKind.Beside }).Apply(before, locked.Unit),
                    StoredDocuments.Write<ConflictDocumentV1, ConflictingReading>(new ConflictingReading(entry.Pressure.Value, entry.Pressure.Unit, who.Person, at, before!.By ?? "")), Measured: false);
            }
            var after = entry.Apply(before, locked.Unit);
            // Who struck a reading out stands on the row; who took it stays on the reading.
            after = entry.Kind == PadEntryKind.Strike ? after : after with { At = at, By = who.Person };
            var measured = entry.Kind is PadEntryKind.Reading or PadEntryKind.Repeat;
            // A reading knows what it was measured with, also when the test goes on with another gauge.
            after = measured && locked.Test.Tester is { } tester ? after with { Tester = tester } : after;
            // A question that is open stays open under a first pulse; any word on the reading itself settles it.
            return new Applied(after, entry.Kind == PadEntryKind.FirstPulse ? head?.Conflicting : null, measured);
        }, source, cancel);

    /// <summary>Notes something about a cylinder's reading beside its figure: count, time, volts, the pump-up curve.</summary>
    /// <inheritdoc cref="EnterAsync"/>
    public Task<TestAnswer> DescribeAsync(
        ShopPerson who, int job, long? test, int cylinder, ReadingDetails details, Guid key, DateTimeOffset at, PressureUnit unit, CancellationToken cancel = default) =>
        AppendEntryAsync(who, job, test, cylinder, key, at, unit, (locked, head, before) =>
        {
            var after = details.Apply(before ?? new CompressionReading { Cylinder = cylinder, At = at, By = who.Person }, locked.Unit);
            return new Applied(after, head?.Conflicting, Measured: before?.Value is null && after.Value is not null);
        }, null, cancel);

    /// <summary>
    /// Says which tester the test is done with from here on; a copy of it goes with the test. Readings already
    /// taken keep theirs, unless <paramref name="all"/> says that they were taken with this one too.
    /// </summary>
    public Task<TestAnswer> SetTesterAsync(ShopPerson who, int job, long? test, Tester? tester, bool all, PressureUnit unit, DateTimeOffset at, CancellationToken cancel = default) =>
        ChangeTestAsync(who, job, test, unit, at, async (connection, transaction, held, id) =>
        {
            await connection.ExecuteAsync(new CommandDefinition("""
                update test set body = case when @tester::jsonb is null then body - 'tester' else jsonb_set(body, '{tester}', @tester::jsonb) end where id = @id
                """, new { id, tester = tester is null ? null : JsonSerializer.Serialize(tester, TestRecordJson.Options) }, transaction, cancellationToken: cancel));
            if (all)
            {
                var readIn = RecordRules.UnitOf(Read(await connection.ExecuteScalarAsync<string>(new CommandDefinition("select body::text from test where id = @id", new { id }, transaction, cancellationToken: cancel)) ?? "{}").Unit, held.Engine);
                foreach (var (slot, head) in await HeadsAsync(connection, transaction, id, cancel))
                {
                    var reading = JsonSerializer.Deserialize<CompressionReading>(head.Body!, TestRecordJson.Options)! with { Tester = tester };
                    await ReadingChain.AppendAsync(connection, transaction, who, id, slot, head, ReadingChain.Row.Of(reading, readIn) with { Instrument = head.Instrument, Restores = head.Id, Conflicting = head.Conflicting }, at, cancel);
                }
            }
        }, cancel);

    /// <summary>Says in which order the cylinders are tested.</summary>
    public Task<TestAnswer> SetOrderAsync(ShopPerson who, int job, long? test, IReadOnlyList<int>? order, PressureUnit unit, DateTimeOffset at, CancellationToken cancel = default) =>
        ChangeTestAsync(who, job, test, unit, at, (connection, transaction, _, id) => connection.ExecuteAsync(new CommandDefinition("""
            update test set body = case when @order::jsonb is null then body - 'testOrder' else jsonb_set(body, '{testOrder}', @order::jsonb) end where id = @id
            """, new { id, order = order is null ? null : JsonSerializer.Serialize(order) }, transaction, cancellationToken: cancel)), cancel);

    private Task<TestAnswer> ChangeTestAsync(
        ShopPerson who, int job, long? test, PressureUnit unit, DateTimeOffset at, Func<NpgsqlConnection, NpgsqlTransaction, HeldJob, long, Task> change, CancellationToken cancel) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            var (held, refused) = await HoldAsync(connection, transaction, who, job, cancel, underAir: true);
            if (held is null || refused is not null)
            {
                return new TestAnswer(null, refused);
            }
            // The first condition starts a test, as the first reading does.
            var id = test ?? (await held.LatestAsync(TestKind.Dry, cancel))?.Id ?? await held.AddTestAsync(NewTest(who, unit), null, at, cancel);
            if (!await IsOfAsync(connection, transaction, held, id, cancel))
            {
                return default;
            }
            await change(connection, transaction, held, id);
            return new TestAnswer(id);
        }, cancel);

    // One entry on one cylinder: what it makes of the reading so far is the caller's; that it is kept once, in
    // order, and known again is done here.
    private Task<TestAnswer> AppendEntryAsync(
        ShopPerson who, int job, long? test, int cylinder, Guid key, DateTimeOffset at, PressureUnit unit,
        Func<Locked, ReadingChain.Head?, CompressionReading?, Applied> apply, ReadingSource? source, CancellationToken cancel) =>
        database.InShopAsync(who, Standing, Asked(job, test, cylinder, key), StandOfAsync, async (connection, transaction, stand) =>
        {
            if (stand.Job is not { } kept)
            {
                return default;
            }
            if (stand.Known is not null || stand.Refused is not null)
            {
                return stand.Known is null ? new TestAnswer(null, stand.Refused) : new TestAnswer(stand.Known);
            }
            var held = new HeldJob(connection, transaction, who, kept);
            var started = stand.Test is null && test is null;
            if (started)
            {
                test = await held.AddTestAsync(NewTest(who, unit), null, at, cancel);
                await using var grid = await connection.QueryMultipleAsync(new CommandDefinition(Standing, Asked(job, test, cylinder, key), transaction, cancellationToken: cancel));
                stand = await StandOfAsync(grid);
            }
            if (stand.Test is not { } row)
            {
                return default;
            }
            var (body, engine) = (Read(row.Body), held.Engine);
            var readIn = RecordRules.UnitOf(body.Unit, engine);
            if (cylinder < 1 || cylinder > engine.Cylinders)
            {
                return default;
            }
            var before = stand.Head?.Body is { } b ? JsonSerializer.Deserialize<CompressionReading>(b, TestRecordJson.Options) : null;
            var (after, conflicting, measured) = apply(new Locked(body, readIn), stand.Head, before);
            if (measured && stand.Ticked is { } ticked)
            {
                // What nobody had ticked when this was read stands on the reading, whatever is ticked or noted later.
                var missing = PreparationList.NotPrepared(engine, ticked, body.Conditions);
                after = after with { Conditions = (after.Conditions ?? new TestConditions()) with { NotPrepared = missing.Count > 0 ? missing : null } };
            }
            if (measured && row.Oiled && (await StepStore.StateAsync(connection, transaction, who, job, cancel)).Oil is var oil)
            {
                // Test oil raises what is read: said on the reading itself, also that it was cleared since.
                after = after with { Conditions = (after.Conditions ?? new TestConditions()) with { OilBefore = oil.OiledAt(cylinder) is not null ? true : oil.EverOiled ? false : null } };
            }
            after = after with { Order = before?.Order ?? stand.NextOrder };
            var entered = ReadingChain.Row.Of(after, readIn, measured ? source : null) with { Entry = key, Conflicting = conflicting, Instrument = measured ? source?.Instrument : stand.Head?.Instrument, Restores = measured ? null : stand.Head?.Id };
            var (added, stamp) = await ReadingChain.AppendAsync(connection, transaction, who, job, row.Id, cylinder, stand.Head, entered, at, cancel);
            // Over a row that took a reading back it is neither the last of the list nor in place of one: whoever shows it loads it.
            return new TestAnswer(row.Id)
            {
                Added = started || stand.Head is { Body: null } ? null
                    : new AddedReading(row.Id, added, JsonSerializer.Deserialize<CompressionReading>(entered.Body!, TestRecordJson.Options)!, conflicting, stand.Stamp!, stamp),
            };
        }, cancel);

    // All that an entry on a cylinder is worked out from, in one trip: the job's row held, then what stands there. From
    // the job to its test to its rows, each by its index: a test named by a condition of its own has the planner read
    // every reading there is.
    private static readonly string Standing = $"""
        {HeldJob.Holding};
        select (select x.done from job_tick x where x.job_id = j.id and x.list = @crank and x.item = @air order by x.id desc limit 1) as air,
               ({HeldJob.KnownEntry}) as known,
               t.id, t.body::text as body,
               exists (select 1 from job_tick x where x.job_id = j.id and x.list = 'oil') or exists (select 1 from test w where w.job_id = j.id and w.kind = 'compression-wet') as oiled,
               case when h.body::json ->> 'order' is null then
                   (select coalesce(max((r.body ->> 'order')::int), count(*))::int + 1 from reading r
                    where r.test_id = t.id and r.body is not null and not exists (select 1 from reading n where n.supersedes = r.id)) end as next_order,
               h.id as head_id, h.position as head_position, h.body as head_body, h.conflicting as head_conflicting, h.by_person as head_by_person, h.instrument as head_instrument
        from job j left join test t on t.job_id = j.id and t.kind = @kind and t.id = coalesce(@test, ({HeldJob.GoesOn("j.id")}))
        left join lateral ({ReadingChain.HeadOf("t.id", "@cylinder")}) h on true
        where j.number = @job;
        {TickStore.TickedLines};
        {WorkspaceStore.Stamps("j.number = @job")}
        """;

    private static object Asked(int job, long? test, int cylinder, Guid key) =>
        new { job, test, kind = Kind, crank = StepStore.Crank, air = CrankGuard.Air, key, cylinder, list = TickStore.Prepare };

    private static async Task<Stand> StandOfAsync(SqlMapper.GridReader grid)
    {
        var job = await grid.ReadSingleOrDefaultAsync<HeldJob.Row>();
        var inHand = await grid.ReadSingleOrDefaultAsync<TestInHand>();
        var ticked = await TickStore.ReadTickedAsync(grid);
        return new Stand(job, job is { Closed: true } ? JobSafety.Closed : inHand?.Air == true ? UnderAir : null, inHand?.Known, inHand is { Id: > 0 } ? inHand : null, inHand?.Head, ticked,
            inHand?.NextOrder ?? 1, await grid.ReadSingleOrDefaultAsync<JobStamp>());
    }

    /// <summary>
    /// Takes the person's own last entry on a test back; again, the one before it. What was taken back stays on
    /// record. An entry that somebody else has written over since is left alone.
    /// </summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="test">Row of the test.</param>
    /// <param name="key">Made once for each undo by whoever asks for it: the same undo sent twice takes back one entry.</param>
    /// <param name="at">The time of the undo.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    /// <returns>The cylinder whose entry was taken back, absent when nothing is left to take back; and why it was refused.</returns>
    public Task<(int? Cylinder, string? Refused)> UndoAsync(ShopPerson who, int job, long test, Guid key, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync<(int?, string?)>(who, async (connection, transaction) =>
        {
            var held = await HeldJob.OfAsync(connection, transaction, who, job, cancel);
            return held is not { Closed: null } || !await IsOfAsync(connection, transaction, held, test, cancel) ? (null, held?.Closed)
                : (await ReadingChain.UndoAsync(connection, transaction, who, test, key, at, cancel), null);
        }, cancel);

    // The first test of a job: what the shop knows of its air stands on it from the start.
    private static DryCompressionTest NewTest(ShopPerson who, PressureUnit unit) => new()
    {
        Unit = unit,
        Conditions = who.Settings.BarometricKPa is { } kPa ? new TestConditions { BarometricKPa = kPa } : null,
    };

    private const string UnderAir = "The air is on. Air off first: nothing is cranked under air.";

    // The job's row is held by every writer, so that each sees what the one before it wrote. A closed job takes
    // nothing, and while the air is on nothing is read dry.
    private static async Task<(HeldJob? Held, string? Refused)> HoldAsync(
        NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, int job, CancellationToken cancel, bool underAir = false)
    {
        var held = await HeldJob.OfAsync(connection, transaction, who, job, cancel);
        if (held is not { Closed: null } || underAir)
        {
            return (held, held?.Closed);
        }
        // The air is off wherever the crank was turned since: turning is refused under air.
        var air = await connection.ExecuteScalarAsync<bool?>(new CommandDefinition(
            "select done from job_tick where job_id = @Id and list = @list and item = @item order by id desc limit 1",
            new { held.Id, list = StepStore.Crank, item = CrankGuard.Air }, transaction, cancellationToken: cancel));
        return (held, air == true ? UnderAir : null);
    }

    // Whether a test is a dry one of the job.
    private static Task<bool> IsOfAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, HeldJob held, long test, CancellationToken cancel) =>
        connection.ExecuteScalarAsync<bool>(new CommandDefinition(
            "select exists (select 1 from test where id = @test and kind = @kind and job_id = @Id)", new { test, kind = Kind, held.Id }, transaction, cancellationToken: cancel));

    private static async Task<IReadOnlyList<(int Slot, ReadingChain.Head Head)>> HeadsAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, long test, CancellationToken cancel)
    {
        var slots = await connection.QueryAsync<int>(new CommandDefinition(
            "select distinct slot from reading where test_id = @test order by slot", new { test }, transaction, cancellationToken: cancel));
        var heads = new List<(int, ReadingChain.Head)>();
        foreach (var slot in slots)
        {
            if (await ReadingChain.HeadAsync(connection, transaction, test, slot, cancel) is { Body: not null } head)
            {
                heads.Add((slot, head));
            }
        }
        return heads;
    }

    private sealed record Locked(DryCompressionTest Test, PressureUnit Unit);

    // What an entry made of a reading: the question that waits beside it, and whether the gauge was read for it.
    private sealed record Applied(CompressionReading After, string? Conflicting, bool Measured);

    private sealed record ChangeRow
    {
        public DateTimeOffset At { get; init; }
        public string? By { get; init; }
        public string Before { get; init; } = "";
        public string After { get; init; } = "";
    }

    // How a cylinder stands as an entry on it comes in.
    private sealed record Stand(
        HeldJob.Row? Job, string? Refused, long? Known, TestInHand? Test, ReadingChain.Head? Head, IReadOnlyCollection<PreparationItem>? Ticked, int NextOrder, JobStamp? Stamp);

    // What the job says of the air and of the entry, the test that the entry is of (id 0 for none), and the row that counts there.
    private sealed record TestInHand
    {
        public bool? Air { get; init; }
        public long? Known { get; init; }
        public long Id { get; init; }
        public int? NextOrder { get; init; }
        public string Body { get; init; } = "";
        public bool Oiled { get; init; }
        public long HeadId { get; init; }
        public int HeadPosition { get; init; }
        public string? HeadBody { get; init; }
        public string? HeadConflicting { get; init; }
        public int HeadByPerson { get; init; }
        public string? HeadInstrument { get; init; }

        public ReadingChain.Head? Head => HeadId == 0 ? null
            : new() { Id = HeadId, Position = HeadPosition, Body = HeadBody, Conflicting = HeadConflicting, ByPerson = HeadByPerson, Instrument = HeadInstrument };
    }
}
