using Zandrik.Core.Units;

namespace Zandrik.Core.Readings;

/// <summary>
/// Roughly what a sound cylinder of an engine should read, from whatever its sheet gives. Good enough to
/// tell a wrong unit from a weak engine; never a limit.
/// </summary>
public static class ExpectedLevel
{
    /// <summary>
    /// The level, Pa gauge. Source, best first: the maker's nominal; the minimum over 0.77 (diesel 0.75); 19.5 psi per
    /// unit of compression ratio (diesel 23.5); 187 psi (diesel 420). The last three are rules of thumb.
    /// </summary>
    /// <returns>Pa gauge, above 0.</returns>
    public static double Pa(JudgingRules rules)
    {
        var psi = PressureUnit.Psi.Pascals();
        return rules.NominalPa
            ?? rules.MinimumPa / (rules.IsDiesel ? 0.75 : 0.77)
            ?? rules.CompressionRatio * (rules.IsDiesel ? 23.5 : 19.5) * psi
            ?? (rules.IsDiesel ? 420 : 187) * psi;
    }
}
