using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Preparation;
using Zandrik.Core.Records;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The preparation list: what is ready, who saw to it, which way.</summary>
public sealed class PrepareModel(Visitor visitor, WorkspaceStore workspaces, StepStore steps, DryTestStore tests, TimeProvider clock) : StepPage(visitor, workspaces, steps, clock)
{
    protected override string Step => "prepare";

    protected override string Part => "_Prepare";

    public IReadOnlyList<PreparationLine> Lines { get; private set; } = [];

    /// <summary>A line, ticked or taken back.</summary>
    public async Task<IActionResult> OnPostAsync(string? item, string? way, bool done, string? entry, string? at, CancellationToken cancel)
    {
        if (!await FindAsync(cancel) || !RecordWords.TryParse<PreparationItem>(item, out var line)
            || Lines.FirstOrDefault(l => l.Item == line) is not { } known)
        {
            return NotFound();
        }
        way = known.Ways.FirstOrDefault(w => w.Word == way)?.Word ?? (known.Ways.Count > 0 ? known.Ways[0].Word : null);
        var answer = await Steps.DoAsync(Who, Number, TickStore.Prepare, item!, way, done, Key(entry, $"prepare|{item}|{way}|{done}"), TypedAt.Of(at, Clock), _ => null, cancel);
        if (answer is { Found: true, Refused: null })
        {
            // What the list says, the test is done by.
            var latest = Job.LatestDry;
            var before = latest.Test?.Conditions ?? new TestConditions { BarometricKPa = Who.Settings.BarometricKPa };
            var after = done ? PreparationList.Conditions(before, line, way) : PreparationList.WithoutTick(before, line);
            if (after != before)
            {
                await tests.SetConditionsAsync(Who, Number, latest.Test is null ? null : latest.Id, after, Job.Unit, Clock.GetUtcNow(), cancel);
            }
        }
        return await AnswerAsync(answer, done ? "Done." : "Undone.", cancel);
    }

    /// <summary>Every line that is not ticked yet, the first way where there is a choice: said once, at the first reading.</summary>
    /// <param name="entry">Made with each form, so that a form sent twice is kept once.</param>
    /// <param name="at">When it was said, where it waited for the network; absent for now.</param>
    /// <param name="dry">True to go on to the dry test.</param>
    /// <param name="cancel">Cancels the request.</param>
    public async Task<IActionResult> OnPostAllAsync(string? entry, string? at, bool dry, CancellationToken cancel)
    {
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        var answer = new StepAnswer(true, null);
        var latest = Job.LatestDry;
        var before = latest.Test?.Conditions ?? new TestConditions { BarometricKPa = Who.Settings.BarometricKPa };
        var after = before;
        foreach (var line in Lines.Where(l => !Prepared.ContainsKey(RecordWords.Of(l.Item))))
        {
            var (item, way) = (RecordWords.Of(line.Item), line.Ways.Count > 0 ? line.Ways[0].Word : null);
            answer = await Steps.DoAsync(Who, Number, TickStore.Prepare, item, way, done: true, Key($"{entry}{item}", $"prepare|{item}|{way}|True"), TypedAt.Of(at, Clock), _ => null, cancel);
            if (answer is not { Found: true, Refused: null })
            {
                break;
            }
            after = PreparationList.Conditions(after, line.Item, way);
        }
        if (after != before)
        {
            await tests.SetConditionsAsync(Who, Number, latest.Test is null ? null : latest.Id, after, Job.Unit, Clock.GetUtcNow(), cancel);
        }
        return dry && answer.Refused is null ? Redirect($"/jobs/{Number}/dry") : await AnswerAsync(answer, "Done, as listed.", cancel);
    }

    protected override async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return false;
        }
        Lines = PreparationList.For(Job.Record.Engine, Workshop);
        return true;
    }
}
