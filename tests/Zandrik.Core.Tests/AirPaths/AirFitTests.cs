using Zandrik.Core.AirPaths;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;
using Zandrik.Core.Tests.Diagnosis;
using Zandrik.Core.Units;

namespace Zandrik.Core.Tests.AirPaths;

public sealed class AirFitTests
{
    private const double Psi = 6894.757;

    private static AirFit Of(string job) => AirFit.Of(JobEvidence.Of(Whiteboard.Job(job)));

    // A simulated engine read without noise, with everything but a running test; what it lets by is known.
    private static TestRecord Read(SimulatedEngine engine, Dictionary<int, CylinderCondition> condition, bool heard = true)
    {
        var it = new EngineUnderTest(engine, condition);
        var all = Enumerable.Range(1, engine.Cylinders).ToArray();
        IReadOnlyList<CompressionReading> Gauge(double oil) => [.. GaugeRun.Of([.. all.Select(c => (it, new GaugeTest { Cylinder = c, OilM3 = oil, Pulses = 8, How = new() { StepDeg = 1, Seconds = 30 } }))]).Select((r, i) => new CompressionReading { Cylinder = i + 1, Value = Math.Round(r.FinalPa / Psi, 1) })];
        LeakDownReading Air(int c)
        {
            var leak = StaticLeak.Of(it, new StaticTest { Cylinder = c });
            var loud = new[] { (ListeningPlace.Intake, LeakPlace.Intake), (ListeningPlace.Exhaust, LeakPlace.Exhaust), (ListeningPlace.OilFiller, LeakPlace.Rings), (ListeningPlace.Coolant, LeakPlace.Coolant) }
                .Where(p => leak.LevelDb(p.Item2) > 0).Select(p => new HeardAir { At = p.Item1, Strength = leak.LevelDb(p.Item2) switch { > 15 => HeardStrength.Strong, > 7 => HeardStrength.Clear, _ => HeardStrength.Faint } }).ToList();
            return new() { Cylinder = c, LeakPercent = Math.Round(leak.Percent), Heard = heard ? loud.Count > 0 ? loud : [new() { At = ListeningPlace.Nowhere }] : null };
        }
        return new()
        {
            Engine = new EngineSheet
            {
                Cylinders = engine.Cylinders, Fuel = engine.Fuel, BoreMm = engine.BoreM * 1000, StrokeMm = engine.StrokeM * 1000, Layout = CylinderArrangement.Inline, FiringOrder = engine.FiringOrder,
                Spec = new() { Unit = PressureUnit.Psi, Nominal = Math.Round(GaugeRun.Of(new EngineUnderTest(engine), new GaugeTest { Cylinder = 1, Pulses = 8 }).FinalPa / Psi), WetAllowed = true },
            },
            Tests =
            [
                new DryCompressionTest { Unit = PressureUnit.Psi, Readings = Gauge(0) }, new WetCompressionTest { Unit = PressureUnit.Psi, OilMl = 10, Readings = Gauge(10e-6) },
                new LeakDownTest { Unit = PressureUnit.Psi, Supply = 100, Tester = new Tester { RestrictionMm = engine.OrificeMm }, Readings = [.. all.Select(Air)] },
            ],
        };
    }

    [Theory]
    [InlineData(LeakPlace.Rings, 2)]
    [InlineData(LeakPlace.Intake, 0.8)]
    [InlineData(LeakPlace.Exhaust, 3)]
    [InlineData(LeakPlace.Coolant, 0.7)]
    public void What_a_simulated_cylinder_lets_by_is_found(LeakPlace path, double mm2)
    {
        foreach (var engine in new[] { SimulatedEngine.InlineFour, SimulatedEngine.InlineSixTruck })
        {
            var m2 = mm2 * engine.Size * 1e-6;
            var broken = path switch { LeakPlace.Rings => new CylinderCondition { RingM2 = m2 }, LeakPlace.Intake => new() { IntakeValveM2 = m2 }, LeakPlace.Exhaust => new() { ExhaustValveM2 = m2 }, _ => new() { CoolantM2 = m2 } };
            var fit = AirFit.Of(JobEvidence.Of(Read(engine, new() { [2] = broken })));
            var main = fit.Cylinders[1].Main.ShouldNotBeNull();
            main.Path.ShouldBe(path);
            var sound = path == LeakPlace.Rings ? engine.RingLeakM2 : path == LeakPlace.Coolant ? 0 : engine.ValveLeakM2;
            main.Mm2.ShouldBeInRange(0.8e6 * (m2 + sound), 1.25e6 * (m2 + sound), $"{engine.Name} {path}");
            main.Open.ShouldBeGreaterThan(0.8);
            foreach (var other in fit.Cylinders.Where(c => c.Cylinder != 2))
            {
                other.Main.ShouldBeNull($"{engine.Name}: cylinder {other.Cylinder} is sound");
            }
            fit.Readings.ShouldAllBe(r => Math.Abs(r.Off) < 2.5);
        }
    }

    [Fact]
    public void A_web_that_lets_by_is_one_area_for_both_beside_it()
    {
        var engine = SimulatedEngine.InlineFour;
        var read = Read(engine, new() { [2] = new() { GasketM2 = 1.5e-6, GasketTo = 3 } });
        // Both hear each other.
        var air = (LeakDownTest)read.Tests![2];
        read = read with { Tests = [read.Tests[0], read.Tests[1], air with { Readings = [.. air.Readings!.Select(r => r.Cylinder is 2 or 3 ? r with { Heard = [new() { At = ListeningPlace.AdjacentPlugHole, Cylinder = 5 - r.Cylinder, Strength = HeardStrength.Strong }] } : r)] }] };
        var fit = AirFit.Of(JobEvidence.Of(read));
        var (two, three) = (fit.Cylinders[1].Main!, fit.Cylinders[2].Main!);
        (two.Path, two.To, three.Path, three.To).ShouldBe((LeakPlace.Neighbour, 3, LeakPlace.Neighbour, 2));
        two.Mm2.ShouldBe(three.Mm2);
        two.Mm2.ShouldBeInRange(1.2, 1.9);
        fit.Cylinders[0].Main.ShouldBeNull();
    }

    [Fact]
    public void It_needs_two_kinds_of_test()
    {
        AirFit.CanFit(JobEvidence.Of(Whiteboard.Job("petrol 4; dry 190 188 120 191"))).ShouldBeFalse();
        AirFit.CanFit(JobEvidence.Of(Whiteboard.Job("petrol 4; dry 190 188 120 191; wet 3 150"))).ShouldBeTrue();
        AirFit.CanFit(JobEvidence.Of(Whiteboard.Job("petrol 4"))).ShouldBeFalse();
    }

    [Fact]
    public void The_same_job_gives_the_same_answer_to_the_bit()
    {
        const string Job = "petrol 4; dry 190 188 131 191; leak 3 85 exhaust 3; leak 1 10; wet 3 136; run 1 100 163; run 3 90 140; run 2 99 162";
        string Said() => string.Join(' ', Of(Job).Cylinders.SelectMany(c => c.Paths.Select(p => $"{p.Mm2:R} {p.LowMm2:R} {p.Open:R}")));
        Said().ShouldBe(Said());
    }

    [Fact]
    public void What_is_heard_decides_between_places_and_without_it_the_interval_says_that_nothing_does()
    {
        var heard = Of("petrol 4; nominal 190; dry 190 188 131 191; leak 3 80 exhaust 3; leak 1 9; wet 3 136").Cylinders[2];
        heard.Main!.Path.ShouldBe(LeakPlace.Exhaust);
        heard.Main.HighMm2.ShouldBeLessThan(1.6 * heard.Main.LowMm2);
        var silent = Of("petrol 4; nominal 190; dry 190 188 131 191; wet 3 137").Cylinders[2];
        silent.Paths.Where(p => p.Path != LeakPlace.Neighbour).ShouldAllBe(p => p.Open < 0.75);
        var valve = silent.Paths.Single(p => p.Path == LeakPlace.Exhaust);
        valve.HighMm2.ShouldBeGreaterThan(10 * valve.LowMm2, "it may be this valve or not");
        silent.Leaks.ShouldBeGreaterThan(0.6, "that it leaks is likelier than any place");
        silent.PlaceIsOpen.ShouldBeTrue();
        silent.MayBe.Count.ShouldBeGreaterThan(1);
        heard.Leaks.ShouldBeGreaterThan(0.95);
        heard.PlaceIsOpen.ShouldBeFalse();
    }

    [Fact]
    public void Low_without_a_leak_is_said_to_be_something_else()
    {
        var fit = Of("petrol 4; nominal 190; dry 190 188 150 191; leak 1 10; leak 2 9; leak 3 10; leak 4 11; wet 3 156");
        fit.Cylinders[2].Main.ShouldBeNull();
        fit.Cylinders[2].Otherwise.ShouldBeGreaterThan(0.8);
        fit.Cylinders[0].Otherwise.ShouldBeLessThan(0.2);
    }

    [Fact]
    public void More_lost_is_more_area_and_every_interval_holds_its_middle()
    {
        var before = 0.0;
        // What a leak of 0.3, 1, 2 and 4 mm² reads in the model.
        foreach (var (dry, loss) in new[] { (179, 33), (154, 64), (127, 85), (91, 96) })
        {
            var fit = Of($"petrol 4; nominal 190; dry 190 188 {dry} 191; leak 3 {loss} intake 3; leak 1 9; leak 2 10");
            var main = fit.Cylinders[2].Main.ShouldNotBeNull($"{dry} {loss}: {string.Join("; ", fit.Cylinders[2].Paths)} {fit.Cylinders[2].Otherwise} {string.Join("; ", fit.Readings.Where(r => r.Cylinder == 3))}");
            main.Path.ShouldBe(LeakPlace.Intake);
            main.Mm2.ShouldBeGreaterThan(before);
            before = main.Mm2;
            fit.Cylinders.SelectMany(c => c.Paths).ShouldAllBe(p => p.LowMm2 <= p.Mm2 && p.Mm2 <= p.HighMm2 && p.Open >= 0 && p.Open <= 1 + 1e-9);
        }
    }
}
