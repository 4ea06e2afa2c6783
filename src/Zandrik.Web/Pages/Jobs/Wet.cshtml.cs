using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;
using Zandrik.Core.Testers;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Drawings;
using Zandrik.Web.Front;
using Zandrik.Web.Readings;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The wet test: which cylinders, how much oil, the minute it soaks, the spin with the hole open, and what it gained.</summary>
public sealed class WetModel(Visitor visitor, WorkspaceStore workspaces, StepStore steps, ReadingDesk readings, TimeProvider clock) : StepPage(visitor, workspaces, steps, clock)
{
    protected override string Step => "wet";

    protected override string Part => "_Wet";

    public WetCompressionTest Test { get; private set; } = new();

    public WetJudgement Judged { get; private set; } = null!;

    public DryJudgement? Dry { get; private set; }

    public WetGuard Oil { get; private set; } = null!;

    public OilAmount Amount { get; private set; } = null!;

    /// <summary>Why no wet test is done; absent where it may be.</summary>
    public string? Forbidden { get; private set; }

    public int At { get; private set; } = 1;

    public string? Typed { get; private set; }

    // Whoever sent it so lately still stands at the question.
    private static readonly TimeSpan Asked = TimeSpan.FromSeconds(30);

    public string? TypedOil { get; private set; }

    /// <summary>True where more was typed than fits: asked before it is noted, so that nobody pours it.</summary>
    public bool AsksWhetherPoured { get; private set; }

    public string? TypedMeasure { get; private set; }

    /// <summary>What oil is poured with in this shop, ml first.</summary>
    public IReadOnlyList<OilMeasure> Measures => OilMeasure.Of(Who.Settings);

    /// <summary>True where a leak-down comes first and there is none yet.</summary>
    public bool LeakDownFirst { get; private set; }

    public PressureUnit TestUnit => RecordRules.UnitOf(Test.Unit, Engine);

    /// <summary>Every cylinder with the reason to oil it, suggested ones first.</summary>
    public IReadOnlyList<(int Cylinder, string Why)> Order { get; private set; } = [];

    public CompressionReading? ReadingOf(int cylinder) => Test.Readings?.LastOrDefault(r => r.Cylinder == cylinder && r.Counts());

    public ColumnsPicture? Picture { get; private set; }

    /// <summary>Oil was put into a cylinder. What was really poured is always recorded; too much keeps the gauge off.</summary>
    /// <param name="oil">How much, as typed.</param>
    /// <param name="measure">In what: one of <see cref="OilMeasure"/>; absent for ml.</param>
    /// <param name="poured">True where it is in already, though it is more than fits.</param>
    /// <param name="entry">Made once for each entry.</param>
    /// <param name="at">When it was poured, where it waited.</param>
    /// <param name="cancel">Cancels the request.</param>
    public async Task<IActionResult> OnPostOilAsync(string? oil, string? measure, bool poured, string? entry, string? at, CancellationToken cancel)
    {
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        var cylinder = Cylinder ?? 1;
        var fields = new TypedFields();
        var typed = fields.Number(oil, "oil", 0.1, 1000);
        if (fields.Problems.Count > 0 || typed is not { } count)
        {
            (TypedOil, TypedMeasure) = (oil, measure);
            return await RefuseAsync(fields.Problems.Values.FirstOrDefault() ?? "Say how much oil went in.", "oil", cancel);
        }
        var by = Measures.FirstOrDefault(x => x.Word == measure) ?? Measures[0];
        var ml = Math.Min(1000, count * by.Ml);
        var when = TypedAt.Of(at, Clock);
        var e = new OilEvent(WetGuard.Oiled, cylinder, when, ml);
        // Asked inside the writing transaction: what was sent twice is noted already, and is not asked about. Nor is what
        // waited on a tablet: that oil is in, so it is noted, and the gauge stays off until it is wiped out.
        string? much = null;
        var answer = await Steps.DoAsync(Who, Number, StepStore.Oil, e.Item, $"{cylinder}", true, ml, Key(entry, $"oil|{cylinder}|{ml:R}"), when,
            s => WetRules.Forbids(s.Job.Record.Engine, Who.Settings) ?? s.Safety.ForbidsUnderAir ?? s.Oil.Refuses(e, s.Job.Record.Engine.Cylinders) ?? (much = poured || Clock.GetUtcNow() - when > Asked ? null : s.Oil.TooMuch(cylinder, ml)), cancel);
        if (answer.Refused is { } why && why == much)
        {
            (TypedOil, TypedMeasure, AsksWhetherPoured) = (oil, measure, true);
            return await RefuseAsync(why, "oil", cancel);
        }
        return await AnswerAsync(answer, $"{by.Says(count)} of oil in {cylinder}. A minute to spread, then spin with the hole open.", cancel);
    }

    /// <summary>The engine was spun with the oiled holes open.</summary>
    public async Task<IActionResult> OnPostSpunAsync(string? entry, string? at, CancellationToken cancel) =>
        await AnswerAsync(await Steps.DoAsync(Who, Number, StepStore.Oil, WetGuard.Spun, null, true, Key(entry, "spun"), TypedAt.Of(at, Clock),
            s => s.Safety.ForbidsUnderAir ?? s.Oil.Refuses(new OilEvent(WetGuard.Spun, null, default), s.Job.Record.Engine.Cylinders), cancel), "Spun with the hole open. The gauge may go on.", cancel);

    /// <summary>A cylinder with too much oil in it was spun with its hole open and wiped out.</summary>
    public async Task<IActionResult> OnPostWipedAsync(string? entry, string? at, CancellationToken cancel)
    {
        var cylinder = Cylinder ?? 1;
        return await AnswerAsync(await Steps.DoAsync(Who, Number, StepStore.Oil, WetGuard.Wiped, $"{cylinder}", true, Key(entry, $"wiped|{cylinder}"), TypedAt.Of(at, Clock),
            s => s.Safety.ForbidsUnderAir ?? s.Oil.Refuses(new OilEvent(WetGuard.Wiped, cylinder, default), s.Job.Record.Engine.Cylinders), cancel), "Spun with the hole open and wiped out. The gauge may go on.", cancel);
    }

    /// <summary>The engine was run until the oil was burnt off.</summary>
    public async Task<IActionResult> OnPostClearedAsync(string? entry, string? at, CancellationToken cancel) =>
        await AnswerAsync(await Steps.DoAsync(Who, Number, StepStore.Oil, WetGuard.Cleared, null, true, Key(entry, "cleared"), TypedAt.Of(at, Clock), _ => null, cancel), "Run and cleared.", cancel);

    /// <summary>The gauge, wet.</summary>
    public async Task<IActionResult> OnPostReadAsync(string? value, string? unit, bool correct, string? entry, string? at, CancellationToken cancel)
    {
        var cylinder = Cylinder ?? 1;
        var typedIn = RecordWords.Parse(unit, PressureUnit.Psi);
        var read = PressureEntry.Read(value, typedIn);
        if (read.Pressure is not { } pressure)
        {
            Typed = value;
            return await RefuseAsync(read.Problem!, "value", cancel);
        }
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        var answer = await readings.WetAsync(Who, Number, cylinder, pressure, correct, Key(entry, FormattableString.Invariant($"wet|{cylinder}|{pressure.Value:R}|{typedIn}")), TypedAt.Of(at, Clock), null, cancel);
        if (answer.Refused is not null)
        {
            Typed = value;
        }
        return await AnswerAsync(answer, $"Cylinder {cylinder}: {pressure.Text(typedIn)} {typedIn.Symbol()} wet, saved.", cancel);
    }

    /// <summary>Takes the person's own last entry back.</summary>
    public async Task<IActionResult> OnPostUndoAsync(string? entry, string? at, CancellationToken cancel) =>
        await AfterUndoAsync(await Steps.UndoAsync(Who, Number, TestKind.Wet, Key(entry, "undo"), TypedAt.Of(at, Clock), cancel), cancel);

    /// <summary>Says which gauge it is done with from here on.</summary>
    public async Task<IActionResult> OnPostTesterAsync(int? tester, CancellationToken cancel)
    {
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        var chosen = TestersOf(TesterKind.Gauge).FirstOrDefault(t => t.Id == tester)?.Tester.ForRecord();
        return await AnswerAsync(await Steps.ChangeAsync(Who, Number, ReadingDesk.StartWet(Job), t => t with { Tester = chosen }, Clock.GetUtcNow(), cancel), chosen is null ? "No gauge noted." : $"Measured with {chosen.Label}.", cancel);
    }

    protected override async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return false;
        }
        var dry = Assessment.Tests.DryTest;
        Test = (Job.Record.Tests ?? []).OfType<WetCompressionTest>().LastOrDefault() ?? ReadingDesk.StartWet(Job);
        Judged = Assessment.Tests.Of(Test);
        Dry = Assessment.Tests.Dry;
        Oil = JobState.Oil;
        Amount = OilAmount.For(Engine);
        Forbidden = WetRules.Forbids(Engine, Who.Settings);
        var suggested = Dry is null ? [] : WetRules.Suggest(Dry);
        Order = [.. suggested, .. Enumerable.Range(1, Engine.Cylinders).Where(c => suggested.All(s => s.Cylinder != c)).Select(c => (c, ""))];
        At = Cylinder is { } chosen && chosen >= 1 && chosen <= Engine.Cylinders ? chosen : suggested.Where(s => ReadingOf(s.Cylinder) is null).Select(s => s.Cylinder).FirstOrDefault(Order[0].Cylinder);
        LeakDownFirst = Who.Settings.Wet == WetMethod.LeakDownFirst && !(Job.Record.Tests ?? []).OfType<LeakDownTest>().Any(t => t.Readings?.Any(r => r.Held is not null || r.LeakPercent is not null) == true);
        if (dry is not null && Dry is not null)
        {
            Picture = DryPicture.WithWet(DryPicture.Of(Engine, dry, Dry, Unit, At, c => $"{Address}?cylinder={c}"), Judged, Unit);
        }
        return true;
    }
}
