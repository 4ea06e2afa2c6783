using Zandrik.Core.Physics;

namespace Zandrik.Core.Simulation;

/// <summary>How an engine is cranked.</summary>
public sealed record Cranking
{
    /// <summary>Seconds the starter is held.</summary>
    public double Seconds { get; init; } = 4;

    /// <summary>Air pressure, Pa absolute.</summary>
    public double AmbientPa { get; init; } = 101_325;

    /// <summary>Air temperature, K.</summary>
    public double AmbientK { get; init; } = 293;

    /// <summary>True for a cold engine: stiffer, leakier, with a weaker battery.</summary>
    public bool Cold { get; init; }

    /// <summary>How weak the battery is, 0 to 1.</summary>
    public double WeakBattery { get; init; }

    /// <summary>How much the battery's voltage falls while it cranks, V per second.</summary>
    public double SagVPerS { get; init; }

    /// <summary>Where the crank stands at the start, degrees.</summary>
    public double StartDeg { get; init; } = 200;

    /// <summary>Step of the integration, crank degrees.</summary>
    public double StepDeg { get; init; } = 1;

    /// <summary>Factor on friction, a ratio.</summary>
    public double Friction { get; init; } = 1;

    /// <summary>Torque of valve gear or a pump that goes round with the cycle: amplitude, N·m.</summary>
    public double CycleTorqueNm { get; init; }

    /// <summary>How often that torque goes round in a cycle.</summary>
    public int CycleTorqueOrder { get; init; } = 3;
}

/// <summary>
/// An engine turned by its starter with all plugs in: the crank, starter and gas equations of docs/simulation.md, stepped along
/// the crank. Deterministic. What it gives is the current and speed over time, and what the current is judged by: the peak pressure
/// that each cylinder really made.
/// </summary>
public sealed class CrankingRun : ICrankCourse
{
    private readonly List<double> time = [];
    private readonly List<double> angle = [];
    private readonly List<double> current = [];
    private readonly List<double> voltage = [];
    private readonly double[] peakSum, top, last;
    private readonly int[] peaks;
    private double settledTime = double.NaN, settledAngle, charge;

    private CrankingRun(SimulatedEngine engine)
    {
        Engine = engine;
        (peakSum, top, last, peaks) = (new double[engine.Cylinders], new double[engine.Cylinders], new double[engine.Cylinders], new int[engine.Cylinders]);
    }

    /// <summary>The engine.</summary>
    public SimulatedEngine Engine { get; }

    /// <summary>Times of the steps, s.</summary>
    public IReadOnlyList<double> TimeS => time;

    /// <summary>Crank angle at each, radians from the first firing top dead centre of the order.</summary>
    public IReadOnlyList<double> CrankRad => angle;

    /// <summary>Starter current at each, A.</summary>
    public IReadOnlyList<double> CurrentA => current;

    /// <summary>Battery voltage at each, V.</summary>
    public IReadOnlyList<double> BatteryV => voltage;

    /// <summary>Mean speed of the settled part, rpm.</summary>
    public double MeanRpm { get; private set; }

    /// <summary>Mean current of the settled part, A.</summary>
    public double MeanA { get; private set; }

    /// <summary>Mean settled peak gauge pressure of each cylinder by number, Pa; NaN where no cycle was finished.</summary>
    public IReadOnlyList<double> PeakPa => [.. peakSum.Zip(peaks, (s, n) => n > 0 ? s / n : double.NaN)];

    /// <summary>Each cylinder's peak against the best, percent: what a relative compression test should find.</summary>
    public IReadOnlyList<double> RelativePercent
    {
        get
        {
            var most = PeakPa.Max();
            return [.. PeakPa.Select(p => 100 * p / most)];
        }
    }

    /// <summary>Cranks an engine.</summary>
    /// <param name="engine">The engine.</param>
    /// <param name="condition">Each cylinder by number; those missing are sound.</param>
    /// <param name="how">How it is cranked.</param>
    /// <returns>The run; the same for the same three.</returns>
    public static CrankingRun Of(SimulatedEngine engine, IReadOnlyDictionary<int, CylinderCondition>? condition = null, Cranking? how = null) =>
        Of([(new EngineUnderTest(engine, condition ?? new Dictionary<int, CylinderCondition>()), how ?? new Cranking())])[0];

    /// <summary>Cranks many, four side by side where they have as many cylinders.</summary>
    /// <param name="engines">Engines and how they are cranked.</param>
    /// <returns>The runs in the same order; each is as if it had been cranked by itself.</returns>
    public static IReadOnlyList<CrankingRun> Of(IReadOnlyList<(EngineUnderTest Engine, Cranking How)> engines)
    {
        var runs = engines.Select(e => new CrankingRun(e.Engine.Engine)).ToArray();
        foreach (var few in Enumerable.Range(0, engines.Count).GroupBy(i => engines[i].Engine.Engine.Cylinders).SelectMany(g => g.Chunk(MotoredLanes.Width)))
        {
            Turn([.. few.Select(i => engines[i])], [.. few.Select(i => runs[i])]);
        }
        return runs;
    }

    private static void Turn((EngineUnderTest Engine, Cranking How)[] engines, CrankingRun[] runs)
    {
        var lanes = new MotoredLanes([.. engines.Select(e => new MotoredSetup
        {
            Engine = e.Engine.Engine, Condition = e.Engine.Condition, How = e.How, StartRad = e.How.StartDeg * Math.PI / 180, ThrottleM2 = e.Engine.Engine.ThrottleM2,
        })]);
        var open = runs.Length;
        while (open > 0)
        {
            var dt = lanes.Step();
            for (var k = 0; k < runs.Length; k++)
            {
                var before = runs[k].time.Count > 0 ? runs[k].time[^1] : 0;
                if (before < engines[k].How.Seconds)
                {
                    runs[k].Note(lanes, k, dt[k], engines[k].How.StartDeg * Math.PI / 180);
                    open -= lanes.TimeS[k] < engines[k].How.Seconds ? 0 : 1;
                }
            }
        }
    }

    private void Note(MotoredLanes lanes, int k, double dt, double started)
    {
        var (t, theta, amps) = (lanes.TimeS[k], lanes.CrankRad[k], lanes.CurrentA[k]);
        time.Add(t);
        angle.Add(theta);
        current.Add(amps);
        voltage.Add(lanes.BatteryV[k]);
        // The first cycle is the start.
        var settled = theta > started + 4 * Math.PI;
        for (var i = 0; i < top.Length; i++)
        {
            var over = lanes.PressurePa[i][k] - lanes.OutsidePa[k];
            top[i] = Math.Max(top[i], over);
            var now = lanes.TurnedOf(i)[k];
            // Past 90 degrees after its firing top dead centre a cylinder's peak is behind it.
            if (last[i] < Math.PI / 2 && now >= Math.PI / 2 && now < Math.PI)
            {
                if (settled)
                {
                    peakSum[i] += top[i];
                    peaks[i]++;
                }
                top[i] = 0;
            }
            else if (now >= Math.PI && now < 3 * Math.PI)
            {
                top[i] = 0;
            }
            last[i] = now;
        }
        if (settled)
        {
            if (double.IsNaN(settledTime))
            {
                (settledTime, settledAngle) = (t, theta);
            }
            charge += amps * dt;
        }
        var span = t - settledTime;
        MeanRpm = span > 0 ? (theta - settledAngle) / span * 30 / Math.PI : (theta - started) / t * 30 / Math.PI;
        MeanA = span > 0 ? charge / span : double.NaN;
    }
}
