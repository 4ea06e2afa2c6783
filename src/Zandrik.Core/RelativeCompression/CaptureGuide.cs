using Zandrik.Core.Records;

namespace Zandrik.Core.RelativeCompression;

/// <summary>One line of what is done before a capture.</summary>
/// <param name="Word">Its word.</param>
/// <param name="Says">What to do.</param>
/// <param name="Guards">True for a line that keeps somebody from being hurt.</param>
public sealed record CaptureLine(string Word, string Says, bool Guards = false);

/// <summary>How a capture of starter current is taken, so that it can be judged: what to clamp, set, disable and keep clear of. Rules of the trade; the makers of engine and clamp come first.</summary>
public static class CaptureGuide
{
    /// <summary>The lines, in the order they are done.</summary>
    /// <param name="engine">The engine.</param>
    /// <returns>The lines; never empty.</returns>
    public static IReadOnlyList<CaptureLine> For(EngineSheet engine)
    {
        var diesel = engine.Fuel == Fuel.Diesel;
        return
        [
            new("cannot-start", diesel ? "Injection off, as the maker says: it must not fire" : "Fuel off and spark disabled safely, as the maker says: it must not fire", Guards: true),
            new("held", engine.Gearbox == Gearbox.Automatic ? "Selector in park, brake on, wheels chocked" : "Out of gear, brake on, wheels chocked", Guards: true),
            new("clear", "Leads clear of fan and belts, instrument unable to slide, nobody near them", Guards: true),
            new("shut", "Clamp round one battery cable only, jaws fully shut"),
            new("arrow", "Its arrow the way the clamp's maker says"),
            new("zeroed", "Zeroed there, with nothing switched on"),
            new("range", diesel ? "Range above the first surge: it settles at 200 to 300 A and more, the surge is three to five times that" : "Range above the first surge: it settles at 80 to 200 A, the surge is three to five times that"),
            new("sync", $"Second lead on cylinder 1: {(diesel ? "its injector lead" : "its injector lead, or its coil's trigger: then ignition stays on, so lead each spark to ground through a tester, never into the air")}. Without it only the order of the humps is known"),
            new("charged", "Battery charged: the speed must not fall while it cranks"),
            new("sweep", "Record first: a tenth of the sweep quiet, then crank until it has settled and two seconds more, four to five in all"),
        ];
    }

    /// <summary>What a good trace looks like.</summary>
    public const string GoodTrace = "Quiet line, one surge, then even humps for two seconds or more, and quiet again. The tops stay inside the range.";

    /// <summary>What never follows from a capture alone.</summary>
    public const string NoParts = "Fit no ignition or fuel parts until compression is understood.";

    /// <summary>What a capture cannot show.</summary>
    public const string EvenlyWorn = "An engine worn evenly reads 100 everywhere: confirm with a gauge.";
}
