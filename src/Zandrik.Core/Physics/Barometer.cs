namespace Zandrik.Core.Physics;

/// <summary>
/// Brings a gauge reading to sea level, where makers' figures are given. Cranking multiplies the absolute
/// pressure of the air it starts from, so with p the barometer and x the gauge reading the sea-level reading is
/// (x + p)·101.325/p − 101.325, all in the same unit.
/// </summary>
public static class Barometer
{
    /// <summary>Standard air at sea level, Pa.</summary>
    public const double StandardPa = 101_325;

    // 0.2 psi off standard air is the least that shows on a gauge.
    private const double LeastShownPa = 0.2 * 6894.757293168361;

    /// <summary>Whether a barometer is far enough from standard air to show on a gauge.</summary>
    /// <param name="barometricKPa">Air pressure, kPa absolute; absent when not known.</param>
    /// <returns>False where the pressure is not known.</returns>
    public static bool Matters(double? barometricKPa) =>
        barometricKPa is { } kPa && Math.Abs(1000 * kPa - StandardPa) > LeastShownPa;

    /// <summary>The reading at sea level, Pa gauge; the reading itself when the barometer does not matter or is not known.</summary>
    /// <param name="gaugePa">The reading, Pa gauge.</param>
    /// <param name="barometricKPa">Air pressure, kPa absolute; absent when not known.</param>
    /// <returns>Pa gauge, 0 or more.</returns>
    public static double AtSeaLevel(double gaugePa, double? barometricKPa) =>
        !Matters(barometricKPa) || gaugePa <= 0 ? gaugePa : (gaugePa + 1000 * barometricKPa!.Value) * StandardPa / (1000 * barometricKPa.Value) - StandardPa;
}
