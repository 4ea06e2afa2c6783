using Zandrik.Core.Compression;
using Zandrik.Core.Conditions;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using static Zandrik.Core.Tests.Cases;

namespace Zandrik.Core.Tests.Compression;

public sealed class ReadingDetailsTests
{
    private static GaugePressure[] Curve(PressureUnit unit, params double[] values) => [.. values.Select(v => new GaugePressure(v, unit))];

    [Fact]
    public void A_pump_up_curve_brings_first_pulse_count_and_where_there_is_none_the_reading()
    {
        var details = new ReadingDetails { PumpUp = Curve(PressureUnit.Bar, 7.5, 11, 14.1) };
        var after = details.Apply(new CompressionReading { Cylinder = 2 }, PressureUnit.Psi);
        after.Pulses.ShouldBe(3);
        after.FirstPulse!.Value.ShouldBe(108.8, 0.1);
        after.ReadAs(PressureUnit.Psi).ShouldBe(new GaugePressure(14.1, PressureUnit.Bar), "as it was read");
        details.Apply(new CompressionReading { Cylinder = 2, Value = 200 }, PressureUnit.Psi).Value.ShouldBe(200, "a reading that was taken stays");
    }

    [Fact]
    public void What_is_not_said_stays_as_it_is()
    {
        var before = new CompressionReading { Cylinder = 1, Value = 200, Pulses = 6, Seconds = 4, BatteryV = 11 };
        new ReadingDetails().Apply(before, PressureUnit.Psi).ShouldBe(before);
        new ReadingDetails { NeedleAtZero = false }.Apply(before, PressureUnit.Psi).Conditions!.NeedleAtZero.ShouldBe(false);
    }

    [Fact]
    public void A_curve_that_falls_is_none()
    {
        ReadingDetails.Problem(Curve(PressureUnit.Psi, 108, 160, 160, 170)).ShouldBeNull("it may stand still");
        ReadingDetails.Problem(Curve(PressureUnit.Psi, 108, 160, 150))!.ShouldContain("After compression 2");
    }

    [Fact]
    public void Cranked_for_less_time_is_fewer_compressions_where_nobody_counted()
    {
        var test = Dry(205, 203, 204, 206);
        DryCompressionTest Timed(params double[] seconds) => test with { Readings = [.. test.Readings!.Select((r, i) => r with { Seconds = seconds[i] })] };
        Judge(Inline(4, 205, 150), Timed(5, 5, 3, 5)).Validity.Single().ShouldSatisfyAllConditions(
            n => n.Code.ShouldBe(ValidityCode.PulsesUnequal), n => n.Cylinders.ShouldBe([3]));
        Judge(Inline(4, 205, 150), Timed(5, 4.5, 4, 5)).Codes().ShouldBeEmpty("within a fifth");
    }

    [Fact]
    public void Two_readings_taken_without_seeing_each_other_are_both_kept()
    {
        var first = new CompressionReading { Cylinder = 1, Value = 178 };
        var both = new PadEntry(1, PadEntryKind.Beside, new GaugePressure(145, PressureUnit.Psi)).Apply(first, PressureUnit.Psi);
        (both.Value, both.Repeats!.Single().Value).ShouldBe((178, 145));
        var chosen = new PadEntry(1, PadEntryKind.Choose, new GaugePressure(145, PressureUnit.Psi)).Apply(both, PressureUnit.Psi);
        (chosen.Value, chosen.Repeats!.Single().Value).ShouldBe((145, 178));
    }
}
