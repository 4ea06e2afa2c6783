using System.Xml.Linq;
using Zandrik.Core.Engines;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;
using Zandrik.Web.Drawings;

namespace Zandrik.Web.Tests.Drawings;

public sealed class LeakDrawingsTests
{
    private static XElement Ring(string order, int? at, int? to, Rotation? rotation = Rotation.Clockwise, params double[] angles)
    {
        var firing = CylinderList.Read(order)!;
        var schedule = CrankSchedule.Of(new EngineSheet { Cylinders = firing.Count, FiringOrder = firing, Rotation = rotation, FiringAngles = angles.Length > 0 ? angles : null })!;
        return XElement.Parse(CrankRingDrawing.Draw(schedule, at, to, new Dictionary<int, string> { [1] = "11 %" }).ToString()!);
    }

    private static (double X, double Y) Place(XElement ring, int cylinder)
    {
        var circle = ring.Descendants("g").Single(g => (string?)g.Attribute("data-station") == $"{cylinder}").Element("circle")!;
        return ((double)circle.Attribute("cx")!, (double)circle.Attribute("cy")!);
    }

    [Fact]
    public void Cylinders_stand_on_the_ring_where_they_fire_two_turns_once_round()
    {
        var ring = Ring("1-3-4-2", 1, 3);
        Place(ring, 1).Y.ShouldBeLessThan(100, "the first at the top");
        Place(ring, 3).X.ShouldBeGreaterThan(250, "a quarter of the ring is half a turn");
        Place(ring, 4).Y.ShouldBeGreaterThan(250);
        ring.Attribute("aria-label")!.Value.ShouldContain("Turn the crank 180° (half a turn) clockwise, seen from the front, to cylinder 3.");
        // An anticlockwise engine's ring runs the other way.
        Place(Ring("1-3-4-2", 1, 3, Rotation.Anticlockwise), 3).X.ShouldBeLessThan(100);
    }

    [Fact]
    public void Every_way_from_here_is_drawn_and_the_one_that_is_meant_is_shown()
    {
        var ring = Ring("1-8-4-3-6-5-7-2", 4, 7);
        var ways = ring.Descendants("g").Where(g => g.Attribute("data-way") is not null).ToList();
        ways.Select(w => (string)w.Attribute("data-way")!).Order().ShouldBe(["1", "2", "3", "5", "6", "7", "8"]);
        ways.Where(w => ((string)w.Attribute("class")!).Contains("shown", StringComparison.Ordinal)).ShouldHaveSingleItem().Elements("text").First().Value.ShouldBe("360°");
        ring.Descendants("text").Select(t => t.Value).ShouldContain("11 %");
        Ring("1-3-2", null, null).Descendants("g").ShouldNotContain(g => g.Attribute("data-way") != null);
    }

    [Fact]
    public void An_uneven_two_shows_the_long_way_round_as_the_long_arc()
    {
        var way = Ring("1-2", 2, 1, Rotation.Clockwise, 0, 270).Descendants("g").Single(g => (string?)g.Attribute("data-way") == "1");
        way.Elements("text").First().Value.ShouldBe("450°");
        way.Element("path")!.Attribute("d")!.Value.ShouldContain(" 0 1 1 ");
    }

    [Fact]
    public void The_section_names_the_neighbours_within_the_bank_and_says_each_state()
    {
        var engine = new EngineSheet { Cylinders = 6, Layout = CylinderArrangement.V, Banks = [[1, 3, 5], [2, 4, 6]] };
        ListeningSection.Ears(engine, 3, null).Select(e => e.Name).ShouldBe(["Intake", "Exhaust", "Plug hole 1", "Plug hole 5", "Oil filler", "Coolant"]);
        ListeningSection.Ears(engine, 2, null).Select(e => e.Name).ShouldNotContain("Plug hole 1");
        var heard = ListeningSection.Ears(engine, 3, new LeakDownReading { Cylinder = 3, Listened = [ListeningPlace.Intake, ListeningPlace.Exhaust], Heard = [new HeardAir { At = ListeningPlace.Intake, Strength = HeardStrength.Clear }] });
        heard.Select(e => e.State).ShouldBe(["clear", "nothing", "not listened", "not listened", "not listened", "not listened"]);
        heard.Select(e => e.Next).ShouldBe(["strong", "faint", "nothing", "nothing", "nothing", "nothing"]);
        XElement.Parse(ListeningSection.Draw(engine, 3, AirHeard.Of(engine, new LeakDownReading { Cylinder = 3, Heard = [new HeardAir { At = ListeningPlace.AdjacentPlugHole, Cylinder = 5 }] }), "100 psi in").ToString()!)
            .Descendants("rect").Where(r => ((string?)r.Attribute("class"))?.Contains("blown", StringComparison.Ordinal) == true).ShouldHaveSingleItem().Attribute("data-web")!.Value.ShouldBe("5");
    }
}
