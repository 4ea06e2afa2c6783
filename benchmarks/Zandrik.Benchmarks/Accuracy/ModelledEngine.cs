using Zandrik.Core.Diagnosis;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;
using Zandrik.Core.Units;

namespace Zandrik.Benchmarks.Accuracy;

/// <summary>A world of engines that the crank-angle model turns, and how its shops read them.</summary>
/// <param name="Name">What it is called.</param>
/// <param name="Shop">How readings are taken.</param>
/// <param name="ConstantsOff">The model with constants off: wall heat ± 30 %, valves that close up to 8° early or late, leaks that grow by up to 6 % a bar, up to 3 kPa in the crankcase, hoses half to twice as large, a needle that lags by up to 2 %.</param>
/// <param name="LossesOff">Half of all leaks past rings and seats open only above 5 bar, the others grow with pressure by up to 15 % a bar; starters wound in series.</param>
/// <param name="Unlistened">Share of places nobody listened at.</param>
internal sealed record ModelWorld(string Name, SampledWorld Shop, bool ConstantsOff = false, bool LossesOff = false, double Unlistened = 0)
{
    public static IReadOnlyList<ModelWorld> All { get; } =
    [
        new("(a) the model itself", new()), new("(b) constants off", new(), ConstantsOff: true), new("(c) losses shaped otherwise", new(), LossesOff: true),
        new("(d) rough shops", new(ReadingNoise: 0.04, Nominal: 0.06, EarDb: 6, Blunder: 0.08, Unrecorded: 0.5), Unlistened: 0.3),
    ];
}

/// <summary>An engine drawn from the family, with hidden faults: every reading is what the model's gauge showed, with the noise of a shop.</summary>
internal sealed class ModelledEngine
{
    /// <summary>Faults it draws from.</summary>
    public static IReadOnlyList<Fault> Faults { get; } = [Fault.Rings, Fault.Piston, Fault.IntakeValve, Fault.ExhaustValve, Fault.GasketCoolant, Fault.IntakeNotOpening, Fault.ExhaustNotOpening, Fault.ShortStroke, Fault.FuelWashed, Fault.Carbon, Fault.TestError, Fault.GasketAdjacent];

    /// <summary>Oil of a wet test, ml.</summary>
    public const double OilMl = 10;

    private const double Psi = 6894.757;

    private readonly SeededDraw draw;
    private readonly ModelWorld world;
    private readonly SimulatedEngine engine;
    private readonly Truths[] cylinders;
    private readonly Dictionary<int, CylinderCondition> conditions = [];
    private readonly double gaugeGain, restrictionMm2;
    private readonly double[] dry, wet;
    private readonly RunningRun[] running;
    private readonly (double Idle, double Snap) soundRunning;

    private sealed class Truths
    {
        public Fault Fault = Fault.Sound;
        public double Severity, Slip = 1;
        public bool SlipStays;
    }

    private ModelledEngine(int seed, ModelWorld world)
    {
        (draw, this.world) = (new SeededDraw(unchecked(seed * 7_368_787 + 11)), world);
        Diesel = draw.Even() < 0.25;
        engine = EngineFamily.Draw(draw, Diesel);
        (gaugeGain, restrictionMm2) = (draw.Factor(0.015), LeakFlow.RestrictionAreaMm2(engine.OrificeMm) * draw.Factor(world.Shop.TesterArea));
        var kit = GaugeKit.Usual;
        // Drawn in every world, so that the engines of all are the same but for what is off.
        double[] off = [.. Enumerable.Range(0, 8).Select(_ => draw.Even())];
        var meant = engine;
        if (world.ConstantsOff)
        {
            engine = engine with { Timing = engine.Timing with { IntakeCloses = engine.Timing.IntakeCloses - 8 + 16 * off[1] }, Constants = engine.Constants with { WallHeat = engine.Constants.WallHeat * (0.7 + 0.6 * off[0]), LeakGrowthPerBar = 0.06 * off[2], CrankcasePa = 3000 * off[3] } };
            (kit, gaugeGain) = (kit with { HoseM3 = kit.HoseM3 * Math.Pow(2, 2 * off[4] - 1) }, gaugeGain * (1 - 0.02 * off[5]));
        }
        if (world.LossesOff)
        {
            engine = engine with { Constants = engine.Constants with { LeakOpensPa = off[6] < 0.5 ? 5e5 : 0, LeakGrowthPerBar = off[6] < 0.5 ? 0 : 0.15 * off[2], SeriesShare = 1 } };
        }
        cylinders = [.. Enumerable.Range(0, engine.Cylinders).Select(_ => new Truths())];
        var age = 0.2 * Math.Pow(draw.Even(), 2);
        foreach (var number in engine.FiringOrder.Order())
        {
            var built = EngineFamily.Built(engine, draw);
            conditions[number] = built with { RingM2 = engine.Size * 1e-6 * Math.Max(0, age + 0.03 * draw.Normal()) };
        }
        if (draw.Even() < world.Shop.Faulty)
        {
            Spoil();
            if (draw.Even() < 0.12)
            {
                Spoil();
            }
        }
        // A flat engine's oil runs to one side: as if half as much were shut.
        var oil = engine.Name == SimulatedEngine.FlatFour.Name ? WeakOil() : OilMl * 1e-6;
        OilLeft = MotoredShare(oil * 1e6);
        GaugeTest Test(int cylinder, double of) => new() { Cylinder = cylinder, OilM3 = of, Pulses = 6, Kit = kit, How = new() { StepDeg = 1, Seconds = 30 } };
        var it = new EngineUnderTest(engine, conditions);
        var numbers = Enumerable.Range(1, engine.Cylinders).ToArray();
        var read = GaugeRun.Of([.. numbers.Select(n => (it, Test(n, 0))), .. numbers.Select(n => (it, Test(n, oil))), (new EngineUnderTest(meant), Test(1, 0) with { Kit = GaugeKit.Usual }), (new EngineUnderTest(engine), Test(1, 0)), (new EngineUnderTest(engine), Test(1, oil))]);
        (dry, wet) = ([.. read.Take(numbers.Length).Select(r => r.FinalPa / Psi)], [.. read.Skip(numbers.Length).Take(numbers.Length).Select(r => r.FinalPa / Psi)]);
        (MeantPsi, SoundPsi, SoundGain) = (read[^3].FinalPa / Psi, read[^2].FinalPa / Psi, read[^1].FinalPa / read[^2].FinalPa);
        running = Diesel ? [] : [.. RunningRun.Of([.. numbers.Select(n => (it, new RunningTest { Cylinder = n, How = new() { StepDeg = 2 }, Kit = kit }))])];
        // What a sound one reads in this very engine, whose idle control may have opened for another.
        var sound = numbers.Where(n => Truth(n) == Fault.Sound).DefaultIfEmpty(1).ToList();
        soundRunning = Diesel ? default : (sound.Average(n => running[n - 1].IdlePa) / Psi, sound.Average(n => running[n - 1].SnapPa) / Psi);
    }

    public static ModelledEngine Draw(int seed, ModelWorld world) => new(seed, world);

    public bool Diesel { get; }

    public int Cylinders => cylinders.Length;

    /// <summary>What a sound cylinder of this engine reads, psi; and what one would if the model were as the maker had it.</summary>
    public double SoundPsi { get; }

    private double MeantPsi { get; }

    /// <summary>What oil makes of a sound cylinder, a factor.</summary>
    public double SoundGain { get; }

    /// <summary>What a sound cylinder reads running, psi; nothing for a diesel.</summary>
    public (double Idle, double Snap) SoundRunning => soundRunning;

    /// <summary>What the job's gauge makes of a pressure, a factor.</summary>
    public double GaugeGain => gaugeGain;

    /// <summary>The share of a ring leak that the oil of a wet test leaves.</summary>
    public double OilLeft { get; }

    /// <summary>Cylinders that share a web with one.</summary>
    public IEnumerable<int> Beside(int cylinder) => engine.Webs.Where(w => w.First == cylinder || w.Second == cylinder).Select(w => w.First == cylinder ? w.Second : w.First);

    /// <summary>What a cylinder lets by at each place, mm², and what one as it was built lets by.</summary>
    public IReadOnlyDictionary<LeakPlace, (double Mm2, double Sound)> AreasMm2(int cylinder)
    {
        var c = conditions[cylinder];
        var (ring, seat) = (engine.RingLeakM2 * c.RingFactor * 1e6, engine.ValveLeakM2 * c.ValveFactor * 1e6);
        var web = conditions.Where(k => k.Value.GasketTo is { } to && (k.Key == cylinder || to == cylinder)).Sum(k => k.Value.GasketM2) * 1e6;
        return new Dictionary<LeakPlace, (double, double)>
        {
            [LeakPlace.Rings] = ((ring + c.RingM2 * 1e6) * c.WashFactor, ring), [LeakPlace.Crown] = (c.CrownM2 * 1e6, 0), [LeakPlace.Intake] = (seat + c.IntakeValveM2 * 1e6, seat),
            [LeakPlace.Exhaust] = (seat + c.ExhaustValveM2 * 1e6, seat), [LeakPlace.Coolant] = (c.CoolantM2 * 1e6, 0), [LeakPlace.Neighbour] = (web, 0),
        };
    }

    public Fault Truth(int cylinder) => cylinders[cylinder - 1].Fault;

    /// <summary>0 mild, 0.5 moderate, 1 severe.</summary>
    public double SeverityOf(int cylinder) => cylinders[cylinder - 1].Severity;

    private double WeakOil()
    {
        var left = (MotoredShare(OilMl) + 1) / 2;
        return -Math.Log((left - 0.48) / 0.52) * 5 * engine.BoreM * 1000 / 86 * 1e-6;
    }

    private double MotoredShare(double ml) => 0.48 + 0.52 * Math.Exp(-ml * 86 / (5 * engine.BoreM * 1000));

    private void Spoil()
    {
        var pick = draw.Even() * Faults.Sum(f => FaultOdds.Of(f, Diesel));
        var fault = Faults.FirstOrDefault(f => (pick -= FaultOdds.Of(f, Diesel)) <= 0, Faults[^1]);
        var at = draw.Pick(engine.FiringOrder);
        var severity = -0.05 + 1.1 * (draw.Even() + draw.Even()) / 2;
        var wide = draw.Even() < 1.0 / 12;
        var c = cylinders[at - 1];
        if (c.Fault != Fault.Sound)
        {
            return;
        }
        if (fault == Fault.TestError)
        {
            (c.Slip, c.SlipStays) = (severity < 0.1 ? 1.06 : Math.Exp(-0.08 - 0.6 * draw.Even() * draw.Even()), draw.Even() < 0.5);
        }
        else if (fault == Fault.GasketAdjacent)
        {
            var webs = engine.Webs.Where(w => (w.First == at || w.Second == at) && cylinders[w.First - 1].Fault == Fault.Sound && cylinders[w.Second - 1].Fault == Fault.Sound).ToList();
            if (webs.Count == 0)
            {
                return;
            }
            var (first, second) = draw.Pick(webs);
            conditions[first] = SimulatedFault.Of(engine, fault, 2 * severity, conditions[first], second);
            foreach (var n in new[] { first, second })
            {
                (cylinders[n - 1].Fault, cylinders[n - 1].Severity) = (fault, severity);
            }
            return;
        }
        else if (wide && fault is Fault.IntakeValve or Fault.ExhaustValve)
        {
            conditions[at] = SimulatedFault.At(engine, fault, 14 * Math.Pow(50.0 / 14, severity), conditions[at]);
        }
        else
        {
            conditions[at] = SimulatedFault.Of(engine, fault, 2 * severity, conditions[at]);
        }
        (c.Fault, c.Severity) = (fault, severity);
    }

    private double Read(double psi) => Math.Max(0, 5 * Math.Round(psi * gaugeGain * draw.Factor(world.Shop.ReadingNoise) / 5));

    /// <summary>The record with the tests of a stage, from a to d, as <see cref="SampledEngine"/> has them.</summary>
    public TestRecord Record(char stage)
    {
        var read = dry.Select((psi, i) => Read(psi * cylinders[i].Slip)).ToArray();
        var highest = read.OrderDescending().ElementAt(1);
        var odd = Enumerable.Range(0, read.Length).Where(i => read[i] < 0.92 * highest).ToList();
        odd = odd.Count > 0 ? odd : [Array.IndexOf(read, read.Min())];
        var all = Enumerable.Range(0, read.Length).ToList();
        var tests = new List<TestEntry> { new DryCompressionTest { Unit = PressureUnit.Psi, Conditions = Noted(), Readings = [.. read.Select((v, i) => new CompressionReading { Cylinder = i + 1, Value = v, Order = i + 1, UnitConfirmed = true })] } };
        if (stage is 'c' or 'd')
        {
            tests.Add(new LeakDownTest { Unit = PressureUnit.Psi, Supply = 100, Tester = new Tester { RestrictionMm = engine.OrificeMm }, Readings = [.. (stage == 'c' ? odd : all).Select(Leak)] });
        }
        if (stage is 'b' or 'd')
        {
            tests.Add(new WetCompressionTest { Unit = PressureUnit.Psi, OilMl = OilMl, Readings = [.. (stage == 'b' ? odd : all).Select(i => new CompressionReading { Cylinder = i + 1, Value = Read(wet[i] * (cylinders[i].SlipStays ? cylinders[i].Slip : 1)) })] });
        }
        if (stage == 'd' && !Diesel)
        {
            tests.Add(new RunningCompressionTest { Unit = PressureUnit.Psi, Readings = [.. all.Select(i => new RunningReading { Cylinder = i + 1, Purged = true, Idle = Read(running[i].IdlePa / Psi), Snap = Read(running[i].SnapPa / Psi) })] });
        }
        return new TestRecord { Engine = Sheet, Tests = tests };
    }

    private EngineSheet? sheet;

    private EngineSheet Sheet => sheet ??= new()
    {
        Cylinders = engine.Cylinders, Fuel = engine.Fuel, BoreMm = Math.Round(engine.BoreM * 1000, 1), StrokeMm = Math.Round(engine.StrokeM * 1000, 1), Throttle = Diesel ? ThrottleControl.None : ThrottleControl.Cable,
        Layout = engine.Name.Contains("flat", StringComparison.Ordinal) ? CylinderArrangement.Flat : engine.Name.Contains('V', StringComparison.Ordinal) ? CylinderArrangement.V : CylinderArrangement.Inline, Banks = Banks(),
        Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = Math.Round(MeantPsi * (1 + world.Shop.Nominal * draw.Normal())), WetAllowed = true },
    };

    // Cylinders that share webs stand in one bank.
    private List<IReadOnlyList<int>> Banks()
    {
        var banks = new List<IReadOnlyList<int>>();
        foreach (var first in engine.FiringOrder.Order().Where(n => engine.Webs.All(w => w.Second != n)))
        {
            var bank = new List<int> { first };
            while (engine.Webs.FirstOrDefault(w => w.First == bank[^1]) is { Second: > 0 } next)
            {
                bank.Add(next.Second);
            }
            banks.Add(bank);
        }
        return banks;
    }

    private LeakDownReading Leak(int i)
    {
        var leak = StaticLeak.Of(new EngineUnderTest(engine, conditions), new StaticTest { Cylinder = i + 1, RestrictionMm = Math.Sqrt(restrictionMm2 / LeakFlow.RestrictionAreaMm2(1)) });
        var (before, behind) = (Core.LeakDown.Neighbours.Of(Sheet, i + 1).Before, Core.LeakDown.Neighbours.Of(Sheet, i + 1).Behind);
        double Web(int? to) => to is { } n && (conditions[i + 1].GasketTo == n || conditions[n].GasketTo == i + 1) ? leak.LevelDb(LeakPlace.Neighbour) : double.NegativeInfinity;
        (ListeningPlace At, int? Of, double Db)[] places =
        [
            (ListeningPlace.Intake, null, leak.LevelDb(LeakPlace.Intake)), (ListeningPlace.Exhaust, null, leak.LevelDb(LeakPlace.Exhaust)), (ListeningPlace.OilFiller, null, Math.Max(leak.LevelDb(LeakPlace.Rings), leak.LevelDb(LeakPlace.Crown))),
            (ListeningPlace.Coolant, null, leak.LevelDb(LeakPlace.Coolant)), (ListeningPlace.AdjacentPlugHole, before, Web(before)), (ListeningPlace.AdjacentPlugHole, behind, Web(behind)),
        ];
        var (heard, listened) = (new List<HeardAir>(), new List<ListeningPlace>());
        foreach (var p in places.Where(p => p.At != ListeningPlace.AdjacentPlugHole || p.Of is not null))
        {
            if (draw.Even() < world.Unlistened)
            {
                continue;
            }
            listened.Add(p.At);
            var level = p.Db + world.Shop.EarDb * draw.Normal();
            var strength = draw.Even() < world.Shop.Blunder ? (int)draw.Even(0, 4) : level < 0 ? 0 : level < 6 ? 1 : level < 16 ? 2 : 3;
            if (strength > 0)
            {
                heard.Add(new HeardAir { At = p.At, Cylinder = p.Of, Strength = (HeardStrength)(strength - 1) });
            }
        }
        var everywhere = world.Unlistened == 0;
        return new LeakDownReading
        {
            Cylinder = i + 1, LeakPercent = Math.Clamp(Math.Round(leak.Percent + world.Shop.LeakNoise * draw.Normal()), 1, 99),
            Heard = heard.Count > 0 || !everywhere ? heard : [new HeardAir { At = ListeningPlace.Nowhere }], Listened = everywhere ? null : [.. listened.Distinct()],
        };
    }

    private TestConditions Noted()
    {
        bool Forgotten() => draw.Even() < world.Shop.Unrecorded;
        return new()
        {
            EngineTemperature = Forgotten() ? null : EngineTemperature.Warm, Throttle = Forgotten() ? null : ThrottlePlate.Open, Plugs = Forgotten() ? null : PlugsRemoved.AllOut, Fuel = Forgotten() ? null : Supply.Off,
            Ignition = Forgotten() ? null : Supply.Off, Battery = Forgotten() ? null : BatteryState.Charger, NeedleAtZero = Forgotten() ? null : true,
        };
    }
}
