using Zandrik.Core.Life;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;
using static Zandrik.Core.Tests.Life.Lives;

namespace Zandrik.Core.Tests.Life;

public sealed class TestComparisonTests
{
    [Fact]
    public void A_cylinder_that_fell_shows_and_the_others_do_not()
    {
        var found = TestComparison.Of(Dry(1, Day(2021), "yard gauge", 160, 158, 161, 159), Dry(2, Day(2022), "yard gauge", 157, 157, 131, 158));
        found.Cylinders.Where(c => c.IsMore).Select(c => c.Cylinder).ShouldBe([3]);
        found.Cylinders.Where(c => c.IsOwnMore).Select(c => c.Cylinder).ShouldBe([3]);
        found.Cylinders[2].Difference.ShouldBe(100 * (131.0 / 161 - 1), 1e-9);
        found.Says.ShouldBe("Cylinder 3 differs by more than the gauges can explain. Against the others cylinder 3 changed by more than a gauge can explain. On average −5.4 %.");
    }

    [Fact]
    public void Another_gauge_explains_what_is_common_and_nothing_else()
    {
        var (was, isNow) = (Dry(1, Day(2021), "old gauge", 160, 158, 161, 159), Dry(2, Day(2021), "new gauge", 151, 149, 152, 150));
        TestComparison.Of(was, isNow with { Gauge = "old gauge" }).Cylinders.Count(c => c.IsMore).ShouldBe(0);
        var other = TestComparison.Of(was, isNow);
        other.Cylinders.ShouldAllBe(c => !c.IsMore && !c.IsOwnMore);
        other.Cylinders[0].Noise.ShouldBeGreaterThan(TestComparison.Of(was, isNow with { Gauge = "old gauge" }).Cylinders[0].Noise);
        other.Notes.Count.ShouldBe(2);
        TestComparison.Of(was with { IsByCheck = true }, isNow with { IsByCheck = true }).Notes.ShouldBeEmpty();
    }

    [Fact]
    public void What_a_cold_engine_reads_less_by_rule_is_no_finding()
    {
        var warm = Dry(1, Day(2021), "yard gauge", 160, 158, 161, 159);
        var cold = Test(2, Day(2021), TestKind.Dry, "yard gauge", EngineTemperature.Cold, [.. new double[] { 148, 147, 149, 147 }.Select(p => p * Psi)]);
        TestComparison.Of(warm, cold).Cylinders.ShouldAllBe(c => !c.IsMore);
        TestComparison.Of(cold, warm).Cylinders.ShouldAllBe(c => !c.IsMore);
        TestComparison.Of(warm, cold).Notes.ShouldHaveSingleItem().ShouldStartWith("One is of a warm engine");
    }

    [Fact]
    public void An_engine_against_the_others_of_its_sheet_is_held_against_their_middle()
    {
        var found = AgainstOthers.Of(Dry(1, Day(2021), "yard gauge", 150, 120), [Dry(2, Day(2021), "yard gauge", 160, 160), Dry(3, Day(2021), "yard gauge", 130, 150), Dry(4, Day(2021), "yard gauge", 170, 168)]);
        found.Select(f => (f.Cylinder, Math.Round(f.UsualPa / Psi), f.Lower)).ShouldBe([(1, 160, 1), (2, 160, 0)]);
        found[1].Difference.ShouldBe(-0.25, 1e-9);
        AgainstOthers.Of(Dry(1, Day(2021), "yard gauge", 150), []).ShouldBeEmpty();
        found.Select(f => f.IsMore).ShouldBe([false, true], "150 of 160 is chance, 120 is not");
        var cold = Test(1, Day(2021), TestKind.Dry, "yard gauge", EngineTemperature.Cold, [147 * Psi]);
        var beside = AgainstOthers.Of(cold, [Dry(2, Day(2021), "yard gauge", 160), Dry(3, Day(2021), "yard gauge", 159), Dry(4, Day(2021), "yard gauge", 161)])[0];
        beside.Difference.ShouldBe(147 / (160 * Math.Exp(WearTrend.ColdLess)) - 1, 1e-9, "held against what those would read cold");
        AgainstOthers.Of(Dry(1, Day(2021), "yard gauge", 0), [Dry(2, Day(2021), "yard gauge", 160)])[0].IsMore.ShouldBeTrue("nothing at all is never chance");
    }

    [Theory]
    [InlineData(1)]
    [InlineData(4)]
    [InlineData(30)]
    public void Engines_of_a_kind_are_seldom_called_different(int others)
    {
        var draw = new SeededDraw(7);
        LifeTest Drawn()
        {
            var engine = 160 * Math.Exp(0.04 * draw.Normal());
            return Dry(1, Day(2021), "yard gauge", [.. Enumerable.Range(0, 4).Select(_ => engine * Math.Exp(WearTrend.ReadingSpread * draw.Normal()))]);
        }
        var called = Enumerable.Range(0, 1000).Count(_ => AgainstOthers.Of(Drawn(), [.. Enumerable.Range(0, others).Select(_ => Drawn())]).Any(c => c.IsMore));
        called.ShouldBeLessThan(75, "one of twenty is called different by chance, and chance has its own");
    }

    [Fact]
    public void Leak_down_is_compared_in_points_and_never_with_pressure()
    {
        LifeTest Leak(int job, params double[] lost) => Test(job, Day(2021), TestKind.LeakDown, "yard tester", EngineTemperature.Warm, lost);
        var found = TestComparison.Of(Leak(1, 8, 9, 7, 8), Leak(2, 9, 8, 34, 8));
        found.Cylinders.Where(c => c.IsMore).Select(c => c.Cylinder).ShouldBe([3]);
        found.Cylinders[2].Difference.ShouldBe(27);
        found.Says.ShouldEndWith("On average +6.8 points.");
        TestComparison.Of(Leak(1, 8), Dry(2, Day(2021), "yard gauge", 150)).Problem.ShouldNotBeNull();
        TestComparison.Of(Leak(1, 8), Leak(1, 8)).Problem.ShouldBe("That is the same test twice: pick another.");
    }

    [Fact]
    public void Of_engines_that_did_not_change_one_in_twenty_is_called_changed()
    {
        var draw = new SeededDraw(11);
        LifeTest Drawn(int job) => Dry(job, Day(2021), "yard gauge", [.. Enumerable.Range(0, 6).Select(_ => 150 * Math.Exp(WearTrend.ReadingSpread * draw.Normal()))]);
        (Enumerable.Range(0, 4000).Count(_ => TestComparison.Of(Drawn(1), Drawn(2)).Cylinders.Any(c => c.IsMore)) / 4000.0).ShouldBeInRange(0.035, 0.065);
    }
}
