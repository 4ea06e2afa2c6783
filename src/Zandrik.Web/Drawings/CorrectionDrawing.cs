using System.Globalization;
using System.Text;
using Microsoft.AspNetCore.Html;
using Zandrik.Core.Records;
using Zandrik.Core.Testers;
using Zandrik.Core.Units;

namespace Zandrik.Web.Drawings;

/// <summary>What a gauge's check adds to its readings, drawn over the reading.</summary>
public static class CorrectionDrawing
{
    private const double Wide = 420, Tall = 180, Left = 56, Right = 14, Top = 14, Bottom = 34;

    /// <summary>The whole drawing, with its figures.</summary>
    public static HtmlString Draw(ShopTester tester) => new(Svg(tester, figures: true));

    /// <summary>A small one for lists.</summary>
    public static HtmlString Strip(ShopTester tester) => new(Svg(tester, figures: false));

    private static string Svg(ShopTester tester, bool figures)
    {
        var points = tester.Points.OrderBy(p => p.Reads).ToList();
        var (wide, tall) = figures ? (Wide, Tall) : (200, 40);
        var (left, right, top, bottom) = figures ? (Left, Right, Top, Bottom) : (4.0, 4.0, 4.0, 4.0);
        var most = Math.Max(points.Max(p => Math.Abs(p.Is - p.Reads)), 1e-6) * 1.2;
        var end = Math.Max(tester.FullScale ?? 0, points[^1].Reads * 1.05);
        double X(double reads) => left + (wide - left - right) * reads / end;
        double Y(double error) => top + (tall - top - bottom) * (0.5 - error / (2 * most));
        var correction = GaugeCorrection.Of(tester.ForRecord())!;
        var unit = tester.Unit.Pascals();
        var words = $"Correction of {tester.Label}: " + string.Join(", ", points.Select(p => $"reads {TypedText(p.Reads)}, is {TypedText(p.Is)}")) + $" {tester.Unit.Symbol()}";
        var svg = new StringBuilder();
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"correction\" viewBox=\"0 0 {wide} {tall}\" width=\"{wide}\" height=\"{tall}\" role=\"img\" aria-label=\"{System.Net.WebUtility.HtmlEncode(words)}\">");
        svg.Append(CultureInfo.InvariantCulture, $"<path class=\"zero\" d=\"M{left:0.#} {Y(0):0.#}H{wide - right:0.#}\"/>");
        var line = new StringBuilder();
        foreach (var reads in points.Select(p => p.Reads).Prepend(end / 50).Append(end))
        {
            line.Append(CultureInfo.InvariantCulture, $"{(line.Length == 0 ? "M" : "L")}{X(reads):0.#} {Y(correction.Correct(reads * unit) / unit - reads):0.#}");
        }
        svg.Append(CultureInfo.InvariantCulture, $"<path class=\"curve\" d=\"{line}\"/>");
        foreach (var p in points)
        {
            svg.Append(CultureInfo.InvariantCulture, $"<circle class=\"point\" cx=\"{X(p.Reads):0.#}\" cy=\"{Y(p.Is - p.Reads):0.#}\" r=\"{(figures ? 5 : 2.5)}\"/>");
            if (figures)
            {
                svg.Append(CultureInfo.InvariantCulture, $"<text x=\"{X(p.Reads):0.#}\" y=\"{tall - 12:0.#}\" text-anchor=\"middle\">{TypedText(p.Reads)}</text>");
                svg.Append(CultureInfo.InvariantCulture, $"<text x=\"{left - 8:0.#}\" y=\"{Y(p.Is - p.Reads) + 5:0.#}\" text-anchor=\"end\">{(p.Is >= p.Reads ? "+" : "−")}{TypedText(Math.Abs(p.Is - p.Reads))}</text>");
            }
        }
        return svg.Append("</svg>").ToString();
    }

    private static string TypedText(double value) => value.ToString("0.##", CultureInfo.CurrentCulture);
}
