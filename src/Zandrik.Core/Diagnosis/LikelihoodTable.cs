using System.Numerics.Tensors;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>Where a number of the table comes from.</summary>
public enum TableOrigin
{
    /// <summary>A rule of the trade, or judgement.</summary>
    Rule,

    /// <summary>Fitted to, or checked against, the crank-angle model.</summary>
    Physics,
}

/// <summary>One finding of the table: how near a reading must be to what a fault predicts.</summary>
/// <param name="Finding">The finding.</param>
/// <param name="Measured">What is compared.</param>
/// <param name="Spread">Standard deviation about the prediction, or what it is made of.</param>
/// <param name="Floor">The least a reading is believed whatever it says: it caps what one reading can weigh.</param>
/// <param name="Range">What the floor is spread over, in the unit of what is compared.</param>
/// <param name="Reason">Why.</param>
/// <param name="Origin">Where it comes from.</param>
public sealed record TableLine(string Finding, string Measured, string Spread, double Floor, double Range, string Reason, TableOrigin Origin);

/// <summary>
/// How likely each reading is where a fault of a severity is: the one place of these curves. Every measured curve is (1 − f)·N(distance from the prediction; s) + f/range: the floor f keeps any
/// reading from excluding a fault. Section 4 of docs/diagnosis.md is made from it.
/// </summary>
public static class LikelihoodTable
{
    /// <summary>Standard deviation of ln(dry) of one reading: repeatability 2.2 %, build 2 %, rounding.</summary>
    public const double DrySpread = 0.031;

    /// <summary>The same where repeats agree.</summary>
    public const double DrySpreadRepeated = 0.027;

    /// <summary>
    /// Standard deviation of ln of the leak area that a fault which leaks is expected to show for its dry loss. Orifices, hoses, oil films and where the piston stands differ between shops by more
    /// than severities do: the amount is coupled loosely, the place is not.
    /// </summary>
    public const double LeakSpread = 0.55;

    /// <summary>The same of a cylinder that leaks like a sound one.</summary>
    public const double LeakSpreadOfSound = 0.28;

    /// <summary>How far the ear of a job may be off, dB, with nothing to learn it from; with cylinders that hold; and how far it is believed to be off at most.</summary>
    internal const double EarUnknownDb = 8, EarLearntDb = 4, EarMostDb = 12;

    /// <summary>Cylinders that lose less than this, percent, hold: what is heard there tells how a job's ear hears.</summary>
    internal const double HoldsPercent = 25;

    /// <summary>What is added to the spread of a leak-down (ln of the area) whose readings of one cylinder lie far apart: which of them is right is not known.</summary>
    public const double LeakDisagreesSpread = 1;

    private const double DryFloor = 0.01, DryFloorOfSound = 0.0015, DryRange = 3;
    private const double RelativeFloor = 0.02, RelativeRange = 3;
    private const double LeakFloor = 0.05, LeakFloorOfSound = 0.01, LeakRange = 6;
    private const double WetFloor = 0.01, WetRange = 3;
    /// <summary>How well a cylinder pumps that nobody measured, as far as a slip of its leak-down is thought of: a loss that no other reading contradicts is believed.</summary>
    internal const double PumpsUnknown = 0.2;

    private const double OilDropSpread = 0.3, OilDropFloor = 0.05, OilDropRange = 3;

    private const double RunningFloor = 0.003, RunningRange = 3;
    private const double TestErrorLeak = 0.15;

    // What a used sound cylinder of half a litre lets by, mm².
    private const double SoundRingsMm2 = 0.27, SoundSeatsMm2 = 0.07;

    // Hearing: thresholds of faint, clear and strong in dB over 0.1 g/s of air, how sure an ear is, and how often it errs altogether.
    private static readonly double[] Thresholds = [0, 7, 15];
    private const double EarSpread = 5, Lapse = 0.004, Blunder = 0.07, BlunderAtPlugHole = 0.025, LapseAtPlugHole = 0.001, CrankcaseDb = -12, CrownDb = 0;
    private static readonly double[] Blunders = [0.71, 0.17, 0.09, 0.03];

    // Off top dead centre or on the wrong stroke: what is heard then, at the valves and elsewhere.
    private static readonly double[] SlipAtValves = [0.5, 0.1, 0.28, 0.12];
    private static readonly double[] SlipElsewhere = [0.9, 0.04, 0.04, 0.02];

    // Air that is plain at the oil filler went by a piston, wherever it stood.
    private static readonly double[] SlipAtOilFiller = [0.92, 0.07, 0.008, 0.002];

    /// <summary>The table, for whoever wants to argue with a line.</summary>
    public static IReadOnlyList<TableLine> Lines { get; } =
    [
        new("dry", "ln(dry/sound level) against the node", "√(0.031² + node²); 0.027 with repeats that agree; wider for weak battery, few compressions, two gauges, readings that do not repeat", DryFloor, DryRange,
            "for a sound cylinder the floor is 0.0015: one far below the rest is not sound, and that doubt belongs to test-error", TableOrigin.Physics),
        new("relative", "ln(percent/percent of the better half)", "the larger of 0.035 and 1.3 standard errors", RelativeFloor, RelativeRange, "a second, independent look at the pressure: refutes a bad gauge reading", TableOrigin.Physics),
        new("leak-down-amount", "ln of leak area over restriction", "√(0.55² of a fault that leaks, 0.28² of what leaks like a sound cylinder, + unknown cylinder 0.15² + unknown restriction 0.15² + 2.5 points of loss, halved² + oiled 0.2²)", LeakFloor, LeakRange,
            "saturates by itself near all and nothing lost; faults without a leak count an excess only; a slip of the stroke is possible at any loss and likelier with more", TableOrigin.Physics),
        new("leak-down-heard", "ordinal: nothing, faint, clear, strong at each place", "5 dB about 20·log10 of the flow over 0.1 g/s and the ear of the job (learnt from the cylinders that hold: ± 4 dB left, else ± 8), thresholds 0, 7, 15 dB; rings at the oil filler 12 dB fainter, behind their baffles; a hole in the crown is not", Lapse, 1,
            "an ear orders, it does not measure; seven in a hundred answers are taken for blunders, at a plug hole, where the air is plain, one in forty", TableOrigin.Rule),
        new("wet-excess-gain", "ln(wet/dry)", "√(0.033² + (0.12·gain)² + node² + another gauge 0.05²), dry under 60 psi 0.12 more, diesel 1.15 times", WetFloor, WetRange, "the effect of oil is the least certain of all", TableOrigin.Physics),
        new("running-idle", "ln(idle/(0.53·sound level))", "0.065 with three cylinders or more, else 0.09; diesel 0.15", RunningFloor, RunningRange, "the own leak enters through the dry loss, so a leaking cylinder is not called one that does not open", TableOrigin.Physics),
        new("running-snap", "ln(snap/(0.86·sound level))", "0.06 with three cylinders or more, else 0.075; diesel 0.15", RunningFloor, RunningRange, "the same", TableOrigin.Physics),
    ];

    /// <summary>Dry: ln of a reading over the sound level, not below <see cref="SeverityNodes.LowestDry"/>.</summary>
    /// <param name="nodes">The nodes.</param>
    /// <param name="spread">Standard deviation of the reading.</param>
    internal static FindingCurve Dry(NodeTable nodes, double spread)
    {
        var around = new double[nodes.Dry.Length];
        TensorPrimitives.Multiply(nodes.DrySpread, nodes.DrySpread, around);
        TensorPrimitives.Add(around, spread * spread, around);
        TensorPrimitives.Sqrt(around, around);
        var floor = All(nodes, DryFloor);
        var (from, to) = nodes.OfFault[Posterior.IndexOf(Fault.Sound)];
        floor.AsSpan(from..to).Fill(DryFloorOfSound);
        return new(nodes.Dry, around, floor, DryRange);
    }

    /// <summary>Relative compression: ln of percent over 100.</summary>
    /// <param name="nodes">The nodes.</param>
    /// <param name="errorPercent">Standard error, percent points.</param>
    internal static FindingCurve Relative(NodeTable nodes, double errorPercent) => new(nodes.Relative, Around(nodes, Math.Max(0.035, 1.3 * errorPercent / 100), k => k.RelativeSpread), All(nodes, RelativeFloor), RelativeRange);

    /// <summary>Wet over dry, ln.</summary>
    /// <param name="nodes">The nodes.</param>
    /// <param name="more">What all cylinders have more, from wear or washed walls, ln, and its spread.</param>
    /// <param name="otherGauge">True when wet and dry were not read with one gauge.</param>
    /// <param name="nearlyDead">True for a dry reading under 60 psi.</param>
    /// <param name="diesel">True for a diesel.</param>
    internal static FindingCurve Wet(NodeTable nodes, (double Gain, double Spread) more, bool otherGauge, bool nearlyDead, bool diesel)
    {
        var (gain, spread) = (new double[nodes.Wet.Length], new double[nodes.Wet.Length]);
        TensorPrimitives.Add(nodes.Wet, more.Gain, gain);
        for (var k = 0; k < gain.Length; k++)
        {
            spread[k] = WetSpread(nodes.Nodes[k], gain[k], more.Spread, otherGauge, nearlyDead, diesel);
        }
        return new(gain, spread, All(nodes, WetFloor), WetRange);
    }

    /// <summary>Standard deviation of ln(wet/dry) at a node: see <see cref="Wet"/>.</summary>
    /// <returns>ln, above 0; no unit.</returns>
    public static double WetSpread(SeverityNode node, double gain, double moreSpread, bool otherGauge, bool nearlyDead, bool diesel) =>
        (Math.Sqrt(0.033 * 0.033 + Square(0.12 * Math.Clamp(gain, 0, 1)) + Square(node.WetSpread) + Square(moreSpread) + (otherGauge ? 0.05 * 0.05 : 0)) + (nearlyDead ? 0.12 : 0)) * (diesel ? 1.15 : 1);

    private static double Square(double x) => x * x;

    // Part of a reading's usual spread is that engines differ; where a node has them differ by more, that counts, with the reading's own noise.
    private const double ReadingAlone = 0.035;

    /// <summary>Standard deviation of a finding at a node: the usual one, or what engines differ by there with the noise of a reading, whichever is looser.</summary>
    internal static double Around(double usual, double between) => Math.Max(usual, Math.Sqrt(ReadingAlone * ReadingAlone + between * between));

    private static double[] Around(NodeTable nodes, double usual, Func<SeverityNode, double> between) => [.. nodes.Nodes.Select(k => Around(usual, between(k)))];

    private static double[] All(NodeTable nodes, double value)
    {
        var all = new double[nodes.Nodes.Length];
        Array.Fill(all, value);
        return all;
    }

    /// <summary>Running idle or snap: ln of the reading against what a sound cylinder gives.</summary>
    /// <param name="nodes">The nodes.</param>
    /// <param name="snap">True for the snap.</param>
    /// <param name="more">What every cylinder has more, ln.</param>
    /// <param name="spread">Standard deviation.</param>
    internal static FindingCurve Running(NodeTable nodes, bool snap, double more, double spread)
    {
        var predicted = new double[nodes.Nodes.Length];
        TensorPrimitives.Add(snap ? nodes.Snap : nodes.Idle, more, predicted);
        return new(predicted, Around(nodes, spread, k => snap ? k.SnapSpread : k.IdleSpread), All(nodes, RunningFloor), RunningRange);
    }

    /// <summary>The same of one cylinder that has no other beside it: rules of thumb differ between engines by a quarter.</summary>
    internal static readonly (double Idle, double Snap) RunningSpreadAlone = (0.25, 0.25);

    /// <summary>Standard deviations of idle and snap.</summary>
    /// <returns>Shares of the reading, above 0; no unit.</returns>
    public static (double Idle, double Snap) RunningSpread(int cylinders, bool diesel) => diesel ? (0.15, 0.15) : cylinders >= 3 ? (0.065, 0.06) : (0.09, 0.075);

    /// <summary>Multiplies in the likelihood of a loss and of what was heard, together for each node; a slip of the stroke beside it.</summary>
    /// <param name="nodes">All nodes, sound ones among them.</param>
    /// <param name="paths">Where their air goes.</param>
    /// <param name="leak">The reading.</param>
    /// <param name="into">The likelihood of each node.</param>
    /// <param name="oiled">The same with test oil, for a loss that was read with it too; absent without one.</param>
    internal static void LeakDown(NodeTable nodes, LeakPaths paths, LeakEvidence leak, Span<double> into, LeakPaths? oiled = null)
    {
        var all = nodes.Nodes;
        Span<double> heard = stackalloc double[all.Length], like = stackalloc double[all.Length];
        heard.Fill(1);
        Heard(paths, leak, heard);
        like.Fill(1);
        var (from, to) = nodes.OfFault[Posterior.IndexOf(Fault.Sound)];
        if (leak.LnRatio is { } ln)
        {
            TensorPrimitives.Subtract(paths.LnRatio, ln, like);
            // A loss below what is expected says nothing against a sound cylinder: only an excess counts.
            // Under wear it says something: rings that are worn all round let by everywhere.
            if (paths.MoreRings == 0)
            {
                TensorPrimitives.Min(like[from..to], 0, like[from..to]);
            }
            else
            {
                for (var k = from; k < to; k++)
                {
                    like[k] = like[k] > 0 ? like[k] * leak.SpreadOfSound / leak.Spread : like[k];
                }
            }
            TensorPrimitives.Multiply(like, like, like);
            Near(like[..from], leak.Spread, LeakFloor);
            Near(like[from..to], leak.SpreadOfSound, LeakFloorOfSound);
            Near(like[to..], leak.Spread, LeakFloor);
        }
        TensorPrimitives.Multiply(like, heard, like);
        if (oiled is not null && leak is { LnRatio: not null, LnRatioWithOil: { } withOil })
        {
            // What oil takes off goes past the rings: both readings through one tester, so what tester and cylinder are off as a whole falls out.
            TensorPrimitives.Subtract(oiled.LnRatio, paths.LnRatio, heard);
            TensorPrimitives.Subtract(heard, withOil - leak.LnRatioRead, heard);
            TensorPrimitives.Multiply(heard, heard, heard);
            TensorPrimitives.Multiply(heard, -1 / (2 * OilDropSpread * OilDropSpread), heard);
            FindingCurve.ExpOfFar(heard);
            TensorPrimitives.Multiply(heard, (1 - OilDropFloor) / (OilDropSpread * Math.Sqrt(2 * Math.PI)), heard);
            TensorPrimitives.Add(heard, OilDropFloor / OilDropRange, heard);
            TensorPrimitives.Multiply(like, heard, like);
        }
        // All that leak like a sound cylinder share its likelihood, over what a sound one may be.
        var sound = TensorPrimitives.Dot<double>(nodes.Weight.AsSpan(from..to), like[from..to]);
        foreach (var k in nodes.LikeSound)
        {
            like[k] = all[k].Fault == Fault.TestError && leak.LnRatio is not null ? (1 - TestErrorLeak) * sound + TestErrorLeak / LeakRange * heard[k] : sound;
        }
        TensorPrimitives.Add(like, leak.LnRatio is null ? 0 : Slip(leak), like);
        TensorPrimitives.Multiply(into, like, into);
    }

    // From the squares of distances, ln.
    private static void Near(Span<double> squares, double spread, double floor)
    {
        TensorPrimitives.Multiply(squares, -1 / (2 * spread * spread), squares);
        FindingCurve.ExpOfFar(squares);
        TensorPrimitives.Multiply(squares, (1 - floor) / (spread * Math.Sqrt(2 * Math.PI)), squares);
        TensorPrimitives.Add(squares, floor / LeakRange, squares);
    }

    // 2 % where half is lost and more, up to 30 % beyond 70 % of it where the same cylinder pumps well, spread over the range: what is low anyway needs no slip to lose its air, and off top dead centre
    // much is lost. Each further reading that agrees makes it ten times less likely.
    private static double Slip(LeakEvidence leak)
    {
        var like = (0.005 + 0.015 / (1 + Math.Exp(-(leak.LossPercent - 50) / 5)) + 0.28 * leak.PumpsWell / (1 + Math.Exp(-(leak.LossPercent - 70) / 6))) / LeakRange * Math.Pow(0.1, Math.Min(2, leak.Agreeing - 1));
        for (var p = 0; p < LeakEvidence.Places; p++)
        {
            if (leak.Heard[p] is { } strength)
            {
                like *= (p is LeakEvidence.Intake or LeakEvidence.Exhaust ? SlipAtValves : p == LeakEvidence.Crankcase ? SlipAtOilFiller : SlipElsewhere)[strength];
            }
        }
        return like;
    }

    // How an ear of this job may be off: three points that stand for a normal about what was learnt.
    private static readonly (double Off, double Weight)[] EarPoints = [(-1.3, 0.27), (0, 0.46), (1.3, 0.27)];

    private static void Heard(LeakPaths paths, LeakEvidence leak, Span<double> into)
    {
        // The flow of air through the restriction, shared out by area.
        var flow = 20 * Math.Log10(Math.Max(leak.FlowGramsPerS, 1e-6) / 0.1);
        Span<double> level = stackalloc double[into.Length], one = stackalloc double[into.Length];
        into.Clear();
        foreach (var (off, weight) in EarPoints)
        {
            one.Fill(weight);
            for (var p = 0; p < LeakEvidence.Places; p++)
            {
                if (leak.Heard[p] is { } strength)
                {
                    TensorPrimitives.Add(paths.ShareDb(p), flow + leak.EarDb + off * leak.EarSpreadDb, level);
                    EarTable.Multiply(level, p, strength, one);
                }
            }
            TensorPrimitives.Add(into, one, into);
        }
    }

    /// <summary>What the ear of a job hears more than is expected, from a cylinder that holds, at the oil filler; absent where that tells nothing.</summary>
    /// <param name="leak">Its leak-down.</param>
    /// <returns>dB; 0 where nothing is heard of what is too faint, or strong of what is louder than that.</returns>
    internal static double? EarOffDb(LeakEvidence leak)
    {
        if (leak.Heard[LeakEvidence.Crankcase] is not { } strength || leak.IsHeardElsewhere)
        {
            return null;
        }
        var share = 1.3 * SoundRingsMm2 / (1.3 * SoundRingsMm2 + SoundSeatsMm2);
        var expected = 20 * Math.Log10(Math.Max(leak.FlowGramsPerS, 1e-6) / 0.1 * share) + CrankcaseDb;
        double[] middles = [Thresholds[0] - 3.5, (Thresholds[0] + Thresholds[1]) / 2, (Thresholds[1] + Thresholds[2]) / 2, Thresholds[2] + 4];
        var off = middles[strength] - expected;
        return (strength == 0 && off > 0) || (strength == 3 && off < 0) ? 0 : off;
    }

    // The same curve is asked thousands of times a diagnosis: a table of steps so small that what lies between is straight.
    private static class EarTable
    {
        private const double From = -110, To = 70, Step = 0.05;

        private static readonly double[][] Values = Make(Blunder, Lapse), AtPlugHole = Make(BlunderAtPlugHole, LapseAtPlugHole);

        private static double[][] Make(double blunder, double lapse) =>
            [.. Enumerable.Range(0, 4).Select(strength => Enumerable.Range(0, (int)((To - From) / Step) + 2).Select(i => (1 - blunder) * Ordinal(From + i * Step, strength, lapse) + blunder * Blunders[strength]).ToArray())];

        // Levels in dB; they are used up.
        public static void Multiply(Span<double> levels, int place, int strength, Span<double> into)
        {
            TensorPrimitives.Subtract(levels, From, levels);
            TensorPrimitives.Divide(levels, Step, levels);
            TensorPrimitives.Clamp(levels, 0, (To - From) / Step, levels);
            var values = (place is LeakEvidence.Front or LeakEvidence.Behind ? AtPlugHole : Values)[strength];
            for (var k = 0; k < levels.Length; k++)
            {
                var i = (int)levels[k];
                into[k] *= values[i] + (levels[k] - i) * (values[i + 1] - values[i]);
            }
        }
    }

    private static double Ordinal(double db, int strength, double lapse)
    {
        var below = strength == 0 ? 0 : Below(Thresholds[strength - 1] - db);
        var above = strength == 3 ? 1 : Below(Thresholds[strength] - db);
        return lapse + (1 - 4 * lapse) * (above - below);
    }

    private static double Below(double db) => 0.5 * MathNet.Numerics.SpecialFunctions.Erfc(-db / (EarSpread * Math.Sqrt(2)));

    /// <summary>Leak areas of a node to each place of <see cref="LeakEvidence"/>, mm²: what rings and seats of a used sound cylinder let by, and what the node adds.</summary>
    /// <param name="node">The node.</param>
    /// <param name="size">Cylinder over half a litre.</param>
    /// <param name="oiled">True with test oil still in the cylinder.</param>
    /// <param name="moreRings">Ring leak that every cylinder has more, mm² for half a litre.</param>
    /// <returns>mm² for half a litre, one for each place, 0 or more.</returns>
    public static double[] AreasOf(SeverityNode node, double size, bool oiled = false, double moreRings = 0)
    {
        var areas = new double[LeakEvidence.Places];
        var usual = UsualArea(size);
        for (var p = 0; p < areas.Length; p++)
        {
            areas[p] = AreaOf(node, p, size, usual, oiled, moreRings);
        }
        return areas;
    }

    /// <summary>A cylinder twice as large lets by 1.37 times as much.</summary>
    internal static double UsualArea(double size) => Math.Pow(size, 0.45);

    /// <summary>One place of <see cref="AreasOf"/>.</summary>
    internal static double AreaOf(SeverityNode node, int place, double size, double usual, bool oiled, double moreRings) => place switch
    {
        LeakEvidence.Intake => SoundSeatsMm2 * usual / 2 + node.Intake * size,
        LeakEvidence.Exhaust => SoundSeatsMm2 * usual / 2 + node.Exhaust * size,
        LeakEvidence.Crankcase => 1.3 * (SoundRingsMm2 * usual + (node.Rings + moreRings) * size) * (oiled ? 0.6 : 1) + node.Crown * size,
        LeakEvidence.Coolant => node.Coolant * size,
        LeakEvidence.Front => node.Front * size,
        _ => node.Behind * size,
    };

    /// <summary>How much louder or fainter than elsewhere air is at a place, dB.</summary>
    /// <returns>dB; 0 elsewhere than in the crankcase.</returns>
    public static double EarDb(SeverityNode node, int place) => place == LeakEvidence.Crankcase ? node.Crown > 0 ? CrownDb : CrankcaseDb : 0;

    /// <summary>ln of leak area over restriction that a used sound cylinder of a size is expected to show.</summary>
    /// <returns>ln of a ratio of areas; no unit.</returns>
    public static double SoundLnRatio(double size, double restrictionMm2) => Math.Log((1.3 * SoundRingsMm2 + SoundSeatsMm2) * Math.Pow(size, 0.45) / restrictionMm2);

    /// <summary>dB on the odds of a fault for what a plug looked like. Rules of the trade.</summary>
    /// <returns>dB; 0 where the sign says nothing of the fault.</returns>
    public static double Plug(PlugSign sign, Fault fault) => (sign, fault) switch
    {
        (PlugSign.OilWet, Fault.Rings) => 7,
        (PlugSign.OilWet, Fault.Piston) => 6,
        (PlugSign.OilWet, Fault.IntakeValve) => 1,
        (PlugSign.FuelWet, Fault.FuelWashed) => 7,
        (PlugSign.CoolantWet, Fault.GasketCoolant) => 16,
        (PlugSign.CoolantCleaned, Fault.GasketCoolant) => 14,
        // Nobody knows yet what it is.
        (PlugSign.WetUnknown, Fault.FuelWashed or Fault.GasketCoolant) => 4,
        (PlugSign.WetUnknown, Fault.Rings) => 2,
        (PlugSign.DrySoot, Fault.FuelWashed) => 2,
        (PlugSign.Broken, Fault.Piston) => 5,
        (PlugSign.Normal, Fault.Rings) => -2,
        (PlugSign.Normal, Fault.Piston) => -4,
        (PlugSign.Normal, Fault.GasketCoolant) => -3,
        (PlugSign.Normal, Fault.FuelWashed) => -5,
        _ => 0,
    };

    /// <summary>dB on the odds of a fault for a valve clearance. Rules of the trade.</summary>
    /// <returns>dB; 0 within limits, and for a fault a valve has no part in.</returns>
    public static double Clearance(ValveClearanceReading reading, Fault fault)
    {
        if (reading is not { Value: { } value, Valve: { } side })
        {
            return 0;
        }
        var (seat, lobe) = side == ValveSide.Intake ? (Fault.IntakeValve, Fault.IntakeNotOpening) : (Fault.ExhaustValve, Fault.ExhaustNotOpening);
        return reading.Minimum is { } least && value < least ? fault == seat ? 6 : 0
            : reading.Maximum is { } most && value > most ? fault == lobe ? 4 : 0
            : reading.Minimum is not null && fault == seat ? -1 : 0;
    }

    /// <summary>dB on a leak to the coolant and on coolant lost by another way, for the answer of the test fluid. Right about 17 times in 20; rules of the trade.</summary>
    /// <returns>dB each.</returns>
    public static (double Coolant, double Elsewhere) Gas(CombustionGasResult? result, bool egrCooler) => result switch
    {
        CombustionGasResult.Positive => egrCooler ? (9, 8) : (16, -4),
        CombustionGasResult.Unclear => (1, 0),
        CombustionGasResult.Negative => (-8, 1),
        _ => (0, 0),
    };
}

/// <summary>A leak-down of one cylinder as the table reads it.</summary>
public sealed record LeakEvidence
{
    /// <summary>Number of places.</summary>
    public const int Places = 6;

    /// <summary>Places, in the order of <see cref="Heard"/>.</summary>
    public const int Intake = 0, Exhaust = 1, Crankcase = 2, Coolant = 3, Front = 4, Behind = 5;

    /// <summary>ln of leak area over restriction, with the offset of the engine taken off; absent when only listened.</summary>
    public double? LnRatio { get; init; }

    /// <summary>The same as it was read; absent when only listened.</summary>
    public double LnRatioRead { get; init; }

    /// <summary>ln of leak area over restriction with test oil in the cylinder, where it was read both ways; absent otherwise.</summary>
    public double? LnRatioWithOil { get; init; }

    /// <summary>How many readings of the cylinder agree with the one that counts, itself among them.</summary>
    public int Agreeing { get; init; } = 1;

    /// <summary>Its standard deviation about what a fault that leaks predicts, ln.</summary>
    public double Spread { get; init; } = LikelihoodTable.LeakSpread;

    /// <summary>The same about what a sound cylinder lets by, ln.</summary>
    public double SpreadOfSound { get; init; } = LikelihoodTable.LeakSpreadOfSound;

    /// <summary>What the ear of this job hears more than is expected, dB, from the cylinders that hold; 0 with none to learn from.</summary>
    public double EarDb { get; init; }

    /// <summary>How far that may be off still, dB.</summary>
    public double EarSpreadDb { get; init; } = LikelihoodTable.EarUnknownDb;

    /// <summary>How near the same cylinder comes to the reference in dry or relative compression: 1 within 5 %, 0 where it is 11 % below or more, a fifth where nobody measured it.</summary>
    public double PumpsWell { get; init; } = 0.5;

    /// <summary>Loss, percent.</summary>
    public double LossPercent { get; init; }

    /// <summary>Area of the restriction, mm².</summary>
    public double RestrictionMm2 { get; init; }

    /// <summary>Cylinder over half a litre.</summary>
    public double Size { get; init; } = 1;

    /// <summary>True with test oil still in the cylinder.</summary>
    public bool Oiled { get; init; }

    /// <summary>Air through the restriction, g/s.</summary>
    public double FlowGramsPerS { get; init; }

    /// <summary>What was heard at each place: 0 nothing, 1 faint, 2 clear, 3 strong; absent where nobody listened.</summary>
    public IReadOnlyList<int?> Heard { get; init; } = new int?[Places];

    /// <summary>True where air is heard anywhere but at the oil filler: what is lost is more than used rings let by.</summary>
    public bool IsHeardElsewhere => Heard.Where((h, p) => p != Crankcase && h > 0).Any();

    /// <summary>Air through a restriction, g/s: 0.2365 for each mm² at the standard atmosphere, choked.</summary>
    /// <param name="restrictionMm2">Its area.</param>
    /// <param name="supplyGaugePa">The supply.</param>
    /// <param name="lossPercent">The loss.</param>
    /// <returns>g/s, 0 or more.</returns>
    public static double Flow(double restrictionMm2, double supplyGaugePa, double lossPercent)
    {
        var supply = supplyGaugePa + Physics.Barometer.StandardPa;
        var held = supplyGaugePa * (1 - Math.Clamp(lossPercent, 0.4, 99.6) / 100) + Physics.Barometer.StandardPa;
        return 0.2365 * restrictionMm2 * supply / Physics.Barometer.StandardPa * LeakFlow.Factor(held / supply);
    }
}
