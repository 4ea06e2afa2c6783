using CsCheck;
using Zandrik.Core.Physics;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.Tests.Simulation;

public sealed class StaticLeakTests
{
    private static readonly SimulatedEngine[] Engines = [SimulatedEngine.InlineThree, SimulatedEngine.InlineFour, SimulatedEngine.FlatFour, SimulatedEngine.VEightDiesel, SimulatedEngine.InlineSixTruck];
    private static readonly StaticTest One = new() { Cylinder = 1 };

    private static EngineUnderTest With(SimulatedEngine engine, CylinderCondition condition) => new(engine, new Dictionary<int, CylinderCondition> { [1] = condition });

    [Fact]
    public void Sound_engines_lose_what_the_table_says()
    {
        double[] table = [8.8, 11.0, 12.3, 10.4, 6.4];
        Engines.Select(e => StaticLeak.Of(new(e), One).Percent).Zip(table).ShouldAllBe(p => Math.Abs(p.First - p.Second) <= 1);
        StaticLeak.Of(new(SimulatedEngine.InlineFour), One with { RestrictionMm = 1.5 }).Percent.ShouldBe(2.4, 1);
        StaticLeak.Of(new(SimulatedEngine.InlineSixTruck), One with { RestrictionMm = 1.0 }).Percent.ShouldBe(27, 1);
        (StaticLeak.Of(new(SimulatedEngine.InlineFour), One).FlowKgS * 1000).ShouldBe(0.7, 0.05, "mostly rings");
    }

    [Theory]
    [InlineData(0.15, 21, 19)]
    [InlineData(0.5, 48, 39)]
    [InlineData(2, 90, 85)]
    [InlineData(6, 99, 98)]
    public void The_loss_rises_with_the_area_as_the_table_says(double mm2, double rings, double valve)
    {
        StaticLeak.Of(With(SimulatedEngine.InlineFour, new() { RingM2 = mm2 * 1e-6 }), One).Percent.ShouldBe(rings, 1);
        StaticLeak.Of(With(SimulatedEngine.InlineFour, new() { ExhaustValveM2 = mm2 * 1e-6 }), One).Percent.ShouldBe(valve, 1);
    }

    [Fact]
    public void It_rises_with_every_area_its_shares_are_one_and_speed_and_volume_do_not_matter() =>
        Gen.Select(Gen.Int[0, 4].Select(i => Engines[i]), Gen.Double[0, 4].Array[5], Gen.Int[0, 4]).Sample((engine, mm2, which) =>
        {
            CylinderCondition At(double more) => new()
            {
                RingM2 = (mm2[0] + (which == 0 ? more : 0)) * 1e-6, CrownM2 = (mm2[1] + (which == 1 ? more : 0)) * 1e-6, IntakeValveM2 = (mm2[2] + (which == 2 ? more : 0)) * 1e-6,
                ExhaustValveM2 = (mm2[3] + (which == 3 ? more : 0)) * 1e-6, CoolantM2 = (mm2[4] + (which == 4 ? more : 0)) * 1e-6,
            };
            var leak = StaticLeak.Of(With(engine, At(0)), One);
            StaticLeak.Of(With(engine, At(0.3)), One).Percent.ShouldBeGreaterThan(leak.Percent);
            Enum.GetValues<LeakPlace>().Sum(leak.Share).ShouldBe(1, 1e-12);
            StaticLeak.Of(With(engine, At(0) with { VolumeM3 = 1e-6, IntakeLift = 0.3 }), One).Percent.ShouldBe(leak.Percent);
            var shut = StaticLeak.Of(With(engine, At(0)), One with { CheckValveLeftIn = true });
            (shut.Percent, shut.FlowKgS, shut.Share(LeakPlace.Rings)).ShouldBe((0, 0, 0));
        }, iter: 200);

    [Fact]
    public void Off_top_dead_centre_the_crank_turns_away_unless_it_is_held()
    {
        foreach (var engine in Engines)
        {
            StaticLeak At(double off, bool held = false) => StaticLeak.Of(new(engine), One with { OffDeg = off, CrankHeld = held });
            At(3).TurnedAway.ShouldBeFalse(engine.Name);
            foreach (var side in new[] { -12.0, 12 })
            {
                var away = At(side);
                away.TurnedAway.ShouldBeTrue(engine.Name);
                away.Percent.ShouldBeGreaterThan(99);
                At(side, held: true).Percent.ShouldBe(At(0).Percent, 1e-9, "no valve stands open there yet");
            }
        }
        double[] torque = [165, 200, 216, 252, 668];
        Engines.Select(e => StaticLeak.HoldingNmPerRad(e, LeakFlow.StandardSupplyPa * (1 - StaticLeak.Of(new(e), One).Percent / 100))).Zip(torque).ShouldAllBe(p => Math.Abs(p.First / p.Second - 1) < 0.02);
    }

    [Fact]
    public void A_place_is_as_loud_as_its_air_and_the_crankcase_is_baffled()
    {
        var leak = StaticLeak.Of(With(SimulatedEngine.InlineFour, new() { ExhaustValveM2 = 2e-6 }), One);
        leak.LevelDb(LeakPlace.Exhaust).ShouldBeGreaterThan(16, "strong");
        leak.LevelDb(LeakPlace.Coolant).ShouldBe(double.NegativeInfinity);
        var rings = StaticLeak.Of(new(SimulatedEngine.InlineFour), One);
        rings.LevelDb(LeakPlace.Rings).ShouldBe(20 * Math.Log10(rings.Share(LeakPlace.Rings) * rings.FlowKgS / 1e-4) - 12, 1e-9);
    }

    // What a fault lets by may hang on the pressure: then the air finds a pressure at which it stays.
    [Fact]
    public void A_leak_that_grows_with_pressure_loses_more_and_one_that_opens_late_holds_what_opens_it()
    {
        double Lost(MotoredConstants constants, double mm2) => StaticLeak.Of(With(SimulatedEngine.InlineFour with { Constants = constants }, new() { ExhaustValveM2 = mm2 * 1e-6 }), One).Percent;
        foreach (var mm2 in new[] { 0.2, 1, 5 })
        {
            var plain = Lost(MotoredConstants.Usual, mm2);
            Lost(MotoredConstants.Usual with { LeakGrowthPerBar = 1e-12 }, mm2).ShouldBe(plain, 1e-6);
            Lost(MotoredConstants.Usual with { LeakGrowthPerBar = 0.15 }, mm2).ShouldBeInRange(plain, 100);
        }
        // 100 psi are 6.9 bar: a seat that opens at 5 holds 5 of them however far it opens, and one that opens at 8 never does.
        Lost(MotoredConstants.Usual with { LeakOpensPa = 5e5 }, 8).ShouldBe(100 * (1 - 5e5 / LeakFlow.StandardSupplyPa), 0.01);
        Lost(MotoredConstants.Usual with { LeakOpensPa = 8e5 }, 8).ShouldBe(Lost(MotoredConstants.Usual, 0), 1e-6);
    }
}
