using System.Numerics;

namespace Zandrik.Core.RelativeCompression;

/// <summary>
/// The settled current of each whole cycle as harmonics of the cycle: of the current itself and of its first and second time derivative, of which the load torque is made.
/// The integrals run over the samples, so all of them count; noise, mains hum and ripple that do not go round with the cycle cancel. Section 4.4 of docs/relative-compression.md.
/// </summary>
internal sealed class CycleOrders
{
    private CycleOrders(int orders, double hz, List<Complex[][]> cycles) => (Orders, Hz, Cycles) = (orders, hz, cycles);

    /// <summary>Highest harmonic.</summary>
    public int Orders { get; }

    /// <summary>Mean cycles a second.</summary>
    public double Hz { get; }

    /// <summary>For each whole cycle: harmonics 0 to <see cref="Orders"/> of current (A), its derivative (A/s) and the second (A/s²); how much each changes when the crank turns more unevenly, and what a starter wound in series does otherwise: to its torque (A), and to how its speed changes (A/s, A/s²).</summary>
    public List<Complex[][]> Cycles { get; }

    /// <summary>Cycles that are unlike the rest and were left out.</summary>
    public int LeftOut { get; private set; }

    /// <summary>Variance of the ripple, A², about each cycle's mean.</summary>
    public double Variance { get; private set; }

    /// <summary>Share of the ripple's variance that does not repeat from cycle to cycle, about the mean of these cycles.</summary>
    public double Scatter { get; private set; }

    /// <summary>The same about what the mean of many cycles would be: few scatter less about their own mean.</summary>
    public double TrueScatter => Math.Min(1, Scatter * Cycles.Count / Math.Max(1, Cycles.Count - 1));

    /// <summary>Takes the whole cycles of a track.</summary>
    /// <param name="amps">Settled current, A.</param>
    /// <param name="track">The track, cycles.</param>
    /// <param name="more">The track that turns more unevenly.</param>
    /// <param name="stepS">Time between samples, s.</param>
    /// <param name="orders">Highest harmonic.</param>
    /// <param name="zeroKnown">True where the clamp's zero is known, so that the current's own level is.</param>
    public static CycleOrders? Of(ReadOnlySpan<double> amps, double[] track, double[] more, double stepS, int orders, bool zeroKnown = true)
    {
        var n = amps.Length;
        var count = (int)Math.Min(Math.Floor(track[n - 1] - track[0]), Math.Floor(more[n - 1] - more[0]));
        if (count < 1)
        {
            return null;
        }
        var level = Smoothing.CycleMean(amps, track);
        var ripple = new double[n];
        for (var i = 0; i < n; i++)
        {
            ripple[i] = amps[i] - level[i];
        }
        // Derivatives over a few milliseconds: finer is only noise, which the harmonics drop anyway.
        var reach = Math.Max(1, (int)Math.Round(0.002 / stepS));
        var (first, second) = (new double[n], new double[n]);
        for (var i = 0; i < n; i++)
        {
            var (a, b) = (Math.Max(0, i - reach), Math.Min(n - 1, i + reach));
            first[i] = (ripple[b] - ripple[a]) / ((b - a) * stepS);
            second[i] = b - i == reach && i - a == reach ? (ripple[b] - 2 * ripple[i] + ripple[a]) / (reach * stepS * reach * stepS) : 0;
        }
        // What a starter wound in series does otherwise: its field follows the current.
        var (torque, bendFirst, bendSecond) = (new double[n], new double[n], new double[n]);
        if (zeroKnown)
        {
            var speed = new double[n];
            for (var i = 0; i < n; i++)
            {
                (torque[i], speed[i]) = level[i] > 0 ? SeriesBend(ripple[i] / level[i], level[i]) : (0, 0);
            }
            for (var i = 0; i < n; i++)
            {
                var (from, to) = (Math.Max(0, i - reach), Math.Min(n - 1, i + reach));
                bendFirst[i] = (speed[to] - speed[from]) / ((to - from) * stepS);
                bendSecond[i] = to - i == reach && i - from == reach ? (speed[to] - 2 * speed[i] + speed[from]) / (reach * stepS * reach * stepS) : 0;
            }
        }
        var cycles = Cut(track, [ripple, first, second], count, orders);
        var bent = Cut(track, [torque, bendFirst, bendSecond], count, orders);
        var other = Cut(more, [ripple, first, second], count, orders);
        for (var c = 0; c < count; c++)
        {
            for (var d = 0; d < 3; d++)
            {
                for (var k = 0; k <= orders; k++)
                {
                    cycles[c][d + 3][k] = other[c][d][k] - cycles[c][d][k];
                    cycles[c][d + 6][k] = bent[c][d][k];
                }
            }
        }
        double variance = 0;
        foreach (var r in ripple)
        {
            variance += r * r / n;
        }
        var hz = (track[n - 1] - track[0]) / ((n - 1) * stepS);
        var result = new CycleOrders(orders, hz, cycles) { Variance = variance };
        result.LeaveOut();
        return result;
    }

    // A field half saturated at the mean current, as a share i of it: torque goes with i·2i/(1 + i), speed with (stall − i)·(1 + i)/2i. How far both are, in A, from the straight lines of a field that stays.
    private static (double Torque, double Speed) SeriesBend(double ripple, double level)
    {
        const double Stall = 4.7, LeastCurrent = 0.15;
        var i = Math.Max(LeastCurrent, 1 + ripple);
        return (level * ((2 * i * i / (1 + i) - 1) / 1.5 - ripple), level * (-(((Stall - i) * (1 + i) / (2 * i)) - (Stall - 1)) * 2 / (Stall + 1) - ripple));
    }

    private static List<Complex[][]> Cut(double[] theta, double[][] values, int count, int orders)
    {
        var n = theta.Length;
        var cycles = new List<Complex[][]>();
        var start = 0;
        for (var c = 0; c < count; c++)
        {
            var end = start;
            while (end < n && theta[end] < theta[0] + c + 1)
            {
                end++;
            }
            // Real and imaginary parts by themselves: this loop is most of the work.
            var parts = new double[6 * (orders + 1)];
            for (var i = start; i < end; i++)
            {
                var width = Width(theta, i, theta[0] + c, theta[0] + c + 1);
                var (sin, cos) = Math.SinCos(-2 * Math.PI * theta[i]);
                var (re, im) = (width, 0.0);
                var (a, b, d) = (values[0][i], values[1][i], values[2][i]);
                for (var k = 0; k < parts.Length; k += 6)
                {
                    parts[k] += a * re;
                    parts[k + 1] += a * im;
                    parts[k + 2] += b * re;
                    parts[k + 3] += b * im;
                    parts[k + 4] += d * re;
                    parts[k + 5] += d * im;
                    (re, im) = (re * cos - im * sin, re * sin + im * cos);
                }
            }
            var found = Empty(orders);
            for (var k = 0; k <= orders; k++)
            {
                for (var v = 0; v < 3; v++)
                {
                    found[v][k] = new Complex(parts[6 * k + 2 * v], parts[6 * k + 2 * v + 1]);
                }
            }
            cycles.Add(found);
            start = end;
        }
        return cycles;
    }

    private static Complex[][] Empty(int orders) => [.. Enumerable.Range(0, 9).Select(_ => new Complex[orders + 1])];

    /// <summary>The mean over the cycles.</summary>
    public Complex[][] Mean()
    {
        var mean = Empty(Orders);
        foreach (var cycle in Cycles)
        {
            for (var d = 0; d < mean.Length; d++)
            {
                for (var k = 0; k <= Orders; k++)
                {
                    mean[d][k] += cycle[d][k] / Cycles.Count;
                }
            }
        }
        return mean;
    }

    // Half of what a sample stands for lies on each side of it, within the cycle.
    private static double Width(ReadOnlySpan<double> theta, int i, double from, double to)
    {
        var left = i > 0 ? Math.Max(from, (theta[i - 1] + theta[i]) / 2) : from;
        var right = i + 1 < theta.Length ? Math.Min(to, (theta[i] + theta[i + 1]) / 2) : to;
        if (i > 0 && theta[i - 1] < from)
        {
            left = from;
        }
        if (i + 1 < theta.Length && theta[i + 1] >= to)
        {
            right = to;
        }
        return Math.Max(0, right - left);
    }

    // A cycle far from the middle one, against the usual distance, was something else: a hitch, the last turn.
    private void LeaveOut()
    {
        if (Cycles.Count >= 4)
        {
            var middle = new Complex[Orders + 1];
            for (var k = 1; k <= Orders; k++)
            {
                middle[k] = new Complex(Smoothing.Quantile([.. Cycles.Select(c => c[0][k].Real)], 0.5), Smoothing.Quantile([.. Cycles.Select(c => c[0][k].Imaginary)], 0.5));
            }
            var far = Cycles.Select(c => Enumerable.Range(1, Orders).Sum(k => Complex.Abs(c[0][k] - middle[k]) * Complex.Abs(c[0][k] - middle[k]))).ToArray();
            var usual = Smoothing.Quantile(far, 0.5);
            for (var i = far.Length - 1; i >= 0; i--)
            {
                if (far[i] > 12 * usual && LeftOut < far.Length / 4)
                {
                    Cycles.RemoveAt(i);
                    LeftOut++;
                }
            }
        }
        var mean = Mean()[0];
        double repeats = 0, whole = 0;
        for (var k = 1; k <= Orders; k++)
        {
            repeats += 2 * mean[k].Magnitude * mean[k].Magnitude;
            whole += Cycles.Average(c => 2 * c[0][k].Magnitude * c[0][k].Magnitude);
        }
        Scatter = whole > 0 ? 1 - repeats / whole : 1;
    }
}
