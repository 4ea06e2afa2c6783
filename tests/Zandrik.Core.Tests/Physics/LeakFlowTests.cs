using CsCheck;
using Zandrik.Core.Physics;

namespace Zandrik.Core.Tests.Physics;

public sealed class LeakFlowTests
{
    private const double Psi = 6894.757293168361;

    // Worked by hand from the formula of docs/leak-down.md at 100 psi.
    [Theory]
    [InlineData(5, -0.82)]
    [InlineData(11, -0.40)]
    [InlineData(20, -0.06)]
    [InlineData(40, 0.39)]
    [InlineData(60, 0.74)]
    [InlineData(85, 1.35)]
    [InlineData(95, 1.88)]
    public void The_area_ratio_at_100_psi_is_that_of_the_table(double percent, double ln) =>
        Math.Log(LeakFlow.AreaRatio(percent, 100 * Psi)).ShouldBe(ln, 0.006);

    // Worked by hand with a pencil's four digits: supply and held absolute, both ratios, both factors, and from them
    // the area. The rows of docs/leak-down.md.
    [Theory]
    [InlineData(1.0, 100, 89, 0.4200)]
    [InlineData(1.0, 100, 60, 0.9314)]
    [InlineData(1.0, 100, 6, 3.7736)]
    [InlineData(1.5, 100, 70, 1.7140)]
    [InlineData(0.8, 100, 60, 0.5961)]
    [InlineData(1.0, 60, 30, 1.0384)]
    [InlineData(1.0, 30, 24, 0.5071)]
    [InlineData(1.0, 150, 60, 1.3854)]
    public void The_area_comes_out_as_worked_by_hand(double restrictionMm, double supplyPsi, double heldPsi, double areaMm2) =>
        (LeakFlow.AreaRatio(100 * (supplyPsi - heldPsi) / supplyPsi, supplyPsi * Psi) * LeakFlow.RestrictionAreaMm2(restrictionMm)).ShouldBe(areaMm2, 0.0006);

    [Fact]
    public void The_same_leak_loses_less_through_a_larger_restriction_and_more_through_a_smaller()
    {
        double Loss(double restrictionMm) => LeakFlow.Percent(0.5 / LeakFlow.RestrictionAreaMm2(restrictionMm), 100 * Psi);
        Loss(1.5).ShouldBeLessThan(Loss(1.0) / 3);
        Loss(0.8).ShouldBeGreaterThan(1.6 * Loss(1.0));
    }

    [Theory]
    [InlineData(0, 1)]
    [InlineData(0.5283, 1)]
    [InlineData(1, 0)]
    [InlineData(1.2, 0)]
    [InlineData(0.76415, 0.8660)]
    public void The_flow_factor_is_1_when_choked_and_0_without_a_difference(double ratio, double factor) =>
        LeakFlow.Factor(ratio).ShouldBe(factor, 1e-4);

    [Fact]
    public void A_round_restriction_of_1_mm_has_0_628_mm2() => LeakFlow.RestrictionAreaMm2(1).ShouldBe(0.6283, 1e-4);

    [Fact]
    public void Percent_and_area_are_each_others_inverse_and_rise_together() =>
        Gen.Select(Gen.Double[0.5, 99.5], Gen.Double[20, 150], Gen.Double[60_000, 110_000]).Sample((percent, psi, ambient) =>
        {
            var ratio = LeakFlow.AreaRatio(percent, psi * Psi, ambient);
            Math.Abs(LeakFlow.Percent(ratio, psi * Psi, ambient) - percent).ShouldBeLessThan(1e-6);
            LeakFlow.AreaRatio(percent + 0.1, psi * Psi, ambient).ShouldBeGreaterThan(ratio);
        });

    [Fact]
    public void No_loss_and_all_of_it_are_what_a_needle_can_tell()
    {
        LeakFlow.AreaRatio(0, 100 * Psi).ShouldBe(LeakFlow.AreaRatio(0.4, 100 * Psi));
        LeakFlow.AreaRatio(100, 100 * Psi).ShouldBe(LeakFlow.AreaRatio(99.6, 100 * Psi));
        LeakFlow.Percent(0, 100 * Psi).ShouldBe(0, 1e-9);
    }
}
