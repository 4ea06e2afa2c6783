using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Practice;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Practice;

namespace Zandrik.Web.Pages.Practice;

/// <summary>A run of an exercise: what is asked before it is called, and what was hidden after.</summary>
public sealed class RunModel(Visitor visitor, PracticeDesk desk, PracticeStore runs) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int Number { get; set; }

    /// <summary>True where somebody came from a page that the bench does not have.</summary>
    [BindProperty(SupportsGet = true)]
    public bool Elsewhere { get; set; }

    public ShopPerson Who => visitor.Person;

    public PracticeNow Now { get; private set; } = null!;

    public PracticeCase Exercise => Now.Exercise;

    /// <summary>The shortest good way; absent before the call.</summary>
    public PracticeWay? Way { get; private set; }

    /// <summary>Cylinders that are shown: where something is wrong, and where something was called wrong.</summary>
    public IReadOnlyList<int> Shown { get; private set; } = [];

    /// <summary>The exercise to try next.</summary>
    public int Next { get; private set; }

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (await desk.FindAsync(Who, Number, cancel) is not { } found)
        {
            return NotFound();
        }
        Now = found;
        if (found.Run.Result is { } result)
        {
            Way = PracticeWay.Of(found.Exercise);
            Shown = [.. found.Exercise.Truths.Select(t => t.Cylinder).Concat(result.Call.Suspects.Select(s => s.Cylinder).OfType<int>()).Append(found.Exercise.TrapAt ?? 0).Where(c => c > 0).Distinct().Order().Take(3)];
            Next = PracticeStanding.Next([.. (await runs.CalledAsync(Who, cancel)).Where(p => p.Key.Id == found.Run.PersonId).SelectMany(p => p)]);
        }
        return Page();
    }
}
