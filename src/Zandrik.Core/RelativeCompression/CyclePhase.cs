using MathNet.Numerics.LinearRegression;

namespace Zandrik.Core.RelativeCompression;

/// <summary>
/// Where in the cycle the crank stands at each sample of the settled current, in cycles: a smooth track of the strongest usable order, and on it the speed within the cycle
/// that the motor equation gives. Humps are never counted, so a missing one shifts nothing. Sections 4.2 and 4.3 of docs/relative-compression.md.
/// </summary>
internal static class CyclePhase
{
    /// <summary>How much more unevenly the second track turns within the cycle.</summary>
    public const double MoreUneven = 1.5;

    /// <summary>The track, and the same turning more unevenly within the cycle, as the current at standstill is only roughly known; absent when fewer than a cycle and a half are there.</summary>
    /// <param name="amps">Settled current, A.</param>
    /// <param name="stepS">Time between samples, s.</param>
    /// <param name="hz">Cycles a second to start from.</param>
    /// <param name="cylinders">Number of cylinders.</param>
    /// <param name="stallA">Current at standstill over the mean of the settled current, A: what the speed within the cycle is reckoned from.</param>
    public static (double[] Usual, double[] More)? Track(ReadOnlySpan<double> amps, double stepS, double hz, int cylinders, double stallA)
    {
        var n = amps.Length;
        var theta = new double[n];
        for (var i = 0; i < n; i++)
        {
            theta[i] = hz * stepS * i;
        }
        if (theta[n - 1] < 1.5)
        {
            return null;
        }
        var order = 0;
        for (var round = 0; round < 3; round++)
        {
            var level = Smoothing.CycleMean(amps, theta);
            var ripple = new double[n];
            for (var i = 0; i < n; i++)
            {
                ripple[i] = amps[i] - level[i];
            }
            if (order == 0)
            {
                order = Strongest(ripple, theta, cylinders);
            }
            if (!Follow(theta, ripple, order, (int)Math.Round(1 / (hz * stepS))))
            {
                return null;
            }
        }
        return (Uneven(theta, amps, stallA), Uneven(theta, amps, stallA / MoreUneven));
    }

    // The order to follow: N unless it is much weaker than another, as on engines of many cylinders with a dead one.
    private static int Strongest(double[] ripple, double[] theta, int cylinders)
    {
        var best = cylinders;
        double Power(int k)
        {
            double re = 0, im = 0;
            for (var i = 0; i < ripple.Length; i++)
            {
                var (sin, cos) = Math.SinCos(2 * Math.PI * k * theta[i]);
                re += ripple[i] * cos;
                im += ripple[i] * sin;
            }
            return re * re + im * im;
        }
        var most = 4 * Power(cylinders);
        for (var k = 1; k < cylinders; k++)
        {
            if (Power(k) is var power && power > most)
            {
                (best, most) = (k, power);
            }
        }
        return best;
    }

    // Demodulates at an order, smooths over about one and a half cycles and takes a smooth curve of the phase into the track.
    private static bool Follow(double[] theta, double[] ripple, int order, int cycle)
    {
        var n = theta.Length;
        var (re, im) = (new double[n], new double[n]);
        for (var i = 0; i < n; i++)
        {
            var (sin, cos) = Math.SinCos(-2 * Math.PI * order * theta[i]);
            (re[i], im[i]) = (ripple[i] * cos, ripple[i] * sin);
        }
        re = Smoothing.Boxcar(Smoothing.Boxcar(re, cycle), cycle / 2);
        im = Smoothing.Boxcar(Smoothing.Boxcar(im, cycle), cycle / 2);
        var stride = Math.Max(1, n / 400);
        var points = (n + stride - 1) / stride;
        var (phase, weight) = (new double[points], new double[points]);
        double last = 0, turns = 0;
        for (var p = 0; p < points; p++)
        {
            var i = p * stride;
            var now = Math.Atan2(im[i], re[i]);
            if (p > 0)
            {
                turns -= Math.Round((now - last) / (2 * Math.PI));
            }
            (last, phase[p]) = (now, now + 2 * Math.PI * turns);
            weight[p] = Math.Sqrt(re[i] * re[i] + im[i] * im[i]);
        }
        if (weight.Max() <= 0)
        {
            return false;
        }
        var cycles = theta[n - 1] - theta[0];
        var degree = Math.Clamp((int)(cycles / 2), 2, 8);
        var rows = new double[points][];
        for (var p = 0; p < points; p++)
        {
            rows[p] = Chebyshev(2.0 * p / Math.Max(1, points - 1) - 1, degree);
            for (var d = 0; d <= degree; d++)
            {
                rows[p][d] *= weight[p];
            }
            phase[p] *= weight[p];
        }
        var curve = MultipleRegression.NormalEquations(rows, phase, intercept: false);
        for (var i = 0; i < n; i++)
        {
            theta[i] += Clenshaw(curve, Math.Min(1, 2.0 * i / stride / Math.Max(1, points - 1) - 1)) / (2 * Math.PI * order);
        }
        for (var i = 1; i < n; i++)
        {
            if (theta[i] <= theta[i - 1])
            {
                return false;
            }
        }
        return true;
    }

    private static double[] Chebyshev(double x, int degree)
    {
        var t = new double[degree + 1];
        t[0] = 1;
        t[1] = x;
        for (var d = 2; d <= degree; d++)
        {
            t[d] = 2 * x * t[d - 1] - t[d - 2];
        }
        return t;
    }

    // The sum of Chebyshev polynomials, without making any of them.
    private static double Clenshaw(double[] factors, double x)
    {
        double next = 0, after = 0;
        for (var d = factors.Length - 1; d > 0; d--)
        {
            (next, after) = (2 * x * next - after + factors[d], next);
        }
        return x * next - after + factors[0];
    }

    // The starter slows where it draws more: w/w_mean = (I_stall − I)/(I_stall − I_mean).
    private static double[] Uneven(double[] theta, ReadOnlySpan<double> amps, double stallA)
    {
        var n = theta.Length;
        var level = Smoothing.CycleMean(amps, theta);
        var gain = new double[n];
        double sum = 0;
        for (var i = 1; i < n; i++)
        {
            var slower = (amps[i] - level[i] + amps[i - 1] - level[i - 1]) / 2 / stallA;
            sum -= Math.Min(0.9, slower) * (theta[i] - theta[i - 1]);
            gain[i] = sum;
        }
        var drift = Smoothing.CycleMean(gain, theta);
        var track = new double[n];
        for (var i = 0; i < n; i++)
        {
            track[i] = theta[i] + gain[i] - drift[i];
            if (i > 0)
            {
                track[i] = Math.Max(track[i], track[i - 1] + 1e-9);
            }
        }
        return track;
    }
}
