using Zandrik.Core.Records;
using Zandrik.Core.Units;
using static Zandrik.Core.Tests.Cases;

namespace Zandrik.Core.Tests.Compression;

public sealed class DryHeadlineTests
{
    [Theory]
    [InlineData(new double[0], "Nothing measured yet.")]
    [InlineData(new[] { 205.0 }, "Cylinder 1: 205 psi. One reading: nothing to compare it with yet.")]
    [InlineData(new[] { 205.0, 203 }, "So far, 2 of 4: even and above the minimum: nothing here says a cylinder leaks.")]
    [InlineData(new[] { 205.0, 163, 160, 208 }, "Cylinders 2 and 3, neighbours, read low: 163 and 160 psi where the better ones give 207 psi.")]
    [InlineData(new[] { 205.0, 203, 30, 208 }, "Cylinder 3 is dead: 30 psi where the better ones give 207 psi.")]
    [InlineData(new[] { 205.0, 160, 203, 161 }, "Cylinders 2 and 4 read low: 160 and 161 psi where the better ones give 204 psi.")]
    [InlineData(new[] { 205.0, 203, 180, 208 }, "Cylinder 3 is marginal: 180 psi where the better ones give 207 psi.")]
    [InlineData(new[] { 140.0, 138, 141, 139 }, "All read low but alike, 138 to 141 psi, under the minimum of 150 psi: throttle, cranking speed, gauge or cam timing come before wear.")]
    [InlineData(new[] { 172.0, 170, 174, 171 }, "All read low but alike, 170 to 174 psi, 16 % under the nominal of 205 psi: throttle, cranking speed, gauge or cam timing come before wear.")]
    public void One_sentence_the_most_pressing_first(double[] psi, string sentence) =>
        Judge(Inline(4, nominal: 205, minimum: 150), Dry(psi)).Headline.ShouldBe(sentence);

    [Theory]
    [InlineData(new double[0], "The first reading")]
    [InlineData(new[] { 205.0, 203 }, "Dry reading of 3 and 4")]
    [InlineData(new[] { 205.0, 203, 14.1, 206 }, "A unit to confirm: psi or bar?")]
    [InlineData(new[] { 205.0, 203, 204, 206 }, "A look at the result")]
    [InlineData(new[] { 205.0, 203, 150, 206 }, "A decision")]
    public void It_says_what_a_test_waits_for(double[] psi, string waits) =>
        Judge(Inline(4, nominal: 205, minimum: 150), Dry(psi)).WaitsFor.ShouldBe(waits);

    [Fact]
    public void It_never_blames_the_engine_for_what_the_test_explains()
    {
        var engine = Inline(4, nominal: 205, minimum: 190);
        Judge(engine, Dry(Proper with { Throttle = ThrottlePlate.Closed }, 180, 182, 181, 179)).Headline
            .ShouldBe("Even, but under the minimum of 190 psi as tested: put the test right before blaming the engine.");
    }

    [Fact]
    public void Readings_that_fall_with_their_order_point_to_the_battery() =>
        Judge(Inline(6), Dry(Proper with { Battery = BatteryState.Good }, 200, 193, 187, 180, 174, 168)).Headline
            .ShouldBe("The readings fall by 16 % in the order they were taken: suspect the battery before any cylinder.");

    [Fact]
    public void Without_a_minimum_a_low_level_wants_explaining()
    {
        Judge(Inline(4), Dry(110, 111, 109, 110)).Headline.ShouldContain("under 135 psi, which needs explaining");
        Judge(Inline(4) with { CompressionRatio = 7.2 }, Dry(110, 111, 109, 110)).Headline
            .ShouldBe("Even. No maker's minimum to hold it against.", "an old low-ratio engine is sound at that");
    }

    [Fact]
    public void It_speaks_the_unit_that_is_shown() =>
        Core.Compression.DryJudgement.Of(Inline(4), Dry(205, 163, 160, 208), shown: PressureUnit.Bar).Headline
            .ShouldContain("11.2 and 11.0 bar where the better ones give 14.2 bar");
}
