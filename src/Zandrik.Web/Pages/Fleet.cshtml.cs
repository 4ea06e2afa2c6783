using System.Globalization;
using System.Text;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Life;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages;

/// <summary>Every engine of the shop with what its life comes to: sorted, filtered, as a table and a calendar; and the rule by which engines are tested again.</summary>
public sealed class FleetModel(Visitor visitor, FleetStore fleet, LifeStore lives, TimeProvider clock) : PageModel
{
    private const int OnAPage = 50;

    [BindProperty(SupportsGet = true)]
    public string? Show { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? Sort { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? Q { get; set; }

    [BindProperty(SupportsGet = true)]
    public int From { get; set; }

    public ShopPerson Who => visitor.Person;

    public DateTimeOffset Now => clock.GetUtcNow();

    public PressureUnit Unit => ShopText.UnitOf(Who);

    public FleetShow Shown => RecordWords.TryParse<FleetShow>(Show, out var show) ? show : FleetShow.All;

    public FleetOrder Order => RecordWords.TryParse<FleetOrder>(Sort, out var order) ? order : FleetOrder.Due;

    public FleetPage Listed { get; private set; } = new([], 0, 0);

    public int PageSize => OnAPage;

    public RetestRule Rule { get; private set; } = RetestRule.Usual;

    public IReadOnlyList<(int Id, DateTimeOffset At, string By)> Feeds { get; private set; } = [];

    public TypedFields Fields { get; } = new();

    /// <summary>What was typed of the rule: months, km, hours; as it is kept where nothing was.</summary>
    public IReadOnlyList<string?> Typed { get; private set; } = [];

    [TempData]
    public string? Done { get; set; }

    /// <summary>An address that was just made: it is shown once.</summary>
    [TempData]
    public string? NewFeed { get; set; }

    /// <summary>The address of this list, changed in one place.</summary>
    public string Address(string? show = null, string? sort = null, int from = 0) => "/fleet?" + string.Join('&', new[]
    {
        ("show", show ?? Show), ("sort", sort ?? Sort), ("q", Q), ("from", from == 0 ? null : from.ToString(CultureInfo.InvariantCulture)),
    }.Where(p => !string.IsNullOrEmpty(p.Item2)).Select(p => $"{p.Item1}={Uri.EscapeDataString(p.Item2!)}"));

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        await LoadAsync(cancel);
        return Page();
    }

    /// <summary>The list as it is filtered and sorted, as a file.</summary>
    public async Task<IActionResult> OnGetExportAsync(CancellationToken cancel)
    {
        while (await fleet.RefreshAsync(Who, cancel: cancel) > 0)
        {
            cancel.ThrowIfCancellationRequested();
        }
        var page = await fleet.ListAsync(Who, Shown, Order, Q, Now, 0, CsvAnswer.MostRows, cancel);
        var unit = Unit.Symbol();
        return CsvAnswer.Of("fleet",
            ["Vehicle", "Serial", "Engine", "Tests", "Last test", "Lowest cylinder", $"Lowest, {unit}", "Over the minimum, %", "Change in 1000 km or 40 h, %", "Run at the last test", "Run unit", "Retest", "Why", "Until the minimum (median)", "Undecided"],
            page.Lines.Select(l => (IReadOnlyList<string?>)
            [
                l.Vehicle, l.Serial, l.Design, TypedFields.Text(l.Tests), l.TestedAt is { } at ? ShopText.Day(at, Who) : null, TypedFields.Text(l.Cylinder), l.LowestPa is { } pa ? GaugePressure.Figure(pa, Unit) : null,
                TypedFields.Text(l.Margin is { } m ? Math.Round(100 * m, 1) : null), TypedFields.Text(l.PerStep is { } s ? Math.Round(100 * s, 3) : null), TypedFields.Text(l.Run is { } run ? Math.Round(LifeText.In(run, l.CountsIn)) : null), RecordWords.Of(l.CountsIn),
                l.Due is { } due ? ShopText.Day(due, Who) : null, Why(l), TypedFields.Text(l.Meets is { } meets ? Math.Round(LifeText.In(meets, l.CountsIn)) : null), l.Undecided ? "yes" : "no",
            ]));
    }

    /// <summary>What is due, of all engines or of one, as a file for a calendar.</summary>
    public async Task<IActionResult> OnGetCalendarAsync(int? engine, CancellationToken cancel)
    {
        await fleet.RefreshAsync(Who, cancel: cancel);
        var due = (await fleet.DueAsync(Who, Now.AddYears(5), CsvAnswer.MostRows, cancel)).Where(l => engine is null || l.Engine == engine);
        return File(Encoding.UTF8.GetBytes(RetestCalendar.Of(due, Who, Now, $"{Request.Scheme}://{Request.Host}")), "text/calendar", "zandrik-retests.ics");
    }

    /// <summary>How many are due, for the bays; nothing where none is.</summary>
    public async Task<IActionResult> OnGetReminderAsync(CancellationToken cancel)
    {
        await fleet.RefreshAsync(Who, cancel: cancel);
        var due = (await fleet.DueAsync(Who, Now.AddDays(14), CsvAnswer.MostRows, cancel)).Count;
        return Content(due == 0 ? "" : $"<a class=\"due-note\" href=\"/fleet?show=due\" data-due>{due.ToString(CultureInfo.InvariantCulture)} {(due == 1 ? "retest" : "retests")} due</a>", "text/html; charset=utf-8");
    }

    /// <summary>Changes when engines are tested again.</summary>
    public async Task<IActionResult> OnPostRuleAsync(string? months, string? km, string? hours, CancellationToken cancel)
    {
        if (!Who.MayManage)
        {
            return StatusCode(StatusCodes.Status403Forbidden);
        }
        var (m, k, h) = (Fields.Whole(months, "months", 1, 120), Fields.Number(km, "km", 100, 1_000_000), Fields.Number(hours, "hours", 1, 100_000));
        foreach (var (field, missing) in new[] { ("months", m is null), ("km", k is null), ("hours", h is null) }.Where(f => f.Item2))
        {
            Fields.Add(field, "Write a number: it holds for every engine of the shop.");
        }
        if (Fields.Problems.Count > 0)
        {
            Typed = [months, km, hours];
            await LoadAsync(cancel);
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }
        await lives.ChangeRuleAsync(Who, new RetestRule(m!.Value, k!.Value, h!.Value), cancel);
        Done = "Saved. Due dates follow it.";
        return Redirect("/fleet");
    }

    /// <summary>Makes a secret address for the calendar.</summary>
    public async Task<IActionResult> OnPostFeedAsync(CancellationToken cancel)
    {
        if (!Who.MayManage)
        {
            return StatusCode(StatusCodes.Status403Forbidden);
        }
        NewFeed = $"{Request.Scheme}://{Request.Host}{RetestCalendar.Address(await fleet.MakeFeedAsync(Who, Now, cancel))}";
        Done = "The calendar’s address is made. It is shown this once.";
        return Redirect("/fleet#calendar-title");
    }

    /// <summary>Ends an address.</summary>
    public async Task<IActionResult> OnPostRevokeAsync(int feed, CancellationToken cancel)
    {
        if (!Who.MayManage)
        {
            return StatusCode(StatusCodes.Status403Forbidden);
        }
        if (!await fleet.RevokeFeedAsync(Who, feed, Now, cancel))
        {
            return NotFound();
        }
        Done = "Revoked: the address opens nothing any more.";
        return Redirect("/fleet#calendar-title");
    }

    /// <summary>Why an engine is tested again when it is.</summary>
    public static string Why(FleetLine line) => RecordWords.TryParse<RetestWhy>(line.Why, out var why) ? LifeText.Why(why) : "";

    private async Task LoadAsync(CancellationToken cancel)
    {
        Task<FleetPage> ListAsync() => fleet.ListAsync(Who, Shown, Order, Q, Now, Math.Max(0, From), OnAPage, cancel);
        Listed = await ListAsync();
        if (Listed.Stale > 0)
        {
            await fleet.RefreshAsync(Who, cancel: cancel);
            Listed = await ListAsync();
        }
        Rule = await lives.RuleAsync(Who, cancel);
        Typed = Typed.Count > 0 ? Typed : [TypedFields.Text(Rule.Months), TypedFields.Text(Rule.Km), TypedFields.Text(Rule.Hours)];
        Feeds = Who.MayManage ? await fleet.FeedsAsync(Who, cancel) : [];
    }
}
