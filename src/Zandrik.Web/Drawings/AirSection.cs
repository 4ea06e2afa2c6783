using System.Globalization;
using System.Text;
using Microsoft.AspNetCore.Html;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Web.Drawings;

/// <summary>One arrow of the section: a way out for the air, as wide as its area.</summary>
/// <param name="Path">The way.</param>
/// <param name="To">The neighbour it leads to.</param>
/// <param name="Mm2">The area, mm².</param>
/// <param name="More">True where that is more than a sound cylinder lets by.</param>
public sealed record AirArrow(LeakPlace Path, int? To, double Mm2, bool More);

/// <summary>The cylinder of <see cref="ListeningSection"/> with the air that leaves it: an arrow to each way out, as wide as the root of its area, so that a hole twice as wide is drawn twice as wide.</summary>
public static class AirSection
{
    // Strokes for each mm of a round hole of that area, and the widest that still leaves the drawing to be seen.
    private const double PerMm = 9, Widest = 34, Thinnest = 2;

    /// <summary>Under this nothing is drawn, mm².</summary>
    public const double Nothing = 0.005;

    /// <summary>The drawing.</summary>
    /// <param name="engine">The engine's sheet.</param>
    /// <param name="cylinder">The cylinder.</param>
    /// <param name="arrows">The ways out.</param>
    /// <param name="second">True for the second drawing of a page.</param>
    /// <returns>SVG; its words are those of the arrows, largest first.</returns>
    public static HtmlString Draw(EngineSheet engine, int cylinder, IReadOnlyList<AirArrow> arrows, bool second = false)
    {
        var beside = Neighbours.Of(engine, cylinder);
        var drawn = arrows.Where(a => a.Mm2 >= Nothing).OrderByDescending(a => a.Mm2).ToList();
        var ground = ListeningSection.Ground(engine, cylinder, AirHeard.Of(engine, new LeakDownReading { Cylinder = cylinder }), second);
        var svg = new StringBuilder(ground.Length + 2048);
        var says = string.Join(", ", drawn.Select(a => $"{Name(a.Path, a.To)} {Area(a.Mm2)}"));
        svg.Append(CultureInfo.InvariantCulture, $"<div class=\"air-drawing\" role=\"img\" aria-label=\"Cylinder {cylinder} in section. Air goes: {says}\">{ground}");
        foreach (var a in drawn)
        {
            var (way, x, y, anchor, word) = a.Path switch
            {
                LeakPlace.Intake => ("M318 196C262 168 214 150 206 76", 196, 62, "end", "intake"),
                LeakPlace.Exhaust => ("M402 196C458 168 506 150 514 76", 524, 62, "start", "exhaust"),
                LeakPlace.Rings => ("M276 226H260V396", 250, 420, "end", "rings"),
                LeakPlace.Crown => ("M392 226V396", 404, 420, "start", "crown"),
                LeakPlace.Coolant => ("M430 226C452 226 480 232 493 284", 542, 300, "start", "coolant"),
                _ when a.To == beside.Before => ("M288 218.500H120", 6, 204, "start", $"cylinder {a.To}"),
                _ => ("M432 218.500H600", 714, 204, "end", $"cylinder {a.To}"),
            };
            var width = Math.Clamp(PerMm * 2 * Math.Sqrt(a.Mm2 / Math.PI), Thinnest, Widest);
            svg.Append(CultureInfo.InvariantCulture, $"<g class=\"air-way{(a.More ? " more" : "")}\" data-way=\"{RecordWords.Of(a.Path)}\"><path d=\"{way}\" stroke-width=\"{width:0.#}\"/>{Head(a, beside, width)}<text x=\"{x}\" y=\"{y}\" text-anchor=\"{anchor}\">{word} <tspan>{Area(a.Mm2)}</tspan></text></g>");
        }
        return new HtmlString(svg.Append("</svg></div>").ToString());
    }

    // The point of an arrow, at the end of its way, a little wider than it.
    private static string Head(AirArrow a, Neighbours beside, double width)
    {
        var (x, y, dx, dy) = a.Path switch
        {
            LeakPlace.Intake => (206, 76, -0.1, -1.0),
            LeakPlace.Exhaust => (514, 76, 0.1, -1.0),
            LeakPlace.Rings => (260, 396, 0.0, 1.0),
            LeakPlace.Crown => (392, 396, 0.0, 1.0),
            LeakPlace.Coolant => (493, 284, 0.25, 1.0),
            _ => a.To == beside.Before ? (120, 218, -1.0, 0.0) : (600, 218, 1.0, 0.0),
        };
        var (half, length) = (width / 2 + 5, width / 2 + 9);
        return string.Create(CultureInfo.InvariantCulture, $"<path class=\"tip\" d=\"M{x - dy * half:0.#} {y + dx * half:0.#}L{x + dx * length:0.#} {y + dy * length:0.#}L{x + dy * half:0.#} {y - dx * half:0.#}Z\"/>");
    }

    /// <summary>What a way is called.</summary>
    public static string Name(LeakPlace path, int? to) => path switch
    {
        LeakPlace.Rings => "past the rings",
        LeakPlace.Crown => "through the piston",
        LeakPlace.Intake => "by the intake valve",
        LeakPlace.Exhaust => "by the exhaust valve",
        LeakPlace.Coolant => "into the coolant",
        _ => $"to cylinder {to}",
    };

    /// <summary>An area as it is read out: two digits that count.</summary>
    public static string Area(double mm2) => mm2 < Nothing ? "none" : Figure(mm2) + " mm²";

    /// <summary>The same where the unit stands above.</summary>
    public static string Figure(double mm2) => mm2 < Nothing ? "none" : mm2.ToString(mm2 < 1 ? "0.00" : mm2 < 10 ? "0.0" : "0", CultureInfo.CurrentCulture);

    /// <summary>What an area lies between.</summary>
    public static string Between(double low, double high) => high < Nothing ? "none" : $"{(low < Nothing ? "0" : Figure(low))} – {Figure(high)}";
}
