using Zandrik.Core.Physics;

namespace Zandrik.Core.Simulation;

/// <summary>An engine as it stands there: what it is, and what is wrong with it.</summary>
/// <param name="Engine">What it is.</param>
/// <param name="Condition">Each cylinder by number; those missing are sound.</param>
public sealed record EngineUnderTest(SimulatedEngine Engine, IReadOnlyDictionary<int, CylinderCondition> Condition)
{
    /// <summary>One with nothing wrong.</summary>
    public EngineUnderTest(SimulatedEngine engine)
        : this(engine, new Dictionary<int, CylinderCondition>())
    {
    }
}

/// <summary>How a compression test is done at one cylinder.</summary>
public sealed record GaugeTest
{
    /// <summary>The cylinder, from 1.</summary>
    public required int Cylinder { get; init; }

    /// <summary>How it is cranked; its start angle counts from this cylinder's firing top dead centre.</summary>
    public Cranking How { get; init; } = new() { StepDeg = 0.5, Seconds = 30 };

    /// <summary>The gauge; absent for none: then the pulses are the peaks in the cylinder.</summary>
    public GaugeKit? Kit { get; init; } = GaugeKit.Usual;

    /// <summary>True with all plugs left in but this one.</summary>
    public bool PlugsIn { get; init; }

    /// <summary>True with the throttle left shut; an engine without one does not care.</summary>
    public bool ThrottleShut { get; init; }

    /// <summary>Oil put into the cylinder before, m³; 0 for a dry test.</summary>
    public double OilM3 { get; init; }

    /// <summary>Compressions of this cylinder, 1 or more.</summary>
    public int Pulses { get; init; } = 12;

    /// <summary>A speed that is given, rpm; absent where the starter turns it.</summary>
    public double? Rpm { get; init; }

    /// <summary>True to keep what the gauge held over time.</summary>
    public bool KeepCourse { get; init; }
}

/// <summary>
/// What a compression gauge showed while one cylinder was cranked, from the crank-angle model of docs/simulation.md.
/// Deterministic: the same engine and test give the same bits on every machine.
/// </summary>
public sealed class GaugeRun
{
    private GaugeRun(IReadOnlyList<double> pulses, double seconds, double rpm, bool stalled, IReadOnlyList<GaugeMoment> course) =>
        (PulsesPa, Seconds, MeanRpm, Stalled, Course) = (pulses, seconds, rpm, stalled, course);

    /// <summary>What the gauge held after each compression, Pa over the air outside; fewer than asked for where the time was over.</summary>
    public IReadOnlyList<double> PulsesPa { get; }

    /// <summary>After the first compression, Pa; 0 where there was none.</summary>
    public double FirstPa => PulsesPa.Count > 0 ? PulsesPa[0] : 0;

    /// <summary>After the last, Pa; 0 where there was none.</summary>
    public double FinalPa => PulsesPa.Count > 0 ? PulsesPa[^1] : 0;

    /// <summary>How long it took, s.</summary>
    public double Seconds { get; }

    /// <summary>Mean speed over the whole test, rpm.</summary>
    public double MeanRpm { get; }

    /// <summary>True where the starter did not get it round often enough in its time.</summary>
    public bool Stalled { get; }

    /// <summary>What the gauge held over time, a moment for each step; empty unless asked for.</summary>
    public IReadOnlyList<GaugeMoment> Course { get; }

    /// <summary>Tests one cylinder.</summary>
    /// <param name="engine">The engine.</param>
    /// <param name="test">How it is tested.</param>
    /// <returns>What the gauge showed.</returns>
    public static GaugeRun Of(EngineUnderTest engine, GaugeTest test) => Of([(engine, test)])[0];

    /// <summary>Tests many, four side by side where they have as many cylinders to turn.</summary>
    /// <param name="tests">Engines and how they are tested.</param>
    /// <returns>What the gauge showed in each, in the same order; each is as if it had been tested by itself.</returns>
    public static IReadOnlyList<GaugeRun> Of(IReadOnlyList<(EngineUnderTest Engine, GaugeTest Test)> tests)
    {
        var runs = new GaugeRun[tests.Count];
        var alike = Enumerable.Range(0, tests.Count).GroupBy(i => (tests[i].Test.PlugsIn ? tests[i].Engine.Engine.Cylinders : 0, tests[i].Test.Rpm is null));
        foreach (var few in alike.SelectMany(g => g.Chunk(MotoredLanes.Width)))
        {
            Turn([.. few.Select(i => tests[i])], few, runs);
        }
        return runs;
    }

    private static MotoredSetup SetupOf(EngineUnderTest engine, GaugeTest test) => new()
    {
        Engine = engine.Engine, Condition = engine.Condition, How = test.How, Tested = test.Cylinder, Kit = test.Kit, PlugsOut = !test.PlugsIn, OilM3 = test.OilM3,
        ThrottleM2 = test.ThrottleShut ? engine.Engine.IdleThrottleM2 : engine.Engine.ThrottleM2, Speed = test.Rpm is { } rpm ? SpeedCourse.Even(rpm) : null,
    };

    private static void Turn((EngineUnderTest Engine, GaugeTest Test)[] tests, int[] places, GaugeRun[] runs)
    {
        var lanes = new MotoredLanes([.. tests.Select(t => SetupOf(t.Engine, t.Test))]);
        var pulses = tests.Select(t => new List<double>(t.Test.Pulses)).ToArray();
        var (last, top, from) = (new double[tests.Length], new double[tests.Length], new double[tests.Length]);
        var courses = tests.Select(t => t.Test.KeepCourse ? new List<GaugeMoment>() : null).ToArray();
        var keep = courses.Any(c => c is not null);
        var peaks = tests.Any(t => t.Test.Kit is null);
        for (var k = 0; k < tests.Length; k++)
        {
            (last[k], from[k]) = (lanes.Turned[k], lanes.CrankRad[k]);
        }
        var open = tests.Length;
        while (open > 0)
        {
            lanes.Step();
            var (turned, time) = (lanes.Turned, lanes.TimeS);
            for (var k = 0; k < tests.Length; k++)
            {
                if (runs[places[k]] is not null)
                {
                    continue;
                }
                if (keep)
                {
                    courses[k]?.Add(new GaugeMoment(time[k], lanes.CrankRad[k], lanes.GaugePa[k] - lanes.OutsidePa[k], lanes.CurrentA[k]));
                }
                if (peaks)
                {
                    top[k] = turned[k] is > Math.PI and < 3 * Math.PI ? 0 : Math.Max(top[k], lanes.PressurePa[0][k] - lanes.OutsidePa[k]);
                }
                // The compression is over, and what it brought is in the gauge.
                if (last[k] < Math.PI / 2 && turned[k] >= Math.PI / 2 && turned[k] < Math.PI)
                {
                    pulses[k].Add(tests[k].Test.Kit is null ? top[k] : lanes.GaugePa[k] - lanes.OutsidePa[k]);
                }
                last[k] = turned[k];
                var unfinished = pulses[k].Count < tests[k].Test.Pulses;
                if (!unfinished || time[k] >= tests[k].Test.How.Seconds)
                {
                    runs[places[k]] = new GaugeRun(pulses[k], time[k], (lanes.CrankRad[k] - from[k]) / time[k] * 30 / Math.PI, unfinished, courses[k] ?? []);
                    open--;
                }
            }
        }
    }
}

/// <summary>One moment of a compression test.</summary>
/// <param name="TimeS">Since the starter was engaged, s.</param>
/// <param name="CrankRad">Crank angle, rad.</param>
/// <param name="HeldPa">What the gauge holds, Pa over the air outside.</param>
/// <param name="CurrentA">Starter current, A.</param>
public readonly record struct GaugeMoment(double TimeS, double CrankRad, double HeldPa, double CurrentA);
