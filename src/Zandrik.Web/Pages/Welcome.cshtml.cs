using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Shops;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages;

/// <summary>Where a one-time link leads: a person chooses name, sign-in name and password.</summary>
public sealed partial class WelcomeModel(SignInStore signIn, PeopleStore people, Authentication authentication, TimeProvider clock) : PageModel
{
    private readonly Dictionary<string, string> problems = [];

    [BindProperty(SupportsGet = true)]
    public string Link { get; set; } = "";

    [BindProperty]
    public WelcomeForm Form { get; set; } = new();

    public ShopPerson? Person { get; private set; }

    public string? Problem(string field) => problems.GetValueOrDefault(field);

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Person = await signIn.ByLinkAsync(Link, clock.GetUtcNow(), cancel);
        Form.Name = Person?.Person;
    }

    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        Person = await signIn.ByLinkAsync(Link, clock.GetUtcNow(), cancel);
        if (Person is null)
        {
            return Page();
        }
        var (name, login) = (Form.Name?.Trim() ?? "", Form.Login?.Trim() ?? "");
        if (name.Length is 0 or > 100)
        {
            problems["name"] = "Write your name as it should stand on readings.";
        }
        else if (!await people.NameIsFreeAsync(Person, name, cancel))
        {
            problems["name"] = "Somebody here has that name already: add an initial.";
        }
        if (!Login().IsMatch(login))
        {
            problems["login"] = "Take 3 to 60 small letters, digits, dots or dashes.";
        }
        else if (!await people.LoginIsFreeAsync(Person, login, cancel))
        {
            problems["login"] = "That sign-in name is taken: choose another.";
        }
        if (PasswordRules.Objection(Form.Password, login, name, Person.Person, Person.Shop) is { } objection)
        {
            problems["password"] = objection;
        }
        else if (Form.Password != Form.Again)
        {
            problems["again"] = "The two are not the same.";
        }
        if (problems.Count > 0)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }
        var stamp = await people.UseLinkAsync(Person, Link, name, login, Authentication.HashPassword(Form.Password!), clock.GetUtcNow(), cancel);
        if (stamp is null)
        {
            Person = null;
            return Page();
        }
        if (Person.HasCode)
        {
            // A link stands for the password only.
            return Redirect("/sign-in");
        }
        await authentication.SignInAsync(HttpContext, Person, stamp.Value, login, cancel);
        return Redirect(Person.IsSettingUp ? "/setup" : Person.Role == ShopRole.Foreman ? "/shop" : "/");
    }

    [GeneratedRegex("^[a-z0-9][a-z0-9.-]{2,59}$")]
    private static partial Regex Login();
}

/// <summary>What a person chooses.</summary>
public sealed class WelcomeForm
{
    public string? Name { get; set; }
    public string? Login { get; set; }
    public string? Password { get; set; }
    public string? Again { get; set; }
}
