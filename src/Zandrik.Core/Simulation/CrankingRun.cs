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
public sealed class CrankingRun
{
    private readonly List<double> time = [];
    private readonly List<double> angle = [];
    private readonly List<double> current = [];
    private readonly List<double> voltage = [];
    private readonly double[] peakSum;
    private readonly int[] peaks;

    private CrankingRun(int cylinders) => (peakSum, peaks) = (new double[cylinders], new int[cylinders]);

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
    public IReadOnlyList<double> PeakPa { get; private set; } = [];

    /// <summary>Each cylinder's peak against the best, percent: what a relative compression test should find.</summary>
    public IReadOnlyList<double> RelativePercent => [.. PeakPa.Select(p => 100 * p / PeakPa.Max())];

    /// <summary>Cranks an engine.</summary>
    /// <param name="engine">The engine.</param>
    /// <param name="condition">Each cylinder by number; those missing are sound.</param>
    /// <param name="how">How it is cranked.</param>
    /// <returns>The run; the same for the same three.</returns>
    public static CrankingRun Of(SimulatedEngine engine, IReadOnlyDictionary<int, CylinderCondition>? condition = null, Cranking? how = null)
    {
        how ??= new Cranking();
        var run = new CrankingRun(engine.Cylinders);
        run.Integrate(engine, condition ?? new Dictionary<int, CylinderCondition>(), how);
        return run;
    }

    private void Integrate(SimulatedEngine e, IReadOnlyDictionary<int, CylinderCondition> condition, Cranking how)
    {
        var n = e.Cylinders;
        var offsets = e.OffsetsRad();
        var cond = new CylinderCondition[n];
        for (var i = 0; i < n; i++)
        {
            cond[i] = condition.GetValueOrDefault(i + 1) ?? new CylinderCondition();
        }
        var (pa, ta) = (how.AmbientPa, how.AmbientK);
        var wall = how.Cold ? ta : 350;
        var manifoldK = how.Cold ? ta : ta + 25;
        var ringFactor = how.Cold ? 1.6 : 1;
        var friction = e.FrictionNm * how.Friction * (how.Cold ? 1.9 : 1);
        var drag = e.DragNms * how.Friction * (how.Cold ? 1.5 : 1);
        var batteryOhm = e.BatteryOhm * (how.Cold ? 1.25 : 1) * (1 + 2.5 * how.WeakBattery);
        var circuit = batteryOhm + e.MotorOhm + 0.002;
        var emf0 = e.BatteryV - 0.9 * how.WeakBattery * e.BatteryV / 12.6;
        var (r, l, ap) = (e.StrokeM / 2, e.RodM, Math.PI / 4 * e.BoreM * e.BoreM);

        var gas = new CylinderGas[n];
        var clearance = new double[n];
        var top = new double[n];
        var last = new double[n];
        var theta = how.StartDeg * Math.PI / 180;
        for (var i = 0; i < n; i++)
        {
            clearance[i] = e.ClearanceM3 + cond[i].VolumeM3;
            gas[i] = new CylinderGas();
            gas[i].Start(CylinderGas.Volume(theta - offsets[i], clearance[i], ap, r, l), pa, (wall + ta) / 2);
            last[i] = Wrap(theta - offsets[i]);
        }
        var manifoldMass = CylinderGas.Mass(pa, e.ManifoldM3, manifoldK);
        double t = 0, omega = 0, amps = 0, started = theta;
        var stepRad = how.StepDeg * Math.PI / 180;
        var longest = 0.8e-3 * how.StepDeg;
        var settled = theta + 4 * Math.PI;
        double settledTime = double.NaN, settledAngle = 0, currentTime = 0;

        while (t < how.Seconds)
        {
            var dt = Math.Min(Math.Abs(omega) > 1e-9 ? stepRad / Math.Abs(omega) : longest, longest);
            double push = 0;
            for (var i = 0; i < n; i++)
            {
                push += (gas[i].PressurePa - pa) * ap * CylinderGas.Lever(theta - offsets[i], r, l);
            }
            var emf = emf0 - how.SagVPerS * t;
            amps = (amps + dt / e.InductanceH * (emf - e.MotorConstantVs * omega)) / (1 + dt * circuit / e.InductanceH);
            amps = Math.Max(0, amps);
            var starter = Math.Max(0, e.Efficiency * e.MotorConstantVs * (amps - e.IdleCurrentA));
            var resist = (friction + drag * Math.Abs(omega)) * Math.Tanh(omega / 0.3) - how.CycleTorqueNm * Math.Sin(how.CycleTorqueOrder * theta / 2);
            var before = omega;
            omega += dt / e.InertiaKgM2 * (starter + push - resist);
            var next = theta + dt * (before + omega) / 2;

            var manifoldPa = CylinderGas.Pressure(manifoldMass, e.ManifoldM3, manifoldK);
            double manifoldFlow = 0;
            for (var i = 0; i < n; i++)
            {
                gas[i].GoHalfWay(CylinderGas.Volume(next - offsets[i], clearance[i], ap, r, l));
            }
            for (var i = 0; i < n; i++)
            {
                var c = cond[i];
                var (intake, exhaust) = e.Timing.Lifts(Wrap((theta + next) / 2 - offsets[i]) * 180 / Math.PI);
                var intakeArea = e.IntakeAreaM2 * Math.Max(0, intake - (1 - c.IntakeLift));
                var exhaustArea = e.ExhaustAreaM2 * Math.Max(0, exhaust - (1 - c.ExhaustLift));
                manifoldFlow -= gas[i].Exchange(e.ValveLeakM2 * c.ValveFactor + c.IntakeValveM2 + intakeArea, manifoldPa, manifoldK, dt, intakeArea > 0);
                gas[i].Exchange(e.ValveLeakM2 * c.ValveFactor + c.ExhaustValveM2 + exhaustArea, pa, wall, dt, exhaustArea > 0);
                gas[i].Exchange((e.RingLeakM2 * c.RingFactor + c.RingM2) * ringFactor, pa, wall, dt, false);
                if (gas[i].PressurePa > pa)
                {
                    gas[i].Exchange(c.CoolantM2, pa, wall, dt, false);
                }
                if (c.GasketTo is { } to)
                {
                    gas[i].ExchangeWith(gas[to - 1], c.GasketM2, dt);
                }
            }
            var pistonSpeed = e.StrokeM * Math.Abs(omega) / Math.PI;
            for (var i = 0; i < n; i++)
            {
                gas[i].Finish(CylinderGas.Volume(next - offsets[i], clearance[i], ap, r, l), wall, pistonSpeed, ap, e.BoreM, clearance[i], dt);
                top[i] = Math.Max(top[i], gas[i].PressurePa);
                var now = Wrap(next - offsets[i]);
                // Past 90 degrees after its firing top dead centre a cylinder's peak is behind it.
                if (last[i] < Math.PI / 2 && now >= Math.PI / 2 && now < Math.PI)
                {
                    if (next > settled)
                    {
                        peakSum[i] += top[i] - pa;
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
            var throttle = CylinderGas.Flow(e.ThrottleM2, pa, ta, manifoldPa, manifoldK);
            var toAmbient = CylinderGas.Mass(pa - manifoldPa, e.ManifoldM3, manifoldK);
            manifoldMass += manifoldFlow + (toAmbient >= 0 ? Math.Clamp(throttle * dt, 0, toAmbient) : Math.Clamp(throttle * dt, toAmbient, 0));
            theta = next;
            t += dt;
            time.Add(t);
            angle.Add(theta);
            current.Add(amps);
            voltage.Add(emf - amps * batteryOhm);
            if (theta > settled)
            {
                if (double.IsNaN(settledTime))
                {
                    (settledTime, settledAngle) = (t, theta);
                }
                currentTime += amps * dt;
            }
        }
        var span = t - settledTime;
        MeanRpm = span > 0 ? (theta - settledAngle) / span * 30 / Math.PI : (theta - started) / t * 30 / Math.PI;
        MeanA = span > 0 ? currentTime / span : double.NaN;
        PeakPa = [.. peakSum.Select((s, i) => peaks[i] > 0 ? s / peaks[i] : double.NaN)];
    }

    private static double Wrap(double rad)
    {
        const double Cycle = 4 * Math.PI;
        return rad - Cycle * Math.Floor(rad / Cycle);
    }
}
