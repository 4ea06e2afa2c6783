using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Reports;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Reports;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The sheet for buying or selling: as it would be now, and those that were handed out with their check codes.</summary>
public sealed class SellingModel(Visitor visitor, WorkspaceStore workspaces, VerdictStore verdicts, RepairStore repairs, SellingStore selling, TimeProvider clock) : JobPage(visitor, workspaces)
{
    /// <summary>A sheet that was handed out; absent for the one as it would be now.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Version { get; set; }

    protected override string Step => "sheet";

    /// <summary>The sheet that is shown.</summary>
    public SellingSheet Sheet { get; private set; } = null!;

    /// <summary>Its check code; absent while it is not made.</summary>
    public string? Code { get; private set; }

    /// <summary>The sheets that were made, the latest first.</summary>
    public IReadOnlyList<SellingLine> Made { get; private set; } = [];

    [TempData]
    public string? Done { get; set; }

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) => await FindAsync(cancel) ? Page() : NotFound();

    public async Task<IActionResult> OnGetPdfAsync(CancellationToken cancel) =>
        await FindAsync(cancel) && Code is { } code ? File(SellingSheetPdf.Make(Sheet, code), "application/pdf", $"zandrik-job-{Number:0000}-selling-{Version}.pdf") : NotFound();

    /// <summary>Makes it, with a code.</summary>
    public async Task<IActionResult> OnPostAsync(string? entry, CancellationToken cancel)
    {
        Version = null;
        if (!await FindAsync(cancel) || await selling.MakeAsync(Who, Number, Sheet, EntryKey.Of($"selling|{Number}|{entry}"), clock.GetUtcNow(), cancel) is not { } version)
        {
            return NotFound();
        }
        Done = "Created and locked: later readings do not change it.";
        return Redirect($"/jobs/{Number}/selling?version={version}");
    }

    private async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return false;
        }
        Made = await selling.ListAsync(Who, Number, cancel);
        if (Version is { } version)
        {
            if (await selling.FindAsync(Who, Number, version, cancel) is not { } kept)
            {
                return false;
            }
            (Sheet, Code) = (kept.Sheet, kept.Line.Code);
            return true;
        }
        Sheet = SellingText.Of(Workspace, Workspace.Verdict is { Stands: true } signed ? await verdicts.FindAsync(Who, Number, signed.Version, cancel) : null, Who, clock.GetUtcNow(), await repairs.ListAsync(Who, Number, cancel));
        return true;
    }
}
