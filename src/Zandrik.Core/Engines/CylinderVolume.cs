using Zandrik.Core.Records;

namespace Zandrik.Core.Engines;

/// <summary>How large a cylinder is: what oil, leaks and levels are scaled by.</summary>
public static class CylinderVolume
{
    /// <summary>Swept volume of one cylinder, cm³: from bore and stroke, else from the displacement; absent when neither is known.</summary>
    /// <returns>cm³, above 0; null when neither bore and stroke nor the displacement is known.</returns>
    public static double? SweptCc(EngineSheet engine) => engine switch
    {
        { BoreMm: { } bore, StrokeMm: { } stroke } => Math.PI / 4 * bore * bore * stroke / 1000,
        { DisplacementCc: { } whole } => whole / engine.Cylinders,
        _ => null,
    };

    /// <summary>Volume above the piston at top dead centre, cm³: swept volume over (ratio − 1); absent when either is unknown.</summary>
    /// <returns>cm³, above 0; null when ratio or swept volume is unknown.</returns>
    public static double? ClearanceCc(EngineSheet engine) =>
        SweptCc(engine) is { } swept && engine.CompressionRatio is { } ratio and > 1 ? swept / (ratio - 1) : null;
}
