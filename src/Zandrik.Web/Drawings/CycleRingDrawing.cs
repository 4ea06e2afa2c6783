using System.Globalization;
using System.Text;
using Microsoft.AspNetCore.Html;
using Zandrik.Core.Compression;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Web.Drawings;

/// <summary>The settled current wrapped once round two turns of the crank: all cycles faint, their mean strong, a weak cylinder a dent. The first of the firing order stands on top.</summary>
public static class CycleRingDrawing
{
    private const double Middle = 170, Inner = 62, Outer = 128, Labels = 151;
    private const int MostCycles = 16;

    /// <summary>The drawing.</summary>
    /// <param name="answer">An answer that is no refusal.</param>
    public static IHtmlContent Draw(RelativeAnswer answer)
    {
        var mean = answer.MeanCycle;
        var shown = Enumerable.Range(0, Math.Min(MostCycles, answer.EachCycle.Count)).Select(i => answer.EachCycle[i * answer.EachCycle.Count / Math.Min(MostCycles, answer.EachCycle.Count)]).ToList();
        var (low, high) = (mean.Min(), mean.Max());
        var margin = 0.18 * Math.Max(high - low, 1e-6);
        (low, high) = ((float)(low - margin), (float)(high + margin));
        var top = answer.Slots[0].AtCycle;
        double R(double amps) => Inner + (Outer - Inner) * Math.Clamp((amps - low) / (high - low), -0.35, 1.15);
        (double X, double Y) Place(double cycle, double radius)
        {
            var angle = 2 * Math.PI * (cycle - top);
            return (Middle + radius * Math.Sin(angle), Middle - radius * Math.Cos(angle));
        }
        void Points(StringBuilder d, IReadOnlyList<float> cycle, int from, int to, int step)
        {
            for (var i = from; i <= to; i += step)
            {
                var (x, y) = Place((double)i / cycle.Count, R(cycle[(i % cycle.Count + cycle.Count) % cycle.Count]));
                d.Append(CultureInfo.InvariantCulture, $"{(i == from ? 'M' : 'L')}{x:0.#} {y:0.#}");
            }
        }
        var svg = new StringBuilder(64 * 1024);
        var weak = answer.Slots.Where(s => RelativeLook.State(answer, s) is not CylinderState.Sound).ToList();
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"cycle-ring\" viewBox=\"0 0 340 340\" role=\"img\" aria-label=\"The current once round 720 degrees, {answer.Cycles} cycles. {(weak.Count == 0 ? "No dent." : $"Dents at {string.Join(", ", weak.Select(RelativeLook.Name))}.")}\">");
        foreach (var r in (ReadOnlySpan<double>)[Inner, (Inner + Outer) / 2, Outer])
        {
            svg.Append(CultureInfo.InvariantCulture, $"<circle class=\"ring-line\" cx=\"{Middle}\" cy=\"{Middle}\" r=\"{r}\"/>");
        }
        svg.Append("<path class=\"each-cycle\" d=\"");
        foreach (var cycle in shown)
        {
            Points(svg, cycle, 0, cycle.Count, 2);
        }
        svg.Append("\"/><path class=\"mean-cycle\" d=\"");
        Points(svg, mean, 0, mean.Count - 1, 1);
        svg.Append("Z\"/>");
        foreach (var slot in answer.Slots)
        {
            var state = RelativeLook.State(answer, slot);
            if (state != CylinderState.Sound)
            {
                var half = 0.5 / answer.Slots.Count * mean.Count;
                svg.Append(CultureInfo.InvariantCulture, $"<path class=\"dent {StateLook.Class(state)}\" d=\"");
                Points(svg, mean, (int)(slot.AtCycle * mean.Count - half), (int)(slot.AtCycle * mean.Count + half), 1);
                svg.Append("\"/>");
            }
            var (x, y) = Place(slot.AtCycle, Labels);
            svg.Append(CultureInfo.InvariantCulture, $"<g class=\"ring-name {StateLook.Class(state)}\"><circle cx=\"{x:0.#}\" cy=\"{y:0.#}\" r=\"{(answer.Slots.Count > 10 ? 12 : 15)}\"/><text x=\"{x:0.#}\" y=\"{y + 6:0.#}\" text-anchor=\"middle\">{RelativeLook.Name(slot)}</text></g>");
        }
        svg.Append(CultureInfo.InvariantCulture, $"<text class=\"ring-rpm\" x=\"{Middle}\" y=\"{Middle + 6}\" text-anchor=\"middle\">{answer.CrankingRpm:0}</text><text class=\"ring-unit\" x=\"{Middle}\" y=\"{Middle + 26}\" text-anchor=\"middle\">rpm cranking</text></svg>");
        return new HtmlString(svg.ToString());
    }
}
