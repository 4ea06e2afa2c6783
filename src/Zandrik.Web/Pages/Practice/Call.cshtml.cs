using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Practice;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Practice;

namespace Zandrik.Web.Pages.Practice;

/// <summary>The call: what is wrong, cylinder by cylinder, and what is to be done.</summary>
public sealed class CallModel(Visitor visitor, PracticeDesk desk, PracticeStore runs, TimeProvider clock) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int Number { get; set; }

    public ShopPerson Who => visitor.Person;

    public PracticeNow Now { get; private set; } = null!;

    public EngineSheet Engine => Now.Exercise.Intake.Engine;

    public string? Problem { get; private set; }

    /// <summary>What is chosen: the fault of each place, and the other one it could be.</summary>
    public IReadOnlyDictionary<string, string> Chosen { get; private set; } = new Dictionary<string, string>();

    public IReadOnlyList<Repair> Repairs { get; private set; } = [];

    /// <summary>What can be said of a cylinder, each with the word of its choice: a gasket once for each neighbour.</summary>
    public IReadOnlyList<(string Word, string Says)> Choices(int cylinder) =>
    [
        .. PracticeCall.OfCylinder.SelectMany(f => f == Fault.GasketAdjacent
            ? new[] { Neighbours.Of(Engine, cylinder).Before, Neighbours.Of(Engine, cylinder).Behind }.OfType<int>().Select(w => ($"{RecordWords.Of(f)}:{w}", FaultWords.Of(f, w, cylinder)))
            : [(RecordWords.Of(f), FaultWords.Of(f))]),
    ];

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) => await FindAsync(cancel) ? Now.Run.Result is null ? Page() : Redirect($"/practice/{Number}") : NotFound();

    /// <summary>The call.</summary>
    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        var form = await Request.ReadFormAsync(cancel);
        Chosen = form.Where(f => f.Key.StartsWith('c') || f.Key is "engine").ToDictionary(f => f.Key, f => $"{f.Value}");
        Repairs = [.. form["repair"].Select(r => RecordWords.TryParse<Repair>(r, out var repair) ? repair : (Repair?)null).OfType<Repair>()];
        var suspects = new List<PracticeSuspect>();
        for (var c = 1; c <= Engine.Cylinders; c++)
        {
            if (Read(c) is { } suspect)
            {
                suspects.Add(suspect);
            }
        }
        if (RecordWords.TryParse<Fault>(Chosen.GetValueOrDefault("engine"), out var whole))
        {
            suspects.Add(new(null, whole));
        }
        var call = new PracticeCall(suspects, Repairs);
        if (suspects.Count == 0 && form["nothing"] != "true")
        {
            Problem = "Say what is wrong, or tick that nothing is.";
        }
        else if (suspects.Count > 0 && form["nothing"] == "true")
        {
            Problem = "You ticked that nothing is wrong, and named something. Leave one of the two.";
        }
        else
        {
            Problem = call.Problem(Engine) ?? (Now.Workspace.Assessment.Tests.Record.Tests is not { Count: > 0 } ? "Nothing is measured yet: measure something before you call it." : null);
        }
        if (Problem is null)
        {
            var good = PracticeWay.Of(Now.Exercise)?.Minutes ?? Now.Minutes;
            var answer = await runs.CallAsync(Who, Number, done =>
            {
                var minutes = PracticeClock.Minutes(Now.Exercise.Cylinders, Now.Prepared, done);
                var hazards = done.Count(d => d.Act == PracticeAct.Hazard);
                return new PracticeResult(call, PracticeScore.Of(Now.Exercise, call, minutes, good, hazards), minutes, good, hazards);
            }, clock.GetUtcNow(), cancel);
            if (answer.Refused is null)
            {
                return Redirect($"/practice/{Number}");
            }
            Problem = answer.Refused;
        }
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return Page();
    }

    private PracticeSuspect? Read(int cylinder)
    {
        (Fault Fault, int? With)? Fault(string name)
        {
            var parts = Chosen.GetValueOrDefault(name, "").Split(':');
            return RecordWords.TryParse<Fault>(parts[0], out var fault) ? (fault, parts.Length == 2 && int.TryParse(parts[1], NumberStyles.None, CultureInfo.InvariantCulture, out var with) ? with : null) : null;
        }
        return Fault($"c{cylinder}") is { } said ? new(cylinder, said.Fault, said.With, Fault($"c{cylinder}-or")?.Fault) : null;
    }

    private async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (await desk.FindAsync(Who, Number, cancel) is not { } found)
        {
            return false;
        }
        Now = found;
        return true;
    }
}
