using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Vehicles;

/// <summary>One vehicle: what it is known by, and every job on it.</summary>
public sealed class VehicleModel(Visitor visitor, VehicleStore vehicles, EngineStore engines, JobStore jobs, TimeProvider clock) : PageModel
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

    /// <summary>The engines that sat in it, the latest first.</summary>
    public IReadOnlyList<EngineStay> Stays { get; private set; } = [];

    /// <summary>Engines that were measured in it, and never said to sit in it.</summary>
    public IReadOnlyList<(int Job, int Engine, string? Serial)> Strangers { get; private set; } = [];

    /// <summary>The day it is in the shop, as a date field wants it.</summary>
    public string Today => Written(ShopText.Today(clock, Who));

    // What was typed of a swap that was not kept.
    public int? SwapOut { get; private set; }
    public string? SwapIn { get; private set; }
    public string? SwapDay { get; private set; }

    /// <summary>Why the swap was not kept, with what to do; absent for none.</summary>
    public string? SwapRefused { get; private set; }

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
        Done = "Saved.";
        return Redirect($"/vehicles/{Id}");
    }

    /// <summary>An engine came out, another went in, or both.</summary>
    public async Task<IActionResult> OnPostSwapAsync(int? @out, string? @in, string? day, CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return NotFound();
        }
        (SwapOut, SwapIn, SwapDay) = (@out ?? 0, @in ?? "", day);
        var serial = Fields.Text(@in, "in", 200);
        var on = Fields.Day(day, "day");
        if (on is null && Fields.Problem("day") is null)
        {
            Fields.Add("day", "Pick a date.");
        }
        else if (on > ShopText.Today(clock, Who))
        {
            Fields.Add("day", "That date is in the future: record the swap once it is done.");
        }
        if (serial is null && @out is null && Fields.Problem("in") is null)
        {
            Fields.Add("in", "Enter what was fitted, or choose what was taken out.");
        }
        if (Fields.Problems.Count == 0)
        {
            var answer = await engines.SwapAsync(Who, Id, new EngineSwap(@out, serial, ShopText.Midnight(on!.Value, Who)), at => ShopText.Day(at, Who), cancel);
            if (!answer.Found)
            {
                return NotFound();
            }
            if (answer.Refused is null)
            {
                Done = "Swap saved.";
                return Redirect($"/vehicles/{Id}");
            }
            SwapRefused = answer.Refused;
        }
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return Page();
    }

    /// <summary>From when to when.</summary>
    public static string Span(EngineStay stay, ShopPerson who) => (stay.Since, stay.Until) switch
    {
        (null, null) => "fitted, date not known",
        ({ } since, null) => $"fitted since {ShopText.Day(since, who)}",
        (null, { } until) => $"fitted until {ShopText.Day(until, who)}",
        ({ } since, { } until) => $"fitted {ShopText.Day(since, who)} to {ShopText.Day(until, who)}",
    };

    private static string Written(DateOnly day) => day.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture);

    private async Task<bool> LoadAsync(CancellationToken cancel)
    {
        if (await vehicles.FindAsync(Who, Id, cancel) is not { } vehicle)
        {
            return false;
        }
        Vehicle = vehicle;
        (Stays, Strangers) = (await engines.OfVehicleAsync(Who, Id, cancel), await engines.StrangersAsync(Who, Id, cancel));
        (Lines, More) = await jobs.LinesAsync(Who, new JobFilter { Vehicle = Id, After = After }, JobsOnAPage, cancel);
        return true;
    }
}
