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

    public DateTimeOffset Now => clock.GetUtcNow();

    public IReadOnlyList<ApiToken> Tokens { get; private set; } = [];

    public string? Word { get; private set; }

    public string? Problem { get; private set; }

    public async Task OnGetAsync(CancellationToken cancel) => Tokens = await people.TokensAsync(Who, cancel);

    /// <summary>How long a token may be good, days; 0 for until it is revoked.</summary>
    public static readonly IReadOnlyList<(int Days, string Says)> Ends = [(30, "30 days"), (90, "90 days"), (365, "a year"), (0, "until it is revoked")];

    public async Task<IActionResult> OnPostMakeAsync(string? label, string? may, int days, CancellationToken cancel)
    {
        if (string.IsNullOrWhiteSpace(label) || label.Length > 100)
        {
            Problem = "Say what it is for, so that you know it again when it has to go.";
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        }
        else
        {
            // What is not on the list is the shortest; what does not say that it writes only reads.
            var end = Ends.Any(e => e.Days == days) ? days : Ends[0].Days;
            Word = await people.MakeTokenAsync(Who, label.Trim(), may == "write", end == 0 ? null : clock.GetUtcNow().AddDays(end), cancel);
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
