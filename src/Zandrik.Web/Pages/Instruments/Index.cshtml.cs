using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Records;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Instruments;

namespace Zandrik.Web.Pages.Instruments;

/// <summary>The shop's instruments: what they are, where, when they last answered; tried, added and put away here.</summary>
public sealed class IndexModel(Visitor visitor, InstrumentStore instruments, TakeDesk desk, TimeProvider clock) : PageModel
{
    private const int LongestName = 40;

    public ShopPerson Who => visitor.Person;

    public IReadOnlyList<KeptInstrument> Instruments { get; private set; } = [];

    public IReadOnlyDictionary<string, string> Problems { get; private set; } = new Dictionary<string, string>();

    public (string? Name, string? Kind, string? Address) Typed { get; private set; }

    /// <summary>What came of the last try, by instrument.</summary>
    public (int Id, string Says, bool Bad)? Tried { get; private set; }

    [TempData]
    public string? DoneBefore { get; set; }

    public async Task OnGetAsync(CancellationToken cancel) => Instruments = await instruments.ListAsync(Who, cancel);

    /// <summary>Asks an instrument what it is.</summary>
    public async Task<IActionResult> OnPostTestAsync(int id, CancellationToken cancel)
    {
        if ((await instruments.ListAsync(Who, cancel)).FirstOrDefault(i => i.Id == id) is not { } instrument)
        {
            return NotFound();
        }
        try
        {
            Tried = (id, $"Answers: {await desk.IdentifyAsync(Who, instrument, cancel)}", false);
        }
        catch (LinkTroubleException trouble)
        {
            Tried = (id, trouble.Says, true);
        }
        Instruments = await instruments.ListAsync(Who, cancel);
        return Page();
    }

    /// <summary>Adds one.</summary>
    public async Task<IActionResult> OnPostAddAsync(string? name, string? kind, string? address, CancellationToken cancel)
    {
        if (!Who.MayManage)
        {
            return new StatusCodeResult(StatusCodes.Status403Forbidden);
        }
        var fields = new TypedFields();
        var called = fields.Text(name, "name", LongestName);
        if (called is null && fields.Problem("name") is null)
        {
            fields.Add("name", "Give it a name, as it is called in the shop.");
        }
        var (at, problem) = InstrumentAddress.Read(address);
        if (problem is not null)
        {
            fields.Add("address", problem);
        }
        if (fields.Problems.Count == 0 && await instruments.AddAsync(Who, called!, RecordWords.Parse(kind, InstrumentKind.Gauge), at!.ToString(), cancel) is null)
        {
            fields.Add("name", "There is an instrument of this name already.");
        }
        if (fields.Problems.Count > 0)
        {
            (Problems, Typed) = (fields.Problems, (name, kind, address));
            Instruments = await instruments.ListAsync(Who, cancel);
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }
        DoneBefore = $"{called} is in the list. Test it once.";
        return Redirect("/instruments");
    }

    /// <summary>Puts one away.</summary>
    public async Task<IActionResult> OnPostRetireAsync(int id, CancellationToken cancel)
    {
        if (!Who.MayManage)
        {
            return new StatusCodeResult(StatusCodes.Status403Forbidden);
        }
        DoneBefore = await instruments.RetireAsync(Who, id, clock.GetUtcNow(), cancel) ? "Archived. Readings taken with it keep its name." : "It was archived already.";
        return Redirect("/instruments");
    }

    /// <summary>What a kind is called.</summary>
    public static string Name(InstrumentKind kind) => kind switch { InstrumentKind.Gauge => "Compression gauge", InstrumentKind.LeakDown => "Leak-down tester", _ => "Clamp recorder" };
}
