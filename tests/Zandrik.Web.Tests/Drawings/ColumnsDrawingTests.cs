using System.Globalization;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using Microsoft.AspNetCore.Html;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Web.Drawings;

namespace Zandrik.Web.Tests.Drawings;

public sealed class ColumnsDrawingTests
{
    private static IElement Drawn(IHtmlContent content)
    {
        using var writer = new StringWriter(CultureInfo.InvariantCulture);
        content.WriteTo(writer, System.Text.Encodings.Web.HtmlEncoder.Default);
        return new HtmlParser().ParseDocument(writer.ToString()).QuerySelector("svg")!;
    }

    private static ColumnsPicture Picture(IReadOnlyList<IReadOnlyList<int>> banks, Func<int, Glass> glass) => new()
    {
        Title = "Cylinders", Banks = banks, Glasses = banks.SelectMany(b => b).ToDictionary(c => c, glass), FullScale = 100,
        Lines = [new LevelLine(90, "nominal", "90", false), new LevelLine(88, "min", "88", true)],
        Band = new SpreadBand(95, 85, "good"), Selected = 1, Link = c => $"/here?cylinder={c}",
    };

    private static double Top(IElement column) =>
        double.Parse(column.QuerySelector(".bar")!.GetAttribute("y")!, CultureInfo.InvariantCulture);

    [Fact]
    public void A_higher_reading_stands_higher_and_none_leaves_the_glass_empty()
    {
        var svg = Drawn(ColumnsDrawing.Draw(Picture([[1, 2, 3]], c => new Glass(CylinderState.Sound, c == 3 ? null : 40.0 * c, $"{40 * c}", ""))));
        var columns = svg.QuerySelectorAll(".column").ToList();
        Top(columns[1]).ShouldBeLessThan(Top(columns[0]));
        columns[2].QuerySelector(".level").ShouldBeNull();
    }

    [Fact]
    public void State_is_never_colour_alone_class_mark_and_word_agree()
    {
        foreach (var state in Enum.GetValues<CylinderState>())
        {
            var svg = Drawn(ColumnsDrawing.Draw(Picture([[1]], _ => new Glass(state, 50, "50", StateLook.Word(state)))));
            var column = svg.QuerySelector(".column")!;
            column.ClassList.ShouldContain("is-" + StateLook.Word(state));
            column.GetAttribute("aria-label").ShouldBe(StateLook.Word(state));
            column.QuerySelectorAll(".mark, .mark-line").Length.ShouldBe(state == CylinderState.Sound ? 0 : 1);
        }
        Enum.GetValues<CylinderState>().Select(StateLook.Mark).ShouldBeUnique();
    }

    [Fact]
    public void The_mark_of_a_cylinder_that_is_not_judged_never_strikes_out_its_figure()
    {
        static double Height(string figure) => double.Parse(Drawn(ColumnsDrawing.Draw(Picture([[1]], _ => new Glass(CylinderState.Untested, figure.Length > 0 ? 50 : null, figure, "")))).QuerySelector("g:has(> .mark-line)")!.GetAttribute("transform")!.Trim("translate()".ToCharArray()).Split(' ')[1], CultureInfo.InvariantCulture);
        Height("140").ShouldBeLessThan(Height("") - 30);
    }

    [Theory]
    [InlineData(1, 16)]
    [InlineData(2, 8)]
    [InlineData(4, 4)]
    public void Sixteen_cylinders_fit_in_any_arrangement_without_touching(int banks, int each)
    {
        var numbers = Enumerable.Range(0, banks).Select(b => (IReadOnlyList<int>)[.. Enumerable.Range(1 + b * each, each)]).ToList();
        var svg = Drawn(ColumnsDrawing.Draw(Picture(numbers, c => new Glass(CylinderState.Watch, 50 + c, "1400", ""))));
        var box = svg.GetAttribute("viewBox")!.Split(' ').Select(s => double.Parse(s, CultureInfo.InvariantCulture)).ToArray();
        var places = svg.QuerySelectorAll(".touch").Select(t => new[] { "x", "y", "width", "height" }
            .Select(a => double.Parse(t.GetAttribute(a)!, CultureInfo.InvariantCulture)).ToArray()).ToList();
        places.Count.ShouldBe(16);
        places.ShouldAllBe(p => p[0] >= 0 && p[0] + p[2] <= box[2] && p[1] >= 0 && p[1] + p[3] <= box[3]);
        for (var i = 0; i < 16; i++)
        {
            places.Skip(i + 1).ShouldAllBe(q => q[0] >= places[i][0] + places[i][2] || q[1] >= places[i][1] + places[i][3]);
        }
    }

    [Fact]
    public void Labels_of_lines_that_lie_close_do_not_stand_on_each_other()
    {
        var svg = Drawn(ColumnsDrawing.Draw(Picture([[1]], _ => new Glass(CylinderState.Sound, 50, "50", ""))));
        var labels = svg.QuerySelectorAll(".scale-line text:first-of-type").Select(t => double.Parse(t.GetAttribute("y")!, CultureInfo.InvariantCulture)).Order().ToList();
        (labels[1] - labels[0]).ShouldBeGreaterThan(16.9);
    }

    [Fact]
    public void A_dry_test_becomes_glasses_with_the_figures_as_read_and_a_band_below_the_reference()
    {
        var engine = new EngineSheet { Cylinders = 3, Spec = new EngineSpec { Unit = PressureUnit.Bar, Nominal = 13, Minimum = 9.5 } };
        var test = new DryCompressionTest
        {
            Unit = PressureUnit.Bar,
            Readings = [new CompressionReading { Cylinder = 1, Value = 12, FirstPulse = 6.1 }, new CompressionReading { Cylinder = 2, Value = 11.85 }],
        };
        var picture = DryPicture.Of(engine, test, DryJudgement.Of(engine, test), PressureUnit.Bar);
        picture.Glasses.Values.Select(g => g.Figure).ShouldBe(["12.0", "11.85", ""]);
        picture.Glasses[1].Notch!.Value.ShouldBe(610_000, 1);
        picture.Band!.Top.ShouldBe(1_200_000, 1);
        picture.Band.Bottom.ShouldBe(1_080_000, 1);
        picture.Lines.Select(l => (l.Name, l.Figure, l.Firm)).ShouldBe([("nominal", "13.0", false), ("min", "9.5", true)]);
        picture.Glasses[3].Says.ShouldBe("Cylinder 3 untested");
    }

    [Fact]
    public void A_burnt_web_is_drawn_between_neighbours_of_one_bank_and_said_in_words()
    {
        var picture = Picture([[1, 3, 5], [2, 4, 6]], c => new Glass(CylinderState.Sound, 50, "50", $"Cylinder {c}")) with { Webs = [new BurntWeb(5, 3, "Gasket between 3 and 5"), new BurntWeb(1, 2, "no neighbours")] };
        var web = Drawn(ColumnsDrawing.Draw(picture)).QuerySelectorAll(".burnt-web").ShouldHaveSingleItem();
        web.GetAttribute("aria-label").ShouldBe("Gasket between 3 and 5");
        Drawn(ColumnsDrawing.Draw(picture with { Webs = [] })).QuerySelectorAll(".burnt-web").ShouldBeEmpty();
    }
}
