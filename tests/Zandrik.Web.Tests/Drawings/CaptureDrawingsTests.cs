using System.Globalization;
using System.Xml.Linq;
using Microsoft.AspNetCore.Html;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Simulation;
using Zandrik.Web.Drawings;

namespace Zandrik.Web.Tests.Drawings;

public sealed class CaptureDrawingsTests
{
    private static readonly EngineSheet Six = new() { Cylinders = 6, Fuel = Fuel.Petrol };

    private static XElement Svg(IHtmlContent drawing) => XElement.Parse(((HtmlString)drawing).Value!);

    private static IEnumerable<XElement> Of(XElement svg, string kind) => svg.Descendants().Where(e => ((string?)e.Attribute("class") ?? "").Split(' ').Contains(kind));

    private static RelativeAnswer WithWeakest(RelativeAnswer answer, int slot, RelativeVerdict verdict) =>
        answer with { Slots = [.. answer.Slots.Select(s => s.Slot == slot ? s with { Verdict = verdict, RelativePercent = 60 } : s)] };

    [Fact]
    public void Humps_are_tinted_side_by_side_from_the_first_mark_to_the_last()
    {
        var (picture, answer) = GoodTrace.For(Six);
        var humps = CaptureDrawing.HumpsOf(answer).ToList();
        humps.Count.ShouldBe(answer.Marks.Count);
        humps.Zip(humps.Skip(1)).ShouldAllBe(p => Math.Abs(p.First.To - p.Second.From) < 1e-9);
        var svg = Svg(CaptureDrawing.Draw(picture, WithWeakest(answer, 2, RelativeVerdict.Low)));
        var low = Of(svg, "hump").Where(h => ((string)h.Attribute("class")!).Contains("is-low", StringComparison.Ordinal)).ToList();
        low.Count.ShouldBe(answer.Marks.Count(m => m.Slot == 2));
        Of(svg, "sync-mark").Count().ShouldBe(answer.Events.Count);
        svg.Attribute("aria-label")!.Value.ShouldContain($"{answer.Cycles} cycles");
    }

    [Fact]
    public void The_surge_is_cut_off_and_said_and_everything_stays_inside_the_drawing()
    {
        var (picture, answer) = GoodTrace.For(Six);
        var svg = Svg(CaptureDrawing.Draw(picture, answer, [(0.2, "quiet <still>")]));
        Of(svg, "surge").Single().Value.ShouldBe(string.Create(CultureInfo.InvariantCulture, $"first surge {picture.Highest.Max():0} A"));
        Of(svg, "trace-note").Single().Value.ShouldBe("quiet <still>");
        var box = ((string)svg.Attribute("viewBox")!).Split(' ').Select(v => double.Parse(v, CultureInfo.InvariantCulture)).ToArray();
        var points = ((string)Of(svg, "trace").Single().Attribute("d")!).Split(['M', 'L', 'Z'], StringSplitOptions.RemoveEmptyEntries).Select(p => p.Split(' ').Select(v => double.Parse(v, CultureInfo.InvariantCulture)).ToArray()).ToList();
        points.ShouldAllBe(p => p[0] >= 0 && p[0] <= box[2] && p[1] >= 0 && p[1] <= box[3]);
    }

    [Fact]
    public void A_refused_capture_is_drawn_whole_without_humps()
    {
        var (picture, _) = GoodTrace.For(Six);
        var refused = new RelativeAnswer { Refused = new(CaptureCode.TooShort, "Too short.") };
        var svg = Svg(CaptureDrawing.Draw(picture, refused));
        Of(svg, "hump").ShouldBeEmpty();
        Of(svg, "surge").ShouldBeEmpty("nothing is cut off");
        svg.Attribute("aria-label")!.Value.ShouldContain("Too short.");
        Svg(CaptureDrawing.Draw(new CapturePicture(0.001, [], [], [], []), refused)).Name.LocalName.ShouldBe("svg");
    }

    [Fact]
    public void The_ring_has_the_first_of_the_order_on_top_and_a_dent_where_one_is_weak()
    {
        var (_, even) = GoodTrace.For(Six);
        Of(Svg(CycleRingDrawing.Draw(even)), "dent").ShouldBeEmpty();
        var svg = Svg(CycleRingDrawing.Draw(WithWeakest(even, 4, RelativeVerdict.Dead)));
        ((string)Of(svg, "dent").Single().Attribute("class")!).ShouldBe("dent is-dead");
        var names = Of(svg, "ring-name").Select(g => (Name: g.Element("text")!.Value, Y: (double)g.Element("circle")!.Attribute("cy")!)).ToList();
        names.MinBy(n => n.Y).Name.ShouldBe("1");
        names.Select(n => n.Name).ShouldBe(["1", "2", "3", "4", "5", "6"]);
        Of(svg, "ring-rpm").Single().Value.ShouldBe(even.CrankingRpm.ToString("0", CultureInfo.InvariantCulture));
        svg.Attribute("aria-label")!.Value.ShouldEndWith("Dents at 4.");
    }

    [Fact]
    public void Percent_stands_on_the_cylinders_with_its_error_and_slots_are_letters()
    {
        var (_, answer) = GoodTrace.For(Six);
        var sheet = Six with { Layout = CylinderArrangement.V, Banks = [[1, 3, 5], [2, 4, 6]] };
        var picture = RelativeLook.Picture(sheet, WithWeakest(answer, 3, RelativeVerdict.Low), 85);
        picture.Banks.Select(b => b.ToArray()).ShouldBe([[1, 3, 5], [2, 4, 6]]);
        (picture.Glasses[3].State, picture.Glasses[3].Level).ShouldBe((CylinderState.Low, 60));
        var svg = Svg(ColumnsDrawing.Draw(picture));
        Of(svg, "error-bar").Count().ShouldBe(6);
        Of(svg, "scale-line").Count().ShouldBe(2, "the limit, in either row");

        var blind = answer with { Synchronised = false, Slots = [.. answer.Slots.Select(s => s with { Cylinder = null })] };
        var slots = Svg(ColumnsDrawing.Draw(RelativeLook.Picture(sheet, blind, 85)));
        Of(slots, "number").Select(n => n.Value).ShouldBe(["A", "B", "C", "D", "E", "F"]);
        Of(slots, "front").Single().Value.ShouldContain("firing order");

        var open = RelativeLook.Picture(sheet, answer with { Unplugged = 2 }, 85).Glasses[2];
        (open.State, open.Level, open.Figure).ShouldBe((CylinderState.Untested, null, ""));
    }
}
