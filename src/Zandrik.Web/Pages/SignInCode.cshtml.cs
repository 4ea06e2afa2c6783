using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Watching;

namespace Zandrik.Web.Pages;

/// <summary>The second half of the way in, where a person has one.</summary>
public sealed class SignInCodeModel(Authentication authentication, SecondFactor codes, AuditStore audit, ShopMeter meter) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public string? Back { get; set; }

    public string? Problem { get; private set; }

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) => await codes.HalfAsync(HttpContext, cancel) is null ? Redirect("/sign-in") : Page();

    public async Task<IActionResult> OnPostAsync(string? code, CancellationToken cancel)
    {
        if (await codes.HalfAsync(HttpContext, cancel) is not var (let, login))
        {
            // Five minutes went by, or the password is another: from the beginning.
            return Redirect($"/sign-in?back={Uri.EscapeDataString(Url.IsLocalUrl(Back) ? Back : "/")}");
        }
        if (await codes.ProblemAsync(let.Who, code, cancel) is { } problem)
        {
            meter.SignInFailed("code");
            // Somebody who knows the password: that is worth knowing.
            await audit.NoteAsync(let.Who, AuditStore.SignInFailed, $"as {let.Who.Person}, with the right password and a wrong code, from {Authentication.AddressOf(HttpContext)}", known: false, cancel);
            Problem = problem;
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }
        SecondFactor.End(HttpContext);
        await authentication.SignInAsync(HttpContext, let.Who, let.Stamp, login, cancel);
        return LocalRedirect(Url.IsLocalUrl(Back) ? Back : "/");
    }
}
