using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using static Zandrik.Core.Tests.Cases;

namespace Zandrik.Core.Tests.Compression;

public sealed class GaugeComparisonTests
{
    private static readonly EngineSheet Four = Inline(4, 205, 150);

    private static DryCompressionTest With(string? gauge, params double?[] values) => new()
    {
        Unit = PressureUnit.Psi,
        Tester = gauge is null ? null : new Tester { Label = gauge },
        Readings = [.. values.Select((v, i) => new CompressionReading { Cylinder = i + 1, Value = v }).Where(r => r.Value is not null)],
    };

    [Fact]
    public void Two_gauges_are_held_against_each_other_on_the_cylinders_both_have_read()
    {
        var (one, two) = (With("Gauge 1", 200, 202, 198, 201), With("Gauge 2", 190, null, 188));
        var found = GaugeComparison.Of(two, [one, two], Four)!;
        found.Pairs.Select(p => p.Cylinder).ShouldBe([1, 3]);
        found.Says.ShouldBe("Gauge 2 reads 5 % under Gauge 1 on cylinders 1 and 3: find out which is right before anything is judged by either.");
        // Either way round, and a pair that agrees says so.
        GaugeComparison.Of(one, [one, two], Four)!.MeanPercent.ShouldBe(100 * ((200 / 190.0 + 198 / 188.0) / 2 - 1), 1e-9);
        GaugeComparison.Of(With("Gauge 3", 199), [one], Four)!.Says.ShouldBe("Gauge 3 and Gauge 1 agree on cylinder 1.");
        // What its last check says of a gauge is taken into account.
        var checkedOne = With("Old", 190) with { Tester = new Tester { Label = "Old", CheckUnit = PressureUnit.Psi, CheckPoints = [new CheckPoint { Reads = 190, Is = 200 }] } };
        GaugeComparison.Of(checkedOne, [one], Four)!.Says.ShouldBe("Old and Gauge 1 agree on cylinder 1, corrected by the last check.");
    }

    [Fact]
    public void Nothing_is_compared_without_two_named_gauges_and_a_cylinder_in_common()
    {
        var one = With("Gauge 1", 200, null);
        GaugeComparison.Of(With(null, 190), [one], Four).ShouldBeNull();
        GaugeComparison.Of(With("Gauge 1", 190), [one], Four).ShouldBeNull();
        GaugeComparison.Of(With("Gauge 2", null, 190), [one], Four).ShouldBeNull();
    }

    [Fact]
    public void One_cylinder_read_again_does_not_take_the_place_of_a_whole_test()
    {
        DryCompressionTest Read(params double[] values) => new() { Unit = PressureUnit.Psi, Readings = [.. values.Select((v, i) => new CompressionReading { Cylinder = i + 1, Value = v })] };
        var (whole, one, half) = (Read(190, 188, 187, 191), Read(180), Read(181, 179));
        DryCompressionTest? Counts(params DryCompressionTest[] tests) => LatestDryTest.Of(new TestRecord { Engine = Four, Tests = [.. tests] });
        Counts(whole, one).ShouldBe(whole);
        Counts(one, whole).ShouldBe(whole);
        Counts(whole, half).ShouldBe(half, "half of them is a test of its own");
        Counts(one).ShouldBe(one);
        Counts(whole, Read()).ShouldBe(whole);
        Counts().ShouldBeNull();
        int Anew(params DryCompressionTest[] tests) => LatestDryTest.BegunAnew(new TestRecord { Engine = Four, Tests = [.. tests] });
        (Anew(whole, one), Anew(one, whole), Anew(whole, half), Anew(one), Anew()).ShouldBe((1, 0, 0, 0, 0));
    }

    [Fact]
    public void A_gauge_check_is_never_the_test_that_others_are_read_against()
    {
        var (real, check) = (With("Gauge 1", 200, 202), With("Gauge 2", 150, 152) with { Role = TestRole.GaugeCheck });
        LatestDryTest.Of(new TestRecord { Engine = Four, Tests = [real, check] }).ShouldBe(real);
        // Its own figures are shown, and accuse nobody.
        var judged = DryJudgement.Of(Four, check);
        judged.Headline.ShouldContain("no cylinder is judged by it");
        judged.Cylinders.ShouldAllBe(c => c.State == CylinderState.Untested);
        (judged.Cylinders[0].Value!.Value.Value, judged.Cylinders[0].Says, judged.Measured).ShouldBe((150, "Gauge check: not judged.", 0));
        judged.WaitsFor.ShouldBe("The dry test itself: this one compares gauges");
    }
}
