using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Testers;

/// <summary>One tester: what it is, and what its last check found.</summary>
public sealed class TesterModel(Visitor visitor, TesterStore testers, TimeProvider clock) : PageModel
{
    [BindProperty]
    public TesterForm Form { get; set; } = new();

    public TypedFields Fields { get; } = new();

    public ShopPerson Who => visitor.Person;

    public KeptTester? Kept { get; private set; }

    public async Task<IActionResult> OnGetAsync(int? id, CancellationToken cancel)
    {
        if (id is null)
        {
            Form.Unit = Who.Unit;
            return Who.MayManage ? Page() : StatusCode(StatusCodes.Status403Forbidden);
        }
        if (!await FindAsync(id, cancel))
        {
            return NotFound();
        }
        Form = TesterForm.Of(Kept!.Tester);
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(int? id, CancellationToken cancel)
    {
        if (!Who.MayManage)
        {
            return StatusCode(StatusCodes.Status403Forbidden);
        }
        if (id is not null && !await FindAsync(id, cancel))
        {
            return NotFound();
        }
        var tester = Form.Read(Fields, ShopText.Today(clock, Who));
        if (Fields.Problems.Count == 0 && await testers.SaveAsync(Who, id, tester, cancel) is null)
        {
            Fields.Add("label", "Another tester has that name: add a number.");
        }
        if (Fields.Problems.Count > 0)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }
        return Redirect("/testers");
    }

    public async Task<IActionResult> OnPostRetireAsync(int id, bool back, CancellationToken cancel)
    {
        if (!Who.MayManage)
        {
            return StatusCode(StatusCodes.Status403Forbidden);
        }
        await testers.RetireAsync(Who, id, back ? null : clock.GetUtcNow(), cancel);
        return Redirect("/testers");
    }

    private async Task<bool> FindAsync(int? id, CancellationToken cancel)
    {
        Kept = (await testers.ListAsync(Who, cancel)).FirstOrDefault(t => t.Id == id);
        return Kept is not null;
    }
}
