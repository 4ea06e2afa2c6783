using System.Globalization;
using Zandrik.Core.Compression;
using Zandrik.Core.Engines;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;

namespace Zandrik.Web.Drawings;

/// <summary>Leak-down states in the look that every state has: texture, mark, word and colour agree.</summary>
public static class LeakLook
{
    /// <summary>The state whose look it has.</summary>
    public static CylinderState State(LeakState state) => state switch
    {
        LeakState.Good => CylinderState.Sound,
        LeakState.Watch => CylinderState.Watch,
        LeakState.Bad => CylinderState.Low,
        _ => CylinderState.Untested,
    };

    /// <summary>The word.</summary>
    public static string Word(LeakState state) => state switch
    {
        LeakState.Good => "good",
        LeakState.Watch => "watch",
        LeakState.Bad => "bad",
        LeakState.NotUsed => "not used",
        _ => "not read",
    };

    /// <summary>Cylinders as they sit, the level of each the air it holds.</summary>
    public static ColumnsPicture Picture(EngineSheet engine, LeakDownJudgement judged, int? selected = null, Func<int, string>? link = null) => new()
    {
        Title = "Cylinders as they sit, held air in percent of the supply",
        Banks = CylinderLayout.Of(engine).Banks,
        Glasses = judged.Cylinders.ToDictionary(c => c.Cylinder, c => new Glass(
            State(c.State), c is { ComparablePercent: { } lost, Doubt: null } ? 100 - lost : null,
            c.Percent is { } p ? Percent(p) : "",
            $"Cylinder {c.Cylinder} {(c.Percent is { } loss ? $"{Percent(loss)} lost, " : "")}{Word(c.State)}{(c.Air.Places.Count > 0 ? ", heard: " + c.Air.Says : "")}",
            InQuestion: c.Doubt is not null)),
        FullScale = 100,
        Lines = [new LevelLine(100 - judged.Limits.Good, "good", $"{judged.Limits.Good.ToString("0.#", CultureInfo.CurrentCulture)} %", true), new LevelLine(100 - judged.Limits.Watch, "watch", $"{judged.Limits.Watch.ToString("0.#", CultureInfo.CurrentCulture)} %", true)],
        Selected = selected,
        Link = link,
    };

    private static string Percent(double p) => p.ToString("0", CultureInfo.CurrentCulture) + " %";

    /// <summary>The class that colours it.</summary>
    public static string Class(LeakState state) => StateLook.Class(State(state));
}
