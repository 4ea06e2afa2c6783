using Zandrik.Core.Compression;
using Zandrik.Core.Conditions;
using Zandrik.Core.Engines;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>A test that is worth doing next.</summary>
/// <param name="Kind">Its word in the open record.</param>
/// <param name="Cylinders">The cylinders; empty for the engine.</param>
/// <param name="Minutes">About how long, with what is set up already counted.</param>
/// <param name="GainBits">What it is expected to tell: bits of information about the faults.</param>
/// <param name="Why">Why.</param>
public sealed record NextTest(string Kind, IReadOnlyList<int> Cylinders, double Minutes, double GainBits, string Why);

/// <summary>
/// What to measure next: information per minute, under the hard rules of order and safety. The information is exact: entropy of fault and of outcome, less that of both together, over cells of
/// the outcome from the likelihood table. Section 6 of docs/diagnosis.md.
/// </summary>
internal sealed class NextTests
{
    private const double LeastBits = 0.06;
    private const int MostOffers = 3;
    private const double OddBelow = 0.93;

    private static readonly double[] WetCuts = [0.02, 0.06, 0.10, 0.15, 0.22, 0.30, 0.45, 0.70];
    private static readonly double[] DryCuts = [-1, -0.6, -0.4, -0.25, -0.16, -0.10, -0.05, 0, 0.05];
    private static readonly double[] LeakCuts = [-0.6, 0.1, 0.9, 1.8];
    private static readonly double[] IdleCuts = [-0.25, -0.10, 0.12, 0.28];
    private static readonly double[] SnapCuts = [-0.45, -0.20, -0.08];
    private static readonly double[] RepeatCuts = [-0.20, -0.10, -0.05, 0.05, 0.10, 0.20];

    private readonly JobEvidence job;
    private readonly EngineDiagnosis said;
    private readonly Posterior posterior;
    private readonly (int Node, int Answer, double Weight)[] nodes;
    private readonly double[]?[] weights;
    private readonly Dictionary<string, double[][]> outcomes = [];

    private NextTests(JobEvidence job, EngineDiagnosis said, Posterior posterior)
    {
        (this.job, this.said, this.posterior) = (job, said, posterior);
        var table = job.Table;
        // Of the webs one at a time: the one in front, the one behind.
        nodes = [.. Enumerable.Range(0, table.Local).Select(k => (k, Posterior.IndexOf(table.Nodes[k].Fault), table.Weight[k])),
            .. Enumerable.Range(1, SeverityNodes.WebSteps).Select(w => (table.Pair(w, 0), Posterior.Front, 1.0 / SeverityNodes.WebSteps)),
            .. Enumerable.Range(1, SeverityNodes.WebSteps).Select(w => (table.Pair(0, w), Posterior.Behind, 1.0 / SeverityNodes.WebSteps))];
        weights = new double[job.Cylinders.Count][];
    }

    /// <summary>The offers, best first, three at most.</summary>
    public static IReadOnlyList<NextTest> Of(JobEvidence job, EngineDiagnosis said, Posterior posterior) => new NextTests(job, said, posterior).Rank();

    private IReadOnlyList<NextTest> Rank()
    {
        var offers = new List<(NextTest Test, bool First)>();
        var engine = job.Engine;
        var n = job.Cylinders.Count;
        bool Code(string code) => job.Validity.Any(v => v.Code == code && v.Severity != Severity.Note);
        var odd = Enumerable.Range(0, n).Where(i => said.Cylinders[i].State is CylinderState.Low or CylinderState.Dead or CylinderState.Watch || (said.Cylinders[i].State != CylinderState.Untested && posterior.Of(i, Fault.Sound) < OddBelow))
            .OrderByDescending(Entropy).ToList();
        var missing = Enumerable.Range(0, n).Where(i => job.Cylinders[i].LnDry is null).ToList();
        var dryTest = job.Dry is not null && missing.Count < n;

        void Offer(string kind, IEnumerable<int> cylinders, double minutes, double bits, string why, bool first = false)
        {
            if (first || bits >= LeastBits)
            {
                offers.Add((new NextTest(kind, [.. cylinders.Select(i => i + 1)], minutes, Math.Round(bits, 3), why), first));
            }
        }
        double Each(IEnumerable<int> cylinders, Func<int, double> bits) => cylinders.Sum(bits);
        var doubt = EngineDoubt();

        if (missing.Count > 0)
        {
            var few = n - missing.Count < Math.Min(n, 3) || 2 * missing.Count > n;
            Offer("compression-dry", missing, (dryTest ? 5 : 12) + 2 * missing.Count, Each(missing, DryBits), dryTest ? "The cylinders that are not read yet." : "A gauge in every cylinder tells most to begin with.", first: few && dryTest);
        }
        if (job.Slip is not null && dryTest)
        {
            Offer("compression-dry", Enumerable.Range(0, n), 8 + 2 * n, Math.Max(doubt, Each(odd, RepeatBits)), "Put the slip right first: throttle, battery, needle, count. Then all cylinders again.", first: true);
        }
        var invalid = Enumerable.Range(0, n).Where(i => job.LeakDown?.Cylinders[i].State == LeakState.NotUsed).ToList();
        if (invalid.Count > 0)
        {
            Offer("leak-down", invalid, 2 + 6 * invalid.Count, Each(invalid, LeakBits), "That reading cannot be: set top dead centre, stroke and hose right and read it again.", first: true);
        }
        var unsteady = job.Validity.FirstOrDefault(v => v.Code == "does-not-repeat")?.Cylinders.Select(c => c - 1).ToList() ?? [];
        var suspectSlip = odd.Where(i => job.Cylinders[i].LnDry is not null && posterior.Of(i, Fault.Sound) < 0.7 && (unsteady.Contains(i) || !Repeated(i))).ToList();
        if (suspectSlip.Count > 0 && !Code("falls-with-order"))
        {
            Offer("compression-dry", suspectSlip, 3 + 2 * suspectSlip.Count, Each(suspectSlip, RepeatBits) + (doubt > 0 ? 0.5 * doubt : 0), "Read again before anything is condemned: a reading that does not repeat is not a reading.",
                first: suspectSlip.Any(i => unsteady.Contains(i) || posterior.Of(i, Fault.TestError) > 0.25));
        }
        var unheard = odd.Where(i => job.Cylinders[i].Leak?.LnRatio is null && !invalid.Contains(i)).Take(4).ToList();
        var leakSetup = job.LeakDown is not null ? 0 : 10;
        foreach (var count in (ReadOnlySpan<int>)[1, 2, 4])
        {
            var which = unheard.Take(count).ToList();
            if (which.Count > 0 && (count == 1 || unheard.Count >= Math.Min(count, 3)))
            {
                Offer("leak-down", which, leakSetup + 6 * which.Count, Each(which, LeakBits), "How much is lost, and where it is heard.");
            }
        }
        if (doubt > 0 && unheard.Count == 0 && dryTest)
        {
            var two = Enumerable.Range(0, n).Where(i => job.Cylinders[i].Leak?.LnRatio is null).Take(2).ToList();
            if (two.Count > 0)
            {
                Offer("leak-down", two, leakSetup + 6 * two.Count, 0.5 * doubt, "Worn rings leak, wrong timing or a slip does not: two cylinders tell.");
            }
        }
        var oiled = (engine.Spec?.WetAllowed, job.Diesel) is not (false, _) and not (not true, true);
        var wettable = odd.Where(i => job.Cylinders[i] is { LnDry: not null, LnWet: null, Leak.LnRatio: not null } && !invalid.Contains(i)).ToList();
        if (oiled && wettable.Count > 0)
        {
            Offer("compression-wet", wettable, 4 + 3 * wettable.Count, Each(wettable, WetBits), "Oil brings back what rings let by, and nothing of a valve.");
        }
        // What a cylinder that does not seal explains needs no look at how the others breathe.
        var explained = said.Cylinders.Any(c => c.State is CylinderState.Low or CylinderState.Dead && c.Leading is { Fault: not (Fault.Sound or Fault.TestError), Probability: > 0.8 });
        var mayRun = !explained && !job.Diesel && engine.Throttle != ThrottleControl.None && posterior.Of(Fault.GasketCoolant) <= 0.4 && job.Cylinders.All(c => !c.Plug.Contains(PlugSign.CoolantWet))
            && !job.Seen.Contains(Observation.CoolantInCylinder) && !job.Seen.Contains(Observation.IngestedLiquid);
        if (mayRun)
        {
            var complains = job.Seen.Overlaps([Observation.Misfire, Observation.MisfireCold, Observation.MisfireWarm, Observation.LowPower, Observation.RoughIdle]);
            var seal = odd.Count == 0 && dryTest && missing.Count == 0;
            var which = (seal && complains ? Enumerable.Range(0, n).OrderByDescending(Entropy).Take(4) : odd)
                .Where(i => job.Cylinders[i] is { LnIdle: null, LnSnap: null } && said.Cylinders[i].State is not (CylinderState.Dead or CylinderState.Low) && posterior.Of(i, Fault.GasketCoolant) <= 0.3).ToList();
            if (which.Count > 0)
            {
                Offer("compression-running", which, (job.RanCylinders > 0 ? 0 : 6) + 6 * which.Count, Each(which, RunningBits), "Everything may seal and still not breathe: idle and snap tell.");
            }
        }
        if (!dryTest && job.Cylinders.All(c => c.Relative is null) && n > 1)
        {
            Offer("relative-compression", [], 8, Each(Enumerable.Range(0, n), DryBits) * 0.8, "No plug out: finds an uneven cylinder in minutes.");
        }
        var coolant = posterior.Of(Fault.GasketCoolant);
        if (coolant > 0.06 && job.Gas is null)
        {
            Offer("combustion-gas", [], 10, Information([coolant, 1 - coolant], [[0.85, 0.15], [0.04, 0.96]]), "A gasket can leak to the coolant with every cylinder reading well.");
        }
        var unread = odd.Where(i => job.Cylinders[i].Plug.Count == 0).ToList();
        if (dryTest && unread.Count > 0)
        {
            Offer("plug-inspection", unread, 1 + unread.Count, Each(unread, PlugBits), "The plugs are out: each says something of its cylinder.");
        }
        var valves = odd.Where(i => said.Cylinders[i].Leading.Fault is Fault.IntakeValve or Fault.ExhaustValve or Fault.IntakeNotOpening or Fault.ExhaustNotOpening
            && (job.Cylinders[i].Leak?.LnRatio is not null || job.Cylinders[i].LnIdle is not null) && job.Cylinders[i].Clearances.Count == 0).ToList();
        if (valves.Count > 0)
        {
            Offer("valve-clearance", valves, 20 + 3 * valves.Count, Each(valves, i => 0.25 * Entropy(i)), "Clearance and lift, cover off: cheap to mend before a head comes off.");
        }
        return [.. offers.OrderByDescending(o => o.First).ThenByDescending(o => o.Test.GainBits / o.Test.Minutes).DistinctBy(o => o.Test.Kind).Take(MostOffers).Select(o => o.Test)];
    }

    private bool Repeated(int index) => LatestDryTest.Of(job.Record)?.Readings?.Any(r => r.Cylinder == index + 1 && r.Repeats is { Count: > 0 }) == true;

    private double Entropy(int index) => Entropy(posterior.Cylinders[index]);

    // Wear, timing or the test against nothing engine-wide: bits of that split, where it is a question at all.
    private double EngineDoubt()
    {
        double[] split = [posterior.Of(Fault.None), posterior.Of(Fault.GeneralWear), posterior.Of(Fault.CamTiming), posterior.Of(Fault.TestError)];
        var all = split.Sum();
        return all > 0 && (all - split[0]) / all > 0.15 && job.Dry is not null ? 0.55 * Entropy([.. split.Select(p => p / all)]) : 0;
    }

    private static double Entropy(double[] p) => -p.Where(x => x > 0).Sum(x => x * Math.Log2(x));

    // Mutual information of a cause and an outcome.
    private static double Information(double[] causes, double[][] outcomes)
    {
        var outcome = new double[outcomes[0].Length];
        double both = 0;
        for (var i = 0; i < causes.Length; i++)
        {
            for (var j = 0; j < outcome.Length; j++)
            {
                var p = causes[i] * outcomes[i][j];
                outcome[j] += p;
                both -= p > 0 ? p * Math.Log2(p) : 0;
            }
        }
        return Math.Max(0, Entropy(causes) + Entropy(outcome) - both);
    }

    // Over the answers of a cylinder: each one's severities weighed by what was read so far. What a severity gives is the same in every cylinder.
    private double Bits(string test, int index, Func<SeverityNode, double[]> outcome)
    {
        if (!outcomes.TryGetValue(test, out var gives))
        {
            outcomes[test] = gives = [.. nodes.Select(k => outcome(job.Table.Nodes[k.Node]))];
        }
        var likely = weights[index] ??= Weights(job.Cylinders[index]);
        var cells = new double[Posterior.Answers][];
        var sums = new double[Posterior.Answers];
        for (var k = 0; k < nodes.Length; k++)
        {
            var (answer, p) = (nodes[k].Answer, gives[k]);
            var into = cells[answer] ??= new double[p.Length];
            for (var j = 0; j < p.Length; j++)
            {
                into[j] += likely[k] * p[j];
            }
            sums[answer] += likely[k];
        }
        for (var f = 0; f < Posterior.Answers; f++)
        {
            for (var j = 0; j < cells[f].Length; j++)
            {
                cells[f][j] /= Math.Max(sums[f], 1e-300);
            }
        }
        return Information(posterior.Cylinders[index], cells);
    }

    private double[] Weights(CylinderEvidence c)
    {
        var like = new double[job.Table.Nodes.Length];
        Array.Fill(like, 1);
        if (c.LnDry is { } ln)
        {
            job.Curves.Dry(c.DrySpread).Multiply(Math.Max(SeverityNodes.LowestDry, ln - (job.ReferenceLn ?? job.ExpectedLn)), like);
        }
        if (c.Leak is { } leak)
        {
            LikelihoodTable.LeakDown(job.Table, job.Curves.Paths(leak, 0), leak, like);
        }
        if (c.LnWet is { } wet)
        {
            job.Curves.Wet((0, 0), c.NearlyDead).Multiply(wet, like);
        }
        return [.. nodes.Select(k => k.Weight * like[k.Node])];
    }

    private double WetBits(int index) => Bits("wet", index, k => Cells(k.Wet, LikelihoodTable.WetSpread(k, k.Wet, 0, otherGauge: false, nearlyDead: false, job.Diesel), WetCuts));

    private double DryBits(int index) => Bits("dry", index, k => Cells(k.Dry, Math.Sqrt(0.05 * 0.05 + k.DrySpread * k.DrySpread), DryCuts));

    // Only a slip moves when the same is read again: it may be gone.
    private double RepeatBits(int index) => Bits("repeat", index, k => k.Fault == Fault.TestError
        ? [.. Cells(-k.Dry, 0.04, RepeatCuts).Zip(Cells(0, 0.04, RepeatCuts), (gone, stays) => (gone + stays) / 2)]
        : Cells(0, 0.04, RepeatCuts));

    private double RunningBits(int index)
    {
        var (idle, snap) = LikelihoodTable.RunningSpread(3, job.Diesel);
        return Bits("running", index, k => Product(Cells(k.Idle, idle, IdleCuts), Cells(k.Snap, snap, SnapCuts)));
    }

    private double PlugBits(int index) => Bits("plug", index, k => k.Fault switch
    {
        Fault.Rings or Fault.Piston => [0.55, 0.05, 0.05, 0.35],
        Fault.FuelWashed => [0.05, 0.75, 0.05, 0.15],
        Fault.GasketCoolant => [0.05, 0.05, 0.60, 0.30],
        _ => [0.10, 0.08, 0.02, 0.80],
    });

    // The amount in five cells, and the loudest of six places or none.
    private double LeakBits(int index)
    {
        var size = CylinderVolume.SweptCc(job.Engine) / 500 ?? (job.Diesel ? 1.25 : 1);
        var restriction = LeakFlow.RestrictionAreaMm2(LeakFlow.StandardRestrictionMm(CylinderVolume.SweptCc(job.Engine)));
        return Bits("leak-down", index, k =>
        {
            var areas = LikelihoodTable.AreasOf(k, size);
            var ratio = areas.Sum() / restriction;
            var loss = LeakFlow.Percent(ratio, LeakFlow.StandardSupplyPa);
            var flow = LeakEvidence.Flow(restriction, LeakFlow.StandardSupplyPa, loss);
            var loud = areas.Select((a, p) => Math.Exp((20 * Math.Log10(Math.Max(a / areas.Sum() * flow, 1e-6) / 0.1) + LikelihoodTable.EarDb(k, p)) / 5)).Append(1).ToArray();
            var all = loud.Sum();
            return Product(Cells(Math.Log(ratio), 0.30, LeakCuts), [.. loud.Select(l => l / all)]);
        });
    }

    private static double[] Product(double[] first, double[] second) => [.. first.SelectMany(a => second.Select(b => a * b))];

    private static double[] Cells(double mean, double spread, double[] cuts)
    {
        var cells = new double[cuts.Length + 1];
        double before = 0;
        for (var i = 0; i <= cuts.Length; i++)
        {
            var upTo = i < cuts.Length ? 0.5 * MathNet.Numerics.SpecialFunctions.Erfc(-(cuts[i] - mean) / (spread * Math.Sqrt(2))) : 1;
            cells[i] = 0.99 * (upTo - before) + 0.01 / cells.Length;
            before = upTo;
        }
        return cells;
    }
}
