using Zandrik.Core.Engines;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Simulation;

namespace Zandrik.Benchmarks;

/// <summary>What ails the engine of a varied capture.</summary>
public enum Ailment
{
    None,
    OneLeaking,
    OneBadlyFilled,
    OneShort,
    TwoLeaking,
    Gasket,
    Dead,
}

/// <summary>
/// One capture of the accuracy study: an invented engine whose starter, friction, valve timing and compression ratio differ from what the analysis assumes, with or without a fault,
/// recorded by an instrument with its own faults; and the truth, which only the study knows.
/// </summary>
public sealed record VariedCapture(SimulatedEngine Engine, Ailment Ailment, IReadOnlySet<int> Faulty, CaptureRecipe Recipe, CaptureQuestion Question, SimulatedCapture Capture, IReadOnlyList<double> Truth, double MeanRpm)
{
    /// <summary>What is odd about it beyond its engine and instrument, for the report.</summary>
    public string Kind { get; init; } = "own";

    /// <summary>A capture of the world the method was made in, or of one it was not: pressures that lose their charge in shapes of their own, leaks that open under pressure, starters wound in series, slow
    /// captures, strong ripple, torque that goes round with the cycle.</summary>
    public static VariedCapture Draw(int seed, bool other = false)
    {
        var chance = new Random(seed * 7919 + 13);
        double Between(double low, double high) => low + (high - low) * chance.NextDouble();
        double Factor(double spread) => Math.Exp(Between(-spread, spread));
        double Gauss() => Math.Sqrt(-2 * Math.Log(1 - chance.NextDouble())) * Math.Cos(2 * Math.PI * chance.NextDouble());

        var plain = Engines[chance.Next(Engines.Count)];
        var t = plain.Timing;
        var shift = Between(-8, 8);
        var engine = plain with
        {
            InertiaKgM2 = plain.InertiaKgM2 * Factor(0.35),
            FrictionNm = plain.FrictionNm * Factor(0.4),
            DragNms = plain.DragNms * Factor(0.5),
            MotorConstantVs = plain.MotorConstantVs * Factor(0.1),
            MotorOhm = plain.MotorOhm * Factor(0.25),
            BatteryOhm = plain.BatteryOhm * Factor(0.3),
            Efficiency = Between(0.78, 0.92),
            CompressionRatio = plain.CompressionRatio + Between(-1, 1),
            BoreM = plain.BoreM * Factor(0.08),
            StrokeM = plain.StrokeM * Factor(0.08),
            Timing = t with { IntakeCloses = t.IntakeCloses + shift, ExhaustOpens = t.ExhaustOpens + Between(-6, 6) },
            ThrottleM2 = plain.Fuel != Fuel.Diesel && chance.NextDouble() < 0.4 ? 12e-6 * plain.Cylinders / 4 : plain.ThrottleM2,
        };
        engine = engine with { RodM = Math.Max(engine.RodM, 1.5 * engine.StrokeM) };
        var n = engine.Cylinders;
        var size = engine.Size;
        var conditions = new Dictionary<int, CylinderCondition>();
        for (var c = 1; c <= n; c++)
        {
            conditions[c] = new CylinderCondition { RingFactor = Math.Exp(0.25 * Gauss()), ValveFactor = Math.Exp(0.4 * Gauss()), VolumeM3 = 0.01 * Gauss() * engine.ClearanceM3 };
        }
        var ailment = chance.NextDouble() < 0.35 ? Ailment.None : (Ailment)chance.Next(1, 7);
        var faulty = new HashSet<int>();
        var one = chance.Next(1, n + 1);
        var severe = Math.Exp(Between(Math.Log(0.5), Math.Log(6)));
        switch (ailment)
        {
            case Ailment.OneLeaking:
                conditions[one] = Leaking(conditions[one], chance.Next(3), severe * size * 1e-6);
                faulty.Add(one);
                break;
            case Ailment.OneBadlyFilled:
                conditions[one] = conditions[one] with { IntakeLift = Between(0.05, 0.14) };
                faulty.Add(one);
                break;
            case Ailment.OneShort:
                conditions[one] = conditions[one] with { VolumeM3 = Between(0.06, 0.35) * engine.ClearanceM3 };
                faulty.Add(one);
                break;
            case Ailment.TwoLeaking:
                var two = 1 + (one + chance.Next(1, n) - 1) % n;
                conditions[one] = Leaking(conditions[one], chance.Next(3), severe * size * 1e-6);
                conditions[two] = Leaking(conditions[two], chance.Next(3), Math.Exp(Between(Math.Log(0.5), Math.Log(6))) * size * 1e-6);
                faulty.UnionWith([one, two]);
                break;
            case Ailment.Gasket:
                var layout = CylinderLayout.Of(new EngineSheet { Cylinders = n, Layout = n > 6 || plain.Name.Contains('V', StringComparison.Ordinal) ? CylinderArrangement.V : CylinderArrangement.Inline });
                var bank = layout.Banks.First(b => b.Count > 1 || layout.Banks.All(x => x.Count < 2));
                if (bank.Count > 1)
                {
                    var at = chance.Next(bank.Count - 1);
                    conditions[bank[at]] = conditions[bank[at]] with { GasketTo = bank[at + 1], GasketM2 = Math.Exp(Between(Math.Log(0.8), Math.Log(6))) * size * 1e-6 };
                    faulty.UnionWith([bank[at], bank[at + 1]]);
                }
                break;
            case Ailment.Dead:
                conditions[one] = Leaking(conditions[one], chance.Next(3), 40 * size * 1e-6);
                faulty.Add(one);
                break;
        }
        var cold = chance.NextDouble() < 0.35;
        var weak = chance.NextDouble() < 0.2 ? Between(0.1, 0.5) : 0;
        var cranking = new Cranking
        {
            Seconds = Between(3.2, 6), Cold = cold, WeakBattery = weak, SagVPerS = chance.NextDouble() < 0.3 ? Between(0.02, 0.15) * engine.BatteryV / 12.6 : 0, StartDeg = Between(0, 720),
            AmbientPa = Between(85_000, 102_000), Friction = Factor(0.2), CycleTorqueNm = Between(0, 0.4) * plain.Size, CycleTorqueOrder = chance.Next(1, n + 2),
        };
        ICrankCourse run;
        IReadOnlyList<double> truth;
        double meanRpm;
        var kind = "own";
        var (slow, rippled) = (false, false);
        if (!other)
        {
            var own = CrankingRun.Of(engine, conditions, cranking);
            (run, truth, meanRpm) = (own, own.RelativePercent, own.MeanRpm);
        }
        else
        {
            var way = chance.Next(4);
            var wound = chance.NextDouble() < 0.3;
            (slow, rippled) = (chance.NextDouble() < 0.15, chance.NextDouble() < 0.2);
            var wobbles = chance.NextDouble() < 0.2;
            cranking = cranking with { CycleTorqueNm = wobbles ? Between(0.5, 1.2) * plain.Size : cranking.CycleTorqueNm };
            engine = wound ? engine with { Constants = engine.Constants with { SeriesShare = Between(0.4, 1), SeriesNominalA = 160.0 * n / 4 * engine.Size } } : engine;
            kind = (way == 3 ? "opens under pressure" : way == 0 ? "shaped freely" : "scaled losses") + (wound ? ", series" : "") + (slow ? ", 500 Hz" : "") + (rippled ? ", rippled" : "") + (wobbles ? ", cycle torque" : "");
            if (way == 3)
            {
                var opening = CrankingRun.Of(engine with { Constants = engine.Constants with { LeakOpensPa = 5e5, LeakGrowthPerBar = Between(0, 0.1) } }, conditions, cranking);
                (run, truth, meanRpm) = (opening, opening.RelativePercent, opening.MeanRpm);
            }
            else
            {
                ailment = ailment is Ailment.OneBadlyFilled or Ailment.OneShort ? Ailment.OneLeaking : ailment == Ailment.Gasket ? Ailment.TwoLeaking : ailment;
                faulty = ailment switch { Ailment.None => [], Ailment.TwoLeaking => [one, 1 + one % n], _ => [one] };
                var losses = Enumerable.Range(1, n).Select(c => new ShapedLoss(
                    faulty.Contains(c) ? ailment == Ailment.Dead ? Between(0.02, 0.15) : Between(0.45, 0.92) : 1 - Math.Abs(0.012 * Gauss()), chance.NextDouble(), chance.NextDouble(), Math.Exp(Between(-0.7, 0.7)), way != 0)).ToList();
                var shut = engine.ThrottleM2 != plain.ThrottleM2;
                var shaped = new ShapedRun(engine, losses, cranking, Between(1.25, 1.33), Between(0.02, 0.1), cranking.AmbientPa * (shut ? Between(0.6, 0.85) : 1));
                (run, truth, meanRpm) = (shaped, shaped.RelativePercent, shaped.MeanRpm);
            }
        }
        var meanA = run.CurrentA.Skip(run.CurrentA.Count / 3).Average();
        var sync = (SyncSignal)chance.Next(4);
        var cleanOrder = n % 2 == 0;
        if (sync == SyncSignal.WasteSpark && !cleanOrder)
        {
            sync = SyncSignal.EveryCycle;
        }
        var range = run.CurrentA.Max() * Between(1.1, 3);
        var recipe = new CaptureRecipe
        {
            SampleRateHz = slow ? 500 : Math.Exp(Between(Math.Log(1000), Math.Log(40_000))), LeadS = chance.NextDouble() < 0.8 ? Between(0.1, 0.8) : 0.005, TailS = chance.NextDouble() < 0.6 ? Between(0.05, 0.5) : 0,
            OffsetA = chance.NextDouble() < 0.4 ? Between(-40, 40) : 0, DriftAPerS = chance.NextDouble() < 0.2 ? Between(-4, 4) : 0, Reversed = chance.NextDouble() < 0.08,
            NoiseA = Between(0.005, 0.04) * meanA, RippleA = (rippled ? Between(0.08, 0.2) : Between(0.005, 0.05)) * meanA, RangeA = range, Bits = chance.NextDouble() < 0.3 ? 8 : 12, Sync = sync,
            SyncBeforeDeg = Between(2, 12), SyncMissing = chance.NextDouble() < 0.2 ? Between(0, 0.2) : 0, SyncExtra = chance.NextDouble() < 0.1 ? 0.2 : 0, WasteHeight = Between(0.4, 0.75), Seed = seed,
        };
        var capture = SimulatedCapture.Of(engine, run, recipe);
        var question = new CaptureQuestion
        {
            FiringOrder = engine.FiringOrder, Fuel = engine.Fuel, CompressionRatio = chance.NextDouble() < 0.5 ? plain.CompressionRatio : null,
            Sync = sync switch { SyncSignal.EveryCycle => SyncKind.EveryCycle, SyncSignal.WasteSpark => SyncKind.WasteSpark, SyncSignal.Injector => SyncKind.Injector, _ => SyncKind.None },
        };
        return new VariedCapture(engine, ailment, faulty, recipe, question, capture, truth, meanRpm) { Kind = kind };
    }

    /// <summary>The trace as the analysis takes it.</summary>
    public StarterTrace Trace()
    {
        var trace = new StarterTrace(Capture.IntervalS, Capture.SyncV.Length > 0, withBattery: true);
        trace.Add(Capture.CurrentA, Capture.SyncV, Capture.BatteryV);
        trace.Finish();
        return trace;
    }

    private static CylinderCondition Leaking(CylinderCondition c, int where, double area) => where switch
    {
        0 => c with { RingM2 = area },
        1 => c with { IntakeValveM2 = area },
        _ => c with { ExhaustValveM2 = area },
    };

    private static readonly IReadOnlyList<SimulatedEngine> Engines =
    [
        .. SimulatedEngine.All, SimulatedEngine.InlineFour, SimulatedEngine.InlineFour, Grown("0.9 inline two", [1, 2]), Grown("2.5 inline five", [1, 2, 4, 5, 3]), Grown("3.0 inline six", [1, 5, 3, 6, 2, 4]),
        Grown("4.0 V8", [1, 8, 4, 3, 6, 5, 7, 2]), Grown("5.0 V10", [1, 6, 5, 10, 2, 7, 3, 8, 4, 9]), Grown("6.0 V12", [1, 7, 5, 11, 3, 9, 6, 12, 2, 8, 4, 10]),
    ];

    // The inline four's cylinder, more or fewer of them, on a starter that suits.
    private static SimulatedEngine Grown(string name, IReadOnlyList<int> order)
    {
        var four = SimulatedEngine.InlineFour;
        var share = order.Count / 4.0;
        return four with
        {
            Name = name,
            FiringOrder = order,
            InertiaKgM2 = four.InertiaKgM2 * Math.Max(0.9, Math.Pow(share, 0.8)),
            FrictionNm = four.FrictionNm * share,
            DragNms = four.DragNms * share,
            MotorConstantVs = four.MotorConstantVs * Math.Max(1, Math.Pow(share, 0.25)),
            MotorOhm = four.MotorOhm * Math.Pow(share, -0.5),
            BatteryOhm = four.BatteryOhm * Math.Pow(share, -0.5),
            IdleCurrentA = four.IdleCurrentA * Math.Pow(share, 0.5),
            ManifoldM3 = four.ManifoldM3 * share,
            ThrottleM2 = four.ThrottleM2 * share,
        };
    }
}
