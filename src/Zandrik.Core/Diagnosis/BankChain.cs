namespace Zandrik.Core.Diagnosis;

/// <summary>
/// A bank as a chain of cylinders joined by webs of gasket. A web is whole or burnt at one of <see cref="SeverityNodes.WebSteps"/> severities, and the same severity must explain both its
/// cylinders: a low cylinder beside a normal one refutes it without a rule of its own. Sums over all states of all webs, forward and back.
/// </summary>
internal sealed class BankChain
{
    /// <summary>States of a web: whole, then the severities.</summary>
    public const int States = SeverityNodes.WebSteps + 1;

    /// <summary>Pairs of states of a cylinder's two webs.</summary>
    public const int Pairs = States * States;

    private readonly int n;
    private readonly double[] prior;
    private readonly double[] ahead;

    /// <summary>A chain.</summary>
    /// <param name="cylinders">Number of cylinders.</param>
    /// <param name="burnt">Prior probability that a web is burnt.</param>
    public BankChain(int cylinders, double burnt)
    {
        n = cylinders;
        prior = [1 - burnt, .. Enumerable.Repeat(burnt / SeverityNodes.WebSteps, SeverityNodes.WebSteps)];
        ahead = new double[(n + 1) * States];
    }

    /// <summary>Sums the chain from front to back.</summary>
    /// <param name="likelihood">Likelihoods of each cylinder of the bank with its webs in two states, front and behind, one after the other; scaled as its caller likes.</param>
    /// <param name="starts">Where those of each cylinder start.</param>
    /// <param name="whole">The likelihood with both webs whole, used in place of the first of each.</param>
    /// <returns>ln of the sum.</returns>
    public double Sum(ReadOnlySpan<double> likelihood, ReadOnlySpan<int> starts, ReadOnlySpan<double> whole)
    {
        double log = 0;
        Span<double> to = stackalloc double[States];
        Array.Clear(ahead);
        ahead[0] = 1;
        for (var i = 0; i < n; i++)
        {
            var from = ahead.AsSpan(i * States, States);
            var phi = likelihood.Slice(starts[i], Pairs);
            to.Clear();
            // The ends of a bank have no web outside.
            var (fronts, behinds) = (i == 0 ? 1 : States, i == n - 1 ? 1 : States);
            for (var l = 0; l < fronts; l++)
            {
                var at = from[l];
                var row = phi.Slice(l * States, behinds);
                for (var r = 0; r < row.Length; r++)
                {
                    to[r] += at * row[r];
                }
            }
            to[0] += from[0] * (whole[i] - phi[0]);
            double most = 1e-300;
            for (var r = 0; r < behinds; r++)
            {
                to[r] *= i < n - 1 ? prior[r] : 1;
                most = Math.Max(most, to[r]);
            }
            log += Math.Log(most);
            var next = ahead.AsSpan((i + 1) * States, States);
            for (var r = 0; r < States; r++)
            {
                next[r] = to[r] / most;
            }
        }
        return log + Math.Log(ahead[n * States] + 1e-300);
    }

    /// <summary>After <see cref="Sum"/> of the same likelihoods: how the webs of each cylinder stand.</summary>
    /// <param name="likelihood">As there.</param>
    /// <param name="starts">As there.</param>
    /// <param name="whole">As there.</param>
    /// <param name="shares">For each cylinder: the share with both webs whole, with the front web burnt, with the one behind; both burnt is half each.</param>
    public void Shares(ReadOnlySpan<double> likelihood, ReadOnlySpan<int> starts, ReadOnlySpan<double> whole, Span<(double Whole, double Front, double Behind)> shares)
    {
        Span<double> from = stackalloc double[States], to = stackalloc double[States], weighted = stackalloc double[States];
        from.Clear();
        from[0] = 1;
        for (var i = n - 1; i >= 0; i--)
        {
            var phi = likelihood.Slice(starts[i], Pairs);
            var (fronts, behinds) = (i == 0 ? 1 : States, i == n - 1 ? 1 : States);
            for (var r = 0; r < behinds; r++)
            {
                weighted[r] = from[r] * (i < n - 1 ? prior[r] : 1);
            }
            double sound = 0, front = 0, behind = 0, most = 1e-300;
            to.Clear();
            for (var l = 0; l < fronts; l++)
            {
                var row = phi.Slice(l * States, behinds);
                var here = weighted[0] * (l == 0 ? whole[i] : row[0]);
                double burnt = 0;
                for (var r = 1; r < row.Length; r++)
                {
                    burnt += weighted[r] * row[r];
                }
                var at = ahead[i * States + l];
                if (l == 0)
                {
                    (sound, behind) = (sound + at * here, behind + at * burnt);
                }
                else
                {
                    (front, behind) = (front + at * (here + burnt / 2), behind + at * burnt / 2);
                }
                to[l] = here + burnt;
                most = Math.Max(most, to[l]);
            }
            var all = sound + front + behind + 1e-300;
            shares[i] = (sound / all, front / all, behind / all);
            for (var l = 0; l < States; l++)
            {
                from[l] = to[l] / most;
            }
        }
    }
}
