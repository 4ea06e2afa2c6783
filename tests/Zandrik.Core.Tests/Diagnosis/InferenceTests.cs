using CsCheck;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Diagnosis;

/// <summary>The one sum, written out the long way for three cylinders in a row with dry readings: every level, every state of both webs, every severity, no chain, nothing kept and nothing left out.</summary>
public sealed class InferenceTests
{
    private const double Doubt = 0.008;

    private static readonly Fault[] Local = [.. FaultOdds.Local];

    // Causes that set the level of a petrol engine without a slip on record: weight, what they take from the level, and how wide they are.
    private static IEnumerable<(double Weight, double Mean, double Spread)> Laws(double expected)
    {
        const double Loss = 0.185;
        var spread = Math.Sqrt(0.05 * 0.05 + 0.035 * 0.035);
        double[] wear = [0.3, 0.6, 1.1, 2.0, 3.3, 5.0], worn = [0.14, 0.21, 0.25, 0.21, 0.14, 0.05];
        double[] wash = [0.3, 0.8, 1.5, 3.0], washed = [0.25, 0.35, 0.25, 0.15];
        double[] cam = [-0.05, -0.12, -0.22, -0.38, 0.06], late = [0.25, 0.35, 0.25, 0.10, 0.05];
        double[] carbon = [0.06, 0.10, 0.15], coked = [0.4, 0.4, 0.2];
        return
        [
            (1, expected - 0.01, spread),
            (0.06, expected - 0.15, Math.Sqrt(spread * spread + 0.08 * 0.08)),
            .. wear.Select((a, i) => (0.04 * worn[i], expected - Loss * a, spread)),
            .. wash.Select((a, i) => (0.0012 * washed[i], expected - Loss * a, spread)),
            (0.010, expected - 0.01, spread),
            .. cam.Select((s, i) => (0.020 * late[i], expected + s, spread)),
            .. carbon.Select((s, i) => (0.012 * coked[i], expected + s, spread)),
            // Nothing left at all: by a slip, or by the timing.
            (0.06 * 0.1, expected - 1.6, 0.8),
            (0.020 * 0.04, expected - 1.6, 0.8),
        ];
    }

    private static double[][] LongWay(JobEvidence job, bool dry)
    {
        var n = job.Cylinders.Count;
        var table = job.Table;
        using var read = new NodeLikelihoods(job);
        var levels = read.Levels;
        var web = FaultOdds.Of(Fault.GasketAdjacent, diesel: false);
        double Prior(int state) => state == 0 ? 1 - web : web * SeverityNodes.WebWeights[state - 1];
        var curve = job.Curves.Dry(LikelihoodTable.DrySpread);
        var answers = Enumerable.Range(0, n).Select(_ => new double[Posterior.Answers]).ToArray();
        foreach (var level in dry ? levels : [job.ExpectedLn])
        {
            var law = dry ? Laws(job.ExpectedLn).Sum(l => l.Weight / l.Spread * Math.Exp(-Math.Pow((level - l.Mean) / l.Spread, 2) / 2)) : Laws(job.ExpectedLn).Sum(l => l.Weight);
            double Like(int cylinder, int node) => dry ? curve.At(node, job.Cylinders[cylinder].LnDry!.Value - level) : 1;
            // Deposits under the nominal are seldom.
            double Seldom(int cylinder, int fault) => dry && Local[fault] == Fault.Carbon && job.Cylinders[cylinder].LnDry <= job.ExpectedLn ? 0.15 : 1;
            double OfFault(int cylinder, int fault) => Seldom(cylinder, fault) * Enumerable.Range(0, table.Local).Where(k => table.Nodes[k].Fault == Local[fault]).Sum(k => table.Weight[k] * FaultOdds.Of(Local[fault], diesel: false) * Like(cylinder, k));
            var local = Enumerable.Range(0, n).Select(c => Enumerable.Range(0, Local.Length).Select(f => OfFault(c, f)).ToArray()).ToArray();
            // A leak to the coolant may be in a cylinder; or coolant goes another way, and then none of them has one.
            foreach (var (share, coolant) in new[] { (1.0, true), (FaultOdds.CoolantNotLocated + FaultOdds.CoolantElsewhere, false) })
            {
                double[] Own(int c) => [.. local[c].Select((x, f) => coolant || Local[f] != Fault.GasketCoolant ? x : 0)];
                for (var first = 0; first < BankChain.States; first++)
                {
                    for (var second = 0; second < BankChain.States; second++)
                    {
                        int[] front = [0, first, second], behind = [first, second, 0];
                        var each = Enumerable.Range(0, n).Select(c => front[c] == 0 && behind[c] == 0 ? Own(c).Sum() : table.Weight[table.Pair(front[c], behind[c])] * Like(c, table.Pair(front[c], behind[c]))).ToArray();
                        var all = law * share * Prior(first) * Prior(second) * each.Aggregate(1.0, (a, b) => a * b);
                        for (var c = 0; c < n; c++)
                        {
                            if (front[c] == 0 && behind[c] == 0)
                            {
                                var own = Own(c);
                                for (var f = 0; f < own.Length; f++)
                                {
                                    answers[c][f] += all * own[f] / own.Sum();
                                }
                            }
                            else
                            {
                                var both = front[c] > 0 && behind[c] > 0 ? 0.5 : 1;
                                answers[c][Posterior.Front] += front[c] > 0 ? both * all : 0;
                                answers[c][Posterior.Behind] += behind[c] > 0 ? both * all : 0;
                            }
                        }
                    }
                }
            }
        }
        return [.. answers.Select(a => a.Select(x => x / a.Sum()).ToArray())];
    }

    [Fact]
    public void It_is_what_the_long_way_comes_to() => Gen.Int[60, 215].Array[3].Sample(psi =>
    {
        var job = JobEvidence.Of(Whiteboard.Job($"petrol 3; dry {psi[0]} {psi[1]} {psi[2]}"));
        // Readings that fall in the order of testing are a slip, and taken out first: not what is written out here.
        if (job.Slip is not null || job.Cylinders.Any(c => c.LnDry is null))
        {
            return;
        }
        var (before, after) = (LongWay(job, dry: false), LongWay(job, dry: true));
        using var read = new NodeLikelihoods(job);
        var found = Inference.Of(read, EvidenceStage.CombustionGas).Cylinders;
        for (var c = 0; c < 3; c++)
        {
            for (var a = 0; a < Posterior.Answers; a++)
            {
                found[c][a].ShouldBe((1 - Doubt) * after[c][a] + Doubt * before[c][a], 2e-6, $"cylinder {c + 1}, answer {a}, {string.Join(" ", psi)}");
            }
        }
    }, iter: 25);

    [Fact]
    public void Before_any_reading_it_is_the_base_rates()
    {
        var job = JobEvidence.Of(Whiteboard.Job("petrol 3"));
        using var read = new NodeLikelihoods(job);
        var (found, longWay) = (Inference.Of(read, EvidenceStage.None).Cylinders, LongWay(job, dry: false));
        for (var c = 0; c < 3; c++)
        {
            found[c].Zip(longWay[c], (a, b) => Math.Abs(a - b)).ShouldAllBe(off => off < 1e-9);
        }
    }

    [Fact]
    public void Another_stage_asked_before_changes_nothing()
    {
        var job = JobEvidence.Of(Whiteboard.Job("petrol 6 v 1-3-5/2-4-6; dry 190 188 131 191 150 189; leak 3 85 exhaust 3; leak 5 40 crankcase 2; wet 3 136 5 170; run 1 100 163; seen misfire"));
        using var once = new NodeLikelihoods(job);
        using var often = new NodeLikelihoods(job);
        foreach (var stage in Enum.GetValues<EvidenceStage>())
        {
            Inference.Of(often, stage);
        }
        var (a, b) = (Inference.Of(once, EvidenceStage.CombustionGas), Inference.Of(often, EvidenceStage.CombustionGas));
        a.Cylinders.Zip(b.Cylinders).ShouldAllBe(x => x.First.SequenceEqual(x.Second));
        a.Engine.ShouldBe(b.Engine);
    }

    [Theory]
    [InlineData("petrol 6; dry 90 188; seen misfire", true)]
    [InlineData("petrol 6; leak 3 85 exhaust 3; seen misfire", true)]
    [InlineData("petrol 6; dry 190 188 131 191 150 189", false)]
    [InlineData("petrol 6; dry 190 188 131 191 150 189; seen misfire coolant-loss", false)]
    [InlineData("petrol 6 v 1-3-5/2-4-6; dry 190 188 131 191 150 189; seen misfire", false)]
    [InlineData("petrol 4; dry 190 188 131 191; seen misfire", false)]
    [InlineData("diesel 6; dry 420 418 300 421 420 419; seen misfire", false)]
    public void What_is_thought_before_any_reading_is_kept_whatever_is_read_and_for_no_other_engine_or_complaint(string other, bool same)
    {
        Posterior Before(string job)
        {
            using var read = new NodeLikelihoods(JobEvidence.Of(Whiteboard.Job(job)));
            return Inference.Of(read, EvidenceStage.Observations);
        }
        var before = Before("petrol 6; dry 190 188 131 191 150 189; seen misfire");
        ReferenceEquals(Before(other), before).ShouldBe(same);
        ReferenceEquals(Before("petrol 6; dry 190 188 131 191 150 189; seen misfire"), before).ShouldBeTrue("it is worked out once");
    }
}
