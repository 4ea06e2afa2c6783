
namespace Zandrik.Core.Physics;

/// <summary>
/// Air through the restriction of a leak-down tester and out through the leaks of a cylinder, so that testers,
/// supplies and altitudes compare: what a percentage cannot say alone, the effective area of the leaks can.
/// Compressible flow through an orifice, choked or not; docs/leak-down.md has the formula and its source.
/// Pressures are absolute, Pa, but where a parameter says gauge; areas are effective areas (the discharge
/// coefficient is in them), mm².
/// </summary>
public static class LeakFlow
{
    /// <summary>Ratio of the pressures behind and before an orifice at which air goes at the speed of sound, and under which no more goes through.</summary>
    public const double CriticalRatio = 0.5283;

    /// <summary>The supply at which limits of the trade hold: 100 psi, Pa gauge.</summary>
    public const double StandardSupplyPa = 100 * PsiPa;

    /// <summary>How far a supply may be off 100 psi before limits hold only through the leak area: 15 psi, Pa.</summary>
    public const double SupplyTolerancePa = 15 * PsiPa;

    /// <summary>Discharge coefficient of a tester's restriction: a short drilled hole.</summary>
    public const double RestrictionCoefficient = 0.80;

    /// <summary>Above this loss the figure no longer ranks leaks: nearly all of the supply is gone.</summary>
    public const double NoLongerRanksPercent = 90;

    // The loss a needle can tell from none, and from all: a leak area is worked out between the two.
    private const double LeastPercent = 0.4, MostPercent = 99.6;

    // Close to equal pressures the curve is infinitely steep; a straight line takes its place there.
    private const double NearlyEqual = 0.998;

    private const double PsiPa = 6894.757293168361;

    /// <summary>
    /// The flow factor ψ of an orifice: 1 where the flow is choked, falling to 0 for equal pressures. With
    /// z = (ratio − 0.5283)/0.4717 it is √(1 − z²), and above a ratio of 0.998 it falls along a straight line.
    /// </summary>
    /// <param name="ratio">Pressure behind over pressure before, 0 to 1; above 1 nothing flows forward and the answer is 0.</param>
    /// <returns>0 to 1; no unit.</returns>
    public static double Factor(double ratio) => ratio switch
    {
        <= CriticalRatio => 1,
        >= 1 => 0,
        > NearlyEqual => Unchoked(NearlyEqual) * (1 - ratio) / (1 - NearlyEqual),
        _ => Unchoked(ratio),
    };

    private static double Unchoked(double ratio)
    {
        var z = (ratio - CriticalRatio) / (1 - CriticalRatio);
        return Math.Sqrt(1 - z * z);
    }

    /// <summary>Effective area of a round restriction, mm²: 0.8·π/4·d².</summary>
    /// <param name="diameterMm">Its diameter, mm.</param>
    /// <returns>mm², 0 or more.</returns>
    public static double RestrictionAreaMm2(double diameterMm) => RestrictionCoefficient * Math.PI / 4 * diameterMm * diameterMm;

    /// <summary>
    /// Area of the leaks over the area of the restriction: what goes through one goes through the other, so with
    /// P the supply, h the held pressure and a the air outside it is P·ψ(h/P) / (h·ψ(a/h)).
    /// </summary>
    /// <param name="percent">Loss, percent of the supply; kept between 0.4 and 99.6, beyond which a needle says nothing.</param>
    /// <param name="supplyGaugePa">The supply, Pa gauge; above 0.</param>
    /// <param name="ambientPa">The air outside, Pa absolute.</param>
    /// <returns>A ratio of areas, above 0; no unit. Losses beyond what a tester can tell are taken at that bound, so it is finite.</returns>
    public static double AreaRatio(double percent, double supplyGaugePa, double ambientPa = Barometer.StandardPa)
    {
        var lost = Math.Clamp(percent, LeastPercent, MostPercent) / 100;
        var supply = supplyGaugePa + ambientPa;
        var held = supplyGaugePa * (1 - lost) + ambientPa;
        return supply * Factor(held / supply) / (held * Factor(ambientPa / held));
    }

    /// <summary>The loss a tester shows at leaks of a given area, percent of the supply; the inverse of <see cref="AreaRatio"/>.</summary>
    /// <param name="areaRatio">Area of the leaks over that of the restriction; 0 or more.</param>
    /// <param name="supplyGaugePa">The supply, Pa gauge; above 0.</param>
    /// <param name="ambientPa">The air outside, Pa absolute.</param>
    /// <returns>Percent of the supply, 0 to 100.</returns>
    public static double Percent(double areaRatio, double supplyGaugePa, double ambientPa = Barometer.StandardPa)
    {
        // The ratio rises with the loss throughout: halving the interval finds it to the last bit that matters.
        double low = 0, high = 100;
        for (var i = 0; i < 60; i++)
        {
            var middle = (low + high) / 2;
            if (RawRatio(middle, supplyGaugePa, ambientPa) < areaRatio)
            {
                low = middle;
            }
            else
            {
                high = middle;
            }
        }
        return (low + high) / 2;
    }

    // Without the ends cut off: 0 percent is no area at all, 100 percent no end of it.
    private static double RawRatio(double percent, double supplyGaugePa, double ambientPa)
    {
        var supply = supplyGaugePa + ambientPa;
        var held = supplyGaugePa * (1 - percent / 100) + ambientPa;
        var outward = held * Factor(ambientPa / held);
        return outward <= 0 ? double.PositiveInfinity : supply * Factor(held / supply) / outward;
    }

    /// <summary>
    /// The restriction limits of the trade are meant for: 1.0 mm, or 1.5 mm on cylinders over 1.1 litres, mm.
    /// It is also what is assumed of a tester nobody measured.
    /// </summary>
    /// <param name="cylinderCc">Swept volume of one cylinder, cm³; absent for unknown.</param>
    /// <returns>mm.</returns>
    public static double StandardRestrictionMm(double? cylinderCc) => cylinderCc > 1100 ? 1.5 : 1.0;
}
