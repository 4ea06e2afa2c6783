using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>
/// A page of the workspace after the dry test. Whatever is done on it is one entry: kept once, refused by its guard
/// with the reason, and answered with the step as it stands then.
/// </summary>
public abstract class StepPage(Visitor visitor, WorkspaceStore workspaces, StepStore steps, TimeProvider clock) : JobPage(visitor, workspaces)
{
    [BindProperty(SupportsGet = true)]
    public int? Cylinder { get; set; }

    /// <summary>Why the last entry was not taken, with what to do.</summary>
    public string? Problem { get; protected set; }

    /// <summary>The name of the field the problem is about; absent for the step as a whole.</summary>
    public string? ProblemField { get; protected set; }

    /// <summary>What was just kept.</summary>
    public string? Done { get => done ?? DoneBefore; protected set => done = value; }

    // Only over a redirect: a part that was swapped has said it already, and the next page must not say it again.
    [TempData]
    public string? DoneBefore { get; set; }

    private string? done;

    public JobState JobState => Workspace.JobState;

    public EngineSheet Engine => Job.Record.Engine;

    public PressureUnit Unit => Job.Unit;

    public string Address => $"/jobs/{Number}/{Step}";

    /// <summary>The address of what the page shows now.</summary>
    protected virtual string Here => Address + (Cylinder is { } c ? $"?cylinder={c}" : "");

    protected StepStore Steps => steps;

    protected TimeProvider Clock => clock;

    /// <summary>The part of the page that is swapped.</summary>
    protected abstract string Part { get; }

    /// <summary>Loads the job and works out what the page shows; false when the shop has none of that number.</summary>
    protected abstract Task<bool> FindAsync(CancellationToken cancel);

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) =>
        !await FindAsync(cancel) ? NotFound() : Request.IsHtmx() ? Partial(Part, this) : Page();

    /// <summary>Shows pressures in another unit; what was read stays as it was read.</summary>
    public async Task<IActionResult> OnPostUnitAsync([FromServices] JobStore jobs, string? unit, CancellationToken cancel) =>
        RecordWords.TryParse<PressureUnit>(unit, out var u) && await jobs.ShowInAsync(Who, Number, u, cancel)
            ? await AfterAsync($"Shown in {u.Symbol()}.", cancel)
            : NotFound();

    /// <summary>The step as it stands after an entry, or with what keeps the entry from being taken.</summary>
    protected async Task<IActionResult> AnswerAsync(StepAnswer answer, string done, CancellationToken cancel) =>
        !answer.Found ? NotFound() : answer.Refused is { } why ? await RefuseAsync(why, null, cancel) : await AfterAsync(done, cancel);

    /// <summary>The step as it stands after an undo: what was taken back, that there is nothing, or why not.</summary>
    protected async Task<IActionResult> AfterUndoAsync(StepAnswer undone, CancellationToken cancel) =>
        undone.Refused is { } why ? await RefuseAsync(why, null, cancel) : await AfterAsync(undone.Found ? "Last entry undone. It stays on record." : "Nothing left to undo.", cancel);

    /// <summary>The step as it stands after something was kept.</summary>
    protected async Task<IActionResult> AfterAsync(string done, CancellationToken cancel)
    {
        if (Request.WantsNoPart())
        {
            return new NoContentResult();
        }
        if (!Request.IsHtmx())
        {
            DoneBefore = done;
            return Redirect(Here);
        }
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        Done = done;
        return Partial(Part, this);
    }

    /// <summary>The step with what was typed and the reason why it was not taken.</summary>
    protected async Task<IActionResult> RefuseAsync(string problem, string? field, CancellationToken cancel)
    {
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        (Problem, ProblemField, Done, DoneBefore) = (problem, field, null, null);
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return Request.IsHtmx() ? Partial(Part, this) : Page();
    }

    /// <summary>The key of an entry: the same form with the same content is the same entry however often it arrives.</summary>
    protected static Guid Key(string? entry, string content) => string.IsNullOrEmpty(entry) ? Guid.NewGuid() : EntryKey.Of($"{entry}|{content}");

    /// <summary>The testers of a kind that are in use.</summary>
    public IReadOnlyList<KeptTester> TestersOf(Core.Testers.TesterKind kind) =>
        [.. Workspace.Testers.Where(t => t.RetiredAt is null && t.Tester.Kind == kind)];
}
