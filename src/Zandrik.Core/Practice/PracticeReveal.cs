using Zandrik.Core.Compression;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.Practice;

/// <summary>What a cylinder would have read with something else wrong with it, prepared as it should be.</summary>
/// <param name="Fault">What would be wrong; <see cref="Fault.Sound"/> for nothing.</param>
/// <param name="DryPa">Dry, Pa.</param>
/// <param name="WetPa">Over the usual oil, Pa.</param>
/// <param name="LeakPercent">Leak-down, percent of the supply.</param>
/// <param name="IsSo">True for what it really is.</param>
public sealed record PracticeOther(Fault Fault, double DryPa, double WetPa, double LeakPercent, bool IsSo);

/// <summary>What is shown of an exercise when it was called.</summary>
public static class PracticeReveal
{
    // What is commonly weighed against each other.
    private static readonly Fault[] Usual = [Fault.Rings, Fault.IntakeValve, Fault.ExhaustValve, Fault.GasketAdjacent, Fault.GasketCoolant, Fault.IntakeNotOpening, Fault.ShortStroke];

    /// <summary>What a cylinder would have read with each of the usual faults as bad as its own, or moderate where it has none.</summary>
    /// <param name="exercise">The exercise.</param>
    /// <param name="cylinder">The cylinder.</param>
    /// <returns>Sound first, then what it is, then the others.</returns>
    public static IReadOnlyList<PracticeOther> Others(PracticeCase exercise, int cylinder)
    {
        var engine = exercise.Engine.Engine;
        var truth = exercise.Truths.FirstOrDefault(t => t.Cylinder == cylinder) ?? exercise.Truths.FirstOrDefault(t => t.With == cylinder);
        var beside = engine.Webs.Where(w => w.First == cylinder || w.Second == cylinder).Select(w => w.First == cylinder ? w.Second : w.First).ToList();
        var severity = truth?.Severity ?? 1;
        // As it was built, without what is wrong with it.
        var built = new CylinderCondition { RingFactor = exercise.At(cylinder).RingFactor, ValveFactor = exercise.At(cylinder).ValveFactor };
        EngineUnderTest With(CylinderCondition condition) => new(engine, new Dictionary<int, CylinderCondition> { [cylinder] = condition });
        var faults = new[] { Fault.Sound }.Concat(truth is null ? [] : [truth.Fault]).Concat(Usual).Distinct().Where(f => f != Fault.GasketAdjacent || beside.Count > 0).ToList();
        var states = faults.Select(f => f == Fault.Sound ? With(built) : truth?.Fault == f ? exercise.Engine : With(SimulatedFault.Of(engine, f, severity, built, f == Fault.GasketAdjacent ? beside[0] : null))).ToList();
        var oil = OilAmount.For(exercise.Intake.Engine).Ml * 1e-6;
        GaugeTest Test(double m3) => new() { Cylinder = cylinder, OilM3 = m3, Pulses = PracticeBench.UsualCompressions, How = new Cranking { StepDeg = 1, Seconds = 30 } };
        var read = GaugeRun.Of([.. states.Select(s => (s, Test(0))), .. states.Select(s => (s, Test(oil)))]);
        return [.. faults.Select((f, i) => new PracticeOther(f, read[i].FinalPa, read[faults.Count + i].FinalPa, StaticLeak.Of(states[i], new StaticTest { Cylinder = cylinder, CrankHeld = true }).Percent, truth is null ? f == Fault.Sound : f == truth.Fault))];
    }

    /// <summary>The leak areas of a cylinder as they really are, by the way they go.</summary>
    /// <param name="exercise">The exercise.</param>
    /// <param name="cylinder">The cylinder.</param>
    /// <returns>m² for each way, and whether it is more than a sound cylinder lets by; the neighbour behind a gasket.</returns>
    public static IReadOnlyList<(LeakPlace Place, int? To, double M2, bool More)> Areas(PracticeCase exercise, int cylinder)
    {
        var e = exercise.Engine.Engine;
        var c = exercise.At(cylinder);
        var web = exercise.Engine.Condition.Where(k => k.Value.GasketTo is { } to && (k.Key == cylinder || to == cylinder)).Select(k => (Beside: k.Key == cylinder ? k.Value.GasketTo!.Value : k.Key, k.Value.GasketM2)).ToList();
        return
        [
            (LeakPlace.Rings, null, (e.RingLeakM2 * c.RingFactor + c.RingM2) * c.WashFactor, c.RingM2 > 0.4e-6 * e.Size || c.WashFactor > 1), (LeakPlace.Crown, null, c.CrownM2, c.CrownM2 > 0),
            (LeakPlace.Intake, null, e.ValveLeakM2 * c.ValveFactor + c.IntakeValveM2, c.IntakeValveM2 > 0), (LeakPlace.Exhaust, null, e.ValveLeakM2 * c.ValveFactor + c.ExhaustValveM2, c.ExhaustValveM2 > 0),
            (LeakPlace.Coolant, null, c.CoolantM2, c.CoolantM2 > 0), .. web.Select(w => (LeakPlace.Neighbour, (int?)w.Beside, w.GasketM2, true)),
        ];
    }

    /// <summary>What is really wrong, in a sentence.</summary>
    /// <param name="exercise">The exercise.</param>
    /// <returns>One or two sentences.</returns>
    public static string Says(PracticeCase exercise)
    {
        if (exercise.Truths.Count == 0)
        {
            return exercise.Trap switch
            {
                PracticeTrap.CheckValveInHead => "The engine is sound. The first gauge has its check valve in the head, so the hose was part of every combustion chamber and every cylinder read low.",
                PracticeTrap.GaugeReadsLow => "The engine is sound. The first gauge reads an eighth low.",
                PracticeTrap.SealLeaks => FormattableString.Invariant($"The engine is sound. The adapter did not seal at cylinder {exercise.TrapAt} until it was seated anew."),
                PracticeTrap.LeakValveLeftIn => "The engine is sound. The check valve was left in the hose of the leak-down tester, so its first reading lost nothing.",
                _ => "Nothing is wrong with this engine.",
            };
        }
        string How(double severity) => severity < 0.6 ? "slight" : severity < 1.4 ? "moderate" : "severe";
        var found = string.Join("; ", exercise.Truths.Select(t => FormattableString.Invariant($"cylinder {t.Cylinder}: {FaultWords.Of(t.Fault, t.With, t.Cylinder)}, {How(t.Severity)}")));
        var or = exercise.Truths.FirstOrDefault(t => t.Or is not null)?.Or;
        return char.ToUpperInvariant(found[0]) + found[1..] + "." + (or is { } o ? $" By these tests it cannot be told from {FaultWords.Of(o)}: the right call names both." : "");
    }
}
