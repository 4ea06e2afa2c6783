using System.Text;
using Zandrik.Core.Physics;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.Practice;

/// <summary>
/// The engine of an exercise under test: every figure is what the crank-angle model says of it as it stands, with the
/// scatter of a workshop. The same exercise, stand and attempt give the same figure to everybody.
/// </summary>
public static class PracticeBench
{
    /// <summary>Compressions where nobody says how many.</summary>
    public const int UsualCompressions = 7;

    // How often the trace is written down, and how far two readings alike differ.
    private const double TraceS = 0.01, GaugeScatter = 0.008, EarDb = 1.2;

    // The hose that is in the chamber's way, an adapter too long, a leaking seat, a gauge that is an eighth off.
    private const double DieselAdapterM3 = 1e-6, WrongAdapterM3 = 3e-6, SealM2 = 0.9e-6, ReadsLow = 0.875;

    // How much fainter a place is that was not opened.
    private const double ShutDb = -12;

    /// <summary>Cranks a cylinder with the gauge in.</summary>
    /// <param name="exercise">The exercise.</param>
    /// <param name="stand">How the engine stands; see <see cref="PracticeStand.RefusesCranking"/> first.</param>
    /// <param name="cylinder">The cylinder.</param>
    /// <param name="compressions">How many compressions, 1 to 40.</param>
    /// <param name="attempt">How often it was cranked before.</param>
    /// <param name="oilMl">Oil in the cylinder, ml.</param>
    /// <param name="heldPa">What the gauge still holds of the reading before, Pa; used where it is not bled.</param>
    /// <returns>What the gauge showed.</returns>
    public static PracticeGaugeReading Crank(PracticeCase exercise, PracticeStand stand, int cylinder, int compressions, int attempt, double oilMl = 0, double heldPa = 0)
    {
        var engine = exercise.Engine;
        if (exercise.Trap == PracticeTrap.SealLeaks && cylinder == exercise.TrapAt && attempt == 0)
        {
            // Beside the adapter it blows out as through a hole in the chamber.
            engine = engine with { Condition = engine.Condition.ToDictionary(c => c.Key, c => c.Key == cylinder ? c.Value with { CrownM2 = c.Value.CrownM2 + SealM2 * engine.Engine.Size } : c.Value) };
        }
        var run = GaugeRun.Of(engine, new GaugeTest
        {
            Cylinder = cylinder, PlugsIn = !stand.PlugsOut, ThrottleShut = !stand.ThrottleOpen, OilM3 = oilMl * 1e-6, Pulses = Math.Clamp(compressions, 1, 40), KeepCourse = true, Kit = KitOf(exercise, stand),
            How = new Cranking { StepDeg = 0.5, Seconds = 30, Cold = !stand.Warm, WeakBattery = stand.WeakBattery },
        });
        var gain = Draw(exercise, cylinder, attempt, oilMl > 0 ? 2 : 1).Factor(GaugeScatter) * (exercise.Trap == PracticeTrap.GaugeReadsLow && !stand.SecondGauge ? ReadsLow : 1);
        var before = stand.Bled ? 0 : heldPa;
        double Shown(double pa) => Math.Max(before, pa * gain);
        var (trace, turns) = (new List<float>(), new List<float>());
        var at = 0;
        for (var t = 0.0; t <= run.Seconds; t += TraceS)
        {
            while (at + 1 < run.Course.Count && run.Course[at + 1].TimeS <= t)
            {
                at++;
            }
            trace.Add((float)Shown(run.Course[at].HeldPa));
            turns.Add((float)(run.Course[at].CrankRad - run.Course[0].CrankRad));
        }
        IReadOnlyList<double> pulses = run.PulsesPa.Count > 0 ? [.. run.PulsesPa.Select(Shown)] : [before];
        return new(pulses, run.Seconds, run.MeanRpm, new PressureTrace(TraceS, trace), turns);
    }

    /// <summary>Puts air on a cylinder.</summary>
    /// <param name="exercise">The exercise.</param>
    /// <param name="stand">How the engine stands.</param>
    /// <param name="cylinder">The cylinder.</param>
    /// <param name="attempt">How many leak-down readings were taken before.</param>
    /// <param name="wrongStroke">True where the crank is a turn away from compression.</param>
    /// <param name="oilMl">Oil in the cylinder, ml.</param>
    /// <returns>Both gauges, and where the air goes.</returns>
    public static PracticeLeak LeakDown(PracticeCase exercise, PracticeStand stand, int cylinder, int attempt, bool wrongStroke = false, double oilMl = 0)
    {
        var draw = Draw(exercise, cylinder, attempt, 3);
        var supply = LeakFlow.StandardSupplyPa * (1 + 0.01 * draw.Even(-1, 1));
        var leak = StaticLeak.Of(exercise.Engine, new StaticTest
        {
            Cylinder = cylinder, SupplyPa = supply, OffDeg = wrongStroke ? 360 : 0, CrankHeld = true, Cold = !stand.Warm, OilM3 = oilMl * 1e-6,
            CheckValveLeftIn = exercise.Trap == PracticeTrap.LeakValveLeftIn && attempt == 0,
        });
        return new(supply, supply * (1 - Math.Clamp(leak.Percent + (leak.Percent > 0 ? draw.Normal() : 0), 0, 100) / 100), leak);
    }

    /// <summary>Listens at a place.</summary>
    /// <param name="exercise">The exercise.</param>
    /// <param name="stand">How the engine stands.</param>
    /// <param name="cylinder">The cylinder under air.</param>
    /// <param name="leak">The leak.</param>
    /// <param name="place">The place.</param>
    /// <param name="hole">The cylinder of a plug hole.</param>
    /// <param name="shut">Lines of the leak-down's own preparation that were not done.</param>
    /// <returns>How loud it is there.</returns>
    public static PracticeSound Listen(PracticeCase exercise, PracticeStand stand, int cylinder, PracticeLeak leak, ListeningPlace place, int? hole, IReadOnlyCollection<PreparationItem> shut)
    {
        double Db(LeakPlace path) => leak.Leak.LevelDb(path);
        // Levels of two ways to one place add up as their flows do.
        double Both(double a, double b) => 20 * Math.Log10(Math.Pow(10, a / 20) + Math.Pow(10, b / 20));
        var beside = hole is { } h && exercise.Engine.Condition.Any(c => (c.Key == cylinder && c.Value.GasketTo == h) || (c.Key == h && c.Value.GasketTo == cylinder));
        var db = place switch
        {
            ListeningPlace.Intake => Db(LeakPlace.Intake) + (shut.Contains(PreparationItem.AirPath) ? ShutDb : 0),
            ListeningPlace.Exhaust => Db(LeakPlace.Exhaust),
            ListeningPlace.OilFiller => Both(Db(LeakPlace.Rings), Db(LeakPlace.Crown)) + (shut.Contains(PreparationItem.OilFiller) ? ShutDb : 0),
            ListeningPlace.Coolant => shut.Contains(PreparationItem.CoolantCap) ? double.NegativeInfinity : Db(LeakPlace.Coolant),
            _ => beside ? Db(LeakPlace.Neighbour) + (stand.PlugsOut ? 0 : 2 * ShutDb) : double.NegativeInfinity,
        };
        return PracticeSound.Of(db + EarDb * Draw(exercise, cylinder, (int)place + 10 * (hole ?? 0), 4).Even(-1, 1));
    }

    /// <summary>Runs the engine with the gauge in a cylinder.</summary>
    /// <param name="exercise">The exercise; one with a throttle.</param>
    /// <param name="stand">How the engine stands.</param>
    /// <param name="cylinder">The cylinder.</param>
    /// <param name="presses">How often the relief was pressed since it was started: before the second time the start's own peak is still in the gauge.</param>
    /// <param name="snap">True for the reading after a snap.</param>
    /// <returns>What the gauge holds, Pa.</returns>
    public static double Running(PracticeCase exercise, PracticeStand stand, int cylinder, int presses, bool snap)
    {
        var run = RunningRun.Of([(exercise.Engine, new RunningTest { Cylinder = cylinder, Kit = KitOf(exercise, stand), How = new Cranking { StepDeg = 1 } })])[0];
        var noise = Draw(exercise, cylinder, presses, snap ? 6 : 5).Factor(0.006);
        if (snap)
        {
            return run.SnapPa * noise;
        }
        if (presses > 0)
        {
            return run.IdlePa * noise;
        }
        var start = GaugeRun.Of(exercise.Engine, new GaugeTest { Cylinder = cylinder, PlugsIn = true, Pulses = 3, Kit = KitOf(exercise, stand), How = new Cranking { StepDeg = 1, Seconds = 10, WeakBattery = stand.WeakBattery } });
        return Math.Max(run.IdlePa, start.FinalPa) * noise;
    }

    /// <summary>A capture of starter current with all plugs in, as the rows of a table: seconds, clamp, events of cylinder 1.</summary>
    /// <param name="exercise">The exercise.</param>
    /// <param name="stand">How the engine stands.</param>
    /// <returns>The file's bytes; 1 mV is 1 A.</returns>
    public static byte[] Capture(PracticeCase exercise, PracticeStand stand)
    {
        var e = exercise.Engine;
        var run = CrankingRun.Of(e.Engine, e.Condition, new Cranking { Seconds = 4, Cold = !stand.Warm, WeakBattery = stand.WeakBattery });
        var capture = SimulatedCapture.Of(e.Engine, run, new CaptureRecipe { SampleRateHz = 4000, Seed = exercise.Number });
        using var text = new StringWriter();
        capture.WriteCsv(text);
        return Encoding.UTF8.GetBytes(text.ToString());
    }

    /// <summary>The answer of a small check that the bench can do; absent for one it cannot.</summary>
    /// <param name="exercise">The exercise.</param>
    /// <param name="check">The check.</param>
    /// <returns>The test with its result; null for a check that is not on the bench.</returns>
    public static TestEntry? Check(PracticeCase exercise, StepKind check)
    {
        var coolant = exercise.Truths.Where(t => t.Fault == Fault.GasketCoolant).Select(t => t.Severity).DefaultIfEmpty(-1).Max();
        var crankcase = exercise.Truths.Where(t => t.Fault is Fault.Rings or Fault.Piston or Fault.FuelWashed).Select(t => t.Severity).DefaultIfEmpty(-1).Max();
        return check switch
        {
            StepKind.CombustionGas => new CombustionGasTest { Result = coolant >= 0.6 ? CombustionGasResult.Positive : coolant >= 0 ? CombustionGasResult.Unclear : CombustionGasResult.Negative },
            StepKind.Fluids => new FluidsCheck { Findings = [.. coolant >= 1 ? new[] { FluidFinding.CoolantLoss } : [FluidFinding.CoolantClean], FluidFinding.OilClean] },
            StepKind.BlowBy => new FluidsCheck { BlowBy = crankcase >= 1.2 ? BlowBy.Puffing : BlowBy.Little },
            StepKind.CrankSound => new CrankSoundCheck { Result = exercise.Truths.Any(t => t.Severity >= 0.9 && t.Fault is not (Fault.GasketCoolant or Fault.ExhaustNotOpening)) ? CrankSoundResult.Uneven : CrankSoundResult.Even },
            _ => null,
        };
    }

    /// <summary>Checks that the bench can do.</summary>
    public static IReadOnlyList<StepKind> Checks { get; } = [StepKind.Fluids, StepKind.CrankSound, StepKind.CombustionGas, StepKind.BlowBy];

    /// <summary>What is seen where the gauge in use is looked over.</summary>
    /// <param name="exercise">The exercise.</param>
    /// <param name="stand">How the engine stands.</param>
    /// <returns>One or two sentences.</returns>
    public static string LookOver(PracticeCase exercise, PracticeStand stand) => stand.SecondGauge ? "The second gauge: check valve at the tip of its hose, checked this year, needle at zero."
        : exercise.Trap switch
        {
            PracticeTrap.CheckValveInHead => "The check valve sits in the gauge's head, not at the tip of the hose: the hose is part of the combustion chamber, and every cylinder reads low. Take the second gauge.",
            PracticeTrap.GaugeReadsLow => "Against the second gauge it reads about an eighth low over the whole scale, and its check is four years old. Take the second gauge.",
            PracticeTrap.SealLeaks => "The O-ring of the adapter is nicked on one side: it seals or not as it happens to sit. Seat the adapter again and read once more.",
            _ => "Check valve at the tip of the hose, O-ring whole, needle at zero: nothing is wrong with it.",
        };

    private static GaugeKit KitOf(PracticeCase exercise, PracticeStand stand)
    {
        var kit = exercise.Trap == PracticeTrap.CheckValveInHead && !stand.SecondGauge ? GaugeKit.ValveInHead : GaugeKit.Usual;
        return kit with { AdapterM3 = (exercise.Engine.Engine.IsDiesel ? DieselAdapterM3 : 0) + (stand.RightAdapter ? 0 : WrongAdapterM3) };
    }

    private static SeededDraw Draw(PracticeCase exercise, int cylinder, int attempt, int what) => new(unchecked(((exercise.Number * 31 + cylinder) * 131 + attempt) * 7 + what));
}
