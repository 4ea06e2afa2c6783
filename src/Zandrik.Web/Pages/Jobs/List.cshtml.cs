using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>Every job of the shop, newest first, with filters.</summary>
public sealed class ListModel(Visitor visitor, JobStore jobs, PeopleStore people, SearchStore finding, TimeProvider clock) : PageModel
{
    private const int JobsOnAPage = 50;

    [BindProperty(SupportsGet = true)]
    public string? State { get; set; }

    [BindProperty(SupportsGet = true)]
    public int? By { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? From { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? To { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? Q { get; set; }

    [BindProperty(SupportsGet = true)]
    public int? After { get; set; }

    public ShopPerson Who => visitor.Person;

    public TypedFields Fields { get; } = new();

    public IReadOnlyList<Colleague> People { get; private set; } = [];

    public IReadOnlyList<JobLine> Lines { get; private set; } = [];

    public bool More { get; private set; }

    /// <summary>The address of a page of this list.</summary>
    public string Address(int? after) => "/jobs?" + string.Join('&', new[]
    {
        ("state", State), ("by", By?.ToString(System.Globalization.CultureInfo.InvariantCulture)), ("from", From), ("to", To), ("q", Q),
        ("after", after?.ToString(System.Globalization.CultureInfo.InvariantCulture)),
    }.Where(p => !string.IsNullOrEmpty(p.Item2)).Select(p => $"{p.Item1}={Uri.EscapeDataString(p.Item2!)}"));

    public Task OnGetAsync(CancellationToken cancel) => LookAsync(JobsOnAPage, cancel);

    /// <summary>The jobs of the list, filtered as it is, as a file.</summary>
    public async Task<IActionResult> OnGetExportAsync(CancellationToken cancel)
    {
        After = null;
        await LookAsync(CsvAnswer.MostRows, cancel);
        return CsvAnswer.Of("jobs", ["Job", "Vehicle", "Engine", "Complaint", "Odometer", "Odometer unit", "Opened", "Opened by", "Closed"], Lines.Select(l => (IReadOnlyList<string?>)
        [
            l.Number.ToString("0000", System.Globalization.CultureInfo.InvariantCulture), l.Vehicle, l.Engine, l.Complaint, TypedFields.Text(l.Odometer), l.OdometerUnit,
            ShopText.Time(l.OpenedAt, Who), l.OpenedBy, l.ClosedAt is { } closed ? ShopText.Time(closed, Who) : null,
        ]));
    }

    private async Task LookAsync(int most, CancellationToken cancel)
    {
        People = await people.ListAsync(Who, clock.GetUtcNow(), cancel);
        if (!string.IsNullOrWhiteSpace(Q))
        {
            // A search has its own order of finding; what else was chosen is held against what it found.
            var found = (await finding.FindAsync(Who, Q, most, cancel)).Jobs;
            var name = People.FirstOrDefault(p => p.Id == By)?.Name;
            Lines = [.. found.Where(l => (State switch { "open" => l.ClosedAt is null, "closed" => l.ClosedAt is not null, _ => true }) && (By is null || l.OpenedBy == name))];
            return;
        }
        var (from, to) = (Fields.Day(From, "from"), Fields.Day(To, "to"));
        (Lines, More) = await jobs.LinesAsync(Who, new JobFilter
        {
            Open = State switch { "open" => true, "closed" => false, _ => null },
            OpenedBy = By,
            From = from is { } f ? ShopText.Midnight(f, Who) : null,
            To = to is { } t ? ShopText.Midnight(t.AddDays(1), Who) : null,
            After = After,
        }, most, cancel);
    }
}
