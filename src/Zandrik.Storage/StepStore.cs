using System.Diagnostics;
using System.Text.Json;
using Dapper;
using Npgsql;
using Zandrik.Core.Assessment;
using Zandrik.Core.Compression;
using Zandrik.Core.Engines;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;
using Zandrik.Core.Safety;
using Zandrik.Core.Shops;

namespace Zandrik.Storage;

/// <summary>Something done at a step: a line ticked, the crank turned, air on, oil in. Oldest first in any list.</summary>
public sealed record StepEvent
{
    /// <summary>The row.</summary>
    public long Id { get; init; }

    internal long JobId { get; init; }

    /// <summary>The list: prepare, refit, or one of <see cref="StepStore"/>.</summary>
    public string List { get; init; } = "";

    /// <summary>What.</summary>
    public string Item { get; init; } = "";

    /// <summary>Which way, or which cylinder; absent where there is only one.</summary>
    public string? Way { get; init; }

    /// <summary>False for something taken back or switched off.</summary>
    public bool Done { get; init; }

    /// <summary>How much: ml of oil; absent where nothing is measured.</summary>
    public double? Amount { get; init; }

    /// <summary>When.</summary>
    public DateTimeOffset At { get; init; }

    /// <summary>Who.</summary>
    public string By { get; init; } = "";
}

/// <summary>A job with everything that was done at its steps: what a rule needs to say yes or no.</summary>
/// <param name="Job">The job.</param>
/// <param name="Events">Everything done, oldest first.</param>
/// <param name="Shop">The shop's settings.</param>
public sealed record JobState(Job Job, IReadOnlyList<StepEvent> Events, ShopSettings Shop)
{
    /// <summary>What its repairs are weighed by.</summary>
    public RepairKnowledge Knowledge { get; init; } = RepairKnowledge.None;

    /// <summary>What the shop knows of the engine beside its sheet; absent for nothing.</summary>
    public WorkshopSheet? Workshop => Knowledge.Workshop;

    /// <summary>The latest verdict that was signed; absent for none.</summary>
    public VerdictLine? Verdict { get; init; }

    /// <summary>The job, judged: once for everybody who looks at it as it is.</summary>
    public JobAssessment Assessment => field ??= Judge();

    private JobAssessment Judge()
    {
        var began = Stopwatch.GetTimestamp();
        var judged = JobAssessment.Of(Job.Record, new JobPolicy(Shop) { Repairs = Knowledge.Repairs, Sheet = Knowledge.Sheet, Inputs = Knowledge.Inputs }, new JobProgress
        {
            Events = [.. Events.Select(e => new SafetyEvent(e.List, e.Item, e.Way, e.Done, e.At, e.Amount))],
            IsClosed = Job.ClosedAt is not null,
            Shown = Job.Unit,
            Workshop = Workshop,
            Signed = Verdict is { Stands: true } signed ? new SignedAnswer(signed.Headline, signed.By) : null,
        });
        Measures.Judgement.Record(Stopwatch.GetElapsedTime(began).TotalSeconds);
        return judged;
    }

    /// <summary>What can hurt somebody, and so what is locked and what is not offered.</summary>
    public JobSafety Safety => Assessment.Safety;

    /// <summary>Where the crank stands, and what may be done at it.</summary>
    public CrankGuard Crank => Safety.Crank;

    /// <summary>Which cylinders hold test oil.</summary>
    public WetGuard Oil => Safety.Oil;

    /// <summary>When air last went on; absent while it never did.</summary>
    public DateTimeOffset? AirWentOnAt => Of(StepStore.Crank).LastOrDefault(e => e is { Item: CrankGuard.Air, Done: true })?.At;

    /// <summary>The lines of a list that are ticked now, by word.</summary>
    public IReadOnlyDictionary<string, Tick> Ticked(string list) => Of(list).GroupBy(e => e.Item).Select(g => g.Last()).Where(e => e.Done)
        .ToDictionary(e => e.Item, e => new Tick { Item = e.Item, Way = e.Way, At = e.At, By = e.By });

    private IEnumerable<StepEvent> Of(string list) => Events.Where(e => e.List == list);
}

/// <summary>What came of something that a guard may refuse.</summary>
/// <param name="Found">False when the shop has no such job, test or cylinder.</param>
/// <param name="Refused">Why it was refused, with what to do; absent when it was kept.</param>
public sealed record StepAnswer(bool Found, string? Refused)
{
    internal static readonly StepAnswer Missing = new(false, null), Kept = new(true, null);

    // Of a job that is not there, or closed.
    internal static StepAnswer NotOpen(HeldJob? held) => new(held is not null, held?.Closed);
}

/// <summary>A test that something was written on.</summary>
/// <param name="Test">Row of the test; absent when the shop has no such job, test or cylinder, or where it was refused.</param>
/// <param name="Refused">Why it was refused, with what to do; absent when it was kept.</param>
public readonly record struct TestAnswer(long? Test, string? Refused = null)
{
    /// <summary>The reading that was added, where that is all that changed; absent where more did, or nothing.</summary>
    public AddedReading? Added { get; init; }
}

/// <summary>One reading added to a dry test: after the last of its list, or in place of the one of its cylinder.</summary>
/// <param name="Test">Row of the test.</param>
/// <param name="Row">Row of the reading.</param>
/// <param name="Reading">The reading, as it was kept.</param>
/// <param name="Conflicting">What waits beside it, as it was kept; absent for nothing.</param>
/// <param name="Before">What the job stood at before it.</param>
/// <param name="After">What it stands at since.</param>
public sealed record AddedReading(long Test, long Row, CompressionReading Reading, string? Conflicting, JobStamp Before, JobStamp After);

/// <summary>
/// Keeps what is done and read at the steps around the dry test: leak-down, wet, running, and the small checks. A
/// guard is asked with the job held, in the transaction that writes: what it refuses cannot slip in beside it.
/// </summary>
public sealed class StepStore(ShopDatabase database)
{
    /// <summary>The list of the leak-down's own preparation.</summary>
    public const string Leak = JobSafety.LeakList;

    /// <summary>The list of what is done at the crank.</summary>
    public const string Crank = JobSafety.CrankList;

    /// <summary>The list of what is done with oil.</summary>
    public const string Oil = JobSafety.OilList;

    /// <summary>The list of what is made safe for running compression.</summary>
    public const string Running = JobSafety.RunningList;

    /// <summary>The list of what is done before a capture of starter current.</summary>
    public const string Relative = JobSafety.RelativeList;

    /// <summary>The list of what is done about liquid in a cylinder.</summary>
    public const string Liquid = JobSafety.LiquidList;

    /// <summary>How a job stands; absent when the shop has none of that number.</summary>
    public Task<JobState?> StateAsync(ShopPerson who, int job, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) => await HeldJob.OfAsync(c, t, who, job, cancel) is null ? null : await StateAsync(c, t, who, job, cancel), cancel);

    /// <summary>Writes down that something was done, unless a rule refuses it.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="list">The list.</param>
    /// <param name="item">What.</param>
    /// <param name="way">Which way; absent where there is only one.</param>
    /// <param name="done">False to take it back.</param>
    /// <param name="key">Made once by whoever did it: sent twice, it is kept once.</param>
    /// <param name="at">When it was done.</param>
    /// <param name="refuses">Says why not, as things stand; absent for yes. A job that is closed refuses everything.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    public Task<StepAnswer> DoAsync(
        ShopPerson who, int job, string list, string item, string? way, bool done, Guid key, DateTimeOffset at, Func<JobState, string?> refuses, CancellationToken cancel = default) =>
        DoAsync(who, job, list, item, way, done, null, key, at, refuses, cancel);

    /// <summary>The same of something that is measured: tick and amount are one row.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="list">The list.</param>
    /// <param name="item">What.</param>
    /// <param name="way">Which way; absent where there is only one.</param>
    /// <param name="done">False to take it back.</param>
    /// <param name="amount">How much; absent where nothing is measured.</param>
    /// <param name="key">Made once by whoever did it: sent twice, it is kept once.</param>
    /// <param name="at">When it was done.</param>
    /// <param name="refuses">Says why not, as things stand; absent for yes.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    public Task<StepAnswer> DoAsync(
        ShopPerson who, int job, string list, string item, string? way, bool done, double? amount, Guid key, DateTimeOffset at, Func<JobState, string?> refuses, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            if (await HeldJob.OfAsync(connection, transaction, who, job, cancel) is not { } held)
            {
                return StepAnswer.Missing;
            }
            if (await held.IsKnownAsync("job_tick", key, cancel))
            {
                return StepAnswer.Kept;
            }
            var state = await StateAsync(connection, transaction, who, job, cancel);
            if ((state.Safety.ForbidsWriting ?? refuses(state)) is { } why)
            {
                return new StepAnswer(true, why);
            }
            await connection.ExecuteAsync(new CommandDefinition("""
                insert into job_tick (shop_id, job_id, list, item, way, done, amount, entry, at, by_person) values (@shop, @jobId, @list, @item, @way, @done, @amount, @key, @at, @person)
                """, new { shop = who.ShopId, jobId = held.Id, list, item, way, done, amount, key, at, person = who.PersonId }, transaction, cancellationToken: cancel));
            return StepAnswer.Kept;
        }, cancel);

    /// <summary>
    /// Keeps a reading of one cylinder in the job's latest test of its kind, which is started where there is none;
    /// over an earlier reading of the cylinder it takes its place.
    /// </summary>
    /// <typeparam name="TTest">The kind of test.</typeparam>
    /// <typeparam name="TReading">Its kind of reading.</typeparam>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="cylinder">The cylinder.</param>
    /// <param name="start">Makes the test to start where there is none.</param>
    /// <param name="make">The reading from how things stand, the test and the reading so far; or why it is refused.</param>
    /// <param name="key">Made once for each entry: the same entry sent twice is kept once.</param>
    /// <param name="at">When it was typed.</param>
    /// <param name="source">The instrument that sent the figure; absent where a person read it.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    public Task<StepAnswer> KeepAsync<TTest, TReading>(
        ShopPerson who, int job, int cylinder, Func<Job, TTest> start, Func<JobState, TTest, TReading?, (TReading? Reading, string? Refused)> make, Guid key, DateTimeOffset at, ReadingSource? source = null, CancellationToken cancel = default)
        where TTest : TestEntry
        where TReading : CylinderReading =>
        KeepOneOfAsync(who, job, cylinder, start, (_, readings) => readings.Count - 1, make, key, at, source, cancel);

    /// <summary>Keeps a reading of a cylinder that may have several, as a leak-down does: further ones do not take the place of those before.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="cylinder">The cylinder.</param>
    /// <param name="start">Makes the test to start where there is none.</param>
    /// <param name="which">Which of the cylinder's readings the entry is about, in the order they were first taken; below 0 for a new one.</param>
    /// <param name="make">The reading from how things stand, the test and the reading it is about; or why it is refused.</param>
    /// <param name="key">Made once for each entry: the same entry sent twice is kept once.</param>
    /// <param name="at">When it was typed.</param>
    /// <param name="source">The instrument that sent the figure; absent where a person read it.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    public Task<StepAnswer> KeepOneOfAsync<TTest, TReading>(
        ShopPerson who, int job, int cylinder, Func<Job, TTest> start, Func<JobState, IReadOnlyList<TReading>, int> which,
        Func<JobState, TTest, TReading?, (TReading? Reading, string? Refused)> make, Guid key, DateTimeOffset at, ReadingSource? source = null, CancellationToken cancel = default)
        where TTest : TestEntry
        where TReading : CylinderReading =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            if (await HeldJob.OfAsync(connection, transaction, who, job, cancel) is not { } held)
            {
                return StepAnswer.Missing;
            }
            if (await held.IsKnownAsync("reading", key, cancel))
            {
                return StepAnswer.Kept;
            }
            var state = await StateAsync(connection, transaction, who, job, cancel);
            if (state.Safety.ForbidsWriting is { } closed)
            {
                return new StepAnswer(true, closed);
            }
            if (cylinder < 1 || cylinder > state.Job.Record.Engine.Cylinders)
            {
                return StepAnswer.Missing;
            }
            var fresh = start(state.Job);
            var latest = await held.LatestAsync(fresh.Kind, cancel);
            var test = latest is { } found ? (TTest)JsonSerializer.Deserialize<TestEntry>(found.Body, TestRecordJson.Options)! : fresh;
            var counting = latest is null ? [] : await ReadingChain.CountingAsync(connection, transaction, latest.Value.Id, cylinder, cancel);
            var about = which(state, [.. counting.Select(r => JsonSerializer.Deserialize<TReading>(r.Body, TestRecordJson.Options)!)]);
            var slot = about >= 0 && about < counting.Count ? counting[about].Slot
                : latest is null ? cylinder
                : counting.Count > 0 ? await ReadingChain.FreeSlotAsync(connection, transaction, latest.Value.Id, cancel)
                : await ReadingChain.SlotOfAsync(connection, transaction, latest.Value.Id, cylinder, cancel);
            var head = latest is null ? null : await ReadingChain.HeadAsync(connection, transaction, latest.Value.Id, slot, cancel);
            var before = head?.Body is { } b ? JsonSerializer.Deserialize<TReading>(b, TestRecordJson.Options) : null;
            var (reading, refused) = make(state, test, before);
            if (refused is not null || reading is null)
            {
                return new StepAnswer(true, refused ?? "Nothing to keep.");
            }
            var id = latest?.Id ?? await held.AddTestAsync(fresh, null, at, cancel);
            // What is noted about a figure leaves it the instrument it came from.
            var unit = RecordRules.UnitOf(test.GaugeUnit, held.Engine);
            var sameFigure = source is null && before?.PressurePa(unit) is { } figure && reading.PressurePa(unit) == figure;
            var row = ReadingChain.Row.Of(reading, unit, source) with { Entry = key };
            await ReadingChain.AppendAsync(connection, transaction, who, id, slot, head, sameFigure ? row with { Instrument = head!.Instrument, Restores = head.Id } : row, at, cancel);
            return StepAnswer.Kept;
        }, cancel);

    /// <summary>Takes the person's own last entry on the job's latest test of a kind back.</summary>
    /// <returns>Not found where there was none.</returns>
    public Task<StepAnswer> UndoAsync(ShopPerson who, int job, TestKind kind, Guid key, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            var held = await HeldJob.OfAsync(connection, transaction, who, job, cancel);
            return held is not { Closed: null } ? StepAnswer.NotOpen(held)
                : await held.LatestAsync(kind, cancel) is { } test && await ReadingChain.UndoAsync(connection, transaction, who, test.Id, key, at, cancel) is not null ? StepAnswer.Kept : StepAnswer.Missing;
        }, cancel);

    /// <summary>Changes how the job's latest test of a kind is done; it is started where there is none.</summary>
    public Task<StepAnswer> ChangeAsync<TTest>(ShopPerson who, int job, TTest start, Func<TTest, TTest> change, DateTimeOffset at, CancellationToken cancel = default)
        where TTest : TestEntry =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            var held = await HeldJob.OfAsync(connection, transaction, who, job, cancel);
            if (held is not { Closed: null })
            {
                return StepAnswer.NotOpen(held);
            }
            if (await held.LatestAsync(start.Kind, cancel) is not { } found)
            {
                await held.AddTestAsync(change(start), null, at, cancel);
                return StepAnswer.Kept;
            }
            var after = change((TTest)JsonSerializer.Deserialize<TestEntry>(found.Body, TestRecordJson.Options)!);
            await connection.ExecuteAsync(new CommandDefinition("update test set body = @body::jsonb where id = @Id",
                new { found.Id, body = JsonSerializer.Serialize<TestEntry>(after, TestRecordJson.Options) }, transaction, cancellationToken: cancel));
            return StepAnswer.Kept;
        }, cancel);

    /// <summary>Adds a whole test: one sent by a script, or the form of a small check.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="test">A test that passes <see cref="RecordRules"/>.</param>
    /// <param name="replaces">Row of the test it corrects, which is withdrawn; absent for none.</param>
    /// <param name="key">Made once: the same test sent twice is kept once.</param>
    /// <param name="at">The time, used where the test says none.</param>
    /// <param name="refuses">Says why not, as things stand; absent for yes.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    public Task<TestAnswer> AddTestAsync(
        ShopPerson who, int job, TestEntry test, long? replaces, Guid key, DateTimeOffset at, Func<JobState, string?>? refuses = null, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            if (await HeldJob.OfAsync(connection, transaction, who, job, cancel) is not { } held)
            {
                return default;
            }
            var known = await connection.ExecuteScalarAsync<long?>(new CommandDefinition("select id from test where entry = @key", new { key }, transaction, cancellationToken: cancel));
            if (known is not null)
            {
                return new TestAnswer(known);
            }
            var state = await StateAsync(connection, transaction, who, job, cancel);
            if ((state.Safety.ForbidsWriting ?? refuses?.Invoke(state) ?? await JobStore.TooManyAsync(connection, transaction, held.Id, test, cancel)) is { } why)
            {
                return new TestAnswer(null, why);
            }
            if (replaces is not null)
            {
                await WithdrawAsync(connection, transaction, who, held.Id, replaces.Value, at, cancel);
            }
            return new TestAnswer(await held.AddTestAsync(test, key, at, cancel));
        }, cancel);

    /// <summary>Adds a whole test once for each key of its sender: the same request sent again finds the test it added the first time.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="test">A test that passes <see cref="RecordRules"/>.</param>
    /// <param name="key">The sender's key.</param>
    /// <param name="requestHash">Hash of the request's body.</param>
    /// <param name="at">The time, used where the test says none.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    /// <returns>Row of the test; and whether the key was used before for something else (then nothing was added).</returns>
    public Task<(TestAnswer Answer, bool KeyUsedForAnother)> AddTestOnceAsync(
        ShopPerson who, int job, TestEntry test, string key, byte[] requestHash, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync<(TestAnswer, bool)>(who, async (connection, transaction) =>
        {
            if (await HeldJob.OfAsync(connection, transaction, who, job, cancel) is not { } held)
            {
                return (default, false);
            }
            if (await SenderKey.ClaimAsync(connection, transaction, who, key, cancel) is { } made)
            {
                return (new TestAnswer(made.Test), made.Test is null || made.Job != job || !made.Is(requestHash));
            }
            if ((held.Closed ?? await JobStore.TooManyAsync(connection, transaction, held.Id, test, cancel)) is { } why)
            {
                return (new TestAnswer(null, why), false);
            }
            var id = await held.AddTestAsync(test, null, at, cancel);
            await SenderKey.KeepAsync(connection, transaction, who, key, requestHash, job, id, cancel);
            return (new TestAnswer(id), false);
        }, cancel);

    /// <summary>Takes a small check back; it stays on record, withdrawn.</summary>
    public Task<StepAnswer> WithdrawAsync(ShopPerson who, int job, long test, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            var held = await HeldJob.OfAsync(connection, transaction, who, job, cancel);
            return held is not { Closed: null } ? StepAnswer.NotOpen(held)
                : await WithdrawAsync(connection, transaction, who, held.Id, test, at, cancel) > 0 ? StepAnswer.Kept : StepAnswer.Missing;
        }, cancel);

    // Only what is one form is withdrawn: readings taken at the engine have their own undo.
    private static Task<int> WithdrawAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, long jobId, long test, DateTimeOffset at, CancellationToken cancel) =>
        connection.ExecuteAsync(new CommandDefinition("""
            update test set withdrawn_at = @at, withdrawn_by = @person
            where id = @test and job_id = @jobId and withdrawn_at is null
              and kind not in ('compression-dry', 'compression-wet', 'leak-down', 'compression-running', 'relative-compression', 'plug-inspection')
            """, new { test, jobId, at, person = who.PersonId }, transaction, cancellationToken: cancel));

    internal static async Task<JobState> StateAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, int job, CancellationToken cancel) =>
        await StateAsync(connection, transaction, who, "j.number = @job", new { job }, cancel);

    private static async Task<JobState> StateAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, string where, object parameters, CancellationToken cancel)
    {
        await using var grid = await connection.QueryMultipleAsync(new CommandDefinition(JobStore.Loading(where, superseded: false) + Doing(where) + DecisionStore.Knowing(where), parameters, transaction, cancellationToken: cancel));
        var (job, events) = ((await JobStore.AssembleAsync(grid, superseded: false))[0], (await grid.ReadAsync<StepEvent>()).AsList());
        return new(job, events, who.Settings) { Knowledge = (await DecisionStore.ReadAsync(grid))(job.Id) };
    }

    // What was done on the jobs of a condition on "j".
    internal static string Doing(string where) => $"""
        select x.job_id, x.id, x.list, x.item, x.way, x.done, x.amount, x.at, p.name as by
        from job_tick x join person p on p.id = x.by_person where x.job_id = any(array(select j.id from job j where {where})) order by x.id;
        """;
}
