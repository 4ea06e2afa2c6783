using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Verdicts;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Shop;

/// <summary>How often Zandrik and the people of the shop were right, fault by fault.</summary>
public sealed class OutcomesModel(Visitor visitor, VerdictStore verdicts) : PageModel
{
    public ShopOutcomes Outcomes { get; private set; } = new([], 0);

    public async Task OnGetAsync(CancellationToken cancel)
    {
        var (outcomes, diesels) = await verdicts.OutcomesAsync(visitor.Person, cancel);
        Outcomes = ShopOutcomes.Of(outcomes, diesels);
    }

    /// <summary>The same as a file.</summary>
    public async Task<IActionResult> OnGetExportAsync(CancellationToken cancel)
    {
        await OnGetAsync(cancel);
        return CsvAnswer.Of("outcomes", ["Found", "Whole engine", "Times", "Zandrik right", "We right", "Given on average, %"], Outcomes.Lines.Select(l => (IReadOnlyList<string?>)
            [FaultWords.Of(l.Fault), l.OfEngine ? "yes" : "no", TypedFields.Text(l.Found), TypedFields.Text(l.ProgramRight), TypedFields.Text(l.PeopleRight), TypedFields.Text(Math.Round(100 * l.MeanGiven))]));
    }
}
