using Zandrik.Core.Physics;

namespace Zandrik.Core.Simulation;

/// <summary>
/// Engines as they come into a workshop, drawn about the invented ones: other bores, strokes, ratios, cams and starters, and cylinders that were not built quite alike. What is estimated from
/// many of them does not hang on one.
/// </summary>
public static class EngineFamily
{
    private static readonly SimulatedEngine[] Petrol = [.. SimulatedEngine.All.Where(e => !e.IsDiesel)], Diesel = [.. SimulatedEngine.All.Where(e => e.IsDiesel)];

    /// <summary>An engine. Sizes within about a tenth, ratios half a point (diesel one), valves four degrees, leaks a fifth, starters a tenth of the one it is drawn about.</summary>
    /// <param name="draw">What draws.</param>
    /// <param name="diesel">True for a diesel.</param>
    /// <returns>The engine.</returns>
    public static SimulatedEngine Draw(SeededDraw draw, bool diesel)
    {
        var e = draw.Pick(diesel ? Diesel : Petrol);
        var (bore, stroke) = (draw.Factor(0.05), draw.Factor(0.05));
        var (opens, closes) = (4 * draw.Normal(), 4 * draw.Normal());
        var ratio = e.CompressionRatio + (diesel ? 1.0 : 0.5) * draw.Normal();
        var t = e.Timing;
        var drawn = e with
        {
            BoreM = e.BoreM * bore,
            StrokeM = e.StrokeM * stroke,
            RodM = e.RodM * stroke,
            CompressionRatio = Math.Max(diesel ? 15 : 8, ratio),
            Timing = t with { IntakeOpens = t.IntakeOpens + opens, IntakeCloses = t.IntakeCloses + closes },
            IntakeAreaM2 = e.IntakeAreaM2 * bore * bore,
            ExhaustAreaM2 = e.ExhaustAreaM2 * bore * bore,
            RingLeakM2 = e.RingLeakM2 * draw.Factor(0.2),
            ValveLeakM2 = e.ValveLeakM2 * draw.Factor(0.2),
            MotorConstantVs = e.MotorConstantVs * draw.Factor(0.1),
            MotorOhm = e.MotorOhm * draw.Factor(0.1),
            FrictionNm = e.FrictionNm * draw.Factor(0.15),
        };
        return drawn with { OrificeMm = LeakFlow.StandardRestrictionMm(drawn.SweptM3 * 1e6) };
    }

    /// <summary>A sound cylinder as it was built: rings a quarter, valves two fifths, the chamber one in a hundred off what was meant.</summary>
    /// <param name="engine">The engine.</param>
    /// <param name="draw">What draws.</param>
    /// <returns>The cylinder.</returns>
    public static CylinderCondition Built(SimulatedEngine engine, SeededDraw draw) =>
        new() { RingFactor = draw.Factor(0.25), ValveFactor = draw.Factor(0.4), VolumeM3 = 0.01 * draw.Normal() * engine.ClearanceM3 };
}
