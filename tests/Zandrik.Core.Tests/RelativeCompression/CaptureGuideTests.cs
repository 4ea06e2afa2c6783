using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.Tests.RelativeCompression;

public sealed class CaptureGuideTests
{
    private static string Says(EngineSheet engine, string word) => CaptureGuide.For(engine).Single(l => l.Word == word).Says;

    [Fact]
    public void What_can_hurt_comes_first()
    {
        var lines = CaptureGuide.For(new EngineSheet { Cylinders = 4 });
        lines.TakeWhile(l => l.Guards).Count().ShouldBe(lines.Count(l => l.Guards));
        lines.Select(l => l.Word).ShouldBeUnique();
    }

    [Fact]
    public void Each_engine_has_its_own_words()
    {
        var diesel = new EngineSheet { Cylinders = 6, Fuel = Fuel.Diesel, Gearbox = Gearbox.Automatic };
        Says(diesel, "cannot-start").ShouldStartWith("Injection off");
        Says(diesel, "range").ShouldContain("200 to 300 A");
        Says(diesel, "held").ShouldContain("park");
        var petrol = new EngineSheet { Cylinders = 4, Gearbox = Gearbox.Manual };
        Says(petrol, "cannot-start").ShouldStartWith("Fuel off and spark disabled safely");
        // A trigger that lives needs the ignition on: then no spark may go into the air.
        Says(petrol, "sync").ShouldContain("ignition stays on");
        Says(petrol, "sync").ShouldContain("never into the air");
        Says(diesel, "sync").ShouldNotContain("spark");
        Says(petrol, "range").ShouldContain("80 to 200 A");
        Says(petrol, "held").ShouldContain("Out of gear");
    }

    [Theory]
    [InlineData(3, Fuel.Petrol, 3)]
    [InlineData(4, Fuel.Petrol, 4)]
    [InlineData(6, Fuel.Petrol, 6)]
    [InlineData(6, Fuel.Diesel, 6)]
    [InlineData(12, Fuel.Diesel, 8)]
    public void The_good_trace_is_of_an_engine_like_the_one_at_hand_and_is_good(int cylinders, Fuel fuel, int shown)
    {
        var (picture, answer) = GoodTrace.For(new EngineSheet { Cylinders = cylinders, Fuel = fuel });
        answer.Slots.Count.ShouldBe(shown);
        answer.Slots.ShouldAllBe(s => s.Verdict == RelativeVerdict.Even);
        answer.Warnings.ShouldBeEmpty();
        answer.Confidence.ShouldBe(Confidence.High);
        picture.DurationS.ShouldBe(4.1, 0.2);
        GoodTrace.For(new EngineSheet { Cylinders = cylinders, Fuel = fuel }).Picture.ShouldBeSameAs(picture);
    }
}
