using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Records;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Network;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>Labels for plugs, coils and leads; the code on each opens the job at that cylinder.</summary>
public sealed class LabelsModel(Visitor visitor, WorkspaceStore workspaces, MachineNames names) : JobPage(visitor, workspaces)
{
    protected override string Step => "prepare";

    /// <summary>The parts that are labelled on this engine.</summary>
    public IReadOnlyList<string> Parts => Job.Record.Engine.Fuel == Fuel.Diesel ? ["Glow plug", "Injector lead"] : ["Plug", "Coil", "Lead"];

    [BindProperty(SupportsGet = true)]
    public List<string> Part { get; set; } = [];

    public string At(int cylinder) => $"{names.AddressFor(Request)}/jobs/{Number}/dry?cylinder={cylinder}";

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return NotFound();
        }
        Part = [.. Parts.Where(p => Part.Count == 0 || Part.Contains(p))];
        return Page();
    }
}
