using System.Globalization;
using Zandrik.Core.Conditions;
using Zandrik.Core.Engines;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Compression;

/// <summary>One sentence for the whole dry test: the most pressing thing first, and never a part blamed for what the test explains.</summary>
internal sealed class DryHeadline(
    EngineSheet engine,
    JudgingRules rules,
    IReadOnlyList<CylinderFinding> cylinders,
    IReadOnlyList<SpreadFinding> spread,
    MinimumFinding? minimum,
    double? referencePa,
    ValidityRules validity,
    PressureUnit shown)
{
    /// <summary>True where every cylinder is under the minimum, or 15 % and more under the nominal.</summary>
    internal bool IsLowAllOver { get; init; }

    internal string Sentence()
    {
        var measured = cylinders.Count(c => c.State != CylinderState.Untested);
        if (validity.Questions.Count > 0)
        {
            return $"Which unit? Cylinder {CylinderList.Sentence([.. validity.Questions.Select(q => q.Reading.Cylinder).Order()])} first, then the rest can be judged.";
        }
        if (measured == 0)
        {
            return "Nothing measured yet.";
        }
        var sentence = measured == 1 && rules.Cylinders > 1 ? Single() : Compared();
        return measured < rules.Cylinders && measured > 1 ? $"So far, {measured} of {rules.Cylinders}: {LowerFirst(sentence)}" : sentence;
    }

    private string Single()
    {
        var one = cylinders.First(c => c.State != CylinderState.Untested);
        var figure = $"Cylinder {one.Cylinder}: {Figure(one)}";
        return one.State switch
        {
            CylinderState.Dead => $"{figure}. Next to nothing; measure the others and repeat it.",
            CylinderState.Low => $"{figure}, {(one.UnderMinimum ? "under the minimum" : rules.NominalPa is not null ? "well below the nominal" : $"under {Shown(rules.TooLowPa)}, too low whatever the maker's figure is")}. The others will tell whether it is alone.",
            _ => $"{figure}. One reading: nothing to compare it with yet.",
        };
    }

    private string Compared()
    {
        if (validity.Fall is { } fall && Of(CylinderState.Dead).Count == 0)
        {
            return string.Create(CultureInfo.InvariantCulture,
                $"The readings fall by {100 * fall.Fraction:0} % in the order they were taken: suspect the battery before any cylinder.");
        }
        var bad = cylinders.Where(c => c.State is CylinderState.Low or CylinderState.Dead).ToList();
        if (bad.Count > 0)
        {
            return IsEven && bad.Count > 1 && bad.TrueForAll(c => c.UnderMinimum) && cylinders.All(c => c.State == CylinderState.Untested || c.UnderMinimum)
                ? EvenlyLow()
                : Named(bad) + AlsoUnderRule();
        }
        if (IsLowAllOver && IsEven && validity.Limits == AbsoluteLimits.Apply)
        {
            return EvenlyLow();
        }
        var high = Of(CylinderState.High);
        if (high.Count > 0)
        {
            return $"{Who(high)} {Verb(high, "reads", "read")} high: {Figures(high)} where the others give {Reference}. Carbon, oil or liquid in it, or a changed part?";
        }
        if (minimum is { Under.Count: > 0, Limits: not AbsoluteLimits.Apply })
        {
            return $"{(IsEven ? "Even, but under" : "Under")} the minimum of {Shown(minimum.MinimumPa)} as tested: put the test right before blaming the engine.";
        }
        var watch = Of(CylinderState.Watch);
        if (watch.Count > 0)
        {
            return $"{Who(watch)} {Verb(watch, "is", "are")} marginal: {Figures(watch)} where the better ones give {Reference}.";
        }
        return Sound();
    }

    private string Sound()
    {
        var even = rules.Cylinders == 1 ? "Compression is fine" : "Even";
        if (validity.Limits == AbsoluteLimits.Withheld)
        {
            return $"{even}, as far as a test with this error can say: nothing points to a single cylinder.";
        }
        if (minimum is not null && rules.NominalPa is { } nominal && referencePa < 0.9 * nominal)
        {
            return string.Create(CultureInfo.InvariantCulture,
                $"{even} and above the minimum, but {100 * (1 - referencePa.Value / nominal):0} % under the nominal: all worn alike, or all read low alike.");
        }
        if (minimum is not null)
        {
            return $"{even} and above the minimum: nothing here says a cylinder leaks.";
        }
        return UnderRule() is { } low ? $"{even}, but {low}." : $"{even}. No maker's minimum to hold it against.";
    }

    private string EvenlyLow() =>
        $"All read low but alike, {RangeText()}, {Level()}: {(rules.IsThrottled ? "throttle, " : "")}cranking speed, gauge or cam timing come before wear.";

    private string Level() => minimum is { Under.Count: > 0 } ? $"under the minimum of {Shown(minimum.MinimumPa)}"
        : rules.NominalPa is { } nominal ? string.Create(CultureInfo.InvariantCulture, $"{100 * (1 - (referencePa ?? 0) / nominal):0} % under the nominal of {Shown(nominal)}")
        : $"under {Shown(rules.WantsExplainingPa)}, which needs explaining (shop rule)";

    private string Named(List<CylinderFinding> bad)
    {
        var dead = bad.TrueForAll(c => c.State == CylinderState.Dead);
        var neighbours = bad.Count == 2 && CylinderLayout.Of(engine).AreNeighbours(bad[0].Cylinder, bad[1].Cylinder)
            ? ", neighbours,"
            : "";
        var against = referencePa is { } r && bad.TrueForAll(c => c.LevelPa < 0.97 * r) ? $" where the better ones give {Reference}" : "";
        var word = dead ? Verb(bad, "is dead", "are dead") : Verb(bad, "reads low", "read low");
        return $"{Who(bad)}{neighbours} {word}: {Figures(bad)}{against}.";
    }

    // Where the sheet has no minimum, shop practice still wants a level explained.
    private string? UnderRule()
    {
        if (minimum is not null || rules.NominalPa is not null || referencePa is not { } reference || validity.Limits == AbsoluteLimits.Withheld)
        {
            return null;
        }
        var wantsExplaining = rules.WantsExplainingPa;
        return Limit.IsUnder(reference, wantsExplaining)
            ? $"the better ones give {Reference} and under about {Shown(wantsExplaining)} wants explaining (shop rule)"
            : null;
    }

    private string AlsoUnderRule() => UnderRule() is { } low ? $" Besides, {low}." : "";

    private bool IsEven => spread.Any(s => s is { Deciding: true, Verdict: SpreadVerdict.Good });

    private List<CylinderFinding> Of(CylinderState state) => [.. cylinders.Where(c => c.State == state)];

    private static string Who(List<CylinderFinding> which) =>
        $"Cylinder{(which.Count > 1 ? "s" : "")} {CylinderList.Sentence([.. which.Select(c => c.Cylinder)])}";

    private static string Verb(List<CylinderFinding> which, string one, string many) => which.Count > 1 ? many : one;

    private string Figures(List<CylinderFinding> which) => which.Count > 4
        ? RangeText(which)
        : $"{string.Join(", ", which.Take(which.Count - 1).Select(c => c.Value!.Value.Text(shown)))}{(which.Count > 1 ? " and " : "")}{Figure(which[^1])}";

    private string RangeText(List<CylinderFinding>? which = null)
    {
        var values = (which ?? [.. cylinders.Where(c => c.State != CylinderState.Untested)]).Select(c => c.Value!.Value.Pascals).ToList();
        return $"{GaugePressure.Figure(values.Min(), shown)} to {Shown(values.Max())}";
    }

    private string Figure(CylinderFinding c) => $"{c.Value!.Value.Text(shown)} {shown.Symbol()}";

    private string Reference => Shown(referencePa ?? 0);

    private string Shown(double pressurePa) => $"{GaugePressure.Figure(pressurePa, shown)} {shown.Symbol()}";

    private static string LowerFirst(string s) => char.ToLowerInvariant(s[0]) + s[1..];
}
