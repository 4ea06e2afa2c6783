using MathNet.Numerics.Distributions;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;

namespace Zandrik.Core.Conditions;

/// <summary>
/// A battery that tires lowers each reading a little more than the one before: the last tested read low and look
/// faulty. A straight line of ln(pressure) on the order of testing tells it from a weak cylinder: it must fall
/// far enough, fit tightly, and leave little scatter (rules of thumb checked against the physics). Where the
/// battery is known to be weak a smaller fall is believed, also past one bad cylinder (Theil–Sen slope).
/// </summary>
/// <param name="Fraction">Total fall along the line, as a fraction of the first reading.</param>
/// <param name="SlopePerStep">Change of ln(pressure) per place in the order; negative.</param>
/// <param name="Chance">How often readings that do not depend on their order would fall like this by accident (one-sided t-test of the slope), 0 to 1.</param>
/// <param name="FirstOrder">Place of the first reading in the order.</param>
public readonly record struct FallWithOrder(double Fraction, double SlopePerStep, double Chance, int FirstOrder)
{
    private const int LeastReadings = 4;
    private const double LargestScatter = 0.03;

    // More than this per cranking is no battery: what is beyond it stays in the readings.
    private const double LargestStep = 0.06;

    /// <summary>What a reading would have been at the start of the test, with the battery as it was then.</summary>
    /// <param name="pressurePa">The reading, Pa.</param>
    /// <param name="order">Its place in the order.</param>
    /// <returns>Pa gauge; the reading itself for the first of the order.</returns>
    public double Detrended(double pressurePa, int order) =>
        pressurePa * Math.Exp(-Math.Max(SlopePerStep, -LargestStep) * (order - FirstOrder));

    /// <summary>Looks for the fall.</summary>
    /// <param name="readings">Readings that are used, in any order.</param>
    /// <returns>The fall; null when the readings do not fall with their order.</returns>
    internal static FallWithOrder? Find(IReadOnlyList<DryReading> readings)
    {
        var n = readings.Count;
        if (n < LeastReadings)
        {
            return null;
        }
        double sumX = 0, sumY = 0;
        foreach (var r in readings)
        {
            if (r.PressurePa <= 0)
            {
                return null;
            }
            sumX += r.Order;
            sumY += Math.Log(r.PressurePa);
        }
        double meanX = sumX / n, meanY = sumY / n, xx = 0, xy = 0, yy = 0;
        int first = int.MaxValue, last = int.MinValue;
        var weak = true;
        foreach (var r in readings)
        {
            double x = r.Order - meanX, y = Math.Log(r.PressurePa) - meanY;
            xx += x * x;
            xy += x * y;
            yy += y * y;
            first = Math.Min(first, r.Order);
            last = Math.Max(last, r.Order);
            weak &= r.Conditions.Battery == BatteryState.Weak;
        }
        if (xx == 0 || yy == 0)
        {
            return null;
        }
        var slope = xy / xx;
        var fit = xy * xy / (xx * yy);
        var scatter = Math.Sqrt(Math.Max(0, yy - slope * xy) / (n - 2));
        var fall = 1 - Math.Exp(slope * (last - first));
        var (leastFall, leastFit) = weak ? (0.05, 0.80) : (0.06, 0.85);
        if (fall >= leastFall && fit >= leastFit && scatter < LargestScatter)
        {
            return new FallWithOrder(fall, slope, ChanceOf(fit, n), first);
        }
        return weak && TheilSen(readings) is { } robust && robust < -0.006
            ? new FallWithOrder(1 - Math.Exp(robust * (last - first)), robust, ChanceOf(fit, n), first)
            : null;
    }

    // One-sided chance of a correlation at least this strong among n readings without any.
    private static double ChanceOf(double fit, int n) =>
        fit >= 1 ? 0 : StudentT.CDF(0, 1, n - 2, -Math.Sqrt(fit * (n - 2) / (1 - fit)));

    // Median slope of all pairs; null when the readings scatter about it by 3 % or more (median).
    private static double? TheilSen(IReadOnlyList<DryReading> readings)
    {
        var slopes = new List<double>();
        for (var i = 0; i < readings.Count; i++)
        {
            for (var j = i + 1; j < readings.Count; j++)
            {
                if (readings[i].Order != readings[j].Order)
                {
                    slopes.Add((Math.Log(readings[j].PressurePa) - Math.Log(readings[i].PressurePa)) / (readings[j].Order - readings[i].Order));
                }
            }
        }
        if (slopes.Count == 0)
        {
            return null;
        }
        var slope = Median(slopes);
        var levels = readings.Select(r => Math.Log(r.PressurePa) - slope * r.Order).ToList();
        var level = Median(levels);
        return Median([.. levels.Select(l => Math.Abs(l - level))]) < LargestScatter ? slope : null;
    }

    private static double Median(List<double> values)
    {
        values.Sort();
        return values.Count % 2 == 1 ? values[values.Count / 2] : (values[values.Count / 2 - 1] + values[values.Count / 2]) / 2;
    }
}
