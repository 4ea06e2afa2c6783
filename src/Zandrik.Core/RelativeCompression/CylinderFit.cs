using MathNet.Numerics.LinearAlgebra;
using MathNet.Numerics.Optimization;
using Complex = System.Numerics.Complex;

namespace Zandrik.Core.RelativeCompression;

/// <summary>What the search is over: the starter's time constant, where the first slot's top dead centre stands on the track, and in which way each slot pumps less.</summary>
/// <param name="TauS">Time constant J·R/K² of starter and crank, s.</param>
/// <param name="Phase">Top dead centre of slot 1 on the track, cycles.</param>
/// <param name="Uneven">How unevenly the crank turns within the cycle, against what the motor equation gives with the usual figures: 0 as given, 1 for <see cref="CyclePhase.MoreUneven"/> times that.</param>
/// <param name="Wear">In which state the sound cylinders are, of <see cref="CompressionTemplate.Wears"/>.</param>
/// <param name="Losses">Why each slot pumps less, where it does.</param>
/// <param name="Gasket">Two slots with a leaking gasket between them; absent for none.</param>
internal sealed record FitPoint(double TauS, double Phase, double Uneven, int Wear, PressureLoss[] Losses, GasketLeak? Gasket = null);

/// <summary>A gasket that leaks between two slots.</summary>
/// <param name="First">One slot, from 0.</param>
/// <param name="Second">The other.</param>
/// <param name="Size">Which of the sizes of <see cref="CompressionTemplate.GasketSizes"/>.</param>
internal sealed record GasketLeak(int First, int Second, int Size);

/// <summary>
/// From the harmonics of the current to the peak pressure of each slot: the load torque T = I + tau·dI/dt is the sum of all cylinders' templates, each at its own angle and of its own
/// height; the heights are solved for by least squares, never negative, and what they hang on (time constant, phase, unevenness, state, and how weak slots are weak) by search. Sections 4.5 and 4.6 of docs/relative-compression.md.
/// </summary>
internal sealed class CylinderFit
{
    /// <summary>Time constant of starters with their cranks, s, as the search expects it, and by what factor it may well be off.</summary>
    public const double UsualTauS = 0.06;

    private const double TauSpread = 0.45;
    private const double UnevenSpread = 0.5;

    // Slots that are tried as weak in pairs: the lowest as they look with all taken for sound.
    private const int MostTried = 5;

    // Electrical lag L/R of the starter's circuit, s.
    private const double LagS = 0.0038;

    // Share of the ripple's power that the model may miss without saying anything against it.
    private const double Tolerance = 0.001;

    private static readonly PressureLoss[] Ways = [PressureLoss.Leak, PressureLoss.Filling, PressureLoss.Volume];

    private readonly Lazy<CompressionTemplate>[] templates;
    private readonly double[] at;
    private readonly double hz;
    private readonly int n;
    private readonly int orders;
    private readonly double? expected;
    private readonly double expectedSpread;
    private readonly Complex[] shape;
    private readonly Complex[] columns;
    private readonly double[] weights;
    private readonly Complex[] data;
    private readonly Complex[] turns;
    private readonly double[] normal;
    private readonly double[] lower;
    private readonly double[] right;
    private readonly bool[] free;

    /// <summary>Prepares the fit.</summary>
    /// <param name="templates">Templates of this engine, for each state of wear; made when they are wanted.</param>
    /// <param name="orders">Their highest harmonic.</param>
    /// <param name="at">Where the slots stand, cycles from the first.</param>
    /// <param name="hz">Cycles a second.</param>
    /// <param name="expected">Where sync puts the first slot; absent without.</param>
    /// <param name="expectedSpread">How sure that is, cycles.</param>
    public CylinderFit(Lazy<CompressionTemplate>[] templates, int orders, double[] at, double hz, double? expected, double expectedSpread)
    {
        (this.templates, this.at, this.hz, this.expected, this.expectedSpread) = (templates, at, hz, expected, expectedSpread);
        (n, this.orders) = (at.Length, orders);
        shape = new Complex[orders + 1];
        columns = new Complex[(orders + 1) * n];
        weights = new double[orders + 1];
        data = new Complex[orders + 1];
        normal = new double[n * n];
        lower = new double[n * n];
        right = new double[n];
        free = new bool[n];
        turns = new Complex[(orders + 1) * n];
        for (var k = 0; k <= orders; k++)
        {
            for (var i = 0; i < n; i++)
            {
                turns[k * n + i] = Complex.FromPolarCoordinates(1, -2 * Math.PI * k * at[i]);
            }
        }
    }

    /// <summary>
    /// Slots' heights at a point, the share of the weighted power that is not explained, and how far the heights of weak slots are from what their templates were made for. The template of
    /// a weak slot depends on its height, so both are brought together round by round; from a high and from a low start, as they may settle in two places.
    /// </summary>
    public (double[] Heights, double Residual, double Mismatch) Solve(Complex[][] current, FitPoint point, int rounds = 5, double[]? near = null)
    {
        var power = Load(current, point);
        if (near is not null || Array.TrueForAll(point.Losses, l => l == PressureLoss.None))
        {
            return Settle(point, power, near ?? Enumerable.Repeat(1.0, n).ToArray(), near is null ? 1 : rounds);
        }
        var high = Settle(point, power, Start(point, 0.75), rounds);
        var low = Settle(point, power, Start(point, 0.3), rounds);
        return double.IsNaN(low.Residual + low.Mismatch) || high.Residual + 0.01 * high.Mismatch < low.Residual + 0.01 * low.Mismatch ? high : low;
    }

    private static double[] Start(FitPoint point, double weak) => [.. point.Losses.Select(l => l == PressureLoss.None ? 1 : weak)];

    private (double[] Heights, double Residual, double Mismatch) Settle(FitPoint point, double power, double[] start, int rounds)
    {
        var heights = (double[])start.Clone();
        var (residual, mismatch) = (1.0, 0.0);
        for (var round = 0; round < rounds; round++)
        {
            var before = (double[])heights.Clone();
            var reference = Reference(before);
            Columns(before, templates[point.Wear].Value, point);
            residual = Least(power, heights);
            mismatch = 0;
            if (point.Gasket is { } leak)
            {
                // The column stands for two sound cylinders with a hole between them: as high as the others.
                var (_, first, second) = templates[point.Wear].Value.Gasket(at[leak.Second] - at[leak.First], leak.Size);
                var height = heights[leak.First];
                (heights[leak.First], heights[leak.Second]) = (height * first, height * second);
                var off = Math.Log(Math.Clamp(height / Reference(heights), 0.1, 10));
                mismatch += 4 * off * off;
            }
            for (var i = 0; i < n; i++)
            {
                if (point.Losses[i] != PressureLoss.None)
                {
                    var (was, now) = (Math.Clamp(before[i] / reference, 0.02, 1), Math.Clamp(heights[i] / Reference(heights), 0.02, 1));
                    var off = Math.Log(now / was);
                    mismatch += off * off;
                }
            }
        }
        return (heights, residual, mismatch);
    }

    // The load torque's harmonics at a point, weighted; answers their power.
    private double Load(Complex[][] current, FitPoint point)
    {
        double power = 0;
        var u = point.Uneven;
        for (var k = 1; k <= orders; k++)
        {
            var w = 2 * Math.PI * k * hz;
            var lag = new Complex(1 - w * w * point.TauS * LagS, w * point.TauS);
            var roll = 1 / (1 + Math.Pow(k / (1.7 * n + 2), 4));
            weights[k] = Math.Sqrt(roll) / lag.Magnitude;
            var (amps, first, second) = (current[0][k] + u * current[3][k], current[1][k] + u * current[4][k], current[2][k] + u * current[5][k]);
            data[k] = weights[k] * (amps + point.TauS * (first + LagS * second)) * Complex.FromPolarCoordinates(1, 2 * Math.PI * k * point.Phase);
            power += data[k].Real * data[k].Real + data[k].Imaginary * data[k].Imaginary;
        }
        return power;
    }

    /// <summary>The best point there is, and what it explains.</summary>
    /// <param name="current">Mean harmonics of the current and its derivatives.</param>
    /// <param name="quick">True to take all cylinders for sound, which is enough to tell a wrong cycle.</param>
    /// <param name="span">How far the phase is searched, cycles: one slot on an even engine, else the whole cycle.</param>
    public (FitPoint Point, double[] Heights, double Residual, double Cost) Search(Complex[][] current, double span, bool quick)
    {
        var coarse = new List<(double Cost, FitPoint Point)>();
        var center = expected ?? 0;
        var steps = Math.Max(16, (int)(span * 200));
        var sound = new PressureLoss[n];
        foreach (var tau in (ReadOnlySpan<double>)[0.03, 0.045, 0.065, 0.095])
        {
            for (var s = 0; s < steps; s++)
            {
                var point = new FitPoint(tau, center + span * (s / (double)steps - 0.5), 0, 1, sound);
                coarse.Add((Cost(current, point, 1), point));
            }
        }
        var start = coarse.MinBy(c => c.Cost).Point;
        var best = Descend(current, start);
        if (quick)
        {
            var rough = Solve(current, best.Point);
            return (best.Point, rough.Heights, rough.Residual, best.Cost);
        }
        // Every single weak slot and every pair of them, in every way: beside a weak cylinder a sound one looks weak too, and going by the looks alone ends in the wrong place.
        var pairs = new List<(double Cost, FitPoint Point)>();
        var states = Enumerable.Range(0, templates.Length).Select(w => Descend(current, best.Point with { Wear = w })).OrderBy(f => f.Cost).ToList();
        foreach (var (point, cost) in states.Take(2))
        {
            pairs.Add((cost, point));
            AddPairs(current, point, pairs);
            AddGaskets(current, point, pairs);
        }
        var least = pairs.MinBy(p => p.Cost);
        best = (least.Point, least.Cost);
        foreach (var (_, point) in pairs.OrderBy(t => t.Cost).DistinctBy(t => (t.Point.Wear, string.Join(' ', t.Point.Losses), t.Point.Gasket)).Take(8))
        {
            var found = Descend(current, point);
            best = found.Cost < best.Cost - 0.05 ? found : best;
        }
        // One change after the other: which slot, pumping less in which way, explains most. Not always the one that looks weakest, for beside a weak cylinder a sound one
        // looks weak too; and what was taken for weak at first may turn out sound.
        for (var round = 0; round < 8; round++)
        {
            var seen = Solve(current, best.Point).Heights;
            var highest = Reference(seen);
            var tries = new List<(double Cost, FitPoint Point)>();
            for (var wear = 0; wear < templates.Length; wear++)
            {
                if (wear != best.Point.Wear)
                {
                    tries.Add((Cost(current, best.Point with { Wear = wear }, 3), best.Point with { Wear = wear }));
                }
            }
            AddGaskets(current, best.Point, tries);
            if (best.Point.Gasket is not null)
            {
                tries.Add((Cost(current, best.Point with { Gasket = null }, 3), best.Point with { Gasket = null }));
            }
            for (var i = 0; i < n; i++)
            {
                foreach (var loss in Enum.GetValues<PressureLoss>())
                {
                    if (loss != best.Point.Losses[i] && (best.Point.Losses[i] != PressureLoss.None || seen[i] < 0.98 * highest))
                    {
                        var losses = (PressureLoss[])best.Point.Losses.Clone();
                        losses[i] = loss;
                        var point = best.Point with { Losses = losses };
                        tries.Add((Cost(current, point, 3), point));
                    }
                }
            }
            var better = best;
            foreach (var (_, point) in tries.OrderBy(t => t.Cost).Take(3))
            {
                var found = Descend(current, point);
                better = found.Cost < better.Cost ? found : better;
            }
            if (better.Cost > best.Cost - 0.05)
            {
                break;
            }
            best = better;
        }
        var (heights, residual, _) = Solve(current, best.Point);
        return (best.Point, heights, residual, best.Cost);
    }

    // A leaking gasket between any two slots that look weak: which of them are neighbours is not known here.
    private void AddGaskets(Complex[][] current, FitPoint basis, List<(double Cost, FitPoint Point)> tries)
    {
        if (n < 3)
        {
            return;
        }
        var seen = Solve(current, basis).Heights;
        var slots = Enumerable.Range(0, n).OrderBy(i => seen[i]).Take(MostTried).ToArray();
        for (var a = 0; a < slots.Length; a++)
        {
            for (var b = a + 1; b < slots.Length; b++)
            {
                for (var size = 0; size < CompressionTemplate.GasketSizes; size++)
                {
                    var leak = new GasketLeak(Math.Min(slots[a], slots[b]), Math.Max(slots[a], slots[b]), size);
                    if (leak == basis.Gasket)
                    {
                        continue;
                    }
                    var losses = (PressureLoss[])basis.Losses.Clone();
                    (losses[leak.First], losses[leak.Second]) = (PressureLoss.None, PressureLoss.None);
                    (double Cost, FitPoint Point) best = (double.MaxValue, basis);
                    foreach (var shift in (ReadOnlySpan<double>)[-0.005, 0, 0.003])
                    {
                        var point = basis with { Phase = basis.Phase + shift, Losses = losses, Gasket = leak };
                        var cost = Cost(current, point, 2);
                        best = cost < best.Cost ? (cost, point) : best;
                    }
                    tries.Add(best);
                }
            }
        }
    }

    // Taking weak cylinders for sound shifts time constant and phase, so each pair is tried a little to all sides.
    private void AddPairs(Complex[][] current, FitPoint sound, List<(double Cost, FitPoint Point)> pairs)
    {
        var seen = Solve(current, sound).Heights;
        var slots = Enumerable.Range(0, n).OrderBy(i => seen[i]).Take(MostTried).ToArray();
        for (var a = 0; a < slots.Length; a++)
        {
            for (var b = a; b < slots.Length; b++)
            {
                foreach (var first in Ways)
                {
                    foreach (var second in a == b ? [first] : Ways)
                    {
                        var losses = new PressureLoss[n];
                        (losses[slots[a]], losses[slots[b]]) = (first, second);
                        (double Cost, FitPoint Point) best = (double.MaxValue, sound);
                        foreach (var tau in (ReadOnlySpan<double>)[sound.TauS, UsualTauS])
                        {
                            foreach (var shift in (ReadOnlySpan<double>)[-0.008, -0.003, 0.002])
                            {
                                var point = sound with { TauS = tau, Phase = sound.Phase + shift, Losses = losses };
                                var cost = Cost(current, point, 2);
                                best = cost < best.Cost ? (cost, point) : best;
                            }
                        }
                        pairs.Add(best);
                    }
                }
            }
        }
    }

    /// <summary>The best time constant and phase near a point.</summary>
    public (FitPoint Point, double Cost) Descend(Complex[][] current, FitPoint start)
    {
        FitPoint At(Vector<double> v) => start with { TauS = Math.Exp(v[0]), Phase = v[1], Uneven = Math.Clamp(v[2], -1, 2) };
        // Heights go on from the last point, which is near: the share of a weak cylinder and its template settle together.
        double[]? warm = null;
        (FitPoint Point, double Cost) best = (start, double.MaxValue);
        double Value(Vector<double> v)
        {
            var point = At(v);
            (warm, var residual, var mismatch) = Solve(current, point, warm is null ? 5 : 2, warm);
            var cost = Cost(point, residual, mismatch);
            best = cost < best.Cost ? (point, cost) : best;
            return cost;
        }
        try
        {
            new NelderMeadSimplex(1e-4, 120).FindMinimum(ObjectiveFunction.Value(Value),
                Vector<double>.Build.Dense([Math.Log(start.TauS), start.Phase, start.Uneven]), Vector<double>.Build.Dense([0.2, 0.1 / n, 0.3]));
        }
        catch (MaximumIterationsException)
        {
            // What it found until then stands.
        }
        return best;
    }

    /// <summary>How little a point is believed: what it leaves unexplained against what a model may miss, and how far it is from the usual.</summary>
    public double Cost(Complex[][] current, FitPoint point, int rounds) =>
        Solve(current, point, rounds) is var (_, residual, mismatch) ? Cost(point, residual, mismatch) : 0;

    private double Cost(FitPoint point, double residual, double mismatch)
    {
        var tau = Math.Log(point.TauS / UsualTauS) / TauSpread;
        var cost = residual / Tolerance + tau * tau + 4 * mismatch + point.Uneven * point.Uneven / (UnevenSpread * UnevenSpread);
        foreach (var loss in point.Losses)
        {
            cost += loss == PressureLoss.None ? 0 : 0.3;
        }
        cost += point.Gasket is null ? 0 : 0.5;
        if (expected is { } phase)
        {
            var off = (point.Phase - phase) / expectedSpread;
            cost += Math.Log(1 + off * off);
        }
        // A point at which nothing can be solved is no point.
        return double.IsNaN(cost) ? double.MaxValue : cost / 2;
    }

    // The mean of the better half: one height that is too high does not make all others weak.
    private static double Reference(double[] heights)
    {
        Span<double> sorted = stackalloc double[heights.Length];
        heights.CopyTo(sorted);
        sorted.Sort();
        double sum = 0;
        var half = (sorted.Length + 1) / 2;
        for (var i = 0; i < half; i++)
        {
            sum += sorted[^(i + 1)] / half;
        }
        return sum;
    }

    private void Columns(double[] heights, CompressionTemplate template, FitPoint point)
    {
        var losses = point.Losses;
        var highest = Reference(heights);
        for (var i = 0; i < n; i++)
        {
            var share = highest > 0 ? Math.Clamp(heights[i] / highest, 0.02, 1) : 1;
            if (point.Gasket is { } leak && (i == leak.First || i == leak.Second))
            {
                // Both are one column, at the place of the first.
                var pair = template.Gasket(at[leak.Second] - at[leak.First], leak.Size).Harmonics;
                for (var k = 0; k <= orders; k++)
                {
                    shape[k] = i == leak.First ? pair[k] : 0;
                }
            }
            else
            {
                template.Of(losses[i], share, shape);
            }
            for (var k = 1; k <= orders; k++)
            {
                columns[k * n + i] = weights[k] * shape[k] * turns[k * n + i];
            }
        }
    }

    // Least squares with no height below zero: cylinders that come out negative are set to nothing and the rest solved again.
    private double Least(double power, double[] heights)
    {
        double trace = 0;
        for (var i = 0; i < n; i++)
        {
            for (var j = 0; j <= i; j++)
            {
                double sum = 0;
                for (var k = 1; k <= orders; k++)
                {
                    var (a, b) = (columns[k * n + i], columns[k * n + j]);
                    sum += a.Real * b.Real + a.Imaginary * b.Imaginary;
                }
                normal[i * n + j] = normal[j * n + i] = sum;
            }
            double dot = 0;
            for (var k = 1; k <= orders; k++)
            {
                var a = columns[k * n + i];
                dot += a.Real * data[k].Real + a.Imaginary * data[k].Imaginary;
            }
            right[i] = dot;
            trace += normal[i * n + i] / n;
            free[i] = true;
        }
        var negative = true;
        while (negative)
        {
            Cholesky(1e-6 * trace, heights);
            negative = false;
            for (var i = 0; i < n; i++)
            {
                if (free[i] && !(heights[i] >= 0))
                {
                    negative = true;
                    free[i] = false;
                }
            }
        }
        var left = power;
        for (var i = 0; i < n; i++)
        {
            left -= 2 * heights[i] * right[i];
            for (var j = 0; j < n; j++)
            {
                left += heights[i] * normal[i * n + j] * heights[j];
            }
        }
        return power > 0 ? Math.Max(0, left / power) : 1;
    }

    // Solves for the free heights in place, a few hundred thousand times a capture: the library's matrices cost ten times the arithmetic.
    private void Cholesky(double ridge, double[] heights)
    {
        Array.Clear(heights);
        for (var i = 0; i < n; i++)
        {
            if (!free[i])
            {
                continue;
            }
            for (var j = 0; j <= i; j++)
            {
                if (!free[j])
                {
                    continue;
                }
                var sum = normal[i * n + j] + (i == j ? ridge : 0);
                for (var m = 0; m < j; m++)
                {
                    sum -= free[m] ? lower[i * n + m] * lower[j * n + m] : 0;
                }
                lower[i * n + j] = i == j ? Math.Sqrt(Math.Max(sum, 1e-300)) : sum / lower[j * n + j];
            }
            var forward = right[i];
            for (var m = 0; m < i; m++)
            {
                forward -= free[m] ? lower[i * n + m] * heights[m] : 0;
            }
            heights[i] = forward / lower[i * n + i];
        }
        for (var i = n - 1; i >= 0; i--)
        {
            if (!free[i])
            {
                continue;
            }
            var back = heights[i];
            for (var m = i + 1; m < n; m++)
            {
                back -= free[m] ? lower[m * n + i] * heights[m] : 0;
            }
            heights[i] = back / lower[i * n + i];
        }
    }
}
