using System.Globalization;
using System.Xml.Linq;
using Zandrik.Core.Deciding;
using Zandrik.Core.Repairs;
using Zandrik.Web.Drawings;
using Zandrik.Web.Front;

namespace Zandrik.Web.Tests.Drawings;

public sealed class DecisionChartTests
{
    private static DecisionOption Option(double expected, double cured, string? struck = null) => new()
    {
        Word = "gasket-1", Title = "", Plain = "", Does = "", Minutes = default, Parts = default, Machining = default, Days = default, Expected = expected, Cured = cured, Why = "", Struck = struck, Option = RepairOption.Leave,
    };

    private static List<(double X, double Y)> Marks(params DecisionOption[] options)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        DecisionChart.Draw(options, new CostText(620, "kr")).WriteTo(text, System.Text.Encodings.Web.HtmlEncoder.Default);
        return [.. XElement.Parse(text.ToString()).Descendants("circle").Select(c => ((double)c.Attribute("cx")!, (double)c.Attribute("cy")!))];
    }

    [Theory]
    [InlineData(0)]
    [InlineData(0.5)]
    [InlineData(1)]
    public void Options_on_one_spot_stand_beside_each_other_inside_the_picture(double cured)
    {
        var marks = Marks([.. Enumerable.Repeat(Option(900, cured), 9)]);
        marks.Count.ShouldBe(9);
        marks.ShouldAllBe(m => m.X > 0 && m.X < 760);
        marks.Select(m => m.X).Distinct().Count().ShouldBe(9);
    }

    [Fact]
    public void More_than_have_room_are_drawn_all_the_same_and_what_is_struck_out_is_not() =>
        Marks([.. Enumerable.Repeat(Option(900, 0.9), 60), Option(900, 0.9, "No.")]).Count.ShouldBe(60);
}
