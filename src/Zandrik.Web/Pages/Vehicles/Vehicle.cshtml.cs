using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Vehicles;

/// <summary>One vehicle: what it is known by, and every job on it.</summary>
public sealed class VehicleModel(Visitor visitor, VehicleStore vehicles, JobStore jobs) : PageModel
{
    private const int JobsOnAPage = 25;

    [BindProperty(SupportsGet = true)]
    public int Id { get; set; }

    [BindProperty(SupportsGet = true)]
    public int? After { get; set; }

    public ShopPerson Who => visitor.Person;

    public VehicleLine Vehicle { get; private set; } = null!;

    public IReadOnlyList<JobLine> Lines { get; private set; } = [];

    public bool More { get; private set; }

    public TypedFields Fields { get; } = new();

    [TempData]
    public string? Done { get; set; }

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) => await LoadAsync(cancel) ? Page() : NotFound();

    public async Task<IActionResult> OnPostAsync(string? label, string? identity, string? notes, CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return NotFound();
        }
        var name = Fields.Text(label, "label", 200);
        if (name is null)
        {
            Fields.Add("label", "Say what the shop calls it.");
        }
        var (known, about) = (Fields.Text(identity, "identity", 200), Fields.Text(notes, "notes", 4000));
        if (Fields.Problems.Count == 0 && !await vehicles.ChangeAsync(Who, Id, name!, known, about, cancel))
        {
            Fields.Add("label", "Another vehicle has that name.");
        }
        if (Fields.Problems.Count > 0)
        {
            Vehicle = Vehicle with { Label = label ?? "", Identity = identity, Notes = notes };
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }
        Done = "Kept.";
        return Redirect($"/vehicles/{Id}");
    }

    private async Task<bool> LoadAsync(CancellationToken cancel)
    {
        if (await vehicles.FindAsync(Who, Id, cancel) is not { } vehicle)
        {
            return false;
        }
        Vehicle = vehicle;
        (Lines, More) = await jobs.LinesAsync(Who, new JobFilter { Vehicle = Id, After = After }, JobsOnAPage, cancel);
        return true;
    }
}
