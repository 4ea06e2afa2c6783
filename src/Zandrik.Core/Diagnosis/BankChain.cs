namespace Zandrik.Core.Diagnosis;

/// <summary>
/// A bank as a chain of cylinders joined by webs of gasket. A web is whole or burnt at one of <see cref="SeverityNodes.WebSteps"/> severities, and the same severity must explain both its
/// cylinders: a low cylinder beside a normal one refutes it without a rule of its own. Sums over all states of all webs, forward and back.
/// </summary>
internal sealed class BankChain
{
    /// <summary>States of a web: whole, then the severities.</summary>
    public const int States = SeverityNodes.WebSteps + 1;

    private readonly int n;
    private readonly double[] prior;
    private readonly double[][] ahead;
    private readonly double[][] back;

    /// <summary>A chain.</summary>
    /// <param name="cylinders">Number of cylinders.</param>
    /// <param name="burnt">Prior probability that a web is burnt.</param>
    public BankChain(int cylinders, double burnt)
    {
        n = cylinders;
        prior = [1 - burnt, .. Enumerable.Repeat(burnt / SeverityNodes.WebSteps, SeverityNodes.WebSteps)];
        ahead = [.. Enumerable.Range(0, n + 1).Select(_ => new double[States])];
        back = [.. Enumerable.Range(0, n + 1).Select(_ => new double[States])];
    }

    /// <summary>Sums the chain.</summary>
    /// <param name="likelihood">Likelihood of a cylinder of the bank with its webs in two states, front and behind; scaled as its caller likes.</param>
    /// <param name="shares">For each cylinder: the share with both webs whole, with the front web burnt, with the one behind; both burnt is half each.</param>
    /// <returns>ln of the sum.</returns>
    public double Sum(double[][] likelihood, double[][] shares)
    {
        double log = 0;
        Array.Clear(ahead[0]);
        ahead[0][0] = 1;
        for (var i = 0; i < n; i++)
        {
            var (from, to, phi) = (ahead[i], ahead[i + 1], likelihood[i]);
            double most = 0;
            for (var r = 0; r < States; r++)
            {
                double sum = 0;
                if (i < n - 1 || r == 0)
                {
                    for (var l = 0; l < States; l++)
                    {
                        sum += from[l] * phi[l * States + r] * (l > 0 && r > 0 ? FaultOdds.BothWebs : 1);
                    }
                    sum *= i < n - 1 ? prior[r] : 1;
                }
                to[r] = sum;
                most = Math.Max(most, sum);
            }
            most = Math.Max(most, 1e-300);
            log += Math.Log(most);
            for (var r = 0; r < States; r++)
            {
                to[r] /= most;
            }
        }
        log += Math.Log(ahead[n][0] + 1e-300);
        Array.Clear(back[n]);
        back[n][0] = 1;
        for (var i = n - 1; i >= 0; i--)
        {
            var (from, to, phi) = (back[i + 1], back[i], likelihood[i]);
            double whole = 0, front = 0, behind = 0, most = 0;
            for (var l = 0; l < States; l++)
            {
                double sum = 0;
                for (var r = 0; r < States; r++)
                {
                    if (i == n - 1 && r > 0)
                    {
                        break;
                    }
                    var term = phi[l * States + r] * (l > 0 && r > 0 ? FaultOdds.BothWebs : 1) * (i < n - 1 ? prior[r] : 1) * from[r];
                    sum += term;
                    var mass = ahead[i][l] * term;
                    whole += l == 0 && r == 0 ? mass : 0;
                    front += l > 0 ? r > 0 ? mass / 2 : mass : 0;
                    behind += r > 0 ? l > 0 ? mass / 2 : mass : 0;
                }
                to[l] = sum;
                most = Math.Max(most, sum);
            }
            var all = whole + front + behind + 1e-300;
            (shares[i][0], shares[i][1], shares[i][2]) = (whole / all, front / all, behind / all);
            most = Math.Max(most, 1e-300);
            for (var l = 0; l < States; l++)
            {
                to[l] /= most;
            }
        }
        return log;
    }
}
