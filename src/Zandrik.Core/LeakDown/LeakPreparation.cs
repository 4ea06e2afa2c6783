using Zandrik.Core.Preparation;
using Zandrik.Core.Records;

namespace Zandrik.Core.LeakDown;

/// <summary>
/// What is opened for a leak-down beyond the preparation for cranking, so that air that gets out can be heard where
/// it gets out. A place that was not opened was not listened at.
/// </summary>
public static class LeakPreparation
{
    /// <summary>The lines, in the order in which they are done.</summary>
    /// <returns>The lines; never empty.</returns>
    public static IReadOnlyList<PreparationLine> For(EngineSheet engine)
    {
        var lines = new List<PreparationLine>
        {
            new(PreparationItem.Warm, "Engine warm", [], false, "Hot engine: gloves."),
            new(PreparationItem.Plugs, engine.Fuel == Fuel.Diesel ? "All glow plugs out: neighbours can be heard, the crank turns" : "All plugs out: neighbours can be heard, the crank turns", [], false),
        };
        if (engine.Fuel != Fuel.Diesel && engine.Throttle != ThrottleControl.None)
        {
            lines.Add(new(PreparationItem.Throttle, "Throttle open", [], false));
        }
        lines.Add(new(PreparationItem.AirPath, "Air box or intake hose off", [], false));
        lines.Add(new(PreparationItem.OilFiller, "Oil filler and dipstick off", [], false));
        lines.Add(new(PreparationItem.CoolantCap, "Coolant cap off, opened cold", [], true, "Opened hot it scalds. If the engine is warm already, leave it shut: bubbles are then not listened for."));
        return lines;
    }

    /// <summary>The lines that open a place and are not ticked; none where the list was not begun at all, as then nobody said what is open.</summary>
    /// <param name="engine">The engine.</param>
    /// <param name="ticked">Words of the lines that are ticked.</param>
    /// <returns>The lines; empty where all are open, and where nobody began.</returns>
    public static IReadOnlyList<PreparationItem> NotOpened(EngineSheet engine, IReadOnlyCollection<string> ticked) => ticked.Count == 0 ? []
        : [.. For(engine).Select(l => l.Item).Where(i => Opens(i) is not null && !ticked.Contains(RecordWords.Of(i)))];

    /// <summary>The place that is listened at where a line is opened; absent for a line that opens none.</summary>
    /// <returns>The place; null for a line that opens none.</returns>
    public static ListeningPlace? Opens(PreparationItem item) => item switch
    {
        PreparationItem.AirPath => ListeningPlace.Intake,
        PreparationItem.OilFiller => ListeningPlace.OilFiller,
        PreparationItem.CoolantCap => ListeningPlace.Coolant,
        _ => null,
    };
}
