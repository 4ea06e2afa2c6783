using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages;

/// <summary>Finds jobs, vehicles and engines again, as one types.</summary>
public sealed class SearchModel(Visitor visitor, SearchStore finding) : PageModel
{
    private const int MostOfEach = 8;

    [BindProperty(SupportsGet = true)]
    public string? Q { get; set; }

    public ShopPerson Who => visitor.Person;

    public Found Found { get; private set; } = new([], [], [], []);

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        Found = await finding.FindAsync(Who, Q ?? "", MostOfEach, cancel);
        return Request.IsHtmx() ? Partial("_Found", this) : Page();
    }
}
