using Dapper;
using Zandrik.Core.Life;
using Zandrik.Core.Repairs;
using Zandrik.Storage.Documents;

namespace Zandrik.Storage;

/// <summary>Work that was done on a job, as it is kept.</summary>
/// <param name="Id">The row.</param>
/// <param name="Done">What was done.</param>
/// <param name="DoneAt">When it was done.</param>
/// <param name="At">When that was written down.</param>
/// <param name="By">Who wrote it down.</param>
/// <param name="Planned">Minutes planned for it when it was decided; absent where nothing was, or something else.</param>
public sealed record KeptRepair(long Id, RepairDone Done, DateTimeOffset DoneAt, DateTimeOffset At, string By, Estimate? Planned);

/// <summary>Keeps what was done on engines and what it really took. A slip is put right by a row that takes its place; nothing is overwritten.</summary>
public sealed class RepairStore(ShopDatabase database)
{
    // What counts: not taken back, and no other row in its place.
    internal const string Counts = "d.withdrawn_at is null and not exists (select 1 from repair_done n where n.replaces = d.id)";

    private const string Columns = """
        select d.id, d.body::text as body, d.done_at, d.at, p.name as by, c.body::text as decided
        from repair_done d join job j on j.id = d.job_id join person p on p.id = d.by_person left join decision c on c.id = d.decision_id
        """;

    /// <summary>What was done on a job, the earliest first.</summary>
    public Task<IReadOnlyList<KeptRepair>> ListAsync(ShopPerson who, int job, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<KeptRepair>>(who, async (c, t) => [.. (await c.QueryAsync<Row>(new CommandDefinition(
            $"{Columns} where j.number = @job and {Counts} order by d.done_at, d.id", new { job }, t, cancellationToken: cancel))).Select(r => r.ToKept())], cancel);

    /// <summary>Everything that was done in the shop, beside what had been planned. The sample job counts nowhere.</summary>
    public Task<IReadOnlyList<RepairOutcome>> OutcomesAsync(ShopPerson who, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<RepairOutcome>>(who, async (c, t) => [.. (await c.QueryAsync<Row>(new CommandDefinition(
            $"{Columns} where not j.sample and {Counts} order by d.id", null, t, cancellationToken: cancel))).Select(r => r.ToKept()).Select(k => new RepairOutcome(k.Done, k.Planned))], cancel);

    /// <summary>Writes down what was done. A closed job takes it too: engines are repaired after the tests.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="done">What was done.</param>
    /// <param name="doneAt">When it was done.</param>
    /// <param name="replaces">The row it puts right; absent for a new one.</param>
    /// <param name="key">Made once: sent twice, it is kept once.</param>
    /// <param name="at">The time.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    /// <returns>Refused where the row to be put right was put right or taken back meanwhile.</returns>
    public Task<StepAnswer> NoteAsync(ShopPerson who, int job, RepairDone done, DateTimeOffset doneAt, long? replaces, Guid key, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) =>
        {
            if (await HeldJob.OfAsync(c, t, who, job, cancel) is not { } held)
            {
                return StepAnswer.Missing;
            }
            if (await held.IsKnownAsync("repair_done", key, cancel))
            {
                return StepAnswer.Kept;
            }
            if (replaces is not null && !await c.ExecuteScalarAsync<bool>(new CommandDefinition($"select exists (select 1 from repair_done d where d.id = @replaces and d.job_id = @Id and {Counts})", new { replaces, held.Id }, t, cancellationToken: cancel)))
            {
                return new StepAnswer(true, "Somebody changed or removed that entry meanwhile. Look at it as it stands now.");
            }
            await c.ExecuteAsync(new CommandDefinition("""
                insert into repair_done (shop_id, job_id, decision_id, body, replaces, entry, done_at, at, by_person)
                values (@shop, @Id, coalesce((select r.decision_id from repair_done r where r.id = @replaces), (select v.id from decision v where v.job_id = @Id order by v.version desc limit 1)), @body::jsonb, @replaces, @key, @doneAt, @at, @person)
                """, new { shop = who.ShopId, held.Id, body = StoredDocuments.Write<RepairDoneDocumentV1, RepairDone>(done), replaces, key, doneAt, at, person = who.PersonId }, t, cancellationToken: cancel));
            return StepAnswer.Kept;
        }, cancel);

    /// <summary>Takes an entry back; it stays on record, withdrawn.</summary>
    /// <returns>False when the job has no such entry that counts.</returns>
    public Task<bool> WithdrawAsync(ShopPerson who, int job, long repair, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) => await HeldJob.OfAsync(c, t, who, job, cancel) is { Id: var id } && await c.ExecuteAsync(new CommandDefinition(
            $"update repair_done d set withdrawn_at = @at, withdrawn_by = @person where d.id = @repair and d.job_id = @id and {Counts}", new { at, person = who.PersonId, repair, id }, t, cancellationToken: cancel)) > 0, cancel);

    internal static RepairDone Read(string body) => StoredDocuments.Read<RepairDoneDocumentV1, RepairDone>(body);

    private sealed record Row
    {
        public long Id { get; init; }
        public string Body { get; init; } = "";
        public DateTimeOffset DoneAt { get; init; }
        public DateTimeOffset At { get; init; }
        public string By { get; init; } = "";
        public string? Decided { get; init; }

        public KeptRepair ToKept()
        {
            var done = Read(Body);
            var planned = Decided is null ? null : StoredDocuments.Read<DecisionDocumentV1, Core.Deciding.DecisionSnapshot>(Decided).Options.FirstOrDefault(o => o.Word == done.Option);
            return new(Id, done, DoneAt, At, By, planned?.Minutes);
        }
    }
}
