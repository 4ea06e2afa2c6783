using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Testers;

/// <summary>The shop's gauges, leak-down testers and clamps.</summary>
public sealed class IndexModel(Visitor visitor, TesterStore testers, TimeProvider clock) : PageModel
{
    public ShopPerson Who => visitor.Person;

    public IReadOnlyList<KeptTester> Testers { get; private set; } = [];

    public DateOnly Today => ShopText.Today(clock, Who);

    public async Task OnGetAsync(CancellationToken cancel) => Testers = await testers.ListAsync(Who, cancel);

    /// <summary>All testers as a file.</summary>
    public async Task<IActionResult> OnGetExportAsync(CancellationToken cancel) => CsvAnswer.Of("testers",
        ["Tester", "Kind", "Full scale", "Unit", "Check valve", "Hose, ml", "Adapter, ml", "Restriction, mm", "Clamp, mV/A", "Checked on", "Checked by", "Check every, months", "Archived", "Notes"],
        (await testers.ListAsync(Who, cancel)).Select(k => (Kept: k, k.Tester)).Select(x => (IReadOnlyList<string?>)
        [
            x.Tester.Label, ShopText.TesterKind(x.Tester.Kind), TypedFields.Text(x.Tester.FullScale), x.Tester.Unit.Symbol(), x.Tester.CheckValve is { } valve ? RecordWords.Of(valve).Replace('-', ' ') : null,
            TypedFields.Text(x.Tester.HoseMl), TypedFields.Text(x.Tester.AdapterMl), TypedFields.Text(x.Tester.RestrictionMm), TypedFields.Text(x.Tester.MilliVoltsPerAmp),
            x.Tester.CheckedOn is { } day ? ShopText.Day(day, Who) : null, x.Tester.CheckedBy, TypedFields.Text(x.Tester.CheckEveryMonths), x.Kept.RetiredAt is { } at ? ShopText.Day(at, Who) : null, x.Tester.Notes,
        ]));
}
