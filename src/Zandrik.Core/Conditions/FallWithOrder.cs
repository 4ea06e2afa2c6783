using Zandrik.Core.Compression;

namespace Zandrik.Core.Conditions;

/// <summary>
/// A battery that tires lowers each reading a little more than the one before: the last tested read low
/// and look faulty. A straight line of ln(pressure) on the order of testing tells it from a weak cylinder.
/// </summary>
/// <param name="Fraction">Total fall along the line, as a fraction of the first reading.</param>
internal readonly record struct FallWithOrder(double Fraction)
{
    // Rules of thumb checked against the physics: four readings, 6 % over the test, a tight line.
    private const int LeastReadings = 4;
    private const double LeastFall = 0.06;
    private const double LeastFit = 0.85;
    private const double LargestScatter = 0.03;

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
            if (r.Value.Value <= 0)
            {
                return null;
            }
            sumX += r.Order;
            sumY += Math.Log(r.Value.Pascals);
        }
        double meanX = sumX / n, meanY = sumY / n, xx = 0, xy = 0, yy = 0;
        int first = int.MaxValue, last = int.MinValue;
        foreach (var r in readings)
        {
            double x = r.Order - meanX, y = Math.Log(r.Value.Pascals) - meanY;
            xx += x * x;
            xy += x * y;
            yy += y * y;
            first = Math.Min(first, r.Order);
            last = Math.Max(last, r.Order);
        }
        if (xx == 0 || yy == 0)
        {
            return null;
        }
        var slope = xy / xx;
        var fit = xy * xy / (xx * yy);
        var scatter = Math.Sqrt(Math.Max(0, yy - slope * xy) / (n - 2));
        var fall = 1 - Math.Exp(slope * (last - first));
        return fall >= LeastFall && fit >= LeastFit && scatter < LargestScatter ? new FallWithOrder(fall) : null;
    }
}
