using System.Globalization;
using Zandrik.Core.Records;

namespace Zandrik.Core.RelativeCompression;

/// <summary>What is done after a capture.</summary>
public enum RelativeNext
{
    /// <summary>Another capture.</summary>
    CaptureAgain,

    /// <summary>A capture with a plug out, or with a sync lead, that says which cylinder a slot is.</summary>
    FindCylinder,

    /// <summary>Leak-down on the cylinder, and where its air is heard.</summary>
    LeakDown,

    /// <summary>A gauge: an engine worn evenly shows nothing here.</summary>
    Gauge,
}

/// <summary>A capture in the trade's words: what it says, how surely, and what comes next.</summary>
/// <param name="Says">The headline.</param>
/// <param name="Sure">How sure it is, in a few words; empty where nothing is said of a cylinder.</param>
/// <param name="Why">What it rests on, and what it cannot show.</param>
/// <param name="Next">What comes next.</param>
/// <param name="NextSays">That in words.</param>
/// <param name="Cylinder">The cylinder it is about; absent for none.</param>
public sealed record RelativeHeadline(string Says, string Sure, IReadOnlyList<string> Why, RelativeNext Next, string NextSays, int? Cylinder = null)
{
    /// <summary>The headline of an answer.</summary>
    /// <param name="answer">The answer.</param>
    /// <param name="question">What was asked.</param>
    /// <param name="gauge">What a gauge read of cylinders against the best of them, percent: tells slots apart where there is no sync. Empty for nothing.</param>
    /// <returns>The sentence, and which way it goes.</returns>
    public static RelativeHeadline Of(RelativeAnswer answer, CaptureQuestion question, IReadOnlyDictionary<int, double>? gauge = null)
    {
        if (answer.Refused is { } why)
        {
            return new("This capture cannot be judged", "", [why.Says], RelativeNext.CaptureAgain, "Capture again.");
        }
        var weak = answer.Slots.Where(s => s.Verdict is RelativeVerdict.Low or RelativeVerdict.Dead && !answer.IsUnplugged(s)).OrderBy(s => s.RelativePercent).ToList();
        var borderline = answer.Slots.Where(s => s.Verdict == RelativeVerdict.Borderline && !answer.IsUnplugged(s)).OrderBy(s => s.RelativePercent).ToList();
        var basis = Text($"{answer.Cycles} cycles at {answer.CrankingRpm:0} rpm, each cylinder against the best of this engine.");
        if (weak.Count > 0)
        {
            return Weak(answer, question, weak, basis, gauge ?? new Dictionary<int, double>());
        }
        if (answer.Confidence == Confidence.Low)
        {
            return new("Not sure enough to call a cylinder low", "low confidence",
                [.. borderline.Take(1).Select(b => $"Lowest is {Name(answer, b)} with {Figure(b)}."), basis], RelativeNext.CaptureAgain, "Capture again as the notes say, or go on with a gauge.");
        }
        if (borderline.Count > 0)
        {
            return new($"{Sentence(answer, borderline)} {(borderline.Count == 1 ? "is" : "are")} borderline", "not sure",
                [string.Join(", ", borderline.Select(Figure)) + Text($": too near the limit of {question.LimitPercent:0} % for one capture."), basis], RelativeNext.CaptureAgain, "Capture again, longer, with the battery charged.");
        }
        var lowest = answer.Slots.Where(s => !answer.IsUnplugged(s)).MinBy(s => s.RelativePercent)!;
        return new(Text($"Even: none below {question.LimitPercent:0} %"), "sure", [$"Lowest is {Name(answer, lowest)} with {Figure(lowest)}.", basis, CaptureGuide.EvenlyWorn], RelativeNext.Gauge, "A gauge tells an evenly worn engine from a sound one.");
    }

    /// <summary>The headline of a test that stands in a record without its capture.</summary>
    /// <returns>The sentence.</returns>
    public static string OfRecord(RelativeCompressionTest test, double limitPercent)
    {
        var read = (test.Readings ?? []).Where(r => r.SupersededBy is null && r.RelativePercent is not null).OrderBy(r => r.RelativePercent).ToList();
        if (read.Count == 0)
        {
            return test.Slots is not { Count: > 0 } slots ? "Captured; which hump is which cylinder was not known."
                : LowSlots(test, limitPercent) is var lows && lows > 0 ? Text($"{lows} of {slots.Count} humps {(lows == 1 ? "is" : "are")} low against the best, the lowest at {slots.Min(s => s.RelativePercent):0} %; which cylinder is not known")
                : Text($"Even: lowest hump {slots.Min(s => s.RelativePercent):0} % of the best. An engine worn evenly reads so too.");
        }
        var low = read.Where(r => VerdictOf(r, limitPercent) is RelativeVerdict.Low or RelativeVerdict.Dead).ToList();
        return low.Count > 0 ? $"Low against the best: {string.Join(", ", low.Select(r => Text($"cylinder {r.Cylinder} with {r.RelativePercent:0} %")))}"
            : VerdictOf(read[0], limitPercent) == RelativeVerdict.Borderline ? Text($"Cylinder {read[0].Cylinder} is borderline at {read[0].RelativePercent:0} %")
            : Text($"Even: lowest {read[0].RelativePercent:0} % of the best. An engine worn evenly reads so too.");
    }

    /// <summary>How many slots of a test are low or dead.</summary>
    /// <returns>0 or more; 0 where none stand in the record.</returns>
    internal static int LowSlots(RelativeCompressionTest test, double limitPercent) => (test.Slots ?? []).Count(s => VerdictOf(s, limitPercent) is RelativeVerdict.Low or RelativeVerdict.Dead);

    /// <summary>What is said of a slot of a record; one without a standard error is taken to have a usual one of three points.</summary>
    internal static RelativeVerdict VerdictOf(RelativeSlotReading slot, double limitPercent) => RelativeAnalysis.Verdict(slot.RelativePercent, slot.StandardErrorPercent ?? UsualErrorPercent, limitPercent);

    /// <summary>Taken for the standard error of a reading that came without one, percent points.</summary>
    public const double UsualErrorPercent = 3;

    /// <summary>What is said of a reading of a record; one without a standard error is taken to have a usual one of three points.</summary>
    /// <returns>What is said; a reading without a percentage is taken for as good as the best.</returns>
    public static RelativeVerdict VerdictOf(RelativeReading reading, double limitPercent) => RelativeAnalysis.Verdict(reading.RelativePercent ?? 100, reading.StandardErrorPercent ?? UsualErrorPercent, limitPercent);

    private static RelativeHeadline Weak(RelativeAnswer answer, CaptureQuestion question, List<RelativeSlot> weak, string basis, IReadOnlyDictionary<int, double> gauge)
    {
        var dead = weak.Exists(s => s.Verdict == RelativeVerdict.Dead);
        var worst = weak[0];
        var says = weak.Count > 1 ? $"{Sentence(answer, weak)} pump less than the best"
            : worst.Verdict == RelativeVerdict.Dead ? $"{Sentence(answer, weak)} has no compression"
            : Text($"{Sentence(answer, weak)} pumps {100 - worst.RelativePercent:0} % less than the best");
        List<string> why = [Text($"{string.Join(", ", weak.Select(s => $"{(answer.Synchronised ? "Cylinder" : "Hump")} {Short(answer, s)}: {Figure(s)}"))}. The limit is {question.LimitPercent:0} %."), basis];
        if (dead)
        {
            why.Add(CaptureGuide.NoParts);
        }
        if (answer.Synchronised)
        {
            return new(says, "sure", why, RelativeNext.LeakDown, "Leak-down says how much is lost, and where it goes.", worst.Cylinder);
        }
        why.Add(Which(answer, question, weak, gauge));
        return new(says, "sure that one does, not which", why, RelativeNext.FindCylinder,
            "Take the plug out of one cylinder that is easy to reach and capture again: the hump that is dead then is that cylinder, and the others follow it in firing order. Or put a lead on its coil or injector.");
    }

    // Which cylinders the weak slots may be.
    private static string Which(RelativeAnswer answer, CaptureQuestion question, List<RelativeSlot> weak, IReadOnlyDictionary<int, double> gauge)
    {
        IReadOnlyList<SlotCandidate> ways = answer.Candidates.Count > 0
            ? [.. answer.Candidates.Select(c => new SlotCandidate(c, 1.0 / answer.Candidates.Count))]
            : SlotNames.Candidates(answer.Slots, question.FiringOrder, gauge);
        string Cylinders(SlotCandidate way) => string.Join(" and ", weak.Select(s => way.CylinderOfSlot[s.Slot - 1]).Order());
        var sets = ways.GroupBy(Cylinders).Select(g => (Cylinders: g.Key, Likelihood: g.Sum(w => w.Likelihood))).OrderByDescending(g => g.Likelihood).ToList();
        if (answer.Candidates.Count == 0 && gauge.Count > 0 && sets[0].Likelihood > 0.6)
        {
            return Text($"By the gauge {(gauge.Count == 1 ? "reading" : "readings")} it is most likely cylinder {sets[0].Cylinders} ({100 * sets[0].Likelihood:0} %).");
        }
        return sets.Count == question.Cylinders && weak.Count == 1 ? "It may be any cylinder." : $"It may be {string.Join(", or ", sets.Select(s => s.Cylinders))}.";
    }

    private static string Sentence(RelativeAnswer answer, List<RelativeSlot> slots)
    {
        var names = slots.Select(s => Short(answer, s)).ToList();
        var list = names.Count == 1 ? names[0] : string.Join(", ", names.SkipLast(1)) + " and " + names[^1];
        return $"{(answer.Synchronised ? "Cylinder" : "Hump")}{(names.Count > 1 ? "s" : "")} {list}";
    }

    private static string Name(RelativeAnswer answer, RelativeSlot slot) => $"{(answer.Synchronised ? "cylinder" : "hump")} {Short(answer, slot)}";

    private static string Short(RelativeAnswer answer, RelativeSlot slot) => answer.Synchronised ? slot.Cylinder!.Value.ToString(CultureInfo.InvariantCulture) : SlotNames.Letter(slot.Slot);

    private static string Figure(RelativeSlot slot) => Text($"{slot.RelativePercent:0} ± {Math.Max(1, slot.StandardErrorPercent):0} %");

    private static string Text(FormattableString text) => FormattableString.Invariant(text);
}
