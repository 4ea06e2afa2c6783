using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.RelativeCompression;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>Two captures of an engine on one page, of this job or of two: what changed, and whether by more than chance.</summary>
public sealed class BeforeAfterModel(Visitor visitor, WorkspaceStore workspaces, CaptureStore captures) : JobPage(visitor, workspaces)
{
    protected override string Step => "relative-compression";

    /// <summary>The first of the two; the one before <see cref="After"/> unless one is chosen.</summary>
    [BindProperty(SupportsGet = true)]
    public long? Before { get; set; }

    /// <summary>The second of the two; the latest of this job unless one is chosen.</summary>
    [BindProperty(SupportsGet = true)]
    public long? After { get; set; }

    /// <summary>Every judged capture of the engine, the oldest first.</summary>
    public IReadOnlyList<CaptureOfEngine> Captures { get; private set; } = [];

    public CaptureOfEngine? First { get; private set; }

    public CaptureOfEngine? Second { get; private set; }

    public ComparedCapture? Was { get; private set; }

    public ComparedCapture? IsNow { get; private set; }

    /// <summary>What changed; absent while two are not chosen.</summary>
    public CaptureComparison? Comparison { get; private set; }

    public string Address => $"/jobs/{Number}/relative-compression/before-after";

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return NotFound();
        }
        Captures = await captures.OfEngineAsync(Who, Number, cancel);
        Second = After is { } after ? Captures.FirstOrDefault(c => c.Id == after) : Captures.LastOrDefault(c => c.Job == Number) ?? (Captures.Count > 0 ? Captures[^1] : null);
        First = Before is { } before ? Captures.FirstOrDefault(c => c.Id == before) : Captures.TakeWhile(c => c != Second).LastOrDefault();
        if ((After is not null && Second is null) || (Before is not null && First is null))
        {
            return NotFound();
        }
        if (First is null || Second is null || First == Second)
        {
            return Page();
        }
        (Was, IsNow) = (await ComparedAsync(First, cancel), await ComparedAsync(Second, cancel));
        Comparison = CaptureComparison.Of(Was, IsNow);
        return Page();
    }

    private async Task<ComparedCapture> ComparedAsync(CaptureOfEngine capture, CancellationToken cancel)
    {
        var judged = (await captures.AnswerOfAsync(Who, capture.Id, cancel))!.Judged;
        var of = capture.Job == Number ? Workspace : (await Workspaces.FindAsync(Who, capture.Job, cancel: cancel))!;
        return new(judged.Answer, judged.Question, SlotNames.GaugeOf(of.Assessment.Tests.Dry, of.Job.Record.Engine));
    }
}
