using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Vehicles;

/// <summary>One engine: what it is known by, where it sat, and every job on it in whatever vehicle.</summary>
public sealed class EngineModel(Visitor visitor, EngineStore engines, SheetStore sheets, JobStore jobs) : PageModel
{
    private const int JobsOnAPage = 25;
    private const int MostSheets = 500;

    [BindProperty(SupportsGet = true)]
    public int Id { get; set; }

    [BindProperty(SupportsGet = true)]
    public int? After { get; set; }

    public ShopPerson Who => visitor.Person;

    public KeptEngine Engine { get; private set; } = null!;

    public string? Serial { get; private set; }

    public string? Notes { get; private set; }

    public IReadOnlyList<SheetLine> Sheets { get; private set; } = [];

    public IReadOnlyList<JobLine> Lines { get; private set; } = [];

    public bool More { get; private set; }

    public TypedFields Fields { get; } = new();

    [TempData]
    public string? Done { get; set; }

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) => await LoadAsync(cancel) ? Page() : NotFound();

    public async Task<IActionResult> OnPostAsync(string? serial, int? sheet, string? notes, CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return NotFound();
        }
        var (number, about) = (Fields.Text(serial, "serial", 200), Fields.Text(notes, "notes", 4000));
        if (Fields.Problems.Count == 0 && !await engines.ChangeAsync(Who, Id, number, sheet, about, cancel))
        {
            Fields.Add("serial", "Another engine has that number.");
        }
        if (Fields.Problems.Count > 0)
        {
            (Serial, Notes) = (serial, notes);
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }
        Done = "Saved.";
        return Redirect($"/vehicles/engines/{Id}");
    }

    private async Task<bool> LoadAsync(CancellationToken cancel)
    {
        if (await engines.FindAsync(Who, Id, cancel) is not { } engine)
        {
            return false;
        }
        (Engine, Serial, Notes) = (engine, engine.Serial, engine.Notes);
        (Sheets, _) = await sheets.ListAsync(Who, null, MostSheets, cancel);
        (Lines, More) = await jobs.LinesAsync(Who, new JobFilter { Engine = Id, After = After }, JobsOnAPage, cancel);
        return true;
    }
}
