using System.Xml.Linq;
using Zandrik.Core.Records;
using Zandrik.Core.Testers;
using Zandrik.Core.Units;
using Zandrik.Web.Drawings;
using Zandrik.Web.Labels;

namespace Zandrik.Web.Tests.Drawings;

public sealed class SmallDrawingsTests
{
    private static readonly ShopTester Brass = new()
    {
        Label = "Brass <1>", FullScale = 300, Points = [new CheckPoint { Reads = 100, Is = 105 }, new CheckPoint { Reads = 200, Is = 190 }],
    };

    [Fact]
    public void A_check_is_drawn_with_its_points_in_their_places_and_words_for_who_cannot_see_it()
    {
        var svg = XElement.Parse(CorrectionDrawing.Draw(Brass).Value!);
        svg.Attribute("aria-label")!.Value.ShouldBe("Correction of Brass <1>: reads 100, is 105, reads 200, is 190 psi");
        var points = svg.Elements("circle").Select(c => ((double)c.Attribute("cx")!, (double)c.Attribute("cy")!)).ToList();
        var zero = double.Parse(svg.Element("path")!.Attribute("d")!.Value[1..].Split('H')[0].Split(' ')[1], System.Globalization.CultureInfo.InvariantCulture);
        points[0].Item1.ShouldBeLessThan(points[1].Item1);
        points[0].Item2.ShouldBeLessThan(zero, "more is above the line");
        points[1].Item2.ShouldBeGreaterThan(zero);
        svg.Elements("text").Select(t => t.Value).ShouldContain("+5");
        XElement.Parse(CorrectionDrawing.Strip(Brass).Value!).Elements("text").ShouldBeEmpty();
    }

    [Fact]
    public void A_pump_up_rises_from_compression_to_compression()
    {
        GaugePressure[] curve = [.. new double[] { 108, 160, 205 }.Select(v => new GaugePressure(v, PressureUnit.Psi))];
        var svg = XElement.Parse(PumpUpDrawing.Draw(curve, PressureUnit.Psi).Value!);
        svg.Elements("rect").Select(r => (double)r.Attribute("height")!).ShouldBeInOrder();
        svg.Attribute("aria-label")!.Value.ShouldBe("Pump-up: 108, 160, 205 psi");
        XElement.Parse(PumpUpDrawing.Draw([new GaugePressure(0, PressureUnit.Bar)], PressureUnit.Bar).Value!).Elements("rect").Count().ShouldBe(1, "a dead cylinder too");
    }

    [Fact]
    public void Every_sign_of_a_plug_has_a_shape_of_its_own()
    {
        var signs = Enum.GetValues<PlugSign>();
        signs.Select(s => PlugDrawing.Draw(s).Value).Append(PlugDrawing.Draw(null).Value).Distinct().Count().ShouldBe(signs.Length + 1);
        foreach (var sign in signs)
        {
            XElement.Parse(PlugDrawing.Draw(sign).Value!);
        }
    }

    [Fact]
    public void A_code_is_square_keeps_its_quiet_zone_and_differs_by_cylinder()
    {
        const string address = "http://127.0.0.1:5080/jobs/8/dry?cylinder=3";
        var svg = XElement.Parse(QrCode.Draw(address).Value!);
        var size = int.Parse(svg.Attribute("viewBox")!.Value.Split(' ')[2], System.Globalization.CultureInfo.InvariantCulture);
        var dark = System.Text.RegularExpressions.Regex.Matches(svg.Elements("path").Single().Attribute("d")!.Value, "M([0-9]+) ([0-9]+)h")
            .Select(m => (X: int.Parse(m.Groups[1].Value, System.Globalization.CultureInfo.InvariantCulture), Y: int.Parse(m.Groups[2].Value, System.Globalization.CultureInfo.InvariantCulture))).ToHashSet();
        dark.ShouldAllBe(d => d.X >= 4 && d.Y >= 4 && d.X < size - 4 && d.Y < size - 4);
        // The three corners by which a phone finds the code: a dark ring, a light ring, a dark middle.
        foreach (var (x, y) in new[] { (4, 4), (size - 11, 4), (4, size - 11) })
        {
            Enumerable.Range(0, 7).All(i => dark.Contains((x + i, y)) && dark.Contains((x, y + i))).ShouldBeTrue();
            Enumerable.Range(1, 5).Any(i => dark.Contains((x + i, y + 1))).ShouldBeFalse();
            dark.ShouldContain((x + 3, y + 3));
        }
        QrCode.Draw(address).Value.ShouldNotBe(QrCode.Draw(address.Replace("=3", "=4", StringComparison.Ordinal)).Value);
    }
}
