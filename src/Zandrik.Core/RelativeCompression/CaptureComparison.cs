using MathNet.Numerics.Distributions;
using Zandrik.Core.Engines;

namespace Zandrik.Core.RelativeCompression;

/// <summary>A capture that is held against another one.</summary>
/// <param name="Answer">What was said of it.</param>
/// <param name="Question">What was asked.</param>
/// <param name="Gauge">What a gauge read of cylinders of the same job, percent of the best: names humps where no sync does. Empty for nothing.</param>
public sealed record ComparedCapture(RelativeAnswer Answer, CaptureQuestion Question, IReadOnlyDictionary<int, double> Gauge)
{
    // From here on a gauge is taken to have named the humps.
    private const double SureWay = 0.9;

    /// <summary>The slot of each cylinder, by sync, by the plug that was out, or by the gauge; empty where nothing names the humps.</summary>
    /// <returns>Slots by cylinder.</returns>
    public IReadOnlyDictionary<int, RelativeSlot> Cylinders()
    {
        if (Answer.Refused is not null)
        {
            return new Dictionary<int, RelativeSlot>();
        }
        if (Answer.Synchronised)
        {
            return Answer.Slots.ToDictionary(s => s.Cylinder!.Value);
        }
        var slots = Answer.Slots.OrderBy(s => s.Slot).ToList();
        var way = Gauge.Count == 0 || Question.FiringOrder.Count != slots.Count ? null : SlotNames.Candidates(slots, Question.FiringOrder, Gauge)[0];
        return way is { Likelihood: >= SureWay } ? slots.ToDictionary(s => way.CylinderOfSlot[s.Slot - 1]) : new Dictionary<int, RelativeSlot>();
    }
}

/// <summary>One cylinder in two captures.</summary>
/// <param name="Cylinder">The cylinder.</param>
/// <param name="BeforePercent">Its peak pressure against the best cylinder of the first capture, percent.</param>
/// <param name="AfterPercent">The same of the second.</param>
/// <param name="ErrorPercent">Standard error of the difference, percent points: both captures' together.</param>
/// <param name="IsMoreThanChance">True where the difference is larger than two captures of an unchanged engine differ.</param>
public sealed record CylinderChange(int Cylinder, double BeforePercent, double AfterPercent, double ErrorPercent, bool IsMoreThanChance)
{
    /// <summary>Second less first, percent points.</summary>
    public double ChangePercent => AfterPercent - BeforePercent;
}

/// <summary>
/// Two captures of one engine against each other, before and after a repair or on two days: which cylinders changed by more than chance. Each capture is against its own best cylinder, so what
/// changed all cylinders alike does not show.
/// </summary>
/// <param name="Cylinders">Those that both captures tell, in order; empty where <paramref name="Problem"/> says why.</param>
/// <param name="Problem">Why they cannot be compared, and what to do; absent where they can.</param>
/// <param name="Says">The headline.</param>
/// <param name="Notes">What else to know before believing it.</param>
/// <param name="Errors">How many standard errors a difference needs, no unit.</param>
public sealed record CaptureComparison(IReadOnlyList<CylinderChange> Cylinders, string? Problem, string Says, IReadOnlyList<string> Notes, double Errors)
{
    /// <summary>Chance that an engine that did not change is called changed in any cylinder, 0 to 1.</summary>
    public const double FalseAlarm = 0.05;

    // Cranked slower, a leak has longer: from this ratio of speeds on that is said.
    private const double OtherSpeed = 1.15;

    /// <summary>Compares.</summary>
    /// <param name="before">The first capture.</param>
    /// <param name="after">The second.</param>
    /// <returns>
    /// What changed. A difference counts from so many standard errors on that one of all cylinders crosses it by luck in 5 % of all engines (Šidák: each cylinder alone 1 − 0.95^(1/n), both
    /// sides). Where either capture is of low confidence, no cylinder is said to have changed.
    /// </returns>
    public static CaptureComparison Of(ComparedCapture before, ComparedCapture after)
    {
        if ((Why(before, "before") ?? Why(after, "after") ?? Differ(before, after)) is { } problem)
        {
            return new([], problem, "These two cannot be compared", [], 0);
        }
        var (was, isNow) = (before.Cylinders(), after.Cylinders());
        var both = was.Keys.Where(c => isNow.ContainsKey(c) && !before.Answer.IsUnplugged(was[c]) && !after.Answer.IsUnplugged(isNow[c])).Order().ToList();
        var errors = Normal.InvCDF(0, 1, 1 - (1 - Math.Pow(1 - FalseAlarm, 1.0 / both.Count)) / 2);
        var sure = before.Answer.Confidence == Confidence.High && after.Answer.Confidence == Confidence.High;
        List<CylinderChange> changes = [.. both.Select(c =>
        {
            var error = Math.Sqrt(was[c].StandardErrorPercent * was[c].StandardErrorPercent + isNow[c].StandardErrorPercent * isNow[c].StandardErrorPercent);
            var change = isNow[c].RelativePercent - was[c].RelativePercent;
            return new CylinderChange(c, was[c].RelativePercent, isNow[c].RelativePercent, error, sure && Math.Abs(change) > errors * error);
        })];
        return new(changes, null, Headline(changes, sure), [.. NotesOn(before, after, was, isNow, sure)], errors);
    }

    private static string? Why(ComparedCapture capture, string which) =>
        capture.Answer.Refused is not null ? $"The capture {which} could not be judged. Choose another one, or capture again."
        : capture.Cylinders().Count == 0 ? $"Nothing tells which hump of the capture {which} is which cylinder. Capture again with a sync lead or with one plug out, or read the cylinders with a gauge on that job."
        : null;

    private static string? Differ(ComparedCapture before, ComparedCapture after) =>
        before.Question.FiringOrder.SequenceEqual(after.Question.FiringOrder) ? null
        : $"The captures were read with different firing orders, {CylinderList.Text(before.Question.FiringOrder)} and {CylinderList.Text(after.Question.FiringOrder)}. Read one of them again with the right one.";

    private static string Headline(List<CylinderChange> changes, bool sure)
    {
        var changed = changes.Where(c => c.IsMoreThanChance).OrderByDescending(c => Math.Abs(c.ChangePercent)).ToList();
        if (changed.Count == 0)
        {
            return sure ? "No cylinder changed by more than chance" : "Not sure enough to say that a cylinder changed";
        }
        return Text($"Cylinder {string.Join(", ", changed.Select(c => Text($"{c.Cylinder} {(c.ChangePercent > 0 ? "rose" : "fell")} from {c.BeforePercent:0} to {c.AfterPercent:0} %")))}: more than chance");
    }

    private static IEnumerable<string> NotesOn(ComparedCapture before, ComparedCapture after, IReadOnlyDictionary<int, RelativeSlot> was, IReadOnlyDictionary<int, RelativeSlot> isNow, bool sure)
    {
        yield return "Each capture is against its own best cylinder. What changed all cylinders alike does not show here: a gauge tells it.";
        if (!sure)
        {
            yield return $"The capture {(before.Answer.Confidence == Confidence.Low ? "before" : "after")} is of low confidence, so no cylinder is called changed. Capture again as its notes say.";
        }
        var (slow, fast) = (Math.Min(before.Answer.CrankingRpm, after.Answer.CrankingRpm), Math.Max(before.Answer.CrankingRpm, after.Answer.CrankingRpm));
        if (slow > 0 && fast > OtherSpeed * slow)
        {
            yield return Text($"Cranked at {before.Answer.CrankingRpm:0} rpm before and {after.Answer.CrankingRpm:0} rpm after. The slower an engine turns, the more a leak weighs: part of a change may come from that.");
        }
        if (was.MaxBy(c => c.Value.RelativePercent).Key is var best && isNow.TryGetValue(best, out var then) && 100 - then.RelativePercent > 2 * then.StandardErrorPercent + 2)
        {
            yield return Text($"Cylinder {best} was the best before and is at {then.RelativePercent:0} % after. If that one fell, the others seem to have risen.");
        }
        foreach (var (capture, which) in new[] { (before, "before"), (after, "after") })
        {
            if (!capture.Answer.Synchronised)
            {
                yield return $"In the capture {which} the gauge readings of its job name the humps; no sync lead does.";
            }
        }
    }

    private static string Text(FormattableString text) => FormattableString.Invariant(text);
}
