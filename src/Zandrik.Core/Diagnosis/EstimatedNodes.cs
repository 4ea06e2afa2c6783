using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>
/// Lays what was estimated over what stands by hand, each half believed: the mean lies between the two, the spread is the looser of both and reaches to either mean, so that where they differ a reading
/// weighs less than by either alone. What the model has no equation for stays by hand: what oil does over a holed crown, slips of the test, two leaks at once.
/// </summary>
internal static class EstimatedNodes
{
    /// <summary>All nodes a cylinder can be at by itself.</summary>
    /// <param name="byHand">As <see cref="SeverityNodes.ByHand"/> has them.</param>
    /// <param name="at">The setting.</param>
    /// <returns>As many, in the same order.</returns>
    public static IReadOnlyList<SeverityNode> Over(IReadOnlyList<SeverityNode> byHand, NodeSetting at)
    {
        var nodes = new SeverityNode[byHand.Count];
        var place = 0;
        for (var k = 0; k < nodes.Length; k++)
        {
            place = k > 0 && byHand[k - 1].Fault == byHand[k].Fault ? place + (byHand[k - 1].Paired ? 0 : 1) : 0;
            nodes[k] = byHand[k].Paired || byHand[k].Fault is Fault.Sound or Fault.TestError ? byHand[k] : At(byHand[k], at, place);
        }
        return nodes;
    }

    /// <summary>A cylinder with burnt webs beside it: two let by as much as one of both areas.</summary>
    /// <param name="byHand">As it stands by hand.</param>
    /// <param name="at">The setting.</param>
    /// <returns>The node; the same where both webs are whole.</returns>
    public static SeverityNode OverWeb(SeverityNode byHand, NodeSetting at)
    {
        var area = byHand.Front + byHand.Behind;
        if (area <= 0)
        {
            return byHand;
        }
        var areas = SeverityNodes.WebAreas;
        return At(byHand, at, Math.Min(areas.Count - 0.5, Math.Log(area / areas[0]) / Math.Log(areas[1] / areas[0])));
    }

    private static SeverityNode At(SeverityNode hand, NodeSetting at, double place)
    {
        (double Mean, double Spread) Of(EstimatedFinding finding, double mean, double spread)
        {
            if (at.Estimates.Of(hand.Fault, at.Diesel, finding) is not { } curve)
            {
                return (mean, spread);
            }
            var estimate = curve.At(place);
            // What oil brings grows with the share of the leak that it closes.
            var (scale, offset) = finding == EstimatedFinding.Wet ? (1 - at.OilLeft, at.SoundGain) : (1, 0);
            var found = (Mean: offset + scale * estimate.Mean, Spread: scale * estimate.Spread);
            var (looser, apart) = (Math.Max(spread, found.Spread), (found.Mean - mean) / 2);
            return (mean + apart, Math.Sqrt(looser * looser + apart * apart));
        }
        var dry = Of(EstimatedFinding.Dry, hand.Dry, hand.DrySpread);
        var wet = hand.Fault == Fault.Piston ? (Mean: hand.Wet, Spread: hand.WetSpread) : Of(EstimatedFinding.Wet, hand.Wet, hand.WetSpread);
        // Of these the usual spread of a reading stands in the table: only what goes beyond it stands here.
        var (idle, snap, relative) = (Of(EstimatedFinding.Idle, hand.Idle, 0), Of(EstimatedFinding.Snap, hand.Snap, 0), Of(EstimatedFinding.Relative, hand.Relative, 0));
        return hand with
        {
            Dry = Math.Max(SeverityNodes.LowestDry, dry.Mean),
            DrySpread = dry.Spread,
            Wet = wet.Mean,
            WetSpread = wet.Spread,
            Idle = idle.Mean,
            IdleSpread = idle.Spread,
            Snap = snap.Mean,
            SnapSpread = snap.Spread,
            Relative = Math.Max(SeverityNodes.LowestDry, relative.Mean),
            RelativeSpread = relative.Spread,
        };
    }
}
