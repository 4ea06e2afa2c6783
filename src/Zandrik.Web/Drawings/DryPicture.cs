using Zandrik.Core.Compression;
using Zandrik.Core.Engines;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Web.Drawings;

/// <summary>Turns a judged dry test into the picture of its cylinders.</summary>
public static class DryPicture
{
    /// <summary>The picture.</summary>
    /// <param name="engine">The engine.</param>
    /// <param name="test">The test.</param>
    /// <param name="judged">The test, judged.</param>
    /// <param name="unit">The unit of its figures.</param>
    /// <param name="selected">The cylinder that is chosen; absent for none.</param>
    /// <param name="link">Where a cylinder leads; absent for nowhere.</param>
    /// <param name="ghost">A test that stands behind it; absent for none.</param>
    /// <param name="states">The states of the cylinders where more than this test is known of them; absent for what the test says.</param>
    public static ColumnsPicture Of(
        EngineSheet engine, DryCompressionTest test, DryJudgement judged, PressureUnit unit, int? selected = null, Func<int, string>? link = null, DryJudgement? ghost = null, IReadOnlyList<CylinderState>? states = null)
    {
        CylinderState State(CylinderFinding c) => states?[c.Cylinder - 1] ?? c.State;
        var testUnit = RecordRules.UnitOf(test.Unit, engine);
        var rules = JudgingRules.For(engine);
        var pulses = (test.Readings ?? []).Where(r => r.FirstPulse is not null && r.SupersededBy is null)
            .ToDictionary(r => r.Cylinder, r => new GaugePressure(r.FirstPulse!.Value, testUnit).Pascals);
        var glasses = judged.Cylinders.ToDictionary(c => c.Cylinder, c => new Glass(
            State(c),
            c.LevelPa,
            c.Value?.Text(unit) ?? "",
            $"Cylinder {c.Cylinder} {(c.Value is { } v ? $"{v.Text(unit)} {(c.InQuestion ? "? " : "")}{unit.Symbol()}, " : "")}{(c.InQuestion ? "unit in question" : states is null ? StateLook.Word(c) : StateLook.Word(State(c)))}",
            pulses.TryGetValue(c.Cylinder, out var pulse) ? pulse : null,
            c.InQuestion,
            ghost?.Cylinders.ElementAtOrDefault(c.Cylinder - 1)?.LevelPa));
        var highest = judged.Cylinders.Concat(ghost?.Cylinders ?? []).Where(c => !c.InQuestion).Select(c => c.LevelPa ?? 0).DefaultIfEmpty(0).Max();
        // A reading that stands alone is drawn against what such an engine gives, not against itself.
        var top = Math.Max(highest, Math.Max(rules.NominalPa ?? 0, highest > 0 && judged.Measured > 1 ? 0 : ExpectedLevel.Pa(rules)));
        var lines = new List<LevelLine>();
        if (rules.NominalPa is { } nominal)
        {
            lines.Add(new LevelLine(nominal, "nominal", GaugePressure.Figure(nominal, unit), Firm: false));
        }
        if (rules.MinimumPa is { } minimum)
        {
            lines.Add(new LevelLine(minimum, "min", GaugePressure.Figure(minimum, unit), judged.Minimum?.Limits is null or AbsoluteLimits.Apply));
        }
        return new ColumnsPicture
        {
            Title = $"Cylinders as they sit, dry compression in {unit.Symbol()}",
            Banks = CylinderLayout.Of(engine).Banks,
            Glasses = glasses,
            FullScale = 1.1 * Math.Max(top, rules.MinimumPa ?? 0),
            Lines = lines,
            Band = judged is { ReferencePa: { } reference, GoodBandPa: { } good, Measured: > 1 }
                ? new SpreadBand(reference, Math.Max(0, reference - good), "good")
                : null,
            Selected = selected,
            Link = link,
        };
    }

    /// <summary>The same picture with what oil added on top.</summary>
    public static ColumnsPicture WithWet(ColumnsPicture picture, WetJudgement wet, PressureUnit unit) => picture with
    {
        Title = $"Cylinders as they sit, dry with the wet gain on top, in {unit.Symbol()}",
        Glasses = picture.Glasses.ToDictionary(g => g.Key, g => wet.Cylinders[g.Key - 1] is { Wet: { } read, IsImplausible: false }
            ? g.Value with { Wet = read.Pascals, Says = $"{g.Value.Says}, {read.Text(unit)} wet" } : g.Value),
        FullScale = Math.Max(picture.FullScale, 1.05 * wet.Cylinders.Max(c => c.Wet?.Pascals ?? 0)),
    };
}
