using CsCheck;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Tests.Compression;

public sealed class PadEntryTests
{
    private static CompressionReading Enter(CompressionReading? before, PadEntryKind kind, double value, PressureUnit unit = PressureUnit.Psi) =>
        new PadEntry(3, kind, new GaugePressure(value, unit)).Apply(before, PressureUnit.Psi);

    [Fact]
    public void A_correction_takes_the_place_of_the_figure_and_keeps_the_rest()
    {
        var reading = Enter(Enter(Enter(null, PadEntryKind.FirstPulse, 86), PadEntryKind.Reading, 136), PadEntryKind.Reading, 163);
        (reading.Cylinder, reading.Value, reading.FirstPulse).ShouldBe((3, 163, 86));
        reading.Repeats.ShouldBeNull();
    }

    [Fact]
    public void Measured_again_the_new_figure_counts_and_the_earlier_ones_are_repeats()
    {
        var reading = Enter(Enter(Enter(null, PadEntryKind.Reading, 163), PadEntryKind.Repeat, 165), PadEntryKind.Repeat, 164);
        reading.Value.ShouldBe(164);
        reading.Repeats.ShouldBe([163, 165]);
    }

    [Fact]
    public void Choosing_a_repeat_changes_places_with_the_one_that_counted()
    {
        var reading = Enter(Enter(Enter(null, PadEntryKind.Reading, 163), PadEntryKind.Repeat, 140), PadEntryKind.Choose, 163);
        reading.Value.ShouldBe(163);
        reading.Repeats.ShouldBe([140]);
    }

    [Fact]
    public void Repeats_in_another_unit_come_back_to_the_digit_when_chosen()
    {
        var reading = Enter(Enter(Enter(null, PadEntryKind.Reading, 14.15, PressureUnit.Bar), PadEntryKind.Repeat, 201), PadEntryKind.Repeat, 14.3, PressureUnit.Bar);
        reading.RepeatsReadAs(PressureUnit.Psi).ShouldBe([new GaugePressure(14.15, PressureUnit.Bar), new GaugePressure(201, PressureUnit.Psi)]);
        reading = Enter(reading, PadEntryKind.Choose, 14.15, PressureUnit.Bar);
        reading.ReadAs(PressureUnit.Psi).ShouldBe(new GaugePressure(14.15, PressureUnit.Bar));
        reading.RepeatsReadAs(PressureUnit.Psi).ShouldBe([new GaugePressure(14.3, PressureUnit.Bar), new GaugePressure(201, PressureUnit.Psi)]);
        Enter(reading, PadEntryKind.Choose, 99).ShouldBe(reading, "99 is none of its repeats");
        // What the pad wrote is a sound record.
        Core.Records.RecordRules.Check(new TestRecord { Engine = new EngineSheet { Cylinders = 4 }, Tests = [new DryCompressionTest { Unit = PressureUnit.Psi, Readings = [reading] }] }).ShouldBeEmpty();
    }

    [Fact]
    public void A_confirmed_unit_holds_for_the_repeats_and_the_first_pulse_too()
    {
        var typed = Enter(Enter(Enter(null, PadEntryKind.FirstPulse, 7.2), PadEntryKind.Reading, 14.1), PadEntryKind.Repeat, 14.2);
        var reading = Enter(typed, PadEntryKind.ConfirmUnit, 14.2, PressureUnit.Bar);
        reading.ReadAs(PressureUnit.Psi).ShouldBe(new GaugePressure(14.2, PressureUnit.Bar));
        reading.RepeatsReadAs(PressureUnit.Psi).ShouldBe([new GaugePressure(14.1, PressureUnit.Bar)]);
        reading.FirstPulse!.Value.ShouldBe(104.43, 0.01);
        reading.UnitConfirmed.ShouldBe(true);
    }

    [Fact]
    public void A_figure_in_another_unit_is_kept_as_it_was_read()
    {
        var reading = Enter(null, PadEntryKind.Reading, 14.1, PressureUnit.Bar);
        reading.Value!.Value.ShouldBe(204.503, 0.001);
        (reading.AsRead!.Value, reading.AsRead.Unit).ShouldBe((14.1, PressureUnit.Bar));
    }

    [Fact]
    public void Switching_units_to_and_fro_cannot_make_a_reading_drift() =>
        Gen.Select(Gen.Int[0, 4000], Gen.Int[0, 3], Gen.Int[0, 3]).Sample((tenths, from, through) =>
        {
            var read = new GaugePressure(tenths / 10.0, PressureUnits.All[from]);
            _ = read.Text(PressureUnits.All[through]);
            return double.Parse(read.Text(read.Unit), System.Globalization.CultureInfo.InvariantCulture) == tenths / 10.0;
        });
}
