using System.Globalization;
using Dapper;
using Microsoft.Extensions.Caching.Memory;
using Zandrik.Core.Assessment;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Engines;
using Zandrik.Core.Shops;

namespace Zandrik.Storage;

/// <summary>Everything the workspace of a job shows. Unchangeable: kept for as long as nothing of it changes, and shared by all who look.</summary>
/// <param name="Job">The job.</param>
/// <param name="Earlier">The job before it on the same engine that has a dry reading; absent when there is none, or this one has a test before its latest itself.</param>
/// <param name="Events">Everything that was ticked and done at the job's steps, oldest first.</param>
/// <param name="Testers">The shop's testers.</param>
/// <param name="Knowledge">What its repairs are weighed by, with what the sheet's version says beside the engine.</param>
/// <param name="Verdict">The latest verdict that was signed; absent for none.</param>
/// <param name="Shop">The shop's settings.</param>
public sealed record Workspace(
    Job Job, Job? Earlier, IReadOnlyList<StepEvent> Events, IReadOnlyList<KeptTester> Testers, RepairKnowledge Knowledge, VerdictLine? Verdict, ShopSettings Shop)
{
    /// <summary>How things stand, as a rule is asked about them.</summary>
    public JobState JobState => field ??= new(Job, Events, Shop) { Knowledge = Knowledge, Verdict = Verdict };

    /// <summary>What the sheet's version says beside the engine; absent where the engine came from no sheet.</summary>
    public WorkshopSheet? Workshop => Knowledge.Workshop;

    /// <summary>The job, judged.</summary>
    public JobAssessment Assessment => JobState.Assessment;

    /// <summary>The tests of <see cref="Earlier"/>, judged, with figures in this job's unit; absent without one.</summary>
    public JudgedTests? EarlierTests => field ??= Earlier is null ? null : JudgedTests.Of(Earlier.Record, Job.Unit);
}

/// <summary>What a job stood at: equal stamps show equal pages.</summary>
/// <param name="Number">The job's number in its shop.</param>
/// <param name="Stamp">Made of the versions of the job, of its shop's settings and names, and of the other jobs of its engine.</param>
public sealed record JobStamp(int Number, string Stamp)
{
    /// <summary>True when one row of the job was written since another stamp, and nothing else that a page shows changed.</summary>
    /// <param name="before">The other.</param>
    internal bool IsNextOf(JobStamp before)
    {
        var (was, isNow) = (before.Stamp.Split('.', 2), Stamp.Split('.', 2));
        return Number == before.Number && was.Length == 2 && isNow.Length == 2 && was[1] == isNow[1]
            && long.TryParse(was[0], CultureInfo.InvariantCulture, out var version) && isNow[0] == (version + 1).ToString(CultureInfo.InvariantCulture);
    }
}

/// <summary>
/// Loads workspaces, in one round trip, and keeps the latest ones in memory: a job that was judged is not judged again
/// until a row of it changes. Whoever asks brings the stamp that the database gave with this request, so a copy of the
/// program that did not write the change itself is never behind.
/// </summary>
public sealed class WorkspaceStore(ShopDatabase database) : IDisposable
{
    /// <summary>How many jobs are kept in memory.</summary>
    public const int MostKept = 300;

    // The jobs and the one before each, found once for all statements of the trip.
    private const string Finding = """
        select set_config('zandrik.jobs', array(
            select a.id from job a where a.number = any(@numbers)
            union select e.id from job a cross join lateral (
                select b.id from job b where b.engine_id = a.engine_id and (b.opened_at, b.number) < (a.opened_at, a.number)
                    and exists (select 1 from test x join reading r on r.test_id = x.id where x.job_id = b.id and x.kind = 'compression-dry' and r.value is not null)
                order by b.opened_at desc, b.number desc limit 1) e where a.number = any(@numbers))::text, true);

        """;

    private const string These = "j.id = any(current_setting('zandrik.jobs')::bigint[])";

    private readonly MemoryCache kept = new(new MemoryCacheOptions { SizeLimit = MostKept });

    /// <summary>The workspace of a job; absent when the shop has none of that number.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="number">The job.</param>
    /// <param name="stamp">What the database said of it with this request; absent to ask it, as after a change.</param>
    /// <param name="cancel">Cancels the work.</param>
    public async Task<Workspace?> FindAsync(ShopPerson who, int number, JobStamp? stamp = null, CancellationToken cancel = default) =>
        Kept(who, stamp) ?? (await LoadAsync(who, [number], cancel)).GetValueOrDefault(number);

    /// <summary>The workspaces of several jobs, in the order of their stamps.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="stamps">The jobs, as the database said with this request.</param>
    /// <param name="cancel">Cancels the work.</param>
    public async Task<IReadOnlyList<Workspace>> FindAsync(ShopPerson who, IReadOnlyList<JobStamp> stamps, CancellationToken cancel = default)
    {
        var found = stamps.Select(s => (s.Number, Workspace: Kept(who, s))).Where(w => w.Workspace is not null).ToDictionary(w => w.Number, w => w.Workspace!);
        var missing = stamps.Select(s => s.Number).Where(n => !found.ContainsKey(n)).ToArray();
        foreach (var (number, workspace) in missing.Length == 0 ? new Dictionary<int, Workspace>() : await LoadAsync(who, missing, cancel))
        {
            found[number] = workspace;
        }
        return [.. stamps.Select(s => found.GetValueOrDefault(s.Number)).OfType<Workspace>()];
    }

    /// <summary>
    /// Puts a reading that was just kept into the workspace in memory, so that the page that answers it loads nothing.
    /// Only where that workspace is of the moment before, and nothing else changed in between.
    /// </summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="added">The reading, and what the job stood at before and after it.</param>
    /// <returns>What the job stands at since, to ask for it by; absent where it has to be loaded.</returns>
    public JobStamp? Follow(ShopPerson who, AddedReading? added)
    {
        if (added is null || !added.After.IsNextOf(added.Before) || Kept(who, added.Before) is not { } before || before.Job.With(added) is not { } job)
        {
            return null;
        }
        Keep(who, added.After, new Workspace(job, before.Earlier, before.Events, before.Testers, before.Knowledge, before.Verdict, before.Shop));
        return added.After;
    }

    // The stamps of the jobs of a condition on "j".
    internal static string Stamps(string where, string order = "") => $"""
        select j.number, concat_ws('.', m.version, (select version from shop_mark), (
            select md5(string_agg(b.id || ':' || n.version, ',' order by b.id)) from job b join job_mark n on n.job_id = b.id where b.engine_id = j.engine_id and b.id <> j.id)) as stamp
        from job j join job_mark m on m.job_id = j.id where {where} {order};
        """;

    /// <inheritdoc/>
    public void Dispose() => kept.Dispose();

    // Sentences carry figures as they are written there, so another way of writing has its own.
    private static (int, int, string) KeyOf(ShopPerson who, int number) => (who.ShopId, number, CultureInfo.CurrentCulture.Name);

    private Workspace? Kept(ShopPerson who, JobStamp? stamp) =>
        stamp is not null && kept.TryGetValue(KeyOf(who, stamp.Number), out (string Stamp, Workspace Workspace) found) && found.Stamp == stamp.Stamp ? found.Workspace : null;

    private void Keep(ShopPerson who, JobStamp stamp, Workspace workspace) =>
        kept.Set(KeyOf(who, stamp.Number), (stamp.Stamp, workspace), new MemoryCacheEntryOptions { Size = 1, SlidingExpiration = TimeSpan.FromHours(2) });

    private Task<Dictionary<int, Workspace>> LoadAsync(ShopPerson who, int[] numbers, CancellationToken cancel) => database.ReadAsync(who.ShopId, who.PersonId, who.Purpose,
        Stamps("j.number = any(@numbers)") + Finding + JobStore.Loading(These, superseded: false) + StepStore.Doing("j.number = any(@numbers)") + TesterStore.Listing
            + DecisionStore.Knowing("j.number = any(@numbers)") + VerdictStore.Latest("j.number = any(@numbers)") + "select settings::text from shop;",
        new DynamicParameters(new { numbers }), async grid =>
        {
            // The stamps come first: what is loaded after them may be newer, never older.
            var stamps = (await grid.ReadAsync<JobStamp>()).ToDictionary(s => s.Number, s => s.Stamp);
            await grid.ReadFirstAsync<string>();
            var jobs = await JobStore.AssembleAsync(grid, superseded: false);
            var events = (await grid.ReadAsync<StepEvent>()).ToLookup(e => e.JobId);
            var testers = await TesterStore.ReadAsync(grid);
            var knowledge = await DecisionStore.ReadAsync(grid);
            var verdicts = (await grid.ReadAsync<VerdictLine>()).ToDictionary(v => v.JobId);
            // As they stand with these stamps, not as the person brought them.
            var settings = PersonRow.SettingsOf(await grid.ReadFirstAsync<string>());
            var found = new Dictionary<int, Workspace>();
            foreach (var job in jobs.Where(j => numbers.Contains(j.Number)))
            {
                // Only a first test looks further back; a second one has the first behind it.
                var earlier = job.DryTests.Count < 2
                    ? jobs.Where(j => j.EngineId == job.EngineId && j.DryTests.Any(t => t.Test.Readings?.Any(r => r.Value is not null) == true) && (j.OpenedAt < job.OpenedAt || (j.OpenedAt == job.OpenedAt && j.Number < job.Number))).MaxBy(j => (j.OpenedAt, j.Number)) : null;
                var workspace = found[job.Number] = new Workspace(job, earlier, [.. events[job.Id]], testers,
                    knowledge(job.Id), verdicts.GetValueOrDefault(job.Id), settings);
                if (stamps.TryGetValue(job.Number, out var stamp))
                {
                    Keep(who, new JobStamp(job.Number, stamp), workspace);
                }
            }
            return found;
        }, cancel);
}
