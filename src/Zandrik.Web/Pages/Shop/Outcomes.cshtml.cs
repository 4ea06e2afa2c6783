using Microsoft.AspNetCore.Mvc.RazorPages;
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
}
