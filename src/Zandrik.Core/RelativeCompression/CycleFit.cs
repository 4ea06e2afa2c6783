namespace Zandrik.Core.RelativeCompression;

/// <summary>A cycle that was found in the current: how the crank turned, what goes round with it, and what a model of the engine makes of that.</summary>
/// <param name="Theta">Cycles turned, at every sample of the settled part.</param>
/// <param name="Orders">What goes round with the cycle, order by order.</param>
/// <param name="Fit">The model.</param>
/// <param name="Point">The point of the model that explains most.</param>
/// <param name="Heights">The load of each slot there.</param>
/// <param name="Residual">The share of the mean cycle that stays unexplained.</param>
/// <param name="Cost">What the point costs: misfit, and how unlikely it is by itself.</param>
/// <param name="Sync">Events of the sync channel; absent without.</param>
/// <param name="Expected">Where the events put the first compression, cycles; absent without.</param>
/// <param name="Total">The share of the whole current that stays unexplained.</param>
internal sealed record CycleFit(double[] Theta, CycleOrders Orders, CylinderFit Fit, FitPoint Point, double[] Heights, double Residual, double Cost, SyncEvents? Sync, double? Expected, double Total)
{
    /// <summary><see cref="Total"/> of the next best cycle of another length.</summary>
    public double NextTotal { get; init; }

    /// <summary>How plain the frequency was before anything was fitted.</summary>
    public double Score { get; init; }

    /// <summary>What the sync channel turned out to be.</summary>
    public SyncKind Kind { get; init; }
}
