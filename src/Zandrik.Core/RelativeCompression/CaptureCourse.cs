namespace Zandrik.Core.RelativeCompression;

/// <summary>What a capture shows along its time and round its cycle: speed, marks, the battery, the mean cycle and its humps.</summary>
internal static class CaptureCourse
{
    /// <summary>Cranking speed, turn by turn.</summary>
    public static List<SpeedPoint> Speed(double[] theta, CrankingPart part)
    {
        var speed = new List<SpeedPoint>();
        var from = 0;
        for (var c = 0.0; theta[0] + c + 1 <= theta[^1]; c += 0.5)
        {
            while (theta[from] < theta[0] + c)
            {
                from++;
            }
            var to = from;
            while (to < theta.Length - 1 && theta[to] < theta[0] + c + 1)
            {
                to++;
            }
            speed.Add(new SpeedPoint((part.From + (from + to) / 2.0) * part.StepS, 120 * (theta[to] - theta[from]) / ((to - from) * part.StepS)));
        }
        return speed;
    }

    /// <summary>The battery; absent without a channel of it.</summary>
    public static BatterySag? Battery(StarterTrace trace, CrankingPart part)
    {
        if (trace.Battery.Length == 0)
        {
            return null;
        }
        var each = part.BlocksEach;
        var engaged = trace.Battery[(part.Engaged * each)..Math.Min(trace.Battery.Length, part.To * each)];
        var settled = trace.Battery[(part.From * each)..Math.Min(trace.Battery.Length, part.To * each)];
        double? rest = part.Engaged * part.StepS > 0.05 ? Smoothing.Quantile(ToDoubles(trace.Battery[..(part.Engaged * each / 2)]), 0.5) : null;
        double sum = 0;
        foreach (var v in settled)
        {
            sum += v / settled.Length;
        }
        return new BatterySag(rest, Smoothing.Quantile(ToDoubles(engaged), 0.002), sum);
    }

    private static double[] ToDoubles(ReadOnlySpan<float> values)
    {
        var doubles = new double[values.Length];
        for (var i = 0; i < doubles.Length; i++)
        {
            doubles[i] = values[i];
        }
        return doubles;
    }

    /// <summary>Where each slot is at top dead centre.</summary>
    public static List<TraceMark> Marks(CycleFit found, CrankingPart part, double[] at)
    {
        var marks = new List<TraceMark>();
        var theta = found.Theta;
        for (var i = 0; i < at.Length; i++)
        {
            var first = found.Point.Phase + at[i];
            first -= Math.Floor(first - theta[0]);
            var j = 0;
            for (var where = first; where < theta[^1]; where++)
            {
                while (theta[j + 1] < where)
                {
                    j++;
                }
                var share = (where - theta[j]) / (theta[j + 1] - theta[j]);
                marks.Add(new TraceMark((part.From + j + share) * part.StepS, i + 1));
            }
        }
        marks.Sort((a, b) => a.TimeS.CompareTo(b.TimeS));
        return marks;
    }

    /// <summary>The mean cycle by middle values, and the single ones, over even angles.</summary>
    public static (float[] Mean, IReadOnlyList<IReadOnlyList<float>> Each) Fold(CrankingPart part, CycleFit found, ReadOnlySpan<double> amps)
    {
        var theta = found.Theta;
        var level = Smoothing.CycleMean(amps, theta);
        var count = (int)Math.Floor(theta[^1] - theta[0]);
        var rows = new float[count][];
        var j = 0;
        for (var c = 0; c < count; c++)
        {
            rows[c] = new float[RelativeAnalysis.CyclePoints];
            for (var b = 0; b < RelativeAnalysis.CyclePoints; b++)
            {
                var where = theta[0] + c + (b + 0.5) / RelativeAnalysis.CyclePoints;
                while (theta[j + 1] < where)
                {
                    j++;
                }
                var share = (where - theta[j]) / (theta[j + 1] - theta[j]);
                rows[c][b] = (float)(amps[j] - level[j] + share * (amps[j + 1] - level[j + 1] - amps[j] + level[j]));
            }
        }
        var mean = new float[RelativeAnalysis.CyclePoints];
        for (var b = 0; b < RelativeAnalysis.CyclePoints; b++)
        {
            mean[b] = (float)Smoothing.Quantile([.. rows.Select(r => (double)r[b])], 0.5);
        }
        return (mean, rows);
    }

    /// <summary>Plain hump heights, percent of the highest: the highest about each top dead centre over the lowest on both sides.</summary>
    public static double[] Humps(float[] mean, double phase, double[] at, bool even)
    {
        var n = at.Length;
        var heights = new double[n];
        for (var i = 0; i < n; i++)
        {
            var gap = even ? 1.0 / n : Math.Min(Gap(at[(i + n - 1) % n], at[i]), Gap(at[i], at[(i + 1) % n]));
            float Extreme(double from, double to, bool highest)
            {
                var value = highest ? float.MinValue : float.MaxValue;
                for (var x = from; x <= to; x += 1.0 / RelativeAnalysis.CyclePoints)
                {
                    var where = phase + at[i] + x;
                    var b = (int)((where - Math.Floor(where)) * RelativeAnalysis.CyclePoints) % RelativeAnalysis.CyclePoints;
                    value = highest ? Math.Max(value, mean[b]) : Math.Min(value, mean[b]);
                }
                return value;
            }
            heights[i] = Extreme(-0.4 * gap, 0.5 * gap, true) - (Extreme(-gap, 0, false) + Extreme(0, gap, false)) / 2;
        }
        var top = heights.Max();
        return [.. heights.Select(h => top > 0 ? 100 * h / top : 0)];
    }

    private static double Gap(double from, double to) => to > from ? to - from : to - from + 1;
}
