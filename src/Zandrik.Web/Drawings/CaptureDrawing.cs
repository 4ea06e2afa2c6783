using System.Globalization;
using System.Net;
using System.Text;
using Microsoft.AspNetCore.Html;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Web.Drawings;

/// <summary>
/// A capture of starter current as SVG: humps tinted by cylinder, sync marks, amps and seconds. What a browser without scripts, a printer, and the guide to a capture show; where scripts
/// run, a canvas that can be looked into stands over it.
/// </summary>
public static class CaptureDrawing
{
    private const double Width = 760, Height = 262, Left = 50, Right = 10, Top = 26, Bottom = 46;
    private const int Steps = 680;

    /// <summary>The drawing.</summary>
    /// <param name="picture">The trace.</param>
    /// <param name="answer">What was found of it.</param>
    /// <param name="notes">Words at their place in time (s): what a good trace has. None for a capture of somebody's.</param>
    public static IHtmlContent Draw(CapturePicture picture, RelativeAnswer answer, IReadOnlyList<(double AtS, string Says)>? notes = null)
    {
        var p = picture.Reduced(Steps);
        var (bottom, top) = Range(p, answer);
        double X(double s) => Left + (Width - Left - Right) * s / Math.Max(p.DurationS, 1e-9);
        double Y(double amps) => Top + (Height - Top - Bottom) * (top - Math.Clamp(amps, bottom, top)) / (top - bottom);
        var svg = new StringBuilder(32 * 1024);
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"capture-trace\" viewBox=\"0 0 {Width} {Height}\" role=\"img\" aria-label=\"{Html(Says(answer, p))}\">");
        Humps(svg, answer, X);
        foreach (var amps in Ticks(bottom, top, 4))
        {
            svg.Append(CultureInfo.InvariantCulture, $"<path class=\"grid\" d=\"M{Left} {Y(amps):0.#}H{Width - Right}\"/><text x=\"{Left - 6}\" y=\"{Y(amps) + 5:0.#}\" text-anchor=\"end\">{amps:0}</text>");
        }
        svg.Append(CultureInfo.InvariantCulture, $"<text x=\"{Left - 6}\" y=\"15\" text-anchor=\"end\">A</text>");
        foreach (var s in Ticks(0, p.DurationS, 8))
        {
            svg.Append(CultureInfo.InvariantCulture, $"<text x=\"{X(s):0.#}\" y=\"{Height - 6}\" text-anchor=\"middle\">{s:0.###}{(s == 0 ? " s" : "")}</text>");
        }
        foreach (var e in answer.Events)
        {
            svg.Append(CultureInfo.InvariantCulture, $"<path class=\"sync-mark\" d=\"M{X(e.TimeS):0.#} {Top}V{Height - Bottom}\"/>");
        }
        Line(svg, p, X, Y);
        if (p.Highest.Length > 0 && p.Highest.Max() is var peak && peak > top)
        {
            var at = X(Array.IndexOf(p.Highest, peak) * p.StepS);
            svg.Append(CultureInfo.InvariantCulture, $"<text class=\"surge\" x=\"{at + 8:0.#}\" y=\"19\">first surge {peak:0} A</text>");
        }
        foreach (var (at, says) in notes ?? [])
        {
            svg.Append(CultureInfo.InvariantCulture, $"<text class=\"trace-note\" x=\"{X(at):0.#}\" y=\"{Height - Bottom + 18:0.#}\" text-anchor=\"middle\">{Html(says)}</text>");
        }
        svg.Append("</svg>");
        return new HtmlString(svg.ToString());
    }

    /// <summary>The amps that are drawn: all of the settled part, not the surge, which is several times that. The whole where nothing settled.</summary>
    public static (double Bottom, double Top) Range(CapturePicture picture, RelativeAnswer answer)
    {
        if (picture.Highest.Length == 0)
        {
            return (0, 1);
        }
        var (from, to) = answer.Settled.To > answer.Settled.From
            ? (Math.Clamp((int)(answer.Settled.From / picture.StepS), 0, picture.Highest.Length - 1), Math.Clamp((int)(answer.Settled.To / picture.StepS), 1, picture.Highest.Length))
            : (0, picture.Highest.Length);
        var top = picture.Highest[from..Math.Max(from + 1, to)].Max();
        var floor = Math.Min(0, picture.Lowest[from..Math.Max(from + 1, to)].Min());
        return (floor, Math.Max(top * 1.15, floor + 1e-3));
    }

    /// <summary>Where each slot's hump begins and ends, s: halfway to its neighbours.</summary>
    public static IEnumerable<(double From, double To, int Slot)> HumpsOf(RelativeAnswer answer)
    {
        var marks = answer.Marks;
        for (var i = 0; i < marks.Count; i++)
        {
            var before = i > 0 ? (marks[i].TimeS + marks[i - 1].TimeS) / 2 : marks[i].TimeS - (marks.Count > 1 ? (marks[1].TimeS - marks[0].TimeS) / 2 : 0);
            var after = i + 1 < marks.Count ? (marks[i].TimeS + marks[i + 1].TimeS) / 2 : 2 * marks[i].TimeS - before;
            yield return (before, after, marks[i].Slot);
        }
    }

    private static void Humps(StringBuilder svg, RelativeAnswer answer, Func<double, double> x)
    {
        foreach (var (from, to, slot) in HumpsOf(answer))
        {
            var s = answer.Slots[slot - 1];
            var kind = StateLook.Class(RelativeLook.State(answer, s));
            svg.Append(CultureInfo.InvariantCulture, $"<rect class=\"hump {kind}{(slot % 2 == 0 ? " other" : "")}\" x=\"{x(from):0.#}\" y=\"{Top}\" width=\"{x(to) - x(from):0.#}\" height=\"{Height - Top - Bottom}\"/>");
            if (x(to) - x(from) > 11)
            {
                svg.Append(CultureInfo.InvariantCulture, $"<text class=\"hump-name {kind}\" x=\"{(x(from) + x(to)) / 2:0.#}\" y=\"{Height - Bottom + 18:0.#}\" text-anchor=\"middle\">{RelativeLook.Name(s)}</text>");
            }
        }
    }

    // The highest forth and the lowest back: what lies between is the trace however fast it swings.
    private static void Line(StringBuilder svg, CapturePicture p, Func<double, double> x, Func<double, double> y)
    {
        svg.Append("<path class=\"trace\" d=\"");
        for (var i = 0; i < p.Highest.Length; i++)
        {
            svg.Append(CultureInfo.InvariantCulture, $"{(i == 0 ? 'M' : 'L')}{x((i + 0.5) * p.StepS):0.#} {y(p.Highest[i]):0.#}");
        }
        for (var i = p.Lowest.Length - 1; i >= 0; i--)
        {
            svg.Append(CultureInfo.InvariantCulture, $"L{x((i + 0.5) * p.StepS):0.#} {y(p.Lowest[i]):0.#}");
        }
        svg.Append(p.Highest.Length > 0 ? "Z\"/>" : "\"/>");
    }

    internal static IEnumerable<double> Ticks(double from, double to, int about)
    {
        var raw = (to - from) / about;
        var unit = Math.Pow(10, Math.Floor(Math.Log10(raw)));
        var step = unit * (raw / unit) switch { < 1.5 => 1, < 3.5 => 2, < 7.5 => 5, _ => 10 };
        for (var t = Math.Ceiling(from / step) * step; t <= to * (1 - 1e-9); t += step)
        {
            yield return Math.Round(t, 6);
        }
    }

    private static string Says(RelativeAnswer answer, CapturePicture p) => answer.Refused is { } why
        ? string.Create(CultureInfo.InvariantCulture, $"Starter current over {p.DurationS:0.0} s, not judged: {why.Says}")
        : string.Create(CultureInfo.InvariantCulture, $"Starter current over {p.DurationS:0.0} s, {answer.Cycles} cycles at {answer.CrankingRpm:0} rpm. The table has the figures.");

    private static string Html(string text) => WebUtility.HtmlEncode(text);
}
