using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Help;

namespace Zandrik.Web.Pages.Help;

/// <summary>Every page of help, and a search through them.</summary>
public sealed class IndexModel(Visitor visitor, ImportStore imports) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public string? Q { get; set; }

    public IReadOnlyList<HelpTopic> Found { get; private set; } = [];

    public bool HasTour { get; private set; }

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Found = HelpTopic.Find(Q?.Length > 100 ? Q[..100] : Q);
        HasTour = await Tour.JobAsync(imports, visitor.Person, cancel) is not null;
    }
}
