using MathNet.Numerics.Distributions;
using Zandrik.Core.Records;

namespace Zandrik.Core.Life;

/// <summary>A cylinder against the shop's other engines of its sheet, by their latest dry tests.</summary>
/// <param name="Cylinder">The cylinder.</param>
/// <param name="Pa">What it read, Pa gauge.</param>
/// <param name="UsualPa">The median of the others' means, Pa gauge, as this engine would read it warm or cold.</param>
/// <param name="Lower">How many of the others have a lowest cylinder that reads less.</param>
/// <param name="Noise">How far a cylinder of another such engine lies from what is usual by chance, share: in one of twenty engines any cylinder does.</param>
public sealed record AgainstOthers(int Cylinder, double Pa, double UsualPa, int Lower, double Noise)
{
    // What gauges, days and builds make of engines that are alike, sd of the logarithm: half of the 8 % under which the judgement finds nothing (docs/diagnosis.md). A rule, weighed as so many engines; then the shop's own count.
    private const double RuleSpread = 0.04, RuleCounts = 4;

    /// <summary>The difference from what is usual, share.</summary>
    public double Difference => Pa / UsualPa - 1;

    /// <summary>True where it is further off than engines of a kind are from one another.</summary>
    public bool IsMore => Pa <= 0 || Math.Abs(Math.Log(Pa / UsualPa)) > Math.Log(1 + Noise);

    /// <summary>Compares.</summary>
    /// <param name="mine">The test of this engine.</param>
    /// <param name="others">The latest dry test of each other engine.</param>
    /// <returns>
    /// The cylinders in order; empty where no other engine read anything. The noise is how far the others lie from one another, with the rule standing for four engines more, and how well a reading
    /// repeats (Student's t, Šidák over the cylinders).
    /// </returns>
    public static IReadOnlyList<AgainstOthers> Of(LifeTest mine, IReadOnlyCollection<LifeTest> others)
    {
        // Held against them as they would read as warm or cold as this one: what a cold engine reads less by rule is no finding.
        double Less(LifeTest t) => t.Temperature == EngineTemperature.Cold ? WearTrend.ColdLess : 0;
        double Alike(LifeTest t) => Math.Exp(Less(mine) - Less(t));
        var means = others.Select(o => (Test: o, Read: o.Values.Values.Where(v => v > 0).ToList())).Where(o => o.Read.Count > 0).Select(o => o.Read.Average() * Alike(o.Test)).Order().ToList();
        if (means.Count == 0)
        {
            return [];
        }
        var usual = means[means.Count / 2];
        var counts = RuleCounts + means.Count - 1;
        var between = (RuleCounts * RuleSpread * RuleSpread + means.Sum(m => Math.Pow(Math.Log(m / usual), 2))) / counts;
        var errors = StudentT.InvCDF(0, 1, counts, 1 - (1 - Math.Pow(1 - TestComparison.FalseAlarm, 1.0 / Math.Max(1, mine.Values.Count))) / 2);
        var noise = Math.Exp(errors * Math.Sqrt(between * (1 + 1.0 / means.Count) + WearTrend.ReadingSpread * WearTrend.ReadingSpread)) - 1;
        return [.. mine.Values.OrderBy(v => v.Key).Select(v => new AgainstOthers(v.Key, v.Value, usual, others.Count(o => o.Worst?.Value * Alike(o) < v.Value), noise))];
    }
}
