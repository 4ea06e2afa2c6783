namespace Zandrik.Core.Life;

/// <summary>A cylinder against the shop's other engines of its sheet, by their latest dry tests.</summary>
/// <param name="Cylinder">The cylinder.</param>
/// <param name="Pa">What it read, Pa gauge.</param>
/// <param name="UsualPa">The median of the others' means, Pa gauge.</param>
/// <param name="Lower">How many of the others have a lowest cylinder that reads less.</param>
public sealed record AgainstOthers(int Cylinder, double Pa, double UsualPa, int Lower)
{
    /// <summary>What gauges, days and builds make of engines that are alike, percent: less is no finding. Rule of thumb, as the judgement's (docs/diagnosis.md).</summary>
    public const double NoFindingPercent = 8;

    /// <summary>The difference from what is usual, share.</summary>
    public double Difference => Pa / UsualPa - 1;

    /// <summary>Compares.</summary>
    /// <param name="mine">The test of this engine.</param>
    /// <param name="others">The latest dry test of each other engine.</param>
    /// <returns>The cylinders in order; empty where no other engine read anything.</returns>
    public static IReadOnlyList<AgainstOthers> Of(LifeTest mine, IReadOnlyCollection<LifeTest> others)
    {
        var means = others.Select(o => o.Values.Values.Where(v => v > 0).ToList()).Where(v => v.Count > 0).Select(v => v.Average()).Order().ToList();
        return means.Count == 0 ? [] : [.. mine.Values.OrderBy(v => v.Key).Select(v => new AgainstOthers(v.Key, v.Value, means[means.Count / 2], others.Count(o => o.Worst?.Value < v.Value)))];
    }
}
