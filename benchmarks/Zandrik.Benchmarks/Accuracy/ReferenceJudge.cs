using Zandrik.Core.Calibration;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Benchmarks.Accuracy;

/// <summary>
/// The best any judge of one cylinder could do with these readings in the model's own world: it knows the drawn engines themselves, what a sound cylinder of this engine reads, how often each fault and
/// severity is drawn, and how wide every noise is. Of a neighbour it uses only the dry reading, for a web between them. What it cannot tell no test here can.
/// </summary>
internal sealed class ReferenceJudge
{
    private const int PerFault = 700;
    private const double PoundsRounding = 5 / 3.4641;

    private readonly (Fault Fault, double Weight, CalibrationSample Sample, double Slip, bool Stays)[][] known;
    private readonly SampledWorld shop = new();

    /// <summary>A judge.</summary>
    /// <param name="samples">Drawn cylinders; several hundred of each fault and fuel.</param>
    public ReferenceJudge(IReadOnlyCollection<CalibrationSample> samples) => known = [Known(samples, diesel: false), Known(samples, diesel: true)];

    private static (Fault, double, CalibrationSample, double, bool)[] Known(IReadOnlyCollection<CalibrationSample> samples, bool diesel)
    {
        var all = new List<(Fault, double, CalibrationSample, double, bool)>();
        var draw = new SeededDraw(5);
        foreach (var group in samples.Where(s => s.Diesel == diesel).GroupBy(s => s.Fault))
        {
            var some = group.OrderBy(s => s.Number).Take(PerFault).Select(s => (s, W: Density(s))).ToList();
            var whole = some.Sum(s => s.W);
            all.AddRange(some.Select(s => (group.Key, FaultOdds.Of(group.Key, diesel) * s.W / whole, s.s, 1.0, false)));
            if (group.Key == Fault.Sound)
            {
                all.AddRange(some.Select(s =>
                {
                    var severity = (draw.Even() + draw.Even()) / 2;
                    return (Fault.TestError, FaultOdds.Of(Fault.TestError, diesel) * s.W / whole, s.s, severity < 0.14 ? 1.06 : Math.Exp(-0.08 - 0.6 * draw.Even() * draw.Even()), draw.Even() < 0.5);
                }));
            }
        }
        return [.. all];
    }

    // How often the study draws such a severity, against how often the samples were drawn there.
    private static double Density(CalibrationSample s)
    {
        var figure = SeverityFigures.At(s.Fault, s.Place);
        if (s.Fault == Fault.Sound)
        {
            // Ages go with the square of what is drawn.
            return 1 / Math.Sqrt(Math.Max(0.004, figure));
        }
        var (mild, severe) = (SimulatedFault.Figure(s.Fault, 0), SimulatedFault.Figure(s.Fault, 2));
        var straight = s.Fault is Fault.IntakeNotOpening or Fault.ExhaustNotOpening or Fault.ShortStroke or Fault.Carbon;
        double At(double x, double from, double to) => straight ? (x - from) / (to - from) : Math.Log(x / from) / Math.Log(to / from);
        // Severities go even in the logarithm or the figure between the table's three, so moderate may lie off the middle; near enough.
        var triangle = Math.Max(0, 1 - Math.Abs((At(figure, mild, severe) + 0.05) / 1.1 - 0.5) * 2);
        var wide = s.Fault is Fault.IntakeValve or Fault.ExhaustValve ? Math.Max(0, 1 - Math.Abs((At(figure, 14, 50) + 0.05) / 1.1 - 0.5) * 2) / 12 : 0;
        var step = SeverityFigures.Of(s.Fault);
        var from = Math.Clamp((int)Math.Floor(s.Place), 0, step.Count - 2);
        // How much of the range one step of places covers there.
        return (triangle + wide) * Math.Abs(At(step[from + 1], mild, severe) - At(step[from], mild, severe));
    }

    /// <summary>The likeliest fault of a cylinder.</summary>
    /// <param name="record">The readings.</param>
    /// <param name="engine">The engine they are of.</param>
    /// <param name="cylinder">From 1.</param>
    public Fault Leading(TestRecord record, ModelledEngine engine, int cylinder)
    {
        var dry = record.Tests!.OfType<DryCompressionTest>().Single().Readings!.ToDictionary(r => r.Cylinder, r => r.Value!.Value);
        var wet = record.Tests!.OfType<WetCompressionTest>().FirstOrDefault()?.Readings!.FirstOrDefault(r => r.Cylinder == cylinder)?.Value;
        var leak = record.Tests!.OfType<LeakDownTest>().FirstOrDefault()?.Readings!.FirstOrDefault(r => r.Cylinder == cylinder);
        var ran = record.Tests!.OfType<RunningCompressionTest>().FirstOrDefault()?.Readings!.FirstOrDefault(r => r.Cylinder == cylinder);
        var (idle, snap) = engine.SoundRunning;
        var all = known[engine.Diesel ? 1 : 0];
        var oilShare = 1 - engine.OilLeft;
        var odds = new Dictionary<Fault, double>();
        var whole = all.Sum(k => k.Weight);
        // How much likelier a neighbour's dry reading is with the same web burnt than for what it may be by itself.
        var beside = engine.Beside(cylinder).Select(n => (Read: dry[n], Else: all.Sum(k => k.Weight * Near(dry[n], engine, engine.SoundPsi * Math.Exp(k.Sample.Built + k.Sample.Dry) * k.Slip)) / whole)).ToList();
        foreach (var (fault, weight, s, slip, stays) in all)
        {
            var level = engine.SoundPsi * Math.Exp(s.Built + s.Dry);
            var like = weight * Near(dry[cylinder], engine, level * slip);
            like *= fault == Fault.GasketAdjacent ? beside.Sum(n => Near(n.Read, engine, engine.SoundPsi * Math.Exp(s.Dry)) / n.Else) : 1;
            like *= wet is { } w ? Near(w, engine, level * engine.SoundGain * Math.Exp(s.Wet / (1 - s.OilLeft) * oilShare) * (stays ? slip : 1)) : 1;
            if (leak is { LeakPercent: { } percent })
            {
                like *= Normal(percent, LeakFlow.Percent(Math.Exp(s.LeakRatio), LeakFlow.StandardSupplyPa), Math.Sqrt(shop.LeakNoise * shop.LeakNoise + 0.1), 1e-5);
                like *= Heard(leak, s);
            }
            like *= ran?.Idle is { } i ? Near(i, engine, idle * Math.Exp(s.Idle!.Value)) : 1;
            like *= ran?.Snap is { } n2 ? Near(n2, engine, snap * Math.Exp(s.Snap!.Value)) : 1;
            odds[fault] = odds.GetValueOrDefault(fault) + like;
        }
        return odds.MaxBy(o => o.Value).Key;
    }

    // A reading with its repeatability and marks of five psi; the gauge's gain is known.
    private double Near(double read, ModelledEngine engine, double psi) =>
        Normal(read, psi * engine.GaugeGain, Math.Sqrt(Math.Pow(psi * shop.ReadingNoise, 2) + PoundsRounding * PoundsRounding), 1e-6);

    private static double Normal(double x, double mean, double spread, double floor) => Math.Exp(-0.5 * Math.Pow((x - mean) / spread, 2)) / spread + floor;

    private double Heard(LeakDownReading reading, CalibrationSample s)
    {
        double Of(LeakPlace p) => s.Loudness[(int)p];
        var like = 1.0;
        int Strength(ListeningPlace at) => (int?)reading.Heard!.Where(h => h.At == at).Max(h => h.Strength) + 1 ?? 0;
        foreach (var (at, db) in new[] { (ListeningPlace.Intake, Of(LeakPlace.Intake)), (ListeningPlace.Exhaust, Of(LeakPlace.Exhaust)), (ListeningPlace.OilFiller, Math.Max(Of(LeakPlace.Rings), Of(LeakPlace.Crown))), (ListeningPlace.Coolant, Of(LeakPlace.Coolant)), (ListeningPlace.AdjacentPlugHole, Of(LeakPlace.Neighbour)) })
        {
            double Below(double limit) => 0.5 * MathNet.Numerics.SpecialFunctions.Erfc(-(limit - db) / (shop.EarDb * Math.Sqrt(2)));
            var strength = Strength(at);
            var share = strength switch { 0 => Below(0), 1 => Below(6) - Below(0), 2 => Below(16) - Below(6), _ => 1 - Below(16) };
            like *= (1 - shop.Blunder) * share + shop.Blunder / 4;
        }
        return like;
    }
}
