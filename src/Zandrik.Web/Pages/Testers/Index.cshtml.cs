using Microsoft.AspNetCore.Mvc.RazorPages;
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
}
