using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Planning;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The plan: which tests, in which order and why, with tools and minutes.</summary>
public sealed class PlanModel(Visitor visitor, WorkspaceStore workspaces) : JobPage(visitor, workspaces)
{
    protected override string Step => "plan";

    public IReadOnlyList<PlanStep> Plan { get; private set; } = [];

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return NotFound();
        }
        Plan = Assessment.Plan;
        return Page();
    }
}
