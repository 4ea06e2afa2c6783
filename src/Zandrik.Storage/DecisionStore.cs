using System.Security.Cryptography;
using System.Text;
using Dapper;
using Zandrik.Core.Deciding;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;
using Zandrik.Core.Shops;
using Zandrik.Storage.Documents;

namespace Zandrik.Storage;

/// <summary>What a job's repairs are weighed by beside its readings and the shop's settings.</summary>
/// <param name="Repairs">The shop's own figures, and what it does not do.</param>
/// <param name="Sheet">The engine sheet; absent for none.</param>
/// <param name="Inputs">What is known of the owner's side.</param>
/// <param name="Workshop">What the shop knows of the engine beside its sheet; absent for nothing.</param>
public sealed record RepairKnowledge(RepairPolicy Repairs, int? Sheet, DecisionInputs Inputs, WorkshopSheet? Workshop)
{
    /// <summary>The rules alone.</summary>
    public static RepairKnowledge None { get; } = new(RepairPolicy.None, null, DecisionInputs.None, null);
}

/// <summary>A decision in a list of versions.</summary>
public sealed record DecisionLine
{
    /// <summary>The row.</summary>
    public long Id { get; init; }

    /// <summary>Its version on its job, from 1.</summary>
    public int Version { get; init; }

    /// <summary>The word of what was chosen.</summary>
    public string Chosen { get; init; } = "";

    /// <summary>The word of what was cheapest on average then.</summary>
    public string Best { get; init; } = "";

    /// <summary>Why it is not the cheapest; a remark, or absent, where it is.</summary>
    public string? Reason { get; init; }

    /// <summary>When.</summary>
    public DateTimeOffset At { get; init; }

    /// <summary>Who.</summary>
    public string By { get; init; } = "";
}

/// <summary>A decision, whole.</summary>
/// <param name="Line">Who, when, which version, why.</param>
/// <param name="Decided">What was chosen, from what.</param>
public sealed record KeptDecision(DecisionLine Line, DecisionSnapshot Decided);

/// <summary>An address that opens a decision without a sign-in.</summary>
public sealed record OwnerLink
{
    /// <summary>The row.</summary>
    public long Id { get; init; }

    /// <summary>The version it opens.</summary>
    public int Version { get; init; }

    /// <summary>When it was made.</summary>
    public DateTimeOffset At { get; init; }

    /// <summary>Who made it.</summary>
    public string By { get; init; } = "";

    /// <summary>Until when it opens.</summary>
    public DateTimeOffset Until { get; init; }

    /// <summary>When it was revoked; absent while it is not.</summary>
    public DateTimeOffset? RevokedAt { get; init; }
}

/// <summary>What an owner sees of a decision.</summary>
/// <param name="Shop">The shop's name.</param>
/// <param name="Settings">How it writes numbers and days.</param>
/// <param name="TimeZone">Its time zone.</param>
/// <param name="Job">The job's number.</param>
/// <param name="Vehicle">The vehicle; absent where nobody said.</param>
/// <param name="Engine">The engine.</param>
/// <param name="At">When it was decided.</param>
/// <param name="Until">Until when the address opens.</param>
/// <param name="Decided">What was chosen, from what.</param>
public sealed record OwnersDecision(string Shop, ShopSettings Settings, string TimeZone, int Job, string? Vehicle, EngineSheet Engine, DateTimeOffset At, DateTimeOffset Until, DecisionSnapshot Decided);

/// <summary>Keeps what is decided on jobs, what a shop knows of the cost of repairs, and the addresses that show an owner a decision. Nothing of it is ever changed; the latest counts.</summary>
public sealed class DecisionStore(ShopDatabase database)
{
    /// <summary>How long an owner's address opens.</summary>
    public static readonly TimeSpan LinkLasts = TimeSpan.FromDays(30);

    /// <summary>Longest reason, characters.</summary>
    public const int LongestReason = 500;

    private const string Lines = "select d.id, d.version, d.chosen, d.best, d.reason, d.at, p.name as by from decision d join job j on j.id = d.job_id join person p on p.id = d.by_person";

    // What the repairs of the jobs of a condition on "j" are weighed by: the shop's policy, then each job's part.
    internal static string Knowing(string where) => $"""
        select (select body::text from repair_policy order by version desc limit 1);
        select j.id as job_id, v.sheet_id as sheet, v.body::text as body, (select i.body::text from decision_input i where i.job_id = j.id order by i.id desc limit 1) as inputs
        from job j left join engine_sheet_version v on v.id = j.sheet_version_id where {where};
        """;

    internal static async Task<Func<long, RepairKnowledge>> ReadAsync(SqlMapper.GridReader grid)
    {
        var policy = await grid.ReadFirstAsync<string?>() is { } body ? StoredDocuments.Read<RepairPolicyDocumentV1, RepairPolicy>(body) : RepairPolicy.None;
        var jobs = (await grid.ReadAsync<KnowledgeRow>()).ToDictionary(r => r.JobId);
        return id => jobs.TryGetValue(id, out var row)
            ? new(policy, row.Sheet, row.Inputs is null ? DecisionInputs.None : StoredDocuments.Read<InputsDocumentV1, DecisionInputs>(row.Inputs), row.Body is null ? null : StoredDocuments.Read<SheetDocumentV1, EngineDocument>(row.Body).Workshop)
            : RepairKnowledge.None with { Repairs = policy };
    }

    /// <summary>Keeps what is known of the owner's side.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="inputs">What is known; without problems.</param>
    /// <param name="key">Made once: sent twice, it is kept once.</param>
    /// <param name="at">When.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    public Task<StepAnswer> KnowAsync(ShopPerson who, int job, DecisionInputs inputs, Guid key, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            if (await HeldJob.OfAsync(connection, transaction, who, job, cancel) is not { } held)
            {
                return StepAnswer.Missing;
            }
            if (!await held.IsKnownAsync("decision_input", key, cancel))
            {
                await connection.ExecuteAsync(new CommandDefinition("insert into decision_input (shop_id, job_id, body, entry, at, by_person) values (@shop, @Id, @body::jsonb, @key, @at, @person)",
                    new { shop = who.ShopId, held.Id, body = StoredDocuments.Write<InputsDocumentV1, DecisionInputs>(inputs), key, at, person = who.PersonId }, transaction, cancellationToken: cancel));
            }
            return StepAnswer.Kept;
        }, cancel);

    /// <summary>Chooses an option of a job as it stands, if that is what was looked at. A closed job may still be decided on: the owner is asked after the tests.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="chosen">The word of the option.</param>
    /// <param name="reason">Why it is not the cheapest on average; a remark, or absent, where it is.</param>
    /// <param name="seen">The latest version that was looked at; 0 for none.</param>
    /// <param name="key">Made once: sent twice, it is chosen once.</param>
    /// <param name="at">When.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    public Task<StepAnswer> ChooseAsync(ShopPerson who, int job, string chosen, string? reason, int seen, Guid key, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            if (await HeldJob.OfAsync(connection, transaction, who, job, cancel) is not { } held)
            {
                return StepAnswer.Missing;
            }
            if (await held.IsKnownAsync("decision", key, cancel))
            {
                return StepAnswer.Kept;
            }
            var latest = await connection.QueryFirstOrDefaultAsync<DecisionLine?>(new CommandDefinition(Lines + " where j.number = @job order by d.version desc limit 1", new { job }, transaction, cancellationToken: cancel));
            if ((latest?.Version ?? 0) != seen)
            {
                return new StepAnswer(true, $"{latest?.By} chose meanwhile: look at version {latest?.Version} first.");
            }
            var state = await StepStore.StateAsync(connection, transaction, who, job, cancel);
            var sheet = DecisionSheet.Of(state.Assessment);
            if (sheet.Of(chosen) is not { } option)
            {
                return new StepAnswer(true, "This option is not among them any more: something on the job has changed. Look at them as they stand now.");
            }
            if (option.Struck is { } struck)
            {
                return new StepAnswer(true, $"This shop does not do it: {struck}");
            }
            if (!option.IsBest && string.IsNullOrWhiteSpace(reason))
            {
                return new StepAnswer(true, "Say why it is not the cheapest on average: the reason stands with the decision.");
            }
            var decided = DecisionSnapshot.Of(sheet, chosen, state.Assessment.Headline, state.Assessment.Policy.Inputs, who.Settings.Currency);
            await connection.ExecuteAsync(new CommandDefinition("""
                insert into decision (shop_id, job_id, version, chosen, best, reason, body, entry, at, by_person) values (@shop, @Id, @version, @chosen, @best, @reason, @body::json, @key, @at, @person)
                """, new
            {
                shop = who.ShopId, held.Id, version = seen + 1, chosen, best = decided.Best.Word, reason = string.IsNullOrWhiteSpace(reason) ? null : reason.Trim(),
                body = StoredDocuments.Write<DecisionDocumentV1, DecisionSnapshot>(decided), key, at, person = who.PersonId,
            }, transaction, cancellationToken: cancel));
            return StepAnswer.Kept;
        }, cancel);

    /// <summary>The decisions of a job, the latest first.</summary>
    public Task<IReadOnlyList<DecisionLine>> ListAsync(ShopPerson who, int job, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<DecisionLine>>(who, async (connection, transaction) =>
            (await connection.QueryAsync<DecisionLine>(new CommandDefinition(Lines + " where j.number = @job order by d.version desc", new { job }, transaction, cancellationToken: cancel))).AsList(), cancel);

    /// <summary>A decision of a job, whole; absent when there is none of that version.</summary>
    public Task<KeptDecision?> FindAsync(ShopPerson who, int job, int version, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            var line = await connection.QuerySingleOrDefaultAsync<DecisionLine?>(new CommandDefinition(Lines + " where j.number = @job and d.version = @version", new { job, version }, transaction, cancellationToken: cancel));
            return line is null ? null : new KeptDecision(line, StoredDocuments.Read<DecisionDocumentV1, DecisionSnapshot>(
                (await connection.ExecuteScalarAsync<string>(new CommandDefinition("select body::text from decision where id = @Id", new { line.Id }, transaction, cancellationToken: cancel)))!));
        }, cancel);

    /// <summary>Changes what the shop knows of repairs: the latest as it is when nobody else can change it.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="change">What becomes of it.</param>
    /// <param name="at">When.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    public Task LearnAsync(ShopPerson who, Func<RepairPolicy, RepairPolicy> change, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            // Two who change it at once do so one after the other.
            await connection.ExecuteAsync(new CommandDefinition("select pg_advisory_xact_lock(hashtext('repair_policy'), @shop)", new { shop = who.ShopId }, transaction, cancellationToken: cancel));
            var (version, body) = await connection.QuerySingleOrDefaultAsync<(int, string?)>(new CommandDefinition("select version, body::text from repair_policy order by version desc limit 1", null, transaction, cancellationToken: cancel));
            var before = body is null ? RepairPolicy.None : StoredDocuments.Read<RepairPolicyDocumentV1, RepairPolicy>(body);
            await connection.ExecuteAsync(new CommandDefinition("insert into repair_policy (shop_id, version, body, at, by_person) values (@shop, @version, @body::jsonb, @at, @person)",
                new { shop = who.ShopId, version = version + 1, body = StoredDocuments.Write<RepairPolicyDocumentV1, RepairPolicy>(change(before)), at, person = who.PersonId }, transaction, cancellationToken: cancel));
            return true;
        }, cancel);

    /// <summary>Makes an address that opens a decision without a sign-in, for <see cref="LinkLasts"/>.</summary>
    /// <returns>The secret part of the address, which is kept nowhere; absent when the job has no such decision.</returns>
    public Task<string?> MakeLinkAsync(ShopPerson who, int job, int version, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            var secret = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(20));
            return await connection.ExecuteAsync(new CommandDefinition("""
                insert into owner_link (shop_id, job_id, decision_id, hash, at, by_person, until)
                select d.shop_id, d.job_id, d.id, @hash, @at, @person, @until from decision d join job j on j.id = d.job_id where j.number = @job and d.version = @version
                """, new { job, version, hash = Hash(secret), at, person = who.PersonId, until = at + LinkLasts }, transaction, cancellationToken: cancel)) > 0 ? secret : null;
        }, cancel);

    /// <summary>The addresses of a job, the latest first.</summary>
    public Task<IReadOnlyList<OwnerLink>> LinksAsync(ShopPerson who, int job, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<OwnerLink>>(who, async (connection, transaction) => (await connection.QueryAsync<OwnerLink>(new CommandDefinition("""
            select l.id, d.version, l.at, p.name as by, l.until, l.revoked_at from owner_link l join decision d on d.id = l.decision_id join job j on j.id = l.job_id join person p on p.id = l.by_person
            where j.number = @job order by l.id desc
            """, new { job }, transaction, cancellationToken: cancel))).AsList(), cancel);

    /// <summary>Ends an address at once; false when the job has none of that row that still opens.</summary>
    public Task<bool> RevokeAsync(ShopPerson who, int job, long link, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) => await connection.ExecuteAsync(new CommandDefinition("""
            update owner_link l set revoked_at = @at, revoked_by = @person from job j where j.id = l.job_id and j.number = @job and l.id = @link and l.revoked_at is null
            """, new { job, link, at, person = who.PersonId }, transaction, cancellationToken: cancel)) > 0, cancel);

    /// <summary>What an address opens; absent for one that was guessed, revoked, or is over: nobody is told which.</summary>
    /// <param name="secret">The secret part of the address.</param>
    /// <param name="now">The time.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task<OwnersDecision?> OpenAsync(string secret, DateTimeOffset now, CancellationToken cancel = default) =>
        database.AskAsync(async connection =>
        {
            var row = await connection.QuerySingleOrDefaultAsync<OwnersRow?>(new CommandDefinition("select * from decision_of_link(@hash, @now)", new { hash = Hash(secret), now }, cancellationToken: cancel));
            return row is null ? null : new OwnersDecision(row.Shop, PersonRow.SettingsOf(row.Settings ?? "{}"), row.TimeZone, row.Job, row.Vehicle,
                System.Text.Json.JsonSerializer.Deserialize<EngineSheet>(row.Engine, TestRecordJson.Options)!, row.DecidedAt, row.Until, StoredDocuments.Read<DecisionDocumentV1, DecisionSnapshot>(row.Body));
        }, cancel);

    private static byte[] Hash(string secret) => SHA256.HashData(Encoding.UTF8.GetBytes(secret));

    private sealed record KnowledgeRow
    {
        public long JobId { get; init; }
        public int? Sheet { get; init; }
        public string? Body { get; init; }
        public string? Inputs { get; init; }
    }

    private sealed record OwnersRow
    {
        public string Shop { get; init; } = "";
        public string? Settings { get; init; }
        public string TimeZone { get; init; } = "";
        public int Job { get; init; }
        public string? Vehicle { get; init; }
        public string Engine { get; init; } = "";
        public DateTimeOffset DecidedAt { get; init; }
        public DateTimeOffset Until { get; init; }
        public string Body { get; init; } = "";
    }
}
