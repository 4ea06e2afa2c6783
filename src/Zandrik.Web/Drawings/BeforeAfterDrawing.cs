using System.Globalization;
using System.Text;
using Microsoft.AspNetCore.Html;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Web.Drawings;

/// <summary>Two folded captures over each other, from the same cylinder on: the first broken, the second whole, cylinders named at their top dead centres.</summary>
public static class BeforeAfterDrawing
{
    private const double Width = 760, Height = 250, Left = 50, Right = 10, Top = 34, Bottom = 30;

    /// <summary>The drawing.</summary>
    /// <param name="before">The first capture; its humps are named.</param>
    /// <param name="after">The second; likewise.</param>
    public static IHtmlContent Draw(ComparedCapture before, ComparedCapture after)
    {
        // Amps of a clamp without scale are no amps: then each curve has its own height.
        var known = before.Question.ScaleKnown && after.Question.ScaleKnown;
        var (was, isNow) = (Folded(before, known), Folded(after, known));
        var (low, high) = (Math.Min(was.Amps.Min(), isNow.Amps.Min()), Math.Max(was.Amps.Max(), isNow.Amps.Max()));
        var room = 0.08 * Math.Max(high - low, 1e-6);
        (low, high) = (low - room, high + room);
        double X(double cycle) => Left + (Width - Left - Right) * cycle;
        double Y(double amps) => Top + (Height - Top - Bottom) * (high - amps) / (high - low);
        var svg = new StringBuilder(32 * 1024);
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"capture-trace both-traces\" viewBox=\"0 0 {Width} {Height}\" role=\"img\" aria-label=\"Mean cycle before and after, over 720 degrees of crank. The table has the figures.\">");
        foreach (var (cylinder, at) in isNow.Centres)
        {
            svg.Append(CultureInfo.InvariantCulture, $"<path class=\"centre\" d=\"M{X(at):0.#} {Top}V{Height - Bottom}\"/><text class=\"hump-name\" x=\"{X(at):0.#}\" y=\"{Height - 8}\" text-anchor=\"middle\">{cylinder}</text>");
        }
        if (known)
        {
            foreach (var amps in CaptureDrawing.Ticks(low, high, 4))
            {
                svg.Append(CultureInfo.InvariantCulture, $"<path class=\"grid\" d=\"M{Left} {Y(amps):0.#}H{Width - Right}\"/><text x=\"{Left - 6}\" y=\"{Y(amps) + 5:0.#}\" text-anchor=\"end\">{amps:0}</text>");
            }
        }
        svg.Append(CultureInfo.InvariantCulture, $"<text x=\"{Left - 6}\" y=\"{Top - 12}\" text-anchor=\"end\">{(known ? "A" : "")}</text>");
        svg.Append(CultureInfo.InvariantCulture, $"<path class=\"was\" d=\"M{Width - 230} {Top - 17}h34\"/><text x=\"{Width - 190}\" y=\"{Top - 11}\">before</text><path class=\"now\" d=\"M{Width - 112} {Top - 17}h34\"/><text x=\"{Width - 72}\" y=\"{Top - 11}\">after</text>");
        Line(svg, "was", was.Amps, X, Y);
        Line(svg, "now", isNow.Amps, X, Y);
        svg.Append("</svg>");
        return new HtmlString(svg.ToString());
    }

    // From half a hump before the first cylinder of the firing order on, so that no hump is cut.
    private static (double[] Amps, IReadOnlyList<(int Cylinder, double At)> Centres) Folded(ComparedCapture capture, bool known)
    {
        var slots = capture.Cylinders();
        var mean = capture.Answer.MeanCycle;
        var first = slots[capture.Question.FiringOrder[0]].AtCycle - 0.5 / slots.Count;
        var scale = known ? 1 : 1 / Math.Max(mean.Max() - mean.Min(), 1e-9f);
        var shift = (int)Math.Round(first * mean.Count);
        double[] amps = [.. Enumerable.Range(0, mean.Count + 1).Select(i => (double)mean[((i + shift) % mean.Count + mean.Count) % mean.Count] * scale)];
        return (amps, [.. slots.Select(s => (s.Key, Turn(s.Value.AtCycle - first)))]);
    }

    private static double Turn(double cycle) => cycle - Math.Floor(cycle);

    private static void Line(StringBuilder svg, string kind, double[] amps, Func<double, double> x, Func<double, double> y)
    {
        svg.Append(CultureInfo.InvariantCulture, $"<path class=\"{kind}\" d=\"");
        for (var i = 0; i < amps.Length; i++)
        {
            svg.Append(CultureInfo.InvariantCulture, $"{(i == 0 ? 'M' : 'L')}{x((double)i / (amps.Length - 1)):0.#} {y(amps[i]):0.#}");
        }
        svg.Append("\"/>");
    }
}
