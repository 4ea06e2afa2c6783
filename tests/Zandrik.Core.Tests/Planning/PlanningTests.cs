using Zandrik.Core.Conditions;
using Zandrik.Core.Engines;
using Zandrik.Core.Planning;
using Zandrik.Core.Preparation;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;
using static Zandrik.Core.Tests.Cases;

namespace Zandrik.Core.Tests.Planning;

public sealed class PlanningTests
{
    private static readonly EngineSheet Petrol = Inline(4, 205, 150) with { Throttle = ThrottleControl.ByWire };
    private static readonly EngineSheet Diesel = Inline(6, 450, 350) with { Fuel = Fuel.Diesel, Throttle = ThrottleControl.None };

    private static PreparationLine Line(EngineSheet engine, PreparationItem item) => PreparationList.For(engine).Single(l => l.Item == item);

    private static string[] Kinds(EngineSheet engine, ShopSettings? shop = null, WorkshopSheet? workshop = null, params Observation[] seen) =>
        [.. TestPlan.For(new TestRecord { Engine = engine, Observations = seen }, workshop, shop ?? new ShopSettings()).Select(s => RecordWords.Of(s.Kind))];

    [Fact]
    public void Petrol_gas_diesel_and_throttle_by_wire_are_prepared_differently()
    {
        Line(Petrol, PreparationItem.Throttle).Says.ShouldContain("seen to be open");
        Line(Petrol with { Throttle = ThrottleControl.Cable }, PreparationItem.Throttle).Says.ShouldBe("Throttle fully open");
        Line(Petrol, PreparationItem.Ignition).Ways.Select(w => w.Word).ShouldContain("coils-unplugged");
        Line(Petrol with { Features = [EngineFeature.DirectInjection] }, PreparationItem.Fuel).Caution!.ShouldContain("stays under pressure");
        Line(Petrol with { Fuel = Fuel.Cng }, PreparationItem.Fuel).Says.ShouldContain("tank valve shut");
        PreparationList.For(Diesel).ShouldNotContain(l => l.Item == PreparationItem.Throttle);
        Line(Diesel, PreparationItem.Ignition).Says.ShouldContain("battery isolated");
        Line(Diesel, PreparationItem.GaugeAtZero).Says.ShouldContain("70 bar");
        foreach (var engine in new[] { Petrol, Diesel, Petrol with { Fuel = Fuel.Lpg } })
        {
            PreparationList.For(engine).Where(l => l.Required).Select(l => l.Item).ShouldContain(PreparationItem.PlugWells);
            // Running fuel into a bottle is not offered.
            PreparationList.For(engine).SelectMany(l => l.Ways).ShouldNotContain(w => w.Says.Contains("bottle", StringComparison.Ordinal));
        }
    }

    [Fact]
    public void The_adapter_is_named_by_the_sheet() =>
        PreparationList.For(Petrol, new WorkshopSheet { PlugThread = "M14", PlugPitchMm = 1.25, PlugReachMm = 26.5 })
            .Single(l => l.Item == PreparationItem.Adapter).Says.ShouldEndWith("M14 × 1.25 reach 26.5 mm");

    [Fact]
    public void A_tick_says_what_the_test_is_done_by_and_taking_it_away_takes_that_back()
    {
        var cold = PreparationList.Conditions(new TestConditions(), PreparationItem.Warm, "cold");
        cold.EngineTemperature.ShouldBe(EngineTemperature.Cold);
        PreparationList.WithoutTick(cold, PreparationItem.Warm).ShouldBe(new TestConditions());
        PreparationList.Conditions(new TestConditions(), PreparationItem.Plugs, "one-at-a-time").Plugs.ShouldBe(PlugsRemoved.OneAtATime);
        foreach (var item in Enum.GetValues<PreparationItem>())
        {
            PreparationList.WithoutTick(PreparationList.Conditions(new TestConditions(), item, null), item).ShouldBe(new TestConditions());
        }
    }

    [Fact]
    public void A_half_ticked_preparation_is_judged_as_an_unticked_one_and_what_is_put_right_later_counts()
    {
        var unticked = new TestConditions { NotPrepared = [PreparationItem.Throttle, PreparationItem.Fuel, PreparationItem.Ignition, PreparationItem.PlugWells] };
        var plain = Dry(new TestConditions(), 145, 144, 146, 143);
        var test = plain with { Readings = [.. plain.Readings!.Select(r => r.Cylinder < 3 ? r with { Conditions = unticked } : r)] };
        var judged = Judge(Petrol, test);
        judged.Validity.Where(v => v.Code != ValidityCode.NotPrepared).ShouldBe(Judge(Petrol, plain).Validity, "unticked is unknown, not wrong");
        judged.Validity.ShouldContain(v => v.Code == ValidityCode.NotPrepared && v.Severity == Severity.Note && v.Cylinders.SequenceEqual(new[] { 1, 2 }) && v.Says.Contains("throttle", StringComparison.Ordinal), "but it is said");
        judged.Minimum!.Limits.ShouldBe(AbsoluteLimits.Apply);
        DryReading.Of(test, Petrol)[0].NotPrepared.Count.ShouldBe(4);
        // Noted on the test afterwards, it is no longer said.
        DryReading.Of(test with { Conditions = Proper }, Petrol)[0].NotPrepared.ShouldBe([PreparationItem.PlugWells]);
    }

    [Fact]
    public void What_a_condition_of_the_test_answers_is_not_missing_from_a_reading_taken_under_it()
    {
        PreparationList.NotPrepared(Petrol, [PreparationItem.Fuel], null).ShouldContain(PreparationItem.Throttle);
        var missing = PreparationList.NotPrepared(Petrol, [PreparationItem.Fuel], new TestConditions { Throttle = ThrottlePlate.Open });
        missing.ShouldNotContain(PreparationItem.Throttle);
        missing.ShouldNotContain(PreparationItem.Fuel);
        missing.ShouldContain(PreparationItem.PlugWells, "no condition speaks of it");
        PreparationList.NotPrepared(Diesel, [], null).ShouldNotContain(PreparationItem.Throttle);
    }

    [Fact]
    public void The_plan_follows_the_complaint_the_fuel_and_what_the_sheet_allows()
    {
        Kinds(Petrol).ShouldBe(["crank-sound", "relative-compression", "prepare", "plug-inspection", "compression-dry", "leak-down", "compression-wet"]);
        Kinds(Petrol, seen: Observation.CoolantLoss).ShouldContain("combustion-gas");
        Kinds(Petrol, seen: Observation.CoolantLoss)[0].ShouldBe("fluids");
        Kinds(Petrol, seen: Observation.RoughIdle).ShouldContain("compression-running");
        Kinds(Diesel, seen: Observation.RoughIdle).ShouldNotContain("compression-running");
        Kinds(Diesel).ShouldNotContain("compression-wet", "a diesel needs the sheet's word");
        Kinds(Diesel with { Spec = new EngineSpec { WetAllowed = true } }).ShouldContain("compression-wet");
        Kinds(Petrol, new ShopSettings { Wet = WetMethod.Never }).ShouldNotContain("compression-wet");
        var wetFirst = Kinds(Petrol, new ShopSettings { Wet = WetMethod.WetFirst });
        Array.IndexOf(wetFirst, "compression-wet").ShouldBeLessThan(Array.IndexOf(wetFirst, "leak-down"));
        Kinds(Petrol, seen: Observation.IngestedLiquid).ShouldNotContain("relative-compression", "not cranked with liquid in a cylinder");
        var ruled = TestPlan.For(new TestRecord { Engine = Petrol, RuledOut = [new RuledOut { What = "coils" }] }, null, new ShopSettings());
        ruled.Single(s => s.Kind == StepKind.Dry).Why.ShouldContain("Already ruled out: coils; so the mechanics are next");
        // What is ruled out is not gone after again, and speaks for nothing else.
        var heated = new TestRecord { Engine = Petrol with { Features = [EngineFeature.CoolantHeatedIntake, EngineFeature.OilCooler] }, Observations = [Observation.CoolantLoss] };
        TestPlan.For(heated, null, new ShopSettings()).ShouldContain(s => s.Kind == StepKind.CoolantInIntake);
        var tight = TestPlan.For(heated with { RuledOut = [new RuledOut { Item = RuledOutItem.HeatedIntake }] }, null, new ShopSettings());
        tight.ShouldNotContain(s => s.Kind == StepKind.CoolantInIntake);
        tight.Single(s => s.Kind == StepKind.Dry).Why.ShouldNotContain("mechanics are next");
    }

    [Fact]
    public void Minutes_hold_the_sheets_own_access()
    {
        var workshop = new WorkshopSheet { Access = [new AccessStep("Intake off", 45)] };
        int Sure(WorkshopSheet? w) => TestPlan.Minutes(TestPlan.For(new TestRecord { Engine = Petrol }, w, new ShopSettings())).Sure;
        (Sure(workshop) - Sure(null)).ShouldBe(45);
    }

    [Fact]
    public void The_refit_list_is_made_from_what_was_disabled_and_removed()
    {
        RefitList.For(Petrol, new Dictionary<PreparationItem, string?>(), plugsWereOut: false, oiled: false, []).ShouldBeEmpty();
        var done = new Dictionary<PreparationItem, string?> { [PreparationItem.Fuel] = "pump-relay", [PreparationItem.Throttle] = "seen-wedged", [PreparationItem.Battery] = "full" };
        var lines = RefitList.For(Petrol, done, plugsWereOut: true, oiled: true, [new AccessStep("Cover off", 2), new AccessStep("Coils", 5)]);
        lines.Select(l => l.Word).ShouldBe(["counted", "fuel", "throttle", "plugs", "access", "leaks", "started", "codes"]);
        lines.Single(l => l.Word == "fuel").Says.ShouldBe("Pump relay or fuse back");
        lines.Single(l => l.Word == "access").Says.ShouldBe("Back on: Coils, Cover off", "in the other order");
        lines.Single(l => l.Word == "started").Says.ShouldContain("oil");
    }

    [Fact]
    public void After_a_leak_down_the_crank_is_freed_and_what_was_opened_is_shut()
    {
        string[] Words(Gearbox gearbox) => [.. RefitList.For(
            new TestRecord { Engine = Petrol with { Gearbox = gearbox }, Tests = [new LeakDownTest { Readings = [new LeakDownReading { Cylinder = 1, Held = 90 }] }] },
            new Dictionary<PreparationItem, string?>(), []).Select(l => l.Says)];
        Words(Gearbox.Manual).ShouldContain("Out of gear, chocks away");
        Words(Gearbox.Automatic).ShouldContain("Crank or flywheel lock out");
        Words(Gearbox.Automatic).ShouldContain(l => l.Contains("coolant cap", StringComparison.Ordinal));
    }

    [Fact]
    public void A_heated_intake_and_blow_by_have_their_steps_where_the_signs_ask_for_them()
    {
        Kinds(Petrol with { Features = [EngineFeature.CoolantHeatedIntake] }, null, null, Observation.CoolantLoss).ShouldContain("coolant-in-intake");
        Kinds(Petrol, null, null, Observation.CoolantLoss).ShouldNotContain("coolant-in-intake");
        Kinds(Petrol, null, null, Observation.BlowBy).ShouldContain("blow-by");
    }
}
