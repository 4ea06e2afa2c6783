namespace Zandrik.Core.Running;

/// <summary>One line that has to be ticked before an engine is run with a gauge in one of its plug holes.</summary>
/// <param name="Word">Its word, as it is stored.</param>
/// <param name="Says">What has to be so.</param>
/// <param name="EachCylinder">True for a line that is ticked anew at every cylinder.</param>
public sealed record RunningLine(string Word, string Says, bool EachCylinder)
{
    /// <summary>The lines, in the order in which they are done.</summary>
    public static IReadOnlyList<RunningLine> All { get; } =
    [
        new("place", "Exhaust led outside, park brake on, wheels chocked", false),
        new("refitted", "All the other plugs, coils and injectors back in", false),
        new("injector", "This cylinder's injector unplugged", true),
        new("spark", "Its spark led to ground or into a tester", true),
        new("clear", "Gauge hose clear of fan, belts and exhaust", true),
    ];

    /// <summary>The word under which a tick is stored: of the engine, or of one cylinder.</summary>
    /// <returns>The word; with the cylinder's number where the line is of one.</returns>
    public string ItemOf(int cylinder) => EachCylinder ? FormattableString.Invariant($"{Word}:{cylinder}") : Word;
}
