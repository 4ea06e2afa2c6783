using Zandrik.Core.Records;
using Zandrik.Core.Simulation;
using Zandrik.Web.Drawings;
using Zandrik.Web.Pages.Jobs;

namespace Zandrik.Web.Tests.Drawings;

public sealed class AirSectionTests
{
    private static readonly EngineSheet Four = new() { Cylinders = 4 };

    [Fact]
    public void An_arrow_is_as_wide_as_its_hole_and_what_lets_nothing_by_has_none()
    {
        double Width(double mm2)
        {
            var svg = AirSection.Draw(Four, 2, [new(LeakPlace.Exhaust, null, mm2, true)]).Value!;
            var at = svg.IndexOf("stroke-width=\"", StringComparison.Ordinal) + 14;
            return double.Parse(svg[at..svg.IndexOf('"', at)], System.Globalization.CultureInfo.InvariantCulture);
        }
        Width(1.6).ShouldBe(2 * Width(0.4), 0.2, "four times the area is twice as wide");
        Width(500).ShouldBe(Width(100), "the drawing must still be seen");
        AirSection.Draw(Four, 2, [new(LeakPlace.Exhaust, null, 0.001, false)]).Value!.ShouldNotContain("air-way");
    }

    [Fact]
    public void It_says_in_words_what_it_draws_largest_first()
    {
        var svg = AirSection.Draw(Four, 2, [new(LeakPlace.Rings, null, 0.3, false), new(LeakPlace.Neighbour, 3, 1.1, true)]).Value!;
        svg.ShouldContain("aria-label=\"Cylinder 2 in section. Air goes: to cylinder 3 1.1 mm², past the rings 0.30 mm²\"");
        AirSection.Draw(Four, 2, [], second: true).Value!.ShouldNotContain("<defs>");
    }

    [Theory]
    [InlineData(0, 0)]
    [InlineData(0.01, 0)]
    [InlineData(0.31, 161)]
    [InlineData(50, 400)]
    [InlineData(900, 400)]
    public void A_slider_stands_where_its_area_is(double mm2, int place)
    {
        AirSliders.PlaceOf(mm2).ShouldBe(place);
        if (mm2 is > 0.011 and < 50)
        {
            AirSliders.Mm2(place).ShouldBe(mm2, 0.02 * mm2);
        }
        AirSliders.Mm2(0).ShouldBe(0);
    }
}
