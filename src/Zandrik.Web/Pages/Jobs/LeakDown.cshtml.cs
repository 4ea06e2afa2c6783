using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Compression;
using Zandrik.Core.Engines;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Preparation;
using Zandrik.Core.Records;
using Zandrik.Core.Testers;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Drawings;
using Zandrik.Web.Front;
using Zandrik.Web.Practice;
using Zandrik.Web.Readings;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The leak-down: where the crank is, air on and off under its guard, what is held, and where the air goes.</summary>
public sealed class LeakDownModel(Visitor visitor, WorkspaceStore workspaces, StepStore steps, ReadingDesk readings, TimeProvider clock) : StepPage(visitor, workspaces, steps, clock)
{
    /// <summary>A supply is typed up to this, bar: shop air.</summary>
    private const double HighestSupplyBar = 20;

    /// <summary>The most that is typed as supply or held, in a unit.</summary>
    public static double Highest(PressureUnit unit) => Math.Floor(HighestSupplyBar * PressureUnit.Bar.Pascals() / unit.Pascals());

    protected override string Step => "leak-down";

    protected override string Part => "_LeakDown";

    public LeakDownTest Test { get; private set; } = new();

    public LeakDownJudgement Judged { get; private set; } = null!;

    public CrankGuard Crank { get; private set; } = null!;

    /// <summary>The engine's schedule; absent without a firing order.</summary>
    public CrankSchedule? Schedule { get; private set; }

    /// <summary>The cylinder the section and the pad stand on.</summary>
    public int At { get; private set; } = 1;

    /// <summary>The cylinder the crank is turned to next; absent when all are read.</summary>
    public int? Next { get; private set; }

    public DryJudgement? Dry { get; private set; }

    /// <summary>What was typed and not taken.</summary>
    public (string? Supply, string? Held, string? Percent) Typed { get; private set; }

    public LeakDownReading? Reading => ReadingOf(At);

    public LeakDownFinding Finding => Judged.Cylinders[At - 1];

    public PressureUnit TestUnit => RecordRules.UnitOf(Test.Unit, Engine);

    /// <summary>True where the tester shows percent.</summary>
    public bool PercentScale { get; private set; }

    /// <summary>Lines of the leak-down's own preparation, and whether each is so.</summary>
    public IReadOnlyList<(PreparationLine Line, bool Ticked)> Opened { get; private set; } = [];

    /// <summary>The supply to start from: that of the reading, else of the one before.</summary>
    public string SupplyText => (Reading?.Supply ?? LastSupply ?? Test.Supply) is { } s ? new GaugePressure(s, TestUnit).Text(Unit) : "";

    private double? LastSupply => (Test.Readings ?? []).Where(r => r.Supply is not null).OrderByDescending(r => r.At).FirstOrDefault()?.Supply;

    /// <summary>Cylinders that still hold oil of a wet test.</summary>
    public IReadOnlyList<int> HoldOil => JobState.Oil.HoldOil;

    /// <summary>Every reading by cylinder, where a cylinder was read more than once or left out; empty where each was read once.</summary>
    public IReadOnlyList<LeakDownTaken> Taken => Judged.Cylinders.Any(c => c.Taken.Count > 1 || c.Taken.Any(t => !t.IsJudged)) ? [.. Judged.Cylinders.SelectMany(c => c.Taken)] : [];

    /// <summary>The place of a reading among all of its cylinder, as it is stored.</summary>
    public int PlaceOf(LeakDownTaken taken) => (Test.Readings ?? []).Where(r => r.Cylinder == taken.Reading.Cylinder && r.SupersededBy is null).ToList().FindIndex(r => r.At == taken.Reading.At && r.Held == taken.Reading.Held && r.LeakPercent == taken.Reading.LeakPercent);

    public LeakDownReading? ReadingOf(int cylinder) => Test.Readings?.LastOrDefault(r => r.Cylinder == cylinder && r.SupersededBy is null);

    public bool IsRead(int cylinder) => ReadingOf(cylinder) is { } r && (r.Held is not null || r.LeakPercent is not null);

    /// <summary>What stands beside a cylinder on the ring.</summary>
    public IReadOnlyDictionary<int, string> Beside => Judged.Cylinders.Where(c => c.Percent is not null)
        .ToDictionary(c => c.Cylinder, c => c.Doubt is not null ? "?" : c.Percent!.Value.ToString("0", CultureInfo.CurrentCulture) + " %");

    /// <summary>Cylinders as they sit, the level of each the air it holds.</summary>
    public ColumnsPicture Picture => LeakLook.Picture(Engine, Judged, At, c => $"{Address}?cylinder={c}");

    /// <summary>Something done at the crank: turned, air on or off, a line of the guard.</summary>
    public async Task<IActionResult> OnPostCrankAsync(string? item, string? way, bool done, string? entry, string? at, CancellationToken cancel)
    {
        var e = new CrankEvent(item ?? "", string.IsNullOrEmpty(way) ? null : way, done);
        if (e is { Item: CrankGuard.Turned, Way: { } to } && int.TryParse(to, out var cylinder))
        {
            Cylinder = cylinder;
        }
        var answer = await Steps.DoAsync(Who, Number, StepStore.Crank, e.Item, e.Way, e.Done, Key(entry, $"{e}"), TypedAt.Of(at, Clock), s => s.Crank.Refuses(e), cancel);
        if (answer.Refused is { } dangerous && Who.Purpose == JobPurpose.Practice)
        {
            // Refused as at work, and counted.
            await HttpContext.RequestServices.GetRequiredService<PracticeDesk>().HazardAsync(Who, Number, dangerous, cancel);
        }
        var says = e switch
        {
            { Item: CrankGuard.Turned } => $"Crank at cylinder {e.Way}.",
            { Item: CrankGuard.Air, Done: true } => "Air on. Raise the supply slowly, read both gauges at the same moment.",
            { Item: CrankGuard.Air } => "Air off. Vent it before anything turns.",
            { Done: false } => "Unticked.",
            _ => "Ticked.",
        };
        return await AnswerAsync(answer, says, cancel);
    }

    /// <summary>A line of the leak-down's own preparation.</summary>
    public async Task<IActionResult> OnPostOpenAsync(string? item, bool done, string? entry, string? at, CancellationToken cancel)
    {
        if (!RecordWords.TryParse<PreparationItem>(item, out var line))
        {
            return NotFound();
        }
        var answer = await Steps.DoAsync(Who, Number, StepStore.Leak, item!, null, done, Key(entry, $"{item}|{done}"), TypedAt.Of(at, Clock),
            s => LeakPreparation.For(s.Job.Record.Engine).Any(l => l.Item == line) ? null : "There is no such line for this engine.", cancel);
        return await AnswerAsync(answer, done ? "Ticked." : "Unticked.", cancel);
    }

    /// <summary>What both gauges, or the percent scale, read.</summary>
    public async Task<IActionResult> OnPostReadAsync(string? supply, string? held, string? percent, string? scale, string? unit, bool correct, string? entry, string? at, CancellationToken cancel)
    {
        var cylinder = Cylinder ?? 1;
        var typedIn = RecordWords.Parse(unit, PressureUnit.Psi);
        var fields = new TypedFields();
        PercentScale = scale == "percent";
        var highest = Highest(typedIn);
        var supplyRead = fields.Number(supply, "supply", 0, highest);
        var heldRead = PercentScale ? null : fields.Number(held, "held", 0, highest);
        var percentRead = PercentScale ? fields.Number(percent, "percent", 0, 100) : null;
        if (fields.Problems.Count == 0)
        {
            if (!PercentScale && supplyRead is null or <= 0)
            {
                fields.Add("supply", "Read the supply at the same moment: without it the loss cannot be worked out.");
            }
            else if (!PercentScale && heldRead is null)
            {
                fields.Add("held", "Type what the second gauge holds. All gone is 0.");
            }
            else if (PercentScale && percentRead is null)
            {
                fields.Add("percent", "Type the percent on the scale, 0 to 100.");
            }
        }
        if (fields.Problems.Count > 0)
        {
            Typed = (supply, held, percent);
            return await RefuseAsync(fields.Problems.Values.First(), fields.Problems.Keys.First(), cancel);
        }
        var answer = await readings.LeakDownAsync(Who, Number, cylinder, new LeakFigures(supplyRead, heldRead, percentRead, typedIn), correct,
            Key(entry, FormattableString.Invariant($"read|{cylinder}|{supplyRead}|{heldRead}|{percentRead}|{typedIn}")), TypedAt.Of(at, Clock), null, cancel);
        if (answer.Refused is not null)
        {
            Typed = (supply, held, percent);
        }
        return await AnswerAsync(answer, $"Cylinder {cylinder} saved. Now listen at every place.", cancel);
    }

    /// <summary>What was heard at one place.</summary>
    /// <param name="hear">The place, with a plug hole's cylinder after a colon, and how loud after a bar: <c>intake|clear</c>, <c>adjacent-plug-hole:2|nothing</c>.</param>
    /// <param name="hole">The cylinder of another plug hole, where the place says none.</param>
    /// <param name="entry">Made once for each tap.</param>
    /// <param name="at">When it was tapped, where it waited.</param>
    /// <param name="cancel">Cancels the request.</param>
    public async Task<IActionResult> OnPostHearAsync(string? hear, int? hole, string? entry, string? at, CancellationToken cancel)
    {
        var cylinder = Cylinder ?? 1;
        var parts = (hear ?? "").Split('|', ':');
        if (!RecordWords.TryParse<ListeningPlace>(parts[0], out var place) || place == ListeningPlace.Nowhere)
        {
            return NotFound();
        }
        var inHole = parts.Length == 3 && int.TryParse(parts[1], out var c) ? c : hole;
        var loud = RecordWords.TryParse<HeardStrength>(parts[^1], out var s) ? s : (HeardStrength?)null;
        if (place is ListeningPlace.AdjacentPlugHole or ListeningPlace.OtherPlugHole && inHole is null)
        {
            return await RefuseAsync("Say which plug hole it was.", "hole", cancel);
        }
        return await ListenAsync(cylinder, before => LeakDownEntry.Heard(before, place, inHole, loud), Key(entry, $"hear|{cylinder}|{hear}|{hole}"), at, loud is null ? "Nothing there." : $"{char.ToUpperInvariant(parts[^1][0])}{parts[^1][1..]}.", cancel);
    }

    /// <summary>Listened at every place that is open; where nothing was tapped, nothing was heard.</summary>
    public Task<IActionResult> OnPostSilentAsync(string? entry, string? at, CancellationToken cancel)
    {
        var cylinder = Cylinder ?? 1;
        return ListenAsync(cylinder, (before, standing) => LeakDownEntry.Everywhere(before, ReadingDesk.NotOpened(standing)), Key(entry, $"silent|{cylinder}"), at, "Listened everywhere.", cancel);
    }

    /// <summary>A doubtful figure stands: the hose was tried, or it was listened again.</summary>
    public Task<IActionResult> OnPostStandsAsync(string? entry, string? at, CancellationToken cancel)
    {
        var cylinder = Cylinder ?? 1;
        return ListenAsync(cylinder, before => before with { Confirmed = true }, Key(entry, $"stands|{cylinder}"), at, "Reading confirmed.", cancel);
    }

    /// <summary>Leaves a reading out of the judgement, or takes it back in; it stays on record.</summary>
    /// <param name="reading">The place of the reading among the cylinder's, from 0.</param>
    /// <param name="why">Why it is left out; empty to take it back in.</param>
    /// <param name="leave">True to leave it out.</param>
    /// <param name="entry">Made once for each tap.</param>
    /// <param name="at">When it was tapped, where it waited.</param>
    /// <param name="cancel">Cancels the request.</param>
    public async Task<IActionResult> OnPostLeaveOutAsync(int reading, string? why, bool leave, string? entry, string? at, CancellationToken cancel)
    {
        var cylinder = Cylinder ?? 1;
        var fields = new TypedFields();
        var says = fields.Text(why, "why", 200);
        if (leave && says is null)
        {
            return await RefuseAsync(fields.Problem("why") ?? "Say in a few words why it is left out: the piston moved, the adapter leaked.", "why", cancel);
        }
        var answer = await Steps.KeepOneOfAsync<LeakDownTest, LeakDownReading>(Who, Number, cylinder, job => ReadingDesk.StartLeakDown(Who, job.Unit), (_, taken) => reading >= 0 && reading < taken.Count ? reading : -1,
            (_, _, before) => before is null ? (null, "This reading is gone.") : (before with { NotUsed = leave ? says : null }, null), Key(entry, $"leave|{cylinder}|{reading}|{leave}"), TypedAt.Of(at, Clock), cancel: cancel);
        return await AnswerAsync(answer, leave ? "Left out. It stays on record." : "Used again.", cancel);
    }

    /// <summary>Takes the person's own last entry back.</summary>
    public async Task<IActionResult> OnPostUndoAsync(string? entry, string? at, CancellationToken cancel) =>
        await AfterUndoAsync(await Steps.UndoAsync(Who, Number, TestKind.LeakDown, Key(entry, "undo"), TypedAt.Of(at, Clock), cancel), cancel);

    /// <summary>Says which leak tester it is done with from here on.</summary>
    public async Task<IActionResult> OnPostTesterAsync(int? tester, CancellationToken cancel)
    {
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        var chosen = TestersOf(TesterKind.LeakDown).FirstOrDefault(t => t.Id == tester)?.Tester.ForRecord();
        return await AnswerAsync(await Steps.ChangeAsync(Who, Number, ReadingDesk.StartLeakDown(Who, Unit), t => t with { Tester = chosen }, Clock.GetUtcNow(), cancel), chosen is null ? "No tester noted." : $"Measured with {chosen.Label}.", cancel);
    }

    private Task<IActionResult> ListenAsync(int cylinder, Func<LeakDownReading, LeakDownReading> change, Guid key, string? at, string done, CancellationToken cancel) =>
        ListenAsync(cylinder, (before, _) => change(before), key, at, done, cancel);

    private async Task<IActionResult> ListenAsync(int cylinder, Func<LeakDownReading, JobState, LeakDownReading> change, Guid key, string? at, string done, CancellationToken cancel)
    {
        return await AnswerAsync(await readings.ListenAsync(Who, Number, cylinder, change, key, TypedAt.Of(at, Clock), cancel), done, cancel);
    }

    protected override async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return false;
        }
        Test = (Job.Record.Tests ?? []).OfType<LeakDownTest>().LastOrDefault() ?? ReadingDesk.StartLeakDown(Who, Unit);
        Judged = Assessment.Tests.Of(Test);
        Crank = JobState.Crank;
        Schedule = CrankSchedule.Of(Engine);
        Dry = Assessment.Tests.Dry;
        At = Cylinder is { } c && c >= 1 && c <= Engine.Cylinders ? c : Crank.Cylinder ?? Asked.FirstOrDefault(1);
        // The ring turns to what the assessment asks for, as every other page says it; without that to what is asked and unread.
        var wanted = Assessment.Next.FirstOrDefault(n => n.Kind == StepKind.LeakDown)?.Cylinders.Where(c => c != Crank.Cylinder || !IsRead(c)).ToList() ?? [];
        var unread = Crank.Cylinder is { } now ? Schedule?.NextAfter(now, x => wanted.Count > 0 ? wanted.Contains(x) : !IsRead(x) && (Asked.Count == 0 || Asked.Contains(x) || Asked.All(IsRead)))?.Cylinder : null;
        Next = unread ?? (Crank.Cylinder is { } here ? Schedule?.NextAfter(here).Cylinder : null);
        PercentScale |= (Test.Readings ?? []).OrderByDescending(r => r.At).FirstOrDefault() is { LeakPercent: not null, Held: null };
        var (own, shared) = (JobState.Ticked(StepStore.Leak), Prepared);
        Opened = [.. LeakPreparation.For(Engine).Select(l => (l, own.ContainsKey(RecordWords.Of(l.Item)) || (LeakPreparation.Opens(l.Item) is null && shared.ContainsKey(RecordWords.Of(l.Item)))))];
        return true;
    }

    /// <summary>The cylinders a leak-down is asked about: those that are not sound dry.</summary>
    public IReadOnlyList<int> Asked => Assessment.Asked;
}
