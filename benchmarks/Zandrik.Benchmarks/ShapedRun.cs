using Zandrik.Core.Simulation;

namespace Zandrik.Benchmarks;

/// <summary>How a cylinder of the other world loses its charge: nothing of which the analysis was made from.</summary>
/// <param name="Left">Its peak gauge pressure against a sound one, a share.</param>
/// <param name="NotBack">How much of the loss goes on after top dead centre, 0 none to 1 all.</param>
/// <param name="FromTheStart">Which share of its loss is there from the first degree of its compression; the rest is lost as the pressure rises.</param>
/// <param name="Scaled">True for one that is smaller as a whole, by a factor that goes on falling with the time under pressure.</param>
/// <param name="Bend">How that rest goes with the time under pressure: over 1 late, under 1 early.</param>
internal readonly record struct ShapedLoss(double Left, double NotBack, double FromTheStart, double Bend, bool Scaled = false);

/// <summary>
/// An engine cranked by its starter whose cylinders follow given pressure curves: polytropes, and shares taken off them. No gas equation of
/// the product is in it. What the analysis says of such captures is what it is worth off its own ground.
/// </summary>
internal sealed class ShapedRun : ICrankCourse
{
    private const int Parts = 1440;
    private readonly List<double> time = [], angle = [], current = [], voltage = [];

    public IReadOnlyList<double> TimeS => time;

    public IReadOnlyList<double> CrankRad => angle;

    public IReadOnlyList<double> CurrentA => current;

    public IReadOnlyList<double> BatteryV => voltage;

    public double MeanRpm { get; private set; }

    public IReadOnlyList<double> RelativePercent { get; }

    /// <summary>Cranks it.</summary>
    /// <param name="e">Geometry, starter and battery.</param>
    /// <param name="losses">Each cylinder by number.</param>
    /// <param name="how">How it is cranked.</param>
    /// <param name="polytrope">Exponent of compression.</param>
    /// <param name="heatLoss">Share of the pressure that is gone at top dead centre.</param>
    /// <param name="intakePa">Pressure in the manifold, Pa absolute.</param>
    public ShapedRun(SimulatedEngine e, IReadOnlyList<ShapedLoss> losses, Cranking how, double polytrope, double heatLoss, double intakePa)
    {
        var (r, l, ap) = (e.StrokeM / 2, e.RodM, Math.PI / 4 * e.BoreM * e.BoreM);
        var pa = how.AmbientPa;
        double Volume(double phi) => CylinderVolume(phi, e.ClearanceM3, ap, r, l);
        // The last of an intake event lets by so little that it has closed before.
        var closes = (540 + e.Timing.IntakeCloses - 20 + e.Timing.CamShift - 720) * Math.PI / 180;
        var opens = (180 - e.Timing.ExhaustOpens + 15) * Math.PI / 180;
        var gauge = new double[Parts];
        var spent = new double[Parts];
        double sum = 0;
        double At(int s) => (s - Parts / 2) * 4 * Math.PI / Parts;
        for (var s = 0; s < Parts; s++)
        {
            var phi = At(s);
            var p = phi < -Math.PI ? intakePa : phi < closes ? intakePa : phi <= 0 ? intakePa * Math.Pow(Volume(closes) / Volume(phi), polytrope)
                : phi < opens ? intakePa * Math.Pow(Volume(closes) / Volume(0), polytrope) * (1 - heatLoss) * Math.Pow(Volume(0) / Volume(phi), polytrope) : pa;
            gauge[s] = p - pa;
            sum += Math.Max(0, gauge[s]);
            spent[s] = sum;
        }
        var top = spent[Parts / 2];
        var torque = new double[e.Cylinders][];
        var peaks = new double[e.Cylinders];
        for (var c = 0; c < e.Cylinders; c++)
        {
            var loss = losses[c];
            torque[c] = new double[Parts];
            for (var s = 0; s < Parts; s++)
            {
                // What is missing from the start, what goes on the way up, and what of the rest goes on the way down.
                var before = Math.Pow(Math.Min(1, spent[s] / top), loss.Bend);
                var after = Math.Pow(Math.Clamp((spent[s] - top) / (sum - top), 0, 1), 1 / loss.Bend);
                var gone = (1 - loss.Left) * (loss.FromTheStart + (1 - loss.FromTheStart) * before);
                var fading = 1 - loss.NotBack * (1 - loss.Left) * spent[s] / sum;
                var left = loss.Scaled ? loss.Left * fading / (1 - loss.NotBack * (1 - loss.Left) * top / sum) : (1 - gone) * (1 - loss.NotBack * (1 - loss.Left) * after);
                var g = gauge[s] > 0 ? gauge[s] * left : gauge[s];
                peaks[c] = Math.Max(peaks[c], g);
                torque[c][s] = g * ap * Lever(At(s), r, l);
            }
        }
        RelativePercent = [.. peaks.Select(p => 100 * p / peaks.Max())];
        Turn(e, how, torque);
    }

    private void Turn(SimulatedEngine e, Cranking how, double[][] torque)
    {
        var offsets = e.OffsetsRad();
        var weak = how.WeakBattery;
        var batteryOhm = e.BatteryOhm * (how.Cold ? 1.25 : 1) * (1 + 2.5 * weak);
        var circuit = batteryOhm + e.MotorOhm + 0.002;
        var (friction, drag) = (e.FrictionNm * how.Friction * (how.Cold ? 1.9 : 1), e.DragNms * how.Friction * (how.Cold ? 1.5 : 1));
        var c0 = e.Constants;
        double t = 0, theta = how.StartDeg * Math.PI / 180, omega = 0, amps = 0;
        var (step, longest) = (how.StepDeg * Math.PI / 180, 0.8e-3 * how.StepDeg);
        var settled = theta + 4 * Math.PI;
        var (settledS, settledRad) = (double.NaN, 0.0);
        while (t < how.Seconds)
        {
            var dt = Math.Min(step / Math.Max(Math.Abs(omega), 1e-9), longest);
            double push = 0;
            for (var i = 0; i < torque.Length; i++)
            {
                var x = (theta - offsets[i] + 2 * Math.PI) / (4 * Math.PI);
                var at = (x - Math.Floor(x)) * Parts;
                var s = (int)at % Parts;
                push += torque[i][s] + (at - Math.Floor(at)) * (torque[i][(s + 1) % Parts] - torque[i][s]);
            }
            var emf = e.BatteryV - 0.9 * weak * e.BatteryV / 12.6 - how.SagVPerS * t;
            var k = e.MotorConstantVs * (1 - c0.SeriesShare + c0.SeriesShare * 2 * (amps / c0.SeriesNominalA) / (1 + amps / c0.SeriesNominalA));
            amps = Math.Max(0, (amps + dt / e.InductanceH * (emf - k * omega)) / (1 + dt * circuit / e.InductanceH));
            var starter = Math.Max(0, e.Efficiency * k * (amps - e.IdleCurrentA));
            var next = omega + dt / e.InertiaKgM2 * (starter + push - (friction + drag * Math.Abs(omega)) * Math.Tanh(omega / 0.3) + how.CycleTorqueNm * Math.Sin(how.CycleTorqueOrder * theta / 2));
            theta += dt * (omega + next) / 2;
            (omega, t) = (next, t + dt);
            time.Add(t);
            angle.Add(theta);
            current.Add(amps);
            voltage.Add(emf - amps * batteryOhm);
            if (theta > settled && double.IsNaN(settledS))
            {
                (settledS, settledRad) = (t, theta);
            }
        }
        MeanRpm = (theta - settledRad) / (t - settledS) * 30 / Math.PI;
    }

    private static double CylinderVolume(double phi, double clearance, double ap, double r, double l) => clearance + ap * (r + l - r * Math.Cos(phi) - Math.Sqrt(l * l - r * r * Math.Sin(phi) * Math.Sin(phi)));

    private static double Lever(double phi, double r, double l) => r * Math.Sin(phi) + r * r * Math.Sin(phi) * Math.Cos(phi) / Math.Sqrt(l * l - r * r * Math.Sin(phi) * Math.Sin(phi));
}
