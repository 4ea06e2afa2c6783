namespace Zandrik.Core.Readings;

/// <summary>
/// Limits are inclusive. A figure within one part in 10⁹ of a limit is on it, so that a test written in
/// another unit, whose digits differ in the last place, gets the same verdict.
/// </summary>
internal static class Limit
{
    private const double Tie = 1e-9;

    internal static bool IsBeyond(double value, double limit) => value > limit + Tie * Math.Abs(limit);

    internal static bool IsUnder(double value, double limit) => value < limit - Tie * Math.Abs(limit);
}
