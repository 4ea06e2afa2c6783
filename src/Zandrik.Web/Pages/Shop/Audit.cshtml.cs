using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Shop;

/// <summary>Who did what that matters beyond a job, for the foreman: nothing of it can be changed or removed.</summary>
[ForemanOnly]
public sealed class AuditModel(Visitor visitor, AuditStore audit, PeopleStore people, TimeProvider clock) : PageModel
{
    private const int LinesOnAPage = 100;

    /// <summary>What can be asked for, with how it is said; in the order of the list.</summary>
    public static readonly IReadOnlyList<(string Word, string Says)> Kinds =
    [
        ("signed-in", "Signed in"), ("signed-out", "Signed out"), (AuditStore.SignInFailed, "Sign-in failed"), ("signed-out-everywhere", "Signed out everywhere"), ("password-changed", "Password changed"),
        ("decided", "Decided"), ("owner-link-made", "Owner's link made"), ("owner-link-revoked", "Owner's link revoked"),
        ("second-factor-on", "Phone code on"), ("second-factor-off", "Phone code off"), ("recovery-code-used", "Recovery code used"),
        ("link-made", "One-time link made"), ("person-added", "Person added"), ("role-changed", "Role changed"), ("person-left", "Person left"), ("person-back", "Person is back"),
        ("token-made", "Token made"), ("token-ended", "Token ended"), ("settings-changed", "Settings changed"),
        ("verdict-signed", "Verdict signed"), ("verdict-reopened", "Verdict reopened"), ("job-closed", "Job closed"), ("job-opened-again", "Job opened again"), ("job-withdrawn", "Imported job withdrawn"), ("photo-taken-away", "Photo taken away"),
        (AuditStore.Exported, "File handed out"), (AuditStore.Restored, "Restored from a backup"),
    ];

    [BindProperty(SupportsGet = true)]
    public string? What { get; set; }

    [BindProperty(SupportsGet = true)]
    public int? By { get; set; }

    [BindProperty(SupportsGet = true)]
    public long? Before { get; set; }

    public ShopPerson Who => visitor.Person;

    public IReadOnlyList<AuditLine> Lines { get; private set; } = [];

    public bool More { get; private set; }

    public IReadOnlyList<PersonName> People { get; private set; } = [];

    /// <summary>How a word is said.</summary>
    /// <returns>The word itself where it is not known: a newer Zandrik wrote it.</returns>
    public static string Says(string what) => Kinds.FirstOrDefault(k => k.Word == what).Says ?? what;

    public async Task OnGetAsync(CancellationToken cancel)
    {
        // What was not chosen from the list is no filter.
        What = Kinds.Any(k => k.Word == What) ? What : null;
        (Lines, More) = await audit.ListAsync(Who, What, By, Before, LinesOnAPage, cancel);
        People = [.. (await people.ListAsync(Who, clock.GetUtcNow(), cancel)).Select(p => new PersonName(p.Id, p.Name))];
    }

    /// <summary>The same filter further down.</summary>
    public string Older => $"/shop/audit?what={What}&by={By}&before={Lines[^1].Id}";
}
