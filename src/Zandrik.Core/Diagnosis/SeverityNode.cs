using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>
/// One fault at one severity, and what every test would read of it. All findings share the severity, so that correlated ones are not counted twice. Areas are added leaks in mm² for a
/// cylinder of half a litre; logarithms are natural.
/// </summary>
public sealed record SeverityNode
{
    /// <summary>The fault.</summary>
    public required Fault Fault { get; init; }

    /// <summary>Weight inside the fault, a share of 1.</summary>
    public required double Weight { get; init; }

    /// <summary>ln of dry pressure against sound.</summary>
    public double Dry { get; init; }

    /// <summary>Spread of <see cref="Dry"/> inside the node, ln.</summary>
    public double DrySpread { get; init; }

    /// <summary>ln of wet over dry.</summary>
    public double Wet { get; init; }

    /// <summary>Spread of <see cref="Wet"/> beyond the usual, ln.</summary>
    public double WetSpread { get; init; }

    /// <summary>Leak past the rings, mm².</summary>
    public double Rings { get; init; }

    /// <summary>Leak through the crown to the crankcase, mm².</summary>
    public double Crown { get; init; }

    /// <summary>Leak at the intake valve, mm².</summary>
    public double Intake { get; init; }

    /// <summary>Leak at the exhaust valve, mm².</summary>
    public double Exhaust { get; init; }

    /// <summary>Leak into the coolant, mm².</summary>
    public double Coolant { get; init; }

    /// <summary>Leak to the neighbour in front, mm².</summary>
    public double Front { get; init; }

    /// <summary>Leak to the neighbour behind, mm².</summary>
    public double Behind { get; init; }

    /// <summary>ln of running idle compression against what a sound cylinder gives.</summary>
    public double Idle { get; init; }

    /// <summary>The same after a snap.</summary>
    public double Snap { get; init; }

    /// <summary>ln of relative compression.</summary>
    public double Relative { get; init; }

    /// <summary>How far engines differ in <see cref="Idle"/>, ln; 0 where the usual spread of a reading holds it.</summary>
    public double IdleSpread { get; init; }

    /// <summary>How far engines differ in <see cref="Snap"/>, ln.</summary>
    public double SnapSpread { get; init; }

    /// <summary>How far engines differ in <see cref="Relative"/>, ln.</summary>
    public double RelativeSpread { get; init; }

    /// <summary>True for faults that leak no more than a sound cylinder: only an excess speaks against them.</summary>
    public bool LeaksLikeSound { get; init; }

    /// <summary>True for two leaks in one cylinder.</summary>
    public bool Paired { get; init; }
}

/// <summary>What the nodes of an engine hang on.</summary>
/// <param name="Diesel">True for a diesel.</param>
/// <param name="SoundGain">What oil adds to a sound cylinder, ln.</param>
/// <param name="OilLeft">The share of a ring leak that stays after oil: 0.48 + 0.52·exp(−ml/5); half-way to 1 on a flat or slanted engine.</param>
public sealed record NodeSetting(bool Diesel, double SoundGain, double OilLeft)
{
    /// <summary>What was estimated from the engine model; <see cref="LikelihoodEstimates.None"/> for rules of thumb and one engine alone.</summary>
    public LikelihoodEstimates Estimates { get; init; } = LikelihoodEstimates.CheckedIn;

    /// <summary>ln of pressure lost for each mm² of leak and half litre. Fitted to the crank-angle model.</summary>
    public double Loss => Diesel ? 0.36 : 0.185;
}

/// <summary>The severities of each fault: section 3.2 of docs/diagnosis.md.</summary>
public static class SeverityNodes
{
    /// <summary>Below this the logarithm of a dry ratio tells nothing more.</summary>
    public const double LowestDry = -2.6;

    /// <summary>Severities of a burnt web.</summary>
    public const int WebSteps = 9;

    private const double LeastWeb = 0.15, WebReach = 50;

    // How far oil in one ring pack is from oil in another, ln.
    private const double OilSpread = 0.025;

    // No node is wider in ln of dry pressure.
    private const double MostSpread = 0.12;

    // Nor that of a cylinder with a burnt web to either side: what it gives to one comes back from the other.
    private const double MostSpreadBetween = 0.35;

    // How likely the mildest and the severest are against one in the middle.
    private const double AtEnds = 0.25;

    private static readonly double[] Thirteen = Steps(13);
    private static readonly double[] ThirteenWeights = Tapered(Thirteen.Length);
    private static readonly double[] Short = [-0.07, -0.12, -0.18, -0.25, -0.33, -0.45], Washed = [1.6, 2.4, 3.5, 5, 7.5, 11, 16, 23], Deposits = [0.03, 0.055, 0.08, 0.12, 0.16];
    private static readonly double[] SoundRings = [0, 0.05, 0.10, 0.15, 0.20];
    private static readonly double[] SoundWeights = [0.34, 0.28, 0.20, 0.12, 0.06];

    /// <summary>The areas of a burnt web, mm² for half a litre: from one that is only heard to one that leaves little.</summary>
    public static IReadOnlyList<double> WebAreas { get; } = [.. Steps(WebSteps).Select(u => LeastWeb * Math.Pow(WebReach, u))];

    /// <summary>How many times as much goes past the rings of a washed cylinder, mildest first.</summary>
    public static IReadOnlyList<double> WashFactors => Washed;

    /// <summary>How likely each of <see cref="WebAreas"/> is where a web is burnt; sums to 1.</summary>
    public static IReadOnlyList<double> WebWeights { get; } = OfWebs();

    /// <summary>The nodes as rules of thumb and figures of one engine have them, before <see cref="LikelihoodEstimates"/> is asked.</summary>
    /// <returns>The nodes, sound first, fault by fault in the order of <see cref="FaultOdds.Local"/>; never empty.</returns>
    public static IReadOnlyList<SeverityNode> ByHand(NodeSetting at)
    {
        var nodes = new List<SeverityNode>();
        var k = at.Loss;
        for (var i = 0; i < SoundRings.Length; i++)
        {
            var a = SoundRings[i];
            // How cylinders are built apart is in the spread of a reading; a diesel's high ratio makes more of the same heights.
            nodes.Add(Leak(at, Fault.Sound, SoundWeights[i], rings: a) with { DrySpread = at.Diesel ? 0.015 : 0, WetSpread = 0, LeaksLikeSound = true });
        }
        AddLeaks(nodes, at, Fault.Rings, 0.4, 12.5, a => Leak(at, Fault.Rings, 1, rings: a));
        AddPairs(nodes, at, Fault.Rings);
        // A hole in the crown, or worse: from a small one to none left.
        AddLeaks(nodes, at, Fault.Piston, 4, 7.5, a => Leak(at, Fault.Piston, 1, crown: a) with { Wet = 0.8 * at.SoundGain, WetSpread = 0.06 });
        AddValve(nodes, at, Fault.IntakeValve, a => Leak(at, Fault.IntakeValve, 1, intake: a));
        AddPairs(nodes, at, Fault.IntakeValve);
        AddValve(nodes, at, Fault.ExhaustValve, a => Leak(at, Fault.ExhaustValve, 1, exhaust: a));
        AddPairs(nodes, at, Fault.ExhaustValve);
        // A crack or a burnt ring seal, small as a rule; one in ten lets by as much as an open valve.
        AddLeaks(nodes, at, Fault.GasketCoolant, 0.12, 16, a => Leak(at, Fault.GasketCoolant, 1, coolant: a), 1 - WideOpen);
        AddWide(nodes, [3.5, 5.5, 9, 16], a => Leak(at, Fault.GasketCoolant, 1, coolant: a));
        double[] inDry = [0.06, 0.06, 0.05, 0.04, 0.02, 0, -0.05, -0.30, -0.80];
        double[] inIdle = [0.04, 0.02, 0, -0.03, -0.10, -0.18, -0.30, -0.90, -1.4];
        double[] inSnap = [-0.08, -0.15, -0.24, -0.33, -0.45, -0.58, -0.75, -1.35, -1.9];
        for (var i = 0; i < inDry.Length; i++)
        {
            var dry = inDry[i] - (at.Diesel ? 0.07 : 0);
            nodes.Add(Still(at, Fault.IntakeNotOpening, i < 7 ? 0.125 : 0.0625, dry, 0.03, inIdle[i], inSnap[i]));
        }
        double[] exDry = [0, 0, 0, 0, 0, 0.02, 0.05];
        double[] exIdle = [0.22, 0.30, 0.36, 0.42, 0.47, 0.52, 0.66];
        double[] exSnap = [0.05, 0, -0.06, -0.10, -0.14, -0.18, -0.30];
        var exWeights = Tapered(exDry.Length);
        for (var i = 0; i < exDry.Length; i++)
        {
            nodes.Add(Still(at, Fault.ExhaustNotOpening, exWeights[i], exDry[i], 0.02, exIdle[i], exSnap[i]));
        }
        foreach (var (d, w) in Short.Zip(Tapered(Short.Length)))
        {
            var dry = d * (at.Diesel ? 1.45 : 1);
            nodes.Add(Still(at, Fault.ShortStroke, w, dry, 0.03, 1.1 * dry, dry));
        }
        foreach (var (m, w) in Washed.Zip(Tapered(Washed.Length)))
        {
            var a = 0.27 * (m - 1);
            nodes.Add(Leak(at, Fault.FuelWashed, w, rings: a) with { Wet = at.SoundGain + 0.9 * k * a, DrySpread = 0.02, WetSpread = OilSpread });
        }
        foreach (var (d, w) in Deposits.Zip(Tapered(Deposits.Length)))
        {
            nodes.Add(Still(at, Fault.Carbon, w, d, 0.01, d, d));
        }
        foreach (var (d, w) in new[] { (-0.85, 0.05), (-0.70, 0.09), (-0.56, 0.12), (-0.43, 0.15), (-0.31, 0.18), (-0.20, 0.17), (-0.11, 0.16), (0.06, 0.08) })
        {
            // The slip is still there when oil goes in, or it is gone.
            foreach (var wet in new[] { at.SoundGain, at.SoundGain - d })
            {
                nodes.Add(Still(at, Fault.TestError, w / 2, d, 0.05, 0, 0) with { Wet = wet, WetSpread = 0.05, Relative = 0 });
            }
        }
        return nodes;
    }

    /// <summary>All nodes a cylinder can be at by itself, fault by fault in the order of <see cref="FaultOdds.Local"/>.</summary>
    /// <returns>The nodes, sound first; never empty.</returns>
    public static IReadOnlyList<SeverityNode> Local(NodeSetting at) => EstimatedNodes.Over(ByHand(at), at);

    /// <summary>A cylinder with burnt webs before or behind it.</summary>
    /// <param name="at">The setting.</param>
    /// <param name="front">Area of the web in front, mm² for half a litre; 0 for whole.</param>
    /// <param name="behind">Area of the web behind.</param>
    /// <returns>The node; that of a sound cylinder where both webs are whole.</returns>
    public static SeverityNode Web(NodeSetting at, double front, double behind) => EstimatedNodes.OverWeb(WebByHand(at, front, behind), at);

    /// <summary>The same as <see cref="ByHand"/> has it.</summary>
    /// <returns>The node.</returns>
    internal static SeverityNode WebByHand(NodeSetting at, double front, double behind)
    {
        var dry = DryOf(at.Loss * (front + behind));
        return new SeverityNode
        {
            Fault = Fault.GasketAdjacent, Weight = 1, Dry = dry, DrySpread = Math.Min(front > 0 && behind > 0 ? MostSpreadBetween : MostSpread, Math.Max(0.015, 0.25 * -dry)), Wet = 0.7 * at.SoundGain, Front = front, Behind = behind, Idle = 0.33 * dry, Snap = 0.33 * dry, Relative = dry,
        };
    }

    // The ends of a range are where a fault is hardly one yet, and where the engine no longer runs: neither is brought in as often as what lies between. The middle third is even.
    private static double[] Tapered(int count)
    {
        var weights = Enumerable.Range(0, count).Select(i => i / (count - 1.0)).Select(x => Math.Min(1, AtEnds + (1 - AtEnds) * 3 * Math.Min(x, 1 - x))).ToArray();
        var all = weights.Sum();
        return [.. weights.Select(w => w / all)];
    }

    // A web that is only heard is seldom what brings an engine in.
    private static double[] OfWebs()
    {
        const int OnlyHeard = 3;
        const double Seldom = 0.7;
        var weights = Tapered(WebSteps).Select((w, i) => i < OnlyHeard ? Seldom * w : w).ToArray();
        var all = weights.Sum();
        return [.. weights.Select(w => w / all)];
    }

    private static double[] Steps(int count) => [.. Enumerable.Range(0, count).Select(i => -0.1 + 1.2 * i / (count - 1))];

    /// <summary>ln of pressure left by a leak: −κ·area for small ones, less than that for large ones, which let the air back in as well as out. Motored engine, two-litre four: 48 % left at 4 mm², 35 % at 6, 26 % at 8, 14 % at 14.</summary>
    /// <param name="lost">κ times the area: ln of the pressure lost if it went on as for a small leak.</param>
    /// <returns>ln of a share, 0 or less; no unit.</returns>
    public static double DryOf(double lost)
    {
        if (lost <= 0)
        {
            return 0;
        }
        var i = 1;
        while (i < Lost.Length - 1 && lost > Lost[i].Area)
        {
            i++;
        }
        var (from, to) = (Lost[i - 1], Lost[i]);
        return Math.Max(LowestDry, -(from.Ln + (to.Ln - from.Ln) * (lost - from.Area) / (to.Area - from.Area)));
    }

    // Beyond the last the last step goes on.
    private static readonly (double Area, double Ln)[] Lost = [(0, 0), (0.74, 0.734), (1.11, 1.050), (1.48, 1.347), (2.59, 1.966)];

    private static SeverityNode Leak(NodeSetting at, Fault fault, double weight, double rings = 0, double intake = 0, double exhaust = 0, double coolant = 0, double crown = 0)
    {
        var dry = DryOf(at.Loss * (rings + intake + exhaust + coolant + crown));
        var back = at.Loss * rings * (1 - at.OilLeft);
        return new SeverityNode
        {
            Fault = fault, Weight = weight, Rings = rings, Intake = intake, Exhaust = exhaust, Coolant = coolant, Crown = crown, Dry = dry,
            // Of a cylinder that pumps next to nothing oil brings back half of it.
            Wet = at.SoundGain + (dry <= LowestDry ? 0.5 : 1) * back, WetSpread = rings > 0 ? OilSpread : 0,
            Idle = 0.25 * dry, Snap = 0.27 * dry, Relative = dry,
        };
    }

    // What moves valves or strokes leaks no more than a sound cylinder.
    private static SeverityNode Still(NodeSetting at, Fault fault, double weight, double dry, double spread, double idle, double snap) => new()
    {
        Fault = fault, Weight = weight, Dry = dry, DrySpread = spread, Wet = at.SoundGain, Idle = idle, Snap = snap, Relative = Math.Min(dry, 0), LeaksLikeSound = true,
    };

    // Thirteen even steps; between two nodes lies no hole, so each is as wide as a third of the way to the next.
    private static void AddLeaks(List<SeverityNode> nodes, NodeSetting at, Fault fault, double least, double reach, Func<double, SeverityNode> make, double weight = 1)
    {
        for (var i = 0; i < Thirteen.Length; i++)
        {
            double Area(int j) => least * Math.Pow(reach, Thirteen[j]);
            var step = at.Loss * (i + 1 < Thirteen.Length ? Area(i + 1) - Area(i) : Area(i) - Area(i - 1));
            nodes.Add(make(Area(i)) with { Fault = fault, Weight = weight * ThirteenWeights[i], DrySpread = Math.Min(MostSpread, Math.Sqrt(0.015 * 0.015 + Math.Pow(0.33 * step, 2))) });
        }
    }

    // A seat that leaks, little to much; one in ten is bent or hung and does not seat at all.
    private static void AddValve(List<SeverityNode> nodes, NodeSetting at, Fault fault, Func<double, SeverityNode> make)
    {
        AddLeaks(nodes, at, fault, 0.4, 20, make, 1 - WideOpen);
        AddWide(nodes, [16, 40], make);
    }

    // The share of a leak that is open altogether.
    private const double WideOpen = 0.1;

    private static void AddWide(List<SeverityNode> nodes, double[] areas, Func<double, SeverityNode> make)
    {
        foreach (var area in areas)
        {
            nodes.Add(make(area) with { Weight = WideOpen / areas.Length, DrySpread = MostSpread });
        }
    }

    // Two leaks in one cylinder, shared out by their areas.
    private static void AddPairs(List<SeverityNode> nodes, NodeSetting at, Fault fault)
    {
        double[] areas = [0.6, 1.5, 3.5];
        foreach (var (first, second) in new[] { (Fault.Rings, Fault.ExhaustValve), (Fault.Rings, Fault.IntakeValve), (Fault.IntakeValve, Fault.ExhaustValve) })
        {
            if (fault != first && fault != second)
            {
                continue;
            }
            foreach (var a in areas)
            {
                foreach (var b in areas)
                {
                    double Of(Fault f) => f == first ? a : f == second ? b : 0;
                    nodes.Add(Leak(at, fault, 0.05 / 9 * (fault == first ? a : b) / (a + b), Of(Fault.Rings), Of(Fault.IntakeValve), Of(Fault.ExhaustValve)) with { DrySpread = MostSpread, WetSpread = 0.05, Paired = true });
                }
            }
        }
    }
}
