using Microsoft.AspNetCore.Mvc;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Reports;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The job on one printable page, and as a PDF.</summary>
public sealed class SheetModel(Visitor visitor, WorkspaceStore workspaces, VerdictStore verdicts, TimeProvider clock) : JobPage(visitor, workspaces)
{
    protected override string Step => "sheet";

    public JobSheet Sheet { get; private set; } = null!;

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
        : File(JobSheetPdf.Make(await MakeAsync(cancel)), "application/pdf", $"zandrik-job-{Number:0000}.pdf");

    private async Task<JobSheet> MakeAsync(CancellationToken cancel) =>
        JobSheet.Of(Workspace.JobState, Who, clock.GetUtcNow(), Workspace.Verdict is { Stands: true } signed ? await verdicts.FindAsync(Who, Number, signed.Version, cancel) : null);
}
