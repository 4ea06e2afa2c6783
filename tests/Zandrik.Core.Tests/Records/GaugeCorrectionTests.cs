using CsCheck;
using Zandrik.Core.Compression;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.Testers;
using Zandrik.Core.Units;
using static Zandrik.Core.Tests.Cases;

namespace Zandrik.Core.Tests.Records;

public sealed class GaugeCorrectionTests
{
    private static readonly double Psi = PressureUnit.Psi.Pascals();

    private static Tester Checked(params (double Reads, double Is)[] points) =>
        new() { Label = "Gauge 2", CheckPoints = [.. points.Select(p => new CheckPoint { Reads = p.Reads, Is = p.Is })] };

    private static double Correct(Tester tester, double psi) => GaugeCorrection.Of(tester)!.Correct(psi * Psi) / Psi;

    // Two to six points of a gauge that reads up to a tenth wrong, rising as gauges do.
    private static readonly Gen<Tester> AnyCheck = Gen.Select(Gen.Double[5, 60], Gen.Double[0.9, 1.1]).Array[2, 6].Select(steps =>
    {
        double reads = 0, truly = 0;
        return Checked([.. steps.Select(s => (reads += s.Item1, truly += s.Item1 * s.Item2))]);
    });

    [Fact]
    public void The_curve_goes_through_its_points_straight_between_them_and_keeps_the_last_error_outside()
    {
        var tester = Checked((200, 190), (100, 102));
        Correct(tester, 100).ShouldBe(102, 1e-9);
        Correct(tester, 200).ShouldBe(190, 1e-9);
        Correct(tester, 150).ShouldBe(146, 1e-9);
        Correct(tester, 50).ShouldBe(52, 1e-9);
        Correct(tester, 250).ShouldBe(240, 1e-9);
        Correct(tester, 0).ShouldBe(0);
        GaugeCorrection.Of(new Tester { Label = "never checked" }).ShouldBeNull();
        GaugeCorrection.Of(tester with { CheckUnit = PressureUnit.Bar })!.Correct(PressureUnit.Bar.Pascals() * 100).ShouldBe(102e5, 1e-3);
    }

    [Fact]
    public void More_on_the_gauge_is_always_more_and_no_jump_is_made() => AnyCheck.SelectMany(t => Gen.Double[0, 400].Array[2].Select(x => (t, x))).Sample(c =>
    {
        var (low, high) = (c.x.Min(), c.x.Max());
        var (a, b) = (Correct(c.t, low), Correct(c.t, high));
        // Below the lowest point the error is kept, and what would be below nothing is nothing.
        return b >= a - 1e-9 && Math.Abs(Correct(c.t, high + 1e-7) - b) < 1e-3 || high <= 0;
    });

    [Fact]
    public void A_check_that_found_no_error_changes_nothing() => Gen.Double[1, 100].Array[1, 6].Where(x => x.Distinct().Count() == x.Length)
        .SelectMany(points => Gen.Double[0, 300].Select(x => (points, x)))
        .Sample(c => Math.Abs(Correct(Checked([.. c.points.Select(p => (p, p))]), c.x) - c.x) < 1e-9);

    [Fact]
    public void The_order_of_the_points_does_not_matter() => AnyCheck.SelectMany(t => Gen.Double[0, 400].Select(x => (t, x))).Sample(c =>
        Correct(c.t with { CheckPoints = [.. c.t.CheckPoints!.Reverse()] }, c.x) == Correct(c.t, c.x));

    [Theory]
    [InlineData(100, 98, 100, 99, "same reading")]
    [InlineData(100, 98, 110, 98, "contradict")]
    [InlineData(-1, 0, 100, 98, "below zero")]
    public void Points_that_contradict_each_other_are_no_check(double reads, double truly, double reads2, double truly2, string says) =>
        GaugeCorrection.Problem(Checked((reads, truly), (reads2, truly2)).CheckPoints!)!.ShouldContain(says);

    [Fact]
    public void A_gauge_that_reads_low_is_no_fault_of_the_engine_and_the_raw_figure_is_kept()
    {
        var engine = Inline(4, nominal: 170, minimum: 150);
        var test = Dry(145, 144, 146, 145);
        Judge(engine, test).States().ShouldAllBe(s => s == CylinderState.Low);
        var judged = Judge(engine, test with { Tester = Checked((100, 106), (200, 210)) });
        judged.States().ShouldAllBe(s => s == CylinderState.Sound, "145 by this gauge is 153");
        judged.Cylinders[0].Value!.Value.Value.ShouldBe(145);
        (judged.Cylinders[0].JudgedPa!.Value / Psi).ShouldBe(152.8, 1e-6);
        judged.Minimum!.Under.ShouldBeEmpty();
    }

    [Fact]
    public void Two_gauges_are_compared_by_their_checks()
    {
        var engine = Inline(4, nominal: 205, minimum: 150);
        var test = Dry(200, 176, 200, 200) with { Tester = new Tester { Label = "Gauge 1" } };
        test = test with { Readings = [.. test.Readings!.Select(r => r.Cylinder == 2 ? r with { Tester = Checked((100, 112), (200, 224)) with { Label = "Old gauge" } } : r)] };
        Judge(engine, test).States().ShouldAllBe(s => s == CylinderState.Sound, "176 by the old gauge is 197");
        Judge(engine, test).Codes().ShouldContain("mixed-testers");
    }

    [Fact]
    public void With_the_barometer_known_a_reading_is_brought_to_sea_level()
    {
        // (x + p)·14.696/p − 14.696 with p = 12.2 psi, worked by hand.
        var kPa = 12.2 * 6.894757293168361;
        (Barometer.AtSeaLevel(150 * Psi, kPa) / Psi).ShouldBe(162.2 * 14.6959 / 12.2 - 14.6959, 0.01);
        Barometer.AtSeaLevel(150 * Psi, 101.9).ShouldBe(150 * Psi, "0.6 kPa does not show on a gauge");
        Barometer.AtSeaLevel(0, kPa).ShouldBe(0);
        var engine = Inline(4, nominal: 205, minimum: 150);
        Judge(engine, Dry(140, 141, 140, 142)).Minimum!.Under.Count.ShouldBe(4);
        var high = Judge(engine, Dry(Proper with { BarometricKPa = kPa }, 140, 141, 140, 142));
        high.Minimum!.Under.ShouldBeEmpty();
        high.Codes().ShouldBeEmpty();
        Judge(engine, Dry(200, 200, 200, 200), new JudgeBy { AltitudeM = 420 }).Codes().ShouldBe(["altitude-uncorrected"]);
    }

    [Fact]
    public void What_is_handed_on_carries_the_corrected_figure_beside_the_raw_one()
    {
        var record = new TestRecord { Engine = Inline(2), Tests = [Dry(100, 150) with { Tester = Checked((100, 100), (200, 190)) }] };
        var readings = ((DryCompressionTest)CorrectedRecord.Of(record).Tests![0]).Readings!;
        readings.Select(r => r.Value).ShouldBe([100, 150]);
        readings.Select(r => r.Corrected).ShouldBe([null, 145]);
    }
}
