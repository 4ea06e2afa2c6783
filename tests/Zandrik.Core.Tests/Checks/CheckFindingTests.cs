using Zandrik.Core.Checks;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Tests.Checks;

public sealed class CheckFindingTests
{
    private static readonly EngineSheet Four = new() { Cylinders = 4 };

    private static CheckFinding Of(TestEntry test, params EngineFeature[] features) => CheckFinding.Of(test, Four with { Features = features })!;

    [Fact]
    public void Every_check_has_a_safe_order_what_makes_it_false_and_a_word_of_its_own()
    {
        SupportingCheck.All.Select(c => c.Kind).Distinct().Count().ShouldBe(SupportingCheck.All.Count);
        SupportingCheck.All.ShouldAllBe(c => c.SafeOrder.Count > 0 && c.MadeFalseBy.Count > 0 && SupportingCheck.Of(c.Kind) == c);
        SupportingCheck.Of(StepKind.CombustionGas)!.SafeOrder[0].ShouldContain("cold");
        SupportingCheck.Of(StepKind.Dry).ShouldBeNull();
    }

    [Fact]
    public void A_test_of_the_record_belongs_to_one_check_and_a_compression_test_to_none()
    {
        SupportingCheck.KindOf(new FluidsCheck { Findings = [FluidFinding.Clean] }).ShouldBe(StepKind.Fluids);
        SupportingCheck.KindOf(new FluidsCheck { BlowBy = BlowBy.Much, Findings = [FluidFinding.BlowBy] }).ShouldBe(StepKind.BlowBy);
        SupportingCheck.KindOf(new FluidsCheck { CoolantInIntake = false }).ShouldBe(StepKind.CoolantInIntake);
        SupportingCheck.KindOf(new OilUseCheck()).ShouldBe(StepKind.OilUse);
        SupportingCheck.KindOf(new LeakDownTest()).ShouldBeNull();
        SupportingCheck.KindOf(new PlugInspection()).ShouldBeNull();
    }

    [Fact]
    public void A_feature_of_the_engine_that_lays_a_false_trail_is_named()
    {
        Of(new CombustionGasTest { Result = CombustionGasResult.Positive }).Says.ShouldBe("Combustion gas in the coolant: gasket or crack.");
        Of(new CombustionGasTest { Result = CombustionGasResult.Positive }, EngineFeature.EgrCooler).Says.ShouldContain("rule it out first");
        Of(new FluidsCheck { Findings = [FluidFinding.OilInCoolant] }).Says.ShouldBe("Oil in the coolant.");
        Of(new FluidsCheck { Findings = [FluidFinding.OilInCoolant] }, EngineFeature.OilCooler).Says.ShouldContain("oil cooler can mix the two");
        Of(new FluidsCheck { Findings = [FluidFinding.Clean] }).IsFinding.ShouldBeFalse();
    }

    private static OilPressureTest Oil(params (double Rpm, double Bar, double? Minimum)[] read) => new()
    {
        Unit = PressureUnit.Bar, Readings = [.. read.Select(r => new OilPressureReading { Rpm = r.Rpm, Value = r.Bar, Minimum = r.Minimum, OilTemperature = "hot" })],
    };

    [Fact]
    public void Oil_pressure_is_held_against_the_maker_speed_by_speed_and_a_ceiling_is_the_relief_valve()
    {
        Of(Oil((750, 0.6, 0.8), (2000, 2.5, 2.0))).ShouldBe(new CheckFinding("Under the maker's minimum at 750 rpm (0.6 of 0.8 bar): bearings, pump, or thin oil.", true));
        Of(Oil((750, 1.4, 0.8), (2000, 2.5, 2.0))).ShouldBe(new CheckFinding("At or above the maker's minimum at every speed that was read hot.", false));
        // Typed in any order; the two highest speeds are compared.
        Of(Oil((4000, 3.1, null), (750, 1.4, null), (3000, 3.05, null))).Says.ShouldBe("No maker's minimum to hold it against. No more from 3000 rpm on: the relief valve holds it there.");
        Of(new OilPressureTest { Readings = [new OilPressureReading { Rpm = 750, Value = 40, OilTemperature = "cold" }] }).Says.ShouldContain("Read cold only");
        // Only the cold row is said to be cold; the dash is held against the mechanical gauge; the same everywhere is the relief valve.
        Of(new OilPressureTest { Unit = PressureUnit.Psi, Readings = [new OilPressureReading { Rpm = 700, Value = 43, OilTemperature = "cold", Dash = 44 }, new OilPressureReading { Rpm = 2500, Value = 60, OilTemperature = "hot", Dash = 30 }] }).Says
            .ShouldBe("No maker's minimum to hold it against. Read cold at 700 rpm, where oil reads high. The dash gauge reads 30 at 2500 rpm: believe the mechanical one, and look at the sender.");
        Of(Oil((750, 3, null), (2000, 3.05, null), (3000, 3, null))).Says.ShouldContain("The same at every speed: look at the relief valve.");
        CheckFinding.Of(new OilPressureTest { Readings = [] }, Four).ShouldBeNull();
    }

    [Theory]
    [InlineData(0.24, true, "Too tight: exhaust of 2.")]
    [InlineData(0.25, false, "within the maker's figures")]
    [InlineData(0.35, false, "within the maker's figures")]
    [InlineData(0.36, true, "Too loose: exhaust of 2.")]
    public void A_clearance_is_inside_up_to_its_limits(double mm, bool finding, string says)
    {
        var found = Of(new ValveClearanceCheck { Readings = [new ValveClearanceReading { Cylinder = 2, Valve = ValveSide.Exhaust, Value = mm, Minimum = 0.25, Maximum = 0.35 }] });
        found.IsFinding.ShouldBe(finding);
        found.Says.ShouldContain(says);
        Of(new ValveClearanceCheck { Adjustable = false }).Says.ShouldBe("Not adjustable on this engine.");
    }

    [Fact]
    public void Oil_and_coolant_are_asked_apart_and_none_found_is_an_answer()
    {
        Of(new FluidsCheck { Findings = [FluidFinding.NoCoolantInOil, FluidFinding.NoOilInCoolant] }).ShouldBe(new CheckFinding("No coolant in the oil, no oil in the coolant.", false));
        Of(new FluidsCheck { Findings = [FluidFinding.NoOilInCoolant, FluidFinding.MilkyOil] }).ShouldBe(new CheckFinding("Coolant in the oil, no oil in the coolant.", true));
    }

    [Theory]
    [InlineData(0.5, 1000, DistanceUnit.Km, false, "0.5 litres in 1000 km")]
    [InlineData(0.51, 1000, DistanceUnit.Km, true, "0.51 litres in 1000 km")]
    [InlineData(1, 1000, DistanceUnit.Mi, true, "0.62 litres in 1000 km")]
    [InlineData(1, 20, DistanceUnit.H, false, "0.05 litres an hour")]
    public void Oil_use_is_worked_out_over_its_distance(double litres, double distance, DistanceUnit unit, bool much, string says)
    {
        var found = Of(new OilUseCheck { Litres = litres, Distance = new Odometer { Value = distance, Unit = unit } });
        found.IsFinding.ShouldBe(much);
        found.Says.ShouldContain(says);
    }

    [Fact]
    public void Vacuum_sound_and_blow_by_say_what_they_point_to()
    {
        Of(new ManifoldVacuumTest { Value = 62, Behaviour = VacuumBehaviour.Steady }).ShouldBe(new CheckFinding("62 kPa, steady.", false));
        Of(new ManifoldVacuumTest { Behaviour = VacuumBehaviour.Dropping }).Says.ShouldContain("blocked exhaust");
        Of(new ManifoldVacuumTest { Value = 50 }).Says.ShouldBe("50 kPa.");
        Of(new CrankSoundCheck { Result = CrankSoundResult.Fast }).IsFinding.ShouldBeTrue();
        Of(new FluidsCheck { BlowBy = BlowBy.Little }).IsFinding.ShouldBeFalse();
        Of(new FluidsCheck { BlowBy = BlowBy.Puffing }).Says.ShouldContain("one cylinder");
        CheckFinding.Of(new ManifoldVacuumTest(), Four).ShouldBeNull();
        CheckFinding.Of(new DryCompressionTest(), Four).ShouldBeNull();
    }
}
