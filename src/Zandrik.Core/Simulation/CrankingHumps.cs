namespace Zandrik.Core.Simulation;

/// <summary>
/// How high the humps of the starter current stand over each cylinder of a simulated run, measured the plain way: for checking the
/// model against its table, not for judging engines (<see cref="RelativeCompression.RelativeAnalysis"/> does that). The first cycle and
/// a half is left out.
/// </summary>
/// <param name="CurrentPercent">Peak of the current before and after top dead centre over the mean of the minima about it, percent of the second-highest, by cylinder.</param>
/// <param name="TorquePercent">The same of the torque that the crank takes, which stays with its cylinder.</param>
public sealed record CrankingHumps(IReadOnlyList<double> CurrentPercent, IReadOnlyList<double> TorquePercent)
{
    private const double SettledRad = 1080 * Math.PI / 180;

    /// <summary>Measures a run.</summary>
    /// <param name="run">The run; a few cycles or more.</param>
    /// <param name="how">How it was cranked.</param>
    /// <returns>By cylinder; the second-highest has 100.</returns>
    public static CrankingHumps Of(CrankingRun run, Cranking how)
    {
        var e = run.Engine;
        var (angle, amps, time) = (run.CrankRad, run.CurrentA, run.TimeS);
        var speed = new double[angle.Count];
        for (var s = 1; s < speed.Length; s++)
        {
            speed[s] = (angle[s] - angle[s - 1]) / (time[s] - time[s - 1]);
        }
        double TorqueAt(int s) => e.Efficiency * e.MotorConstantVs * (amps[s] - e.IdleCurrentA)
            - e.InertiaKgM2 * (speed[Math.Min(s + 1, speed.Length - 1)] - speed[s - 1]) / (time[Math.Min(s + 1, speed.Length - 1)] - time[s - 1]) - e.FrictionNm * how.Friction * (how.Cold ? 1.9 : 1);

        var spacing = 4 * Math.PI / e.Cylinders;
        var (before, after) = (Math.Min(Math.PI / 3, 0.7 * spacing), Math.Min(40 * Math.PI / 180, 0.4 * spacing));
        var (current, torque) = (new double[e.Cylinders], new double[e.Cylinders]);
        var offsets = e.OffsetsRad();
        for (var c = 0; c < e.Cylinders; c++)
        {
            var cycles = 0;
            for (var tdc = offsets[c]; tdc + spacing < angle[^1]; tdc += 4 * Math.PI)
            {
                if (tdc - spacing < angle[0] + SettledRad)
                {
                    continue;
                }
                cycles++;
                current[c] += Most(amps, angle, tdc - before, tdc + after) - (Least(amps, angle, tdc - spacing, tdc) + Least(amps, angle, tdc, tdc + spacing)) / 2;
                torque[c] += Enumerable.Range(At(angle, tdc - 0.7 * spacing), At(angle, tdc) - At(angle, tdc - 0.7 * spacing)).Max(TorqueAt);
            }
            current[c] /= cycles;
            torque[c] /= cycles;
        }
        return new(AgainstSecond(current), AgainstSecond(torque));
    }

    private static double[] AgainstSecond(double[] heights)
    {
        var second = heights.OrderDescending().ElementAt(Math.Min(1, heights.Length - 1));
        return [.. heights.Select(h => 100 * h / second)];
    }

    private static int At(IReadOnlyList<double> angle, double rad)
    {
        var (low, high) = (0, angle.Count - 1);
        while (low < high)
        {
            var middle = (low + high) / 2;
            (low, high) = angle[middle] < rad ? (middle + 1, high) : (low, middle);
        }
        return low;
    }

    private static double Most(IReadOnlyList<double> of, IReadOnlyList<double> angle, double from, double to) => Enumerable.Range(At(angle, from), At(angle, to) - At(angle, from)).Max(s => of[s]);

    private static double Least(IReadOnlyList<double> of, IReadOnlyList<double> angle, double from, double to) => Enumerable.Range(At(angle, from), At(angle, to) - At(angle, from)).Min(s => of[s]);
}
