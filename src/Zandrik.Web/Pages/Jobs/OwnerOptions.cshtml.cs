using Microsoft.AspNetCore.Mvc;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Reports;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>What was decided in plain words for the owner, with two or three options, on one printable page.</summary>
public sealed class OwnerOptionsModel(Visitor visitor, WorkspaceStore workspaces, DecisionStore decisions) : JobPage(visitor, workspaces)
{
    protected override string Step => "decide";

    /// <summary>What the owner is shown; absent while nothing is decided.</summary>
    public OwnersOptions? Options { get; private set; }

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) => await FindAsync(cancel) ? Page() : NotFound();

    /// <summary>The same as a PDF.</summary>
    public async Task<IActionResult> OnGetPdfAsync(CancellationToken cancel) =>
        await FindAsync(cancel) && Options is { } options ? File(OwnersOptionsPdf.Make(options), "application/pdf", $"zandrik-job-{Number:0000}-options.pdf") : NotFound();

    private async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return false;
        }
        var versions = await decisions.ListAsync(Who, Number, cancel);
        if (versions.Count > 0 && await decisions.FindAsync(Who, Number, versions[0].Version, cancel) is { } decided)
        {
            Options = OwnersOptions.Of(decided.Decided, Who.Shop, Number, Job.Title, Job.Record.Engine, ShopText.Day(decided.Line.At, Who), null);
        }
        return true;
    }
}
