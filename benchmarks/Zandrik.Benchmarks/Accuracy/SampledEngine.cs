using Zandrik.Core.Diagnosis;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Physics;
using Zandrik.Core.Planning;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Benchmarks.Accuracy;

/// <summary>How the world of a study differs from the one the judge reckons with.</summary>
/// <param name="Equal">Every fault as likely as every other, so that the base rates are wrong.</param>
/// <param name="EachByOdds">Every cylinder and web draws its fault by the base odds for itself, as the judge reckons; else 72 engines in a hundred have one fault, and one in eight of those a second.</param>
/// <param name="ReadingNoise">Repeatability of a compression reading, fraction.</param>
/// <param name="LeakNoise">Standard deviation of a leak-down, points.</param>
/// <param name="TesterArea">Standard deviation of ln of a tester's restriction about what it says.</param>
/// <param name="EarDb">Standard deviation of an ear, dB.</param>
/// <param name="Blunder">Share of answers at a place that are wrong altogether.</param>
/// <param name="OilEffect">Standard deviation of the effect of oil, fraction of the pressure.</param>
/// <param name="Nominal">Standard deviation of the maker's figure about the true level, fraction.</param>
/// <param name="Severities">Where between mild and severe most faults are.</param>
/// <param name="Level">Standard deviation of ln of the level of an engine about what it is built for: valves that close early or late.</param>
/// <param name="Unrecorded">Share of the conditions of a test that nobody noted.</param>
/// <param name="Faulty">Share of engines with a fault.</param>
internal sealed record SampledWorld(bool Equal = false, bool EachByOdds = false, double ReadingNoise = 0.022, double LeakNoise = 2, double TesterArea = 0, double EarDb = 4, double Blunder = 0.03, double OilEffect = 0, double Nominal = 0.03, SeveritySpread Severities = SeveritySpread.Middle, double Level = 0, double Unrecorded = 0, double Faulty = 0.72)
{
    /// <summary>The judge's own.</summary>
    public static SampledWorld Own { get; } = new();

    /// <summary>The judge's own to the letter: faults cylinder by cylinder.</summary>
    public static SampledWorld ByOdds { get; } = new(EachByOdds: true);

    /// <summary>Faults equally likely.</summary>
    public static SampledWorld EqualFaults { get; } = new(Equal: true);

    /// <summary>As many mild and severe faults as middling ones.</summary>
    public static SampledWorld EvenSeverities { get; } = new(Severities: SeveritySpread.Even);

    /// <summary>Most faults are mild: engines are brought in early.</summary>
    public static SampledWorld MostlyMild { get; } = new(Severities: SeveritySpread.Mild);

    /// <summary>Engines with nothing wrong.</summary>
    public static SampledWorld NothingWrong { get; } = new(Faulty: 0);

    /// <summary>Worlds that are off in one thing each, and one that is off in all.</summary>
    public static IReadOnlyList<(string Name, SampledWorld World)> Loose { get; } =
    [
        ("testers' restrictions off by 40 %", new(TesterArea: 0.4)), ("readings 4 %", new(ReadingNoise: 0.04)), ("ear 6 dB, 8 % blunders", new(EarDb: 6, Blunder: 0.08)), ("half the conditions not noted", new(Unrecorded: 0.5)),
        ("figures off by 6 %", new(Nominal: 0.06)), ("valves close 8° early or late", new(Level: 0.045)), ("all of these", new(ReadingNoise: 0.04, TesterArea: 0.4, EarDb: 6, Blunder: 0.08, Nominal: 0.06, Level: 0.045, Unrecorded: 0.5)),
    ];

    /// <summary>Worse ears, worse testers, worse figures.</summary>
    public static SampledWorld Rough { get; } = new(ReadingNoise: 0.032, LeakNoise: 4, TesterArea: 0.3, EarDb: 7, Blunder: 0.08, OilEffect: 0.03, Nominal: 0.06);
}

/// <summary>Something wrong in how a dry test was done.</summary>
internal enum TestSlip
{
    /// <summary>The throttle plate shut.</summary>
    ThrottleShut,

    /// <summary>The engine cold.</summary>
    Cold,

    /// <summary>Two compressions each.</summary>
    FewCompressions,

    /// <summary>The check valve in the head of the gauge.</summary>
    ValveInHead,

    /// <summary>The needle off zero.</summary>
    NeedleOff,

    /// <summary>A battery that tires.</summary>
    TiringBattery,
}

/// <summary>Where between mild and severe most faults are, on a logarithm.</summary>
internal enum SeveritySpread
{
    /// <summary>In the middle.</summary>
    Middle,

    /// <summary>Anywhere.</summary>
    Even,

    /// <summary>At the mild end.</summary>
    Mild,
}

/// <summary>
/// An engine with hidden faults and what every test would read of it: leaks, oil, lobes, rods and deposits after the tables of the crank-angle model (motored engine), leak-down by compressible
/// flow. The spread of severities is this study's own, not the one the judge's curves stand on.
/// </summary>
internal sealed class SampledEngine
{
    // ln of pressure against sound, by added leak in mm² on the 2.0 litre four (0.185 a mm²); other engines by their own loss.
    private static readonly double[] LeakAreas = [0, 0.15, 0.3, 0.5, 1, 2, 3, 4, 6, 8, 14], LeakPercent = [100, 97, 94, 90, 81, 67, 56, 48, 35, 26, 14];

    // Nothing, mild, moderate, severe: what a running engine reads at idle and after a snap, against a sound cylinder's, by what is lost dry.
    private static readonly double[] RingDry = [0.41, 0.67, 0.90, 1], RingIdle = [0.80, 0.92, 0.97, 1], RingSnap = [0.80, 0.91, 0.98, 1];
    private static readonly double[] IntakeDry = [0.26, 0.68, 0.92, 1], IntakeIdle = [0.63, 0.90, 0.97, 1], IntakeSnap = [0.68, 0.905, 0.98, 1];
    private static readonly double[] ExhaustDry = [0.26, 0.67, 0.92, 1], ExhaustIdle = [0.70, 0.92, 0.98, 1], ExhaustSnap = [0.705, 0.917, 0.98, 1];
    private static readonly double[] GasketDry = [0.26, 0.61, 0.845, 1], GasketIdle = [0.66, 0.91, 0.97, 1], GasketSnap = [0.68, 0.894, 0.967, 1];
    private static readonly double[] CoolantDry = [0.676, 0.905, 0.966, 1], CoolantIdle = [0.864, 0.955, 0.98, 1], CoolantSnap = [0.90, 0.967, 0.99, 1];

    private readonly Random draw;
    private readonly SampledWorld world;
    private readonly Model model;
    private readonly Cylinder[] cylinders;
    private readonly double gaugeGain, oilGain, restriction, level;
    private double severity;

    private sealed record Model(string Name, int Cylinders, Fuel Fuel, CylinderArrangement Layout, int[][] Banks, double Level, double Loss, double OilGain, double BoreMm, double StrokeMm, double RingMm2, double ValveMm2, double OrificeMm, double Share);

    // The level is what a sound one reads, psi; the loss is ln a mm² of leak; both measured on the model.
    private static readonly Model[] Models =
    [
        new("three, petrol turbo", 3, Fuel.Petrol, CylinderArrangement.Inline, [[1, 2, 3]], 200, 0.22, 0.040, 77, 86, 0.24, 0.03, 1.0, 0.15),
        new("four, petrol", 4, Fuel.Petrol, CylinderArrangement.Inline, [[1, 2, 3, 4]], 207, 0.185, 0.039, 84, 90, 0.27, 0.035, 1.0, 0.30),
        new("flat four, petrol", 4, Fuel.Petrol, CylinderArrangement.Flat, [[1, 3], [2, 4]], 191, 0.17, 0.037, 94, 79, 0.29, 0.035, 1.0, 0.15),
        new("six, petrol", 6, Fuel.Petrol, CylinderArrangement.Inline, [[1, 2, 3, 4, 5, 6]], 188, 0.185, 0.039, 84, 90, 0.27, 0.035, 1.0, 0.15),
        new("V8, diesel", 8, Fuel.Diesel, CylinderArrangement.V, [[1, 3, 5, 7], [2, 4, 6, 8]], 412, 0.28, 0.056, 92, 94, 0.26, 0.035, 1.0, 0.15),
        new("six, truck diesel", 6, Fuel.Diesel, CylinderArrangement.Inline, [[1, 2, 3, 4, 5, 6]], 449, 0.13, 0.033, 120, 140, 0.45, 0.06, 1.5, 0.10),
    ];

    private sealed class Cylinder
    {
        public Fault Fault = Fault.Sound;
        public double Rings, Intake, Exhaust, Coolant, Crown, Front, Behind, Volume = 1, Lift = 1, Slip = 1, RunIdle = 1, RunSnap = 1;
        public bool SlipStays;
        public double Severity;
    }

    private SampledEngine(int seed, SampledWorld world)
    {
        draw = new Random(seed);
        this.world = world;
        var pick = draw.NextDouble() * Models.Sum(m => m.Share);
        model = Models.First(m => (pick -= m.Share) <= 0 || m == Models[^1]);
        var scale = model.BoreMm * model.BoreMm * model.StrokeMm * Math.PI / 4000 / 500;
        Size = scale;
        gaugeGain = Math.Exp(0.015 * Gauss());
        level = model.Level * (world.Level > 0 ? Math.Exp(world.Level * Gauss()) : 1);
        oilGain = model.OilGain * (1 + 0.2 * Gauss());
        restriction = LeakFlow.RestrictionAreaMm2(model.OrificeMm) * Math.Exp(world.TesterArea * Gauss());
        // An engine is as old as it is, most are not worn; its cylinders differ a little.
        var age = 0.2 * Math.Pow(draw.NextDouble(), 2);
        cylinders = [.. Enumerable.Range(0, model.Cylinders).Select(_ => new Cylinder { Rings = model.RingMm2 * Math.Exp(0.25 * Gauss()) + scale * Math.Max(0, age + 0.03 * Gauss()), Intake = model.ValveMm2 * Math.Exp(0.4 * Gauss()), Exhaust = model.ValveMm2 * Math.Exp(0.4 * Gauss()), Volume = 1 + 0.012 * Gauss() })];
        if (world.EachByOdds)
        {
            var own = Faults.SkipLast(1).Sum(f => Core.Diagnosis.FaultOdds.Of(f, Diesel));
            for (var i = 0; i < cylinders.Length; i++)
            {
                if (draw.NextDouble() < own / (1 + own))
                {
                    Spoil(i, Pick(Faults.SkipLast(1)));
                }
                // A web is shared by two: drawn by the one in front of it.
                if (Neighbours.Of(Sheet, i + 1).Behind is not null && draw.NextDouble() < Core.Diagnosis.FaultOdds.Of(Fault.GasketAdjacent, Diesel))
                {
                    Spoil(i, Fault.GasketAdjacent);
                }
            }
        }
        else if (draw.NextDouble() < world.Faulty)
        {
            Spoil(draw.Next(cylinders.Length), Pick(Faults));
            if (draw.NextDouble() < 0.12)
            {
                Spoil(draw.Next(cylinders.Length), Pick(Faults));
            }
        }
    }

    private static readonly Fault[] Faults = [Fault.Rings, Fault.Piston, Fault.IntakeValve, Fault.ExhaustValve, Fault.GasketCoolant, Fault.IntakeNotOpening, Fault.ExhaustNotOpening, Fault.ShortStroke, Fault.FuelWashed, Fault.Carbon, Fault.TestError, Fault.GasketAdjacent];

    private Fault Pick(IEnumerable<Fault> some)
    {
        var faults = some.ToArray();
        double Rate(Fault f) => world.Equal ? 1 : Core.Diagnosis.FaultOdds.Of(f, Diesel);
        var pick = draw.NextDouble() * faults.Sum(Rate);
        return faults.FirstOrDefault(f => (pick -= Rate(f)) <= 0, faults[^1]);
    }

    public static SampledEngine Draw(int seed, SampledWorld world) => new(seed, world);

    /// <summary>Cylinder over half a litre.</summary>
    public double Size { get; }

    public bool Diesel => model.Fuel == Fuel.Diesel;

    public int Cylinders => model.Cylinders;

    public IReadOnlyList<int[]> Banks => model.Banks;

    /// <summary>How severe that is: 0 mild, 0.5 moderate, 1 severe.</summary>
    public double SeverityOf(int cylinder) => cylinders[cylinder - 1].Severity;

    /// <summary>What is wrong with a cylinder, from 1.</summary>
    public Fault Truth(int cylinder) => cylinders[cylinder - 1].Fault;

    private double Gauss() => Math.Sqrt(-2 * Math.Log(1 - draw.NextDouble())) * Math.Cos(2 * Math.PI * draw.NextDouble());

    // How severe, from mild 0 to severe 1 and a little beyond both.
    private double Severity()
    {
        var (u, v) = (draw.NextDouble(), draw.NextDouble());
        return severity = -0.05 + 1.1 * world.Severities switch { SeveritySpread.Even => u, SeveritySpread.Mild => Math.Min(u, v), _ => (u + v) / 2 };
    }

    private double Between(double mild, double severe) => mild * Math.Pow(severe / mild, Severity());

    private double Straight(double mild, double severe) => mild + (severe - mild) * Severity();

    // A seat that leaks; one valve in twelve is bent or hung and does not come to its seat at all.
    private double Seat(double u) => u < 1.0 / 12 ? Between(14, 50) : Between(0.4, 8);

    private static double Along(double[] x, double[] y, double at)
    {
        if (at <= x[0])
        {
            return y[0];
        }
        for (var i = 1; i < x.Length; i++)
        {
            if (at <= x[i])
            {
                return y[i - 1] + (y[i] - y[i - 1]) * (at - x[i - 1]) / (x[i] - x[i - 1]);
            }
        }
        return y[^1];
    }

    private void Spoil(int at, Fault fault)
    {
        var c = cylinders[at];
        if (c.Fault != Fault.Sound)
        {
            return;
        }
        var u = draw.NextDouble();
        switch (fault)
        {
            case Fault.Rings:
                c.Rings += Size * Between(0.5, 5);
                break;
            case Fault.Piston:
                c.Crown = Size * Between(4, 30);
                break;
            case Fault.IntakeValve:
                c.Intake += Size * Seat(u);
                break;
            case Fault.ExhaustValve:
                c.Exhaust += Size * Seat(u);
                break;
            case Fault.GasketCoolant:
                c.Coolant = Size * Between(0.15, 2);
                break;
            case Fault.IntakeNotOpening when u < 0.15:
                // Hardly opening: starved.
                c.Lift = Along([0.05, 0.08, 0.12], Diesel ? [0.24, 0.45, 0.73] : [0.24, 0.44, 0.75], Straight(0.12, 0.05));
                (c.RunIdle, c.RunSnap) = (0.5 * c.Lift, 0.35 * c.Lift);
                break;
            case Fault.IntakeNotOpening:
                var k = Straight(0.40, 0.22);
                c.Lift = Along([0.22, 0.30, 0.40], Diesel ? [0.90, 0.955, 1.0] : [1.0, 1.05, 1.087], k);
                (c.RunIdle, c.RunSnap) = (Along([0.22, 0.30, 0.40], [0.81, 0.98, 1.027], k), Along([0.22, 0.30, 0.40], [0.544, 0.75, 0.917], k));
                break;
            case Fault.ExhaustNotOpening:
                var e = Straight(0.40, 0.12);
                (c.RunIdle, c.RunSnap, c.Lift) = (Along([0.12, 0.25, 0.40], [1.66, 1.52, 1.33], e), Along([0.12, 0.25, 0.40], [0.844, 0.928, 1.028], e), 1.005);
                break;
            case Fault.ShortStroke:
                var delta = Straight(0.8, 3.5);
                c.Volume = Along([0, 0.8, 1.8, 3.5, 4], Diesel ? [1, 0.869, 0.745, 0.60, 0.56] : [1, 0.923, 0.836, 0.725, 0.69], delta);
                (c.RunIdle, c.RunSnap) = (Along([0, 0.8, 1.8, 3.5], [1, 0.91, 0.81, 0.68], delta) / c.Volume, Along([0, 0.8, 1.8, 3.5], [1, 0.928, 0.85, 0.74], delta) / c.Volume);
                break;
            case Fault.FuelWashed:
                c.Rings += model.RingMm2 * (Between(1.8, 7) - 1);
                break;
            case Fault.Carbon:
                var ml = Straight(2, 7);
                c.Volume = Along([0, 2, 4, 7, 8], Diesel ? [1, 1.034, 1.07, 1.129, 1.15] : [1, 1.039, 1.082, 1.15, 1.17], ml);
                break;
            case Fault.TestError:
                c.Slip = u < 0.08 ? 1.06 : Math.Exp(-0.08 - 0.6 * draw.NextDouble() * draw.NextDouble());
                c.SlipStays = draw.NextDouble() < 0.5;
                break;
            default:
                var bank = model.Banks.First(b => b.Contains(at + 1));
                var place = Array.IndexOf(bank, at + 1);
                var other = place + 1 < bank.Length && (place == 0 || world.EachByOdds || u < 0.5) ? place + 1 : place - 1;
                if (other < 0 || cylinders[bank[other] - 1].Fault != Fault.Sound)
                {
                    return;
                }
                var area = Size * Between(0.8, 8);
                var (first, second) = (cylinders[bank[Math.Min(place, other)] - 1], cylinders[bank[Math.Max(place, other)] - 1]);
                (first.Severity, second.Severity) = (severity, severity);
                (first.Behind, second.Front, first.Fault, second.Fault) = (first.Behind + area, second.Front + area, Fault.GasketAdjacent, Fault.GasketAdjacent);
                return;
        }
        (c.Fault, c.Severity) = (fault, severity);
    }

    // ln of pressure against a cylinder with no leak beyond the sound one's.
    private double LnPressure(double areaMm2)
    {
        var four = Math.Max(0, areaMm2) * model.Loss / 0.185;
        return four >= LeakAreas[^1] ? Math.Max(-3.2, Math.Log(LeakPercent[^1] / 100) - 0.13 * (four - LeakAreas[^1])) : Math.Log(Along(LeakAreas, LeakPercent, four) / 100);
    }

    private double Dry(Cylinder c, double ringShare = 1)
    {
        var more = ringShare * c.Rings - model.RingMm2 + c.Intake + c.Exhaust - 2 * model.ValveMm2 + c.Coolant + c.Crown + c.Front + c.Behind;
        // Tighter than the usual sound one is a little more pressure.
        return level * c.Volume * c.Lift * Math.Exp(more < 0 ? -model.Loss * more : LnPressure(more));
    }

    private double Read(double psi) => Math.Max(0, 5 * Math.Round(psi * gaugeGain * Math.Exp(world.ReadingNoise * Gauss()) / 5));

    /// <summary>The record with the tests of a stage, from a to d.</summary>
    public TestRecord Record(char stage)
    {
        var dry = cylinders.Select(c => Read(Dry(c) * c.Slip)).ToArray();
        var highest = dry.OrderDescending().ToArray();
        var odd = Enumerable.Range(0, dry.Length).Where(i => dry[i] < 0.92 * highest[Math.Min(1, dry.Length - 1)]).ToList();
        odd = odd.Count > 0 ? odd : [Array.IndexOf(dry, dry.Min())];
        var all = Enumerable.Range(0, dry.Length).ToList();
        var tests = new List<TestEntry>
        {
            new DryCompressionTest { Unit = PressureUnit.Psi, Conditions = Noted(), Readings = [.. dry.Select((v, i) => new CompressionReading { Cylinder = i + 1, Value = v, Order = i + 1, UnitConfirmed = true })] },
        };
        if (stage is 'c' or 'd')
        {
            tests.Add(new LeakDownTest { Unit = PressureUnit.Psi, Supply = 100, Tester = new Tester { RestrictionMm = model.OrificeMm }, Readings = [.. (stage == 'c' ? odd : all).Select(Leak)] });
        }
        if (stage is 'b' or 'd')
        {
            tests.Add(new WetCompressionTest { Unit = PressureUnit.Psi, OilMl = 10, Readings = [.. (stage == 'b' ? odd : all).Select(Wet)] });
        }
        if (stage == 'd' && !Diesel)
        {
            tests.Add(new RunningCompressionTest { Unit = PressureUnit.Psi, Readings = [.. all.Select(Running)] });
        }
        return new TestRecord
        {
            Engine = new EngineSheet
            {
                Cylinders = model.Cylinders, Fuel = model.Fuel, Layout = model.Layout, Banks = [.. model.Banks.Select(b => (IReadOnlyList<int>)b)], BoreMm = model.BoreMm, StrokeMm = model.StrokeMm,
                Throttle = Diesel ? ThrottleControl.None : ThrottleControl.Cable, Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = Math.Round(model.Level * (1 + world.Nominal * Gauss())), WetAllowed = true },
            },
            Tests = tests,
        };
    }

    /// <summary>The engine with nothing on record yet but its complaint.</summary>
    public TestRecord Empty() => Record('a') with { Tests = [], Observations = [.. Complaints()] };

    // Why it was brought: four in five of those with something wrong show it.
    private IEnumerable<Observation> Complaints()
    {
        foreach (var fault in cylinders.Select(c => c.Fault).Distinct().Where(f => f is not (Fault.Sound or Fault.TestError)))
        {
            if (draw.NextDouble() < 0.8)
            {
                yield return fault switch { Fault.Rings or Fault.Piston => Observation.OilUse, Fault.GasketCoolant => Observation.CoolantLoss, Fault.FuelWashed => Observation.HardStart, Fault.Carbon => Observation.Pinging, _ => Observation.Misfire };
            }
        }
    }

    /// <summary>Minutes of everything that could be measured.</summary>
    public double MinutesOfAll => StepMinutes.DryPlugsIn(Cylinders) + StepMinutes.LeakDown(Cylinders) + StepMinutes.Wet(Cylinders) + (Diesel ? 0 : StepMinutes.Running(Cylinders));

    /// <summary>The record with a test done that was offered: read as everything else here is.</summary>
    public TestRecord Do(TestRecord record, NextTest test)
    {
        var of = test.Cylinders.Select(c => c - 1).ToList();
        T? Last<T>() where T : TestEntry => record.Tests!.OfType<T>().LastOrDefault();
        TestRecord With(TestEntry? before, TestEntry after) => record with { Tests = [.. record.Tests!.Where(t => t != before), after] };
        switch (test.Kind)
        {
            case StepKind.Dry:
                var read = Last<DryCompressionTest>()?.Readings!.ToDictionary(r => r.Cylinder) ?? [];
                foreach (var i in of)
                {
                    // A slip at one cylinder is gone as often as not when it is read again.
                    var again = read.ContainsKey(i + 1) && !cylinders[i].SlipStays;
                    var psi = Read(Dry(cylinders[i]) * (again ? 1 : cylinders[i].Slip));
                    read[i + 1] = read.TryGetValue(i + 1, out var once) ? once with { Repeats = [.. once.Repeats ?? [], (RepeatReading)psi] } : new CompressionReading { Cylinder = i + 1, Value = psi, UnitConfirmed = true };
                }
                return With(Last<DryCompressionTest>(), new DryCompressionTest { Unit = PressureUnit.Psi, Conditions = Noted(), Readings = [.. read.Values.OrderBy(r => r.Cylinder)] });
            case StepKind.LeakDown:
                return With(Last<LeakDownTest>(), new LeakDownTest { Unit = PressureUnit.Psi, Supply = 100, Tester = new Tester { RestrictionMm = model.OrificeMm }, Readings = [.. Last<LeakDownTest>()?.Readings ?? [], .. of.Select(Leak)] });
            case StepKind.Wet:
                return With(Last<WetCompressionTest>(), new WetCompressionTest { Unit = PressureUnit.Psi, OilMl = 10, Readings = [.. (Last<WetCompressionTest>()?.Readings ?? []).Where(r => !of.Contains(r.Cylinder - 1)), .. of.Select(Wet)] });
            case StepKind.Running:
                return With(Last<RunningCompressionTest>(), new RunningCompressionTest { Unit = PressureUnit.Psi, Readings = [.. (Last<RunningCompressionTest>()?.Readings ?? []).Where(r => !of.Contains(r.Cylinder - 1)), .. of.Select(Running)] });
            case StepKind.Relative:
                var shares = cylinders.Select(c => Dry(c) * Math.Exp(0.03 * Gauss())).ToArray();
                return With(null, new RelativeCompressionTest { Readings = [.. shares.Select((s, i) => new RelativeReading { Cylinder = i + 1, RelativePercent = Math.Round(100 * s / shares.Max()), StandardErrorPercent = 3 })] });
            case StepKind.CombustionGas:
                return With(null, new CombustionGasTest { Result = draw.NextDouble() < (cylinders.Any(c => c.Coolant > 0) ? 0.85 : 0.04) ? CombustionGasResult.Positive : CombustionGasResult.Negative });
            case StepKind.Plugs:
                return With(null, new PlugInspection { Readings = [.. of.Select(i => new PlugReading { Cylinder = i + 1, Signs = [Sign(cylinders[i].Fault)] })] });
            case StepKind.ValveClearance:
                return With(null, new ValveClearanceCheck { Readings = [.. of.SelectMany(i => new[] { ValveSide.Intake, ValveSide.Exhaust }.Select(v => new ValveClearanceReading { Cylinder = i + 1, Valve = v, Minimum = 0.2, Maximum = 0.3, Value = Clearance(cylinders[i].Fault, v) }))] });
            default:
                throw new InvalidOperationException($"Nobody here knows how to do {test.Kind}.");
        }
    }

    private PlugSign Sign(Fault fault)
    {
        var (sign, share) = fault switch { Fault.Rings or Fault.Piston => (PlugSign.OilWet, 0.55), Fault.FuelWashed => (PlugSign.FuelWet, 0.75), Fault.GasketCoolant => (PlugSign.CoolantCleaned, 0.5), _ => (PlugSign.OilWet, 0.08) };
        return draw.NextDouble() < share ? sign : PlugSign.Normal;
    }

    // A seat that leaks is tight as often as not; a worn lobe shows as play.
    private double Clearance(Fault fault, ValveSide side) => (fault, side) switch
    {
        (Fault.IntakeValve, ValveSide.Intake) or (Fault.ExhaustValve, ValveSide.Exhaust) when draw.NextDouble() < 0.4 => 0.1,
        (Fault.IntakeNotOpening, ValveSide.Intake) or (Fault.ExhaustNotOpening, ValveSide.Exhaust) when draw.NextDouble() < 0.5 => 0.5,
        _ => 0.25,
    };

    // What somebody noted of how it was tested.
    private TestConditions Noted()
    {
        bool Forgotten() => draw.NextDouble() < world.Unrecorded;
        return world.Unrecorded == 0 ? Proper : new()
        {
            EngineTemperature = Forgotten() ? null : Proper.EngineTemperature, Throttle = Forgotten() ? null : Proper.Throttle, Plugs = Forgotten() ? null : Proper.Plugs, Fuel = Forgotten() ? null : Proper.Fuel,
            Ignition = Forgotten() ? null : Proper.Ignition, Battery = Forgotten() ? null : Proper.Battery, NeedleAtZero = Forgotten() ? null : Proper.NeedleAtZero,
        };
    }

    /// <summary>The dry test of this engine with something wrong in how it was done, noted or not.</summary>
    /// <param name="slip">What.</param>
    /// <param name="noted">Whether anybody noted it.</param>
    public TestRecord With(TestSlip slip, bool noted)
    {
        var record = Record('a');
        var test = record.Tests!.OfType<DryCompressionTest>().Single();
        var all = slip switch { TestSlip.ThrottleShut => -0.09 + 0.03 * Gauss(), TestSlip.Cold => -0.075 + 0.03 * Gauss(), TestSlip.FewCompressions => -0.10 + 0.03 * Gauss(), TestSlip.ValveInHead => -0.18 + 0.04 * Gauss(), TestSlip.NeedleOff => 0.05 * Gauss(), _ => 0 };
        var fall = slip == TestSlip.TiringBattery ? 0.02 + 0.02 * draw.NextDouble() : 0;
        var readings = test.Readings!.Select((r, i) => r with { Value = 5 * Math.Round(r.Value!.Value * Math.Exp(all - fall * i) / 5), Pulses = slip == TestSlip.FewCompressions && noted ? 2 : null }).ToList();
        var how = !noted ? test.Conditions! : slip switch
        {
            TestSlip.ThrottleShut => test.Conditions! with { Throttle = Diesel ? null : ThrottlePlate.Closed },
            TestSlip.Cold => test.Conditions! with { EngineTemperature = EngineTemperature.Cold },
            TestSlip.ValveInHead => test.Conditions! with { CheckValve = CheckValvePlace.GaugeHead },
            TestSlip.NeedleOff => test.Conditions! with { NeedleAtZero = false },
            TestSlip.TiringBattery => test.Conditions! with { Battery = BatteryState.Weak },
            _ => test.Conditions!,
        };
        return record with { Tests = [test with { Conditions = how with { Battery = slip == TestSlip.TiringBattery && !noted ? null : how.Battery }, Readings = readings }] };
    }

    private static readonly TestConditions Proper = new() { EngineTemperature = EngineTemperature.Warm, Throttle = ThrottlePlate.Open, Plugs = PlugsRemoved.AllOut, Fuel = Supply.Off, Ignition = Supply.Off, Battery = BatteryState.Charger, NeedleAtZero = true };

    private CompressionReading Wet(int i)
    {
        var c = cylinders[i];
        var left = 0.48 + 0.52 * Math.Exp(-10 * 86 / (5 * model.BoreMm));
        var weak = model.Layout == CylinderArrangement.Flat ? (left + 1) / 2 : left;
        // Washed walls are wetted again by the oil.
        var share = c.Fault == Fault.FuelWashed ? (0.1 + 0.9 * model.RingMm2 / c.Rings) * left : weak;
        var gain = Dry(c, share) / Dry(c) / (Dry(Plain, weak) / Dry(Plain)) * (1 + oilGain + world.OilEffect * Gauss());
        return new CompressionReading { Cylinder = i + 1, Value = Read(Dry(c) * gain * (c.Fault == Fault.TestError && !c.SlipStays ? 1 : c.Slip)) };
    }

    private Cylinder Plain => new() { Rings = model.RingMm2, Intake = model.ValveMm2, Exhaust = model.ValveMm2 };

    private LeakDownReading Leak(int i)
    {
        var c = cylinders[i];
        // No moving oil film: rings let by more when they stand still.
        (ListeningPlace At, int? Of, double Area, double Ear)[] paths =
        [
            (ListeningPlace.Intake, null, c.Intake, 0), (ListeningPlace.Exhaust, null, c.Exhaust, 0), (ListeningPlace.OilFiller, null, 1.3 * c.Rings + c.Crown, c.Crown > 0 ? 0 : -12), (ListeningPlace.Coolant, null, c.Coolant, 0),
            (ListeningPlace.AdjacentPlugHole, Neighbours.Of(Sheet, i + 1).Before, c.Front, 0), (ListeningPlace.AdjacentPlugHole, Neighbours.Of(Sheet, i + 1).Behind, c.Behind, 0),
        ];
        var whole = paths.Sum(p => p.Area);
        var percent = LeakFlow.Percent(whole / restriction, LeakFlow.StandardSupplyPa);
        var flow = Core.Diagnosis.LeakEvidence.Flow(restriction, LeakFlow.StandardSupplyPa, percent);
        var heard = new List<HeardAir>();
        foreach (var p in paths.Where(p => p.At != ListeningPlace.AdjacentPlugHole || p.Of is not null))
        {
            var level = 20 * Math.Log10(Math.Max(1e-6, p.Area / whole * flow) / 0.1) + p.Ear + world.EarDb * Gauss();
            var strength = draw.NextDouble() < world.Blunder ? draw.Next(4) : level < 0 ? 0 : level < 6 ? 1 : level < 16 ? 2 : 3;
            if (strength > 0)
            {
                heard.Add(new HeardAir { At = p.At, Cylinder = p.Of, Strength = (HeardStrength)(strength - 1) });
            }
        }
        return new LeakDownReading { Cylinder = i + 1, LeakPercent = Math.Clamp(Math.Round(percent + world.LeakNoise * Gauss()), 1, 99), Heard = heard.Count > 0 ? heard : [new HeardAir { At = ListeningPlace.Nowhere }] };
    }

    private EngineSheet Sheet => new() { Cylinders = model.Cylinders, Layout = model.Layout, Banks = [.. model.Banks.Select(b => (IReadOnlyList<int>)b)] };

    private RunningReading Running(int i)
    {
        var c = cylinders[i];
        var dry = Dry(c) / level / c.Volume / c.Lift;
        var (x, idle, snap) = c.Fault switch
        {
            Fault.IntakeValve => (IntakeDry, IntakeIdle, IntakeSnap),
            Fault.ExhaustValve => (ExhaustDry, ExhaustIdle, ExhaustSnap),
            Fault.GasketAdjacent => (GasketDry, GasketIdle, GasketSnap),
            Fault.GasketCoolant => (CoolantDry, CoolantIdle, CoolantSnap),
            _ => (RingDry, RingIdle, RingSnap),
        };
        var volume = c.Fault is Fault.ShortStroke or Fault.Carbon ? c.Volume : 1;
        return new RunningReading
        {
            Cylinder = i + 1, Purged = true,
            Idle = Read(0.53 * level * Along(x, idle, dry) * volume * c.RunIdle), Snap = Read(0.87 * level * Along(x, snap, dry) * volume * c.RunSnap),
        };
    }
}
