using Zandrik.Core.Compression;
using Zandrik.Core.Conditions;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using static Zandrik.Core.Tests.Cases;

namespace Zandrik.Core.Tests.Conditions;

public sealed class ValidityRulesTests
{
    private static readonly EngineSheet Engine = Inline(4, nominal: 205, minimum: 150);

    public static TheoryData<TestConditions, string, Severity> Slips => new()
    {
        { Proper with { EngineTemperature = EngineTemperature.Cold }, "engine-cold", Severity.Note },
        { Proper with { Throttle = ThrottlePlate.Closed }, "throttle-closed", Severity.Caution },
        { Proper with { Throttle = ThrottlePlate.Unverified }, "throttle-unverified", Severity.Caution },
        { Proper with { Plugs = PlugsRemoved.OneAtATime }, "plugs-one-at-a-time", Severity.Caution },
        { Proper with { Battery = BatteryState.Weak }, "battery-weak", Severity.Caution },
        { Proper with { Fuel = Supply.On }, "fuel-on", Severity.Caution },
        { Proper with { Ignition = Supply.On }, "ignition-on", Severity.Caution },
        { Proper with { NeedleAtZero = false }, "gauge-not-zero", Severity.Caution },
        { Proper with { CheckValve = CheckValvePlace.GaugeHead }, "check-valve-in-head", Severity.Caution },
    };

    [Theory, MemberData(nameof(Slips))]
    public void A_recorded_slip_is_named_and_accuses_no_cylinder(TestConditions conditions, string code, Severity severity)
    {
        var judged = Judge(Engine, Dry(conditions, 145, 144, 146, 143));
        judged.Validity.Single().ShouldSatisfyAllConditions(
            n => RecordWords.Of(n.Code).ShouldBe(code), n => n.Severity.ShouldBe(severity), n => n.Cylinders.ShouldBeEmpty("it concerns all of them"));
        // It is there before the first reading too, while it can still be put right.
        Judge(Engine, Dry(conditions)).Codes().ShouldContain(code);
    }

    [Theory]
    [InlineData(Fuel.Petrol, "ignition disabled")]
    [InlineData(Fuel.Diesel, "glow harness isolated")]
    [InlineData(Fuel.Cng, "tank valve shut")]
    public void Cautions_are_those_of_the_fuel_and_defer_to_the_maker(Fuel fuel, string says)
    {
        CrankingCautions.For(Engine with { Fuel = fuel }).ShouldContain(says);
        CrankingCautions.For(Engine with { Fuel = fuel }).ShouldEndWith("a licensed technician decides.");
    }

    [Fact]
    public void A_proper_test_has_no_notes() => Judge(Engine, Dry(205, 203, 204, 206)).Validity.ShouldBeEmpty();

    [Fact]
    public void A_condition_of_one_reading_names_its_cylinder()
    {
        var test = Dry(205, 203, 204, 206);
        test = test with { Readings = [.. test.Readings!.Select(r => r.Cylinder == 3 ? r with { Conditions = new TestConditions { Plugs = PlugsRemoved.OneAtATime } } : r)] };
        Judge(Engine, test).Validity.Single().Cylinders.ShouldBe([3]);
    }

    [Fact]
    public void Missing_cylinders_and_figures_are_noted()
    {
        var judged = Judge(Inline(4), Dry(205, 203));
        judged.Validity.Single(n => n.Code == ValidityCode.CylindersMissing).Cylinders.ShouldBe([3, 4]);
        judged.Codes().ShouldContain("spec-missing");
    }

    [Fact]
    public void Counts_that_differ_or_are_too_few_are_named()
    {
        DryCompressionTest Counted(params int[] pulses)
        {
            var test = Dry(205, 203, 204, 206);
            return test with { Readings = [.. test.Readings!.Select((r, i) => r with { Pulses = pulses[i] })] };
        }
        Judge(Engine, Counted(7, 7, 5, 7)).Validity.Single().ShouldSatisfyAllConditions(
            n => n.Code.ShouldBe(ValidityCode.PulsesUnequal), n => n.Cylinders.ShouldBe([3]));
        Judge(Engine, Counted(3, 3, 3, 3)).Codes().ShouldBe(["pulses-few"]);
        Judge(Engine with { Fuel = Fuel.Diesel }, Counted(4, 4, 4, 4)).Codes().ShouldContain("pulses-few");
    }

    [Fact]
    public void A_reading_that_does_not_repeat_is_named()
    {
        DryCompressionTest Repeated(double repeat)
        {
            var test = Dry(200, 200, 200, 200);
            return test with { Readings = [.. test.Readings!.Select(r => r.Cylinder == 2 ? r with { Repeats = [repeat] } : r)] };
        }
        Judge(Engine, Repeated(186)).Codes().ShouldBeEmpty("exactly 7 %");
        Judge(Engine, Repeated(185)).Validity.Single().ShouldSatisfyAllConditions(
            n => n.Code.ShouldBe(ValidityCode.DoesNotRepeat), n => n.Cylinders.ShouldBe([2]));
    }

    [Fact]
    public void Two_gauges_in_one_test_are_named()
    {
        var test = Dry(200, 200, 200, 200) with { Tester = new Tester { Label = "Gauge 1" } };
        test = test with { Readings = [.. test.Readings!.Select(r => r.Cylinder == 2 ? r with { Tester = new Tester { Label = "Gauge 2" } } : r)] };
        Judge(Engine, test).Codes().ShouldBe(["mixed-testers"]);
    }

    [Fact]
    public void A_fall_with_the_order_is_found_in_any_order_and_a_weak_cylinder_is_not_one()
    {
        var fall = Dry(Proper with { Battery = BatteryState.Good }, 190, 180, 200, 171);
        fall = fall with { Readings = [.. fall.Readings!.Zip([2, 3, 1, 4], (r, order) => r with { Order = order })] };
        Judge(Engine, fall).Codes().ShouldContain("falls-with-order");
        Judge(Engine, Dry(Proper with { Battery = BatteryState.Good }, 205, 203, 204, 160)).Codes().ShouldNotContain("falls-with-order");
        Judge(Engine, Dry(204, 194, 184, 174)).Validity.Single(n => n.Code == ValidityCode.FallsWithOrder).Severity.ShouldBe(Severity.Note, "on a charger");
    }

    [Fact]
    public void A_figure_that_fits_another_unit_is_asked_about_and_not_used()
    {
        var judged = Judge(Engine, Dry(205, 203, 14.1, 206));
        judged.Questions.Single().ShouldSatisfyAllConditions(
            q => q.Reading.Cylinder.ShouldBe(3), q => q.Likely.ShouldBe(PressureUnit.Bar));
        judged.Cylinders[2].ShouldSatisfyAllConditions(
            c => c.State.ShouldBe(CylinderState.Untested), c => c.InQuestion.ShouldBeTrue());
        judged.Method(SpreadMethod.PercentOfHighest).Verdict.ShouldBe(SpreadVerdict.Good, "the doubtful figure is no spread");
        judged.Headline.ShouldStartWith("Which unit?");
    }

    [Fact]
    public void A_whole_test_in_another_unit_is_asked_about_from_its_first_reading()
    {
        Judge(Engine, Dry(14.1)).Questions.Single().Likely.ShouldBe(PressureUnit.Bar);
        Judge(Engine, Dry(14.1, 14.0, 13.9, 14.2)).Questions.Count.ShouldBe(4);
    }

    [Fact]
    public void A_confirmed_unit_is_not_asked_about_again()
    {
        var test = Dry(205, 203, 14.1, 206);
        test = test with { Readings = [.. test.Readings!.Select(r => r.Cylinder == 3 ? r with { UnitConfirmed = true } : r)] };
        var judged = Judge(Engine, test);
        judged.Questions.ShouldBeEmpty();
        judged.Cylinders[2].State.ShouldBe(CylinderState.Dead);
    }

    [Fact]
    public void More_than_any_engine_pumps_is_not_used()
    {
        var judged = Judge(Engine, Dry(205, 203, 430, 206));
        judged.Validity.Single(n => n.Code == ValidityCode.ImplausibleReading).ShouldSatisfyAllConditions(
            n => n.Severity.ShouldBe(Severity.Invalid), n => n.Cylinders.ShouldBe([3]));
        judged.Cylinders[2].State.ShouldBe(CylinderState.Untested);
        judged.Cylinders[0].State.ShouldBe(CylinderState.Sound);
    }
}
