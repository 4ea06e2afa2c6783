using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Web.Front;
using Zandrik.Web.Practice;

namespace Zandrik.Web.Pages.Practice;

/// <summary>Does something at the practice bench. A script asks for what came of it; without scripts the page it was done from is shown again.</summary>
public sealed class DoModel(Visitor visitor, PracticeDesk desk) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int Number { get; set; }

    public IActionResult OnGet() => Redirect($"/practice/{Number}");

    /// <summary>One act.</summary>
    /// <param name="act">Its word.</param>
    /// <param name="cylinder">The cylinder.</param>
    /// <param name="compressions">How many compressions.</param>
    /// <param name="place">Where to listen.</param>
    /// <param name="check">Which small check.</param>
    /// <param name="entry">Made with each form, so that one that is sent twice is done once.</param>
    /// <param name="back">The page it was done from.</param>
    /// <param name="cancel">Cancels the request.</param>
    public async Task<IActionResult> OnPostAsync(string? act, int? cylinder, string? compressions, string? place, string? check, string? entry, string? back, CancellationToken cancel)
    {
        var fields = new TypedFields();
        var count = fields.Whole(compressions, "compressions", 1, 40);
        var wanted = new PracticeWanted(act ?? "", cylinder, count, place, check, EntryKey.Of($"{entry ?? Guid.NewGuid().ToString("N")}|{act}|{cylinder}|{place}"));
        var answer = fields.Problem("compressions") is { } problem ? PracticeAnswer.Refuse(problem) : await desk.DoAsync(visitor.Person, Number, wanted, cancel);
        if (answer.IsMissing)
        {
            return NotFound();
        }
        // Only a page of this job, whatever was sent.
        var here = back is not null && back.StartsWith($"/jobs/{Number}/", StringComparison.Ordinal) ? back : $"/jobs/{Number}/plan";
        if (!Request.IsHtmx())
        {
            TempData["DoneBefore"] = answer.Says;
            return Redirect(answer.Go ?? here);
        }
        return new JsonResult(new
        {
            says = answer.Says,
            refused = answer.IsRefused,
            go = answer.Go ?? here,
            minutes = (await desk.FindAsync(visitor.Person, Number, cancel))?.Minutes,
            gauge = answer.Gauge is not { } g ? null : new { interval = g.Trace.IntervalS, pa = g.Trace.Pa.Select(p => (int)p), turns = g.TurnsRad.Select(t => Math.Round(t, 2)), pulses = g.PulsesPa.Select(p => (int)p), rpm = Math.Round(g.Rpm) },
            db = answer.Sound is { Db: var db } ? Math.Max(-40, Math.Round(db, 1)) : (double?)null,
        });
    }
}
