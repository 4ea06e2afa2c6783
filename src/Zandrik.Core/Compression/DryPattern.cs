using Zandrik.Core.Engines;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;

namespace Zandrik.Core.Compression;

/// <summary>What the places of the low (or high) cylinders have in common.</summary>
public enum DryPatternKind
{
    /// <summary>All read low, and alike.</summary>
    EvenLow,

    /// <summary>One cylinder alone reads low.</summary>
    OddOne,

    /// <summary>Two neighbours in a bank.</summary>
    Neighbours,

    /// <summary>The middle of the block: the hottest place.</summary>
    MiddleOfBlock,

    /// <summary>A whole bank against the others.</summary>
    WholeBank,

    /// <summary>Cylinders that share a branch of the intake.</summary>
    SharedBranch,

    /// <summary>One cylinder reads higher than the rest.</summary>
    OneHigh,
}

/// <summary>A pattern of a dry test, with what it points to. Several can hold at once; none is a verdict.</summary>
/// <param name="Kind">The pattern.</param>
/// <param name="Cylinders">The cylinders it is about; empty for all.</param>
/// <param name="Says">What it points to, in one sentence.</param>
public sealed record DryPattern(DryPatternKind Kind, IReadOnlyList<int> Cylinders, string Says)
{
    /// <summary>Finds the patterns of a judged test.</summary>
    internal static IReadOnlyList<DryPattern> Find(
        EngineSheet engine, JudgingRules rules, IReadOnlyList<CylinderFinding> cylinders, IReadOnlySet<int> repeated, bool isEven, double? referencePa,
        MinimumFinding? minimum, AbsoluteLimits limits)
    {
        var found = new List<DryPattern>();
        var measured = cylinders.Where(c => c.State != CylinderState.Untested).ToList();
        if (measured.Count < 2)
        {
            return found;
        }
        if (isEven && (measured.TrueForAll(c => c.UnderMinimum) || referencePa < 0.9 * rules.NominalPa))
        {
            var causes = new List<string>();
            if (limits == AbsoluteLimits.Withheld)
            {
                causes.Add("the error in this test");
            }
            else
            {
                causes.AddRange(rules.IsThrottled ? ["a throttle plate not open", "slow cranking", "the gauge"] : ["slow cranking", "the gauge"]);
            }
            if (limits == AbsoluteLimits.Indicative)
            {
                causes.Add("the cold engine");
            }
            causes.AddRange(["cam timing", "wear all round"]);
            found.Add(new DryPattern(DryPatternKind.EvenLow, [], $"All low and alike. In this order: {string.Join(", ", causes)}."));
        }
        var high = measured.Where(c => c.State == CylinderState.High).Select(c => c.Cylinder).ToList();
        if (high.Count == 1)
        {
            found.Add(new DryPattern(DryPatternKind.OneHigh, high, $"Cylinder {high[0]} alone reads high: carbon, oil or liquid in it, or a changed part. The others are not low because of it."));
        }
        var bad = measured.Where(c => c.State is CylinderState.Low or CylinderState.Dead).Select(c => c.Cylinder).ToList();
        if (bad.Count == 0)
        {
            bad = [.. measured.Where(c => c.State == CylinderState.Watch).Select(c => c.Cylinder)];
        }
        if (bad.Count == 0 || bad.Count == measured.Count)
        {
            return found;
        }
        if (bad.Count == 1)
        {
            found.Add(new DryPattern(DryPatternKind.OddOne, bad, repeated.Contains(bad[0])
                ? $"Cylinder {bad[0]} alone, and it repeats: leak-down tells which way it loses."
                : $"Cylinder {bad[0]} alone: repeat it, then leak-down tells which way it loses."));
            return found;
        }
        var layout = CylinderLayout.Of(engine);
        var banks = layout.Banks;
        if (banks.Count > 1 && banks.FirstOrDefault(b => b.Count > 1 && b.Where(IsMeasured).ToHashSet().SetEquals(bad)) is { } bank)
        {
            found.Add(new DryPattern(DryPatternKind.WholeBank, bad, $"All of one bank ({CylinderList.Sentence([.. bank])}): cam timing of that bank before anything in its cylinders."));
            return found;
        }
        if (engine.IntakeBranches?.FirstOrDefault(b => b.Count > 1 && b.ToHashSet().SetEquals(bad)) is { })
        {
            found.Add(new DryPattern(DryPatternKind.SharedBranch, bad, $"{CylinderList.Sentence(bad)} share a branch of the intake: mixture or fuel wash there, rather than the gasket."));
        }
        else if (bad.Count == 2 && layout.AreNeighbours(bad[0], bad[1]))
        {
            found.Add(new DryPattern(DryPatternKind.Neighbours, bad, $"{CylinderList.Sentence(bad)} are neighbours: the head gasket between them is the first thing to rule out."));
        }
        if (banks.FirstOrDefault(b => b.Count >= 4 && bad.TrueForAll(b.Contains) && !bad.Contains(b[0]) && !bad.Contains(b[^1]) && AreTogether(b, bad)) is { })
        {
            found.Add(new DryPattern(DryPatternKind.MiddleOfBlock, bad, $"{CylinderList.Sentence(bad)} sit in the middle of the block, where it runs hottest: warp and gasket."));
        }
        return found;

        bool IsMeasured(int c) => cylinders[c - 1].State != CylinderState.Untested;
    }

    private static bool AreTogether(IReadOnlyList<int> bank, List<int> which)
    {
        var places = which.Select(c => bank.ToList().IndexOf(c)).Order().ToList();
        return places[^1] - places[0] == places.Count - 1;
    }
}
