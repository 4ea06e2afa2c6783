using CsCheck;
using Zandrik.Core.Life;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;
using Zandrik.Core.Units;
using static Zandrik.Core.Tests.Life.Lives;

namespace Zandrik.Core.Tests.Life;

public sealed class EngineLifeTests
{
    private const int Lifetimes = 1000;

    [Fact]
    public void Two_tests_say_something_honest_already()
    {
        var life = EngineLife.Of(Four, [Visit(1, Day(2021), 60_000), Visit(2, Day(2023), 100_000)], [Dry(1, Day(2021), "yard gauge", 160, 162, 158, 160), Dry(2, Day(2023), "yard gauge", 152, 156, 141, 154)], []);
        life.Fastest!.Cylinder.ShouldBe(3);
        // Between what is usual, 0.1 % in 1000 km, and what two readings show, 0.28 %.
        life.Fastest.PerStep.ShouldBeInRange(-0.0028, -0.001);
        life.Margin!.Value.ShouldBe(141.0 / 120 - 1, 1e-9);
        life.Run.AYear.ShouldBe(20_000, 60);
        var (soon, median, late) = (life.Forecast!.Until(0.1)!.Value, life.Forecast.Until(0.5)!.Value, life.Forecast.Until(0.9));
        soon.ShouldBeLessThan(median);
        (late ?? double.MaxValue).ShouldBeGreaterThan(median);
        life.Retest.Why.ShouldBeOneOf(RetestWhy.Time, RetestWhy.Run, RetestWhy.Wear);
        life.Retest.Due!.Value.ShouldBeInRange(Day(2023), Day(2024, 1, 3));
    }

    [Fact]
    public void A_repair_starts_the_cylinders_it_touched_anew_and_asks_for_a_test()
    {
        Visit[] visits = [Visit(1, Day(2021), 60_000), Visit(2, Day(2022), 80_000), Visit(3, Day(2023), 100_000)];
        LifeTest[] tests = [Dry(1, Day(2021), "yard gauge", 160, 160, 160, 160), Dry(2, Day(2022), "yard gauge", 158, 158, 110, 158), Dry(3, Day(2023), "yard gauge", 157, 157, 158, 157)];
        var repair = new LifeRepair(2, Day(2022, 2), "Top end", [3]);
        var life = EngineLife.Of(Four, visits, tests, [repair]);
        life.Trend!.Cylinders.Select(c => c.Readings).ShouldBe([3, 3, 1, 3]);
        life.Fastest!.PerStep.ShouldBeGreaterThan(-0.002);
        life.UnreadSinceRepair.ShouldBeEmpty();

        var before = EngineLife.Of(Four, visits[..2], tests[..2], [repair]);
        before.UnreadSinceRepair.ShouldBe([3]);
        before.Retest.ShouldBe(new Retest(Day(2022, 2), RetestWhy.Repaired));
        EngineLife.Of(Four, visits[..2], tests[..2], [repair with { Cylinders = [] }]).Trend.ShouldBeNull();
    }

    [Fact]
    public void Tested_again_by_time_run_wear_or_not_at_all()
    {
        Visit[] little = [Visit(1, Day(2021), 60_000), Visit(2, Day(2023), 62_000)];
        LifeTest[] good = [Dry(1, Day(2021), "yard gauge", 170, 171, 169, 170), Dry(2, Day(2023), "yard gauge", 170, 170, 169, 170)];
        EngineLife.Of(Four, little, good, []).Retest.ShouldBe(new Retest(Day(2024), RetestWhy.Time));
        EngineLife.Of(Four, little, good, [], new RetestRule(6, 20_000, 800)).Retest.Due.ShouldBe(Day(2023, 7));
        Visit[] far = [Visit(1, Day(2021), 60_000), Visit(2, Day(2023), 140_000)];
        EngineLife.Of(Four, far, good, []).Retest.Why.ShouldBe(RetestWhy.Run);
        EngineLife.Of(Four, far, good, [], isGone: true).Retest.ShouldBe(new Retest(null, RetestWhy.Gone));
        EngineLife.Of(Four, [Visit(1, Day(2021), 60_000)], [Dry(1, Day(2021), "yard gauge", 126, 127, 126, 128)], []).Retest.Why.ShouldBe(RetestWhy.MayBeUnder);
        EngineLife.Of(Four, [Visit(1, Day(2021), 60_000)], [Dry(1, Day(2021), "yard gauge", 150, 150, 90, 150)], []).Retest.ShouldBe(new Retest(null, RetestWhy.IsUnder));
        EngineLife.Of(Four, far, [], []).Retest.ShouldBe(new Retest(null, RetestWhy.NeverTested));
        EngineLife.Of(Four with { Spec = null }, far, good, []).Forecast.ShouldBeNull();
    }

    [Fact]
    public void What_wear_did_not_do_is_no_wear()
    {
        var conditions = new TestConditions { Throttle = ThrottlePlate.Closed };
        var shut = LifeTest.Of(1, 1, Day(2021), new DryCompressionTest { Unit = PressureUnit.Psi, Conditions = conditions, Readings = [new() { Cylinder = 1, Value = 96 }] }, Four)!;
        shut.LeftOut.ShouldBe("throttle shut");
        EngineLife.Of(Four, [Visit(1, Day(2021), 60_000)], [shut], []).Trend.ShouldBeNull();
        LifeTest.Of(1, 1, Day(2021), new DryCompressionTest { Readings = [] }, Four).ShouldBeNull();
        LifeTest.Of(1, 1, Day(2021), new DryCompressionTest { Unit = PressureUnit.Bar, Readings = [new() { Cylinder = 1, Value = 150 }] }, Four)!.LeftOut.ShouldBe("a figure no engine reads");
        LifeTest.Of(1, 1, Day(2021), new LeakDownTest { Unit = PressureUnit.Psi, Supply = 100, Readings = [new() { Cylinder = 2, Held = 14, NotUsed = "piston moved" }, new() { Cylinder = 2, Held = 82 }, new() { Cylinder = 3, Held = 10, NotUsed = "wrong stroke" }] }, Four)!.Values.ShouldHaveSingleItem().Value.ShouldBe(18);
        LifeTest.Of(1, 1, Day(2021), new WetCompressionTest { Unit = PressureUnit.Psi, Readings = [new() { Cylinder = 1, Value = 150 }] }, Four)!.LeftOut.ShouldBe("with oil");
        LifeTest.Of(1, 1, Day(2021), new LeakDownTest { Unit = PressureUnit.Psi, Supply = 100, Readings = [new() { Cylinder = 2, Held = 82 }] }, Four)!.Worst.ShouldBe((2, 18));
    }

    [Fact]
    public void A_gauge_that_reads_high_is_not_taken_for_an_engine_that_mended_itself()
    {
        Visit[] visits = [Visit(1, Day(2021), 60_000), Visit(2, Day(2022), 80_000)];
        LifeTest[] tests = [Dry(1, Day(2021), "old gauge", 150, 150, 150, 150), Dry(2, Day(2022), "new gauge", 159, 159, 159, 159)];
        var life = EngineLife.Of(Four, visits, tests, []);
        life.Trend!.Cylinders.ShouldAllBe(c => c.PerStep < 0.0005);
        var checkedOnes = tests.Select(t => t with { IsByCheck = true }).ToArray();
        EngineLife.Of(Four, visits, checkedOnes, []).Trend!.Cylinders[0].NowPa.ShouldBeGreaterThan(life.Trend.Cylinders[0].NowPa);
    }

    [Fact]
    public void A_cold_test_is_not_taken_for_wear()
    {
        Visit[] visits = [Visit(1, Day(2021), 60_000), Visit(2, Day(2022), 80_000)];
        var cold = Test(2, Day(2022), TestKind.Dry, "yard gauge", EngineTemperature.Cold, [.. new double[] { 140, 140, 140, 140 }.Select(p => p * Psi)]);
        var life = EngineLife.Of(Four, visits, [Dry(1, Day(2021), "yard gauge", 152, 152, 152, 152), cold], []);
        life.Trend!.Cylinders.ShouldAllBe(c => c.PerStep > -0.002 && c.NowPa > 144 * Psi);
    }

    [Fact]
    public void Four_of_five_true_distances_lie_in_the_interval_of_four_fifths()
    {
        // Under already, and never, are one figure for many: there the place in the distribution is drawn by lot.
        var (inside, lot) = (0, new SeededDraw(5));
        for (var seed = 1; seed <= Lifetimes; seed++)
        {
            var (life, meets) = Drawn(seed);
            var forecast = life.Forecast!;
            var place = meets switch
            {
                0 => lot.Even(0, forecast.Under(0)),
                null => lot.Even(forecast.Under(double.MaxValue), 1),
                { } at => forecast.Under(at),
            };
            inside += place is >= 0.1 and <= 0.9 ? 1 : 0;
        }
        ((double)inside / Lifetimes).ShouldBeInRange(0.76, 0.84);
    }

    [Fact]
    public void More_tests_never_make_it_less_sure_and_the_chance_never_falls() => Gen.Select(Gen.Int[1, 100_000], Gen.Int[2, 6]).Sample((seed, tests) =>
    {
        var life = Drawn(seed, tests).Life;
        var fewer = EngineLife.Of(Four, [.. life.Run.At.Select(a => a.Visit)], life.Tests.Skip(1), []);
        foreach (var (more, less) in life.Trend!.Cylinders.Zip(fewer.Trend!.Cylinders))
        {
            more.NowSpread.ShouldBeLessThanOrEqualTo(less.NowSpread + 1e-12);
            more.PerStepSpread.ShouldBeLessThanOrEqualTo(less.PerStepSpread + 1e-12);
        }
        var chances = Enumerable.Range(0, 50).Select(i => life.Forecast!.Under(4000 * i)).ToList();
        chances.ShouldBe(chances.Order());
        foreach (var point in life.Forecast!.Fan)
        {
            (point.LowPa <= point.MedianPa && point.MedianPa <= point.HighPa).ShouldBeTrue();
        }
    }, iter: 60);

    [Fact]
    public void The_same_life_in_hours_reads_the_same()
    {
        var km = Drawn(7).Life;
        var hours = EngineLife.Of(Four, [.. km.Run.At.Select(a => a.Visit with { Odometer = new Odometer { Value = a.Visit.Odometer!.Value / 25, Unit = DistanceUnit.H } })], km.Tests, []);
        hours.Run.InHours.ShouldBeTrue();
        hours.Trend!.Cylinders[0].PerStep.ShouldBe(km.Trend!.Cylinders[0].PerStep, 1e-9);
        hours.Forecast!.Until(0.5)!.Value.ShouldBe(km.Forecast!.Until(0.5)!.Value / 25, 1);
        WearTrend.Of([], 1000).ShouldBeNull();
        PressureUnit.Psi.Pascals().ShouldBe(Psi);
    }

    [Fact]
    public void A_trend_goes_on_in_a_straight_line_of_the_logarithm()
    {
        var trend = Drawn(3).Life.Trend!;
        var first = trend.Cylinders[0];
        var (pa, spread) = trend.At(first.Cylinder, trend.Now + 10_000);
        pa.ShouldBe(first.NowPa * Math.Exp(10 * first.PerStep), 1);
        spread.ShouldBeGreaterThan(0);
        trend.At(first.Cylinder, trend.Now).Spread.ShouldBe(first.NowSpread, 1e-12);
    }
}
