using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Reports;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The job on one printable page, and as a PDF.</summary>
public sealed class SheetModel(Visitor visitor, WorkspaceStore workspaces, VerdictStore verdicts, TimeProvider clock) : PrintedPage<JobSheet>(visitor, workspaces, verdicts)
{
    protected override string Step => "sheet";

    protected override JobSheet Make(KeptVerdict? signed) => JobSheet.Of(Workspace.JobState, Who, clock.GetUtcNow(), signed);

    protected override byte[] Pdf(JobSheet sheet) => JobSheetPdf.Make(sheet);
}
