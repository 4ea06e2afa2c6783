using System.Numerics.Tensors;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>A test that could be made at a cylinder, as far as what it may show is told apart.</summary>
internal enum PossibleTest
{
    /// <summary>Dry, for the first time.</summary>
    Dry,

    /// <summary>Dry, once more.</summary>
    Repeat,

    /// <summary>Wet.</summary>
    Wet,

    /// <summary>Leak-down with listening.</summary>
    LeakDown,

    /// <summary>Idle and snap.</summary>
    Running,

    /// <summary>The look of the plug.</summary>
    Plug,
}

/// <summary>
/// What each test may show at each severity of each fault: the probability of every cell of its outcome, from the likelihood table. The same for every engine of a setting, so it is worked out once.
/// </summary>
internal sealed class TestOutcomes
{
    private const int Most = 32;

    private static readonly double[] WetCuts = [0.02, 0.06, 0.10, 0.15, 0.22, 0.30, 0.45, 0.70];
    private static readonly double[] DryCuts = [-1, -0.6, -0.4, -0.25, -0.16, -0.10, -0.05, 0, 0.05];
    private static readonly double[] LeakCuts = [-0.6, 0.1, 0.9, 1.8];
    private static readonly double[] IdleCuts = [-0.25, -0.10, 0.12, 0.28];
    private static readonly double[] SnapCuts = [-0.45, -0.20, -0.08];
    private static readonly double[] RepeatCuts = [-0.20, -0.10, -0.05, 0.05, 0.10, 0.20];

    private readonly NodeTable table;
    private readonly bool diesel;
    private readonly BoundedCache<(PossibleTest Test, double Size, double Restriction), double[][]> known;

    /// <summary>Of a setting.</summary>
    public TestOutcomes(NodeTable table, bool diesel)
    {
        (this.table, this.diesel) = (table, diesel);
        // Of the webs one at a time: the one in front, the one behind.
        Nodes = [.. Enumerable.Range(0, table.Local).Select(k => (k, Posterior.IndexOf(table.Nodes[k].Fault), table.Weight[k])),
            .. Enumerable.Range(1, SeverityNodes.WebSteps).Select(w => (table.Pair(w, 0), Posterior.Front, SeverityNodes.WebWeights[w - 1])),
            .. Enumerable.Range(1, SeverityNodes.WebSteps).Select(w => (table.Pair(0, w), Posterior.Behind, SeverityNodes.WebWeights[w - 1]))];
        known = new(Most, k => [.. Nodes.Select(n => Outcome(k.Test, table.Nodes[n.Node], k.Size, k.Restriction))]);
    }

    /// <summary>The severities that are told apart: place in the table, answer of <see cref="Posterior"/>, weight inside the answer.</summary>
    public (int Node, int Answer, double Weight)[] Nodes { get; }

    // What is done about each answer.
    private static readonly int[] Kinds = [.. FaultOdds.Local.Select(f => (int)RepairKinds.Of(f)), (int)RepairKind.Gasket, (int)RepairKind.Gasket];

    /// <summary>What is done about an answer of <see cref="Posterior"/>, as a number of <see cref="RepairKind"/>.</summary>
    public static int KindOf(int answer) => Kinds[answer];

    /// <summary>The probability of the repair that is likeliest needed; suspects of one repair together, nothing to repair among them.</summary>
    /// <param name="answers">How likely each answer of <see cref="Posterior"/> is; sums to 1.</param>
    /// <returns>0 to 1.</returns>
    public static double SurestRepair(ReadOnlySpan<double> answers)
    {
        Span<double> of = stackalloc double[RepairKinds.Count];
        of.Clear();
        for (var f = 0; f < answers.Length; f++)
        {
            of[Kinds[f]] += answers[f];
        }
        return TensorPrimitives.Max<double>(of);
    }

    /// <summary>What a test of one cylinder may show, with what was read so far: the probability of every cell of its outcome under each answer of <see cref="Posterior"/>.</summary>
    /// <param name="test">The test.</param>
    /// <param name="size">Cylinder over half a litre.</param>
    /// <param name="restrictionMm2">Area of the leak-down tester's restriction.</param>
    /// <param name="likely">How well each of <see cref="Nodes"/> predicted what was read so far, with its weight.</param>
    /// <returns>Answer after answer; each sums to 1.</returns>
    public double[] Shows(PossibleTest test, double size, double restrictionMm2, ReadOnlySpan<double> likely)
    {
        var gives = known.Of((test, test == PossibleTest.LeakDown ? size : 0, test == PossibleTest.LeakDown ? restrictionMm2 : 0));
        var cells = gives[0].Length;
        var outcomes = new double[Posterior.Answers * cells];
        Span<double> sums = stackalloc double[Posterior.Answers];
        sums.Clear();
        for (var k = 0; k < Nodes.Length; k++)
        {
            var answer = Nodes[k].Answer;
            var into = outcomes.AsSpan(answer * cells, cells);
            TensorPrimitives.MultiplyAdd(gives[k], likely[k], into, into);
            sums[answer] += likely[k];
        }
        for (var f = 0; f < sums.Length; f++)
        {
            var of = outcomes.AsSpan(f * cells, cells);
            TensorPrimitives.Divide(of, Math.Max(sums[f], 1e-300), of);
        }
        return outcomes;
    }

    /// <summary>Mutual information of a cause and an outcome, bits.</summary>
    /// <param name="causes">How likely each cause is.</param>
    /// <param name="outcomes">The probability of each outcome under each cause, cause after cause.</param>
    public static double Information(ReadOnlySpan<double> causes, ReadOnlySpan<double> outcomes)
    {
        var cells = outcomes.Length / causes.Length;
        Span<double> outcome = stackalloc double[cells];
        outcome.Clear();
        double both = 0;
        for (var i = 0; i < causes.Length; i++)
        {
            for (var j = 0; j < cells; j++)
            {
                var p = causes[i] * outcomes[i * cells + j];
                outcome[j] += p;
                both -= p > 0 ? p * Math.Log2(p) : 0;
            }
        }
        return Math.Max(0, Entropy(causes) + Entropy(outcome) - both);
    }

    /// <summary>Entropy, bits.</summary>
    public static double Entropy(ReadOnlySpan<double> p)
    {
        double all = 0;
        foreach (var x in p)
        {
            all -= x > 0 ? x * Math.Log2(x) : 0;
        }
        return all;
    }

    private double[] Outcome(PossibleTest test, SeverityNode k, double size, double restriction)
    {
        switch (test)
        {
            case PossibleTest.Dry:
                return Cells(k.Dry, Math.Sqrt(0.05 * 0.05 + k.DrySpread * k.DrySpread), DryCuts);
            case PossibleTest.Repeat:
                // Only a slip moves when the same is read again: it may be gone.
                return k.Fault == Fault.TestError ? [.. Cells(-k.Dry, 0.04, RepeatCuts).Zip(Cells(0, 0.04, RepeatCuts), (gone, stays) => (gone + stays) / 2)] : Cells(0, 0.04, RepeatCuts);
            case PossibleTest.Wet:
                return Cells(k.Wet, LikelihoodTable.WetSpread(k, k.Wet, 0, otherGauge: false, nearlyDead: false, diesel), WetCuts);
            case PossibleTest.Running:
                var (idle, snap) = LikelihoodTable.RunningSpread(3, diesel);
                return Product(Cells(k.Idle, LikelihoodTable.Around(idle, k.IdleSpread), IdleCuts), Cells(k.Snap, LikelihoodTable.Around(snap, k.SnapSpread), SnapCuts));
            case PossibleTest.Plug:
                return k.Fault switch
                {
                    Fault.Rings or Fault.Piston => [0.55, 0.05, 0.05, 0.35],
                    Fault.FuelWashed => [0.05, 0.75, 0.05, 0.15],
                    Fault.GasketCoolant => [0.05, 0.05, 0.60, 0.30],
                    _ => [0.10, 0.08, 0.02, 0.80],
                };
            default:
                return LeakDown(k, size, restriction);
        }
    }

    // The amount in five cells, and the loudest of six places or none.
    private static double[] LeakDown(SeverityNode k, double size, double restriction)
    {
        var areas = LikelihoodTable.AreasOf(k, size);
        var ratio = areas.Sum() / restriction;
        var flow = LeakEvidence.Flow(restriction, LeakFlow.StandardSupplyPa, LeakFlow.Percent(ratio, LeakFlow.StandardSupplyPa));
        var loud = areas.Select((a, p) => Math.Exp((20 * Math.Log10(Math.Max(a / areas.Sum() * flow, 1e-6) / 0.1) + LikelihoodTable.EarDb(k, p)) / 5)).Append(1).ToArray();
        var all = loud.Sum();
        return Product(Cells(Math.Log(ratio), 0.30, LeakCuts), [.. loud.Select(l => l / all)]);
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
