using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Planning;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>What has to be put back, from what was disabled and removed; and closing the job.</summary>
public sealed class RefitModel(Visitor visitor, WorkspaceStore workspaces, TickStore ticks, JobStore jobs, TimeProvider clock) : JobPage(visitor, workspaces)
{
    protected override string Step => "refit";

    public IReadOnlyList<RefitLine> Lines { get; private set; } = [];

    public IReadOnlyList<RefitLine> Open => [.. Lines.Where(l => !Refitted.ContainsKey(l.Word))];

    public string? Problem { get; private set; }

    public string? Reason { get; private set; }

    public async Task<IActionResult> OnGetAsync(bool close, CancellationToken cancel)
    {
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        if (close && Open.Count > 0)
        {
            Problem = "Not closed yet: this is still open. Tick it, or say why the job is closed without it.";
        }
        return Request.IsHtmx() ? Partial("_Refit", this) : Page();
    }

    public async Task<IActionResult> OnPostAsync(string? item, bool done, CancellationToken cancel)
    {
        if (!await FindAsync(cancel) || Lines.All(l => l.Word != item))
        {
            return NotFound();
        }
        await ticks.TickAsync(Who, Number, TickStore.Refit, item!, null, done, clock.GetUtcNow(), cancel);
        await FindAsync(cancel);
        return Request.IsHtmx() ? Partial("_Refit", this) : Redirect($"/jobs/{Number}/refit");
    }

    public async Task<IActionResult> OnPostCloseAsync(string? reason, CancellationToken cancel)
    {
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        Reason = reason?.Trim();
        if (Open.Count > 0 && (string.IsNullOrEmpty(Reason) || Reason.Length > 1000))
        {
            Problem = "Say why the job is closed with this still open, or tick it first.";
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }
        await jobs.CloseAsync(Who, Number, clock.GetUtcNow(), Open.Count > 0 ? Reason : null, cancel);
        return Redirect("/");
    }

    private async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return false;
        }
        Lines = Refit;
        return true;
    }
}
