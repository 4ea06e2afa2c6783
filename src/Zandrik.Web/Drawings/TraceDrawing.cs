using System.Globalization;
using System.Net;
using System.Text;
using Zandrik.Core.Readings;
using Zandrik.Core.Units;

namespace Zandrik.Web.Drawings;

/// <summary>What a gauge held while a cylinder was cranked, as its instrument wrote it down: a step up at each compression.</summary>
public static class TraceDrawing
{
    private const double Wide = 320, Tall = 120, Left = 40, Bottom = 22, Top = 8;

    /// <summary>The drawing, as a file of its own.</summary>
    /// <param name="trace">The trace.</param>
    /// <param name="unit">The unit of its scale.</param>
    /// <param name="dark">True for night colours.</param>
    public static string Draw(PressureTrace trace, PressureUnit unit, bool dark)
    {
        var (ink, line, soft, ground) = dark ? ("#E9E4D8", "#8FC3C4", "#384246", "#1E2528") : ("#1E2A2F", "#0D4F57", "#D9D3C5", "#FFFDF9");
        var most = Math.Max(1, trace.Pa.Max());
        double X(double s) => Left + (Wide - Left - 6) * s / Math.Max(trace.Seconds, trace.IntervalS);
        double Y(double pa) => Tall - Bottom - (Tall - Bottom - Top) * pa / most;
        var svg = new StringBuilder(8192);
        var words = WebUtility.HtmlEncode(string.Create(CultureInfo.InvariantCulture, $"{new GaugePressure(most / unit.Pascals(), unit).Text(unit)} {unit.Symbol()} after {trace.Seconds:0.0} s"));
        svg.Append(CultureInfo.InvariantCulture, $"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {Wide} {Tall}\" width=\"{Wide}\" height=\"{Tall}\" role=\"img\"><title>{words}</title><rect width=\"{Wide}\" height=\"{Tall}\" fill=\"{ground}\"/>");
        foreach (var share in new[] { 0, 0.5, 1 })
        {
            svg.Append(CultureInfo.InvariantCulture, $"<path d=\"M{Left} {Y(share * most):0.#}H{Wide - 6}\" stroke=\"{soft}\"/><text x=\"{Left - 5}\" y=\"{Y(share * most) + 5:0.#}\" text-anchor=\"end\" font-family=\"sans-serif\" font-size=\"13\" fill=\"{ink}\">{new GaugePressure(share * most / unit.Pascals(), unit).Text(unit)}</text>");
        }
        // As many points as the drawing can show.
        var every = Math.Max(1, trace.Pa.Count / 600);
        svg.Append(CultureInfo.InvariantCulture, $"<polyline fill=\"none\" stroke=\"{line}\" stroke-width=\"2\" points=\"");
        for (var i = 0; i < trace.Pa.Count; i += every)
        {
            svg.Append(CultureInfo.InvariantCulture, $"{X(i * trace.IntervalS):0.#},{Y(trace.Pa[i]):0.#} ");
        }
        return svg.Append(CultureInfo.InvariantCulture, $"\"/><text x=\"{Left}\" y=\"{Tall - 5}\" font-family=\"sans-serif\" font-size=\"13\" fill=\"{ink}\">0</text><text x=\"{Wide - 6}\" y=\"{Tall - 5}\" text-anchor=\"end\" font-family=\"sans-serif\" font-size=\"13\" fill=\"{ink}\">{trace.Seconds:0.0} s</text></svg>").ToString();
    }
}
