using System.Globalization;
using System.Net;
using System.Text;
using Microsoft.AspNetCore.Html;
using Zandrik.Core.Compression;

namespace Zandrik.Web.Drawings;

/// <summary>Draws <see cref="ColumnsPicture"/> as SVG. Colours and type come from the page's style sheet.</summary>
public static class ColumnsDrawing
{
    // User units; the page scales the drawing to its column.
    private const double Width = 640, LeftMargin = 74, RightMargin = 66;
    private const double WidestPitch = 132, GlassShare = 0.52, WidestGlass = 64;
    private const double Above = 92, Below = 50;

    /// <summary>The drawing.</summary>
    public static IHtmlContent Draw(ColumnsPicture picture)
    {
        var rows = picture.Banks.Count;
        // Low enough that the pad below it is on the first screen of a phone.
        var glass = rows switch { 1 => 166.0, 2 => 104.0, _ => 84.0 };
        var rowHeight = Above + glass + Below;
        var svg = new StringBuilder(8192);
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"columns{(rows switch { 1 => "", 2 => " in-rows", _ => " in-many-rows" })}\" viewBox=\"0 0 {Width:0} {rows * rowHeight + 6:0}\" role=\"group\" aria-label=\"{Html(picture.Title)}\">");
        // Rows share one pitch, so that cylinders of two banks stand across from each other.
        var longest = picture.Banks.Max(b => b.Count);
        for (var row = 0; row < rows; row++)
        {
            Row(svg, picture, row, row * rowHeight, glass, longest);
        }
        svg.Append("</svg>");
        return new HtmlString(svg.ToString());
    }

    /// <summary>The same cylinders as a strip of small glasses, for lists.</summary>
    public static IHtmlContent Strip(ColumnsPicture picture)
    {
        const double Pitch = 15, Tall = 30;
        var count = picture.Banks.Sum(b => b.Count) + picture.Banks.Count - 1;
        var svg = new StringBuilder(2048);
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"strip\" viewBox=\"0 0 {count * Pitch:0} {Tall + 2:0}\" width=\"{count * Pitch:0}\" height=\"{Tall + 2:0}\" role=\"img\" aria-label=\"{Html(Named(picture))}\">");
        var x = 0.0;
        foreach (var bank in picture.Banks)
        {
            foreach (var cylinder in bank)
            {
                var g = picture.Glasses[cylinder];
                svg.Append(CultureInfo.InvariantCulture, $"<g class=\"{StateLook.Class(g.State)}\"><rect class=\"glass\" x=\"{x + 2:0.#}\" y=\"1\" width=\"{Pitch - 4}\" height=\"{Tall}\" rx=\"2\"/>");
                if (g.Level is { } level && !g.InQuestion)
                {
                    var h = Math.Max(2, Tall * Math.Clamp(level / picture.FullScale, 0, 1));
                    svg.Append(CultureInfo.InvariantCulture, $"<rect class=\"level\" x=\"{x + 2:0.#}\" y=\"{1 + Tall - h:0.#}\" width=\"{Pitch - 4}\" height=\"{h:0.#}\" rx=\"2\"/>");
                }
                svg.Append("</g>");
                x += Pitch;
            }
            x += Pitch;
        }
        svg.Append("</svg>");
        return new HtmlString(svg.ToString());
    }

    // Figures and states, for whoever cannot see them: cylinder by cylinder, or that there are none yet.
    private static string Named(ColumnsPicture picture) => picture.Glasses.Values.All(g => g.State == CylinderState.Untested) ? $"{picture.Title}: nothing measured yet"
        : $"{picture.Title}: {string.Join("; ", picture.Banks.SelectMany(b => b).Select(c => picture.Glasses[c].Says))}";

    private static void Row(StringBuilder svg, ColumnsPicture picture, int row, double top, double glass, int longest)
    {
        var pitch = Math.Min(WidestPitch, (Width - LeftMargin - RightMargin) / longest);
        var left = (Width - LeftMargin - RightMargin - pitch * longest) / 2 + LeftMargin;
        var right = left + pitch * longest;
        var (brimY, floorY) = (top + Above, top + Above + glass);
        double Y(double level) => floorY - glass * Math.Clamp(level / picture.FullScale, 0, 1);

        var name = picture.Named is { } named ? Html(named.Row) : picture.Banks.Count > 1 ? $"Bank {row + 1} · front" : "Front";
        svg.Append(CultureInfo.InvariantCulture, $"<g class=\"front\"><path d=\"M{left - 14:0.#} {top + 11:0.#} l11 -6 v12 Z\"/><text x=\"{left + 6:0.#}\" y=\"{top + 16:0.#}\">{name}</text></g>");
        if (picture.Band is { } band)
        {
            svg.Append(CultureInfo.InvariantCulture, $"<rect class=\"band\" x=\"{left:0.#}\" y=\"{Y(band.Top):0.#}\" width=\"{right - left:0.#}\" height=\"{Math.Max(1, Y(band.Bottom) - Y(band.Top)):0.#}\"/>");
        }
        for (var i = 0; i < picture.Banks[row].Count; i++)
        {
            Column(svg, picture, picture.Banks[row][i], left + pitch * (i + 0.5), pitch, brimY, floorY, Y);
        }
        for (var i = 0; i + 1 < picture.Banks[row].Count; i++)
        {
            var (front, behind) = (picture.Banks[row][i], picture.Banks[row][i + 1]);
            if (picture.Webs.FirstOrDefault(w => (w.First == front && w.Second == behind) || (w.First == behind && w.Second == front)) is { } web)
            {
                var (x, half) = (left + pitch * (i + 1), Math.Min(26, (pitch - Math.Min(WidestGlass, pitch * GlassShare)) / 2 - 1));
                // A path burnt through from one to the other.
                svg.Append(CultureInfo.InvariantCulture, $"<path class=\"burnt-web\" role=\"img\" aria-label=\"{Html(web.Says)}\" d=\"M{x - half:0.#} {brimY + glass * 0.3:0.#}l{half * 0.5:0.#} -7 {half * 0.5:0.#} 14 {half * 0.5:0.#} -14 {half * 0.5:0.#} 7\"/>");
            }
        }
        Lines(svg, picture, left, right, Y);
    }

    private static void Lines(StringBuilder svg, ColumnsPicture picture, double left, double right, Func<double, double> y)
    {
        var lastLabel = double.NegativeInfinity;
        foreach (var line in picture.Lines.OrderByDescending(l => l.Level))
        {
            var at = y(line.Level);
            // Labels that would stand on each other move apart; the lines stay where they belong.
            var label = Math.Max(at + 5, lastLabel + 17);
            lastLabel = label;
            svg.Append(CultureInfo.InvariantCulture, $"<g class=\"scale-line{(line.Firm ? "" : " not-firm")}\"><path d=\"M{left - 6:0.#} {at:0.#}H{right + 6:0.#}\"/>");
            svg.Append(CultureInfo.InvariantCulture, $"<text x=\"{left - 10:0.#}\" y=\"{label:0.#}\" text-anchor=\"end\">{Html(line.Name)}</text><text class=\"figure\" x=\"{right + 10:0.#}\" y=\"{label:0.#}\">{Html(line.Figure)}</text></g>");
        }
        if (picture.Band is { } band && y(band.Bottom) - y(band.Top) > 8)
        {
            // Beside the band, unless a line's label stands there already.
            var at = (y(band.Top) + y(band.Bottom)) / 2 + 5;
            if (picture.Lines.All(l => Math.Abs(y(l.Level) + 5 - at) > 16))
            {
                svg.Append(CultureInfo.InvariantCulture, $"<text class=\"band-name\" x=\"{right + 10:0.#}\" y=\"{at:0.#}\">{Html(band.Name)}</text>");
            }
        }
    }

    private static void Column(
        StringBuilder svg, ColumnsPicture picture, int cylinder, double x, double pitch, double brimY, double floorY, Func<double, double> y)
    {
        var g = picture.Glasses[cylinder];
        var w = Math.Min(WidestGlass, pitch * GlassShare);
        var selected = picture.Selected == cylinder;
        var classes = $"column {StateLook.Class(g.State)}{(selected ? " selected" : "")}{(g.InQuestion ? " in-question" : "")}{((g.Figure.Length > 3 && pitch < 100) || pitch < 72 ? " long" : "")}";
        var link = picture.Link?.Invoke(cylinder);
        svg.Append(link is null
            ? $"<g class=\"{classes}\" role=\"img\" aria-label=\"{Html(g.Says)}\">"
            : $"<a class=\"{classes}\" href=\"{Html(link)}\" data-hx-get=\"{Html(link)}\" data-hx-target=\"{picture.LinkTarget}\" data-hx-swap=\"outerHTML\" data-cylinder=\"{cylinder}\" aria-label=\"{Html(g.Says)}\"{(selected ? " aria-current=\"true\"" : "")}>");
        // The whole column is the target of a finger.
        svg.Append(CultureInfo.InvariantCulture, $"<rect class=\"touch\" x=\"{x - pitch / 2 + 2:0.#}\" y=\"{brimY - 70:0.#}\" width=\"{pitch - 4:0.#}\" height=\"{floorY - brimY + 70 + 46:0.#}\" rx=\"8\"/>");
        svg.Append(CultureInfo.InvariantCulture, $"<rect class=\"glass\" x=\"{x - w / 2:0.#}\" y=\"{brimY:0.#}\" width=\"{w:0.#}\" height=\"{floorY - brimY:0.#}\" rx=\"7\"/>");
        if (g.Level is { } level)
        {
            var at = y(level);
            svg.Append(CultureInfo.InvariantCulture, $"<path class=\"level\" d=\"M{x - w / 2:0.#} {at:0.#}H{x + w / 2:0.#}V{floorY - 7:0.#}q0 7 -7 7H{x - w / 2 + 7:0.#}q-7 0 -7 -7Z\"/>");
            svg.Append(CultureInfo.InvariantCulture, $"<rect class=\"bar\" x=\"{x - w / 2 - 4:0.#}\" y=\"{at - 2.5:0.#}\" width=\"{w + 8:0.#}\" height=\"5\" rx=\"2.5\"/>");
        }
        if (g is { Wet: { } wet, Level: { } dry })
        {
            var (top, bottom) = (Math.Min(y(wet), y(dry)), Math.Max(y(wet), y(dry)));
            svg.Append(CultureInfo.InvariantCulture, $"<rect class=\"wet\" x=\"{x - w / 2 + 3:0.#}\" y=\"{top:0.#}\" width=\"{w - 6:0.#}\" height=\"{Math.Max(1, bottom - top):0.#}\"/><rect class=\"wet-bar\" x=\"{x - w / 2 - 4:0.#}\" y=\"{y(wet) - 2:0.#}\" width=\"{w + 8:0.#}\" height=\"4\" rx=\"2\"/>");
        }
        if (g is { Error: { } error, Level: { } about })
        {
            var (upper, lower, half) = (y(about + error), y(about - error), w / 4);
            svg.Append(CultureInfo.InvariantCulture, $"<path class=\"error-bar\" d=\"M{x - half:0.#} {upper:0.#}h{2 * half:0.#}M{x:0.#} {upper:0.#}V{lower:0.#}M{x - half:0.#} {lower:0.#}h{2 * half:0.#}\"/>");
        }
        if (g.Notch is { } notch)
        {
            svg.Append(CultureInfo.InvariantCulture, $"<path class=\"notch\" d=\"M{x + w / 2 + 3:0.#} {y(notch):0.#} l9 -5 v10 Z\"><title>First pulse</title></path>");
        }
        if (g.Ghost is { } ghost)
        {
            svg.Append(CultureInfo.InvariantCulture, $"<path class=\"ghost\" d=\"M{x - w / 2 - 6:0.#} {y(ghost):0.#}H{x + w / 2 + 6:0.#}\"><title>The test before</title></path>");
        }
        // Number, figure, question: the order in which the words for people who cannot see them name the three.
        svg.Append(CultureInfo.InvariantCulture, $"<circle class=\"number-ground\" cx=\"{x:0.#}\" cy=\"{floorY + 24:0.#}\" r=\"16\"/><text class=\"number\" x=\"{x:0.#}\" y=\"{floorY + 30.5:0.#}\" text-anchor=\"middle\">{picture.Named?.Disc(cylinder) ?? cylinder.ToString(CultureInfo.InvariantCulture)}</text> ");
        svg.Append(CultureInfo.InvariantCulture, $"<text class=\"reading\" x=\"{x:0.#}\" y=\"{brimY - 9:0.#}\" text-anchor=\"middle\">{Html(g.Figure)}</text> ");
        var mark = StateLook.Mark(g.State);
        if (g.InQuestion)
        {
            mark = "<text class=\"question\" y=\"7\" text-anchor=\"middle\">?</text>";
        }
        // A figure that judges nothing, as of a gauge check, has its mark above it; the mark stands for a figure that is not there.
        if (mark.Length > 0 && (g.State != CylinderState.Untested || g.InQuestion || g.Figure.Length > 0))
        {
            svg.Append(CultureInfo.InvariantCulture, $"<g transform=\"translate({x:0.#} {brimY - 56:0.#})\">{mark}</g>");
        }
        else if (g.State == CylinderState.Untested)
        {
            svg.Append(CultureInfo.InvariantCulture, $"<g transform=\"translate({x:0.#} {brimY - 18:0.#})\">{mark}</g>");
        }
        svg.Append(link is null ? "</g>" : "</a>");
    }

    private static string Html(string text) => WebUtility.HtmlEncode(text);
}
