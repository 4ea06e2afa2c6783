using Zandrik.Core.Units;

namespace Zandrik.Core.Records;

/// <summary>
/// What a gauge's last check against a reference says about its readings: a line from point to point, each the
/// reading and what it truly is. Outside the checked range the error of the nearest point is kept, because a
/// slope drawn on beyond the last point would invent one. Immutable.
/// </summary>
public sealed class GaugeCorrection
{
    private readonly double[] readsPa;
    private readonly double[] isPa;

    private GaugeCorrection(double[] readsPa, double[] isPa)
    {
        this.readsPa = readsPa;
        this.isPa = isPa;
    }

    /// <summary>The lowest reading that was checked, Pa.</summary>
    public double LowestPa => readsPa[0];

    /// <summary>The highest reading that was checked, Pa.</summary>
    public double HighestPa => readsPa[^1];

    /// <summary>The correction of a tester; absent when it has no points, so that its readings stand as read.</summary>
    /// <param name="tester">A tester that passes <see cref="Problem"/>; absent for none.</param>
    /// <returns>The correction; null for a tester without points.</returns>
    public static GaugeCorrection? Of(Tester? tester)
    {
        if (tester?.CheckPoints is not { Count: > 0 } points)
        {
            return null;
        }
        var unit = (tester.CheckUnit ?? PressureUnit.Psi).Pascals();
        var sorted = points.OrderBy(p => p.Reads).ToArray();
        return new GaugeCorrection([.. sorted.Select(p => p.Reads * unit)], [.. sorted.Select(p => p.Is * unit)]);
    }

    /// <summary>
    /// What keeps points from being a check; absent when nothing does. A gauge that reads more truly has more:
    /// a point that says otherwise is a slip of the pen.
    /// </summary>
    /// <returns>One sentence that says what to do; null for points that are a check, and for none.</returns>
    public static string? Problem(IReadOnlyList<CheckPoint> points)
    {
        var sorted = points.OrderBy(p => p.Reads).ToList();
        for (var i = 0; i < sorted.Count; i++)
        {
            if (!(sorted[i].Reads >= 0 && sorted[i].Is >= 0))
            {
                return "A reading and what it is cannot be below zero.";
            }
            if (i > 0 && sorted[i].Reads == sorted[i - 1].Reads)
            {
                return "Two points have the same reading: keep one, or their mean.";
            }
            if (i > 0 && sorted[i].Is <= sorted[i - 1].Is)
            {
                return "Where the gauge reads more there must be more: two points contradict each other.";
            }
        }
        return null;
    }

    /// <summary>What a reading truly is, Pa. Never below zero; zero stays zero, since a needle at rest needs no correction.</summary>
    /// <param name="readPa">The reading, Pa; not negative.</param>
    /// <returns>Pa gauge, 0 or more.</returns>
    public double Correct(double readPa)
    {
        if (readPa <= 0)
        {
            return readPa;
        }
        if (readPa <= readsPa[0])
        {
            return Math.Max(0, readPa + isPa[0] - readsPa[0]);
        }
        if (readPa >= readsPa[^1])
        {
            return readPa + isPa[^1] - readsPa[^1];
        }
        var after = Array.BinarySearch(readsPa, readPa);
        if (after >= 0)
        {
            return isPa[after];
        }
        after = ~after;
        var share = (readPa - readsPa[after - 1]) / (readsPa[after] - readsPa[after - 1]);
        return isPa[after - 1] + share * (isPa[after] - isPa[after - 1]);
    }

    /// <summary>Whether a reading lies within the checked range.</summary>
    /// <returns>True on the first and the last point too.</returns>
    public bool Covers(double readPa) => readPa >= LowestPa && readPa <= HighestPa;
}
