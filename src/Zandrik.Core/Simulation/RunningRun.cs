using System.Runtime.Intrinsics;

namespace Zandrik.Core.Simulation;

/// <summary>How a running compression test is done at one cylinder.</summary>
public sealed record RunningTest
{
    /// <summary>The cylinder, from 1.</summary>
    public required int Cylinder { get; init; }

    /// <summary>Air outside and step; the rest of cranking does not matter here.</summary>
    public Cranking How { get; init; } = new() { StepDeg = 0.5 };

    /// <summary>The gauge.</summary>
    public GaugeKit Kit { get; init; } = GaugeKit.Usual;

    /// <summary>
    /// True for the two rules of thumb that the equations do not make: the idle control opens further where a cylinder holds its
    /// charge back, and the snap of such a cylinder reads low. Petrol only.
    /// </summary>
    public bool WithRulesOfThumb { get; init; } = true;
}

/// <summary>What a gauge showed in a cylinder of a running engine: at idle, and after a snap of the throttle.</summary>
/// <param name="IdlePa">At idle, Pa over the air outside.</param>
/// <param name="SnapPa">After the snap, without letting the air out before, Pa over the air outside.</param>
public sealed record RunningRun(double IdlePa, double SnapPa)
{
    private const double IdleS = 5, SnapReadS = 2.6;

    /// <summary>Tests many cylinders, four side by side.</summary>
    /// <param name="tests">Engines and how they are tested.</param>
    /// <returns>What the gauge showed in each, in the same order.</returns>
    public static IReadOnlyList<RunningRun> Of(IReadOnlyList<(EngineUnderTest Engine, RunningTest Test)> tests)
    {
        var runs = new RunningRun[tests.Count];
        foreach (var few in Enumerable.Range(0, tests.Count).GroupBy(i => tests[i].Engine.Engine.Cylinders).SelectMany(g => g.Chunk(MotoredLanes.Width)))
        {
            var some = few.Select(i => tests[i]).ToArray();
            var idle = Turn([.. some.Select(t => SetupOf(t.Engine, t.Test, snap: false))], IdleS);
            var snap = Turn([.. some.Select(t => SetupOf(t.Engine, t.Test, snap: true))], SnapReadS);
            for (var k = 0; k < few.Length; k++)
            {
                var (engine, test) = some[k];
                var held = engine.Condition.TryGetValue(test.Cylinder, out var c) ? HeldBack(c.ExhaustLift) : 0;
                var rules = test.WithRulesOfThumb && !engine.Engine.IsDiesel;
                runs[few[k]] = new RunningRun(idle[k], snap[k] * (rules ? 1 - 0.45 * held : 1));
            }
        }
        return runs;
    }

    // How far an exhaust valve is from letting its charge go: 0 for one that does.
    private static double HeldBack(double exhaustLift) => Math.Max(0, 1 - exhaustLift / 0.5);

    private static MotoredSetup SetupOf(EngineUnderTest engine, RunningTest test, bool snap)
    {
        var e = engine.Engine;
        var most = engine.Condition.Values.Select(c => HeldBack(c.ExhaustLift)).DefaultIfEmpty(0).Max();
        var idle = e.IdleThrottleM2 * (test.WithRulesOfThumb && !e.IsDiesel ? 1 + 0.35 * most : 1);
        var (slow, fast) = (e.IdleRpm * Math.PI / 30, (e.SnapRpm ?? e.IdleRpm) * Math.PI / 30);
        return new()
        {
            Engine = e, Condition = engine.Condition, How = test.How, Tested = test.Cylinder, Kit = test.Kit, Running = true, ThrottleM2 = idle,
            Speed = snap ? new SpeedCourse(slow, fast, SpeedCourse.SnapAtS, 2.3, e.ThrottleM2) : new SpeedCourse(slow, slow, 0, 1, 0),
        };
    }

    // The gauge fills slowly against the turns it takes to draw the manifold down: what that held at first does not stay in it.
    private static double[] Turn(MotoredSetup[] setups, double untilS)
    {
        var lanes = new MotoredLanes(setups);
        var read = Vector256<double>.Zero;
        // Each at its own time, so that none depends on what turns beside it.
        while (Vector256.LessThanAny(lanes.TimeS, Vector256.Create(untilS)))
        {
            var before = lanes.TimeS;
            lanes.Step();
            read = Vector256.ConditionalSelect(Vector256.LessThan(before, Vector256.Create(untilS)), lanes.GaugePa - lanes.OutsidePa, read);
        }
        return [.. Enumerable.Range(0, setups.Length).Select(k => read[k])];
    }
}
