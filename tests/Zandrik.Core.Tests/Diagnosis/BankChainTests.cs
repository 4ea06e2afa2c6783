using CsCheck;
using Zandrik.Core.Diagnosis;

namespace Zandrik.Core.Tests.Diagnosis;

public sealed class BankChainTests
{
    private const int S = BankChain.States;

    // Every state of every web by hand: what the chain must come to.
    private static (double Sum, double[][] Shares) ByHand(double[][] phi, double burnt)
    {
        var n = phi.Length;
        double Prior(int state) => state == 0 ? 1 - burnt : burnt * SeverityNodes.WebWeights[state - 1];
        double all = 0;
        var shares = phi.Select(_ => new double[3]).ToArray();
        var count = (int)Math.Pow(S, n - 1);
        for (var code = 0; code < count; code++)
        {
            var webs = Enumerable.Range(0, n - 1).Select(i => code / (int)Math.Pow(S, i) % S).ToArray();
            var weight = webs.Aggregate(1.0, (w, s) => w * Prior(s));
            for (var i = 0; i < n; i++)
            {
                var (l, r) = (i > 0 ? webs[i - 1] : 0, i < n - 1 ? webs[i] : 0);
                weight *= phi[i][l * S + r];
            }
            all += weight;
            for (var i = 0; i < n; i++)
            {
                var (l, r) = (i > 0 && webs[i - 1] > 0, i < n - 1 && webs[i] > 0);
                shares[i][0] += !l && !r ? weight : 0;
                shares[i][1] += l ? r ? weight / 2 : weight : 0;
                shares[i][2] += r ? l ? weight / 2 : weight : 0;
            }
        }
        return (all, [.. shares.Select(s => s.Select(x => x / all).ToArray())]);
    }

    // Cylinders one after the other in rows of whole vectors, the likelihood with whole webs given beside: what stands in its place, or beyond the states, is not read.
    private static (double Log, double[][] Shares) Chain(double[][] phi, double burnt)
    {
        var n = phi.Length;
        double[] flat = [.. phi.SelectMany(p => Enumerable.Range(0, BankChain.Pairs).Select(k => k == 0 || k % BankChain.Stride >= S ? 7 : p[k / BankChain.Stride * S + k % BankChain.Stride]))], whole = [.. phi.Select(p => p[0])];
        int[] starts = [.. Enumerable.Range(0, n).Select(i => i * BankChain.Pairs)];
        var chain = new BankChain(n, burnt);
        var log = chain.Sum(flat, starts, whole);
        var shares = new (double Whole, double Front, double Behind)[n];
        chain.Shares(flat, starts, whole, shares);
        return (log, [.. shares.Select(s => new[] { s.Whole, s.Front, s.Behind })]);
    }

    [Fact]
    public void It_sums_what_every_state_of_every_web_sums_to() =>
        Gen.Select(Gen.Int[1, 4], Gen.Double[0.001, 0.2], Gen.Double[-12, 0].Array[4 * S * S]).Sample((n, burnt, logs) =>
        {
            var phi = Enumerable.Range(0, n).Select(i => Enumerable.Range(0, S * S).Select(k => Math.Exp(logs[i * S * S + k])).ToArray()).ToArray();
            var (log, shares) = Chain(phi, burnt);
            var (sum, byHand) = ByHand(phi, burnt);
            log.ShouldBe(Math.Log(sum), 1e-9);
            for (var i = 0; i < n; i++)
            {
                for (var j = 0; j < 3; j++)
                {
                    shares[i][j].ShouldBe(byHand[i][j], 1e-9);
                }
            }
        }, iter: 20);

    [Fact]
    public void The_ends_of_a_bank_have_no_web_outside()
    {
        var phi = Enumerable.Range(0, 3).Select(_ => Enumerable.Repeat(1.0, S * S).ToArray()).ToArray();
        var (_, shares) = Chain(phi, 0.1);
        (shares[0][1], shares[2][2]).ShouldBe((0, 0));
        shares.ShouldAllBe(s => Math.Abs(s.Sum() - 1) < 1e-12);
        shares[1][1].ShouldBe(shares[1][2], 1e-12);
    }
}
