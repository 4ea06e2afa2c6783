using MathNet.Numerics.LinearAlgebra;
using MathNet.Numerics.Optimization;
using Complex = System.Numerics.Complex;

namespace Zandrik.Core.RelativeCompression;

/// <summary>
/// The search for what the slots' heights hang on: time constant, phase, unevenness, state of the sound cylinders, and which slots pump less in which way. Section 4.6 of docs/relative-compression.md.
/// </summary>
/// <param name="heights">Solves for the heights at a point.</param>
/// <param name="expected">Where sync puts the first slot, cycles; absent without.</param>
internal sealed class CylinderFit(SlotHeights heights, double? expected)
{
    // Time constant of starters with their cranks, s, as the search expects it.
    private const double UsualTauS = 0.06;

    // By what factor it may well be off, ln.
    private const double TauSpread = 0.45;
    private const double UnevenSpread = 0.5;

    // How sure the place of the sync event is, cycles.
    private const double ExpectedSpread = 0.02;

    // What is to be explained by a loss or a gasket more has to be worth this.
    private const double LossCost = 0.3;
    private const double GasketCost = 0.5;

    // Starters with permanent magnets are the usual ones.
    private const double SeriesCost = 0.1;

    // Slots that are tried as weak in pairs: the lowest as they look with all taken for sound.
    private const int MostTried = 5;

    // Of those, the ones that are tried a little to all sides.
    private const int MostShifted = 40;

    // A change of what is weak has to save this.
    private const double WorthChanging = 0.05;
    private const int MostChanges = 8;

    private static readonly PressureLoss[] Ways = [PressureLoss.Leak, PressureLoss.Filling, PressureLoss.Volume, PressureLoss.Short];

    private readonly int n = heights.Slots;

    /// <summary>The solver at a point.</summary>
    public SlotHeights Heights => heights;

    /// <summary>The best point there is, and what it explains.</summary>
    /// <param name="current">Mean harmonics of the current and its derivatives.</param>
    /// <param name="quick">True to take all cylinders for sound, which is enough to tell a wrong cycle.</param>
    /// <param name="span">How far the phase is searched, cycles: one slot on an even engine, else the whole cycle.</param>
    public (FitPoint Point, double[] Heights, double Residual, double Cost) Search(Complex[][] current, double span, bool quick)
    {
        var best = Descend(current, Coarse(current, span));
        if (!quick)
        {
            best = Improved(current, Weak(current, best.Point));
        }
        var (solved, residual, _) = heights.Solve(current, best.Point);
        return (best.Point, solved, residual, best.Cost);
    }

    // All cylinders taken for sound, over the time constants of starters and all phases.
    private FitPoint Coarse(Complex[][] current, double span)
    {
        var steps = Math.Max(16, (int)(span * 200));
        var coarse = new List<(double Cost, FitPoint Point)>();
        foreach (var tau in (ReadOnlySpan<double>)[0.03, 0.045, 0.065, 0.095])
        {
            for (var s = 0; s < steps; s++)
            {
                var point = new FitPoint(tau, (expected ?? 0) + span * (s / (double)steps - 0.5), 0, 1, new PressureLoss[n], Free: true);
                coarse.Add((Cost(current, point, 1), point));
            }
        }
        return coarse.MinBy(c => c.Cost).Point;
    }

    // Every single weak slot and every pair of them, in every way: beside a weak cylinder a sound one looks weak too, and going by the looks alone ends in the wrong place.
    private (FitPoint Point, double Cost) Weak(Complex[][] current, FitPoint sound)
    {
        var tries = new List<(double Cost, FitPoint Point)>();
        var states = Enumerable.Range(0, heights.Wears).Select(w => Descend(current, sound with { Wear = w })).OrderBy(f => f.Cost).ToList();
        var field = Descend(current, states[0].Point with { Series = 1 });
        if (field.Cost < states[0].Cost)
        {
            states[0] = field;
        }
        foreach (var (free, _) in states.Take(2))
        {
            var point = free with { Free = false };
            tries.Add((Cost(current, point, 1), point));
            var lowest = Lowest(Looks(current, point));
            AddPairs(current, point, lowest, tries);
            AddGaskets(current, point, lowest, tries);
        }
        var least = tries.MinBy(p => p.Cost);
        var best = (least.Point, least.Cost);
        foreach (var (_, point) in tries.OrderBy(t => t.Cost).DistinctBy(t => (t.Point.Wear, string.Join(' ', t.Point.Losses), t.Point.Gasket)).Take(8))
        {
            var found = Descend(current, point);
            best = found.Cost < best.Cost - WorthChanging ? found : best;
        }
        return best;
    }

    // One change after the other: which slot, pumping less in which way, explains most. Not always the one that looks weakest, for beside a weak cylinder a sound one
    // looks weak too; and what was taken for weak at first may turn out sound.
    private (FitPoint Point, double Cost) Improved(Complex[][] current, (FitPoint Point, double Cost) best)
    {
        for (var change = 0; change < MostChanges; change++)
        {
            var better = best;
            foreach (var (_, point) in Changes(current, best.Point).OrderBy(t => t.Cost).Take(3))
            {
                var found = Descend(current, point);
                better = found.Cost < better.Cost ? found : better;
            }
            if (better.Cost > best.Cost - WorthChanging)
            {
                break;
            }
            best = better;
        }
        return best;
    }

    // Another state of the sound cylinders, a gasket more or less, a slot that is weak in another way, no longer or too.
    private List<(double Cost, FitPoint Point)> Changes(Complex[][] current, FitPoint basis)
    {
        var seen = Looks(current, basis);
        var highest = SlotHeights.Reference(seen);
        var tries = new List<(double Cost, FitPoint Point)>();
        void Try(FitPoint point) => tries.Add((Cost(current, point, 3), point));
        for (var wear = 0; wear < heights.Wears; wear++)
        {
            if (wear != basis.Wear)
            {
                Try(basis with { Wear = wear });
            }
        }
        foreach (var series in (ReadOnlySpan<double>)[0, 0.5, 1])
        {
            if (series != basis.Series)
            {
                Try(basis with { Series = series });
            }
        }
        AddGaskets(current, basis, Lowest(seen), tries);
        if (basis.Gasket is not null)
        {
            Try(basis with { Gasket = null });
        }
        for (var i = 0; i < n; i++)
        {
            foreach (var loss in Enum.GetValues<PressureLoss>())
            {
                if (loss != basis.Losses[i] && (basis.Losses[i] != PressureLoss.None || seen[i] < 0.98 * highest))
                {
                    var losses = (PressureLoss[])basis.Losses.Clone();
                    losses[i] = loss;
                    Try(basis with { Losses = losses });
                }
            }
        }
        return tries;
    }

    // A leaking gasket between any two slots that look weak, or one of the two lowest and any other: beside a hole that takes all of its pressure, the other may look sound. Which of them are
    // neighbours is not known here.
    private void AddGaskets(Complex[][] current, FitPoint basis, int[] slots, List<(double Cost, FitPoint Point)> tries)
    {
        if (n < 3)
        {
            return;
        }
        var leaking = new List<FitPoint>();
        for (var a = 0; a < Math.Min(MostTried, n); a++)
        {
            for (var b = a + 1; b < (a < 2 ? n : Math.Min(MostTried, n)); b++)
            {
                for (var size = 0; size < CompressionTemplate.GasketSizes; size++)
                {
                    var leak = new GasketLeak(Math.Min(slots[a], slots[b]), Math.Max(slots[a], slots[b]), size);
                    if (leak != basis.Gasket)
                    {
                        var losses = (PressureLoss[])basis.Losses.Clone();
                        (losses[leak.First], losses[leak.Second]) = (PressureLoss.None, PressureLoss.None);
                        leaking.Add(basis with { Losses = losses, Gasket = leak });
                    }
                }
            }
        }
        AddBest(current, leaking, [0, -0.005, 0.003], tries);
    }

    // Every weak slot and every pair of weak slots, in every way.
    private void AddPairs(Complex[][] current, FitPoint basis, int[] lowest, List<(double Cost, FitPoint Point)> tries)
    {
        var slots = lowest[..Math.Min(MostTried, n)];
        var weak = new List<FitPoint>();
        for (var a = 0; a < slots.Length; a++)
        {
            for (var b = a; b < slots.Length; b++)
            {
                foreach (var first in Ways)
                {
                    // A pair of which only one is short as a whole is found from there by a change.
                    foreach (var second in a == b || first == PressureLoss.Short ? [first] : Ways[..3])
                    {
                        var losses = new PressureLoss[n];
                        (losses[slots[a]], losses[slots[b]]) = (first, second);
                        weak.Add(basis with { Losses = losses });
                    }
                }
            }
        }
        AddBest(current, weak, [-0.003, -0.008, 0.002], tries);
    }

    // The heights as they look where no slot is held to the others.
    private double[] Looks(Complex[][] current, FitPoint basis) => heights.Solve(current, basis with { Free = true }).Heights;

    private int[] Lowest(double[] seen) => [.. Enumerable.Range(0, n).OrderBy(i => seen[i])];

    // Taking weak cylinders for sound shifts time constant, unevenness and phase: each is tried from where the sound engine ended and from the usual, and the more likely ones a little to all sides.
    private void AddBest(Complex[][] current, List<FitPoint> points, ReadOnlySpan<double> shifts, List<(double Cost, FitPoint Point)> tries)
    {
        var rough = new List<(double Cost, FitPoint Point, FitPoint Shifted)>();
        foreach (var point in points)
        {
            foreach (var origin in (ReadOnlySpan<FitPoint>)[point, point with { TauS = UsualTauS, Uneven = 0 }])
            {
                var shifted = origin with { Phase = origin.Phase + shifts[0] };
                rough.Add((Cost(current, shifted, 2), origin, shifted));
            }
        }
        rough.Sort((x, y) => x.Cost.CompareTo(y.Cost));
        foreach (var (cost, origin, shifted) in rough.Take(MostShifted))
        {
            var best = (Cost: cost, Point: shifted);
            foreach (var shift in shifts[1..])
            {
                var point = origin with { Phase = origin.Phase + shift };
                best = Cost(current, point, 2) is var other && other < best.Cost ? (other, point) : best;
            }
            tries.Add(best);
        }
        tries.AddRange(rough.Skip(MostShifted).Select(r => (r.Cost, r.Shifted)));
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
            (warm, var residual, var strain) = heights.Solve(current, point, warm is null ? 5 : 2, warm);
            var cost = Cost(point, residual, strain);
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
        heights.Solve(current, point, rounds) is var (_, residual, strain) ? Cost(point, residual, strain) : 0;

    private double Cost(FitPoint point, double residual, double strain)
    {
        var tau = Math.Log(point.TauS / UsualTauS) / TauSpread;
        var cost = residual / heights.Tolerance + tau * tau + strain + point.Uneven * point.Uneven / (UnevenSpread * UnevenSpread);
        foreach (var loss in point.Losses)
        {
            cost += loss == PressureLoss.None ? 0 : LossCost;
        }
        cost += point.Gasket is null ? 0 : GasketCost;
        cost += SeriesCost * point.Series;
        if (expected is { } phase)
        {
            var off = (point.Phase - phase) / ExpectedSpread;
            cost += Math.Log(1 + off * off);
        }
        // A point at which nothing can be solved is no point.
        return double.IsNaN(cost) ? double.MaxValue : cost / 2;
    }
}
