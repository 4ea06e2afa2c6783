using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Life;
using Zandrik.Core.Verdicts;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Shop;

/// <summary>How often Zandrik and the people of the shop were right, fault by fault.</summary>
public sealed class OutcomesModel(Visitor visitor, VerdictStore verdicts, RepairStore repairs) : PageModel
{
    public ShopOutcomes Outcomes { get; private set; } = new([], 0);

    /// <summary>How repairs went: hours planned against taken, and whether they were right.</summary>
    public IReadOnlyList<RepairLine> Repairs { get; private set; } = [];

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Repairs = RepairLine.Of(await repairs.OutcomesAsync(visitor.Person, cancel));
        var (outcomes, diesels) = await verdicts.OutcomesAsync(visitor.Person, cancel);
        Outcomes = ShopOutcomes.Of(outcomes, diesels);
    }

    /// <summary>How repairs went, as a file.</summary>
    public async Task<IActionResult> OnGetRepairsAsync(CancellationToken cancel)
    {
        await OnGetAsync(cancel);
        return CsvAnswer.Of("repairs", ["Repair", "Times", "Right", "Not right", "Planned and counted", "Planned, minutes", "Taken, minutes", "Within low and high"], Repairs.Select(r => (IReadOnlyList<string?>)
            [r.Title, TypedFields.Text(r.Times), TypedFields.Text(r.Right), TypedFields.Text(r.Wrong), TypedFields.Text(r.Counted), TypedFields.Text(r.PlannedMinutes is { } p ? Math.Round(p) : null), TypedFields.Text(r.TakenMinutes is { } t ? Math.Round(t) : null), TypedFields.Text(r.Within)]));
    }

    /// <summary>The same as a file.</summary>
    public async Task<IActionResult> OnGetExportAsync(CancellationToken cancel)
    {
        await OnGetAsync(cancel);
        return CsvAnswer.Of("outcomes", ["Found", "Whole engine", "Times", "Zandrik right", "We right", "Given on average, %"], Outcomes.Lines.Select(l => (IReadOnlyList<string?>)
            [FaultWords.Of(l.Fault), l.OfEngine ? "yes" : "no", TypedFields.Text(l.Found), TypedFields.Text(l.ProgramRight), TypedFields.Text(l.PeopleRight), TypedFields.Text(Math.Round(100 * l.MeanGiven))]));
    }
}
