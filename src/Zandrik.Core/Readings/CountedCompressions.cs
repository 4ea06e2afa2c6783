namespace Zandrik.Core.Readings;

/// <summary>How far a gauge climbs with the count of compressions: each adds less than the one before. Fitted to the crank-angle model (docs/diagnosis.md).</summary>
public static class CountedCompressions
{
    /// <summary>What a short count misses: ln of the pressure that the count of the others would have come to, over that of its own.</summary>
    /// <param name="all">Compressions that the others were given, from 1.</param>
    /// <param name="given">Compressions that this one was given, from 1.</param>
    /// <returns>ln of a ratio, 0 or more; 0 where nothing is short. No unit.</returns>
    public static double MissedLn(int all, int given) => given > 0 && given < all ? Math.Log(Climbed(all) / Climbed(given)) : 0;

    /// <summary>Compressions that a cylinder was given at least, where only the time was noted: half a second to get going, then by a slow starter of 150 rpm, one in every two turns.</summary>
    /// <param name="seconds">Time the engine was cranked for, seconds, above 0.</param>
    /// <returns>A count, 1 or more.</returns>
    public static int AtLeastIn(double seconds) => Math.Max(1, (int)(1.25 * (seconds - 0.5)));

    private static double Climbed(int n) => 1 - 0.48 * Math.Exp(-(n - 1) / 1.25);
}
