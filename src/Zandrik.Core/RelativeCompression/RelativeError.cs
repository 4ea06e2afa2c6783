namespace Zandrik.Core.RelativeCompression;

/// <summary>Percent of the best cylinder, and how sure each is: by how much it moves among models that explain the cycle nearly as well, from cycle to cycle, and by what no model explains.</summary>
internal static class RelativeError
{
    // Torque of valve gear and pumps that goes round with the cycle looks like a difference and cannot be told from one, percent points.
    private const double Floor = 1.1;

    // How far a single height may be off, against the best: the reference is drawn that much from the highest to the better half.
    private const double Scatter = 0.012;

    // Beyond this a height is not found at all, and other parts of the error say so.
    private const double MostShaped = 20;

    // A cost of so much more than the best.
    private const double Hopeless = -10;

    // Percent points for each share of the mean cycle that no model explains.
    private const double ResidualError = 35;

    // How far one height is off for what the model misses, percent points for each root of the share.
    private const double HeightError = 20;

    // How far the shape of a loss that is like none of the known ones may put a weak cylinder off, as a share of what it lost.
    private const double ShapeError = 0.04;

    // With two cylinders there is no third to tell a shape from the crank's own unevenness.
    private const double ShapeErrorOfTwo = 0.15;

    /// <summary>The mean over the best point and those that are nearly as good, each counted by how well it explains; and how much that moves among them, and from cycle to cycle.</summary>
    public static (double[] Relative, double[] Errors) Of(CycleFit found, int n)
    {
        var mean = found.Orders.Mean();
        var solver = found.Fit.Heights;
        solver.Solve(mean, found.Point, 3, found.Heights);
        // What the shape of a loss leaves open, percent points.
        double[] shaped = [.. solver.Looseness.ToArray().Select(l => Math.Min(MostShaped, 100 * l))];
        List<(double Weight, double[] Heights)> estimates = [(1, found.Heights)];
        var ways = Ways(found.Point, found.Heights);
        foreach (var way in ways)
        {
            // What is hopeless where the best is, is so all round it.
            if (found.Cost - found.Fit.Cost(mean, way, 3) < Hopeless)
            {
                continue;
            }
            foreach (var tau in (ReadOnlySpan<double>)[0.7, 0.85, 1, 1.18, 1.4])
            {
                foreach (var (shift, uneven) in (ReadOnlySpan<(double, double)>)[(-0.004, 0), (0, 0), (0.004, 0), (0, -0.4), (0, 0.4)])
                {
                    var point = way with { TauS = way.TauS * tau, Phase = way.Phase + shift, Uneven = way.Uneven + uneven };
                    var weight = Math.Exp(Math.Min(0, found.Cost - found.Fit.Cost(mean, point, 3)));
                    if (weight > 0.01)
                    {
                        estimates.Add((weight, solver.Solve(mean, point).Heights));
                    }
                }
            }
        }
        var all = estimates.Sum(e => e.Weight);
        double Weighed(Func<double[], double> of) => estimates.Sum(e => e.Weight * of(e.Heights)) / all;
        double[] heights = [.. Enumerable.Range(0, n).Select(i => Weighed(h => h[i] / SlotHeights.Reference(h)))];
        var relative = Relative(heights, Scatter);
        var others = estimates.Select(e => (e.Weight, Relative: Relative(e.Heights, Scatter))).ToList();
        var singles = found.Orders.Cycles.Select(c => Relative(solver.Solve(c, found.Point, 2, found.Heights).Heights, Scatter)).ToList();
        var (misfit, shape) = n == 2 ? (3 * ResidualError, ShapeErrorOfTwo) : (ResidualError, ShapeError);
        var (errors, own) = (new double[n], new double[n]);
        for (var i = 0; i < n; i++)
        {
            var model = others.Sum(o => o.Weight * Math.Pow(o.Relative[i] - relative[i], 2)) / all;
            var values = singles.Select(s => s[i]).ToArray();
            var centre = Smoothing.Quantile(values, 0.5);
            var random = 1.48 * Smoothing.Quantile([.. values.Select(v => Math.Abs(v - centre))], 0.5) / Math.Sqrt(values.Length);
            own[i] = Math.Sqrt(random * random + model + HeightError * HeightError * found.Residual);
            errors[i] = Math.Sqrt(random * random + model + shaped[i] * shaped[i] + Floor * Floor + misfit * misfit * found.Residual + Math.Pow(shape * (100 - relative[i]), 2));
        }
        // Where single heights are less sure, the highest of them is less of a measure.
        return (Relative(heights, Math.Max(Scatter, Smoothing.Quantile(own, 0.5) / 100)), errors);
    }

    // The losses as they were found, and each weak slot, and the two that look weakest among the others, with every other way of being weak.
    private static List<FitPoint> Ways(FitPoint found, double[] heights)
    {
        List<FitPoint> ways = [found, .. new[] { 0, 0.5, 1 }.Where(s => s != found.Series).Select(s => found with { Series = s })];
        var doubted = Enumerable.Range(0, heights.Length).Where(i => found.IsSound(i)).OrderBy(i => heights[i]).Take(2).ToHashSet();
        for (var i = 0; i < heights.Length; i++)
        {
            foreach (var loss in Enum.GetValues<PressureLoss>())
            {
                if (loss != found.Losses[i] && (found.Losses[i] != PressureLoss.None || doubted.Contains(i)))
                {
                    var other = (PressureLoss[])found.Losses.Clone();
                    other[i] = loss;
                    ways.Add(found with { Losses = other });
                }
            }
        }
        if (found.Gasket is { } gasket)
        {
            ways.AddRange(Enumerable.Range(0, CompressionTemplate.GasketSizes).Where(s => Math.Abs(s - gasket.Size) == 1).Select(s => found with { Gasket = gasket with { Size = s } }));
        }
        return ways;
    }

    // Against the best cylinder: the highest, drawn towards the better half as far as one height scatters.
    private static double[] Relative(double[] heights, double scatter)
    {
        var sorted = heights.OrderDescending().ToArray();
        var top = sorted.Take(Math.Max(1, (sorted.Length + 1) / 2)).ToArray();
        var mean = top.Average();
        var spread = top.Length > 1 ? top.Average(h => (h - mean) * (h - mean)) : 0;
        var noise = scatter * scatter * mean * mean;
        var reference = mean + (sorted[0] - mean) * (spread + noise > 0 ? spread / (spread + noise) : 1);
        return [.. heights.Select(h => reference > 0 ? Math.Min(100, 100 * h / reference) : 0)];
    }
}
