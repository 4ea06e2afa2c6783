using Zandrik.Core.Engines;
using Zandrik.Core.Records;

namespace Zandrik.Core.LeakDown;

/// <summary>One way to tell the compression stroke.</summary>
/// <param name="Says">What is done, and what is then seen, heard or felt.</param>
/// <param name="Caution">What can go wrong or hurt; absent where nothing can.</param>
public sealed record StrokeWay(string Says, string? Caution = null);

/// <summary>
/// How to tell that a cylinder is at top dead centre of its compression stroke and not, one turn off, between
/// exhaust and intake. The crank is turned by hand, key out.
/// </summary>
public static class StrokeFinding
{
    /// <summary>The ways there are for a cylinder of this engine, the surest without opening anything first.</summary>
    /// <returns>The ways; never empty.</returns>
    public static IReadOnlyList<StrokeWay> For(EngineSheet engine, int cylinder)
    {
        var ways = new List<StrokeWay>
        {
            new($"Whistle on the hole of {cylinder}: it sounds while the piston comes up with both valves shut, and falls silent at the top."),
            new($"A finger beside the hole of {cylinder}, feeling the puff.", "Beside it, never in it: the edge of the piston cuts."),
            new("A soft long rod on the piston shows the top, where it stands still.", "One that cannot fall in, never wedged, and out before any air."),
        };
        if (cylinder == 1 || (CrankSchedule.Of(engine) is { } s && s.CompanionOf(1) == cylinder))
        {
            ways.Insert(2, new("The timing mark shows top dead centre, not which stroke: it comes past on both turns."));
        }
        if (engine.Lifters != Lifters.Hydraulic)
        {
            ways.Add(new($"Cover off: both rockers of {cylinder} are loose{(engine.Lifters is null ? ", on solid lifters" : "")}."));
        }
        if (CrankSchedule.Of(engine)?.CompanionOf(cylinder) is { } companion)
        {
            ways.Add(new($"Cover off: the valves of {companion}, one turn apart, overlap: its exhaust closes as its intake opens."));
        }
        ways.Add(new("Bumped with the starter only with the whistle in; then key out again, and the last of it by hand.", "Clear of fan, belts and pulleys."));
        return ways;
    }
}
