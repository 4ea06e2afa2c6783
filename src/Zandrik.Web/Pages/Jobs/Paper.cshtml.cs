using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Engines;
using Zandrik.Core.Preparation;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Network;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>One page for people who prefer paper, laid out as the screen is.</summary>
public sealed class PaperModel(Visitor visitor, WorkspaceStore workspaces, MachineNames names) : JobPage(visitor, workspaces)
{
    protected override string Step => "dry";

    public IReadOnlyList<PreparationLine> Lines { get; private set; } = [];

    public IReadOnlyList<IReadOnlyList<int>> Banks => CylinderLayout.Of(Job.Record.Engine).Banks;

    public string Address => $"{names.AddressFor(Request)}/jobs/{Number}/type-in";

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return NotFound();
        }
        Lines = PreparationList.For(Job.Record.Engine, Workshop);
        return Page();
    }
}
