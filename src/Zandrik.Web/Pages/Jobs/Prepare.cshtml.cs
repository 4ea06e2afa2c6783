using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Planning;
using Zandrik.Core.Records;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The preparation list: what is ready, who saw to it, which way.</summary>
public sealed class PrepareModel(Visitor visitor, WorkspaceStore workspaces, TickStore ticks, DryTestStore tests, TimeProvider clock) : JobPage(visitor, workspaces)
{
    protected override string Step => "prepare";

    public IReadOnlyList<PreparationLine> Lines { get; private set; } = [];

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return NotFound();
        }
        Lines = PreparationList.For(Job.Record.Engine, Workshop);
        return Request.IsHtmx() ? Partial("_Prepare", this) : Page();
    }

    public async Task<IActionResult> OnPostAsync(string? item, string? way, bool done, CancellationToken cancel)
    {
        if (!await LoadAsync(cancel) || !RecordWords.TryParse<PreparationItem>(item, out var line)
            || PreparationList.For(Job.Record.Engine, Workshop).FirstOrDefault(l => l.Item == line) is not { } known)
        {
            return NotFound();
        }
        way = known.Ways.FirstOrDefault(w => w.Word == way)?.Word ?? (known.Ways.Count > 0 ? known.Ways[0].Word : null);
        await ticks.TickAsync(Who, Number, TickStore.Prepare, item!, way, done, clock.GetUtcNow(), cancel);
        // What the list says, the test is done by.
        var latest = Job.DryTests is [.., var last] ? last : default;
        var before = latest.Test?.Conditions ?? new TestConditions { BarometricKPa = Who.Settings.BarometricKPa };
        var after = done ? PreparationList.Conditions(before, line, way) : PreparationList.WithoutTick(before, line);
        if (after != before)
        {
            await tests.SetConditionsAsync(Who, Number, latest.Test is null ? null : latest.Id, after, Job.Unit, clock.GetUtcNow(), cancel);
        }
        return Request.IsHtmx() ? await OnGetAsync(cancel) : Redirect($"/jobs/{Number}/prepare");
    }
}
