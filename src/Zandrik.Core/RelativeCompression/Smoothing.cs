using MathNet.Numerics.Statistics;

namespace Zandrik.Core.RelativeCompression;

/// <summary>Running means and order statistics over evenly sampled values.</summary>
internal static class Smoothing
{
    /// <summary>Mean over a centred window; shorter at the ends.</summary>
    public static double[] Boxcar(ReadOnlySpan<double> values, int width)
    {
        var n = values.Length;
        var sums = Sums(values);
        var smooth = new double[n];
        var half = Math.Max(0, width / 2);
        for (var i = 0; i < n; i++)
        {
            var (from, to) = (Math.Max(0, i - half), Math.Min(n, i + half + 1));
            smooth[i] = (sums[to] - sums[from]) / (to - from);
        }
        return smooth;
    }

    /// <summary>Sums up to each value: the sum of a to b is [b] − [a].</summary>
    public static double[] Sums(ReadOnlySpan<double> values)
    {
        var sums = new double[values.Length + 1];
        for (var i = 0; i < values.Length; i++)
        {
            sums[i + 1] = sums[i] + values[i];
        }
        return sums;
    }

    /// <summary>
    /// Mean over one whole cycle around each value, the cycle measured along the angle; at the ends the nearest whole cycle. What is left after taking
    /// it away has no drift and no sag.
    /// </summary>
    public static double[] CycleMean(ReadOnlySpan<double> values, ReadOnlySpan<double> cycles)
    {
        var n = values.Length;
        var sums = Sums(values);
        var means = new double[n];
        int from = 0, to = 0;
        for (var i = 0; i < n; i++)
        {
            var (low, high) = (cycles[i] - 0.5, cycles[i] + 0.5);
            if (low < cycles[0])
            {
                (low, high) = (cycles[0], cycles[0] + 1);
            }
            if (high > cycles[n - 1])
            {
                (low, high) = (cycles[n - 1] - 1, cycles[n - 1]);
            }
            while (from < n - 2 && cycles[from + 1] <= low)
            {
                from++;
            }
            while (to < n - 2 && cycles[to + 1] <= high)
            {
                to++;
            }
            // Parts of a sample at both ends: at low rates a whole one would leave a ripple.
            var a = SumAt(from, low, cycles, values, sums);
            var b = SumAt(to, high, cycles, values, sums);
            var width = IndexAt(to, high, cycles) - IndexAt(from, low, cycles);
            means[i] = width > 0 ? (b - a) / width : values[i];
        }
        return means;
    }

    /// <summary>The value below which a share of all lies.</summary>
    public static double Quantile(ReadOnlySpan<double> values, double share)
    {
        if (values.Length == 0)
        {
            return double.NaN;
        }
        // Chosen, not sorted: a capture has many values and one of them is wanted.
        return ArrayStatistics.QuantileCustomInplace(values.ToArray(), share, QuantileDefinition.R7);
    }

    private static double IndexAt(int i, double cycle, ReadOnlySpan<double> cycles) =>
        cycles[i + 1] > cycles[i] ? i + Math.Clamp((cycle - cycles[i]) / (cycles[i + 1] - cycles[i]), 0, 1) : i;

    private static double SumAt(int i, double cycle, ReadOnlySpan<double> cycles, ReadOnlySpan<double> values, double[] sums)
    {
        var part = IndexAt(i, cycle, cycles) - i;
        return sums[i] + part * values[i];
    }
}
