using System.Globalization;
using System.Net;
using System.Text;
using Microsoft.AspNetCore.Html;
using Zandrik.Core.Life;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Drawings;

/// <summary>
/// The life of an engine: each cylinder a line over what the engine has run or over time, the maker's minimum as the floor, what was done on it as posts, and where the lowest goes from here as a fan.
/// Every gauge has a sign of its own; a cold test is hollow; what does not count for wear is a small cross without a line.
/// </summary>
public sealed class LifeDrawing
{
    private const double Width = 760, Height = 340, Left = 84, Right = 40, Top = 26, Bottom = 56;

    // Beyond this many tests the signs would cover the lines.
    private const int MostSigns = 40;

    private readonly StringBuilder svg = new(16 * 1024);
    private readonly EngineLife life;
    private readonly ShopPerson who;
    private readonly bool overTime, leak;
    private readonly PressureUnit unit;
    private readonly List<string> gauges;
    private readonly List<LifeTest> tests;
    private readonly double fromX, toX, fromY, toY;

    private LifeDrawing(EngineLife life, ShopPerson who, PressureUnit unit, bool overTime, bool leak)
    {
        (this.life, this.who, this.unit, this.overTime, this.leak) = (life, who, unit, overTime, leak);
        tests = [.. life.Tests.Where(t => leak ? t.Kind == TestKind.LeakDown : t.Kind == TestKind.Dry)];
        gauges = [.. tests.Select(t => t.Gauge ?? "").Distinct().Order(StringComparer.CurrentCulture)];
        var fan = Fan();
        var all = tests.SelectMany(t => t.Values.Values).ToList();
        (fromX, toX) = (tests.Min(X), Math.Max(tests.Max(X), fan.Count > 0 ? fan[^1].X : double.MinValue));
        var room = Math.Max(overTime ? 30 : life.Run.Step, 0.04 * (toX - fromX));
        (fromX, toX) = (fromX - room, toX + room);
        (fromY, toY) = leak ? (0, Math.Max(20, all.Max() * 1.1))
            : (Math.Min(all.Where(v => v > 0).DefaultIfEmpty(0).Min(), Math.Min(life.MinimumPa ?? double.MaxValue, fan.Count > 0 ? fan.Min(f => f.Low) : double.MaxValue)) * 0.95, all.Max() * 1.04);
    }

    /// <summary>The drawing.</summary>
    /// <param name="life">The life; with at least one test of what is drawn.</param>
    /// <param name="who">How the shop writes days.</param>
    /// <param name="unit">The unit of pressures.</param>
    /// <param name="overTime">True over time, false over distance or hours.</param>
    /// <param name="leak">True for leak-down, false for compression.</param>
    public static IHtmlContent Draw(EngineLife life, ShopPerson who, PressureUnit unit, bool overTime, bool leak) => new LifeDrawing(life, who, unit, overTime, leak).Whole();

    /// <summary>The sign of each gauge, with its name: the key under the drawing.</summary>
    public static IReadOnlyList<(IHtmlContent Sign, string Gauge)> Key(EngineLife life, bool leak)
    {
        var names = life.Tests.Where(t => leak ? t.Kind == TestKind.LeakDown : t.Kind == TestKind.Dry).Select(t => t.Gauge ?? "").Distinct().Order(StringComparer.CurrentCulture).ToList();
        return [.. names.Select((g, i) => ((IHtmlContent)new HtmlString($"<svg class=\"life-key\" viewBox=\"-8 -8 16 16\" width=\"16\" height=\"16\" aria-hidden=\"true\">{Sign(i, 0, 0, "sign")}</svg>"), g.Length == 0 ? "gauge not named" : g))];
    }

    private double X(LifeTest test) => overTime ? Days(test.At) : life.RunOf(test);

    private static double Days(DateTimeOffset at) => (at - DateTimeOffset.UnixEpoch).TotalDays;

    private double Across(double x) => Left + (Width - Left - Right) * (x - fromX) / (toX - fromX);

    private double Up(double y) => Height - Bottom - (Height - Top - Bottom) * (Math.Clamp(y, fromY, toY) - fromY) / (toY - fromY);

    // The fan as far as it says something: to a little beyond the median's meeting with the minimum, never longer than what lies behind it and two years.
    private List<(double X, double Low, double Median, double High)> Fan()
    {
        if (leak || life.Forecast is not { } forecast || life.LatestDry is not { } last)
        {
            return [];
        }
        var behind = life.RunOf(tests[^1]) - life.RunOf(tests[0]);
        var most = forecast.Now + Math.Max(behind, 2 * life.Run.AYear);
        var points = forecast.Fan.Where(f => f.Run <= most || f.Run == forecast.Now).ToList();
        points = points.Count < 2 ? [.. forecast.Fan.Take(2)] : points;
        return [.. points.Select(f => (overTime ? Days(last.At) + 365.25 * (f.Run - forecast.Now) / life.Run.AYear : f.Run, f.LowPa, f.MedianPa, f.HighPa))];
    }

    private HtmlString Whole()
    {
        var what = leak ? "Leak-down of each cylinder" : "Compression of each cylinder";
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"life\" viewBox=\"0 0 {Width} {Height}\" role=\"img\" aria-label=\"{what} over {(overTime ? "time" : life.Run.InHours ? "hours" : "distance")}. The table has the figures.\">");
        Grid();
        if (!leak && life.MinimumPa is { } minimum)
        {
            svg.Append(CultureInfo.InvariantCulture, $"<rect class=\"under\" x=\"{Left}\" y=\"{Up(minimum):0.#}\" width=\"{Width - Left - Right}\" height=\"{Math.Max(0, Height - Bottom - Up(minimum)):0.#}\"/><path class=\"floor\" d=\"M{Left} {Up(minimum):0.#}H{Width - Right}\"/>");
            svg.Append(CultureInfo.InvariantCulture, $"<text class=\"floor-name\" x=\"{Left + 6}\" y=\"{Math.Min(Up(minimum) + 19, Height - Bottom - 4):0.#}\">minimum</text>");
        }
        var fan = Fan();
        if (fan.Count > 1)
        {
            svg.Append("<path class=\"fan\" d=\"M").AppendJoin('L', fan.Select(f => Point(f.X, f.High))).Append('L').AppendJoin('L', Enumerable.Reverse(fan).Select(f => Point(f.X, f.Low))).Append("Z\"/>");
            svg.Append("<path class=\"fan-middle\" d=\"M").AppendJoin('L', fan.Select(f => Point(f.X, f.Median))).Append("\"/>");
        }
        foreach (var (repair, number) in life.Repairs.Select((r, i) => (r, i + 1)))
        {
            var at = Across(overTime ? Days(repair.At) : life.Run.On(repair.At));
            svg.Append(CultureInfo.InvariantCulture, $"<path class=\"repair\" d=\"M{at:0.#} {Top}V{Height - Bottom}\"/><rect class=\"repair-sign\" x=\"{at - 11:0.#}\" y=\"{Top - 20}\" width=\"22\" height=\"22\" rx=\"5\"/><text class=\"repair-number\" x=\"{at:0.#}\" y=\"{Top - 3}\" text-anchor=\"middle\">{(char)('A' + Math.Min(25, number - 1))}</text>");
        }
        Lines();
        svg.Append("</svg>");
        return new HtmlString(svg.ToString());
    }

    private string Point(double x, double y) => string.Create(CultureInfo.InvariantCulture, $"{Across(x):0.#} {Up(y):0.#}");

    private void Grid()
    {
        var scale = leak ? 1 : unit.Pascals();
        foreach (var y in Ticks(fromY / scale, toY / scale, 5))
        {
            var at = Up(y * scale);
            svg.Append(CultureInfo.InvariantCulture, $"<path class=\"grid\" d=\"M{Left} {at:0.#}H{Width - Right}\"/><text x=\"{Left - 8}\" y=\"{at + 6:0.#}\" text-anchor=\"end\">{y.ToString("0.##", CultureInfo.CurrentCulture)}</text>");
        }
        svg.Append(CultureInfo.InvariantCulture, $"<text x=\"{Left - 8}\" y=\"{Top - 8}\" text-anchor=\"end\">{(leak ? "% lost" : unit.Symbol())}</text>");
        var beneath = Height - Bottom + 24;
        if (overTime)
        {
            var (from, to) = (DateTimeOffset.UnixEpoch.AddDays(fromX).Year, DateTimeOffset.UnixEpoch.AddDays(toX).Year + 1);
            var every = Math.Max(1, (to - from + 5) / 6);
            for (var year = from; year <= to; year += every)
            {
                Tick(Days(new DateTimeOffset(year, 1, 1, 0, 0, 0, TimeSpan.Zero)), year.ToString(CultureInfo.InvariantCulture));
            }
            return;
        }
        // Round figures in what the odometers count in.
        var perUnit = 1 / LifeText.In(1, life.Run.Unit);
        foreach (var x in Ticks(fromX / perUnit, toX / perUnit, 4))
        {
            Tick(x * perUnit, x.ToString("#,0", Thin));
        }
        svg.Append(CultureInfo.InvariantCulture, $"<text x=\"{Width - 6}\" y=\"{beneath + 22}\" text-anchor=\"end\">{RecordWords.Of(life.Run.Unit)}</text>");

        void Tick(double x, string says)
        {
            var at = Across(x);
            if (at >= Left && at <= Width - Right)
            {
                svg.Append(CultureInfo.InvariantCulture, $"<path class=\"grid\" d=\"M{at:0.#} {Top}V{Height - Bottom + 5}\"/><text x=\"{Math.Clamp(at, Left + 30, Width - Right - 20):0.#}\" y=\"{beneath}\" text-anchor=\"middle\">{WebUtility.HtmlEncode(says)}</text>");
            }
        }
    }

    // Round figures, about so many between two.
    private static IEnumerable<double> Ticks(double from, double to, int about)
    {
        var raw = (to - from) / about;
        if (raw <= 0)
        {
            yield break;
        }
        var power = Math.Pow(10, Math.Floor(Math.Log10(raw)));
        var step = (raw / power) switch { < 1.5 => power, < 3.5 => 2 * power, < 7.5 => 5 * power, _ => 10 * power };
        for (var x = Math.Ceiling(from / step) * step; x <= to; x += step)
        {
            yield return Math.Round(x, 10);
        }
    }

    private void Lines()
    {
        var counting = tests.Where(t => leak || t.LeftOut is null).ToList();
        var cylinders = tests.SelectMany(t => t.Values.Keys).Distinct().Order().ToList();
        var worst = counting.LastOrDefault()?.Worst?.Cylinder;
        var ends = new List<(int Cylinder, double Y)>();
        foreach (var cylinder in cylinders.OrderBy(c => c == worst))
        {
            var piece = new List<LifeTest>();
            void Flush()
            {
                if (piece.Count > 1)
                {
                    svg.Append(CultureInfo.InvariantCulture, $"<path class=\"cylinder{(cylinder == worst ? " worst" : "")}\" d=\"M").AppendJoin('L', piece.Select(t => Point(X(t), t.Values[cylinder]))).Append("\"/>");
                }
                piece.Clear();
            }
            // Hot and cold apart: a line from one to the other would show wear that is none.
            foreach (var alike in counting.Where(t => t.Values.ContainsKey(cylinder)).GroupBy(t => t.Temperature == EngineTemperature.Cold))
            {
                foreach (var test in alike)
                {
                    // Across a repair of the cylinder goes no line: it is another cylinder since.
                    if (piece.Count > 0 && life.Repairs.Any(r => r.Touches(cylinder) && r.At >= piece[^1].At && r.At < test.At))
                    {
                        Flush();
                    }
                    piece.Add(test);
                }
                Flush();
            }
            if (counting.LastOrDefault(t => t.Values.ContainsKey(cylinder)) is { } end)
            {
                ends.Add((cylinder, Up(end.Values[cylinder])));
            }
        }
        foreach (var test in tests.Count <= MostSigns ? tests : [])
        {
            foreach (var (cylinder, value) in test.Values)
            {
                var out_ = !leak && test.LeftOut is not null;
                svg.Append(out_ ? Cross(Across(X(test)), Up(value)) : Sign(gauges.IndexOf(test.Gauge ?? ""), Across(X(test)), Up(value), $"sign{(test.Temperature == EngineTemperature.Cold ? " cold" : "")}{(cylinder == worst ? " worst" : "")}"));
            }
        }
        // Numbers at the end of the lines, moved apart where they would lie on one another.
        if (counting.Count == 0)
        {
            return;
        }
        const double Gap = 14;
        var x = Across(X(counting[^1]));
        var sorted = ends.OrderBy(e => e.Y).ToList();
        var places = new double[sorted.Count];
        for (var i = 0; i < sorted.Count; i++)
        {
            places[i] = i == 0 ? sorted[i].Y : Math.Max(sorted[i].Y, places[i - 1] + Gap);
        }
        // Pushed down one after the other; together they go back up to where their lines end.
        var shift = Enumerable.Range(0, places.Length).Average(i => places[i] - sorted[i].Y);
        for (var i = 0; i < sorted.Count; i++)
        {
            var (cylinder, at) = (sorted[i].Cylinder, places[i] - shift);
            svg.Append(CultureInfo.InvariantCulture, $"<text class=\"cylinder-number{(cylinder == worst ? " worst" : "")}\" x=\"{x + 12:0.#}\" y=\"{at + 6:0.#}\">{cylinder}</text>");
        }
    }

    private static readonly NumberFormatInfo Thin = new() { NumberGroupSeparator = "\u202F" };

    private static string Cross(double x, double y) => string.Create(CultureInfo.InvariantCulture, $"<path class=\"not-counted\" d=\"M{x - 4:0.#} {y - 4:0.#}l8 8m0 -8l-8 8\"/>");

    private static string Sign(int gauge, double x, double y, string look) => (gauge % 5) switch
    {
        0 => string.Create(CultureInfo.InvariantCulture, $"<circle class=\"{look}\" cx=\"{x:0.#}\" cy=\"{y:0.#}\" r=\"4.5\"/>"),
        1 => string.Create(CultureInfo.InvariantCulture, $"<rect class=\"{look}\" x=\"{x - 4.2:0.#}\" y=\"{y - 4.2:0.#}\" width=\"8.4\" height=\"8.4\"/>"),
        2 => string.Create(CultureInfo.InvariantCulture, $"<path class=\"{look}\" d=\"M{x:0.#} {y - 5.5:0.#}l5 9h-10z\"/>"),
        3 => string.Create(CultureInfo.InvariantCulture, $"<path class=\"{look}\" d=\"M{x:0.#} {y - 6:0.#}l6 6l-6 6l-6 -6z\"/>"),
        _ => string.Create(CultureInfo.InvariantCulture, $"<path class=\"{look}\" d=\"M{x:0.#} {y + 5.5:0.#}l5 -9h-10z\"/>"),
    };
}
