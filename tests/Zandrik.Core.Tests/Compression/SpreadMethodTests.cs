using Zandrik.Core.Compression;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using static Zandrik.Core.Tests.Cases;

namespace Zandrik.Core.Tests.Compression;

public sealed class SpreadMethodTests
{
    // Worked by hand: four readings, then each method's figure and verdict.
    [Theory]
    [InlineData(new[] { 200.0, 200, 200, 180 }, 10.0, SpreadVerdict.Good)]          // exactly 10 %
    [InlineData(new[] { 200.0, 200, 200, 179 }, 10.5, SpreadVerdict.Marginal)]
    [InlineData(new[] { 200.0, 200, 200, 160 }, 20.0, SpreadVerdict.Marginal)]      // exactly 20 %
    [InlineData(new[] { 200.0, 200, 200, 159 }, 20.5, SpreadVerdict.Fail)]
    public void Percent_of_highest_is_inclusive_at_ten_and_twenty(double[] psi, double percent, SpreadVerdict verdict)
    {
        var method = Judge(Inline(4), Dry(psi)).Method(SpreadMethod.PercentOfHighest);
        (100 * method.Value).ShouldBe(percent, 1e-9);
        method.Verdict.ShouldBe(verdict);
    }

    [Theory]
    [InlineData(180.0, 90.0, SpreadVerdict.Good)]
    [InlineData(179.9, 89.95, SpreadVerdict.Marginal)]
    [InlineData(150.0, 75.0, SpreadVerdict.Marginal)]
    [InlineData(149.9, 74.95, SpreadVerdict.Fail)]
    public void Lowest_to_highest_is_inclusive_at_ninety_and_seventy_five(double lowest, double percent, SpreadVerdict verdict)
    {
        var method = Judge(Inline(4), Dry(200, 200, 200, lowest)).Method(SpreadMethod.LowestToHighest);
        (100 * method.Value).ShouldBe(percent, 1e-9);
        method.Verdict.ShouldBe(verdict);
    }

    [Theory]
    [InlineData(new[] { 110.0, 90 }, 10.0, SpreadVerdict.Good)]                     // mean 100, both 10 off
    [InlineData(new[] { 115.0, 85 }, 15.0, SpreadVerdict.Marginal)]
    [InlineData(new[] { 116.0, 84 }, 16.0, SpreadVerdict.Fail)]
    [InlineData(new[] { 200.0, 200, 200, 160 }, 100 * 30 / 190.0, SpreadVerdict.Fail)]
    public void Around_the_mean_takes_the_larger_distance_either_way(double[] psi, double percent, SpreadVerdict verdict)
    {
        var method = Judge(Inline(psi.Length), Dry(psi)).Method(SpreadMethod.AroundTheMean);
        (100 * method.Value).ShouldBe(percent, 1e-9);
        method.Verdict.ShouldBe(verdict);
    }

    [Theory]
    [InlineData(140.0, "10 psi", SpreadVerdict.Good)]
    [InlineData(135.0, "15 psi", SpreadVerdict.Marginal)]
    [InlineData(134.0, "16 psi", SpreadVerdict.Fail)]
    public void Fixed_pressure_counts_pounds(double lowest, string figure, SpreadVerdict verdict)
    {
        var method = Judge(Inline(2), Dry(150, lowest)).Method(SpreadMethod.FixedPressure);
        method.ValueText(PressureUnit.Psi).ShouldBe(figure);
        method.Verdict.ShouldBe(verdict);
    }

    [Theory]
    [InlineData(180.0, SpreadVerdict.Good)]         // 20 of 25 is 80 %
    [InlineData(179.0, SpreadVerdict.Marginal)]
    [InlineData(175.0, SpreadVerdict.Marginal)]     // exactly the maker's 25
    [InlineData(174.0, SpreadVerdict.Fail)]
    public void Makers_difference_is_good_to_eighty_percent_and_marginal_to_the_figure(double lowest, SpreadVerdict verdict)
    {
        var judged = Judge(Inline(3, maxDifference: 25), Dry(200, 200, lowest));
        var method = judged.Method(SpreadMethod.MakerDifference);
        method.Verdict.ShouldBe(verdict);
        method.Deciding.ShouldBeTrue("the maker's figure wins over a rule");
        method.LimitsText(PressureUnit.Psi).ShouldBe("20 psi, 25 psi");
    }

    [Fact]
    public void Without_a_makers_difference_percent_of_highest_decides()
    {
        var judged = Judge(Inline(4), Dry(200, 198, 199, 197));
        judged.Spread.Select(s => s.Method).ShouldNotContain(SpreadMethod.MakerDifference);
        judged.Spread.Single(s => s.Deciding).Method.ShouldBe(SpreadMethod.PercentOfHighest);
    }

    [Fact]
    public void One_reading_has_no_spread_and_two_have_four_methods()
    {
        Judge(Inline(4), Dry(200)).Spread.ShouldBeEmpty();
        Judge(Inline(4), Dry(200, 190)).Spread.Count.ShouldBe(4);
    }

    [Fact]
    public void Equal_readings_are_good_in_every_method() =>
        Judge(Inline(6, maxDifference: 25), Dry(180, 180, 180, 180, 180, 180)).Spread
            .ShouldAllBe(s => s.Verdict == SpreadVerdict.Good);

    [Fact]
    public void A_shop_sets_its_deciding_method_and_limits()
    {
        var lenient = new JudgeBy
        {
            DecidingMethod = SpreadMethod.LowestToHighest,
            Limits = new Dictionary<SpreadMethod, IReadOnlyList<double>> { [SpreadMethod.LowestToHighest] = [85, 70] },
        };
        var judged = Judge(Inline(4), Dry(200, 200, 200, 145), lenient);
        var method = judged.Method(SpreadMethod.LowestToHighest);
        method.Verdict.ShouldBe(SpreadVerdict.Marginal);
        method.Deciding.ShouldBeTrue();
        // 27.5 % below: within the lenient 30, beyond good, so under watch and not low.
        judged.States()[3].ShouldBe(CylinderState.Watch);
    }

    [Fact]
    public void A_shop_that_decides_by_the_maker_falls_back_where_the_sheet_has_no_figure() =>
        JudgingRules.For(Inline(4), new JudgeBy { DecidingMethod = SpreadMethod.MakerDifference })
            .DecidingMethod.ShouldBe(SpreadMethod.PercentOfHighest);
}
