using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Planning;
using Zandrik.Core.Safety;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>What has to be put back, from what was disabled and removed; and closing the job.</summary>
public sealed class RefitModel(Visitor visitor, WorkspaceStore workspaces, StepStore steps, JobStore jobs, TimeProvider clock) : StepPage(visitor, workspaces, steps, clock)
{
    protected override string Step => "refit";

    protected override string Part => "_Refit";

    /// <summary>True where somebody wanted to close the job and was sent here.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Close { get; set; }

    public IReadOnlyList<RefitLine> Lines { get; private set; } = [];

    /// <summary>The lines that are not ticked.</summary>
    public IReadOnlyList<RefitLine> Open => [.. Lines.Where(l => !Refitted.ContainsKey(l.Word))];

    public string? Reason { get; private set; }

    /// <summary>True while it is asked whether the job is really to be closed.</summary>
    public bool Asked { get; private set; }

    /// <summary>Why a line is not ticked now; absent when it may be.</summary>
    public string? Locked(RefitLine line) => Refitted.ContainsKey(line.Word) ? null : RefitGuard.Refuses(Safety, line.Word, done: true);

    /// <summary>A line, ticked or taken back.</summary>
    public async Task<IActionResult> OnPostAsync(string? item, bool done, string? entry, string? at, CancellationToken cancel)
    {
        if (!await FindAsync(cancel) || Lines.All(l => l.Word != item))
        {
            return NotFound();
        }
        return await AnswerAsync(await Steps.DoAsync(Who, Number, TickStore.Refit, item!, null, done, Key(entry, $"refit|{item}|{done}"), TypedAt.Of(at, Clock), s => RefitGuard.Refuses(s.Safety, item!, done), cancel),
            done ? "Done." : "Undone.", cancel);
    }

    /// <summary>Closes the job; asked once.</summary>
    public async Task<IActionResult> OnPostCloseAsync(string? reason, bool sure, CancellationToken cancel)
    {
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        Reason = reason?.Trim();
        if (Open.Count > 0 && (string.IsNullOrEmpty(Reason) || Reason.Length > 1000))
        {
            return await RefuseAsync("Say why the job is closed with this still open, or tick it first.", "reason", cancel);
        }
        if (!sure)
        {
            Asked = true;
            return Page();
        }
        var answer = await jobs.CloseAsync(Who, Number, Clock.GetUtcNow(), Open.Count > 0 ? Reason : null, cancel);
        return answer.Refused is { } why ? await RefuseAsync(why, null, cancel) : answer.Found ? Redirect("/") : NotFound();
    }

    protected override async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return false;
        }
        Lines = Refit;
        Asked |= Close && Open.Count == 0;
        if (Close && Open.Count > 0)
        {
            Problem = "Not closed yet: this is still open. Tick it, or say why the job is closed without it.";
        }
        return true;
    }
}
