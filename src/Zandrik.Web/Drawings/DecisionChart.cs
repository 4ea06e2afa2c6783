using System.Globalization;
using System.Net;
using System.Text;
using Microsoft.AspNetCore.Html;
using Zandrik.Core.Deciding;
using Zandrik.Web.Front;

namespace Zandrik.Web.Drawings;

/// <summary>Options by what they come to on average and how likely they put the engine right at once: to the right is surer, lower is cheaper. Numbers are those of the cards.</summary>
public static class DecisionChart
{
    private const double Width = 760, Height = 300, Left = 110, Right = 30, Top = 24, Bottom = 64, Radius = 19;

    /// <summary>The drawing.</summary>
    /// <param name="options">The options, in the order of their cards; those struck out are left out.</param>
    /// <param name="cost">How costs are written.</param>
    public static IHtmlContent Draw(IReadOnlyList<DecisionOption> options, CostText cost)
    {
        var shown = options.Select((o, i) => (Option: o, Number: i + 1)).Where(o => o.Option.Struck is null).ToList();
        var most = shown.Max(o => o.Option.Expected) * 1.1 + 1;
        double X(double cured) => Left + Radius + (Width - Left - Right - 2 * Radius) * cured;
        double Y(double minutes) => Height - Bottom - (Height - Top - Bottom) * minutes / most;
        var svg = new StringBuilder(8 * 1024);
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"decision-chart\" viewBox=\"0 0 {Width} {Height}\" role=\"img\" aria-label=\"Options by average cost and chance of cure. The cards have the figures.\">");
        foreach (var share in (ReadOnlySpan<double>)[0, 0.25, 0.5, 0.75, 1])
        {
            svg.Append(CultureInfo.InvariantCulture, $"<path class=\"grid\" d=\"M{X(share):0.#} {Top}V{Height - Bottom}\"/><text x=\"{X(share):0.#}\" y=\"{Height - Bottom + 26}\" text-anchor=\"middle\">{100 * share:0} %</text>");
        }
        foreach (var part in (ReadOnlySpan<double>)[0, 0.5, 1])
        {
            var y = Y(part * most / 1.1);
            svg.Append(CultureInfo.InvariantCulture, $"<path class=\"grid\" d=\"M{Left} {y:0.#}H{Width - Right}\"/><text x=\"{Left - 8}\" y=\"{y + 5:0.#}\" text-anchor=\"end\">{WebUtility.HtmlEncode(cost.Of(part * most / 1.1))}</text>");
        }
        svg.Append(CultureInfo.InvariantCulture, $"<text x=\"{(Left + Width - Right) / 2}\" y=\"{Height - 8}\" text-anchor=\"middle\">engine right afterwards</text>");
        // Those that lie on one another are moved apart sideways, to the nearest free place; the cheaper one stays. With none free they lie on one another.
        var placed = new List<(double X, double Y)>();
        foreach (var (option, number) in shown)
        {
            var (x, y) = (X(option.Cured), Y(option.Expected));
            bool IsFree(double at) => at >= Left + Radius && at <= Width - Right - Radius && !placed.Exists(p => Math.Abs(p.X - at) < 1.7 * Radius && Math.Abs(p.Y - y) < 1.7 * Radius);
            x = Enumerable.Range(0, 2 * shown.Count + 1).Select(k => x + (k % 2 == 0 ? 1 : -1) * ((k + 1) / 2) * 1.8 * Radius).Where(IsFree).Append(x).First();
            placed.Add((x, y));
            svg.Append(CultureInfo.InvariantCulture, $"<g class=\"option-mark{(option.IsBest ? " best" : "")}{(option.IsLikely ? "" : " unlikely")}\"><circle cx=\"{x:0.#}\" cy=\"{y:0.#}\" r=\"{Radius}\"/><text x=\"{x:0.#}\" y=\"{y + 8:0.#}\" text-anchor=\"middle\">{number}</text></g>");
        }
        svg.Append("</svg>");
        return new HtmlString(svg.ToString());
    }
}
