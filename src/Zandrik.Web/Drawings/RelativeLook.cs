using System.Globalization;
using Zandrik.Core.Compression;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Web.Drawings;

/// <summary>How relative compression looks: the state of a cylinder, its name, and the picture of all of them.</summary>
public static class RelativeLook
{
    /// <summary>The state whose texture, mark and word a verdict has; a cylinder without its plug has none.</summary>
    public static CylinderState State(RelativeAnswer answer, RelativeSlot slot) => answer.IsUnplugged(slot) ? CylinderState.Untested : State(slot.Verdict);

    /// <summary>The state whose texture, mark and word a verdict has.</summary>
    public static CylinderState State(RelativeVerdict verdict) => verdict switch
    {
        RelativeVerdict.Dead => CylinderState.Dead,
        RelativeVerdict.Low => CylinderState.Low,
        RelativeVerdict.Borderline => CylinderState.Watch,
        _ => CylinderState.Sound,
    };

    /// <summary>The word of a verdict.</summary>
    public static string Word(RelativeAnswer answer, RelativeSlot slot) => answer.IsUnplugged(slot) ? "plug out" : RecordWords.Of(slot.Verdict);

    /// <summary>A cylinder's number, or the letter of a slot that is not known to be a cylinder.</summary>
    public static string Name(RelativeSlot slot) => slot.Cylinder is { } c ? c.ToString(CultureInfo.InvariantCulture) : SlotNames.Letter(slot.Slot);

    /// <summary>Percent on the engine's cylinders as they sit, or on slots in firing order.</summary>
    public static ColumnsPicture Picture(EngineSheet engine, RelativeAnswer answer, double limitPercent)
    {
        int Key(RelativeSlot s) => answer.Synchronised ? s.Cylinder!.Value : s.Slot;
        var what = answer.Synchronised ? "Cylinder" : "Hump";
        return new ColumnsPicture
        {
            Title = answer.Synchronised ? "Cylinders as they sit, peak pressure in percent of the best" : "Humps in firing order, peak pressure in percent of the best",
            Banks = answer.Synchronised ? CylinderLayout.Of(engine).Banks : [[.. answer.Slots.Select(s => s.Slot)]],
            Glasses = answer.Slots.ToDictionary(Key, s => new Glass(
                State(answer, s), answer.IsUnplugged(s) ? null : s.RelativePercent, answer.IsUnplugged(s) ? "" : s.RelativePercent.ToString("0", CultureInfo.CurrentCulture),
                string.Create(CultureInfo.InvariantCulture, $"{what} {Name(s)} {s.RelativePercent:0} percent plus or minus {s.StandardErrorPercent:0.0}, {Word(answer, s)}"), Error: s.StandardErrorPercent)),
            FullScale = FullScale,
            Lines = Limit(limitPercent),
            Named = answer.Synchronised ? null : ("In firing order, from any cylinder", SlotNames.Letter),
        };
    }

    /// <summary>The same of a test that stands in a record without its capture.</summary>
    public static ColumnsPicture Picture(EngineSheet engine, RelativeCompressionTest test, double limitPercent)
    {
        var read = (test.Readings ?? []).Where(r => r.SupersededBy is null).GroupBy(r => r.Cylinder).ToDictionary(g => g.Key, g => g.Last());
        return new ColumnsPicture
        {
            Title = "Cylinders as they sit, peak pressure in percent of the best",
            Banks = CylinderLayout.Of(engine).Banks,
            Glasses = Enumerable.Range(1, engine.Cylinders).ToDictionary(c => c, c => read.TryGetValue(c, out var r) && r.RelativePercent is { } percent
                ? new Glass(State(RelativeHeadline.VerdictOf(r, limitPercent)), percent, percent.ToString("0", CultureInfo.CurrentCulture), string.Create(CultureInfo.InvariantCulture, $"Cylinder {c} {percent:0} percent"), Error: r.StandardErrorPercent)
                : new Glass(CylinderState.Untested, null, "", string.Create(CultureInfo.InvariantCulture, $"Cylinder {c} not measured"))),
            FullScale = FullScale,
            Lines = Limit(limitPercent),
        };
    }

    private const double FullScale = 112;

    private static LevelLine[] Limit(double percent) => [new LevelLine(percent, "limit", percent.ToString("0", CultureInfo.CurrentCulture), Firm: true)];
}
