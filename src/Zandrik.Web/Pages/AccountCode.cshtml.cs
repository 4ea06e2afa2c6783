using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages;

/// <summary>A person's own second factor: on, off, its recovery codes.</summary>
[OpenToViewers]
public sealed class AccountCodeModel(Visitor visitor, PeopleStore people, SecondFactorStore store, SecondFactor codes, Authentication authentication) : PageModel
{
    private readonly Dictionary<string, string> problems = [];

    public ShopPerson Who => visitor.Person;

    [TempData]
    public string? Done { get; set; }

    /// <summary>The recovery codes, in the answer to the post that made them and nowhere else.</summary>
    public IReadOnlyList<string>? Recovery { get; private set; }

    /// <summary>How many recovery codes are left.</summary>
    public int Left { get; private set; }

    public string Secret { get; private set; } = "";

    public string Address { get; private set; } = "";

    public string Offer { get; private set; } = "";

    public string? Problem(string field) => problems.GetValueOrDefault(field);

    public async Task OnGetAsync(CancellationToken cancel) => await LookAsync(null, cancel);

    public async Task<IActionResult> OnPostOnAsync(string? offer, string? code, string? password, CancellationToken cancel)
    {
        if (Who.HasCode)
        {
            return Redirect("/account/code");
        }
        if (await authentication.OwnPasswordProblemAsync(HttpContext, await people.LoginOfAsync(Who, cancel), password, cancel) is { } problem)
        {
            problems["password"] = problem;
        }
        else if (await codes.TurnOnAsync(Who, offer, code, cancel) is { } recovery)
        {
            Recovery = recovery;
            return Page();
        }
        else
        {
            problems["code"] = codes.Again(Who, offer) is null ? "This page was open too long: add the new key to your phone." : "That code is not right. Check the phone again, and that its clock is right.";
        }
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        await LookAsync(offer, cancel);
        return Page();
    }

    public async Task<IActionResult> OnPostOffAsync(string? code, CancellationToken cancel)
    {
        if (Who.HasCode && await codes.ProblemAsync(Who, code, cancel) is { } problem)
        {
            problems["code"] = problem;
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            await LookAsync(null, cancel);
            return Page();
        }
        await store.TurnOffAsync(Who, Who.PersonId, cancel);
        Done = "Phone code is off: you sign in with your password alone.";
        return Redirect("/account");
    }

    private async Task LookAsync(string? offer, CancellationToken cancel)
    {
        if (Who.HasCode)
        {
            Left = await store.RecoveryLeftAsync(Who, cancel);
        }
        else
        {
            (Secret, Address, Offer) = codes.Again(Who, offer) ?? codes.Make(Who);
        }
    }
}
