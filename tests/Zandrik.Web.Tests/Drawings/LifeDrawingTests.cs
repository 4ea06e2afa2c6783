using System.Globalization;
using System.Xml.Linq;
using Zandrik.Core.Life;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Drawings;
using Zandrik.Web.Front;

namespace Zandrik.Web.Tests.Drawings;

public sealed class LifeDrawingTests
{
    private const double Psi = 6894.757293168361;

    private static readonly ShopPerson Who = new() { Shop = "Quillmoor Ferry Workshop", TimeZone = "Atlantic/Faroe", Unit = "psi" };

    private static DateTimeOffset Year(int year) => new(year, 5, 1, 9, 0, 0, TimeSpan.Zero);

    private static LifeTest Dry(int job, EngineTemperature temperature, string? gauge, string? leftOut, params double[] psi) => new()
    {
        Id = job, Job = job, Kind = TestKind.Dry, At = Year(2020 + job), Gauge = gauge, Temperature = temperature, LeftOut = leftOut, Values = psi.Select((v, i) => (i + 1, v * Psi)).ToDictionary(v => v.Item1, v => v.Item2),
    };

    private static EngineLife Life(IEnumerable<LifeTest> tests, params LifeRepair[] repairs)
    {
        var all = tests.ToList();
        return EngineLife.Of(new EngineSheet { Cylinders = 4, Spec = new EngineSpec { Unit = PressureUnit.Psi, Minimum = 120 } },
            [.. all.Select(t => new Core.Life.Visit(t.Job, t.At, 1, new Odometer { Value = 20_000 * t.Job, Unit = DistanceUnit.Km }))], all, repairs);
    }

    private static XElement Drawn(EngineLife life, bool overTime = false)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        LifeDrawing.Draw(life, Who, PressureUnit.Psi, overTime, leak: false).WriteTo(text, System.Text.Encodings.Web.HtmlEncoder.Default);
        return XElement.Parse(text.ToString());
    }

    private static int Count(XElement svg, string look) => svg.Descendants().Count(e => e.Attribute("class")?.Value.Split(' ').Contains(look) == true);

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void Hot_and_cold_and_before_and_after_a_repair_are_lines_of_their_own(bool overTime)
    {
        var life = Life([
            Dry(1, EngineTemperature.Warm, "A", null, 170, 170, 170, 170), Dry(2, EngineTemperature.Warm, "A", null, 168, 168, 130, 168), Dry(3, EngineTemperature.Warm, "B", null, 167, 167, 168, 167),
            Dry(4, EngineTemperature.Warm, "B", null, 166, 166, 167, 166), Dry(5, EngineTemperature.Cold, "B", null, 150, 150, 151, 150), Dry(6, EngineTemperature.Warm, null, "throttle shut", 90, 90, 90, 90),
        ], new LifeRepair(2, Year(2022).AddDays(2), "Top end", [3]));
        var svg = Drawn(life, overTime);
        Count(svg, "cylinder").ShouldBe(5, "three whole ones, and one in two pieces; the cold test is joined to none");
        Count(svg, "cold").ShouldBe(4);
        Count(svg, "not-counted").ShouldBe(4);
        Count(svg, "repair").ShouldBe(1);
        Count(svg, "fan").ShouldBe(1);
        Count(svg, "cylinder-number").ShouldBe(4);
        LifeDrawing.Key(life, leak: false).Select(k => k.Gauge).ShouldBe(["gauge not named", "A", "B"]);
        foreach (var number in svg.Descendants().SelectMany(e => e.Attributes()).Where(a => a.Name.LocalName is "x" or "y" or "cx" or "cy").Select(a => double.Parse(a.Value, CultureInfo.InvariantCulture)))
        {
            number.ShouldBeInRange(-20, 780);
        }
    }

    [Fact]
    public void One_test_and_four_hundred_are_drawn()
    {
        Count(Drawn(Life([Dry(1, EngineTemperature.Warm, "A", null, 150, 151, 149, 150)])), "sign").ShouldBe(4);
        var many = Drawn(Life(Enumerable.Range(1, 400).Select(i => Dry(i, EngineTemperature.Warm, "A", null, 170, 169, 168, 167) with { At = Year(2000).AddDays(20 * i) })));
        Count(many, "sign").ShouldBe(0, "signs would cover the lines");
        Count(many, "cylinder").ShouldBe(4);
    }

    [Fact]
    public void An_engine_whose_odometers_count_miles_is_shown_in_miles()
    {
        LifeTest[] tests = [Dry(1, EngineTemperature.Warm, "A", null, 150, 151, 149, 150), Dry(4, EngineTemperature.Warm, "A", null, 145, 146, 141, 145)];
        var life = EngineLife.Of(new EngineSheet { Cylinders = 4 }, [.. tests.Select(t => new Core.Life.Visit(t.Job, t.At, 1, new Odometer { Value = 20_000 * t.Job, Unit = DistanceUnit.Mi }))], tests, []);
        life.Run.Unit.ShouldBe(DistanceUnit.Mi);
        LifeText.Exact(life.RunOf(tests[1]), life.Run.Unit).ShouldBe("80\u202F000\u202Fmi", "what was typed comes back to the last figure");
        LifeText.Falls(life)!.ShouldContain("in 1000\u202Fmi. Usual is 0.16 %");
        Drawn(life).Elements().Select(e => e.Value).ShouldContain("mi");
    }

    [Fact]
    public void It_says_when_the_minimum_is_met_and_when_to_test_again()
    {
        var life = Life([Dry(1, EngineTemperature.Warm, "A", null, 150, 151, 149, 150), Dry(4, EngineTemperature.Warm, "A", null, 140, 141, 136, 140)]);
        LifeText.Stands(life, PressureUnit.Psi, Who).ShouldBe("Lowest: cylinder 3 at 136 psi, 13 % over the maker’s minimum (2024-05-01).");
        LifeText.Falls(life)!.ShouldStartWith("Cylinder 3 falls fastest: ");
        LifeText.Meets(life, Who)!.ShouldMatch("^The lowest cylinder reaches the minimum after about [\\d\u202F]+km more \\(20\\d\\d-\\d\\d-\\d\\d\\); in 4 cases in 5 between ");
        LifeText.Again(life.Retest, Who, Year(2030)).ShouldStartWith("Retest due since ");
        LifeText.Again(life.Retest, Who, Year(2024)).ShouldStartWith("Retest by ");
        LifeText.Stands(Life([]), PressureUnit.Psi, Who).ShouldBe("No usable dry test yet.");
        LifeText.Falls(Life([Dry(1, EngineTemperature.Warm, "A", null, 150, 151, 149, 150)]))!.ShouldStartWith("One test cannot show wear: 0.1 %");
        LifeText.Meets(Life([Dry(1, EngineTemperature.Warm, "A", null, 100, 101, 99, 100)]), Who)!.ShouldEndWith("likely that the lowest cylinder is already under the minimum.");
    }
}
