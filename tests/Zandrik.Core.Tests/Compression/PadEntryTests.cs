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

    private static CompressionReading Strike(CompressionReading before, double value, int? place = null) =>
        new PadEntry(3, PadEntryKind.Strike, new GaugePressure(value, PressureUnit.Psi)) { Place = place, Struck = new StruckOut { Reason = StruckReason.CrankedTooShort } }.Apply(before, PressureUnit.Psi);

    [Fact]
    public void What_was_noted_about_a_reading_goes_with_it_and_with_no_other()
    {
        static CompressionReading With(CompressionReading? before, PadEntryKind kind, double value, int pulses) =>
            new PadEntry(3, kind, new GaugePressure(value, PressureUnit.Psi)) { Details = new ReadingDetails { Pulses = pulses, Says = $"{pulses} counted" } }.Apply(before, PressureUnit.Psi);
        var reading = With(With(null, PadEntryKind.Reading, 320, 3), PadEntryKind.Repeat, 468, 9);
        (reading.Pulses, reading.Says).ShouldBe((9, "9 counted"));
        (reading.Repeats![0].Pulses, reading.Repeats[0].Says).ShouldBe((3, "3 counted"));
        Enter(reading, PadEntryKind.Repeat, 470).Pulses.ShouldBeNull("nobody counted this one");
        Enter(reading, PadEntryKind.Choose, 320).Pulses.ShouldBe(3);
        // What was noted before the first figure was typed is about it.
        Enter(new ReadingDetails { Seconds = 5 }.Apply(new CompressionReading { Cylinder = 3 }, PressureUnit.Psi), PadEntryKind.Reading, 150).Seconds.ShouldBe(5);
    }

    [Fact]
    public void A_struck_reading_stays_and_counts_for_nothing()
    {
        var only = Strike(Enter(null, PadEntryKind.Reading, 90), 90);
        (only.Value, only.Counts(), only.ReadAs(PressureUnit.Psi)).ShouldBe((90, false, null));
        // The next figure is no correction of it: it stands beside.
        var again = Enter(only, PadEntryKind.Reading, 150);
        (again.Value, again.Counts(), again.IsRepeated()).ShouldBe((150, true, false));
        again.Repeats!.Single().Struck!.Reason.ShouldBe(StruckReason.CrankedTooShort);
        again.RepeatsReadAs(PressureUnit.Psi).ShouldBeEmpty();
        // Of two, the other one counts from then on; chosen again it counts again.
        var two = Strike(Enter(Enter(null, PadEntryKind.Reading, 90), PadEntryKind.Repeat, 150), 150);
        (two.Value, two.Struck, two.Repeats!.Single().Value).ShouldBe((90, null, 150));
        var back = Enter(two, PadEntryKind.Choose, 150);
        (back.Value, back.Struck, back.Repeats!.Single().Struck).ShouldBe((150, null, null));
        // Two alike are told apart by their place.
        var alike = Enter(Enter(null, PadEntryKind.Reading, 150), PadEntryKind.Repeat, 150);
        Strike(alike, 150, place: 1).ShouldSatisfyAllConditions(r => r.Struck.ShouldBeNull(), r => r.Repeats!.Single().Struck.ShouldNotBeNull());
        Strike(alike, 99).ShouldBe(alike);
        Core.Records.RecordRules.Check(new TestRecord { Engine = new EngineSheet { Cylinders = 4 }, Tests = [new DryCompressionTest { Unit = PressureUnit.Psi, Readings = [only with { Cylinder = 1 }, two, back with { Cylinder = 2 }] }] }).ShouldBeEmpty();
    }

    [Fact]
    public void No_entry_loses_a_figure_that_was_measured() =>
        Gen.Select(Gen.Int[0, 3], Gen.Int[100, 104]).Array[1, 12].Sample(entries =>
        {
            CompressionReading? reading = null;
            foreach (var (kind, value) in entries)
            {
                var before = reading is null ? 0 : TakenReading.All(reading, PressureUnit.Psi).Count;
                var corrects = kind == 0 && reading?.Counts() == true;
                reading = kind == 3 && reading is not null ? Strike(reading, value) : Enter(reading, kind switch { 0 => PadEntryKind.Reading, 1 => PadEntryKind.Repeat, _ => PadEntryKind.Choose }, value);
                var after = TakenReading.All(reading, PressureUnit.Psi).Count;
                after.ShouldBe(kind >= 2 && before > 0 || corrects ? before : kind >= 2 && before == 0 ? after : before + 1);
                // The one that stands is struck out only when every one is.
                (reading.Struck is null || TakenReading.All(reading, PressureUnit.Psi).All(t => t.IsStruck)).ShouldBeTrue();
            }
        });

    [Fact]
    public void A_confirmed_unit_holds_for_the_repeats_and_the_first_pulse_too()
    {
        var typed = Enter(Enter(Enter(null, PadEntryKind.FirstPulse, 7.2), PadEntryKind.Reading, 14.1), PadEntryKind.Repeat, 14.2);
        var reading = Enter(typed, PadEntryKind.ConfirmUnit, 14.2, PressureUnit.Bar);
        reading.ReadAs(PressureUnit.Psi).ShouldBe(new GaugePressure(14.2, PressureUnit.Bar));
        reading.RepeatsReadAs(PressureUnit.Psi).ShouldBe([new GaugePressure(14.1, PressureUnit.Bar)]);
        reading.Repeats!.Single().FirstPulse!.Value.ShouldBe(104.43, 0.01);
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
