using Zandrik.Core.Engines;

namespace Zandrik.Storage;

/// <summary>Everything the workspace of a job shows.</summary>
/// <param name="Job">The job.</param>
/// <param name="Earlier">The job before it on the same vehicle that has a dry reading; absent when there is none.</param>
/// <param name="Prepared">Ticked lines of the preparation.</param>
/// <param name="Refitted">Ticked lines of the refit.</param>
/// <param name="Testers">The shop's testers.</param>
/// <param name="Workshop">What the sheet's version says beside the engine; absent where the engine came from no sheet.</param>
public sealed record Workspace(
    Job Job, Job? Earlier, IReadOnlyDictionary<string, Tick> Prepared, IReadOnlyDictionary<string, Tick> Refitted, IReadOnlyList<KeptTester> Testers, WorkshopSheet? Workshop);

/// <summary>
/// Loads a workspace in one transaction: it is asked for with every entry, and each transaction of its own would
/// cost three more trips to the database.
/// </summary>
public sealed class WorkspaceStore(ShopDatabase database)
{
    /// <summary>The workspace of a job; absent when the shop has none of that number.</summary>
    public Task<Workspace?> FindAsync(ShopPerson who, int number, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            var jobs = await JobStore.LoadAsync(connection, transaction, "j.number = @number", new { number }, superseded: false, cancel);
            if (jobs.Count == 0)
            {
                return null;
            }
            var job = jobs[0];
            // Only a first test looks further back; a second one has the first behind it.
            var earlier = job.DryTests.Count < 2 ? await JobStore.MeasuredBeforeAsync(connection, transaction, job, cancel) : null;
            var (prepared, refitted) = await TickStore.BothAsync(connection, transaction, number, cancel);
            var workshop = job.SheetVersionId is { } version ? (await SheetStore.VersionAsync(connection, transaction, version, cancel))?.Document.Workshop : null;
            return new Workspace(job, earlier, prepared, refitted, await TesterStore.ListAsync(connection, transaction, cancel), workshop);
        }, cancel);
}
