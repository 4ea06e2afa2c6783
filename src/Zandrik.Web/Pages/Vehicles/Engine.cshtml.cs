using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Life;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Vehicles;

/// <summary>One engine: how it stands and how it wears, every test of it in whatever vehicle, what was done on it, when it is tested again; what it is known by and where it sat.</summary>
public sealed class EngineModel(Visitor visitor, EngineStore engines, LifeStore lives, SheetStore sheets, JobStore jobs, TimeProvider clock) : PageModel
{
    private const int JobsOnAPage = 25;
    private const int MostSheets = 500;

    [BindProperty(SupportsGet = true)]
    public int Id { get; set; }

    [BindProperty(SupportsGet = true)]
    public int? After { get; set; }

    /// <summary>Over what it is drawn: <c>time</c>, else distance or hours.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Over { get; set; }

    /// <summary>What is drawn: <c>leak-down</c>, else compression.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Show { get; set; }

    /// <summary>True for every test in the table; else the latest.</summary>
    [BindProperty(SupportsGet = true)]
    public bool All { get; set; }

    /// <summary>So many tests stand in the table, and are offered to be compared, until somebody asks for all.</summary>
    public const int Latest = 30;

    public ShopPerson Who => visitor.Person;

    public KeptEngine Engine { get; private set; } = null!;

    public KeptLife Kept { get; private set; } = null!;

    public EngineLife Life => Kept.Life;

    public DateTimeOffset Now => clock.GetUtcNow();

    public PressureUnit Unit => ShopText.UnitOf(Who);

    /// <summary>True where leak-down is drawn.</summary>
    public bool IsLeak => Show == "leak-down" && Life.Tests.Any(t => t.Kind == TestKind.LeakDown);

    /// <summary>True where there is something to draw.</summary>
    public bool CanDraw => Life.Tests.Any(t => t.Kind == (IsLeak ? TestKind.LeakDown : TestKind.Dry) && t.Values.Values.Any(v => v > 0));

    /// <summary>Jobs whose odometer nobody could use, that nobody has answered for.</summary>
    public IReadOnlyList<(LifeJob Job, RunDoubt Doubt)> Doubts => [.. Kept.Jobs.Select(j => (Job: j, Doubt: Life.DoubtOf(j.Number))).Where(j => j.Doubt is RunDoubt.Backwards or RunDoubt.OtherUnit && !j.Job.IsConfirmed)];

    /// <summary>The test of each kind before the latest, and the latest: what most people compare.</summary>
    public (long First, long Second)? Usual => Life.Tests.Where(t => t.Kind == TestKind.Dry).TakeLast(2).ToList() is [var before, var last] ? (before.Id, last.Id) : null;

    public string? Serial { get; private set; }

    public string? Notes { get; private set; }

    public IReadOnlyList<SheetLine> Sheets { get; private set; } = [];

    public IReadOnlyList<JobLine> Lines { get; private set; } = [];

    public bool More { get; private set; }

    public TypedFields Fields { get; } = new();

    [TempData]
    public string? Done { get; set; }

    public string Address => $"/vehicles/engines/{Id}";

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
        return Redirect(Address);
    }

    /// <summary>Says of a job's odometer that it was changed before, or that its figure is right.</summary>
    public async Task<IActionResult> OnPostOdometerAsync(int job, bool replaced, CancellationToken cancel)
    {
        if (!await LoadAsync(cancel) || Kept.Jobs.All(j => j.Number != job) || !await lives.SayOdometerAsync(Who, job, replaced, Now, cancel))
        {
            return NotFound();
        }
        Done = replaced ? "Saved: the distance goes on from where the old one was." : "Saved: the figure stays as it was written, and is not used for the distance.";
        return Redirect(Address);
    }

    /// <summary>Says that it left the shop's care, or that it is back.</summary>
    public async Task<IActionResult> OnPostGoneAsync(string? where, string? day, CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return NotFound();
        }
        var gone = Fields.Word<EngineGone>(where, "where");
        var on = Fields.Day(day, "gone-day");
        if (on > ShopText.Today(clock, Who))
        {
            Fields.Add("gone-day", "That day has not come yet.");
        }
        if (Fields.Problems.Count > 0)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }
        await lives.SayGoneAsync(Who, Id, gone, on is { } then ? ShopText.Midnight(then, Who) : Now, cancel);
        Done = gone is null ? "Back in the shop’s care." : "Saved: nothing is due on it any more.";
        return Redirect(Address);
    }

    private async Task<bool> LoadAsync(CancellationToken cancel)
    {
        if (await engines.FindAsync(Who, Id, cancel) is not { } engine || await lives.FindAsync(Who, Id, cancel) is not { } life)
        {
            return false;
        }
        (Engine, Kept, Serial, Notes) = (engine, life, engine.Serial, engine.Notes);
        (Sheets, _) = await sheets.ListAsync(Who, null, MostSheets, cancel);
        (Lines, More) = await jobs.LinesAsync(Who, new JobFilter { Engine = Id, After = After }, JobsOnAPage, cancel);
        return true;
    }
}
