using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Testers;

/// <summary>The scale a job is read on, before anything was read.</summary>
public static class GaugeScale
{
    /// <summary>
    /// The unit a job starts in: what is read at the engine is read off a gauge, so where all of the shop's gauges have one
    /// scale it is that one, whatever unit the maker's figures are in; else that of the maker's figures.
    /// </summary>
    /// <param name="gauges">The shop's testers in use.</param>
    /// <param name="engine">The engine.</param>
    /// <returns>Absent where the gauges differ and the sheet names no unit: the shop's own setting then.</returns>
    public static PressureUnit? Of(IEnumerable<ShopTester> gauges, EngineSheet engine) =>
        gauges.Where(t => t.Kind == TesterKind.Gauge).Select(t => t.Unit).Distinct().ToList() is [var scale] ? scale : engine.Spec?.Unit;
}
