using MathNet.Numerics.LinearAlgebra;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.AirPaths;

/// <summary>
/// Where the air of each cylinder goes: the leak areas that explain all readings of a job best, with their uncertainty. For each cylinder and web the ways it may leak are tried one after the other, each
/// with the areas that fit best (Levenberg–Marquardt on the logarithms), and weighed by how well they explain and how common they are; the areas that are given are over all of them. It explains the
/// readings; it does not replace the judgement. Deterministic.
/// </summary>
public sealed record AirFit
{
    private const int Rounds = 3, MostSteps = 40;
    private const double Tenth = 1.2816;

    /// <summary>The cylinders in order.</summary>
    public required IReadOnlyList<FittedCylinder> Cylinders { get; init; }

    /// <summary>Every reading beside what the model reads with these areas.</summary>
    public required IReadOnlyList<FittedReading> Readings { get; init; }

    /// <summary>What a sound cylinder of this engine reads dry, psi, as the readings have it.</summary>
    public required double SoundPsi { get; init; }

    /// <summary>What leaks make of readings of such an engine.</summary>
    public required EngineResponse Response { get; init; }

    // Ways a cylinder may be by itself: what is open of it, and the fault whose base rate it has.
    private static readonly (int[] Open, Fault[] Faults)[] Ways =
    [
        ([], [Fault.Sound]), ([AirProblem.MoreRings], [Fault.Rings, Fault.FuelWashed]), ([AirProblem.Crown], [Fault.Piston]), ([AirProblem.MoreIntake], [Fault.IntakeValve]), ([AirProblem.MoreExhaust], [Fault.ExhaustValve]),
        ([AirProblem.Coolant], [Fault.GasketCoolant]), ([AirProblem.Shift], [Fault.IntakeNotOpening, Fault.ExhaustNotOpening, Fault.ShortStroke, Fault.Carbon, Fault.TestError]),
        ([AirProblem.MoreRings, AirProblem.MoreIntake], []), ([AirProblem.MoreRings, AirProblem.MoreExhaust], []), ([AirProblem.MoreIntake, AirProblem.MoreExhaust], []),
    ];

    // Two leaks in one cylinder are seldom; so is a second way beside a burnt web.
    private const double OddsOfTwo = 0.002;

    /// <summary>True where a job has what it needs: readings of two kinds of test.</summary>
    /// <param name="job">The job.</param>
    /// <returns>False for a job without readings, or with those of one kind.</returns>
    public static bool CanFit(JobEvidence job) => new[]
    {
        job.Cylinders.Any(c => c.LnDry is not null), job.Cylinders.Any(c => c.LnWet is not null), job.Cylinders.Any(c => c.Leak?.LnRatio is not null), job.Cylinders.Any(c => c.Relative is not null),
        job.Cylinders.Any(c => c.LnIdle is not null || c.LnSnap is not null),
    }.Count(kind => kind) >= 2;

    /// <summary>Fits a job.</summary>
    /// <param name="job">The evidence of a job that <see cref="CanFit"/>.</param>
    /// <returns>The areas.</returns>
    public static AirFit Of(JobEvidence job) => new Search(new AirProblem(job, EngineResponse.Of(job.Engine)), job.Diesel).Run();

    private sealed class Search(AirProblem problem, bool diesel)
    {
        private readonly double[] x = [.. problem.Start];
        private readonly bool[] open = Usually(problem);
        private readonly double[] spread = [.. problem.Spread];

        // What is always thought of: the job, and of each cylinder its sound leaks and a small shift.
        private static bool[] Usually(AirProblem of)
        {
            var open = new bool[of.Count];
            Array.Fill(open, true, 0, AirProblem.Globals);
            for (var c = 0; c < of.Cylinders; c++)
            {
                Array.Fill(open, true, AirProblem.At(c, 0), AirProblem.Shift + 1);
            }
            return open;
        }

        public AirFit Run()
        {
            var all = Enumerable.Range(0, problem.Cylinders).ToArray();
            for (var round = 0; round < Rounds; round++)
            {
                foreach (var c in all)
                {
                    Best(c);
                }
                for (var w = 0; w < problem.Webs.Count; w++)
                {
                    TryWeb(w);
                }
                Fit(Active(all, globals: true), all);
            }
            var whole = Fit(Active(all, globals: true), all);
            var order = whole.Active.Select((p, i) => (p, i)).ToDictionary(p => p.p, p => p.i);
            var covariance = whole.Normal.Cholesky().Solve(Matrix<double>.Build.DenseIdentity(whole.Active.Length));
            var globals = covariance.SubMatrix(0, AirProblem.Globals, 0, AirProblem.Globals);
            var readings = all.SelectMany(c => problem.Compared(c, x, open)).OrderBy(r => r.Reading).ThenBy(r => r.Cylinder).ToList();
            var cylinders = all.Select(c => Answer(c, globals, p => covariance[order[p], order[p]])).ToList();
            return new() { Cylinders = cylinders, Readings = readings, SoundPsi = Math.Exp(x[AirProblem.Level]), Response = problem.Response };
        }

        private int[] Active(IReadOnlyList<int> cylinders, bool globals) =>
        [
            .. globals ? Enumerable.Range(0, AirProblem.Globals) : [],
            .. cylinders.SelectMany(c => Enumerable.Range(AirProblem.At(c, 0), AirProblem.Each)).Where(p => open[p]),
            .. Enumerable.Range(0, problem.Webs.Count).Where(w => open[problem.Web(w)] && cylinders.Contains(problem.Webs[w].First) && cylinders.Contains(problem.Webs[w].Second)).Select(problem.Web),
        ];

        // Takes a way: what is open of it begins where it usually is.
        private void Take(int c, int way)
        {
            for (var i = AirProblem.Shift; i < AirProblem.Each; i++)
            {
                var (p, now) = (AirProblem.At(c, i), Ways[way].Open.Contains(i));
                if (i == AirProblem.Shift)
                {
                    spread[p] = now ? AirProblem.ShiftOtherwise : problem.Spread[p];
                    x[p] = 0;
                    continue;
                }
                (open[p], x[p]) = (now, problem.Mean[p]);
            }
            for (var i = 0; i < AirProblem.Shift; i++)
            {
                x[AirProblem.At(c, i)] = problem.Mean[AirProblem.At(c, i)];
            }
        }

        private double Odds(int c, int way)
        {
            var beside = BurntBeside(c) && way > 0 ? 0.2 : 1;
            return beside * (Ways[way].Faults.Length == 0 ? OddsOfTwo : Ways[way].Faults.Sum(f => FaultOdds.Of(f, diesel)));
        }

        private bool BurntBeside(int c) => Enumerable.Range(0, problem.Webs.Count).Any(w => open[problem.Web(w)] && (problem.Webs[w].First == c || problem.Webs[w].Second == c));

        // ln of how well the open ways of some cylinders explain their readings, over all areas they may have.
        private double Evidence(IReadOnlyList<int> cylinders)
        {
            var fit = Fit(Active(cylinders, globals: false), cylinders);
            return -0.5 * fit.Off - 0.5 * fit.LnDeterminant - fit.Active.Sum(p => Math.Log(spread[p]));
        }

        private double Best(int c)
        {
            int[] one = [c];
            var (best, most, at) = (0, double.NegativeInfinity, x);
            for (var way = 0; way < Ways.Length; way++)
            {
                Take(c, way);
                var found = Evidence(one) + Math.Log(Odds(c, way));
                if (found > most)
                {
                    (best, most, at) = (way, found, [.. x]);
                }
            }
            Take(c, best);
            at.CopyTo(x, 0);
            return most;
        }

        // A web is burnt where that explains the two beside it better than what each may be by itself. Both webs of a cylinder go together.
        private void TryWeb(int web)
        {
            var (first, second) = problem.Webs[web];
            int[] both = [first, second];
            var p = problem.Web(web);
            open[p] = false;
            var closed = Best(first) + Best(second);
            var (before, wasOpen, wasSpread) = ((double[])x.Clone(), (bool[])open.Clone(), (double[])spread.Clone());
            var odds = FaultOdds.Of(Fault.GasketAdjacent, diesel) * (BurntBeside(first) || BurntBeside(second) ? FaultOdds.BothWebs : 1);
            (open[p], x[p]) = (true, problem.Mean[p]);
            Take(first, 0);
            Take(second, 0);
            if (Evidence(both) + Math.Log(odds) > closed)
            {
                return;
            }
            before.CopyTo(x, 0);
            wasOpen.CopyTo(open, 0);
            wasSpread.CopyTo(spread, 0);
            open[p] = false;
        }

        private sealed record Found(int[] Active, double Off, Matrix<double> Normal, double LnDeterminant, double[,] Slopes);

        // Levenberg–Marquardt over some unknowns, all others held; unknowns are held to what they are before any reading.
        private Found Fit(int[] active, IReadOnlyList<int> cylinders)
        {
            var rows = cylinders.Count * AirProblem.Distances;
            var (off, tried, slopes) = (new double[rows], new double[rows], new double[rows, active.Length]);
            var (damping, now) = (1e-2, Distances(cylinders, off) + Held(active));
            var normal = Matrix<double>.Build.Dense(active.Length, active.Length);
            var right = Vector<double>.Build.Dense(active.Length);
            for (var step = 0; step < MostSteps; step++)
            {
                Slopes(active, cylinders, off, slopes);
                Normal(active, off, slopes, normal, right);
                var better = false;
                while (damping < 1e8)
                {
                    var damped = normal.Clone();
                    for (var i = 0; i < active.Length; i++)
                    {
                        damped[i, i] *= 1 + damping;
                    }
                    var by = damped.Cholesky().Solve(right);
                    var before = active.Select(p => x[p]).ToArray();
                    for (var i = 0; i < active.Length; i++)
                    {
                        // No further in one step than the logarithms stay near what was seen.
                        x[active[i]] += Math.Clamp(by[i], -1.5, 1.5);
                    }
                    var then = Distances(cylinders, tried) + Held(active);
                    if (then < now)
                    {
                        better = now - then > 1e-6 * (1 + now);
                        (now, damping) = (then, damping / 5);
                        tried.CopyTo(off, 0);
                        break;
                    }
                    for (var i = 0; i < active.Length; i++)
                    {
                        x[active[i]] = before[i];
                    }
                    damping *= 6;
                }
                if (!better)
                {
                    break;
                }
            }
            Slopes(active, cylinders, off, slopes);
            Normal(active, off, slopes, normal, right);
            return new(active, now, normal, normal.Cholesky().DeterminantLn, slopes);
        }

        private double Distances(IReadOnlyList<int> cylinders, double[] into)
        {
            for (var i = 0; i < cylinders.Count; i++)
            {
                problem.Residuals(cylinders[i], x, open, into.AsSpan(i * AirProblem.Distances, AirProblem.Distances));
            }
            double sum = 0;
            foreach (var r in into)
            {
                sum += r * r;
            }
            return sum;
        }

        private double Held(int[] active)
        {
            double sum = 0;
            foreach (var p in active)
            {
                sum += Math.Pow((x[p] - problem.Mean[p]) / spread[p], 2);
            }
            return sum;
        }

        private void Slopes(int[] active, IReadOnlyList<int> cylinders, double[] off, double[,] into)
        {
            const double Step = 1e-4;
            Span<double> moved = stackalloc double[AirProblem.Distances];
            for (var i = 0; i < active.Length; i++)
            {
                var p = active[i];
                var was = x[p];
                x[p] = was + Step;
                for (var k = 0; k < cylinders.Count; k++)
                {
                    var touches = Touches(p, cylinders[k]);
                    if (touches)
                    {
                        problem.Residuals(cylinders[k], x, open, moved);
                    }
                    for (var r = 0; r < AirProblem.Distances; r++)
                    {
                        var row = k * AirProblem.Distances + r;
                        into[row, i] = touches ? (moved[r] - off[row]) / Step : 0;
                    }
                }
                x[p] = was;
            }
        }

        private bool Touches(int p, int c)
        {
            if (p < AirProblem.Globals)
            {
                return true;
            }
            var web = p - problem.Web(0);
            return web < 0 ? (p - AirProblem.Globals) / AirProblem.Each == c : problem.Webs[web].First == c || problem.Webs[web].Second == c;
        }

        private void Normal(int[] active, double[] off, double[,] slopes, Matrix<double> normal, Vector<double> right)
        {
            for (var i = 0; i < active.Length; i++)
            {
                for (var j = 0; j <= i; j++)
                {
                    double sum = 0;
                    for (var r = 0; r < off.Length; r++)
                    {
                        sum += slopes[r, i] * slopes[r, j];
                    }
                    normal[i, j] = normal[j, i] = sum;
                }
                double against = 0;
                for (var r = 0; r < off.Length; r++)
                {
                    against -= slopes[r, i] * off[r];
                }
                var held = 1 / (spread[active[i]] * spread[active[i]]);
                normal[i, i] += held;
                right[i] = against - held * (x[active[i]] - problem.Mean[active[i]]);
            }
        }

        // The ways of a cylinder, each with its areas, weighed.
        private FittedCylinder Answer(int c, Matrix<double> globals, Func<int, double> variance)
        {
            var (before, wasOpen, wasSpread) = ((double[])x.Clone(), (bool[])open.Clone(), (double[])spread.Clone());
            int[] one = [c];
            var ways = new List<(double Ln, bool Shifted, (double Ln, double Spread, bool Open)[] Paths)>();
            for (var way = 0; way < Ways.Length; way++)
            {
                Take(c, way);
                var fit = Fit(Active(one, globals: false), one);
                var ln = -0.5 * fit.Off - 0.5 * fit.LnDeterminant - fit.Active.Sum(p => Math.Log(spread[p])) + Math.Log(Odds(c, way));
                ways.Add((ln, Ways[way].Open.Contains(AirProblem.Shift), Paths(c, fit, globals)));
            }
            before.CopyTo(x, 0);
            wasOpen.CopyTo(open, 0);
            wasSpread.CopyTo(spread, 0);
            var most = ways.Max(w => w.Ln);
            var weights = ways.Select(w => Math.Exp(w.Ln - most)).ToArray();
            var whole = weights.Sum();
            var paths = new List<PathArea>();
            // The middle of the ways that have it open.
            double IfOpen(int k)
            {
                var some = ways.Select((w, i) => (Weight: weights[i], Path: w.Paths[k])).Where(w => w.Path.Open).ToList();
                return some.Sum(w => w.Weight) is var of and > 0 ? Math.Exp(some.Sum(w => w.Weight * w.Path.Ln) / of) : 0;
            }
            LeakPlace[] kinds = [LeakPlace.Rings, LeakPlace.Crown, LeakPlace.Intake, LeakPlace.Exhaust, LeakPlace.Coolant];
            for (var k = 0; k < kinds.Length; k++)
            {
                var mixed = ways.Select((w, i) => (Weight: weights[i] / whole, w.Paths[k].Ln, w.Paths[k].Spread)).ToList();
                var isOpen = ways.Select((w, i) => w.Paths[k].Open ? weights[i] / whole : 0).Sum();
                var usual = kinds[k] switch { LeakPlace.Rings => Math.Exp(problem.Mean[AirProblem.At(c, AirProblem.Rings)]), LeakPlace.Intake or LeakPlace.Exhaust => Math.Exp(problem.Mean[AirProblem.At(c, AirProblem.Intake)]), _ => 0 };
                if (kinds[k] != LeakPlace.Crown || isOpen > 0.1)
                {
                    paths.Add(new(kinds[k], null, Quantile(mixed, 0.5), Quantile(mixed, 0.1), Quantile(mixed, 0.9), usual, isOpen, IfOpen(k)));
                }
            }
            for (var w = 0; w < problem.Webs.Count; w++)
            {
                var (first, second) = problem.Webs[w];
                if (open[problem.Web(w)] && (first == c || second == c))
                {
                    var (ln, sd) = (x[problem.Web(w)], Math.Sqrt(variance(problem.Web(w))));
                    paths.Add(new(LeakPlace.Neighbour, (first == c ? second : first) + 1, Math.Exp(ln), Math.Exp(ln - Tenth * sd), Math.Exp(ln + Tenth * sd), 0, 1));
                }
            }
            var leaks = BurntBeside(c) ? 1 : ways.Select((w, i) => w.Paths.Any(p => p.Open) ? weights[i] / whole : 0).Sum();
            return new(c + 1, paths, ways.Select((w, i) => w.Shifted ? weights[i] / whole : 0).Sum(), leaks);
        }

        // ln of each path's area and how far it may be off, with what the job's own unknowns add.
        private (double Ln, double Spread, bool Open)[] Paths(int c, Found fit, Matrix<double> globals)
        {
            var n = fit.Active.Length;
            var inverse = fit.Normal.Cholesky().Solve(Matrix<double>.Build.DenseIdentity(n));
            // How the best areas move with the job's unknowns, these held elsewhere.
            var by = new double[AirProblem.Distances, AirProblem.Globals];
            var off = new double[AirProblem.Distances];
            problem.Residuals(c, x, open, off);
            Slopes([.. Enumerable.Range(0, AirProblem.Globals)], [c], off, by);
            var cross = Matrix<double>.Build.Dense(n, AirProblem.Globals, (i, g) => Enumerable.Range(0, AirProblem.Distances).Sum(r => fit.Slopes[r, i] * by[r, g]));
            var moves = inverse * cross;
            var covariance = inverse + moves * globals * moves.Transpose();
            (int? Sound, int More)[] of = [(AirProblem.Rings, AirProblem.MoreRings), (null, AirProblem.Crown), (AirProblem.Intake, AirProblem.MoreIntake), (AirProblem.Exhaust, AirProblem.MoreExhaust), (null, AirProblem.Coolant)];
            return [.. of.Select(o =>
            {
                List<(int At, double Area)> parts = [.. new[] { o.Sound, o.More }.OfType<int>().Select(i => AirProblem.At(c, i)).Where(p => open[p]).Select(p => (Array.IndexOf(fit.Active, p), Math.Exp(x[p])))];
                var area = parts.Sum(p => p.Area);
                if (area <= 0)
                {
                    return (Math.Log(Nothing), 0.01, false);
                }
                double variance = 0;
                foreach (var a in parts)
                {
                    foreach (var b in parts)
                    {
                        variance += a.Area / area * (b.Area / area) * covariance[a.At, b.At];
                    }
                }
                return (Math.Log(area), Math.Sqrt(variance), open[AirProblem.At(c, o.More)]);
            })];
        }

        // So little that nobody finds it, mm².
        private const double Nothing = 1e-4;

        private static double Quantile(List<(double Weight, double Ln, double Spread)> of, double share)
        {
            var (low, high) = (of.Min(o => o.Ln - 8 * o.Spread), of.Max(o => o.Ln + 8 * o.Spread));
            for (var i = 0; i < 60; i++)
            {
                var middle = (low + high) / 2;
                var below = of.Sum(o => o.Weight * 0.5 * MathNet.Numerics.SpecialFunctions.Erfc(-(middle - o.Ln) / (o.Spread * Math.Sqrt(2))));
                (low, high) = below < share ? (middle, high) : (low, middle);
            }
            return Math.Exp((low + high) / 2) <= 1.1 * Nothing ? 0 : Math.Exp((low + high) / 2);
        }
    }
}
