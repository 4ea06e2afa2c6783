using System.Globalization;
using System.Text;
using Microsoft.AspNetCore.Html;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Web.Drawings;

/// <summary>
/// The scale of a gauge with its needle: a band from left to right, half a turn and a little, with what the maker asks for
/// as a mark on it. The needle is moved by <c>gauge.js</c>; the figure beside it says the same in digits.
/// </summary>
public static class GaugeDial
{
    // The scale's ends, degrees from straight up.
    private const double Sweep = 115;

    /// <summary>Where a scale ends for an engine, Pa.</summary>
    /// <param name="engine">The engine.</param>
    public static double FullScalePa(EngineSheet engine) => (engine.Fuel == Fuel.Diesel ? 600 : 300) * PressureUnit.Psi.Pascals();

    /// <summary>Draws it.</summary>
    /// <param name="unit">The unit of the scale.</param>
    /// <param name="fullScalePa">Where it ends about, Pa; rounded to a whole mark.</param>
    /// <param name="pascals">Where the needle stands, Pa.</param>
    /// <param name="minimumPa">The maker's least, Pa; absent for none.</param>
    public static HtmlString Draw(PressureUnit unit, double fullScalePa, double pascals, double? minimumPa = null)
    {
        var step = Step(fullScalePa / unit.Pascals() / 6);
        var full = Math.Ceiling(fullScalePa / unit.Pascals() / step - 1e-9) * step;
        double Degrees(double value) => -Sweep + 2 * Sweep * Math.Clamp(value / full, 0, 1.04);
        (double X, double Y) At(double degrees, double radius) => (150 + radius * Math.Sin(degrees * Math.PI / 180), 138 - radius * Math.Cos(degrees * Math.PI / 180));
        string Point(double degrees, double radius) => string.Create(CultureInfo.InvariantCulture, $"{At(degrees, radius).X:0.#} {At(degrees, radius).Y:0.#}");
        var svg = new StringBuilder(4096);
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"gauge-dial\" viewBox=\"0 0 300 196\" aria-hidden=\"true\" data-dial data-full=\"{full * unit.Pascals():R}\" data-sweep=\"{Sweep}\" data-pa=\"{unit.Pascals():R}\" data-digits=\"{unit.Decimals()}\">");
        svg.Append(CultureInfo.InvariantCulture, $"<path class=\"scale\" d=\"M{Point(-Sweep, 116)}A116 116 0 1 1 {Point(Sweep, 116)}\"/>");
        if (minimumPa is { } least)
        {
            svg.Append(CultureInfo.InvariantCulture, $"<path class=\"under\" d=\"M{Point(-Sweep, 116)}A116 116 0 {(Degrees(least / unit.Pascals()) > 65 ? 1 : 0)} 1 {Point(Degrees(least / unit.Pascals()), 116)}\"/>");
        }
        for (var i = 0; i * step / 5 <= full + 1e-9; i++)
        {
            var (value, large) = (i * step / 5, i % 5 == 0);
            svg.Append(CultureInfo.InvariantCulture, $"<path class=\"mark{(large ? " large" : "")}\" d=\"M{Point(Degrees(value), 116)}L{Point(Degrees(value), large ? 102 : 109)}\"/>");
            if (large)
            {
                var (x, y) = At(Degrees(value), 86);
                svg.Append(CultureInfo.InvariantCulture, $"<text x=\"{x:0.#}\" y=\"{y + 5:0.#}\" text-anchor=\"middle\">{value:0.##}</text>");
            }
        }
        svg.Append(CultureInfo.InvariantCulture, $"<g data-needle transform=\"rotate({Degrees(pascals / unit.Pascals()):0.##} 150 138)\"><path class=\"needle\" d=\"M146 150 148.600 34 150 28 151.400 34 154 150Z\"/></g><circle class=\"hub\" cx=\"150\" cy=\"138\" r=\"9\"/></svg>");
        return new HtmlString(svg.ToString());
    }

    private static double Step(double about)
    {
        var ten = Math.Pow(10, Math.Floor(Math.Log10(about)));
        return ten * (about / ten <= 1.4 ? 1 : about / ten <= 2.6 ? 2 : about / ten <= 7.5 ? 5 : 10);
    }
}
