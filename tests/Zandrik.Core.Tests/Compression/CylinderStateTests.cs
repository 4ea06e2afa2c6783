using Zandrik.Core.Compression;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using static Zandrik.Core.Compression.CylinderState;
using static Zandrik.Core.Tests.Cases;

namespace Zandrik.Core.Tests.Compression;

public sealed class CylinderStateTests
{
    [Fact]
    public void Dead_is_under_a_third_of_the_reference()
    {
        Judge(Inline(4), Dry(210, 210, 210, 70)).States()[3].ShouldBe(Low, "exactly a third is not under it");
        Judge(Inline(4), Dry(210, 210, 210, 69.9)).States()[3].ShouldBe(Dead);
    }

    [Fact]
    public void A_cylinder_that_moves_nothing_is_dead_even_when_all_are() =>
        Judge(Inline(4), Dry(0, 0, 0, 0)).States().ShouldAllBe(s => s == Dead);

    [Fact]
    public void Low_is_under_the_minimum_and_exactly_on_it_is_not()
    {
        var engine = Inline(4, nominal: 170, minimum: 150);
        Judge(engine, Dry(160, 158, 150, 149)).States().ShouldBe([Sound, Sound, Sound, Low]);
    }

    [Fact]
    public void Low_is_beyond_the_deciding_fail_limit_below_the_reference()
    {
        // Reference: median of the better half, 200 and 200.
        Judge(Inline(4), Dry(200, 200, 190, 160)).States()[3].ShouldBe(Watch, "exactly 20 %");
        Judge(Inline(4), Dry(200, 200, 190, 159)).States()[3].ShouldBe(Low);
    }

    [Fact]
    public void When_the_method_fails_and_none_is_beyond_it_the_farthest_below_is_low()
    {
        // 159 of 200 is 20.5 %: fails. Reference (200 + 190) / 2 = 195, and 159 is 18.5 % below it.
        Judge(Inline(4), Dry(200, 190, 180, 159)).States().ShouldBe([Sound, Sound, Sound, Low]);
    }

    [Fact]
    public void Watch_is_beyond_the_good_limit_of_a_method_in_use()
    {
        Judge(Inline(4), Dry(200, 200, 200, 180)).States()[3].ShouldBe(Sound, "exactly 10 %");
        Judge(Inline(4), Dry(200, 200, 200, 179)).States()[3].ShouldBe(Watch);
        // 12 psi are beyond the fixed ten, which counts on a small light engine and not on this one.
        Judge(Inline(4), Dry(200, 200, 200, 188)).States()[3].ShouldBe(Sound);
        Judge(Inline(4) with { DisplacementCc = 850 }, Dry(200, 200, 200, 188)).States()[3].ShouldBe(Watch);
    }

    [Fact]
    public void The_mean_that_a_dead_cylinder_drags_down_puts_no_good_one_under_watch() =>
        Judge(Inline(4), Dry(200, 200, 200, 40)).States().ShouldBe([Sound, Sound, Sound, Dead]);

    [Fact]
    public void One_reading_with_nothing_to_hold_it_against_is_said_to_stand_alone()
    {
        Judge(Inline(6), Dry(168)).Cylinders[0].IsAlone.ShouldBeTrue();
        Judge(Inline(6), Dry(168)).Cylinders[1].IsAlone.ShouldBeFalse("it is not read at all");
        Judge(Inline(6, nominal: 170, minimum: 150), Dry(168)).Cylinders[0].IsAlone.ShouldBeFalse("the maker says what it should read");
        Judge(Inline(6), Dry(168, 170, 165)).Cylinders.ShouldAllBe(c => !c.IsAlone);
    }

    [Fact]
    public void One_high_cylinder_is_the_outlier_not_all_the_others()
    {
        var judged = Judge(Inline(4), Dry(200, 201, 260, 199));
        judged.States().ShouldBe([Sound, Sound, High, Sound]);
        judged.Method(SpreadMethod.PercentOfHighest).Verdict.ShouldBe(SpreadVerdict.Fail, "the spread is what it is");
        judged.ReferencePa!.Value.ShouldBe(200.5 * 6894.757, 1);
        judged.Headline.ShouldStartWith("Cylinder 3 reads high: 260 psi");
    }

    [Fact]
    public void A_high_one_needs_three_measured_and_a_rest_that_agrees()
    {
        Judge(Inline(4), Dry(260, 200)).States()[0].ShouldBe(Sound, "with two, the higher is the reference");
        // The rest differ by more than 6 %: no lone high one, the reference is the better half.
        var judged = Judge(Inline(4), Dry(200, 201, 260, 180));
        judged.ReferencePa!.Value.ShouldBe(230.5 * 6894.757, 1);
    }

    [Fact]
    public void One_reading_is_held_against_the_nominal()
    {
        Judge(Inline(4, nominal: 200), Dry(161)).States()[0].ShouldBe(Watch);
        Judge(Inline(4, nominal: 200), Dry(159)).States()[0].ShouldBe(Low);
        Judge(Inline(4), Dry(159)).States().ShouldBe([Sound, Untested, Untested, Untested]);
    }

    [Fact]
    public void The_makers_difference_decides_in_pounds()
    {
        var engine = Inline(4, maxDifference: 25);
        Judge(engine, Dry(200, 200, 200, 176)).States()[3].ShouldBe(Watch);
        Judge(engine, Dry(200, 200, 200, 174)).States()[3].ShouldBe(Low);
    }

    [Theory]
    [InlineData("throttle", AbsoluteLimits.Withheld)]
    [InlineData("cold", AbsoluteLimits.Indicative)]
    [InlineData("proper", AbsoluteLimits.Apply)]
    public void The_minimum_makes_low_only_where_it_applies(string how, AbsoluteLimits limits)
    {
        var conditions = how switch
        {
            "throttle" => Proper with { Throttle = ThrottlePlate.Closed },
            "cold" => Proper with { EngineTemperature = EngineTemperature.Cold },
            _ => Proper,
        };
        var judged = Judge(Inline(4, nominal: 170, minimum: 150), Dry(conditions, 145, 144, 146, 143));
        judged.Minimum!.Limits.ShouldBe(limits);
        judged.Minimum.Under.ShouldBe([1, 2, 3, 4]);
        judged.States().ShouldAllBe(s => s == (limits == AbsoluteLimits.Apply ? Low : Watch));
    }

    [Fact]
    public void A_diesel_without_throttle_cannot_have_it_shut()
    {
        var diesel = Inline(4, minimum: 300) with { Fuel = Fuel.Diesel };
        Judge(diesel, Dry(Proper with { Throttle = ThrottlePlate.Closed }, 280, 400, 400, 400)).States()[0].ShouldBe(Low);
    }
}
