using CsCheck;
using Zandrik.Core.Compression;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using static Zandrik.Core.Tests.Cases;

namespace Zandrik.Core.Tests.Conditions;

public sealed class FallWithOrderTests
{
    private static readonly EngineSheet Engine = Inline(8, nominal: 205, minimum: 150);
    private static readonly TestConditions Good = Proper with { Battery = BatteryState.Good };

    [Fact]
    public void Each_lower_than_the_one_before_is_no_fall_when_it_is_noise()
    {
        // Falling every time, but by less than a gauge shows; then falling far in one leap.
        Judge(Inline(4), Dry(Good, 204, 203.5, 203, 202)).Fall.ShouldBeNull();
        Judge(Inline(5), Dry(Good, 204, 203, 202, 201, 150)).Fall.ShouldBeNull("a bad cylinder tested last");
        // Not falling every time, and yet a fall.
        Judge(Inline(6), Dry(Good, 204, 199, 200, 190, 191, 182)).Fall.ShouldNotBeNull();
    }

    [Fact]
    public void Figures_are_shown_with_the_fall_taken_out_and_states_judged_by_them()
    {
        var judged = Judge(Engine, Dry(Good, 204, 199, 194, 189, 184, 179, 174, 170));
        var fall = judged.Fall!.Value;
        fall.Fraction.ShouldBeInRange(0.15, 0.19);
        fall.Chance.ShouldBeLessThan(0.001);
        judged.Cylinders.Select(c => c.ComparedPa!.Value).ShouldAllBe(p => Math.Abs(p / judged.Cylinders[0].JudgedPa!.Value - 1) < 0.03);
        judged.States().ShouldAllBe(s => s == CylinderState.Sound);
        judged.Minimum!.Limits.ShouldBe(AbsoluteLimits.Withheld);
        judged.Method(SpreadMethod.PercentOfHighest).Verdict.ShouldBe(SpreadVerdict.Marginal, "the spread is answered as it was read");
        judged.Headline.ShouldContain("suspect the battery");
    }

    [Fact]
    public void With_a_weak_battery_a_bad_cylinder_stands_out_of_the_fall()
    {
        var judged = Judge(Engine, Dry(Proper with { Battery = BatteryState.Weak }, 204, 201, 198, 110, 192, 189, 186, 183));
        judged.Fall.ShouldNotBeNull();
        judged.States().Where((_, i) => i != 3).ShouldAllBe(s => s == CylinderState.Sound);
        judged.Cylinders[3].State.ShouldBe(CylinderState.Low);
        // The same readings with a battery nobody doubts: the bad cylinder hides the line, and nothing is taken out.
        Judge(Engine, Dry(Good, 204, 201, 198, 110, 192, 189, 186, 183)).Fall.ShouldBeNull();
    }

    [Fact]
    public void A_steady_fall_of_more_than_one_percent_a_step_is_found_whatever_the_noise_of_a_gauge() =>
        Gen.Select(Gen.Double[0.012, 0.04], Gen.Double[-0.005, 0.005].Array[8]).Sample((step, noise) =>
        {
            var test = Dry(Good, [.. noise.Select((n, i) => 205 * Math.Exp(n - step * i))]);
            return Judge(Engine, test).Fall is { } fall && Math.Abs(fall.SlopePerStep + step) < 0.003;
        });

    [Fact]
    public void Sound_cylinders_in_any_order_are_hardly_ever_called_a_fall() =>
        Gen.Double[-0.02, 0.02].Array[8].Sample(noise => Judge(Engine, Dry(Good, [.. noise.Select(n => 205 * Math.Exp(n))])).Fall is null);

    [Fact]
    public void Taking_the_fall_out_keeps_the_first_reading_and_never_lowers_one() =>
        Gen.Select(Gen.Double[0.012, 0.05], Gen.Int[1, 8]).Sample((step, order) =>
        {
            var fall = Judge(Engine, Dry(Good, [.. Enumerable.Range(0, 8).Select(i => 205 * Math.Exp(-step * i))])).Fall!.Value;
            return Math.Abs(fall.Detrended(100, fall.FirstOrder) - 100) < 1e-9 && fall.Detrended(100, fall.FirstOrder + order) >= 100;
        });
}
