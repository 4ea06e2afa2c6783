using System.Globalization;
using Zandrik.Core.Conditions;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Compression;

/// <summary>The state table of a dry test: minimum, methods, and each cylinder against the reference.</summary>
internal sealed class DryJudge(
    EngineSheet engine, JudgingRules rules, IReadOnlyList<DryReading> readings, ValidityRules validity, PressureUnit shown, IReadOnlySet<int> struck)
{
    private readonly double?[] pa = new double?[rules.Cylinders + 1];
    private readonly double?[] compared = new double?[rules.Cylinders + 1];
    private readonly GaugePressure?[] read = new GaugePressure?[rules.Cylinders + 1];
    private double meanPa;
    private bool isLowAllOver;

    /// <summary>True where the test only compares gauges: its figures are shown and judge nothing.</summary>
    internal bool IsGaugeCheck { get; init; }

    internal DryJudgement Judge()
    {
        Span<double> sorted = stackalloc double[rules.Cylinders];
        var count = 0;
        foreach (var reading in readings)
        {
            read[reading.Cylinder] = reading.Value;
            if (!IsGaugeCheck && !validity.NotUsed.Contains(reading.Cylinder))
            {
                pa[reading.Cylinder] = reading.PressurePa;
                sorted[count++] = reading.PressurePa;
                meanPa += reading.PressurePa;
            }
        }
        sorted = sorted[..count];
        sorted.Sort();
        sorted.Reverse();
        meanPa /= Math.Max(1, count);

        // The spread is answered as it was read; states are judged with the fall of a tiring battery taken out, and with what a short count misses.
        var spread = Spread(sorted);
        if (Compare())
        {
            count = 0;
            meanPa = 0;
            foreach (var reading in readings)
            {
                if (pa[reading.Cylinder] is { } x)
                {
                    sorted[count++] = compared[reading.Cylinder] ?? x;
                    meanPa += (compared[reading.Cylinder] ?? x) / sorted.Length;
                }
            }
            sorted.Sort();
            sorted.Reverse();
        }
        isLowAllOver = sorted.Length > 1 && IsUnderLevel(sorted[0]);
        var reference = SoundReference.Of(sorted, rules.NominalPa);
        SpreadLimits? distances = reference.Pa is { } r ? rules.DistancesPa(rules.DecidingMethod, r) : null;
        var cylinders = Cylinders(sorted, reference, distances, spread);
        var minimum = Minimum(cylinders);
        return new DryJudgement
        {
            IsGaugeCheck = IsGaugeCheck,
            Headline = IsGaugeCheck ? "A gauge check: it compares gauges, and no cylinder is judged by it." : new DryHeadline(engine, rules, cylinders, spread, minimum, reference.Pa, validity, shown) { IsLowAllOver = isLowAllOver }.Sentence(),
            Cylinders = cylinders,
            Spread = spread,
            Minimum = minimum,
            Patterns = DryPattern.Find(engine, rules, cylinders, readings.Where(r => r.Repeats.Count > 0).Select(r => r.Cylinder).ToHashSet(), spread.Exists(s => s is { Deciding: true, Verdict: SpreadVerdict.Good }), reference.Pa, minimum, validity.Limits),
            Fall = validity.Fall,
            ReferencePa = reference.Pa,
            IsLowAllOver = isLowAllOver,
            // No band is called good where every reading in it is low.
            GoodBandPa = isLowAllOver ? null : distances?.Good,
            Validity = validity.Notes,
            Questions = validity.Questions,
        };
    }

    // What is compared where it is not what was read; false where it is.
    private bool Compare()
    {
        var most = readings.Max(r => r.Pulses);
        var any = false;
        foreach (var reading in readings)
        {
            if (pa[reading.Cylinder] is not { } x)
            {
                continue;
            }
            var level = validity.Fall is { } fall && validity.FallIsASlip ? fall.Detrended(x, reading.Order) : x;
            level *= most is { } all && reading.Pulses is { } given ? Math.Exp(CountedCompressions.MissedLn(all, given)) : 1;
            if (level != x || validity.FallIsASlip)
            {
                compared[reading.Cylinder] = level;
                any = true;
            }
        }
        return any;
    }

    // Under the minimum, or 15 % and more under the nominal; without a figure what the trade wants explained.
    private bool IsUnderLevel(double x) =>
        rules.MinimumPa is null && rules.NominalPa is null ? Limit.IsUnder(x, rules.WantsExplainingPa)
            : (rules.MinimumPa is { } minimum && Limit.IsUnder(x, minimum)) || (rules.NominalPa is { } nominal && !Limit.IsBeyond(x, JudgingRules.LowOfNominal * nominal));

    private List<SpreadFinding> Spread(ReadOnlySpan<double> sorted)
    {
        var spread = new List<SpreadFinding>(5);
        if (sorted.Length < 2)
        {
            return spread;
        }
        for (var method = SpreadMethod.MakerDifference; method <= SpreadMethod.FixedPressure; method++)
        {
            if (SpreadFinding.Of(method, sorted, meanPa, rules) is { } finding)
            {
                spread.Add(finding);
            }
        }
        return spread;
    }

    private CylinderFinding[] Cylinders(
        ReadOnlySpan<double> sorted, SoundReference reference, SpreadLimits? distances, List<SpreadFinding> spread)
    {
        // When the method fails and no cylinder is beyond the fail limit of the reference, the one
        // farthest below is the one it means; but not a cylinder that is itself good: then the spread
        // comes from one that reads high.
        var farthestPa = double.NaN;
        if (reference.Pa is { } referencePa && distances is { } d
            && spread.Exists(s => s is { Deciding: true, Verdict: SpreadVerdict.Fail })
            && !Limit.IsBeyond(referencePa - sorted[^1], d.Marginal)
            && Limit.IsBeyond(referencePa - sorted[^1], d.Good))
        {
            farthestPa = sorted[^1];
        }
        var findings = new CylinderFinding[rules.Cylinders];
        for (var c = 1; c <= rules.Cylinders; c++)
        {
            findings[c - 1] = Cylinder(c, sorted.Length, reference.Pa, distances, farthestPa);
        }
        return findings;
    }

    private CylinderFinding Cylinder(int cylinder, int measured, double? referencePa, SpreadLimits? distances, double farthestPa)
    {
        if (pa[cylinder] is not { } x)
        {
            var inQuestion = !IsGaugeCheck && read[cylinder] is not null;
            return new CylinderFinding(cylinder, CylinderState.Untested, read[cylinder], false, inQuestion,
                validity.OverOil.Contains(cylinder) ? "With oil: not used. Run and clear it, then read it dry." : inQuestion ? "Not used: see the question beside it." : IsGaugeCheck && read[cylinder] is not null ? "Gauge check: not judged." : struck.Contains(cylinder) ? "Struck out: read it again." : "Not measured yet.")
            {
                IsOverOil = validity.OverOil.Contains(cylinder),
            };
        }
        // The fall is of the battery, and the minimum knows nothing of it; what a short count misses is missing of the reading itself.
        var level = compared[cylinder] ?? x;
        var under = rules.MinimumPa is { } minimum && Limit.IsUnder(validity.FallIsASlip ? x : level, minimum);
        var state = State(level, measured, under, referencePa, distances, farthestPa);
        // A reading that does not repeat is not a reading: until it does, it accuses nobody.
        if (state is CylinderState.Low or CylinderState.Dead && x > 0 && validity.NotRepeating.Contains(cylinder))
        {
            state = CylinderState.Watch;
        }
        return new CylinderFinding(cylinder, state, read[cylinder], under, false, Says(level, state, under, referencePa), x, compared[cylinder])
        {
            IsAlone = state == CylinderState.Sound && referencePa is null && rules.MinimumPa is null && rules.NominalPa is null,
        };
    }

    // First that fits, domain rule by domain rule: dead, low, high, watch, sound.
    private CylinderState State(
        double x, int measured, bool underMinimum, double? referencePa, SpreadLimits? distances, double farthestPa)
    {
        // A cylinder that moves no air is dead even where all of them are and a third of the reference is nothing.
        if (x == 0 || (referencePa is { } third && Limit.IsUnder(x, third / 3)))
        {
            return CylinderState.Dead;
        }
        if (underMinimum && validity.Limits == AbsoluteLimits.Apply)
        {
            return CylinderState.Low;
        }
        var noFigure = rules.MinimumPa is null && rules.NominalPa is null;
        if (noFigure && validity.Limits == AbsoluteLimits.Apply && Limit.IsUnder(x, rules.TooLowPa))
        {
            return CylinderState.Low;
        }
        // Nothing is green where everything is low.
        var least = isLowAllOver || (noFigure && Limit.IsUnder(x, rules.WantsExplainingPa)) ? CylinderState.Watch : CylinderState.Sound;
        if (referencePa is not { } reference || distances is not { } d)
        {
            return least;
        }
        if (Limit.IsBeyond(reference - x, d.Marginal) || x == farthestPa)
        {
            return CylinderState.Low;
        }
        if (measured >= 3 && Limit.IsBeyond(x - reference, d.Good) && least == CylinderState.Sound && !(rules.NominalPa is { } nominal && !Limit.IsBeyond(x, nominal)))
        {
            return CylinderState.High;
        }
        return IsWatched(x, reference) ? CylinderState.Watch : least;
    }

    private bool IsWatched(double x, double referencePa)
    {
        for (var method = SpreadMethod.MakerDifference; method <= SpreadMethod.FixedPressure; method++)
        {
            if (!rules.IsInUse(method))
            {
                continue;
            }
            // The mean method measures from the mean; only below it is a cylinder under watch, because one
            // dead cylinder drags the mean far below all the good ones.
            var from = method == SpreadMethod.AroundTheMean ? meanPa : referencePa;
            if (Limit.IsBeyond(from - x, rules.DistancesPa(method, from).Good))
            {
                return true;
            }
        }
        return false;
    }

    private string Says(double x, CylinderState state, bool under, double? referencePa)
    {
        if (state == CylinderState.Dead)
        {
            return "Under a third of the reference.";
        }
        if (state == CylinderState.Watch && validity.NotRepeating.Count > 0 && referencePa is { } r && Limit.IsUnder(x, r / 3))
        {
            return "Next to nothing, but it does not repeat.";
        }
        var minimum = under
            ? validity.Limits switch
            {
                AbsoluteLimits.Apply => "Under the minimum",
                AbsoluteLimits.Indicative => "Under the minimum (indicative: cold)",
                _ => "Under the minimum (withheld: the test explains it)",
            }
            : null;
        if (referencePa is not { } reference || reference <= 0)
        {
            return minimum is null ? "Nothing to compare it with yet." : minimum + ".";
        }
        var percent = 100 * (reference - x) / reference;
        var against = Math.Abs(percent) < 0.5
            ? compared.All(d => d is null) ? "at the reference" : validity.FallIsASlip ? "at the reference once the fall is taken out" : "at the reference with the short count corrected"
            : string.Create(CultureInfo.InvariantCulture, $"{Math.Abs(percent):0} % {(percent > 0 ? "below" : "above")} the reference");
        if (minimum is null && IsUnderLevel(x))
        {
            minimum = rules.NominalPa is { } nominal ? string.Create(CultureInfo.InvariantCulture, $"{100 * (1 - x / nominal):0} % under the nominal")
                : $"Under {GaugePressure.Figure(rules.WantsExplainingPa, shown)} {shown.Symbol()}, which needs explaining (shop rule)";
        }
        return minimum is null ? char.ToUpperInvariant(against[0]) + against[1..] + "." : $"{minimum}, {against}.";
    }

    private MinimumFinding? Minimum(CylinderFinding[] cylinders) =>
        rules.MinimumPa is { } minimum && cylinders.Any(c => c.JudgedPa is not null)
            ? new MinimumFinding(minimum, cylinders.Min(c => c.JudgedPa ?? double.MaxValue), [.. cylinders.Where(c => c.UnderMinimum).Select(c => c.Cylinder)], validity.Limits)
            : null;
}
