using System.Globalization;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.Calibration;

/// <summary>
/// One cylinder of one drawn engine with one fault at one severity, and what every test reads of it in the engine model, without noise. What is compared is the same cylinder of the same engine
/// without the fault: how it was built falls out, and stands by itself in <see cref="Built"/>.
/// </summary>
/// <param name="Number">Which draw, from 0; with the seed it decides everything else.</param>
/// <param name="Fault">The fault: one of <see cref="SeverityFigures.All"/>.</param>
/// <param name="Diesel">True for a diesel.</param>
/// <param name="Place">Where along <see cref="SeverityFigures"/>, a count of severities without a unit.</param>
/// <param name="Built">ln of dry pressure of the cylinder as it was built, without the fault, over one as it was meant.</param>
/// <param name="Dry">ln of dry pressure with the fault over without.</param>
/// <param name="Wet">ln of wet over dry with the fault, less the same without.</param>
/// <param name="OilLeft">The share of a ring leak that the oil left.</param>
/// <param name="Relative">ln of the peak that the cylinder makes with all plugs in, over the same without the fault.</param>
/// <param name="Idle">ln of running idle compression over another cylinder's of the same engine, less the same without the fault; absent for a diesel.</param>
/// <param name="Snap">The same after a snap.</param>
/// <param name="LeakRatio">ln of leak area over the tester's restriction.</param>
/// <param name="SoundLeakRatio">ln of the same without the fault.</param>
/// <param name="Loudness">dB at each place of <see cref="LeakPlace"/>.</param>
public sealed record CalibrationSample(int Number, Fault Fault, bool Diesel, double Place, double Built, double Dry, double Wet, double OilLeft, double Relative, double? Idle, double? Snap, double LeakRatio, double SoundLeakRatio, IReadOnlyList<double> Loudness)
{
    private const double StepDeg = 1, RunningStepDeg = 2;

    // What a gauge that reads nothing at all is taken for: far below all that is told apart.
    private const double LeastPa = 500;

    /// <summary>Degrees of crank that a step takes while cranking.</summary>
    public static double Step => StepDeg;

    // Engine, cylinder and fault of a draw, and how it is tested.
    private sealed record Case(int Number, Fault Fault, bool Diesel, double Place, SimulatedEngine Engine, int Cylinder, int Other, IReadOnlyDictionary<int, CylinderCondition> Sound, IReadOnlyDictionary<int, CylinderCondition> Faulty, double OilM3, int Pulses, GaugeKit Kit);

    /// <summary>Draws and tests engines, four side by side.</summary>
    /// <param name="seed">The seed.</param>
    /// <param name="from">The first draw, from 0.</param>
    /// <param name="count">How many.</param>
    /// <returns>A sample for each, in order; each is as if it had been drawn by itself.</returns>
    public static IReadOnlyList<CalibrationSample> Of(int seed, int from, int count)
    {
        Case[] cases = [.. Enumerable.Range(from, count).Select(i => Draw(seed, i))];
        // As it was meant, as built, with the fault; the last two with oil as well.
        var gauge = GaugeRun.Of([.. cases.SelectMany(c => new[] { Read(c, Nothing, 0), Read(c, c.Sound, 0), Read(c, c.Sound, c.OilM3), Read(c, c.Faulty, 0), Read(c, c.Faulty, c.OilM3) })]);
        var how = new Cranking { StepDeg = StepDeg };
        var cranked = CrankingRun.Of([.. cases.SelectMany(c => new[] { (new EngineUnderTest(c.Engine, c.Sound), how), (new EngineUnderTest(c.Engine, c.Faulty), how) })]);
        var petrol = cases.Where(c => !c.Diesel).ToList();
        // Each against another cylinder of the same engine: the idle control opens for all of them.
        var running = RunningRun.Of([.. petrol.SelectMany(c => new[] { Run(c, c.Sound, c.Cylinder), Run(c, c.Sound, c.Other), Run(c, c.Faulty, c.Cylinder), Run(c, c.Faulty, c.Other) })]);
        var places = Enum.GetValues<LeakPlace>();
        return [.. cases.Select((c, i) =>
        {
            double Ln(int test) => LaneMath.Log(Math.Max(LeastPa, gauge[5 * i + test].FinalPa));
            double Peak(int test) => LaneMath.Log(Math.Max(LeastPa, cranked[2 * i + test].PeakPa[c.Cylinder - 1]));
            double? Runs(Func<RunningRun, double> what) => petrol.IndexOf(c) is var p and >= 0 ? Against(what, running, 4 * p + 2) - Against(what, running, 4 * p) : null;
            var (sound, leak) = (StaticLeak.Of(new EngineUnderTest(c.Engine, c.Sound), new StaticTest { Cylinder = c.Cylinder }), StaticLeak.Of(new EngineUnderTest(c.Engine, c.Faulty), new StaticTest { Cylinder = c.Cylinder }));
            return new CalibrationSample(c.Number, c.Fault, c.Diesel, c.Place, Ln(1) - Ln(0), Ln(3) - Ln(1), Ln(4) - Ln(3) - (Ln(2) - Ln(1)), MotoredLanes.OilLeaves(c.OilM3, c.Engine.BoreM), Peak(1) - Peak(0),
                Runs(r => r.IdlePa), Runs(r => r.SnapPa), Ratio(leak), Ratio(sound), [.. places.Select(p => Math.Max(-60, leak.LevelDb(p)))]);
        })];
    }

    private static readonly Dictionary<int, CylinderCondition> Nothing = [];

    private static double Ratio(StaticLeak leak) => LaneMath.Log(LeakFlow.AreaRatio(Math.Clamp(leak.Percent, 0.4, 99.6), LeakFlow.StandardSupplyPa));

    private static (EngineUnderTest, GaugeTest) Read(Case c, IReadOnlyDictionary<int, CylinderCondition> condition, double oil) =>
        (new(c.Engine, condition), new() { Cylinder = c.Cylinder, How = new() { StepDeg = StepDeg, Seconds = 30 }, Kit = c.Kit, OilM3 = oil, Pulses = c.Pulses });

    private static double Against(Func<RunningRun, double> what, IReadOnlyList<RunningRun> runs, int at) => LaneMath.Log(Math.Max(LeastPa, what(runs[at])) / Math.Max(LeastPa, what(runs[at + 1])));

    private static (EngineUnderTest, RunningTest) Run(Case c, IReadOnlyDictionary<int, CylinderCondition> condition, int cylinder) =>
        (new(c.Engine, condition), new() { Cylinder = cylinder, How = new() { StepDeg = RunningStepDeg } });

    private static Case Draw(int seed, int number)
    {
        var kinds = 2 * SeverityFigures.All.Count;
        var (fault, diesel) = (SeverityFigures.All[number % kinds / 2], number % 2 == 1);
        // Neighbouring numbers must not draw alike.
        var draw = new SeededDraw(unchecked(seed * 1_000_003 + number * 7919));
        var engine = EngineFamily.Draw(draw, diesel);
        var place = draw.Even(-0.5, SeverityFigures.Of(fault).Count - 0.5);
        var figure = SeverityFigures.At(fault, place);
        var built = EngineFamily.Built(engine, draw);
        var web = draw.Pick(engine.Webs);
        var behind = draw.Even() < 0.5;
        var cylinder = fault == Fault.GasketAdjacent ? behind ? web.Second : web.First : draw.Pick(engine.FiringOrder);
        var sound = new Dictionary<int, CylinderCondition> { [cylinder] = built };
        var faulty = fault switch
        {
            Fault.Sound => new() { [cylinder] = built with { RingM2 = figure * engine.Size * 1e-6 } },
            // The web belongs to the first of the two.
            Fault.GasketAdjacent when behind => new() { [cylinder] = built, [web.First] = SimulatedFault.At(engine, fault, figure, null, web.Second) },
            Fault.GasketAdjacent => new() { [cylinder] = SimulatedFault.At(engine, fault, figure, built, web.Second) },
            _ => new Dictionary<int, CylinderCondition> { [cylinder] = SimulatedFault.At(engine, fault, figure, built) },
        };
        var kit = GaugeKit.Usual with { AdapterM3 = diesel ? draw.Even(0, 4e-6) : 0 };
        // One that shares no web with it, where there is one.
        var others = engine.FiringOrder.Where(n => n != cylinder && engine.Webs.All(w => !(w.First == cylinder && w.Second == n) && !(w.Second == cylinder && w.First == n))).ToList();
        return new(number, fault, diesel, place, engine, cylinder, others.Count > 0 ? draw.Pick(others) : engine.FiringOrder.First(n => n != cylinder), sound, faulty, draw.Even(5, 15) * 1e-6, 6 + (int)draw.Even(0, 5), kit);
    }

    /// <summary>The sample as a line.</summary>
    /// <returns>Figures with commas between, five digits behind the point.</returns>
    public string ToLine()
    {
        double?[] figures = [Place, Built, Dry, Wet, OilLeft, Relative, Idle, Snap, LeakRatio, SoundLeakRatio, .. Loudness.Select(l => (double?)l)];
        return string.Join(',', [Number.ToString(CultureInfo.InvariantCulture), RecordWords.Of(Fault), Diesel ? "1" : "0", .. figures.Select(x => x?.ToString("0.#####", CultureInfo.InvariantCulture) ?? "")]);
    }

    /// <summary>Reads a line of <see cref="ToLine"/>.</summary>
    /// <param name="line">The line.</param>
    /// <returns>The sample, to the digits that were written.</returns>
    /// <exception cref="FormatException">It is not such a line.</exception>
    public static CalibrationSample Parse(string line)
    {
        var parts = line.Split(',');
        if (parts.Length != 13 + Enum.GetValues<LeakPlace>().Length || !RecordWords.TryParse<Fault>(parts[1], out var fault))
        {
            throw new FormatException("This is no line of a calibration: delete the file it is in and run it again.");
        }
        double At(int i) => double.Parse(parts[i], CultureInfo.InvariantCulture);
        double? Or(int i) => parts[i].Length == 0 ? null : At(i);
        return new(int.Parse(parts[0], CultureInfo.InvariantCulture), fault, parts[2] == "1", At(3), At(4), At(5), At(6), At(7), At(8), Or(9), Or(10), At(11), At(12), [.. Enumerable.Range(13, parts.Length - 13).Select(At)]);
    }
}
