using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Verdicts;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Reports;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The job in plain words for the owner of the vehicle, on one printable page, and as a PDF.</summary>
public sealed class OwnerModel(Visitor visitor, WorkspaceStore workspaces, VerdictStore verdicts, TimeProvider clock) : JobPage(visitor, workspaces)
{
    protected override string Step => "owner";

    public OwnerSheet Sheet { get; private set; } = null!;

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return NotFound();
        }
        Sheet = await MakeAsync(cancel);
        return Page();
    }

    public async Task<IActionResult> OnGetPdfAsync(CancellationToken cancel) => !await LoadAsync(cancel)
        ? NotFound()
        : File(OwnerSheetPdf.Make(await MakeAsync(cancel)), "application/pdf", $"zandrik-job-{Number:0000}-owner.pdf");

    private async Task<OwnerSheet> MakeAsync(CancellationToken cancel)
    {
        var signed = Workspace.Verdict is { Stands: true } line ? await verdicts.FindAsync(Who, Number, line.Version, cancel) : null;
        return OwnerSheet.Of(Job, signed?.Snapshot ?? VerdictSnapshot.Of(Assessment), signed, Who, clock.GetUtcNow());
    }
}
