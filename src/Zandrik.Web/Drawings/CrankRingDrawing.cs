using System.Globalization;
using System.Text;
using Microsoft.AspNetCore.Html;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;

namespace Zandrik.Web.Drawings;

/// <summary>
/// Two turns of the crank as one ring: the cylinders where they fire, the crank where it is now, and the way to the
/// next. The ring runs as the engine does, seen from its front: an anticlockwise engine's runs anticlockwise.
/// Every way there is from here lies in the drawing, so that choosing another cylinder only shows another one.
/// </summary>
public static class CrankRingDrawing
{
    private const double Middle = 170, Radius = 116, Outside = 162;

    /// <summary>The drawing.</summary>
    /// <param name="schedule">The engine's schedule.</param>
    /// <param name="at">The cylinder the crank is at; absent before it is known.</param>
    /// <param name="to">The cylinder it is turned to next; absent for none.</param>
    /// <param name="beside">A few characters beside each cylinder that is done, as in "11 %".</param>
    public static HtmlString Draw(CrankSchedule schedule, int? at, int? to, IReadOnlyDictionary<int, string> beside)
    {
        var svg = new StringBuilder(4096);
        var says = at is { } here ? to is { } there ? schedule.Says(here, there) : $"The crank is at cylinder {here}." : "It is not said yet where the crank is.";
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"crank-ring\" viewBox=\"-20 0 380 340\" role=\"img\" aria-label=\"{Named(schedule, says, beside)}\">");
        svg.Append(CultureInfo.InvariantCulture, $"<circle class=\"ring\" cx=\"{Middle}\" cy=\"{Middle}\" r=\"{Radius}\"/>");
        if (at is { } now)
        {
            // The throw lies under the words, which cut it where they cross.
            var (px, py) = Place(schedule, schedule.AngleOf(now), Radius - 24);
            svg.Append(CultureInfo.InvariantCulture, $"<path class=\"throw\" d=\"M{Middle} {Middle}L{px:0.#} {py:0.#}\"/><circle class=\"hub\" cx=\"{Middle}\" cy=\"{Middle}\" r=\"7\"/>");
            foreach (var station in schedule.Stations.Where(s => s.Cylinder != now))
            {
                Way(svg, schedule, now, station.Cylinder, station.Cylinder == to);
            }
        }
        var size = schedule.Stations.Count > 8 ? 14 : 20;
        foreach (var station in schedule.Stations)
        {
            var (x, y) = Place(schedule, station.AngleDeg, Radius);
            var kind = station.Cylinder == at ? "now" : station.Cylinder == to ? "next" : beside.ContainsKey(station.Cylinder) ? "done" : "";
            svg.Append(CultureInfo.InvariantCulture, $"<g class=\"station {kind}\" data-station=\"{station.Cylinder}\"><circle cx=\"{x:0.#}\" cy=\"{y:0.#}\" r=\"{(station.Cylinder == at ? size + 4 : size)}\"/><text x=\"{x:0.#}\" y=\"{y + 6:0.#}\" text-anchor=\"middle\">{station.Cylinder}</text>");
            if (beside.TryGetValue(station.Cylinder, out var text))
            {
                var (tx, ty) = Place(schedule, station.AngleDeg, Outside);
                svg.Append(CultureInfo.InvariantCulture, $"<text class=\"beside\" x=\"{tx:0.#}\" y=\"{ty + 4:0.#}\" text-anchor=\"middle\">{text}</text>");
            }
            svg.Append("</g>");
        }
        svg.Append("</svg>");
        return new HtmlString(svg.ToString());
    }

    // The order it fires in, what is known of each cylinder, and where the crank is.
    private static string Named(CrankSchedule schedule, string says, IReadOnlyDictionary<int, string> beside) =>
        $"Crank ring, two turns once round: {string.Join(", ", schedule.Stations.Select(s => $"cylinder {s.Cylinder}{(beside.TryGetValue(s.Cylinder, out var known) ? $" {known}" : "")}"))}. {says}";

    private static void Way(StringBuilder svg, CrankSchedule schedule, int from, int to, bool shown)
    {
        var (start, degrees) = (schedule.AngleOf(from), schedule.Degrees(from, to));
        var (x1, y1) = Place(schedule, start, Radius);
        var (x2, y2) = Place(schedule, start + degrees, Radius);
        var (large, sweep) = (degrees > CrankSchedule.Cycle / 2 ? 1 : 0, schedule.Rotation == Rotation.Anticlockwise ? 0 : 1);
        svg.Append(CultureInfo.InvariantCulture, $"<g class=\"way{(shown ? " shown" : "")}\" data-way=\"{to}\"><path d=\"M{x1:0.#} {y1:0.#}A{Radius} {Radius} 0 {large} {sweep} {x2:0.#} {y2:0.#}\"/>");
        svg.Append(CultureInfo.InvariantCulture, $"<text class=\"degrees\" x=\"{Middle}\" y=\"{Middle - 30}\" text-anchor=\"middle\">{degrees.ToString("0.#", CultureInfo.CurrentCulture)}°</text>");
        svg.Append(CultureInfo.InvariantCulture, $"<text class=\"which-way\" x=\"{Middle}\" y=\"{Middle + 34}\" text-anchor=\"middle\">{(schedule.Rotation is { } r ? RecordWords.Of(r) : "as it runs")} to {to}</text></g>");
    }

    private static (double X, double Y) Place(CrankSchedule schedule, double angleDeg, double radius)
    {
        var turn = angleDeg / CrankSchedule.Cycle * 2 * Math.PI * (schedule.Rotation == Rotation.Anticlockwise ? -1 : 1);
        return (Middle + radius * Math.Sin(turn), Middle - radius * Math.Cos(turn));
    }
}
