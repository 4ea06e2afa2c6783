using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Dapper;
using Npgsql;
using Zandrik.Core.Records;
using Zandrik.Core.Verdicts;
using Zandrik.Storage.Documents;

namespace Zandrik.Storage;

/// <summary>A verdict in a list of versions.</summary>
public sealed record VerdictLine
{
    /// <summary>The row.</summary>
    public long Id { get; init; }

    internal long JobId { get; init; }

    /// <summary>Its version on its job, from 1.</summary>
    public int Version { get; init; }

    /// <summary>True where the people say what Zandrik says.</summary>
    public bool Agrees { get; init; }

    /// <summary>Why they say other; a remark, or absent, where they agree.</summary>
    public string? Reason { get; init; }

    /// <summary>When it was signed.</summary>
    public DateTimeOffset At { get; init; }

    /// <summary>Who signed.</summary>
    public string By { get; init; } = "";

    /// <summary>Why it was opened again; absent while it stands.</summary>
    public string? ReopenedWhy { get; init; }

    /// <summary>When.</summary>
    public DateTimeOffset? ReopenedAt { get; init; }

    /// <summary>Who.</summary>
    public string? ReopenedBy { get; init; }

    /// <summary>What was signed, in one sentence: the people's answer where they say other than Zandrik.</summary>
    public string Headline { get; init; } = "";

    /// <summary>True while nobody has opened it again.</summary>
    public bool Stands => ReopenedAt is null;
}

/// <summary>What was said of one place of an engine when a verdict was signed.</summary>
/// <param name="Program">What Zandrik had in front.</param>
/// <param name="People">What the people signed.</param>
/// <param name="Given">How likely Zandrik held each fault, by its word.</param>
public sealed record VerdictComparison(VerdictAnswer Program, VerdictAnswer People, IReadOnlyDictionary<string, double> Given);

/// <summary>A signed verdict, whole.</summary>
/// <param name="Line">Who, when, which version.</param>
/// <param name="Snapshot">What it stands on and says.</param>
/// <param name="Said">What Zandrik and the people say of the engine and each cylinder.</param>
/// <param name="SameAsNow">True while the job still says what was signed.</param>
public sealed record KeptVerdict(VerdictLine Line, VerdictSnapshot Snapshot, IReadOnlyList<VerdictComparison> Said, bool SameAsNow);

/// <summary>Keeps verdicts as they were signed, and what was found when the engine was open.</summary>
public sealed class VerdictStore(ShopDatabase database)
{
    private const string Columns = """
        v.id, v.version, v.agrees, v.reason, v.at, p.name as by, o.why as reopened_why, o.at as reopened_at, q.name as reopened_by, v.snapshot ->> 'headline' as headline
        from verdict v join job j on j.id = v.job_id join person p on p.id = v.by_person
        left join verdict_reopening o on o.verdict_id = v.id left join person q on q.id = o.by_person
        """;

    /// <summary>A short print of what a verdict stands on and says: two that differ have two prints.</summary>
    public static string Fingerprint(VerdictSnapshot snapshot) => Convert.ToHexString(SHA256.HashData(Encoding.UTF8.GetBytes(StoredDocuments.Write(snapshot))))[..24];

    /// <summary>Signs the verdict of a job as it stands, if it is the one that was looked at.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="sign">What is signed.</param>
    /// <param name="key">Made once: sent twice, it is signed once.</param>
    /// <param name="at">When.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    public Task<StepAnswer> SignAsync(ShopPerson who, int job, SignOff sign, Guid key, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            if (await HeldJob.OfAsync(connection, transaction, who, job, cancel) is not { Id: var jobId } held)
            {
                return StepAnswer.Missing;
            }
            if (await held.IsKnownAsync("verdict", key, cancel))
            {
                return StepAnswer.Kept;
            }
            var latest = await LatestAsync(connection, transaction, job, cancel);
            if (latest is { Stands: true })
            {
                return new StepAnswer(true, $"Version {latest.Version} was signed meanwhile, by {latest.By}. Open it again to sign another.");
            }
            var snapshot = VerdictSnapshot.Of((await StepStore.StateAsync(connection, transaction, who, job, cancel)).Assessment);
            if (Fingerprint(snapshot) != sign.Seen)
            {
                return new StepAnswer(true, "Something on this job has changed since you looked. Look at it as it stands now, then sign.");
            }
            if (sign.Refuses(snapshot) is { } problem)
            {
                return new StepAnswer(true, problem.Says);
            }
            // Signed with nothing different it is an agreement, whichever button was pressed.
            sign = sign with { Agrees = !sign.Differs(snapshot) };
            var said = SaidIn(snapshot, sign);
            await connection.ExecuteAsync(new CommandDefinition("""
                insert into verdict (shop_id, job_id, version, agrees, reason, said, snapshot, entry, at, by_person)
                values (@shop, @jobId, @version, @Agrees, @reason, @said::jsonb, @snapshot::json, @key, @at, @person)
                """, new
            {
                shop = who.ShopId, jobId, version = (latest?.Version ?? 0) + 1, sign.Agrees, reason = sign.Reason, said = StoredDocuments.Write(said),
                snapshot = StoredDocuments.Write(sign.Agrees ? snapshot : snapshot.Overruled([.. said.Select(s => s.People)])), key, at, person = who.PersonId,
            }, transaction, cancellationToken: cancel));
            return StepAnswer.Kept;
        }, cancel);

    /// <summary>Opens a signed verdict again; it stays as it is, and the next one is a new version.</summary>
    public Task<StepAnswer> ReopenAsync(ShopPerson who, int job, int version, string why, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            if (await HeldJob.OfAsync(connection, transaction, who, job, cancel) is not { Id: var jobId } || await LatestAsync(connection, transaction, job, cancel) is not { } latest)
            {
                return StepAnswer.Missing;
            }
            if (latest.Version != version || !latest.Stands)
            {
                return new StepAnswer(true, "It was opened again already.");
            }
            await connection.ExecuteAsync(new CommandDefinition("insert into verdict_reopening (verdict_id, shop_id, job_id, why, at, by_person) values (@Id, @shop, @jobId, @why, @at, @person)",
                new { latest.Id, shop = who.ShopId, jobId, why, at, person = who.PersonId }, transaction, cancellationToken: cancel));
            return StepAnswer.Kept;
        }, cancel);

    /// <summary>The versions of a job's verdict, latest first.</summary>
    public Task<IReadOnlyList<VerdictLine>> ListAsync(ShopPerson who, int job, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<VerdictLine>>(who, async (connection, transaction) => (await connection.QueryAsync<VerdictLine>(new CommandDefinition(
            $"select {Columns} where j.number = @job order by v.version desc", new { job }, transaction, cancellationToken: cancel))).AsList(), cancel);

    // The latest verdict of each job of a condition on "j".
    internal static string Latest(string where) => $"select distinct on (v.job_id) v.job_id, {Columns} where {where} order by v.job_id, v.version desc;\n";

    /// <summary>A version of a job's verdict; absent when there is none of that number.</summary>
    public Task<KeptVerdict?> FindAsync(ShopPerson who, int job, int version, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            var line = await connection.QuerySingleOrDefaultAsync<VerdictLine>(new CommandDefinition($"select {Columns} where j.number = @job and v.version = @version", new { job, version }, transaction, cancellationToken: cancel));
            if (line is null)
            {
                return null;
            }
            var (snapshot, said) = await connection.QuerySingleAsync<(string, string)>(new CommandDefinition("select snapshot::text, said::text from verdict where id = @Id", new { line.Id }, transaction, cancellationToken: cancel));
            var kept = StoredDocuments.ReadVerdict(snapshot);
            var now = (await JobStore.LoadAsync(connection, transaction, "j.number = @job", new { job }, superseded: false, cancel))[0].Record with { Found = null };
            return new KeptVerdict(line, kept, StoredDocuments.ReadSaid(said),
                TestRecordJson.ToNode(kept.Record).ToJsonString(TestRecordJson.Options) == TestRecordJson.ToNode(now).ToJsonString(TestRecordJson.Options));
        }, cancel);

    /// <summary>Writes down what was found when the engine was open.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="fault">What, and where.</param>
    /// <param name="key">Made once: sent twice, it is kept once.</param>
    /// <param name="at">When.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    public Task<StepAnswer> AddFoundAsync(ShopPerson who, int job, FoundFault fault, Guid key, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            if (await HeldJob.OfAsync(connection, transaction, who, job, cancel) is not { Id: var jobId } held)
            {
                return StepAnswer.Missing;
            }
            if (!await held.IsKnownAsync("found_fault", key, cancel))
            {
                await InsertFoundAsync(connection, transaction, who, jobId, fault with { At = fault.At ?? at, By = fault.By ?? who.Person }, key, at, cancel);
            }
            return StepAnswer.Kept;
        }, cancel);

    /// <summary>Takes back what was written down as found; it stays on record, withdrawn.</summary>
    /// <returns>False when the job has no such row.</returns>
    public Task<bool> WithdrawFoundAsync(ShopPerson who, int job, long found, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) => await HeldJob.OfAsync(connection, transaction, who, job, cancel) is { Id: var jobId } && await connection.ExecuteAsync(new CommandDefinition(
            "update found_fault set withdrawn_at = @at, withdrawn_by = @person where id = @found and job_id = @jobId and withdrawn_at is null", new { at, person = who.PersonId, found, jobId }, transaction, cancellationToken: cancel)) > 0, cancel);

    /// <summary>Everything that was found, beside what had been signed before it; and the share of diesels among these engines.</summary>
    public Task<(IReadOnlyList<Outcome> Outcomes, double DieselShare)> OutcomesAsync(ShopPerson who, CancellationToken cancel = default) =>
        database.InShopAsync<(IReadOnlyList<Outcome>, double)>(who, async (connection, transaction) =>
        {
            var rows = (await connection.QueryAsync<(string Body, bool Diesel, string? Said)>(new CommandDefinition("""
                select f.body::text, coalesce(j.record -> 'engine' ->> 'fuel', '') = 'diesel',
                       (select v.said::text from verdict v where v.job_id = f.job_id and v.at <= f.at order by v.version desc limit 1)
                from found_fault f join job j on j.id = f.job_id where f.withdrawn_at is null and not j.sample order by f.id
                """, null, transaction, cancellationToken: cancel))).AsList();
            return ([.. rows.Select(r => OutcomeOf(r.Body, r.Said))], rows.Count == 0 ? 0 : (double)rows.Count(r => r.Diesel) / rows.Count);
        }, cancel);

    internal static Task<VerdictLine?> LatestAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, int job, CancellationToken cancel) =>
        connection.QuerySingleOrDefaultAsync<VerdictLine>(new CommandDefinition($"select {Columns} where j.number = @job order by v.version desc limit 1", new { job }, transaction, cancellationToken: cancel));

    internal static Task InsertFoundAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, long jobId, FoundFault fault, Guid? key, DateTimeOffset at, CancellationToken cancel) =>
        connection.ExecuteAsync(new CommandDefinition("insert into found_fault (shop_id, job_id, body, entry, at, by_person) values (@shop, @jobId, @body::jsonb, @key, @at, @person)",
            new { shop = who.ShopId, jobId, body = JsonSerializer.Serialize(fault, TestRecordJson.Options), key, at, person = who.PersonId }, transaction, cancellationToken: cancel));

    private static List<VerdictComparison> SaidIn(VerdictSnapshot snapshot, SignOff sign) => [.. VerdictAnswer.Of(snapshot).Select(program =>
    {
        var people = sign.Agrees ? program with { Probability = null } : sign.Answers.FirstOrDefault(a => a.Cylinder == program.Cylinder) ?? program with { Probability = null };
        var given = program.Cylinder is { } c
            ? snapshot.Cylinders[c - 1].Suspects.GroupBy(s => s.Fault).ToDictionary(g => RecordWords.Of(g.Key), g => g.Sum(s => s.Probability))
            : snapshot.Suspects.GroupBy(s => s.Fault).ToDictionary(g => RecordWords.Of(g.Key), g => g.Sum(s => s.Probability));
        return new VerdictComparison(program, people, given);
    })];

    private static Outcome OutcomeOf(string body, string? said)
    {
        var fault = JsonSerializer.Deserialize<FoundFault>(body, TestRecordJson.Options)!;
        var found = new VerdictAnswer(fault.Cylinder, fault.Fault, fault.With);
        var of = said is null ? null : StoredDocuments.ReadSaid(said).FirstOrDefault(s => s.Program.Cylinder == fault.Cylinder);
        return new Outcome(found, of?.Program, of?.People, of?.Given.GetValueOrDefault(RecordWords.Of(fault.Fault)));
    }
}
