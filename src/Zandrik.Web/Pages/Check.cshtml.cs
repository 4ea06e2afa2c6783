using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;

namespace Zandrik.Web.Pages;

/// <summary>Tells from the check code of a sheet for buying or selling whether it is genuine, and shows it as it was handed out. Open to anybody who has a code.</summary>
public sealed class CheckModel(SellingStore selling) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public string? Code { get; set; }

    /// <summary>What the code tells; absent where no sheet has it, or none was typed.</summary>
    public CheckedSheet? Found { get; private set; }

    /// <summary>True where something was typed.</summary>
    public bool IsAsked => !string.IsNullOrWhiteSpace(Code);

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Found = Code?.Length > 100 ? null : await selling.CheckAsync(Code, cancel);
        Response.Headers["X-Robots-Tag"] = "noindex, nofollow";
        Response.Headers["Referrer-Policy"] = "no-referrer";
        if (IsAsked && Found is null)
        {
            Response.StatusCode = StatusCodes.Status404NotFound;
        }
    }
}
