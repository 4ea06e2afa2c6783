using System.Runtime.Intrinsics;

namespace Zandrik.Core.Diagnosis;

/// <summary>
/// A bank as a chain of cylinders joined by webs of gasket. A web is whole or burnt at one of <see cref="SeverityNodes.WebSteps"/> severities, and the same severity must explain both its
/// cylinders: a low cylinder beside a normal one refutes it without a rule of its own. Sums over all states of all webs, forward and back.
/// </summary>
internal sealed class BankChain
{
    /// <summary>States of a web: whole, then the severities.</summary>
    public const int States = SeverityNodes.WebSteps + 1;

    /// <summary>Length of a row of states: whole vectors, the last places of no account.</summary>
    public const int Stride = (States + 3) / 4 * 4;

    /// <summary>Pairs of states of a cylinder's two webs: a row of those behind for each one in front.</summary>
    public const int Pairs = States * Stride;

    // Beyond this a product is carried on as a logarithm.
    private const double Small = 1e-200;

    private readonly int n;
    private readonly Vector256<double>[] prior = new Vector256<double>[Stride / 4];
    private readonly double[] ahead;

    /// <summary>A chain.</summary>
    /// <param name="cylinders">Number of cylinders.</param>
    /// <param name="burnt">Prior probability that a web is burnt.</param>
    public BankChain(int cylinders, double burnt)
    {
        n = cylinders;
        double[] states = [1 - burnt, .. SeverityNodes.WebWeights.Select(w => burnt * w), .. Enumerable.Repeat(0.0, Stride - States)];
        for (var v = 0; v < prior.Length; v++)
        {
            prior[v] = Vector256.Create(states, 4 * v);
        }
        ahead = new double[(n + 1) * Stride];
    }

    /// <summary>Sums the chain from front to back.</summary>
    /// <param name="likelihood">Likelihoods of each cylinder of the bank with its webs in two states, front and behind, one after the other; places beyond <see cref="States"/> are finite.</param>
    /// <param name="starts">Where those of each cylinder start.</param>
    /// <param name="whole">The likelihood with both webs whole, used in place of the first of each.</param>
    /// <returns>ln of the sum.</returns>
    public double Sum(ReadOnlySpan<double> likelihood, ReadOnlySpan<int> starts, ReadOnlySpan<double> whole)
    {
        double log = 0, scale = 1;
        ahead.AsSpan(0, Stride).Clear();
        ahead[0] = 1;
        for (var i = 0; i < n; i++)
        {
            var phi = likelihood.Slice(starts[i], Pairs);
            var from = ahead.AsSpan(i * Stride, Stride);
            var (a, b, c) = (Vector256<double>.Zero, Vector256<double>.Zero, Vector256<double>.Zero);
            // The ends of a bank have no web outside.
            var fronts = i == 0 ? 1 : States;
            for (var l = 0; l < fronts; l++)
            {
                var at = Vector256.Create(from[l]);
                var row = phi.Slice(l * Stride, Stride);
                a = Vector256.FusedMultiplyAdd(at, Vector256.Create(row), a);
                b = Vector256.FusedMultiplyAdd(at, Vector256.Create(row[4..]), b);
                c = Vector256.FusedMultiplyAdd(at, Vector256.Create(row[8..]), c);
            }
            a += Vector256.CreateScalar(from[0] * (whole[i] - phi[0]));
            (a, b, c) = i < n - 1 ? (a * prior[0], b * prior[1], c * prior[2]) : (Vector256.CreateScalar(a[0]), Vector256<double>.Zero, Vector256<double>.Zero);
            var most = Math.Max(1e-300, Greatest(a, b, c));
            var next = ahead.AsSpan((i + 1) * Stride, Stride);
            var one = Vector256.Create(1 / most);
            (a * one).CopyTo(next);
            (b * one).CopyTo(next[4..]);
            (c * one).CopyTo(next[8..]);
            scale *= most;
            if (scale < Small)
            {
                log += Math.Log(scale);
                scale = 1;
            }
        }
        return log + Math.Log(scale);
    }

    private static double Greatest(Vector256<double> a, Vector256<double> b, Vector256<double> c)
    {
        var most = Vector256.Max(Vector256.Max(a, b), c);
        var half = Vector128.Max(most.GetLower(), most.GetUpper());
        return Math.Max(half[0], half[1]);
    }

    /// <summary>After <see cref="Sum"/> of the same likelihoods: how the webs of each cylinder stand.</summary>
    /// <param name="likelihood">As there.</param>
    /// <param name="starts">As there.</param>
    /// <param name="whole">As there.</param>
    /// <param name="shares">For each cylinder: the share with both webs whole, with the front web burnt, with the one behind; both burnt is half each.</param>
    public void Shares(ReadOnlySpan<double> likelihood, ReadOnlySpan<int> starts, ReadOnlySpan<double> whole, Span<(double Whole, double Front, double Behind)> shares)
    {
        Span<double> back = stackalloc double[Stride];
        var (a, b, c) = (Vector256.CreateScalar(1.0), Vector256<double>.Zero, Vector256<double>.Zero);
        for (var i = n - 1; i >= 0; i--)
        {
            var phi = likelihood.Slice(starts[i], Pairs);
            var fronts = i == 0 ? 1 : States;
            if (i < n - 1)
            {
                (a, b, c) = (a * prior[0], b * prior[1], c * prior[2]);
            }
            double sound = 0, front = 0, behind = 0, most = 1e-300;
            back.Clear();
            for (var l = 0; l < fronts; l++)
            {
                var row = phi.Slice(l * Stride, Stride);
                var here = a[0] * (l == 0 ? whole[i] : row[0]);
                var burnt = Vector256.Sum(a.WithElement(0, 0) * Vector256.Create(row) + b * Vector256.Create(row[4..]) + c * Vector256.Create(row[8..]));
                var at = ahead[i * Stride + l];
                if (l == 0)
                {
                    (sound, behind) = (at * here, at * burnt);
                }
                else
                {
                    (front, behind) = (front + at * (here + burnt / 2), behind + at * burnt / 2);
                }
                back[l] = here + burnt;
                most = Math.Max(most, back[l]);
            }
            var all = sound + front + behind + 1e-300;
            shares[i] = (sound / all, front / all, behind / all);
            var one = Vector256.Create(1 / most);
            (a, b, c) = (Vector256.Create<double>(back) * one, Vector256.Create<double>(back[4..]) * one, Vector256.Create<double>(back[8..]) * one);
        }
    }
}
