using Zandrik.Core.Calibration;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Calibration;

public sealed class CalibrationSampleTests
{
    [Fact]
    public void A_draw_is_the_same_alone_and_in_company_and_other_seeds_draw_otherwise()
    {
        var many = CalibrationSample.Of(3, 0, 6);
        var alone = CalibrationSample.Of(3, 4, 1).Single();
        alone.ToLine().ShouldBe(many[4].ToLine());
        alone.Loudness.ShouldBe(many[4].Loudness);
        CalibrationSample.Of(4, 4, 1).Single().ToLine().ShouldNotBe(alone.ToLine());
    }

    [Fact]
    public void Every_fault_of_either_fuel_has_its_turn()
    {
        var kinds = 2 * SeverityFigures.All.Count;
        CalibrationSample.Of(1, 0, kinds).Select(s => (s.Fault, s.Diesel)).ShouldBe(SeverityFigures.All.SelectMany(f => new[] { (f, false), (f, true) }));
    }

    [Fact]
    public void What_is_written_is_read_again()
    {
        var sample = CalibrationSample.Of(1, 14, 1).Single();
        var read = CalibrationSample.Parse(sample.ToLine());
        (read.Number, read.Fault, read.Diesel).ShouldBe((sample.Number, sample.Fault, sample.Diesel));
        read.Dry.ShouldBe(sample.Dry, 1e-5);
        read.Snap!.Value.ShouldBe(sample.Snap!.Value, 1e-5);
        read.Loudness.Count.ShouldBe(sample.Loudness.Count);
        CalibrationSample.Parse(CalibrationSample.Of(1, 15, 1).Single().ToLine()).Idle.ShouldBeNull("a diesel has no running test");
        Should.Throw<FormatException>(() => CalibrationSample.Parse("1,rings,0,2")).Message.ShouldContain("delete the file");
    }

    // As the trade has it: leaks cost pressure, only rings gain by oil, lobes do not leak.
    [Fact]
    public void Readings_say_what_the_fault_is()
    {
        foreach (var s in CalibrationSample.Of(8, 0, 4 * 2 * SeverityFigures.All.Count))
        {
            var leaks = s.Fault is Fault.Rings or Fault.Piston or Fault.IntakeValve or Fault.ExhaustValve or Fault.GasketCoolant or Fault.FuelWashed or Fault.Sound;
            if (leaks)
            {
                s.Dry.ShouldBeLessThan(0.001, s.ToLine());
                s.LeakRatio.ShouldBeGreaterThanOrEqualTo(s.SoundLeakRatio - 1e-9, s.ToLine());
            }
            if (s.Fault is Fault.Rings or Fault.FuelWashed)
            {
                s.Wet.ShouldBeGreaterThan(0, s.ToLine());
            }
            if (s.Fault is Fault.IntakeNotOpening or Fault.ExhaustNotOpening or Fault.Carbon or Fault.ShortStroke)
            {
                s.LeakRatio.ShouldBe(s.SoundLeakRatio, 1e-9);
                Math.Abs(s.Wet).ShouldBeLessThan(0.06, s.ToLine());
            }
        }
    }
}
