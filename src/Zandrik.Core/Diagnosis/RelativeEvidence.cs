using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Core.Diagnosis;

/// <summary>Relative compression of a cylinder.</summary>
/// <param name="Ln">ln of its percent over those of the better half.</param>
/// <param name="ErrorPercent">Standard error, percent points.</param>
/// <param name="Percent">The percent themselves; the mean of all humps where those were not told apart.</param>
/// <param name="LowestHump">The lowest hump of an even capture without sync, percent: it may be any cylinder; absent where the cylinder is known.</param>
public sealed record RelativeEvidence(double Ln, double ErrorPercent, double Percent, double? LowestHump = null)
{
    // From here on a way round the firing order is taken for the right one.
    private const double SureWay = 0.9;

    /// <summary>What a capture says of cylinders.</summary>
    /// <param name="test">The capture that counts.</param>
    /// <param name="record">Its job.</param>
    /// <param name="dry">The judged dry test, which tells humps apart where nothing else does; absent without one.</param>
    /// <returns>Cylinders, from 1, with what is known of them; empty where nothing says which hump is which.</returns>
    public static IEnumerable<(int Cylinder, RelativeEvidence Relative)> Of(RelativeCompressionTest test, TestRecord record, DryJudgement? dry)
    {
        var read = (test.Readings ?? []).Where(r => r.SupersededBy is null && r.RelativePercent is not null).ToList();
        if (read.Count > 0)
        {
            var sound = Sound(read.Select(r => r.RelativePercent!.Value));
            return read.Select(r => (r.Cylinder, Against(sound, r.RelativePercent!.Value, r.StandardErrorPercent ?? RelativeHeadline.UsualErrorPercent)));
        }
        return test.Slots is { } slots && slots.Count == record.Engine.Cylinders ? OfSlots(slots, record, dry) : [];
    }

    // Percent of the best hump: the best of several is a little better than a sound one by luck alone, so the better half is what is sound.
    private static double Sound(IEnumerable<double> percents) => percents.OrderDescending().ToArray() is { Length: >= 3 } several ? SoundReference.Of(several, null).Pa ?? 100 : 100;

    private static RelativeEvidence Against(double sound, double percent, double error) => new(Math.Max(SeverityNodes.LowestDry, Math.Log(Math.Max(percent, 1) / Math.Max(sound, 1))), error, percent);

    // Even humps are as high whichever cylinder they are. Where some are low, only a gauge says which: the way round the firing order that fits it counts, where no other fits as well.
    private static IEnumerable<(int Cylinder, RelativeEvidence Relative)> OfSlots(IReadOnlyList<RelativeSlotReading> slots, TestRecord record, DryJudgement? dry)
    {
        var limit = CaptureQuestion.LimitOf(record.JudgeBy);
        double Error(RelativeSlotReading s) => s.StandardErrorPercent ?? RelativeHeadline.UsualErrorPercent;
        var sound = Sound(slots.Select(s => s.RelativePercent));
        if (slots.All(s => RelativeHeadline.VerdictOf(s, limit) == RelativeVerdict.Even))
        {
            var mean = slots.Average(s => s.RelativePercent);
            var error = Math.Sqrt(slots.Average(s => Error(s) * Error(s) + (s.RelativePercent - mean) * (s.RelativePercent - mean)));
            var any = Against(sound, mean, error) with { LowestHump = slots.Min(s => s.RelativePercent) };
            return Enumerable.Range(1, slots.Count).Select(c => (c, any));
        }
        var gauge = SlotNames.GaugeOf(dry, record.Engine);
        if (record.Engine.FiringOrder is not { } order || gauge.Count == 0)
        {
            return [];
        }
        var best = SlotNames.Candidates([.. slots.OrderBy(s => s.Slot).Select(s => new RelativeSlot(s.Slot, null, s.RelativePercent, Error(s), RelativeHeadline.VerdictOf(s, limit), 0, 0))], order, gauge)[0];
        return best.Likelihood < SureWay ? [] : slots.Select(s => (best.CylinderOfSlot[s.Slot - 1], Against(sound, s.RelativePercent, Error(s))));
    }
}
