using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Verdicts;
using Zandrik.Storage;
using Zandrik.Web.Drawings;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The verdict of a job: what all readings say, signed by a person who agrees or says other; kept as it was, whatever changes later. And what was found when the engine was open.</summary>
public sealed class VerdictModel(Visitor visitor, WorkspaceStore workspaces, StepStore steps, VerdictStore verdicts, TimeProvider clock) : StepPage(visitor, workspaces, steps, clock)
{
    /// <summary>The version that is looked at; absent for the latest, or for what is not signed yet.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Version { get; set; }

    protected override string Step => "verdict";

    protected override string Part => "_Verdict";

    protected override string Here => Address + (Version is { } v ? $"?version={v}" : "");

    /// <summary>The verdict that is shown: as it was signed, or as things stand.</summary>
    public VerdictSnapshot Shown { get; private set; } = null!;

    /// <summary>The signed verdict that is shown; absent for one that is not signed yet.</summary>
    public KeptVerdict? Signed { get; private set; }

    /// <summary>Every version, latest first.</summary>
    public IReadOnlyList<VerdictLine> Versions { get; private set; } = [];

    /// <summary>What somebody typed and is not kept yet.</summary>
    public IReadOnlyDictionary<string, string?> Typed { get; private set; } = new Dictionary<string, string?>();

    /// <summary>True where there is something to sign.</summary>
    public bool MaySign => Who.MayMeasure && Signed is null && Shown.SaysSomething();

    /// <summary>The print of what is looked at.</summary>
    public string Seen => VerdictStore.Fingerprint(Shown);

    /// <summary>What the people say of a cylinder, or of the engine.</summary>
    public VerdictAnswer? PeopleOn(int? cylinder) => Signed?.Said.FirstOrDefault(s => s.Program.Cylinder == cylinder)?.People;

    /// <summary>What can be chosen for a cylinder, or for the engine.</summary>
    public IReadOnlyList<(string Value, string Name)> ChoicesOf(int? cylinder) => [.. VerdictAnswer.Possible(Engine, cylinder).Select(a => (ChoiceOf(a), FaultWords.Of(a.Fault, a.With, cylinder)))];

    /// <summary>An answer as it stands in <see cref="ChoicesOf"/>.</summary>
    public static string ChoiceOf(VerdictAnswer a) => RecordWords.Of(a.Fault) + (a is { Fault: Fault.GasketAdjacent, With: { } w } ? $":{w}" : "");

    /// <summary>The word of a place in the names of fields.</summary>
    public static string PlaceOf(int? cylinder) => cylinder is { } c ? $"{c}" : "engine";

    /// <summary>The cylinders as they sit.</summary>
    public ColumnsPicture Picture => VerdictPicture.Of(Shown);

    /// <summary>What it is asked whether it is really to be signed: <c>Agree</c> or <c>Overrule</c>; absent while nothing is asked.</summary>
    public string? Asked { get; private set; }

    /// <summary>Signs what Zandrik says; asked once.</summary>
    public Task<IActionResult> OnPostAgreeAsync(string? seen, string? remark, string? entry, bool sure, CancellationToken cancel) => SignAsync(agrees: true, seen, remark, entry, sure, cancel);

    /// <summary>Signs something else, with the reason; asked once.</summary>
    public Task<IActionResult> OnPostOverruleAsync(string? seen, string? reason, string? entry, bool sure, CancellationToken cancel) => SignAsync(agrees: false, seen, reason, entry, sure, cancel);

    /// <summary>Opens the verdict again.</summary>
    public async Task<IActionResult> OnPostReopenAsync(int signed, string? why, CancellationToken cancel)
    {
        var reason = why?.Trim();
        if (string.IsNullOrEmpty(reason) || reason.Length > SignOff.LongestReason)
        {
            Typed = new Dictionary<string, string?> { ["why"] = why };
            return await RefuseAsync(string.IsNullOrEmpty(reason) ? "Say why it is opened again: it stands in the list of versions." : $"Say it in {SignOff.LongestReason} letters or fewer.", "why", cancel);
        }
        Version = null;
        return await AnswerAsync(await verdicts.ReopenAsync(Who, Number, signed, reason, Clock.GetUtcNow(), cancel), "Open again. What was signed stays; the next signature makes a new version.", cancel);
    }

    /// <summary>Writes down what was found.</summary>
    public async Task<IActionResult> OnPostFoundAsync(string? place, string? fault, string? says, string? entry, string? at, CancellationToken cancel)
    {
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        Typed = new Dictionary<string, string?> { ["place"] = place, ["fault"] = fault, ["says"] = says };
        int? cylinder = int.TryParse(place, out var c) ? c : null;
        if ((cylinder is null && place != "engine") || cylinder > Engine.Cylinders || cylinder < 1)
        {
            return await RefuseAsync("Say where: in a cylinder, or in the whole engine.", "place", cancel);
        }
        if (AnswerOf(fault, cylinder) is not { } found)
        {
            return await RefuseAsync(cylinder is null ? "Say what was found in the engine as a whole." : $"Say what was found in cylinder {cylinder}; a gasket with one of its own neighbours.", "fault", cancel);
        }
        if (says?.Length > SignOff.LongestReason)
        {
            return await RefuseAsync($"Say it in {SignOff.LongestReason} letters or fewer.", "says", cancel);
        }
        Typed = new Dictionary<string, string?>();
        return await AnswerAsync(await verdicts.AddFoundAsync(Who, Number, new FoundFault { Cylinder = cylinder, Fault = found.Fault, With = found.With, Says = string.IsNullOrWhiteSpace(says) ? null : says.Trim() }, Key(entry, $"found|{place}|{fault}|{says}"), TypedAt.Of(at, Clock), cancel),
            "Written down. It counts among what the shop learns from.", cancel);
    }

    /// <summary>Takes back what was written down.</summary>
    public async Task<IActionResult> OnPostWithdrawAsync(long found, CancellationToken cancel) =>
        await verdicts.WithdrawFoundAsync(Who, Number, found, Clock.GetUtcNow(), cancel) ? await AfterAsync("Deleted.", cancel) : NotFound();

    protected override async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return false;
        }
        Versions = await verdicts.ListAsync(Who, Number, cancel);
        var shown = Version ?? (Versions is [{ Stands: true } latest, ..] ? latest.Version : null);
        Signed = shown is { } v ? await verdicts.FindAsync(Who, Number, v, cancel) : null;
        Shown = Signed?.Snapshot ?? VerdictSnapshot.Of(Assessment);
        return shown is null || Signed is not null;
    }

    private async Task<IActionResult> SignAsync(bool agrees, string? seen, string? reason, string? entry, bool sure, CancellationToken cancel)
    {
        Version = null;
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        var form = Request.Form;
        Typed = form.Where(f => f.Key is "reason" or "remark" || f.Key.StartsWith("says-", StringComparison.Ordinal)).ToDictionary(f => f.Key, f => (string?)f.Value);
        var answers = new List<VerdictAnswer>();
        foreach (var a in agrees ? [] : VerdictAnswer.Of(Shown))
        {
            // What is no choice of this place is refused there, like any other that cannot be.
            answers.Add(AnswerOf(form[$"says-{PlaceOf(a.Cylinder)}"], a.Cylinder) ?? new VerdictAnswer(a.Cylinder, Fault.GasketAdjacent));
        }
        var sign = new SignOff(agrees, string.IsNullOrWhiteSpace(reason) ? null : reason.Trim(), answers, seen ?? "");
        if (sign.Refuses(Shown) is { } problem)
        {
            var field = problem.Pointer switch { "" => null, "/reason" => agrees ? "remark" : "reason", var p => $"says-{p["/answers/".Length..]}" };
            return await RefuseAsync(problem.Says, field, cancel);
        }
        if (!sure && Shown is not null && Signed is null && seen == Seen)
        {
            Asked = agrees ? "Agree" : "Overrule";
            return Request.IsHtmx() ? Partial(Part, this) : Page();
        }
        var answer = await verdicts.SignAsync(Who, Number, sign, Guid.TryParse(entry, out var key) ? key : Guid.NewGuid(), Clock.GetUtcNow(), cancel);
        if (answer is { Found: true, Refused: null })
        {
            Typed = new Dictionary<string, string?>();
        }
        return await AnswerAsync(answer, "Signed and locked.", cancel);
    }

    private VerdictAnswer? AnswerOf(string? choice, int? cylinder) => VerdictAnswer.Possible(Engine, cylinder).FirstOrDefault(a => ChoiceOf(a) == choice);
}
