using System.Globalization;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Compression;

/// <summary>What a spread says: a spread alone never says "rebuild".</summary>
public enum SpreadVerdict
{
    /// <summary>Within the good limit.</summary>
    Good,

    /// <summary>Beyond good, within marginal: look further.</summary>
    Marginal,

    /// <summary>Beyond marginal: open something.</summary>
    Fail,
}

/// <summary>One method's answer for a dry test of two cylinders or more.</summary>
/// <param name="Method">The method.</param>
/// <param name="Value">Its measure: Pa for the two pressure methods, else a fraction.</param>
/// <param name="Limits">Its limits in the same measure (Pa or fraction); inclusive.</param>
/// <param name="Verdict">What it says.</param>
/// <param name="Deciding">True for the method whose verdict decides the state of the cylinders.</param>
/// <param name="InUse">True when the method can put a cylinder under watch.</param>
public sealed record SpreadFinding(
    SpreadMethod Method, double Value, SpreadLimits Limits, SpreadVerdict Verdict, bool Deciding, bool InUse)
{
    /// <summary>True when the measure is a pressure.</summary>
    public bool IsPressure => Method is SpreadMethod.MakerDifference or SpreadMethod.FixedPressure;

    /// <summary>The measure with its unit, rounded for people: "12.4 %", "26 psi".</summary>
    /// <returns>A figure with its unit.</returns>
    public string ValueText(PressureUnit unit) => Text(Value, unit);

    /// <summary>The limits with their unit: "10 %, 20 %".</summary>
    /// <returns>Two figures with their unit, good and marginal.</returns>
    public string LimitsText(PressureUnit unit) => $"{Text(Limits.Good, unit, limit: true)}, {Text(Limits.Marginal, unit, limit: true)}";

    /// <summary>What the method is called on the shop floor.</summary>
    /// <returns>The name, as a line begins.</returns>
    public static string NameOf(SpreadMethod method) => method switch
    {
        SpreadMethod.MakerDifference => "Maker's difference",
        SpreadMethod.PercentOfHighest => "Percent of highest",
        SpreadMethod.LowestToHighest => "Lowest to highest",
        SpreadMethod.AroundTheMean => "Around the mean",
        _ => "Fixed pressure",
    };

    /// <summary>The verdict in a word or two.</summary>
    /// <returns>The words, lower case.</returns>
    public static string Word(SpreadVerdict verdict) => verdict switch
    {
        SpreadVerdict.Good => "good",
        SpreadVerdict.Marginal => "marginal",
        _ => "fail",
    };

    private string Text(double value, PressureUnit unit, bool limit = false) => IsPressure
        ? $"{GaugePressure.Figure(value, unit)} {unit.Symbol()}"
        : (100 * value).ToString(limit ? "0.#" : "0.0", CultureInfo.CurrentCulture) + " %";

    internal static SpreadFinding? Of(SpreadMethod method, ReadOnlySpan<double> sortedPa, double meanPa, JudgingRules rules)
    {
        if (method == SpreadMethod.MakerDifference && rules.MaxDifferencePa is null)
        {
            return null;
        }
        var (highest, lowest) = (sortedPa[0], sortedPa[^1]);
        // Nothing but zeros is even, and dead: the states say that.
        var value = method switch
        {
            SpreadMethod.PercentOfHighest => highest > 0 ? (highest - lowest) / highest : 0,
            SpreadMethod.LowestToHighest => highest > 0 ? lowest / highest : 1,
            SpreadMethod.AroundTheMean => meanPa > 0 ? Math.Max(highest - meanPa, meanPa - lowest) / meanPa : 0,
            _ => highest - lowest,
        };
        var limits = method == SpreadMethod.MakerDifference ? rules.DistancesPa(method, 0) : rules.LimitsOf(method);
        var verdict = VerdictOn(method, value, limits);
        return new SpreadFinding(method, value, limits, verdict, method == rules.DecidingMethod, rules.IsInUse(method));
    }

    private static SpreadVerdict VerdictOn(SpreadMethod method, double value, SpreadLimits limits)
    {
        bool Within(double limit) =>
            method == SpreadMethod.LowestToHighest ? !Limit.IsUnder(value, limit) : !Limit.IsBeyond(value, limit);
        return Within(limits.Good) ? SpreadVerdict.Good
            : Within(limits.Marginal) ? SpreadVerdict.Marginal
            : SpreadVerdict.Fail;
    }
}
