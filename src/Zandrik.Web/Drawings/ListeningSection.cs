using System.Globalization;
using System.Text;
using Microsoft.AspNetCore.Html;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;

namespace Zandrik.Web.Drawings;

/// <summary>One place of the section that can be tapped.</summary>
/// <param name="Key">Its word, with the plug hole's cylinder after a colon.</param>
/// <param name="Name">What it is called.</param>
/// <param name="Where">Where its button stands on the drawing: intake, exhaust, before, behind, sump or jacket.</param>
/// <param name="Strength">How strongly air was heard there; absent for silent or not listened.</param>
/// <param name="Listened">True when it was listened at.</param>
public sealed record Ear(string Key, string Name, string Where, HeardStrength? Strength, bool Listened)
{
    /// <summary>The word of its state.</summary>
    public string State => Strength is { } s ? RecordWords.Of(s) : Listened ? "nothing" : "not listened";

    /// <summary>What the next tap makes of it: silent at the first, then louder, then silent again.</summary>
    public string Next => Strength switch
    {
        HeardStrength.Faint => "clear",
        HeardStrength.Clear => "strong",
        HeardStrength.Strong => "nothing",
        _ => Listened ? "faint" : "nothing",
    };
}

/// <summary>A cylinder in section: where its air can go, drawn as it sits, with a place to tap at each way out.</summary>
public static class ListeningSection
{
    /// <summary>The places of a cylinder, in the order in which the keyboard visits them.</summary>
    public static IReadOnlyList<Ear> Ears(EngineSheet engine, int cylinder, LeakDownReading? reading)
    {
        var air = AirHeard.Of(engine, reading ?? new LeakDownReading { Cylinder = cylinder });
        var neighbours = Neighbours.Of(engine, cylinder);
        bool Listened(ListeningPlace place) => reading?.Listened?.Contains(place) == true || (reading is { Listened: null } && air.ListenedEverywhere);
        Ear At(ListeningPlace place, string name, string where) => new(RecordWords.Of(place), name, where, air.At(place), Listened(place));
        Ear Hole(int c, string where) => new($"{RecordWords.Of(ListeningPlace.AdjacentPlugHole)}:{c}", $"Plug hole {c}", where, air.At(ListeningPlace.AdjacentPlugHole, c), Listened(ListeningPlace.AdjacentPlugHole));
        var ears = new List<Ear> { At(ListeningPlace.Intake, "Intake", "intake"), At(ListeningPlace.Exhaust, "Exhaust", "exhaust") };
        if (neighbours.Before is { } before)
        {
            ears.Add(Hole(before, "before"));
        }
        if (neighbours.Behind is { } behind)
        {
            ears.Add(Hole(behind, "behind"));
        }
        ears.Add(At(ListeningPlace.OilFiller, "Oil filler", "sump"));
        ears.Add(At(ListeningPlace.Coolant, "Coolant", "jacket"));
        return ears;
    }

    // The cut through the cylinder, its tag still open. The hatching is known by its name all over a page: the second drawing of one does without.
    internal static string Ground(EngineSheet engine, int cylinder, AirHeard air, bool second = false)
    {
        string Blown(int? beside) => beside is { } c && air.At(ListeningPlace.AdjacentPlugHole, c) is not null && !air.ThroughManifold.Contains(c) ? " blown" : "";
        var n = Neighbours.Of(engine, cylinder);
        var svg = new StringBuilder(4096);
        svg.Append("<svg class=\"section\" viewBox=\"0 0 720 470\" aria-hidden=\"true\">").Append(second ? "" : "<defs><pattern id=\"cut\" width=\"10\" height=\"10\" patternUnits=\"userSpaceOnUse\" patternTransform=\"rotate(45)\"><rect class=\"cut-ground\" width=\"10\" height=\"10\"/><rect class=\"cut-line\" width=\"1.6\" height=\"10\"/></pattern></defs>");
        // Head, with its ports and the plug's hole cut out of it.
        svg.Append("<path class=\"metal\" d=\"M90 96H630V214H448C440 186 404 172 360 172S280 186 272 214H90Z\"/>");
        svg.Append("<path class=\"hollow\" d=\"M176 96C186 150 246 168 292 190L322 176C270 152 242 138 236 96Z\"/><path class=\"hollow\" d=\"M544 96C534 150 474 168 428 190L398 176C450 152 478 138 484 96Z\"/>");
        svg.Append("<path class=\"hollow\" d=\"M349 96H371V174H349Z\"/>");
        // Valves, seated.
        svg.Append("<path class=\"valve\" d=\"M262 108 302 186M278 194 328 174\"/><path class=\"valve\" d=\"M458 108 418 186M442 194 392 174\"/>");
        // Gasket: to the cylinder before, and to the one behind.
        svg.Append(CultureInfo.InvariantCulture, $"<rect class=\"gasket{Blown(n.Before)}\" data-web=\"{n.Before}\" x=\"186\" y=\"214\" width=\"86\" height=\"9\"/><rect class=\"gasket{Blown(n.Behind)}\" data-web=\"{n.Behind}\" x=\"448\" y=\"214\" width=\"86\" height=\"9\"/>");
        // Block with its coolant, and the bores beside.
        svg.Append("<path class=\"metal\" d=\"M186 223H272V372H186ZM448 223H534V372H448Z\"/><rect class=\"coolant\" x=\"210\" y=\"238\" width=\"34\" height=\"92\" rx=\"10\"/><rect class=\"coolant\" x=\"476\" y=\"238\" width=\"34\" height=\"92\" rx=\"10\"/>");
        svg.Append(n.Before is null ? "<path class=\"metal\" d=\"M150 223H186V372H150Z\"/>" : "<path class=\"bore\" d=\"M90 214V372M186 223V372\"/>");
        svg.Append(n.Behind is null ? "<path class=\"metal\" d=\"M534 223H570V372H534Z\"/>" : "<path class=\"bore\" d=\"M630 214V372M534 223V372\"/>");
        // Piston at the top, rings, pin and rod.
        svg.Append("<path class=\"piston\" d=\"M276 232H444V316Q360 326 276 316Z\"/><path class=\"rings\" d=\"M272 246H448M272 260H448M272 274H448\"/><circle class=\"pin\" cx=\"360\" cy=\"296\" r=\"13\"/><path class=\"rod\" d=\"M350 306 338 400M370 306 382 400\"/>");
        return svg.ToString();
    }

    /// <summary>The drawing behind the places. Decoration to those who cannot see it: the buttons say everything.</summary>
    public static HtmlString Draw(EngineSheet engine, int cylinder, AirHeard air, string supply)
    {
        var svg = new StringBuilder(Ground(engine, cylinder, air), 4096);
        // The ways to where it is listened.
        svg.Append("<path class=\"lead\" d=\"M290 372C282 388 276 396 275 402\"/><path class=\"lead\" d=\"M492 330C492 372 484 392 476 402\"/><path class=\"lead\" d=\"M206 92 198 74M514 92 522 74\"/>");
        svg.Append(CultureInfo.InvariantCulture, $"<path class=\"air-in\" d=\"M360 44V150M350 138 360 152 370 138\"/><text class=\"supply\" x=\"360\" y=\"34\" text-anchor=\"middle\">{supply}</text></svg>");
        return new HtmlString(svg.ToString());
    }

    /// <summary>The sign of a place: three arcs, as many of them filled as it is loud.</summary>
    public const string Arcs = "<svg viewBox=\"0 0 48 48\" aria-hidden=\"true\"><circle class=\"ear-ground\" cx=\"24\" cy=\"24\" r=\"21\"/><path class=\"arc a1\" d=\"M18.5 31a6.5 6.5 0 1 1 11 0\"/><path class=\"arc a2\" d=\"M13.5 34a12.5 12.5 0 1 1 21 0\"/><path class=\"arc a3\" d=\"M9 37a18 18 0 1 1 30 0\"/></svg>";
}
