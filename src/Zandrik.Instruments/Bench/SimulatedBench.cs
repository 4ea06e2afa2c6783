using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Instruments.Bench;

/// <summary>What the crank of the bench is doing.</summary>
public enum BenchMotion
{
    /// <summary>It stands.</summary>
    Still,

    /// <summary>The starter turns it.</summary>
    Cranking,

    /// <summary>The engine runs at idle, or was just snapped.</summary>
    Running,
}

/// <summary>
/// The engine that the instruments are connected to: invented, with whatever is wrong with it, and turned when it is told
/// to. All instruments of the program are on the same one. Pressures are Pa over the air outside.
/// </summary>
/// <param name="clock">The clock: what is cranked takes as long as it takes.</param>
public sealed class SimulatedBench(TimeProvider clock)
{
    /// <summary>How long the needle takes to follow, s: the gauge's display, not what it holds.</summary>
    public const double NeedleLagS = 0.06;

    /// <summary>How often the gauge writes its trace, times a second.</summary>
    public const int TraceHz = 100;

    /// <summary>How long the recorder's clamp sees the starter while it is cranked for a capture, s.</summary>
    public const double CaptureS = 4;

    // How quickly a gauge on a running engine fills, and a leak tester settles, s.
    private const double IdleFillsS = 0.35, SnapFillsS = 0.2, AirSettlesS = 0.25;

    private readonly Lock turn = new();
    private readonly Dictionary<int, CylinderCondition> condition = [];
    private readonly Dictionary<int, double> oilMl = [];
    private SimulatedEngine engine = SimulatedEngine.InlineFour;
    private long movedAt, courseAt;
    private GaugeRun? cranked;
    private double heldBeforePa, idlePa, snapPa, fillsS, crankS;
    private ICrankCourse? course;
    private bool airOn;
    private long airAt;

    /// <summary>The engine.</summary>
    public SimulatedEngine Engine
    {
        get { lock (turn) { return engine; } }
        set
        {
            lock (turn)
            {
                engine = value;
                condition.Clear();
                oilMl.Clear();
                (Cylinder, heldBeforePa) = (1, 0);
                Stop();
            }
        }
    }

    /// <summary>The cylinder the hose is in.</summary>
    public int Cylinder { get; private set; } = 1;

    /// <summary>True with the throttle left shut.</summary>
    public bool ThrottleShut { get; set; }

    /// <summary>True for a cold engine.</summary>
    public bool Cold { get; set; }

    /// <summary>True with the other plugs left in.</summary>
    public bool PlugsIn { get; set; }

    /// <summary>How weak the battery is, 0 to 1.</summary>
    public double WeakBattery { get; set; }

    /// <summary>How far the crank is off top dead centre for the leak-down, degrees.</summary>
    public double OffDeg { get; set; }

    /// <summary>Supply of the leak tester, Pa.</summary>
    public double SupplyPa { get; set; } = LeakFlow.StandardSupplyPa;

    /// <summary>What is wrong, as it was set.</summary>
    public string Faults { get { lock (turn) { return string.Join(';', condition.OrderBy(c => c.Key).Select(c => $"{c.Key}:{faultNames.GetValueOrDefault(c.Key)}")); } } }

    private readonly Dictionary<int, string> faultNames = [];

    /// <summary>Puts the hose into another cylinder. What the gauge holds is let out as it is taken off.</summary>
    /// <param name="cylinder">The cylinder.</param>
    public void MoveTo(int cylinder)
    {
        lock (turn)
        {
            (Cylinder, heldBeforePa) = (cylinder, 0);
            Stop();
        }
    }

    /// <summary>Makes a fault.</summary>
    /// <param name="cylinder">The cylinder.</param>
    /// <param name="fault">One of <see cref="SimulatedFault.All"/>.</param>
    /// <param name="severity">0 mild, 1 moderate, 2 severe.</param>
    /// <param name="neighbour">The neighbour behind a burnt web.</param>
    public void Break(int cylinder, Fault fault, double severity, int? neighbour = null)
    {
        lock (turn)
        {
            condition[cylinder] = SimulatedFault.Of(engine, fault, severity, condition.GetValueOrDefault(cylinder), neighbour);
            faultNames[cylinder] = RecordWords.Of(fault);
        }
    }

    /// <summary>Makes everything sound, warm, open and dry again.</summary>
    public void Mend()
    {
        lock (turn)
        {
            condition.Clear();
            oilMl.Clear();
            faultNames.Clear();
            (ThrottleShut, Cold, PlugsIn, WeakBattery, OffDeg, SupplyPa) = (false, false, false, 0, 0, LeakFlow.StandardSupplyPa);
            (airOn, heldBeforePa) = (false, 0);
            Stop();
        }
    }

    /// <summary>Puts oil into the cylinder the hose is in.</summary>
    /// <param name="ml">How much, ml.</param>
    public void Oil(double ml)
    {
        lock (turn)
        {
            oilMl[Cylinder] = oilMl.GetValueOrDefault(Cylinder) + ml;
        }
    }

    /// <summary>What the crank is doing.</summary>
    public BenchMotion Motion
    {
        get
        {
            lock (turn)
            {
                return fillsS > 0 ? BenchMotion.Running : Since(movedAt) < crankS ? BenchMotion.Cranking : BenchMotion.Still;
            }
        }
    }

    /// <summary>Cranks the cylinder the hose is in.</summary>
    /// <param name="compressions">How many compressions of it.</param>
    /// <returns>False where it moves already, or is under air.</returns>
    public bool Crank(int compressions)
    {
        lock (turn)
        {
            if (Motion != BenchMotion.Still || airOn)
            {
                return false;
            }
            heldBeforePa = HeldPa;
            var run = GaugeRun.Of(Standing, new GaugeTest
            {
                Cylinder = Cylinder, PlugsIn = PlugsIn, ThrottleShut = ThrottleShut, OilM3 = oilMl.GetValueOrDefault(Cylinder) * 1e-6, Pulses = compressions, KeepCourse = true,
                How = new Cranking { StepDeg = 0.5, Seconds = 30, Cold = Cold, WeakBattery = WeakBattery },
            });
            (cranked, course, crankS, courseAt) = (run, new GaugeCourse(run, engine), run.Seconds, clock.GetTimestamp());
            movedAt = courseAt;
            return true;
        }
    }

    /// <summary>Cranks with all plugs in, for the clamp.</summary>
    /// <returns>False where it moves already, or is under air.</returns>
    public bool CrankForClamp()
    {
        lock (turn)
        {
            if (Motion != BenchMotion.Still || airOn)
            {
                return false;
            }
            heldBeforePa = HeldPa;
            (cranked, course, crankS, courseAt) = (null, CrankingRun.Of(engine, condition, new Cranking { Seconds = CaptureS, Cold = Cold, WeakBattery = WeakBattery }), CaptureS, clock.GetTimestamp());
            movedAt = courseAt;
            return true;
        }
    }

    /// <summary>Starts the engine, or lets it run on at idle. What the start itself makes stays in the gauge until it is bled.</summary>
    /// <returns>False where the starter turns it, it is under air, or has no throttle.</returns>
    public bool Idle()
    {
        lock (turn)
        {
            if (Motion == BenchMotion.Cranking || airOn || engine.IsDiesel)
            {
                return false;
            }
            if (fillsS == 0)
            {
                var start = GaugeRun.Of(Standing, new GaugeTest { Cylinder = Cylinder, PlugsIn = true, Pulses = 3, How = new Cranking { StepDeg = 1, Cold = Cold } });
                var run = RunningRun.Of([(Standing, new RunningTest { Cylinder = Cylinder })])[0];
                (heldBeforePa, idlePa, snapPa) = (Math.Max(HeldPa, start.FinalPa), run.IdlePa, run.SnapPa);
            }
            (cranked, course, crankS, fillsS, movedAt) = (null, null, 0, IdleFillsS, clock.GetTimestamp());
            return true;
        }
    }

    /// <summary>Snaps the throttle of the running engine.</summary>
    /// <returns>False where it does not run.</returns>
    public bool Snap()
    {
        lock (turn)
        {
            if (fillsS == 0)
            {
                return false;
            }
            heldBeforePa = HeldPa;
            (movedAt, fillsS) = (clock.GetTimestamp(), SnapFillsS);
            return true;
        }
    }

    /// <summary>Lets go of the starter, or shuts the engine off. The gauge holds what it has.</summary>
    public void Stop()
    {
        lock (turn)
        {
            heldBeforePa = HeldPa;
            (cranked, course, crankS, fillsS) = (null, null, 0, 0);
        }
    }

    /// <summary>Presses the gauge's relief.</summary>
    /// <returns>False while the starter turns: a gauge is bled between readings.</returns>
    public bool Bleed()
    {
        lock (turn)
        {
            if (Motion == BenchMotion.Cranking)
            {
                return false;
            }
            (heldBeforePa, cranked, crankS, movedAt) = (0, null, 0, clock.GetTimestamp());
            fillsS = fillsS > 0 ? IdleFillsS : 0;
            return true;
        }
    }

    /// <summary>What the gauge holds now, Pa.</summary>
    public double HeldPa { get { lock (turn) { return HeldAt(Since(movedAt)); } } }

    /// <summary>Where the needle stands now, Pa: a little behind what the gauge holds.</summary>
    public double NeedlePa
    {
        get
        {
            lock (turn)
            {
                var now = Since(movedAt);
                // Twenty steps of a lag are as good as all of them.
                var needle = heldBeforePa;
                var from = Math.Max(0, now - 6 * NeedleLagS);
                for (var k = 1; k <= 60; k++)
                {
                    needle += (HeldAt(from + (now - from) * k / 60) - needle) * Math.Min(1, (now - from) / 60 / NeedleLagS);
                }
                return needle;
            }
        }
    }

    /// <summary>What the gauge held after each compression so far, Pa.</summary>
    public IReadOnlyList<double> PulsesPa
    {
        get
        {
            lock (turn)
            {
                if (cranked is not { } run)
                {
                    return [];
                }
                var now = Since(movedAt);
                return [.. run.PulsesPa.TakeWhile((_, i) => PulseAt(run, i) <= now)];
            }
        }
    }

    /// <summary>The gauge's trace since the starter was engaged, Pa, <see cref="TraceHz"/> times a second; empty before.</summary>
    public IReadOnlyList<float> TracePa
    {
        get
        {
            lock (turn)
            {
                // A running engine never ends: what the gauge held since it was bled or snapped, until it stood.
                var until = Math.Min(Since(movedAt), fillsS > 0 ? 10 * fillsS : crankS);
                return cranked is null && fillsS == 0 ? [] : [.. Enumerable.Range(0, 1 + (int)(until * TraceHz)).Select(i => (float)HeldAt((double)i / TraceHz))];
            }
        }
    }

    /// <summary>Opens or shuts the leak tester's air.</summary>
    /// <param name="on">True to open it.</param>
    /// <returns>False where the engine moves.</returns>
    public bool Air(bool on)
    {
        lock (turn)
        {
            if (on && Motion != BenchMotion.Still)
            {
                return false;
            }
            (airOn, airAt) = (on, clock.GetTimestamp());
            return true;
        }
    }

    /// <summary>Both gauges of the leak tester now, Pa.</summary>
    public (double Supply, double Held) Leak
    {
        get
        {
            lock (turn)
            {
                if (!airOn)
                {
                    return (0, 0);
                }
                var leak = StaticLeak.Of(Standing, new StaticTest { Cylinder = Cylinder, SupplyPa = SupplyPa, OffDeg = OffDeg, Cold = Cold, OilM3 = oilMl.GetValueOrDefault(Cylinder) * 1e-6 });
                return (SupplyPa, SupplyPa * (1 - leak.Percent / 100) * (1 - Math.Exp(-Since(airAt) / AirSettlesS)));
            }
        }
    }

    /// <summary>What the clamp and the event channel saw between two moments.</summary>
    /// <param name="from">The first, of the clock.</param>
    /// <param name="to">The last, of the clock.</param>
    /// <param name="hz">Samples a second.</param>
    /// <returns>Amps, and volts of a pulse once a cycle at cylinder 1.</returns>
    public (IReadOnlyList<float> Amps, IReadOnlyList<float> Volts) Recorded(long from, long to, double hz)
    {
        ICrankCourse? run;
        double lead;
        lock (turn)
        {
            run = course;
            lead = clock.GetElapsedTime(from, courseAt).TotalSeconds;
        }
        var seconds = clock.GetElapsedTime(from, to).TotalSeconds;
        var count = Math.Max(1, (int)(seconds * hz));
        if (run is null || lead > seconds || lead + run.TimeS[^1] < 0)
        {
            return ([.. Enumerable.Repeat(0f, count)], [.. Enumerable.Repeat(0f, count)]);
        }
        var capture = SimulatedCapture.Of(engine, run, new CaptureRecipe { SampleRateHz = hz, LeadS = Math.Max(0, lead), TailS = Math.Max(0, seconds - lead - run.TimeS[^1]) });
        return ([.. capture.CurrentA.Take(count).Select(a => (float)a)], [.. capture.SyncV.Take(count).Select(v => (float)v)]);
    }

    private EngineUnderTest Standing => new(engine, condition.ToDictionary());

    private double Since(long moment) => clock.GetElapsedTime(moment).TotalSeconds;

    private double HeldAt(double seconds)
    {
        var target = fillsS > 0 ? (fillsS == SnapFillsS ? snapPa : idlePa) * (1 - Math.Exp(-seconds / fillsS))
            : cranked is { } run ? run.Course[At(run, seconds)].HeldPa
            : 0;
        // Its check valve lets nothing back.
        return Math.Max(heldBeforePa, target);
    }

    private static int At(GaugeRun run, double seconds)
    {
        var (low, high) = (0, run.Course.Count - 1);
        while (low < high)
        {
            var middle = (low + high + 1) / 2;
            (low, high) = run.Course[middle].TimeS <= seconds ? (middle, high) : (low, middle - 1);
        }
        return low;
    }

    // A compression is over when the crank is a quarter turn past it; two turns lie between.
    private static double PulseAt(GaugeRun run, int pulse)
    {
        var last = run.Course[^1].CrankRad - (run.PulsesPa.Count - 1 - pulse) * 4 * Math.PI;
        var (low, high) = (0, run.Course.Count - 1);
        while (low < high)
        {
            var middle = (low + high) / 2;
            (low, high) = run.Course[middle].CrankRad < last ? (middle + 1, high) : (low, middle);
        }
        return run.Course[low].TimeS;
    }

    // What the clamp sees while a gauge is in.
    private sealed class GaugeCourse(GaugeRun run, SimulatedEngine engine) : ICrankCourse
    {
        public IReadOnlyList<double> TimeS { get; } = [.. run.Course.Select(c => c.TimeS)];

        public IReadOnlyList<double> CrankRad { get; } = [.. run.Course.Select(c => c.CrankRad)];

        public IReadOnlyList<double> CurrentA { get; } = [.. run.Course.Select(c => c.CurrentA)];

        public IReadOnlyList<double> BatteryV { get; } = [.. run.Course.Select(c => engine.BatteryV - c.CurrentA * engine.BatteryOhm)];
    }
}
