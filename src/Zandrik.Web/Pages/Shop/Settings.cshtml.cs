using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Shop;

/// <summary>The shop's settings.</summary>
[ForemanOnly]
public sealed class SettingsModel(Visitor visitor, PeopleStore people) : PageModel
{
    [BindProperty]
    public SettingsForm Form { get; set; } = new();

    [TempData]
    public string? Done { get; set; }

    public TypedFields Fields { get; } = new();

    public string? Problem(string field) => Fields.Problem(field);

    /// <summary>Names of time zones, for the list.</summary>
    public static IReadOnlyList<string> TimeZones { get; } =
        [.. TimeZoneInfo.GetSystemTimeZones().Select(z => z.Id).Where(id => id.Contains('/', StringComparison.Ordinal)).Order(StringComparer.Ordinal)];

    /// <summary>The trade's limits of a method, as they stand in an empty field.</summary>
    public static (string Good, string Marginal, string Unit) Usual(string method)
    {
        var s = RecordWords.Parse(method, SpreadMethod.PercentOfHighest);
        var limits = JudgingRules.For(new EngineSheet { Cylinders = 1 }).LimitsOf(s);
        string Text(double value) => value.ToString("0.#", CultureInfo.CurrentCulture);
        return s == SpreadMethod.FixedPressure
            ? (Text(limits.Good / PressureUnit.Psi.Pascals()), Text(limits.Marginal / PressureUnit.Psi.Pascals()), "psi")
            : (Text(100 * limits.Good), Text(100 * limits.Marginal), s == SpreadMethod.MakerDifference ? "% of the maker's" : "%");
    }

    public void OnGet() => Form = SettingsForm.Of(visitor.Person);

    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        var who = visitor.Person;
        var settings = Form.Read(Fields);
        if (Fields.Problems.Count > 0)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }
        var unit = RecordWords.Parse(Form.Unit, PressureUnit.Psi);
        await people.SetSettingsAsync(who, Form.Name!.Trim(), Form.TimeZone!.Trim(), unit, settings, cancel);
        Done = "Saved. Jobs opened from now on are judged by this.";
        return Redirect("/shop");
    }
}
