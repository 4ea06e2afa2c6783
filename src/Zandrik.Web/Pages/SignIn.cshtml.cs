using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages;

/// <summary>The way in. In a demo it names the made-up accounts.</summary>
public sealed class SignInModel(SignInStore signIn, Authentication authentication, SecondFactor codes) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public string? Back { get; set; }

    public string? Login { get; private set; }

    public string? Problem { get; private set; }

    public bool Ready { get; private set; }

    public IReadOnlyList<DemoAccount> Demo { get; private set; } = [];

    public string DemoPassword => Preparation.DemoPassword;

    public async Task OnGetAsync(CancellationToken cancel) => await LookAsync(cancel);

    public async Task<IActionResult> OnPostAsync(string? login, string? password, CancellationToken cancel)
    {
        var (let, problem) = await authentication.CheckAsync(HttpContext, login, password, cancel);
        if (let is null)
        {
            (Login, Problem) = (login, problem);
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            await LookAsync(cancel);
            return Page();
        }
        if (let.Who.HasCode)
        {
            codes.Begin(HttpContext, let, login!.Trim().ToLowerInvariant());
            return Redirect($"/sign-in/code?back={Uri.EscapeDataString(Url.IsLocalUrl(Back) ? Back : "/")}");
        }
        await authentication.SignInAsync(HttpContext, let.Who, let.Stamp, login, cancel);
        return LocalRedirect(Url.IsLocalUrl(Back) ? Back : "/");
    }

    private async Task LookAsync(CancellationToken cancel)
    {
        Ready = await signIn.AnybodyCanSignInAsync(cancel);
        Demo = await signIn.DemoPeopleAsync(cancel);
    }
}
