using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Network;

namespace Zandrik.Web.Pages.Shop;

/// <summary>The people of the shop: who may do what, and the links by which they sign in first.</summary>
[ForemanOnly]
public sealed partial class PeopleModel(Visitor visitor, PeopleStore people, SecondFactorStore codes, MachineNames names, TimeProvider clock, ILogger<PeopleModel> log) : PageModel
{
    public ShopPerson Who => visitor.Person;

    public IReadOnlyList<Colleague> People { get; private set; } = [];

    public string? Link { get; private set; }

    public string? LinkFor { get; private set; }

    public string? Typed { get; private set; }

    public string? Problem { get; private set; }

    [TempData]
    public string? Done { get; set; }

    public async Task OnGetAsync(CancellationToken cancel) => People = await people.ListAsync(Who, clock.GetUtcNow(), cancel);

    public async Task<IActionResult> OnPostAddAsync(string? name, string? role, CancellationToken cancel)
    {
        Typed = name?.Trim();
        int? added = null;
        if (string.IsNullOrEmpty(Typed) || Typed.Length > 100)
        {
            Problem = "Write the person's name, at most 100 characters.";
        }
        else
        {
            added = await people.AddAsync(Who, Typed, RecordWords.Parse(role, ShopRole.Technician), cancel);
            Problem = added is null ? "Somebody here has that name already: add an initial." : null;
        }
        if (added is not { } person)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            await OnGetAsync(cancel);
            return Page();
        }
        return await ShowLinkAsync(person, cancel);
    }

    public Task<IActionResult> OnPostLinkAsync(int person, CancellationToken cancel) => ShowLinkAsync(person, cancel);

    public async Task<IActionResult> OnPostRoleAsync(int person, string? role, CancellationToken cancel) =>
        RecordWords.TryParse<ShopRole>(role, out var r) ? await ChangeAsync(person, r, null, cancel) : BadRequest();

    public async Task<IActionResult> OnPostLeaveAsync(int person, CancellationToken cancel) =>
        await FindAsync(person, cancel) is { } p ? await ChangeAsync(person, p.Role, clock.GetUtcNow(), cancel) : NotFound();

    public async Task<IActionResult> OnPostReturnAsync(int person, CancellationToken cancel) =>
        await FindAsync(person, cancel) is { } p ? await ChangeAsync(person, p.Role, null, cancel) : NotFound();

    public async Task<IActionResult> OnPostCodeAsync(int person, CancellationToken cancel)
    {
        if (await FindAsync(person, cancel) is not { } p)
        {
            return NotFound();
        }
        Done = await codes.TurnOffAsync(Who, person, cancel) ? $"{p.Name} signs in with the password alone until the phone code is set up again." : $"{p.Name} has no phone code.";
        return Redirect("/shop/people");
    }

    public async Task<IActionResult> OnPostRuleAsync(bool need, CancellationToken cancel)
    {
        if (need && !Who.HasCode)
        {
            Done = "Set up your own phone code first: you will need it too.";
            return Redirect("/shop/people");
        }
        await codes.SetRuleAsync(Who, need, cancel);
        Done = need ? "Every foreman needs a phone code from now on; anyone without one is asked to set it up." : "Foremen may sign in with the password alone.";
        return Redirect("/shop/people");
    }

    // Shown in the answer to the post itself and nowhere else: a secret is not put into an address or a cookie.
    private async Task<IActionResult> ShowLinkAsync(int person, CancellationToken cancel)
    {
        if (await people.MakeLinkAsync(Who, person, clock.GetUtcNow(), cancel) is not { } word)
        {
            return NotFound();
        }
        await OnGetAsync(cancel);
        Link = $"{names.AddressFor(Request)}/welcome/{word}";
        LinkFor = People.Single(p => p.Id == person).Name;
        Typed = null;
        return Page();
    }

    private async Task<IActionResult> ChangeAsync(int person, ShopRole role, DateTimeOffset? left, CancellationToken cancel)
    {
        if (await FindAsync(person, cancel) is not { } before)
        {
            return NotFound();
        }
        var changed = await people.ChangeAsync(Who, person, role, left, cancel);
        if (changed)
        {
            Changed(log, Who.PersonId, Who.ShopId, person, RecordWords.Of(role), left is null ? "works here" : "has left");
        }
        Done = changed
            ? left is not null ? $"{before.Name} can no longer sign in. What {before.Name} read stays on record." : $"{before.Name}: {ShopText.Role(role)}."
            : "The shop needs at least one foreman who can sign in: make somebody else foreman first.";
        return Redirect("/shop/people");
    }

    [LoggerMessage(Level = LogLevel.Information, Message = "Person {By} of shop {Shop} changed person {Person}: {Role}, {State}.")]
    private static partial void Changed(ILogger log, int by, int shop, int person, string role, string state);

    private async Task<Colleague?> FindAsync(int person, CancellationToken cancel) =>
        (await people.ListAsync(Who, clock.GetUtcNow(), cancel)).FirstOrDefault(p => p.Id == person);
}
