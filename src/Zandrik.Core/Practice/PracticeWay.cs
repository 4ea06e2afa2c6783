using Zandrik.Core.Assessment;
using Zandrik.Core.Compression;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Engines;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Preparation;
using Zandrik.Core.Records;
using Zandrik.Core.Running;
using Zandrik.Core.Units;

namespace Zandrik.Core.Practice;

/// <summary>A step of a good way.</summary>
/// <param name="Kind">The test.</param>
/// <param name="Cylinders">The cylinders; empty for the engine.</param>
/// <param name="Says">What is done.</param>
public sealed record PracticeWayStep(StepKind Kind, IReadOnlyList<int> Cylinders, string Says);

/// <summary>
/// The shortest good way through an exercise: of the ways somebody would go who prepares the engine well, the one with the
/// fewest minutes after which the readings say what is hidden. It is found by going them, not written down.
/// </summary>
/// <param name="Steps">What is done, in order.</param>
/// <param name="Minutes">How long that takes, minutes.</param>
/// <param name="Says">What the judgement says then.</param>
public sealed record PracticeWay(IReadOnlyList<PracticeWayStep> Steps, double Minutes, string Says)
{
    private const PressureUnit Unit = PressureUnit.Psi;
    private const double VeryLikely = 0.8;

    /// <summary>Finds it.</summary>
    /// <param name="exercise">The exercise.</param>
    /// <returns>The way; null where none of the ways tells.</returns>
    public static PracticeWay? Of(PracticeCase exercise)
    {
        var diesel = exercise.Intake.Engine.Fuel == Fuel.Diesel;
        var suspects = exercise.Truths.Select(t => t.Cylinder).Order().ToArray();
        var trap = exercise.Trap is PracticeTrap.CheckValveInHead or PracticeTrap.GaugeReadsLow;
        var bench = new Measured(exercise, suspects, trap);
        var ways = new List<(PracticeWay Way, TestRecord Record)>();
        foreach (var (leak, wet, running, gas, again) in new[]
        {
            (false, false, false, false, false), (false, false, false, false, true), (true, false, false, false, false), (false, true, false, false, false), (false, false, false, true, false), (true, false, false, true, false), (true, true, false, false, false),
            (true, false, true, false, false), (false, false, true, false, false), (true, true, false, true, false),
        })
        {
            if ((wet || running) && diesel || (suspects.Length == 0 && (leak || wet || running)) || again != (exercise.Trap == PracticeTrap.SealLeaks))
            {
                continue;
            }
            ways.Add(bench.Go(leak, wet, running, gas, again));
        }
        var went = ways.OrderBy(w => w.Way.Minutes).Select(w => (w.Way, Said: new Lazy<EngineDiagnosis>(() => JobAssessment.Of(w.Record).Diagnosis))).ToList();
        // Nobody opens an engine on "probably" where a further test makes it "very likely".
        foreach (var sure in new[] { VeryLikely, FaultWords.Said })
        {
            if (went.FirstOrDefault(w => Tells(exercise, w.Said.Value, sure)) is { Way: { } way } found)
            {
                return way with { Says = found.Said.Value.Headline };
            }
        }
        return null;
    }

    // Whether somebody who reads the judgement would call it right.
    private static bool Tells(PracticeCase exercise, EngineDiagnosis said, double sure)
    {
        foreach (var c in said.Cylinders)
        {
            var truth = exercise.Truths.FirstOrDefault(t => t.Cylinder == c.Cylinder);
            var beside = exercise.Truths.FirstOrDefault(t => t.With == c.Cylinder);
            if (truth is null)
            {
                if (beside is null ? c.Of(Fault.Sound) + c.Of(Fault.TestError) < 0.5 : c.Of(Fault.Sound) + c.Of(beside.Fault) < 0.5)
                {
                    return false;
                }
                continue;
            }
            if (truth.Or is { } or ? c.Of(truth.Fault) + c.Of(or) <= sure : c.Of(truth.Fault) <= sure)
            {
                return false;
            }
        }
        return exercise.Truths.Count > 0 || said.State is EngineState.Sound or EngineState.Watch;
    }

    // Every test is done once, and belongs to each way it is on.
    private sealed class Measured
    {
        private readonly PracticeCase exercise;
        private readonly int[] suspects, all, ran;
        private readonly bool secondGauge;
        private readonly PracticeStand stand;
        private readonly Dictionary<PreparationItem, string?> prepared;
        private readonly TestConditions conditions;
        private readonly Lazy<TestEntry> dry, leakDown, wet, running;

        public Measured(PracticeCase exercise, int[] suspects, bool secondGauge)
        {
            (this.exercise, this.suspects, this.secondGauge) = (exercise, suspects, secondGauge);
            var engine = exercise.Intake.Engine;
            stand = PracticeStand.Ready with { SecondGauge = secondGauge };
            prepared = PreparationList.For(engine).ToDictionary(l => l.Item, l => l.Item == PreparationItem.Warm ? "warm" : l.Ways.Count > 0 ? l.Ways[0].Word : null);
            conditions = prepared.Aggregate(new TestConditions(), (c, p) => PreparationList.Conditions(c, p.Key, p.Value));
            all = [.. Enumerable.Range(1, exercise.Cylinders)];
            // A good cylinder beside it, to compare with.
            ran = [.. suspects, all.First(c => !exercise.IsFaulty(c))];
            var ml = OilAmount.For(engine).Ml;
            dry = new(() => new DryCompressionTest { Unit = Unit, Conditions = conditions, Readings = [.. all.Select(c => Reading(c, PracticeBench.Crank(exercise, stand, c, PracticeBench.UsualCompressions, c == exercise.TrapAt ? 1 : 0)))] });
            leakDown = new(() => new LeakDownTest { Unit = Unit, Conditions = conditions, Readings = [.. suspects.Select(c => Heard(exercise, stand, c))] });
            wet = new(() => new WetCompressionTest { Unit = Unit, Conditions = conditions, OilMl = ml, Readings = [.. suspects.Select(c => Reading(c, PracticeBench.Crank(exercise, stand, c, PracticeBench.UsualCompressions, 0, ml), ml))] });
            running = new(() => new RunningCompressionTest { Unit = Unit, Readings = [.. ran.Select(c => RunningEntry.Snap(Idle(c), Read(PracticeBench.Running(exercise, stand, c, 3, snap: true))).Reading!)] });
        }

        public (PracticeWay, TestRecord) Go(bool withLeak, bool withWet, bool withRunning, bool withGas, bool again)
        {
            var (done, steps, tests) = (new List<PracticeDone>(), new List<PracticeWayStep> { new(StepKind.Prepare, [], "Run it warm, every line of the preparation.") }, new List<TestEntry>());
            void Step(bool taken, StepKind kind, PracticeAct act, IReadOnlyList<int> at, string says, Func<TestEntry> test)
            {
                if (taken)
                {
                    steps.Add(new(kind, at, says));
                    done.AddRange(at.Select(c => new PracticeDone(act, c)));
                    tests.Add(test());
                }
            }
            if (secondGauge)
            {
                steps.Add(new(StepKind.Dry, [], "Look the gauge over, and take the second one."));
                done.AddRange([new(PracticeAct.LookOver), new(PracticeAct.SecondGauge)]);
            }
            if (withGas)
            {
                steps.Add(new(StepKind.CombustionGas, [], "Combustion gas in the coolant."));
                done.Add(new(PracticeAct.Check, null, null, RecordWords.Of(StepKind.CombustionGas)));
                tests.Add(PracticeBench.Check(exercise, StepKind.CombustionGas)!);
            }
            Step(true, StepKind.Dry, PracticeAct.Dry, all, again ? $"Dry compression of every cylinder; {exercise.TrapAt} once more, the adapter seated anew." : "Dry compression of every cylinder.", () => dry.Value);
            done.AddRange(again ? [new PracticeDone(PracticeAct.Dry, exercise.TrapAt)] : []);
            Step(withLeak, StepKind.LeakDown, PracticeAct.LeakDown, suspects, $"Leak-down of {CylinderList.Sentence(suspects)}, listening everywhere.", () => leakDown.Value);
            Step(withWet, StepKind.Wet, PracticeAct.Wet, suspects, $"Wet compression of {CylinderList.Sentence(suspects)}.", () => wet.Value);
            Step(withRunning, StepKind.Running, PracticeAct.Running, ran, $"Idle and snap of {CylinderList.Sentence(ran)}.", () => running.Value);
            return (new(steps, PracticeClock.Minutes(exercise.Cylinders, prepared, done), ""), exercise.Intake with { Tests = tests });
        }

        private static double Read(double pascals) => Math.Round(pascals / Unit.Pascals());

        private static CompressionReading Reading(int c, PracticeGaugeReading read, double? oil = null) => new()
        {
            Cylinder = c, Value = Read(read.FinalPa), FirstPulse = Read(read.PulsesPa[0]), Pulses = read.PulsesPa.Count, PulseValues = [.. read.PulsesPa.Select(Read)], Seconds = read.Seconds, OilMl = oil,
        };

        private RunningReading Idle(int c) =>
            Enumerable.Range(1, 2).Aggregate(new RunningReading { Cylinder = c }, (r, press) => RunningEntry.Idle(r, Read(PracticeBench.Running(exercise, stand, c, press, snap: false))));
    }

    private static LeakDownReading Heard(PracticeCase exercise, PracticeStand stand, int cylinder)
    {
        var leak = PracticeBench.LeakDown(exercise, stand, cylinder, attempt: 1);
        var beside = Neighbours.Of(exercise.Intake.Engine, cylinder);
        var reading = new LeakDownReading { Cylinder = cylinder, Supply = Math.Round(leak.SupplyPa / Unit.Pascals()), Held = Math.Round(leak.HeldPa / Unit.Pascals()) };
        foreach (var (place, hole) in AirHeard.Everywhere.Where(p => p != ListeningPlace.AdjacentPlugHole).Select(p => (p, (int?)null)).Concat(new[] { beside.Before, beside.Behind }.OfType<int>().Select(h => (ListeningPlace.AdjacentPlugHole, (int?)h))))
        {
            reading = LeakDownEntry.Heard(reading, place, hole, PracticeBench.Listen(exercise, stand, cylinder, leak, place, hole, []).Strength);
        }
        return reading;
    }
}
