using System.Globalization;
using MathNet.Numerics.Statistics;
using Zandrik.Core.Compression;
using Zandrik.Core.Conditions;
using Zandrik.Core.Engines;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.LeakDown;

/// <summary>
/// Everything one leak-down says: how much each cylinder loses, as a percentage and as an area that compares
/// between testers and supplies, where it goes, which figures are false and why. A false figure weighs nowhere:
/// neither in its cylinder's state, nor in the median of the engine, nor in the headline.
/// </summary>
public sealed record LeakDownJudgement
{
    /// <summary>Points that two readings of one cylinder may lie apart: more is another piston position or another seal, not the needle. Rule of the trade.</summary>
    public const double MostApart = 12;

    /// <summary>One plain sentence, the most pressing thing first.</summary>
    public required string Headline { get; init; }

    /// <summary>Cylinders 1 to N, in order.</summary>
    public required IReadOnlyList<LeakDownFinding> Cylinders { get; init; }

    /// <summary>What the losses are held against.</summary>
    public required LeakDownLimits Limits { get; init; }

    /// <summary>What the way of testing did to the numbers.</summary>
    public required IReadOnlyList<ValidityNote> Validity { get; init; }

    /// <summary>Median of the comparable losses that count, percent; absent with fewer than three.</summary>
    public double? MedianPercent { get; init; }

    /// <summary>The restriction the areas are worked out with, mm.</summary>
    public required double RestrictionMm { get; init; }

    /// <summary>True when nobody noted the restriction and the standard one is assumed.</summary>
    public required bool RestrictionAssumed { get; init; }

    /// <summary>How many cylinders have a figure, false or not.</summary>
    public int Read => Cylinders.Count(c => c.State != LeakState.Untested);

    /// <summary>The worst state on the engine.</summary>
    public LeakState Worst => Cylinders.Max(c => c.State);

    /// <summary>Each method's answer to a loss, for showing them side by side.</summary>
    /// <returns>Every method once, in the order of the list.</returns>
    public static IReadOnlyList<(LeakDownMethod Method, LeakState State)> Methods(double percent) =>
        [.. Enum.GetValues<LeakDownMethod>().Select(s => (s, LeakDownLimits.By(s, percent)))];

    /// <summary>Judges a leak-down. Deterministic; the order of its readings does not matter.</summary>
    /// <param name="record">The whole job: its engine, its settings, and the dry and wet tests the figures are checked against.</param>
    /// <param name="test">The leak-down; it may be empty.</param>
    /// <param name="shown">The unit of the figures in the sentences; absent for the test's own.</param>
    /// <returns>Loss, state and doubt of each cylinder; of an empty test that it waits.</returns>
    public static LeakDownJudgement Of(TestRecord record, LeakDownTest test, PressureUnit? shown = null) =>
        Of(record, Marked(record, test), LatestDryTest.Judged(record, shown ?? RecordRules.UnitOf(test.Unit, record.Engine)), shown);

    /// <summary>Judges a leak-down whose readings say what was taken over oil, beside a dry test that is judged already.</summary>
    internal static LeakDownJudgement Of(TestRecord record, LeakDownTest marked, DryJudgement? dry, PressureUnit? shown) =>
        new LeakDownJudge(record, marked, dry, shown ?? RecordRules.UnitOf(marked.Unit, record.Engine)).Judge();

    // Which readings were taken over oil follows from the whole job.
    private static LeakDownTest Marked(TestRecord record, LeakDownTest test)
    {
        var tests = record.Tests ?? [];
        for (var i = 0; i < tests.Count; i++)
        {
            if (ReferenceEquals(tests[i], test))
            {
                return (LeakDownTest)OilHistory.Marked(record).Tests![i];
            }
        }
        return test;
    }
}

/// <summary>Works a <see cref="LeakDownJudgement"/> out.</summary>
internal sealed class LeakDownJudge
{
    // A cylinder that pumps as well as the others cannot lose this much standing still. Rules of the trade.
    private const double SoundDry = 0.95, NearlySoundDry = 0.93, TooMuchForSound = 75, TooMuchForNearlySound = 88, NearlyAll = 90, Nothing = 0.5;

    private const double MostApart = LeakDownJudgement.MostApart;

    /// <summary>Points less with oil in the cylinder that say some of the loss goes past the rings.</summary>
    private const double OilSeals = 8;

    private readonly TestRecord record;
    private readonly EngineSheet engine;
    private readonly LeakDownTest test;
    private readonly PressureUnit unit;
    private readonly PressureUnit shown;
    private readonly LeakDownLimits limits;
    private readonly double standardMm;
    private readonly DryJudgement? dry;
    private readonly List<ValidityNote> notes = [];

    internal LeakDownJudge(TestRecord record, LeakDownTest test, DryJudgement? dry, PressureUnit shown)
    {
        this.record = record;
        this.test = test;
        this.shown = shown;
        engine = record.Engine;
        unit = RecordRules.UnitOf(test.Unit, engine);
        limits = LeakDownLimits.For(engine, record.JudgeBy);
        standardMm = LeakFlow.StandardRestrictionMm(CylinderVolume.SweptCc(engine));
        this.dry = dry;
    }

    internal LeakDownJudgement Judge()
    {
        var taken = (test.Readings ?? []).Where(r => r.SupersededBy is null && (LeakDownEntry.HasFigure(r) || r.Heard is not null || r.Listened is not null)).ToLookup(r => r.Cylinder);
        var found = Enumerable.Range(1, engine.Cylinders).Select(c => taken[c].Any() ? Choose([.. taken[c].Select((r, i) => (r, i)).OrderBy(x => x.r.At ?? DateTimeOffset.MinValue).ThenBy(x => x.i).Select(x => x.r)]) : Untested(c)).ToList();
        var counting = found.Where(f => f.Counts).Select(f => f.ComparablePercent!.Value).ToList();
        double? median = counting.Count < 3 ? null : counting.Median();
        for (var i = 0; i < found.Count; i++)
        {
            found[i] = Compare(found[i], median);
        }
        var used = found.SelectMany(f => f.Taken.Where(t => t.IsJudged).Select(t => t.Reading)).ToList();
        Notes(found, used);
        var tester = test.Tester ?? used.Select(r => r.Tester).FirstOrDefault(t => t is not null);
        return new LeakDownJudgement
        {
            Headline = Headline(found),
            Cylinders = found,
            Limits = limits,
            Validity = notes,
            MedianPercent = median,
            RestrictionMm = tester?.RestrictionMm ?? standardMm,
            RestrictionAssumed = tester?.RestrictionMm is null,
        };
    }

    private LeakDownFinding Untested(int cylinder) => new()
    {
        Cylinder = cylinder, State = LeakState.Untested, Says = "Not read yet.", Air = AirHeard.Of(engine, new LeakDownReading { Cylinder = cylinder }),
    };

    // Of several readings the last good one is judged, and the last good dry one where oil was in for others: oil hides
    // what the rings lose. Nobody guesses which of two good ones that disagree is right.
    private LeakDownFinding Choose(IReadOnlyList<LeakDownReading> readings)
    {
        var figures = readings.Where(LeakDownEntry.HasFigure).Select(r => (Reading: r, Finding: Measure(r))).ToList();
        figures = [.. figures.Select(f => (f.Reading, Confirmed(f.Finding, figures.Where(o => o.Reading != f.Reading && o.Reading.NotUsed is null).Select(o => o.Finding))))];
        if (figures.Count == 0)
        {
            return Measure(readings[^1]);
        }
        var inUse = figures.Where(f => f.Reading.NotUsed is null).ToList();
        if (inUse.Count == 0)
        {
            var last = figures[^1];
            return Untested(last.Reading.Cylinder) with
            {
                Says = $"Left out: {last.Reading.NotUsed}. Read it again.",
                Taken = [.. figures.Select(f => new LeakDownTaken(f.Reading, LeakDownEntry.LostPercent(f.Reading, test), f.Finding.AfterOil, false, f.Reading.NotUsed))],
            };
        }
        var good = inUse.Where(f => f.Finding.Counts).ToList();
        var judged = good.Any(f => !f.Finding.AfterOil) ? good.Last(f => !f.Finding.AfterOil) : good.Count > 0 ? good[^1] : inUse[^1];
        var alike = good.Where(f => f.Finding.AfterOil == judged.Finding.AfterOil).Select(f => f.Finding.ComparablePercent!.Value).ToList();
        var after = figures.IndexOf(judged);
        return judged.Finding with
        {
            Disagrees = alike.Count > 1 && alike.Max() - alike.Min() > MostApart,
            WithOilPercent = judged.Finding.AfterOil ? null : good.Where(f => f.Finding.AfterOil).Select(f => f.Finding.ComparablePercent).LastOrDefault(),
            Taken = [.. figures.Select((f, i) => new LeakDownTaken(f.Reading, LeakDownEntry.LostPercent(f.Reading, test), f.Finding.AfterOil, i == after,
                i == after ? null : WhyNot(f.Reading, f.Finding, judged.Finding)))],
        };
    }

    // What was doubted for what it is, and read again alike, is confirmed: nobody is asked a third time. Off top dead centre is off twice as easily as once.
    private LeakDownFinding Confirmed(LeakDownFinding f, IEnumerable<LeakDownFinding> others) =>
        f is { Doubt: LeakDoubt.LossAgainstDry or LeakDoubt.LossWithoutPlace, ComparablePercent: { } percent } && others.Any(o => o.AfterOil == f.AfterOil && Math.Abs((o.ComparablePercent ?? -100) - percent) <= MostApart)
            ? f with { Doubt = null, State = limits.Of(percent), Says = "" } : f;

    private static string WhyNot(LeakDownReading reading, LeakDownFinding finding, LeakDownFinding judged) =>
        reading.NotUsed ?? finding.Doubt switch
        {
            LeakDoubt.WrongStroke => "wrong stroke",
            LeakDoubt.OffTopDeadCentre => "pushed off top dead centre",
            LeakDoubt.CheckValveLeftIn => "nothing lost: check valve in the hose?",
            LeakDoubt.SupplyNotSet => "supply not set",
            LeakDoubt.LossWithoutPlace => "heard nowhere",
            LeakDoubt.LossAgainstDry => "against its dry reading",
            _ => finding.AfterOil && !judged.AfterOil ? "with oil: the dry one is judged" : "a later reading stands",
        };

    private LeakDownFinding Measure(LeakDownReading reading)
    {
        var supply = reading.Supply ?? test.Supply;
        var finding = new LeakDownFinding
        {
            Cylinder = reading.Cylinder,
            State = LeakState.Untested,
            Held = reading.Held is { } h ? new GaugePressure(h, unit) : null,
            Supply = supply is { } s ? new GaugePressure(s, unit) : null,
            Air = AirHeard.Of(engine, reading),
            AfterOil = OilHistory.IsOverOil(reading, test),
        };
        if (reading is { Held: null, LeakPercent: null })
        {
            return finding with { Says = "Listened, not read yet." };
        }
        if (LeakDownEntry.LostPercent(reading, test) is not { } percent)
        {
            return finding with { State = LeakState.NotUsed, Doubt = LeakDoubt.SupplyNotSet, Says = "Not used: no supply was read beside what was held." };
        }
        if (percent is < -1 or > 100)
        {
            return finding with { State = LeakState.NotUsed, Doubt = LeakDoubt.SupplyNotSet, Percent = percent, Says = "Not used: more is held than supplied. Set the supply and read both again." };
        }
        percent = Math.Max(0, percent);
        finding = finding with { Percent = percent };
        // On a percent scale nobody need note the supply: the scale is made for about 100 psi.
        var supplyPa = supply is { } noted and > 0 ? noted * unit.Pascals() : LeakFlow.StandardSupplyPa;
        var ambientPa = 1000 * (reading.Conditions?.BarometricKPa ?? test.Conditions?.BarometricKPa ?? Barometer.StandardPa / 1000);
        var restrictionMm = (reading.Tester ?? test.Tester)?.RestrictionMm ?? standardMm;
        var ratio = LeakFlow.AreaRatio(percent, supplyPa, ambientPa);
        var area = ratio * LeakFlow.RestrictionAreaMm2(restrictionMm);
        var standard = Math.Abs(supplyPa - LeakFlow.StandardSupplyPa) <= LeakFlow.SupplyTolerancePa + 1e-6 && Math.Abs(restrictionMm - standardMm) < 0.005;
        finding = finding with
        {
            AreaMm2 = area,
            IsMoreThanArea = percent > 99.6,
            ComparablePercent = standard || percent is < 0.4 or > 99.6 ? percent : LeakFlow.Percent(area / LeakFlow.RestrictionAreaMm2(standardMm), LeakFlow.StandardSupplyPa),
        };
        return Doubt(finding, reading.Confirmed == true) is { } doubt
            ? finding with { State = LeakState.NotUsed, Doubt = doubt, Says = Says(doubt, finding) }
            : finding with { State = limits.Of(finding.ComparablePercent.Value) };
    }

    // What a figure cannot be, before it is believed.
    private LeakDoubt? Doubt(LeakDownFinding f, bool confirmed)
    {
        var percent = f.Percent!.Value;
        if (percent <= Nothing)
        {
            return confirmed ? null : LeakDoubt.CheckValveLeftIn;
        }
        if (DryShare(f.Cylinder) is { } share && ((share >= SoundDry && percent >= TooMuchForSound) || (share >= NearlySoundDry && percent >= TooMuchForNearlySound)))
        {
            var atAValve = f.Air.At(ListeningPlace.Intake) is not null || f.Air.At(ListeningPlace.Exhaust) is not null;
            // Plain at the oil filler it went by the piston, wherever that stood.
            if (!atAValve && f.Air.At(ListeningPlace.OilFiller) is HeardStrength.Clear or HeardStrength.Strong)
            {
                return confirmed ? null : LeakDoubt.LossAgainstDry;
            }
            return percent >= NearlyAll && atAValve ? LeakDoubt.WrongStroke : LeakDoubt.OffTopDeadCentre;
        }
        return f.Air.IsSilent && percent > limits.Watch && !confirmed ? LeakDoubt.LossWithoutPlace : null;
    }

    // The dry reading against what the sound cylinders give; absent without one that counts.
    private double? DryShare(int cylinder) =>
        dry is { ReferencePa: { } reference and > 0 } && dry.Cylinders[cylinder - 1] is { State: not CylinderState.Untested, InQuestion: false, LevelPa: { } level } ? level / reference : null;

    private LeakDownFinding Compare(LeakDownFinding f, double? median)
    {
        if (!f.Counts)
        {
            return f;
        }
        var above = f.ComparablePercent!.Value - median;
        var standsOut = above >= LeakDownLimits.PointsAboveMedian - 1e-9;
        var inCoolant = f.Air.At(ListeningPlace.Coolant) is not null;
        var state = f.State == LeakState.Good && (standsOut || inCoolant) ? LeakState.Watch : f.State;
        if (f.Disagrees)
        {
            // A figure that does not repeat accuses nobody, and clears nobody.
            return f with { AboveMedian = above, State = LeakState.Watch, Says = $"Does not repeat: {Losses(f)} lost. Prove top dead centre on compression and read it again." };
        }
        return f with { AboveMedian = above, StandsOut = standsOut, State = state, Says = Says(f, state, standsOut) };
    }

    private static string Losses(LeakDownFinding f) => CylinderList.Sentence([.. f.Taken.Where(t => t.Reading.NotUsed is null && t.AfterOil == f.AfterOil && t.Percent is >= 0).Select(t => (int)Math.Round(t.Percent!.Value))]) + " %";

    private string Says(LeakDownFinding f, LeakState state, bool standsOut)
    {
        var loss = Percent(f.ComparablePercent!.Value);
        var limit = limits.IsMakers ? $"the maker's {Percent(limits.Good)}" : $"{Percent(limits.Good)} ({RecordWords.Of(limits.Method)})";
        var how = limits.Of(f.ComparablePercent.Value) switch
        {
            LeakState.Good => $"{loss} lost, within {limit}",
            LeakState.Watch => $"{loss} lost, over {limit}",
            _ => $"{loss} lost, over {(limits.IsMakers ? "twice " + limit : Percent(limits.Watch) + $" ({RecordWords.Of(limits.Method)})")}",
        };
        var also = (standsOut ? "; well above the others" : "") + (f.WithOilPercent is { } oiled
            ? f.ComparablePercent - oiled >= OilSeals ? $"; {Percent(oiled)} with oil: part of it goes past the rings" : $"; {Percent(oiled)} with oil" : "");
        var where = Place(f);
        return $"{how}{also}{(where.Length > 0 && (state != LeakState.Good || f.Air.At(ListeningPlace.Coolant) is not null) ? $": {where}" : "")}.";
    }

    private static string Says(LeakDoubt doubt, LeakDownFinding f) => doubt switch
    {
        LeakDoubt.WrongStroke => "Not used: nearly all goes through a valve, yet it pumps like the others. Wrong stroke: turn one full turn (360°) and read again.",
        LeakDoubt.OffTopDeadCentre => $"Not used: {Percent(f.Percent!.Value)} lost, yet it pumps like the others. Pushed off top dead centre: air off, set it exactly, read again.",
        LeakDoubt.LossAgainstDry => $"Not used yet: {Percent(f.Percent!.Value)} lost past the piston, but its compression matches the others. Zero the tester, check the adapter, read it again.",
        LeakDoubt.CheckValveLeftIn => "Not used yet: nothing lost at all. Undo the adapter a thread: if the needle does not move, a check valve is still in the hose.",
        LeakDoubt.LossWithoutPlace => "Not used yet: the air must go somewhere. Wet the adapter and hose with soapy water, and listen again at every place.",
        _ => "Not used: set the supply and read both gauges again.",
    };

    // What it points to, from where it is loudest.
    private static string Place(LeakDownFinding f)
    {
        if (f.Air.Places.Count == 0)
        {
            return f.Air.Listened ? f.Air.Says : "not listened yet";
        }
        var loudest = f.Air.Places.Where(p => p.Strength == f.Air.Places[0].Strength).ToList();
        return $"loudest at {string.Join(" and ", loudest.Select(p => p.Name))} – " + string.Join(", or ", loudest.Select(p => Suspect(f, p)).Distinct());
    }

    private static string Suspect(LeakDownFinding f, AirPlace place) => place.At switch
    {
        ListeningPlace.Intake => "intake valve",
        ListeningPlace.Exhaust => "exhaust valve",
        ListeningPlace.OilFiller => f.ComparablePercent > 80 && place.Strength == HeardStrength.Strong ? "rings or piston" : "rings or bore",
        ListeningPlace.Coolant => "gasket or a crack to the coolant",
        _ when place.Cylinder is { } c && f.Air.ThroughManifold.Contains(c) => "intake valve, by way of the manifold",
        _ => place.Cylinder is { } other ? $"head gasket between {Math.Min(f.Cylinder, other)} and {Math.Max(f.Cylinder, other)}" : "head gasket to a neighbour",
    };

    private static string Headline(List<LeakDownFinding> found)
    {
        var doubted = found.Where(f => f.Doubt is not null).ToList();
        var bad = found.Where(f => f.State == LeakState.Bad).OrderByDescending(f => f.ComparablePercent).ToList();
        var watch = found.Where(f => f.State == LeakState.Watch).OrderByDescending(f => f.ComparablePercent).ToList();
        var missing = found.Where(f => f.State == LeakState.Untested).Select(f => f.Cylinder).ToList();
        if (found.All(f => f.State == LeakState.Untested))
        {
            return "No reading yet.";
        }
        // A pair that hears each other is one fault, named as a pair.
        foreach (var f in bad.Concat(watch))
        {
            var other = f.Air.Places.Where(p => p is { At: ListeningPlace.AdjacentPlugHole, Strength: not HeardStrength.Faint } && !f.Air.ThroughManifold.Contains(p.Cylinder ?? 0)).Select(p => p.Cylinder).FirstOrDefault();
            if (other is { } c && found[c - 1] is { State: LeakState.Watch or LeakState.Bad } mate && mate.Air.At(ListeningPlace.AdjacentPlugHole, f.Cylinder) is not null)
            {
                return $"Air crosses between {CylinderList.Sentence([Math.Min(f.Cylinder, c), Math.Max(f.Cylinder, c)])}: head gasket between them.";
            }
        }
        var first = bad.Concat(watch).FirstOrDefault();
        if (first is not null)
        {
            var others = bad.Concat(watch).Skip(1).Select(f => f.Cylinder).Order().ToList();
            return $"Cylinder {first.Cylinder}: {char.ToLowerInvariant(first.Says[0])}{first.Says[1..^1]}{(others.Count > 0 ? $"; also {CylinderList.Sentence(others)}" : "")}.";
        }
        if (doubted.Count > 0)
        {
            return $"Cylinder {CylinderList.Sentence([.. doubted.Select(f => f.Cylinder)])}: {(doubted.Count == 1 ? "the figure is" : "the figures are")} in question.";
        }
        return missing.Count > 0
            ? $"{CylinderList.Sentence([.. found.Where(f => f.Counts).Select(f => f.Cylinder)])} within the limit; {CylinderList.Sentence(missing)} not read."
            : "Every cylinder holds its air.";
    }

    private void Notes(List<LeakDownFinding> found, List<LeakDownReading> used)
    {
        Note(found, f => f.Doubt == LeakDoubt.WrongStroke, ValidityCode.LeakDownWrongStroke, Severity.Invalid, "Nearly all lost through a valve of a cylinder that pumps well: wrong stroke. Turn one full turn and read again.");
        Note(found, f => f.Doubt == LeakDoubt.OffTopDeadCentre, ValidityCode.LeakDownOffTdc, Severity.Invalid, "More lost than a cylinder that pumps well can lose: pushed off top dead centre. Reset it and read again.");
        Note(found, f => f.Doubt == LeakDoubt.CheckValveLeftIn, ValidityCode.LeakDownCheckValveLeftIn, Severity.Caution, "Nothing lost: undo the adapter a thread. If the needle does not move, a check valve is still in the hose.");
        Note(found, f => f.Doubt == LeakDoubt.LossAgainstDry, ValidityCode.ImplausibleReading, Severity.Invalid, "More lost past the piston than the dry reading allows: one of the two is wrong. Zero the tester, check the adapter, read it again.");
        Note(found, f => f.Percent is < -1 or > 100, ValidityCode.ImplausibleReading, Severity.Invalid, "More held than supplied: set the supply, and read both gauges at the same moment.");
        Note(found, f => f.Counts && f.Percent >= NearlyAll && DryShare(f.Cylinder) is null && f.Air.At(ListeningPlace.Intake) is not null && f.Air.At(ListeningPlace.Exhaust) is not null,
            ValidityCode.LeakDownWrongStroke, Severity.Caution, "Nearly all lost, heard at intake and exhaust, and no dry reading to compare: make sure of the stroke, a full turn (360°) apart.");
        Note(found, f => f.AfterOil && f.Percent is not null, ValidityCode.OilBeforeLeakDown, Severity.Caution, "Read with test oil still in the cylinder: what the rings lose reads low. Run and clear it, then read again.");
        Note(found, f => f.Supply is { } s && Math.Abs(s.Pascals - LeakFlow.StandardSupplyPa) > LeakFlow.SupplyTolerancePa + 1e-6, ValidityCode.LeakDownNonstandardSupply, Severity.Caution,
            "Supply well off 100 psi: the percentages compare only through the leak area, and so they are held against the limits.");
        Note(found, f => f.Disagrees, ValidityCode.DoesNotRepeat, Severity.Caution, "Readings of one cylinder lie far apart: the piston moved, it was another stroke, or the adapter leaks. Prove top dead centre on compression, and read again before anything is opened.");
        var labels = used.Select(r => (r.Tester ?? test.Tester)?.Label).Where(l => l is not null).Distinct().Count();
        if (labels > 1)
        {
            notes.Add(new ValidityNote(ValidityCode.MixedTesters, Severity.Caution, "Two leak testers in one test: their percentages compare only through the leak area.", []));
        }
        var missing = found.Where(f => f.State == LeakState.Untested).Select(f => f.Cylinder).ToList();
        if (missing.Count > 0 && missing.Count < found.Count)
        {
            notes.Add(new ValidityNote(ValidityCode.CylindersMissing, Severity.Note, "Not read: fine where only some are asked about; the comparison wants three.", missing));
        }
    }

    private void Note(List<LeakDownFinding> found, Func<LeakDownFinding, bool> holds, ValidityCode code, Severity severity, string says)
    {
        var where = found.Where(holds).Select(f => f.Cylinder).ToList();
        if (where.Count > 0)
        {
            notes.Add(new ValidityNote(code, severity, says, where));
        }
    }

    private static string Percent(double percent) => percent.ToString("0", CultureInfo.CurrentCulture) + " %";
}
