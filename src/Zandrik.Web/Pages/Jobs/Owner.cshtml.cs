using Zandrik.Core.Verdicts;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Reports;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The job in plain words for the owner of the vehicle, on one printable page, and as a PDF.</summary>
public sealed class OwnerModel(Visitor visitor, WorkspaceStore workspaces, VerdictStore verdicts, TimeProvider clock) : PrintedPage<OwnerSheet>(visitor, workspaces, verdicts)
{
    protected override string Step => "owner";

    protected override string FileWord => "-owner";

    protected override OwnerSheet Make(KeptVerdict? signed) => OwnerSheet.Of(Job, signed?.Snapshot ?? VerdictSnapshot.Of(Assessment), signed, Who, clock.GetUtcNow());

    protected override byte[] Pdf(OwnerSheet sheet) => OwnerSheetPdf.Make(sheet);
}
