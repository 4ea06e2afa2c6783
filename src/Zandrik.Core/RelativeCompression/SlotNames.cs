using Zandrik.Core.Compression;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;

namespace Zandrik.Core.RelativeCompression;

/// <summary>One way the slots of a capture without sync may belong to cylinders.</summary>
/// <param name="CylinderOfSlot">The cylinder of each slot.</param>
/// <param name="Likelihood">How likely it is against the other ways, 0 to 1; all together 1.</param>
public sealed record SlotCandidate(IReadOnlyList<int> CylinderOfSlot, double Likelihood);

/// <summary>Which cylinder a slot is, where no sync channel tells: by the one whose plug was out, or by how well the gauge readings fit.</summary>
public static class SlotNames
{
    // A gauge and a starter see one and the same engine to within about so many percent points; against what the maker's figure lets expect, a lone reading sees it to within so many.
    private const double GaugeScatter = 8;
    private const double LoneScatter = 12;

    /// <summary>Letters for slots that are not known to be cylinders, so that nobody takes them for cylinder numbers.</summary>
    /// <param name="slot">The slot, from 1.</param>
    /// <returns>A capital letter for slots 1 to 26; an engine has 16 at most.</returns>
    public static string Letter(int slot) => ((char)('A' + slot - 1)).ToString();

    /// <summary>Names the slots by the cylinder whose plug was out: exactly one slot must hardly pump.</summary>
    /// <param name="slots">The slots, without cylinders.</param>
    /// <param name="order">The firing order.</param>
    /// <param name="unplugged">The cylinder whose plug was out.</param>
    /// <returns>The slots with their cylinders; absent when it does not show which it was.</returns>
    public static IReadOnlyList<RelativeSlot>? ByUnplugged(IReadOnlyList<RelativeSlot> slots, IReadOnlyList<int> order, int unplugged)
    {
        var weakest = slots.MinBy(s => s.RelativePercent)!;
        var others = slots.Where(s => s != weakest).Min(s => s.RelativePercent - s.StandardErrorPercent);
        if (weakest.RelativePercent + weakest.StandardErrorPercent >= RelativeAnalysis.DeadPercent || others < weakest.RelativePercent + 15)
        {
            return null;
        }
        var n = order.Count;
        var first = order.ToList().IndexOf(unplugged);
        return [.. slots.Select(s => s with { Cylinder = order[((first + s.Slot - weakest.Slot) % n + n) % n] })];
    }

    /// <summary>What a gauge read of each cylinder against the best of them, percent. A lone reading under the maker's minimum is taken against what a sound cylinder should read.</summary>
    /// <param name="dry">The judged dry test; absent without one.</param>
    /// <param name="engine">The engine, for what a sound cylinder should read.</param>
    /// <returns>Percent, by cylinder; empty without a reading that counts, and for a lone one that is not low by a maker's figure.</returns>
    public static IReadOnlyDictionary<int, double> GaugeOf(DryJudgement? dry, EngineSheet engine)
    {
        var read = (dry?.Cylinders ?? []).Where(c => c is { InQuestion: false, LevelPa: > 0 }).ToDictionary(c => c.Cylinder, c => c.LevelPa!.Value);
        var rules = JudgingRules.For(engine);
        return read.Count > 1 ? read.ToDictionary(c => c.Key, c => 100 * c.Value / read.Values.Max())
            : read.Count == 1 && rules.MinimumPa is { } minimum && read.Values.Single() < minimum ? read.ToDictionary(c => c.Key, c => 100 * c.Value / ExpectedLevel.Pa(rules))
            : new Dictionary<int, double>();
    }

    /// <summary>Every way round the firing order, the most likely first. All alike where nothing else was measured.</summary>
    /// <param name="slots">The slots.</param>
    /// <param name="order">The firing order; slot 1 may be any of it.</param>
    /// <param name="gauge">What a gauge read of cylinders against the best of them, percent (<see cref="GaugeOf"/>); empty for nothing.</param>
    /// <returns>As many as the engine has cylinders; their likelihoods are 1 together.</returns>
    public static IReadOnlyList<SlotCandidate> Candidates(IReadOnlyList<RelativeSlot> slots, IReadOnlyList<int> order, IReadOnlyDictionary<int, double> gauge)
    {
        var n = order.Count;
        var scatter = gauge.Count == 1 ? LoneScatter : GaugeScatter;
        var ways = Enumerable.Range(0, n).Select(k => slots.Select(s => order[(k + s.Slot - 1) % n]).ToArray()).ToList();
        var misfits = ways.Select(way => way.Select((c, i) => gauge.TryGetValue(c, out var read)
            ? Math.Pow(read - slots[i].RelativePercent, 2) / (scatter * scatter + Math.Pow(slots[i].StandardErrorPercent, 2)) : 0).Sum()).ToList();
        var least = misfits.Min();
        var weights = misfits.Select(m => Math.Exp((least - m) / 2)).ToList();
        return [.. ways.Zip(weights, (way, w) => new SlotCandidate(way, w / weights.Sum())).OrderByDescending(c => c.Likelihood)];
    }
}
