using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;
using Zandrik.Core.Testers;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Drawings;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The wet test: which cylinders, how much oil, the minute it soaks, the spin with the hole open, and what it gained.</summary>
public sealed class WetModel(Visitor visitor, WorkspaceStore workspaces, StepStore steps, TimeProvider clock) : StepPage(visitor, workspaces, steps, clock)
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

    public string? TypedOil { get; private set; }

    /// <summary>True where a leak-down comes first and there is none yet.</summary>
    public bool LeakDownFirst { get; private set; }

    public PressureUnit TestUnit => RecordRules.UnitOf(Test.Unit, Engine);

    /// <summary>Every cylinder with the reason to oil it, suggested ones first.</summary>
    public IReadOnlyList<(int Cylinder, string Why)> Order { get; private set; } = [];

    public CompressionReading? ReadingOf(int cylinder) => Test.Readings?.LastOrDefault(r => r.Cylinder == cylinder && r.SupersededBy is null && r.Value is not null);

    public ColumnsPicture? Picture { get; private set; }

    /// <summary>Oil was put into a cylinder.</summary>
    public async Task<IActionResult> OnPostOilAsync(string? oil, string? entry, string? at, CancellationToken cancel)
    {
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        var cylinder = Cylinder ?? 1;
        var fields = new TypedFields();
        var ml = fields.Number(oil, "oil", 0.5, 100);
        if (fields.Problems.Count > 0 || ml is null)
        {
            TypedOil = oil;
            return await RefuseAsync(fields.Problems.Values.FirstOrDefault() ?? "Say how much oil went in, in ml.", "oil", cancel);
        }
        if (Amount.Most is { } most && ml > most + 1e-9)
        {
            TypedOil = oil;
            return await RefuseAsync($"No more than {most.ToString("0.#", CultureInfo.CurrentCulture)} ml fits safely: {(Engine.Fuel == Fuel.Diesel ? "a diesel has hardly any room above the piston" : "a sixth of the room above the piston")}.", "oil", cancel);
        }
        var when = TypedAt.Of(at, Clock);
        var answer = cylinder < 1 || cylinder > Engine.Cylinders ? new StepAnswer(false, null)
            : await Steps.DoAsync(Who, Number, StepStore.Oil, WetGuard.Oiled, $"{cylinder}", true, Key(entry, $"oil|{cylinder}"), when, s => WetRules.Forbids(s.Job.Record.Engine, Who.Settings), cancel);
        if (answer is { Found: true, Refused: null })
        {
            await Steps.ChangeAsync(Who, Number, Start(), t => t with { OilMl = ml }, when, cancel);
        }
        return await AnswerAsync(answer, $"Oil in {cylinder}. A minute to spread, then spin with the hole open.", cancel);
    }

    /// <summary>The engine was spun with the oiled holes open.</summary>
    public async Task<IActionResult> OnPostSpunAsync(string? entry, string? at, CancellationToken cancel) =>
        await AnswerAsync(await Steps.DoAsync(Who, Number, StepStore.Oil, WetGuard.Spun, null, true, Key(entry, "spun"), TypedAt.Of(at, Clock),
            s => s.Oil.HoldOil.Count == 0 ? "No oil is noted in any cylinder yet." : null, cancel), "Spun with the hole open. The gauge may go on.", cancel);

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
        var when = TypedAt.Of(at, Clock);
        var answer = await Steps.KeepAsync<WetCompressionTest, CompressionReading>(Who, Number, cylinder, _ => Start(), (standing, test, before) =>
        {
            var has = before?.Value is not null;
            var why = WetRules.Forbids(standing.Job.Record.Engine, Who.Settings) ?? (correct && has ? null : standing.Oil.RefusesReading(cylinder));
            if (why is not null)
            {
                return (null, why);
            }
            var keptIn = RecordRules.UnitOf(test.Unit, standing.Job.Record.Engine);
            return ((before ?? new CompressionReading { Cylinder = cylinder }) with
            {
                Value = pressure.In(keptIn),
                AsRead = typedIn == keptIn ? null : new PressureAsRead { Value = pressure.Value, Unit = typedIn },
                Tester = test.Tester,
                At = when,
                By = Who.Person,
            }, null);
        }, Key(entry, FormattableString.Invariant($"wet|{cylinder}|{pressure.Value:R}|{typedIn}")), when, cancel);
        if (answer.Refused is not null)
        {
            Typed = value;
        }
        return await AnswerAsync(answer, $"Cylinder {cylinder}: {pressure.Text(typedIn)} {typedIn.Symbol()} wet, kept.", cancel);
    }

    /// <summary>Takes the person's own last entry back.</summary>
    public async Task<IActionResult> OnPostUndoAsync(string? entry, string? at, CancellationToken cancel) =>
        await AfterAsync(await Steps.UndoAsync(Who, Number, "compression-wet", Key(entry, "undo"), TypedAt.Of(at, Clock), cancel) ? "Last entry taken back. It stays on record." : "Nothing left to take back.", cancel);

    /// <summary>Says which gauge it is done with from here on.</summary>
    public async Task<IActionResult> OnPostTesterAsync(int? tester, CancellationToken cancel)
    {
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        var chosen = TestersOf(TesterKind.Gauge).FirstOrDefault(t => t.Id == tester)?.Tester.ForRecord();
        await Steps.ChangeAsync(Who, Number, Start(), t => t with { Tester = chosen }, Clock.GetUtcNow(), cancel);
        return await AfterAsync(chosen is null ? "No gauge noted." : $"Measured with {chosen.Label}.", cancel);
    }

    protected override async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return false;
        }
        var dry = LatestDryTest.Of(Job.Record);
        Test = (Job.Record.Tests ?? []).OfType<WetCompressionTest>().LastOrDefault() ?? Start();
        Judged = WetJudgement.Of(Job.Record, Test, Unit);
        Dry = LatestDryTest.Judged(Job.Record, Unit);
        Oil = Standing.Oil;
        Amount = OilAmount.For(Engine);
        Forbidden = WetRules.Forbids(Engine, Who.Settings);
        var suggested = Dry is null ? [] : WetRules.Suggest(Dry);
        Order = [.. suggested, .. Enumerable.Range(1, Engine.Cylinders).Where(c => suggested.All(s => s.Cylinder != c)).Select(c => (c, ""))];
        At = Cylinder is { } chosen && chosen >= 1 && chosen <= Engine.Cylinders ? chosen : suggested.Where(s => ReadingOf(s.Cylinder) is null).Select(s => s.Cylinder).FirstOrDefault(Order[0].Cylinder);
        LeakDownFirst = Who.Settings.Wet == WetSchool.LeakDownFirst && !(Job.Record.Tests ?? []).OfType<LeakDownTest>().Any(t => t.Readings?.Any(r => r.Held is not null || r.LeakPercent is not null) == true);
        if (dry is not null && Dry is not null)
        {
            Picture = DryPicture.WithWet(DryPicture.Of(Engine, dry, Dry, Unit, At, c => $"{Address}?cylinder={c}"), Judged, Unit);
        }
        return true;
    }

    // Taken the same way as the dry test, with the same gauge.
    private WetCompressionTest Start() => LatestDryTest.Of(Job.Record) is { } dry
        ? new WetCompressionTest { Unit = dry.Unit ?? Unit, Tester = dry.Tester, Conditions = dry.Conditions, OilMl = OilAmount.For(Engine).Ml }
        : new WetCompressionTest { Unit = Unit, OilMl = OilAmount.For(Engine).Ml };
}
