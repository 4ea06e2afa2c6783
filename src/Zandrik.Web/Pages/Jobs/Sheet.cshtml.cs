using Microsoft.AspNetCore.Mvc;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Reports;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The job on one printable page, and as a PDF.</summary>
public sealed class SheetModel(Visitor visitor, WorkspaceStore workspaces, TimeProvider clock) : JobPage(visitor, workspaces)
{
    protected override string Step => "sheet";

    public JobSheet Sheet { get; private set; } = null!;

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return NotFound();
        }
        Sheet = JobSheet.Of(Job, Who, clock.GetUtcNow());
        return Page();
    }

    public async Task<IActionResult> OnGetPdfAsync(CancellationToken cancel) => !await LoadAsync(cancel)
        ? NotFound()
        : File(JobSheetPdf.Make(JobSheet.Of(Job, Who, clock.GetUtcNow())), "application/pdf", $"zandrik-job-{Number:0000}.pdf");
}
