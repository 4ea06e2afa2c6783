using MathNet.Numerics.LinearAlgebra;

namespace Zandrik.Core.Life;

/// <summary>A reading that the trend is drawn through.</summary>
/// <param name="Test">Which test, from 0: readings of one test share what that day did to all of them.</param>
/// <param name="Cylinder">The cylinder.</param>
/// <param name="Run">How far the engine had run, km or h.</param>
/// <param name="Pa">What was read, Pa gauge; above 0.</param>
/// <param name="Gauge">The gauge, where it was not checked against a reference: its offset is found with the trend. Absent for a checked one, or one without a name.</param>
/// <param name="IsUnknownGauge">True where nobody said which gauge, or it has no name: its offset is new each time.</param>
/// <param name="IsCold">True for a cold engine.</param>
public readonly record struct TrendReading(int Test, int Cylinder, double Run, double Pa, string? Gauge, bool IsUnknownGauge, bool IsCold);

/// <summary>The trend of one cylinder.</summary>
/// <param name="Cylinder">The cylinder.</param>
/// <param name="Readings">Readings behind it.</param>
/// <param name="NowPa">Where it stands at the last test, Pa gauge: the median.</param>
/// <param name="NowSpread">Standard deviation of its logarithm, no unit.</param>
/// <param name="PerStep">What it changes in a step (1000 km or 40 h), share of itself: −0.002 is a fall of 0.2 %.</param>
/// <param name="PerStepSpread">Standard deviation of that, no unit.</param>
public sealed record CylinderTrend(int Cylinder, int Readings, double NowPa, double NowSpread, double PerStep, double PerStepSpread);

/// <summary>
/// The wear of an engine: the logarithm of each cylinder's pressure falls in a straight line with what it has run. Bayesian linear regression over all readings at once, for gauges and days are shared
/// by the cylinders. Method and figures: docs/engine-life.md.
/// </summary>
public sealed class WearTrend
{
    /// <summary>What a sound engine loses in a step (1000 km or 40 h) before anything is known of it, share: 0.1 %, standard deviation 0.15 %. Rule of thumb.</summary>
    public const double UsualPerStep = -0.001, UsualSpread = 0.0015;

    /// <summary>What one reading repeats to, share, no unit.</summary>
    public const double ReadingSpread = 0.022;

    /// <summary>How far a gauge that was not checked reads off, share, no unit.</summary>
    public const double GaugeSpread = 0.03;

    /// <summary>What a day does to all cylinders alike (battery, air, how warm it really was), share, no unit.</summary>
    public const double DaySpread = 0.015;

    /// <summary>What a cold engine reads less, logarithm, and the standard deviation of it, no unit: the rule of the judgement (docs/diagnosis.md).</summary>
    public const double ColdLess = -0.075, ColdSpread = 0.035;

    private readonly int[] cylinders;
    private readonly double[] mean;
    private readonly Matrix<double> covariance;
    private readonly double centre, step;

    private WearTrend(int[] cylinders, double[] mean, Matrix<double> covariance, double centre, double step, IReadOnlyList<CylinderTrend> trends)
    {
        (this.cylinders, this.mean, this.covariance, this.centre, this.step, Cylinders) = (cylinders, mean, covariance, centre, step, trends);
    }

    /// <summary>The cylinders that were read, in order.</summary>
    public IReadOnlyList<CylinderTrend> Cylinders { get; }

    /// <summary>How far the engine had run at the last test, km or h: what <see cref="CylinderTrend.NowPa"/> is of.</summary>
    public double Now => centre;

    /// <summary>What it is stepped in: 1000 km or 40 h.</summary>
    public double Step => step;

    /// <summary>Draws it.</summary>
    /// <param name="readings">What it is drawn through; of each cylinder those since the last repair that touched it.</param>
    /// <param name="step">1000 km or 40 h.</param>
    /// <returns>The trend; absent without a reading.</returns>
    public static WearTrend? Of(IReadOnlyList<TrendReading> readings, double step)
    {
        if (readings.Count == 0)
        {
            return null;
        }
        int[] cylinders = [.. readings.Select(r => r.Cylinder).Distinct().Order()];
        string[] gauges = [.. readings.Select(r => r.Gauge).OfType<string>().Distinct().Order(StringComparer.Ordinal)];
        var n = cylinders.Length;
        var cold = readings.Any(r => r.IsCold);
        var size = 2 * n + gauges.Length + (cold ? 1 : 0);
        var centre = readings.Max(r => r.Run);
        // About a usual level, so wide that it says nothing.
        var level = readings.Average(r => Math.Log(r.Pa));
        var (precision, right) = (Matrix<double>.Build.Dense(size, size), new double[size]);
        void Prior(int at, double about, double spread)
        {
            precision[at, at] += 1 / (spread * spread);
            right[at] += about / (spread * spread);
        }
        for (var i = 0; i < n; i++)
        {
            Prior(i, level, 1);
            Prior(n + i, UsualPerStep, UsualSpread);
        }
        for (var g = 0; g < gauges.Length; g++)
        {
            Prior(2 * n + g, 0, GaugeSpread);
        }
        if (cold)
        {
            Prior(size - 1, ColdLess, ColdSpread);
        }
        foreach (var test in readings.GroupBy(r => r.Test))
        {
            Add([.. test]);
        }
        var covariance = precision.Cholesky().Solve(Matrix<double>.Build.DenseIdentity(size));
        double[] mean = [.. covariance * Vector<double>.Build.DenseOfArray(right)];
        var counts = readings.CountBy(r => r.Cylinder).ToDictionary();
        return new(cylinders, mean, covariance, centre, step, [.. cylinders.Select((c, i) => new CylinderTrend(c, counts[c], Math.Exp(mean[i]), Math.Sqrt(covariance[i, i]), mean[n + i], Math.Sqrt(covariance[n + i, n + i])))]);

        // What the day does is common to the readings of a test: it is summed out (Sherman and Morrison), so that a hundred tests make no larger sum than one.
        void Add(TrendReading[] test)
        {
            var own = 1 / (ReadingSpread * ReadingSpread);
            var common = DaySpread * DaySpread + (test[0].IsUnknownGauge ? GaugeSpread * GaugeSpread : 0);
            var shared = own * own * common / (1 + test.Length * own * common);
            var (sums, sum) = (new double[size], 0.0);
            Span<(int At, double By)> terms = stackalloc (int, double)[4];
            foreach (var reading in test)
            {
                var i = Array.BinarySearch(cylinders, reading.Cylinder);
                var count = 0;
                terms[count++] = (i, 1);
                terms[count++] = (n + i, (reading.Run - centre) / step);
                if (reading.Gauge is { } gauge)
                {
                    terms[count++] = (2 * n + Array.IndexOf(gauges, gauge), 1);
                }
                if (reading.IsCold)
                {
                    terms[count++] = (size - 1, 1);
                }
                var y = Math.Log(reading.Pa);
                sum += y;
                for (var a = 0; a < count; a++)
                {
                    sums[terms[a].At] += terms[a].By;
                    right[terms[a].At] += own * terms[a].By * y;
                    for (var b = 0; b < count; b++)
                    {
                        precision[terms[a].At, terms[b].At] += own * terms[a].By * terms[b].By;
                    }
                }
            }
            for (var a = 0; a < size; a++)
            {
                if (sums[a] == 0)
                {
                    continue;
                }
                right[a] -= shared * sums[a] * sum;
                for (var b = 0; b < size; b++)
                {
                    precision[a, b] -= shared * sums[a] * sums[b];
                }
            }
        }
    }

    /// <summary>Where a cylinder stands when the engine has run so far.</summary>
    /// <param name="cylinder">The cylinder; one of <see cref="Cylinders"/>.</param>
    /// <param name="run">How far, km or h.</param>
    /// <returns>The median in Pa gauge, and the standard deviation of the logarithm.</returns>
    public (double Pa, double Spread) At(int cylinder, double run)
    {
        var (i, n) = (Array.BinarySearch(cylinders, cylinder), cylinders.Length);
        var x = (run - centre) / step;
        return (Math.Exp(mean[i] + mean[n + i] * x), Math.Sqrt(Math.Max(0, covariance[i, i] + 2 * x * covariance[i, n + i] + x * x * covariance[n + i, n + i])));
    }

    // Levels and slopes of the cylinders drawn together: levels at the last test as logarithms, then slopes for each step.
    internal (double[] Mean, Matrix<double> Factor) Joint()
    {
        var m = 2 * cylinders.Length;
        return (mean[..m], covariance.SubMatrix(0, m, 0, m).Cholesky().Factor);
    }
}
