using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Running;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Readings;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>Running and snap compression, one cylinder at a time: made safe, started, relieved until idle agrees, snapped.</summary>
public sealed class RunningModel(Visitor visitor, WorkspaceStore workspaces, StepStore steps, ReadingDesk readings, TimeProvider clock) : StepPage(visitor, workspaces, steps, clock)
{
    protected override string Step => "running";

    protected override string Part => "_Running";

    public RunningCompressionTest Test { get; private set; } = new();

    public RunningJudgement Judged { get; private set; } = null!;

    public DryJudgement? Dry { get; private set; }

    /// <summary>Why this engine is not run with the gauge in; absent when it may be.</summary>
    public string? Forbidden { get; private set; }

    public int At { get; private set; } = 1;

    public string? TypedIdle { get; private set; }

    public string? TypedSnap { get; private set; }

    public string? TypedHeld { get; private set; }

    public PressureUnit TestUnit => RecordRules.UnitOf(Test.Unit, Engine);

    public RunningReading? Reading => ReadingOf(At);

    /// <summary>Lines that are ticked for the engine and the cylinder the page stands on.</summary>
    public IReadOnlyDictionary<string, Tick> Ticked { get; private set; } = new Dictionary<string, Tick>();

    /// <summary>Why the cylinder is not measured yet; absent when it may be.</summary>
    public string? Blocked(int cylinder) => RunningRules.ForbidsCylinder(Dry, cylinder, Assessment.Tests.LeakDown);

    public bool IsTicked(RunningLine line) => Ticked.ContainsKey(line.ItemOf(At));

    public IReadOnlyList<RunningLine> Missing => [.. RunningLine.All.Where(l => !IsTicked(l))];

    public RunningReading? ReadingOf(int cylinder) => Test.Readings?.LastOrDefault(r => r.Cylinder == cylinder && r.SupersededBy is null);

    /// <summary>A line of the guard.</summary>
    public async Task<IActionResult> OnPostSafeAsync(string? item, bool done, string? entry, string? at, CancellationToken cancel)
    {
        var cylinder = Cylinder ?? 1;
        if (RunningLine.All.FirstOrDefault(l => l.Word == item) is not { } line)
        {
            return NotFound();
        }
        return await AnswerAsync(await Steps.DoAsync(Who, Number, StepStore.Running, line.ItemOf(cylinder), null, done, Key(entry, $"{item}|{cylinder}|{done}"), TypedAt.Of(at, Clock),
            s => RunningRules.Forbids(s.Job.Record) ?? s.Safety.ForbidsStart, cancel), done ? "Ticked." : "Unticked.", cancel);
    }

    /// <summary>An idle reading after the relief was pressed.</summary>
    public Task<IActionResult> OnPostIdleAsync(string? idle, string? unit, string? entry, string? at, CancellationToken cancel)
    {
        TypedIdle = idle;
        return KeepAsync(idle, "idle", unit, entry, at, (before, value) => (RunningEntry.Idle(before, value), null), "idle", cancel);
    }

    /// <summary>The reading after a short snap.</summary>
    public Task<IActionResult> OnPostSnapAsync(string? snap, string? unit, string? entry, string? at, CancellationToken cancel)
    {
        TypedSnap = snap;
        return KeepAsync(snap, "snap", unit, entry, at, RunningEntry.Snap, "snap", cancel);
    }

    /// <summary>The figure at held full throttle: only noted.</summary>
    public Task<IActionResult> OnPostHeldAsync(string? held, string? unit, string? entry, string? at, CancellationToken cancel)
    {
        TypedHeld = held;
        return KeepAsync(held, "held", unit, entry, at, RunningEntry.Held, "held throttle", cancel);
    }

    /// <summary>The spark that was seen in the tester.</summary>
    public async Task<IActionResult> OnPostSparkAsync(string? spark, string? entry, string? at, CancellationToken cancel)
    {
        if (!RecordWords.TryParse<SparkSeen>(spark, out var seen))
        {
            return NotFound();
        }
        var cylinder = Cylinder ?? 1;
        var when = TypedAt.Of(at, Clock);
        var noted = (SparkSeen?)seen;
        var answer = await Steps.KeepAsync<RunningCompressionTest, RunningReading>(Who, Number, cylinder, ReadingDesk.StartRunning, (standing, _, before) =>
        {
            // Tapped again it was a slip of the finger.
            noted = before?.Spark == seen ? null : seen;
            return (RunningRules.Forbids(standing.Job.Record) ?? standing.Safety.ForbidsStart) is { } why ? (null, why)
                : ((before ?? new RunningReading { Cylinder = cylinder, At = when, By = Who.Person }) with { Spark = noted }, null);
        }, Key(entry, $"spark|{cylinder}|{seen}"), when, cancel: cancel);
        return await AnswerAsync(answer, $"Cylinder {cylinder}, spark: {(noted is { } n ? RecordWords.Of(n) : "not noted")}.", cancel);
    }

    /// <summary>Takes the person's own last entry back.</summary>
    public async Task<IActionResult> OnPostUndoAsync(string? entry, string? at, CancellationToken cancel) =>
        await AfterUndoAsync(await Steps.UndoAsync(Who, Number, TestKind.Running, Key(entry, "undo"), TypedAt.Of(at, Clock), cancel), cancel);

    private async Task<IActionResult> KeepAsync(
        string? typed, string field, string? unit, string? entry, string? at, Func<RunningReading, double, (RunningReading?, string?)> make, string what, CancellationToken cancel)
    {
        var cylinder = Cylinder ?? 1;
        var typedIn = RecordWords.Parse(unit, PressureUnit.Psi);
        var read = PressureEntry.Read(typed, typedIn);
        if (read.Pressure is not { } pressure)
        {
            return await RefuseAsync(read.Problem!, field, cancel);
        }
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        var answer = await readings.RunningAsync(Who, Number, cylinder, pressure, make, Key(entry, FormattableString.Invariant($"{what}|{cylinder}|{pressure.Value:R}|{typedIn}")), TypedAt.Of(at, Clock), null, cancel);
        if (answer is { Found: true, Refused: null })
        {
            (TypedIdle, TypedSnap, TypedHeld) = (null, null, null);
        }
        return await AnswerAsync(answer, $"Cylinder {cylinder}, {what}: {pressure.Text(typedIn)} {typedIn.Symbol()} saved.", cancel);
    }

    protected override async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return false;
        }
        Test = (Job.Record.Tests ?? []).OfType<RunningCompressionTest>().LastOrDefault() ?? ReadingDesk.StartRunning(Job);
        Judged = Assessment.Tests.Of(Test);
        Dry = Assessment.Tests.Dry;
        Forbidden = RunningRules.Forbids(Job.Record) ?? Safety.ForbidsStart;
        Ticked = JobState.Ticked(StepStore.Running);
        At = Cylinder is { } c && c >= 1 && c <= Engine.Cylinders ? c
            : Enumerable.Range(1, Engine.Cylinders).FirstOrDefault(x => Blocked(x) is null && ReadingOf(x)?.Snap is null, 1);
        return true;
    }
}
