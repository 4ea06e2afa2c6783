using System.Globalization;
using System.Net;
using System.Text;
using Microsoft.AspNetCore.Html;
using Zandrik.Core.Units;

namespace Zandrik.Web.Drawings;

/// <summary>The gauge from compression to compression: how a cylinder pumps up.</summary>
public static class PumpUpDrawing
{
    /// <summary>A small step drawing.</summary>
    /// <param name="values">The gauge after each compression, first to last; at least one.</param>
    /// <param name="unit">The unit for the words.</param>
    public static HtmlString Draw(IReadOnlyList<GaugePressure> values, PressureUnit unit)
    {
        const double wide = 260, tall = 70;
        var top = values.Max(v => v.Pascals) * 1.05;
        var step = (wide - 8) / values.Count;
        var svg = new StringBuilder();
        var words = WebUtility.HtmlEncode($"Pump-up: {string.Join(", ", values.Select(v => v.Text(unit)))} {unit.Symbol()}");
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"pump-up\" viewBox=\"0 0 {wide} {tall}\" width=\"{wide}\" height=\"{tall}\" role=\"img\" aria-label=\"{words}\">");
        for (var i = 0; i < values.Count; i++)
        {
            var h = top <= 0 ? 0 : (tall - 4) * values[i].Pascals / top;
            svg.Append(CultureInfo.InvariantCulture, $"<rect class=\"{(i == 0 ? "first" : "later")}\" x=\"{4 + i * step + 1:0.#}\" y=\"{tall - h:0.#}\" width=\"{Math.Max(2, step - 3):0.#}\" height=\"{h:0.#}\" rx=\"2\"/>");
        }
        return new HtmlString(svg.Append("</svg>").ToString());
    }
}
