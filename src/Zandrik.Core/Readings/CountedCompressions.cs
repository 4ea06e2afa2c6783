namespace Zandrik.Core.Readings;

/// <summary>How far a gauge climbs with the count of compressions: each adds less than the one before. Fitted to the crank-angle model (docs/diagnosis.md).</summary>
public static class CountedCompressions
{
    /// <summary>What a short count misses: ln of the pressure that the count of the others would have come to, over that of its own.</summary>
    /// <param name="all">Compressions that the others were given, from 1.</param>
    /// <param name="given">Compressions that this one was given, from 1.</param>
    /// <returns>ln of a ratio, 0 or more; 0 where nothing is short. No unit.</returns>
    public static double MissedLn(int all, int given) => given > 0 && given < all ? Math.Log(Climbed(all) / Climbed(given)) : 0;

    private static double Climbed(int n) => 1 - 0.48 * Math.Exp(-(n - 1) / 1.25);
}
