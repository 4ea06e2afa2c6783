using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Testers;
using Zandrik.Storage;
using Zandrik.Web.Captures;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>What the page shows of a capture.</summary>
public enum CaptureView
{
    /// <summary>How one is taken, and the place to bring it.</summary>
    Guide,

    /// <summary>How the file is read, before it is judged.</summary>
    Preview,

    /// <summary>What was said of it.</summary>
    Result,
}

/// <summary>Relative compression: the capture is taken as the guide says, brought, looked at, and judged.</summary>
[RequestSizeLimit(CaptureDesk.LargestCapture + 1024 * 1024)]
[RequestFormLimits(MultipartBodyLengthLimit = CaptureDesk.LargestCapture + 1024 * 1024)]
public sealed class RelativeModel(Visitor visitor, WorkspaceStore workspaces, StepStore steps, CaptureStore captures, CaptureDesk desk, TimeProvider clock) : StepPage(visitor, workspaces, steps, clock)
{
    protected override string Step => "relative-compression";

    protected override string Part => "_Relative";

    /// <summary>The capture that is shown; absent for the latest.</summary>
    [BindProperty(SupportsGet = true)]
    public long? Capture { get; set; }

    /// <summary>Another view of it than the natural one.</summary>
    [BindProperty(SupportsGet = true)]
    public CaptureView? View { get; set; }

    public IReadOnlyList<CaptureOfJob> Captures { get; private set; } = [];

    public CaptureOfJob? Chosen { get; private set; }

    public CaptureAnswer? Answer { get; private set; }

    public CapturePicture? Picture { get; private set; }

    public RelativeHeadline? Headline { get; private set; }

    public CaptureInspection? Found { get; private set; }

    public CaptureForm Form { get; private set; } = new();

    /// <summary>The clamp whose last capture told how this one is read; absent for a guess.</summary>
    public string? RememberedFrom { get; private set; }

    public TypedFields Fields { get; } = new();

    public CaptureView Shown => View ?? (Chosen is null ? CaptureView.Guide : Answer is null ? CaptureView.Preview : CaptureView.Result);

    public double LimitPercent => CaptureQuestion.LimitOf(Job.Record.JudgeBy);

    public IReadOnlyList<CaptureLine> Lines => CaptureGuide.For(Engine);

    public IReadOnlyDictionary<string, Tick> Ticked { get; private set; } = new Dictionary<string, Tick>();

    public ShopTester? ClampOf(CaptureOfJob capture) => Workspace.Testers.FirstOrDefault(t => t.Id == capture.Tester)?.Tester;

    /// <summary>Why no capture of this engine can be judged; absent when one can.</summary>
    public string? Forbidden => Engine.Cylinders < CaptureQuestion.FewestCylinders ? "One cylinder has nothing to be compared with. Use a gauge." : null;

    /// <summary>Why nothing is cranked for a capture now; absent when it may be.</summary>
    public string? Locked => Safety.ForbidsCranking;

    protected override string Here => Address + (Capture is { } c ? $"?capture={c}" : "");

    /// <summary>The trace of an answer, for the canvas. It never changes.</summary>
    public async Task<IActionResult> OnGetPictureAsync(long answer, CancellationToken cancel)
    {
        if (await captures.PictureAsync(Who, Number, answer, cancel) is not { } packed)
        {
            return NotFound();
        }
        Response.Headers.CacheControl = "private, max-age=31536000, immutable";
        return File(packed, "application/vnd.zandrik.trace");
    }

    /// <summary>The file of a capture, as it came.</summary>
    public async Task<IActionResult> OnGetFileAsync(long capture, CancellationToken cancel) =>
        await captures.OpenAsync(Who, Number, capture, cancel) is { } found ? File(found.Bytes, "application/octet-stream", found.Name) : NotFound();

    /// <summary>The folded cycle of the capture that is shown, as a table.</summary>
    public async Task<IActionResult> OnGetCycleAsync(CancellationToken cancel) =>
        await FindAsync(cancel) && Answer?.Judged.Answer is { Refused: null } folded
            ? File(System.Text.Encoding.UTF8.GetBytes(CycleTable.Write(folded)), "text/csv; charset=utf-8", $"job-{Number:0000}-cycle.csv") : NotFound();

    /// <summary>A line of the guide.</summary>
    public async Task<IActionResult> OnPostGuideAsync(string? item, bool done, string? entry, string? at, CancellationToken cancel)
    {
        View = CaptureView.Guide;
        return item is null ? NotFound()
            : await AnswerAsync(await Steps.DoAsync(Who, Number, StepStore.Relative, item, null, done, Key(entry, $"{item}|{done}"), TypedAt.Of(at, Clock),
                s => s.Safety.ForbidsCranking ?? (CaptureGuide.For(s.Job.Record.Engine).Any(l => l.Word == item) ? null : "This line is not on the list."), cancel), done ? "Ticked." : "Unticked.", cancel);
    }

    /// <summary>A capture is brought.</summary>
    public async Task<IActionResult> OnPostUploadAsync(IFormFile? file, int? tester, string? entry, CancellationToken cancel)
    {
        if (file is null || file.Length == 0)
        {
            View = CaptureView.Guide;
            return await RefuseAsync(file is null ? "Choose the file of the capture first." : "This file is empty. Save the capture again.", "file", cancel);
        }
        if (file.Length > CaptureDesk.LargestCapture)
        {
            View = CaptureView.Guide;
            return await RefuseAsync(CaptureDesk.TooLarge, "file", cancel);
        }
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        if (Locked is { } locked)
        {
            View = CaptureView.Guide;
            return await RefuseAsync(locked, null, cancel);
        }
        await using var raw = file.OpenReadStream();
        var found = await CaptureFile.InspectAsync(raw, cancel: cancel);
        if (found.Problem is { } problem)
        {
            View = CaptureView.Guide;
            return await RefuseAsync($"{file.FileName}: {problem.Says}", "file", cancel);
        }
        raw.Position = 0;
        // What is shown next follows from the capture, not from what stood there before it came.
        View = null;
        Capture = await captures.KeepAsync(Who, Number, Path.GetFileName(file.FileName), tester, raw, Key(entry, $"{file.FileName}|{file.Length}"), Clock.GetUtcNow(), cancel);
        return Capture is null ? NotFound() : await AfterAsync($"{file.FileName} is kept. Look whether it is read right, then judge it.", cancel);
    }

    /// <summary>The file is looked at again, written as said.</summary>
    public async Task<IActionResult> OnPostLookAsync(CaptureForm form, CancellationToken cancel)
    {
        View = CaptureView.Preview;
        Form = new CaptureForm { Written = form.Written };
        Done = "Preview refreshed.";
        return !await FindAsync(cancel) || Chosen is null ? NotFound() : Request.IsHtmx() ? Partial(Part, this) : Page();
    }

    /// <summary>The capture is judged.</summary>
    public async Task<IActionResult> OnPostJudgeAsync(CaptureForm form, CancellationToken cancel)
    {
        View = CaptureView.Preview;
        Form = new CaptureForm { Written = form.Written };
        if (!await FindAsync(cancel) || Chosen is not { } chosen || Found is not { } found)
        {
            return NotFound();
        }
        if ((found.Problem?.Says ?? Safety.ForbidsWriting) is { } unreadable)
        {
            return await RefuseAsync(unreadable, null, cancel);
        }
        var (layout, question) = form.Read(found, Engine, LimitPercent, Fields);
        if (Fields.Problems.Count > 0)
        {
            Form = form;
            (Problem, Done) = (Fields.Problems.Count == 1 ? Fields.Problems.First().Value : "Some fields need another look.", null);
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Request.IsHtmx() ? Partial(Part, this) : Page();
        }
        var (_, raw) = (await captures.OpenAsync(Who, Number, chosen.Id, cancel))!.Value;
        await using (raw)
        {
            var judged = await desk.JudgeAsync(raw, found.Shape, layout, question, cancel);
            await captures.AnswerAsync(Who, Number, chosen.Id, judged, ClampOf(chosen)?.ForRecord(), Clock.GetUtcNow(), cancel);
        }
        View = null;
        return await AfterAsync("Judged.", cancel);
    }

    protected override async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return false;
        }
        Captures = await captures.ListAsync(Who, Number, cancel);
        Chosen = Capture is { } id ? Captures.FirstOrDefault(c => c.Id == id) : Captures.Count > 0 ? Captures[0] : null;
        Ticked = JobState.Ticked(StepStore.Relative);
        if (Capture is not null && Chosen is null)
        {
            return false;
        }
        Answer = Chosen is { Judged: true } ? await captures.AnswerOfAsync(Who, Chosen.Id, cancel) : null;
        switch (Shown)
        {
            case CaptureView.Preview when Chosen is not null:
                await PreviewAsync(Chosen, cancel);
                break;
            case CaptureView.Result when Answer is not null:
                Headline = RelativeHeadline.Of(Answer.Judged.Answer, Answer.Judged.Question, SlotNames.GaugeOf(Assessment.Tests.Dry, Engine));
                Picture = await captures.PictureAsync(Who, Number, Answer.Id, cancel) is { } packed ? CapturePicture.Unpack(packed) : null;
                break;
            default:
                View = CaptureView.Guide;
                break;
        }
        return true;
    }

    // The guess, or how it was read before: this capture itself, else the last one of its clamp.
    private async Task PreviewAsync(CaptureOfJob chosen, CancellationToken cancel)
    {
        var (_, raw) = (await captures.OpenAsync(Who, Number, chosen.Id, cancel))!.Value;
        await using (raw)
        {
            Found = await CaptureFile.InspectAsync(raw, Form.AsWritten, cancel);
        }
        var layout = Found.Layout;
        var before = Answer?.Judged;
        if (before?.Shape != Found.Shape && chosen.Tester is { } tester && (await captures.LatestOfTesterAsync(Who, tester, cancel))?.Judged is { } last && last.Shape == Found.Shape)
        {
            before = last with { Question = last.Question with { Unplugged = null } };
            RememberedFrom = ClampOf(chosen)?.Label;
        }
        var same = before?.Shape == Found.Shape;
        Form = CaptureForm.Of(Found, same ? Found.LikeBefore(before!.Layout) : layout, same ? before!.Question : null, Engine, ClampOf(chosen)?.MilliVoltsPerAmp);
    }
}
