using Zandrik.Core.Assessment;
using Zandrik.Core.Engines;
using Zandrik.Core.Shops;

namespace Zandrik.Storage;

/// <summary>Everything the workspace of a job shows.</summary>
/// <param name="Job">The job.</param>
/// <param name="Earlier">The job before it on the same vehicle that has a dry reading; absent when there is none.</param>
/// <param name="Events">Everything that was ticked and done at the job's steps, oldest first.</param>
/// <param name="Testers">The shop's testers.</param>
/// <param name="Workshop">What the sheet's version says beside the engine; absent where the engine came from no sheet.</param>
/// <param name="Verdict">The latest verdict that was signed; absent for none.</param>
/// <param name="Shop">The shop's settings.</param>
public sealed record Workspace(
    Job Job, Job? Earlier, IReadOnlyList<StepEvent> Events, IReadOnlyList<KeptTester> Testers, WorkshopSheet? Workshop, VerdictLine? Verdict, ShopSettings Shop)
{
    /// <summary>How things stand, as a rule is asked about them.</summary>
    public JobState JobState => field ??= new(Job, Events, Shop) { Workshop = Workshop, Verdict = Verdict };

    /// <summary>The job, judged.</summary>
    public JobAssessment Assessment => JobState.Assessment;
}

/// <summary>
/// Loads a workspace in one transaction: it is asked for with every entry, and each transaction of its own would
/// cost three more trips to the database.
/// </summary>
public sealed class WorkspaceStore(ShopDatabase database)
{
    /// <summary>The workspace of a job; absent when the shop has none of that number.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="number">The job.</param>
    /// <param name="withEarlier">True to look for the test before it on the same vehicle too.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task<Workspace?> FindAsync(ShopPerson who, int number, bool withEarlier = true, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            var jobs = await JobStore.LoadAsync(connection, transaction, "j.number = @number", new { number }, superseded: false, cancel);
            if (jobs.Count == 0)
            {
                return null;
            }
            var job = jobs[0];
            // Only a first test looks further back; a second one has the first behind it.
            var earlier = withEarlier && job.DryTests.Count < 2 ? await JobStore.MeasuredBeforeAsync(connection, transaction, job, cancel) : null;
            var events = await StepStore.EventsAsync(connection, transaction, number, cancel);
            var workshop = job.SheetVersionId is { } version ? (await SheetStore.VersionAsync(connection, transaction, version, cancel))?.Document.Workshop : null;
            return new Workspace(job, earlier, events, await TesterStore.ListAsync(connection, transaction, cancel), workshop, await VerdictStore.LatestAsync(connection, transaction, number, cancel), who.Settings);
        }, cancel);
}
