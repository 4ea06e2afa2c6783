using Zandrik.Core.Records;

namespace Zandrik.Core.LeakDown;

/// <summary>How escaping air is found at each place: by ear, hose, glove or bubbles. Rules of the trade (domain.md, section on leak-down).</summary>
public static class ListeningMethods
{
    /// <summary>The places of an engine and how each is listened at.</summary>
    /// <param name="engine">The engine.</param>
    /// <returns>Place and method, in the order in which they are gone round; never empty.</returns>
    public static IReadOnlyList<(string Place, string How)> For(EngineSheet engine)
    {
        var places = new List<(string, string)>
        {
            ("Intake", engine.Fuel == Fuel.Diesel || engine.Throttle == ThrottleControl.None
                ? "intake hose off; a length of hose with one end at the ear, the other in the manifold."
                : "throttle open; a length of hose with one end at the ear, the other in the throttle body."),
            ("Exhaust", "hose in the tail pipe, or a glove pulled over it: it fills."),
            ("Oil filler", "cap off and a glove over the neck, or the hose at the dipstick tube. A little is normal: every ring set passes some."),
        };
        if (engine.Cylinders > 1)
        {
            places.Add(("Plug holes", "a strip of tissue over the hole, or soapy water round it: the neighbour that blows shares the gasket, or the same manifold."));
        }
        places.Add(("Coolant", "cold engine, cap off, filled to the neck: bubbles. Soapy water at hose ends and core plugs. Never opened hot."));
        return places;
    }
}
