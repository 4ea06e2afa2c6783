namespace Zandrik.Core.Simulation;

/// <summary>
/// What the model takes for granted and could be otherwise in a real engine. The defaults are the model of docs/simulation.md;
/// a study sets them off, to see whether a judgement holds where the model is wrong.
/// </summary>
public sealed record MotoredConstants
{
    /// <summary>The model's own.</summary>
    public static MotoredConstants Usual { get; } = new();

    /// <summary>Factor C_h of the heat to the walls; it also stands for crevices. A ratio, 0 or more.</summary>
    public double WallHeat { get; init; } = 2.2;

    /// <summary>Pressure in the crankcase over that of the air outside, Pa.</summary>
    public double CrankcasePa { get; init; }

    /// <summary>How much a fault's leak area grows with the pressure in the cylinder: share per bar over the air outside.</summary>
    public double LeakGrowthPerBar { get; init; }

    /// <summary>Pressure over the air outside under which a fault's leak stays shut, Pa; 0 for one that is always open.</summary>
    public double LeakOpensPa { get; init; }

    /// <summary>
    /// How far the starter is wound in series, 0 to 1: its motor constant then follows the current, saturating. 0 is the
    /// permanent-magnet starter of the model. At <see cref="SeriesNominalA"/> both have the same constant.
    /// </summary>
    public double SeriesShare { get; init; }

    /// <summary>The current at which a series-wound starter has its nominal constant, A.</summary>
    public double SeriesNominalA { get; init; } = 200;

    /// <summary>True where a fault's leak depends on the pressure.</summary>
    internal bool LeaksDepend => LeakGrowthPerBar != 0 || LeakOpensPa > 0;
}
