using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Shop;

/// <summary>Bearer tokens of the API.</summary>
[ForemanOnly]
public sealed class TokensModel(Visitor visitor, PeopleStore people, TimeProvider clock) : PageModel
{
    public ShopPerson Who => visitor.Person;

    public IReadOnlyList<ApiToken> Tokens { get; private set; } = [];

    public string? Word { get; private set; }

    public string? Problem { get; private set; }

    public async Task OnGetAsync(CancellationToken cancel) => Tokens = await people.TokensAsync(Who, cancel);

    public async Task<IActionResult> OnPostMakeAsync(string? label, CancellationToken cancel)
    {
        if (string.IsNullOrWhiteSpace(label) || label.Length > 100)
        {
            Problem = "Say what it is for, so that you know it again when it has to go.";
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        }
        else
        {
            Word = await people.MakeTokenAsync(Who, label.Trim(), cancel);
        }
        await OnGetAsync(cancel);
        return Page();
    }

    public async Task<IActionResult> OnPostRevokeAsync(int token, CancellationToken cancel)
    {
        await people.RevokeTokenAsync(Who, token, clock.GetUtcNow(), cancel);
        return Redirect("/shop/tokens");
    }
}
