using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Vehicles;

/// <summary>The vehicles the shop has seen.</summary>
public sealed class IndexModel(Visitor visitor, VehicleStore vehicles, SearchStore finding) : PageModel
{
    private const int VehiclesOnAPage = 50;

    [BindProperty(SupportsGet = true)]
    public string? Q { get; set; }

    [BindProperty(SupportsGet = true)]
    public int? After { get; set; }

    public ShopPerson Who => visitor.Person;

    public IReadOnlyList<VehicleLine> Vehicles { get; private set; } = [];

    public bool More { get; private set; }

    public async Task OnGetAsync(CancellationToken cancel)
    {
        if (string.IsNullOrWhiteSpace(Q))
        {
            (Vehicles, More) = await vehicles.ListAsync(visitor.Person, After, VehiclesOnAPage, cancel);
        }
        else
        {
            Vehicles = (await finding.FindAsync(visitor.Person, Q, VehiclesOnAPage, cancel)).Vehicles;
        }
    }

    /// <summary>All vehicles as a file, as the import reads it.</summary>
    public async Task<IActionResult> OnGetExportAsync(CancellationToken cancel) => CsvAnswer.Of("vehicles", ["Vehicle", "Registration", "Engine", "Engine serial", "Notes"],
        (await vehicles.ExportAsync(Who, CsvAnswer.MostRows, cancel)).Select(v => (IReadOnlyList<string?>)[v.Label, v.Identity, v.Engine, v.Serial, v.Notes]));
}
