using System.Runtime.Intrinsics;
using CsCheck;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.Tests.Simulation;

/// <summary>What holds of the model whatever the engine.</summary>
public sealed class MotoredLanesTests
{
    private const double Psi = 6894.757293168361;
    private static readonly Cranking Coarse = new() { StepDeg = 1, Seconds = 30 };
    private static readonly GaugeTest Plain = new() { Cylinder = 1, How = Coarse, Pulses = 8 };

    // An engine, a cylinder as it was built, one of five leaks and its area.
    private static readonly Gen<(SimulatedEngine Engine, CylinderCondition Built, Fault Leak, double Mm2)> Cases =
        Gen.Select(Gen.Int[0, SimulatedEngine.All.Count - 1].Select(i => SimulatedEngine.All[i]), Gen.Double[0.6, 1.6], Gen.Double[0.5, 2], Gen.Int[0, 4].Select(i => new[] { Fault.Rings, Fault.IntakeValve, Fault.ExhaustValve, Fault.GasketCoolant, Fault.GasketAdjacent }[i]), Gen.Double[0.05, 8])
            .Select((e, ring, valve, leak, mm2) => (e, new CylinderCondition { RingFactor = ring, ValveFactor = valve }, leak, mm2));

    private static EngineUnderTest With(SimulatedEngine engine, CylinderCondition built, Fault? leak = null, double mm2 = 0, int cylinder = 1) => new(engine, new Dictionary<int, CylinderCondition>
    {
        [cylinder] = leak is { } fault ? SimulatedFault.At(engine, fault, mm2, built, engine.Webs.First(w => w.First == cylinder || cylinder > 1).Second) : built,
    });

    [Fact]
    public void More_leak_never_raises_a_pulse_oil_never_lowers_one_and_pulses_never_fall() => Cases.Sample(c =>
    {
        var (whole, leaks) = (With(c.Engine, c.Built), With(c.Engine, c.Built, c.Leak, c.Mm2));
        var runs = GaugeRun.Of([(whole, Plain), (leaks, Plain), (leaks, Plain with { OilM3 = 10e-6 }), (With(c.Engine, c.Built, c.Leak, 1.5 * c.Mm2), Plain)]);
        runs[0].PulsesPa.Zip(runs[1].PulsesPa).ShouldAllBe(p => p.Second <= p.First + 0.05 * Psi);
        runs[1].PulsesPa.Zip(runs[3].PulsesPa).ShouldAllBe(p => p.Second <= p.First + 0.05 * Psi);
        runs[2].FinalPa.ShouldBeGreaterThanOrEqualTo(runs[1].FinalPa);
        if (c.Leak != Fault.Rings)
        {
            (runs[2].FinalPa / runs[1].FinalPa).ShouldBeLessThan(1.09, "oil only does what it does to rings");
        }
        foreach (var run in runs)
        {
            run.PulsesPa.Zip(run.PulsesPa.Skip(1)).ShouldAllBe(p => p.Second >= p.First);
        }
    }, iter: 40);

    [Fact]
    public void Slower_weaker_colder_a_longer_adapter_and_a_valve_in_the_head_all_read_lower() => Cases.Sample(c =>
    {
        var engine = With(c.Engine, c.Built, c.Leak, c.Mm2 / 4);
        var runs = GaugeRun.Of([(engine, Plain), (engine, Plain with { How = Coarse with { WeakBattery = 0.5 } }), (engine, Plain with { How = Coarse with { Cold = true } }), (engine, Plain with { Kit = GaugeKit.Usual with { AdapterM3 = 3e-6 } }),
            (engine, Plain with { Kit = GaugeKit.ValveInHead }), (engine, Plain with { How = Coarse with { AmbientPa = 83_500 } })]);
        runs.Skip(1).ShouldAllBe(r => r.FinalPa < runs[0].FinalPa);
        double[] speeds = [.. GaugeRun.Of([.. new[] { 100.0, 180, 260 }.Select(rpm => (engine, Plain with { Rpm = rpm }))]).Select(r => r.FinalPa)];
        speeds.Zip(speeds.Skip(1)).ShouldAllBe(p => p.First <= p.Second);
    }, iter: 20);

    [Fact]
    public void Clearance_and_a_late_cam_lower_what_is_read_and_leave_the_loss_alone() => Cases.Sample(c =>
    {
        var engine = With(c.Engine, c.Built);
        var wide = With(c.Engine, c.Built with { VolumeM3 = 0.1 * c.Engine.ClearanceM3 });
        var tight = With(c.Engine, c.Built with { VolumeM3 = -0.1 * c.Engine.ClearanceM3 });
        var late = With(c.Engine with { Timing = c.Engine.Timing with { CamShift = 10 } }, c.Built);
        var finals = GaugeRun.Of([(engine, Plain), (wide, Plain), (tight, Plain), (late, Plain)]).Select(r => r.FinalPa).ToList();
        finals[1].ShouldBeLessThan(finals[0]);
        finals[2].ShouldBeGreaterThan(finals[0]);
        finals[3].ShouldBeLessThan(finals[0]);
        new[] { wide, tight, late }.ShouldAllBe(e => StaticLeak.Of(e, new StaticTest { Cylinder = 1 }).Percent == StaticLeak.Of(engine, new StaticTest { Cylinder = 1 }).Percent);
    }, iter: 15);

    [Fact]
    public void Readings_over_vacuum_follow_the_air_outside()
    {
        foreach (var engine in SimulatedEngine.All.Select(e => new EngineUnderTest(e)))
        {
            var runs = GaugeRun.Of([.. new[] { 101_325.0, 83_500, 70_100 }.Select(pa => (engine, Plain with { Pulses = 10, How = Coarse with { AmbientPa = pa } }))]);
            ((runs[1].FinalPa + 83_500) / (runs[0].FinalPa + 101_325)).ShouldBe(83_500 / 101_325.0, 0.015 * 0.83);
            ((runs[2].FinalPa + 70_100) / (runs[0].FinalPa + 101_325)).ShouldBe(70_100 / 101_325.0, 0.015 * 0.7);
        }
    }

    // Gauges of both kinds, gaskets, coolant, plugs in and out: what is in there now came in or was there.
    [Theory]
    [InlineData(false, false)]
    [InlineData(true, false)]
    [InlineData(false, true)]
    [InlineData(true, true)]
    public void Mass_closes(bool plugsOut, bool head)
    {
        var engine = SimulatedEngine.InlineFour;
        var condition = new Dictionary<int, CylinderCondition> { [1] = new() { GasketTo = 2, GasketM2 = 2e-6, RingM2 = 1e-6, CoolantM2 = 0.5e-6 }, [3] = new() { ExhaustValveM2 = 8e-6, IntakeLift = 0.3 } };
        var lanes = new MotoredLanes([new MotoredSetup
        {
            Engine = engine, Condition = condition, How = Coarse, PlugsOut = plugsOut, Kit = head ? GaugeKit.ValveInHead : GaugeKit.Usual, ThrottleM2 = engine.IdleThrottleM2,
        }])
        { CountAir = true };
        var before = lanes.AirKg[0];
        for (var s = 0; s < 6000; s++)
        {
            lanes.Step();
        }
        (lanes.AirKg[0] - before - lanes.CameInKg[0]).ShouldBe(0, 1e-12 * before);
        lanes.GaugePa[0].ShouldBeGreaterThan(3e5, "it really turned");
    }

    [Fact]
    public void Alike_cylinders_read_alike_and_a_fault_goes_where_it_is_put()
    {
        foreach (var engine in new[] { SimulatedEngine.InlineThree, SimulatedEngine.InlineFour, SimulatedEngine.VEightDiesel })
        {
            var sound = new EngineUnderTest(engine);
            var finals = GaugeRun.Of([.. Enumerable.Range(1, engine.Cylinders).Select(c => (sound, Plain with { Cylinder = c, PlugsIn = true, Pulses = 4 }))]).Select(r => r.FinalPa).ToList();
            (finals.Max() / finals.Min()).ShouldBe(1, 1e-4, engine.Name);
            var bad = GaugeRun.Of([.. Enumerable.Range(1, engine.Cylinders).Select(c => (With(engine, new(), Fault.ExhaustValve, 2, c), Plain with { Cylinder = c }))]).Select(r => r.FinalPa).ToList();
            (bad.Max() / bad.Min()).ShouldBe(1, 1e-6, engine.Name);
        }
    }

    [Fact]
    public void The_inline_six_with_burnt_webs_reads_what_the_table_says()
    {
        var six = SimulatedEngine.InlineFour with { CompressionRatio = 9.4, InertiaKgM2 = 0.6, FrictionNm = 22, FiringOrder = [1, 5, 3, 6, 2, 4] };
        double[] webs = [0.5, 1.5, 4, 1.5, 0.5];
        var engine = new EngineUnderTest(six, webs.Select((mm2, i) => (i, mm2)).ToDictionary(w => w.i + 1, w => new CylinderCondition { GasketTo = w.i + 2, GasketM2 = w.mm2 * 1e-6 }));
        double[] Finals(bool plugsIn) => [.. GaugeRun.Of([.. Enumerable.Range(1, 6).Select(c => (engine, Plain with { Cylinder = c, PlugsIn = plugsIn, Pulses = 12, How = Coarse with { StepDeg = 0.5 } }))]).Select(r => r.FinalPa / Psi)];
        Finals(false).Zip([170.0, 129, 73, 73, 129, 170]).ShouldAllBe(p => Math.Abs(p.First - p.Second) <= Math.Max(3, 0.03 * p.Second));
        Finals(true).Zip([158.0, 116, 66, 66, 116, 158]).ShouldAllBe(p => Math.Abs(p.First - p.Second) <= Math.Max(3, 0.03 * p.Second));
    }

    [Fact]
    public void An_engine_turns_the_same_bits_whatever_turns_beside_it_and_on_every_machine()
    {
        var tests = SimulatedEngine.All.Select((e, i) => (With(e, new(), Fault.Rings, 0.5 + i), Plain with { Pulses = 4, OilM3 = i % 2 * 1e-5 })).ToList();
        var together = GaugeRun.Of(tests);
        ulong hash = 14695981039346656037;
        foreach (var (run, test) in together.Zip(tests))
        {
            GaugeRun.Of([test])[0].PulsesPa.ShouldBe(run.PulsesPa);
            hash = run.PulsesPa.Aggregate(hash, (h, p) => unchecked((h ^ (ulong)BitConverter.DoubleToInt64Bits(p)) * 1099511628211));
        }
        hash.ShouldBe(2845625163060388826UL);
    }

    [Fact]
    public void Nothing_is_allocated_while_it_turns()
    {
        var engine = SimulatedEngine.InlineFour;
        var lanes = new MotoredLanes([new MotoredSetup { Engine = engine, Condition = new Dictionary<int, CylinderCondition>(), How = Coarse, Kit = GaugeKit.Usual, ThrottleM2 = engine.ThrottleM2 }]);
        var time = Vector256<double>.Zero;
        void Turn()
        {
            for (var s = 0; s < 2000; s++)
            {
                time += lanes.Step();
            }
        }
        Turn();
        var before = GC.GetAllocatedBytesForCurrentThread();
        Turn();
        (GC.GetAllocatedBytesForCurrentThread() - before).ShouldBe(0);
        time[0].ShouldBeGreaterThan(1);
    }
}
