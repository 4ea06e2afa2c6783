using Zandrik.Core.Simulation;

namespace Zandrik.Core.Life;

/// <summary>The lowest cylinder of an engine at a distance to come.</summary>
/// <param name="Run">How far the engine has run then, km or h.</param>
/// <param name="LowPa">In one of ten cases the lowest is below this, Pa gauge.</param>
/// <param name="MedianPa">As likely below as above, Pa gauge.</param>
/// <param name="HighPa">In one of ten cases it is above this, Pa gauge.</param>
public readonly record struct FanPoint(double Run, double LowPa, double MedianPa, double HighPa);

/// <summary>
/// When the lowest cylinder meets the maker's minimum: the distribution of the distance, from the joint distribution of all levels and slopes of a <see cref="WearTrend"/>. It is summed over a fixed set
/// of draws, so the same readings always give the same figures.
/// </summary>
public sealed class WearForecast
{
    /// <summary>Draws it is summed over, no unit.</summary>
    public const int Draws = 2000;

    private const int MostSlots = 32, FanPoints = 12;

    // The same standard normal draws for every engine: each with its mirror image, so that means are exact.
    private static readonly Lazy<double[]> Normals = new(Draw);

    private readonly double[] meets;
    private readonly double step;

    private WearForecast(double minimumPa, double now, double step, double[] meets, IReadOnlyList<FanPoint> fan)
    {
        (MinimumPa, Now, this.step, this.meets, Fan) = (minimumPa, now, step, meets, fan);
    }

    /// <summary>The maker's minimum, Pa gauge.</summary>
    public double MinimumPa { get; }

    /// <summary>How far the engine had run at the last test, km or h.</summary>
    public double Now { get; }

    /// <summary>The lowest cylinder from now on.</summary>
    public IReadOnlyList<FanPoint> Fan { get; }

    /// <summary>Forecasts.</summary>
    /// <param name="trend">The trend.</param>
    /// <param name="minimumPa">The maker's minimum, Pa gauge; above 0.</param>
    /// <param name="horizon">How far ahead it is drawn, km or h; above 0.</param>
    /// <returns>The forecast.</returns>
    public static WearForecast Of(WearTrend trend, double minimumPa, double horizon)
    {
        var (mean, factor) = trend.Joint();
        var n = mean.Length / 2;
        var (normals, floor) = (Normals.Value, Math.Log(minimumPa));
        var meets = new double[Draws];
        var levels = new double[Draws * 2 * n];
        for (var d = 0; d < Draws; d++)
        {
            var drawn = levels.AsSpan(d * 2 * n, 2 * n);
            for (var i = 0; i < 2 * n; i++)
            {
                var value = mean[i];
                for (var j = 0; j <= i; j++)
                {
                    value += factor[i, j] * normals[d * MostSlots + j];
                }
                drawn[i] = value;
            }
            var first = double.PositiveInfinity;
            for (var i = 0; i < n; i++)
            {
                var above = drawn[i] - floor;
                first = Math.Min(first, above <= 0 ? 0 : drawn[n + i] < 0 ? above / -drawn[n + i] : double.PositiveInfinity);
            }
            meets[d] = first * trend.Step;
        }
        Array.Sort(meets);
        var fan = new List<FanPoint>(FanPoints + 1);
        var lowest = new double[Draws];
        for (var p = 0; p <= FanPoints; p++)
        {
            var ahead = horizon * p / FanPoints;
            for (var d = 0; d < Draws; d++)
            {
                var drawn = levels.AsSpan(d * 2 * n, 2 * n);
                lowest[d] = double.PositiveInfinity;
                for (var i = 0; i < n; i++)
                {
                    lowest[d] = Math.Min(lowest[d], drawn[i] + drawn[n + i] * ahead / trend.Step);
                }
            }
            Array.Sort(lowest);
            fan.Add(new(trend.Now + ahead, Math.Exp(lowest[Draws / 10]), Math.Exp(lowest[Draws / 2]), Math.Exp(lowest[Draws - 1 - Draws / 10])));
        }
        return new(minimumPa, trend.Now, trend.Step, meets, fan);
    }

    /// <summary>How likely the lowest cylinder is under the minimum when the engine has run so much further.</summary>
    /// <param name="further">How much further than now, km or h; 0 for now.</param>
    /// <returns>0 to 1; it never falls.</returns>
    public double Under(double further)
    {
        var at = Array.BinarySearch(meets, further);
        at = at < 0 ? ~at : at;
        while (at < meets.Length && meets[at] <= further)
        {
            at++;
        }
        return (double)at / meets.Length;
    }

    /// <summary>How much further the engine runs until the lowest is under the minimum with such a chance.</summary>
    /// <param name="chance">Above 0, under 1: 0.5 for the median, 0.1 and 0.9 for the 80 % interval.</param>
    /// <returns>km or h, 0 for already; absent where it is never that likely while the wear goes on as it did.</returns>
    public double? Until(double chance)
    {
        var found = meets[Math.Clamp((int)Math.Ceiling(chance * meets.Length) - 1, 0, meets.Length - 1)];
        return double.IsInfinity(found) ? null : found;
    }

    private static double[] Draw()
    {
        var draw = new SeededDraw(20260301);
        var normals = new double[Draws * MostSlots];
        for (var d = 0; d < Draws; d += 2)
        {
            for (var j = 0; j < MostSlots; j++)
            {
                var value = draw.Normal();
                (normals[d * MostSlots + j], normals[(d + 1) * MostSlots + j]) = (value, -value);
            }
        }
        return normals;
    }
}
