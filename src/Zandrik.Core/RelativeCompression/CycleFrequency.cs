using System.Numerics;
using MathNet.Numerics.IntegralTransforms;

namespace Zandrik.Core.RelativeCompression;

/// <summary>
/// How many engine cycles a second a settled current shows: candidates from its spectrum, best first. A cycle has power at every whole order where cylinders differ, and
/// at order N (and 2N) where they are alike; so a missing hump hides nothing. Section 4.1 of docs/relative-compression.md.
/// </summary>
internal static class CycleFrequency
{
    // Cranking is 55 to 480 rpm; most of it stands near the middle of the prior.
    private const double LowestHz = 55 / 120.0;
    private const double HighestHz = 480 / 120.0;
    private const double UsualRpm = 195;
    private const double PriorWidth = 0.42;

    /// <summary>Candidates, best first, each with its score (the best has 1).</summary>
    /// <param name="amps">Settled current, evenly sampled.</param>
    /// <param name="stepS">Time between samples, s.</param>
    /// <param name="cylinders">Number of cylinders.</param>
    /// <returns>None for fewer than 16 samples within the first seconds.</returns>
    public static IReadOnlyList<(double Hz, double Score)> Candidates(ReadOnlySpan<double> amps, double stepS, int cylinders)
    {
        // One spectrum over many cycles would smear with the speed: the first seconds say enough.
        amps = amps[..Math.Min(amps.Length, (int)(7 / stepS))];
        var n = amps.Length;
        if (n < 16)
        {
            // A file whose times are in another unit than its head says can leave a sample or none.
            return [];
        }
        var size = 1;
        while (size < 8 * n)
        {
            size *= 2;
        }
        var line = Line(amps);
        var spectrum = new Complex[size];
        for (var i = 0; i < n; i++)
        {
            spectrum[i] = (amps[i] - line.Level - line.Slope * i) * (0.5 - 0.5 * Math.Cos(2 * Math.PI * (i + 0.5) / n));
        }
        Fourier.Forward(spectrum, FourierOptions.NoScaling);
        var bin = 1 / (size * stepS);
        var half = size / 2;
        var power = new double[half];
        for (var i = 0; i < half; i++)
        {
            var p = spectrum[i];
            power[i] = p.Real * p.Real + p.Imaginary * p.Imaginary;
        }
        var top = Math.Min(half - 2, (int)(2 * cylinders * HighestHz / bin));
        var sums = Smoothing.Sums(power.AsSpan(0, top + 1));
        // A line is as wide as the window makes it.
        var width = Math.Max(1, (int)(1.5 / (n * stepS) / bin));

        double Share(double hz)
        {
            var at = (int)Math.Round(hz / bin);
            return at - width / 2 > top ? 0 : sums[Math.Min(top + 1, at + width / 2 + 1)] - sums[Math.Max(0, at - width / 2)];
        }

        var found = new List<(double Hz, double Score)>();
        var step = Math.Min(0.004, bin);
        double previous = 0, before = 0;
        for (var hz = LowestHz; hz <= HighestHz; hz += step)
        {
            double score = 0;
            var band = Math.Min(top, 2 * cylinders * hz / bin);
            for (var k = 1; k <= 2 * cylinders; k++)
            {
                score += (k == cylinders ? 3 : 1) * Share(k * hz);
            }
            var random = (sums[(int)band + 1] - sums[0]) * Math.Min(1, (2 * cylinders + 2) * width / Math.Max(1, band));
            score -= random;
            var off = Math.Log(hz * 120 / UsualRpm) / PriorWidth;
            score *= Math.Exp(-off * off / 2);
            if (previous > before && previous >= score && previous > 0)
            {
                found.Add((hz - step, previous));
            }
            (before, previous) = (previous, score);
        }
        if (found.Count == 0)
        {
            return [];
        }
        var best = found.Max(f => f.Score);
        var candidates = found.OrderByDescending(f => f.Score).Take(5).Where(f => f.Score > 0.08 * best).ToList();
        // An even engine taken for one that turns twice as fast, with every other cylinder dead, explains itself as well: half the best is always looked at.
        if (candidates[0].Hz / 2 >= LowestHz && candidates.TrueForAll(c => Math.Abs(c.Hz / candidates[0].Hz - 0.5) > 0.02))
        {
            candidates.Add((candidates[0].Hz / 2, 0.1 * best));
        }
        return [.. candidates.Select(f => (f.Hz, f.Score / best))];
    }

    private static (double Level, double Slope) Line(ReadOnlySpan<double> values)
    {
        double n = values.Length, sx = 0, sy = 0, sxx = 0, sxy = 0;
        for (var i = 0; i < values.Length; i++)
        {
            sx += i;
            sy += values[i];
            sxx += (double)i * i;
            sxy += i * values[i];
        }
        var slope = n * sxx > sx * sx ? (n * sxy - sx * sy) / (n * sxx - sx * sx) : 0;
        return ((sy - slope * sx) / n, slope);
    }
}
