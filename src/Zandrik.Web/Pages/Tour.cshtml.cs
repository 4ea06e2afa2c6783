using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Help;

namespace Zandrik.Web.Pages;

/// <summary>Begins the tour.</summary>
public sealed class TourModel(Visitor visitor, ImportStore imports) : PageModel
{
    public ShopPerson Who => visitor.Person;

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) =>
        await Tour.JobAsync(imports, Who, cancel) is { } job ? Redirect(Tour.Address(1, job)) : Page();
}
