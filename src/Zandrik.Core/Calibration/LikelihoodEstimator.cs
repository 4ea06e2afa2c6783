using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Calibration;

/// <summary>
/// Estimates from samples what each finding reads at each severity: a straight line through the samples about it, those a step away weighing nothing, and how far they scatter about that line. What
/// lies between two severities is part of the spread: a step as wide as the severity has, evenly filled.
/// </summary>
public static class LikelihoodEstimator
{
    // Samples within a step of a severity speak for it, the nearer the more.
    private const double Reach = 1;

    // Of anything evenly spread over one step.
    private static readonly double SpreadOfStep = Math.Sqrt(1.0 / 12);

    private static readonly EstimatedFinding[] Findings = Enum.GetValues<EstimatedFinding>();

    /// <summary>Estimates.</summary>
    /// <param name="samples">The samples, in any order.</param>
    /// <param name="seed">What they were drawn with.</param>
    /// <param name="date">The day.</param>
    /// <returns>The estimates, rounded to four digits behind the point.</returns>
    /// <exception cref="ArgumentException">There are too few: at some severity not five.</exception>
    public static LikelihoodEstimates Of(IReadOnlyCollection<CalibrationSample> samples, int seed, DateOnly date)
    {
        var curves = new List<EstimatedCurve>();
        foreach (var group in samples.OrderBy(s => s.Number).GroupBy(s => (s.Fault, s.Diesel)).OrderBy(g => g.Key.Diesel).ThenBy(g => SeverityFigures.All.TakeWhile(f => f != g.Key.Fault).Count()))
        {
            foreach (var finding in Findings)
            {
                (double Place, double Value)[] points = [.. group.Select(s => (s.Place, Value(s, finding))).Where(p => p.Item2 is not null).Select(p => (p.Place, p.Item2!.Value))];
                if (points.Length > 0)
                {
                    curves.Add(Curve(group.Key.Fault, group.Key.Diesel, finding, points));
                }
            }
        }
        return new() { Seed = seed, Engines = samples.Count, Date = date, StepDeg = CalibrationSample.Step, Curves = curves };
    }

    /// <summary>What a sample says of a finding, as the curve has it: pressures not below <see cref="SeverityNodes.LowestDry"/>, where the diagnosis stops telling them apart.</summary>
    /// <param name="sample">The sample.</param>
    /// <param name="finding">The finding.</param>
    /// <returns>ln; absent where the sample says nothing of it.</returns>
    public static double? Value(CalibrationSample sample, EstimatedFinding finding) => finding switch
    {
        EstimatedFinding.Dry => Math.Max(SeverityNodes.LowestDry, sample.Dry),
        EstimatedFinding.Wet => sample.Wet / (1 - sample.OilLeft),
        EstimatedFinding.Relative => Math.Max(SeverityNodes.LowestDry, sample.Relative),
        EstimatedFinding.Idle => sample.Idle,
        EstimatedFinding.Snap => sample.Snap,
        EstimatedFinding.LeakDown => sample.LeakRatio - sample.SoundLeakRatio,
        _ => null,
    };

    private static EstimatedCurve Curve(Fault fault, bool diesel, EstimatedFinding finding, (double Place, double Value)[] points)
    {
        var count = SeverityFigures.Of(fault).Count;
        var (means, spreads, engines) = (new double[count], new double[count], new int[count]);
        for (var node = 0; node < count; node++)
        {
            var near = points.Where(p => Math.Abs(p.Place - node) < Reach).Select(p => (X: p.Place - node, p.Value, W: 1 - Math.Abs(p.Place - node) / Reach)).ToArray();
            if (near.Length < 5)
            {
                throw new ArgumentException($"Too few engines: {near.Length} stand behind a severity of {RecordWords.Of(fault)}. Take 5000 or more.", nameof(points));
            }
            var (w, wx, wy, wxx, wxy) = (near.Sum(p => p.W), near.Sum(p => p.W * p.X), near.Sum(p => p.W * p.Value), near.Sum(p => p.W * p.X * p.X), near.Sum(p => p.W * p.X * p.Value));
            var slope = (w * wxy - wx * wy) / (w * wxx - wx * wx);
            means[node] = (wy - slope * wx) / w;
            var about = near.Sum(p => p.W * Math.Pow(p.Value - means[node] - slope * p.X, 2)) / w;
            // Two figures were fitted to what about so many samples are worth.
            var worth = w * w / near.Sum(p => p.W * p.W);
            spreads[node] = Math.Sqrt(about * worth / Math.Max(1, worth - 2) + Math.Pow(slope * SpreadOfStep, 2));
            engines[node] = near.Length;
        }
        var curve = new EstimatedCurve { Fault = fault, Diesel = diesel, Finding = finding, Means = [.. means.Select(Rounded)], Spreads = [.. spreads.Select(Rounded)], Engines = engines, Fit = 0 };
        var mean = points.Average(p => p.Value);
        var all = points.Sum(p => Math.Pow(p.Value - mean, 2));
        var left = points.Sum(p => Math.Pow(p.Value - curve.At(p.Place).Mean, 2));
        return all > 0 ? curve with { Fit = Math.Round(Math.Max(0, 1 - left / all), 3) } : curve;
    }

    private static double Rounded(double x) => Math.Round(x, 4);
}
