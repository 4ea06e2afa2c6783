using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages;

/// <summary>A person's own sign-in: out, out everywhere, a new password.</summary>
[OpenToViewers]
public sealed class AccountModel(Visitor visitor, PeopleStore people, SignInStore signIn, Authentication authentication, TimeProvider clock) : PageModel
{
    private readonly Dictionary<string, string> problems = [];

    public ShopPerson Who => visitor.Person;

    [TempData]
    public string? Done { get; set; }

    public string? Problem(string field) => problems.GetValueOrDefault(field);

    /// <summary>Where the person is signed in, the latest used first.</summary>
    public IReadOnlyList<SessionLine> Sessions { get; private set; } = [];

    /// <summary>The session of this device.</summary>
    public Guid Here => SessionMiddleware.SessionOf(HttpContext);

    public async Task OnGetAsync(CancellationToken cancel) => Sessions = await signIn.SessionsAsync(Who, clock.GetUtcNow(), cancel);

    public async Task<IActionResult> OnPostEndAsync(Guid session, CancellationToken cancel)
    {
        Done = await signIn.EndSessionAsync(Who, session, clock.GetUtcNow(), cancel) ? "That device is signed out." : "That device was signed out before.";
        return Redirect("/account");
    }

    public async Task<IActionResult> OnPostOutAsync(CancellationToken cancel)
    {
        // Ended in the database: a copy of the cookie opens nothing any more.
        await signIn.EndSessionAsync(Who, Here, clock.GetUtcNow(), cancel);
        await HttpContext.SignOutAsync();
        return Redirect("/sign-in");
    }

    public async Task<IActionResult> OnPostEverywhereAsync(CancellationToken cancel)
    {
        await people.SignOutEverywhereAsync(Who, cancel);
        await HttpContext.SignOutAsync();
        return Redirect("/sign-in");
    }

    public async Task<IActionResult> OnPostPasswordAsync(string? old, string? password, string? again, CancellationToken cancel)
    {
        var login = await people.LoginOfAsync(Who, cancel);
        if (await authentication.OwnPasswordProblemAsync(HttpContext, login, old, cancel) is { } problem)
        {
            problems["old"] = problem;
        }
        if (PasswordRules.Objection(password, login, Who.Person, Who.Shop) is { } objection)
        {
            problems["password"] = objection;
        }
        else if (password != again)
        {
            problems["again"] = "The two are not the same.";
        }
        if (problems.Count > 0)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            await OnGetAsync(cancel);
            return Page();
        }
        await authentication.SignInAsync(HttpContext, Who, await people.ChangePasswordAsync(Who, Authentication.HashPassword(password!), cancel), login, cancel);
        Done = "Your password is changed. Every other sign-in of yours has ended.";
        return Redirect("/account");
    }
}
