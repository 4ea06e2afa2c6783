using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>
/// What each severity of <see cref="SeverityNodes"/> is in the engine model: the figure that <see cref="Simulation.SimulatedFault"/> turns. A place along them, counted from 0 at the mildest, may lie
/// between two: leaks and washing go in even ratios, lifts, strokes and deposits in even steps.
/// </summary>
public static class SeverityFigures
{
    // Lifts against a good lobe, for which the model's snap and idle are what the nodes say; millimetres of a bent rod for a stroke of 90; millilitres of deposit for half a litre.
    private static readonly double[] IntakeLifts = [0.50, 0.42, 0.36, 0.31, 0.27, 0.23, 0.19, 0.12, 0.09], ExhaustLifts = [0.48, 0.38, 0.31, 0.24, 0.17, 0.11, 0.05];
    private static readonly double[] StrokeMm = [0.7, 1.2, 1.8, 2.6, 3.5, 5], DepositMl = [1.5, 2.8, 4, 6, 8];

    private static readonly IReadOnlyDictionary<Fault, double[]> Figures = Find();

    /// <summary>Faults that have figures: those the model knows, and sound cylinders, whose figure is the ring leak of their age.</summary>
    public static IReadOnlyList<Fault> All { get; } = [Fault.Sound, .. Simulation.SimulatedFault.All];

    /// <summary>The figure of each severity, mildest first.</summary>
    /// <param name="fault">One of <see cref="All"/>.</param>
    /// <returns>mm² or ml for half a litre, mm for a stroke of 90, a lift or a factor.</returns>
    public static IReadOnlyList<double> Of(Fault fault) => Figures[fault];

    /// <summary>The figure at a place along the severities, half a step beyond the ends at most.</summary>
    /// <param name="fault">One of <see cref="All"/>.</param>
    /// <param name="place">From −0.5 to half over the last.</param>
    /// <returns>As <see cref="Of"/>.</returns>
    public static double At(Fault fault, double place)
    {
        var of = Figures[fault];
        var from = Math.Clamp((int)Math.Floor(place), 0, of.Length - 2);
        var part = place - from;
        return IsStraight(fault) ? Math.Max(0, of[from] + (of[from + 1] - of[from]) * part) : of[from] * Physics.LaneMath.Exp(part * Physics.LaneMath.Log(of[from + 1] / of[from]));
    }

    private static bool IsStraight(Fault fault) => fault is Fault.Sound or Fault.IntakeNotOpening or Fault.ExhaustNotOpening or Fault.ShortStroke or Fault.Carbon;

    // Areas and factors are those of the nodes, so that the two cannot part.
    private static Dictionary<Fault, double[]> Find()
    {
        var nodes = SeverityNodes.ByHand(new NodeSetting(false, 0, 1));
        double[] Areas(Fault fault, Func<SeverityNode, double> area) => [.. nodes.Where(k => k.Fault == fault && k.Paired is false).Select(area)];
        return new()
        {
            [Fault.Sound] = Areas(Fault.Sound, k => k.Rings), [Fault.Rings] = Areas(Fault.Rings, k => k.Rings), [Fault.Piston] = Areas(Fault.Piston, k => k.Crown),
            [Fault.IntakeValve] = Areas(Fault.IntakeValve, k => k.Intake), [Fault.ExhaustValve] = Areas(Fault.ExhaustValve, k => k.Exhaust), [Fault.GasketCoolant] = Areas(Fault.GasketCoolant, k => k.Coolant),
            [Fault.GasketAdjacent] = [.. SeverityNodes.WebAreas], [Fault.IntakeNotOpening] = IntakeLifts, [Fault.ExhaustNotOpening] = ExhaustLifts, [Fault.ShortStroke] = StrokeMm, [Fault.Carbon] = DepositMl,
            [Fault.FuelWashed] = [.. SeverityNodes.WashFactors],
        };
    }
}
