using System.Globalization;
using System.Text;
using Zandrik.Core.Calibration;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Verdicts;

namespace Zandrik.Benchmarks.Accuracy;

/// <summary>
/// The judge in worlds of the crank-angle model: the one its table was estimated from, one with constants off, one whose losses are shaped otherwise, one of rough shops. Beside it the judge with what
/// stood by hand before, and the best that could be known. Writes docs/diagnosis-worlds.md.
/// </summary>
internal static class WorldStudy
{
    private const string Stages = "acd";
    private const double Moderate = 1.0 / 3;

    private static readonly Fault[] Leaks = [Fault.Rings, Fault.Piston, Fault.IntakeValve, Fault.ExhaustValve, Fault.GasketAdjacent, Fault.GasketCoolant];

    private sealed class Tally
    {
        public int Cylinders, Right, Faulty, FaultyRight, Sound, Accused, Leaking, LeakingRight;
        public double Brier;
        public readonly double[] Said = new double[10];
        public readonly int[] Happened = new int[10], Cases = new int[10];
        public readonly Dictionary<Fault, (int All, int Right)> Of = [];

        public void Count(Fault truth, double severity, Fault leading)
        {
            (Cylinders, Right) = (Cylinders + 1, Right + (leading == truth ? 1 : 0));
            var (all, right) = Of.GetValueOrDefault(truth);
            Of[truth] = (all + 1, right + (leading == truth ? 1 : 0));
            if (truth == Fault.Sound)
            {
                (Sound, Accused) = (Sound + 1, Accused + (leading is Fault.Sound or Fault.TestError ? 0 : 1));
                return;
            }
            (Faulty, FaultyRight) = (Faulty + 1, FaultyRight + (leading == truth ? 1 : 0));
            if (Leaks.Contains(truth) && severity >= Moderate)
            {
                (Leaking, LeakingRight) = (Leaking + 1, LeakingRight + (leading == truth ? 1 : 0));
            }
        }

        public void Believe(CylinderDiagnosis c, Fault truth)
        {
            foreach (var f in VerdictAnswer.OfCylinder)
            {
                var p = c.Of(f);
                Brier += (p - (f == truth ? 1 : 0)) * (p - (f == truth ? 1 : 0));
                if (p > 0.005)
                {
                    var d = Math.Min(9, (int)(10 * p));
                    (Said[d], Cases[d], Happened[d]) = (Said[d] + p, Cases[d] + 1, Happened[d] + (f == truth ? 1 : 0));
                }
            }
        }

        public IEnumerable<string> Off => Enumerable.Range(0, 10).Where(d => Cases[d] >= 50 && Math.Abs(Said[d] - Happened[d]) / Cases[d] > 0.06).Select(d => string.Create(CultureInfo.InvariantCulture, $"{Said[d] / Cases[d]:.00}→{(double)Happened[d] / Cases[d]:.00} ({Cases[d]})"));
    }

    private sealed record Judged(ModelledEngine Engine, EngineDiagnosis[] Before, EngineDiagnosis[] After, Fault[][]? Best);

    public static void Run(int engines, int seed, string library, string? page)
    {
        var samples = Directory.EnumerateFiles(library, "*.csv").Order(StringComparer.Ordinal).SelectMany(File.ReadLines).Select(CalibrationSample.Parse).ToList();
        var reference = new ReferenceJudge(samples);
        var text = new StringBuilder();
        var table = LikelihoodEstimates.CheckedIn;
        text.Append(CultureInfo.InvariantCulture, $"""
            # The judge in other worlds

            Made by `benchmarks/diagnosis-worlds {engines} {seed}`. Engines are drawn about the invented ones and turned by the crank-angle model: every gauge, leak-down and running reading is the model's own, with a shop's noise on it
            ([simulation.md](simulation.md)). 72 in a hundred have a fault drawn by the base rates, one in eight of those a second one. {engines} engines in each world, the same ones but for what is off:

            - **(a)** the model from which the table was estimated ({table.Engines} other engines, seed {table.Seed}); readings 2.2 %, ear 4 dB and 3 % blunders, figures off by 3 %;
            - **(b)** its constants off: wall heat by up to 30 %, valves that close up to 8° early or late, leaks that grow by up to 6 % a bar, up to 3 kPa in the crankcase, hoses half to twice as large, a needle that reads up to 2 % short;
            - **(c)** losses shaped otherwise: half of all leaks past rings and seats open only above 5 bar, the others grow by up to 15 % a bar; series-wound starters;
            - **(d)** rough shops: readings 4 %, figures off by 6 %, ear 6 dB and 8 % blunders, half the conditions not noted, three places in ten not listened at.

            Readings: (a) dry · (c) dry, and leak-down with listening on the odd ones · (d) dry, wet and leak-down on all, and running on petrol engines. *Before*: what stood by hand. *After*: with the estimates of
            [likelihood-table.md](likelihood-table.md). *Best*: a reference judge that knows the drawn engines themselves, the sound level and every noise (`ReferenceJudge`), in world (a). *Leaks*: those that are moderate or worse. *Accused*: sound
            cylinders whose leading answer is neither sound nor a slip of the test.

            | world | readings | right, all: before / after / best | right, faulty: before / after / best | leaks right: before / after / best | accused: before / after / best | Brier: before / after |
            |---|---|---|---|---|---|---|

            """);
        var told = new StringBuilder();
        foreach (var world in ModelWorld.All)
        {
            var ideal = world == ModelWorld.All[0];
            var all = new Judged[engines];
            var done = 0;
            Parallel.For(0, engines, new ParallelOptions { MaxDegreeOfParallelism = Environment.ProcessorCount }, i =>
            {
                var engine = ModelledEngine.Draw(seed + i, world);
                var records = Stages.Select(engine.Record).ToArray();
                EngineDiagnosis Said(TestRecord r, LikelihoodEstimates estimates) => EngineDiagnosis.Of(JudgedTests.Of(r, null, estimates), Core.Safety.JobSafety.Of(r), ledger: false);
                all[i] = new(engine, [.. records.Select(r => Said(r, LikelihoodEstimates.None))], [.. records.Select(r => Said(r, table))],
                    ideal ? [.. records.Select(r => Enumerable.Range(1, engine.Cylinders).Select(c => reference.Leading(r, engine, c)).ToArray())] : null);
                if (Interlocked.Increment(ref done) % 50 == 0)
                {
                    Console.Error.Write($"\r{world.Name}: {done} of {engines}   ");
                }
            });
            Console.Error.WriteLine();
            for (var s = 0; s < Stages.Length; s++)
            {
                var (before, after, best) = (new Tally(), new Tally(), new Tally());
                var (petrol, diesel) = (new Tally(), new Tally());
                foreach (var j in all)
                {
                    for (var c = 1; c <= j.Engine.Cylinders; c++)
                    {
                        var (truth, severity) = (j.Engine.Truth(c), j.Engine.SeverityOf(c));
                        before.Count(truth, severity, j.Before[s].Cylinders[c - 1].Leading.Fault);
                        before.Believe(j.Before[s].Cylinders[c - 1], truth);
                        after.Count(truth, severity, j.After[s].Cylinders[c - 1].Leading.Fault);
                        after.Believe(j.After[s].Cylinders[c - 1], truth);
                        if (j.Best is { } known)
                        {
                            best.Count(truth, severity, known[s][c - 1]);
                            (j.Engine.Diesel ? diesel : petrol).Count(truth, severity, known[s][c - 1]);
                        }
                    }
                }
                string Three(Func<Tally, int> some, Func<Tally, int> of) => string.Join(" / ", new[] { before, after, best }.Where(t => t.Cylinders > 0).Select(t => Share(some(t), of(t))));
                text.Append(CultureInfo.InvariantCulture, $"| {world.Name} | ({Stages[s]}) | {Three(t => t.Right, t => t.Cylinders)} | {Three(t => t.FaultyRight, t => t.Faulty)} | {Three(t => t.LeakingRight, t => t.Leaking)} | {Three(t => t.Accused, t => t.Sound)} | {before.Brier / before.Cylinders:.000} / {after.Brier / after.Cylinders:.000} |\n");
                told.Append(CultureInfo.InvariantCulture, $"- {world.Name}, readings ({Stages[s]}): before {Or(before.Off)}; after {Or(after.Off)}\n");
                if (ideal && Stages[s] == 'd')
                {
                    Knowable(told, all, s, before, after, best, petrol, diesel);
                }
            }
        }
        text.Append("\n## Said, and happened\n\nTenths of the probabilities with 50 cases or more that are off by over 6 points: mean said → share that was so (cases).\n\n");
        var parts = told.ToString().Split("\f");
        text.Append(string.Concat(parts.Where((_, i) => i % 2 == 0))).Append(string.Concat(parts.Where((_, i) => i % 2 == 1)));
        Console.Write(text);
        if (page is not null)
        {
            File.WriteAllText(page, text.ToString());
        }
    }

    // Fault by fault: what of it is found with everything measured, and what could be.
    private static void Knowable(StringBuilder told, Judged[] all, int stage, Tally before, Tally after, Tally best, Tally petrol, Tally diesel)
    {
        told.Append("\f\n## What can be known\n\nWorld (a), everything measured: of each fault the share whose leading answer it is. Where even the reference finds under half, no test here tells it from a sound cylinder or from what is like it.\n\n| fault | cylinders | before | after | best | best, petrol | best, diesel |\n|---|---|---|---|---|---|---|\n");
        foreach (var f in VerdictAnswer.OfCylinder.Where(f => after.Of.ContainsKey(f)))
        {
            string Of(Tally t) => t.Of.TryGetValue(f, out var n) ? Share(n.Right, n.All) : "–";
            told.Append(CultureInfo.InvariantCulture, $"| {RecordWords.Of(f)} | {after.Of[f].All} | {Of(before)} | {Of(after)} | {Of(best)} | {Of(petrol)} | {Of(diesel)} |\n");
        }
        told.Append("\n| mild faults alone (under a third of the way to severe) | cylinders | before | after | best |\n|---|---|---|---|---|\n");
        foreach (var f in ModelledEngine.Faults.Where(f => f != Fault.TestError))
        {
            var mild = all.SelectMany(j => Enumerable.Range(1, j.Engine.Cylinders).Where(c => j.Engine.Truth(c) == f && j.Engine.SeverityOf(c) < Moderate).Select(c => (Before: j.Before[stage].Cylinders[c - 1].Leading.Fault, After: j.After[stage].Cylinders[c - 1].Leading.Fault, Best: j.Best![stage][c - 1]))).ToList();
            told.Append(CultureInfo.InvariantCulture, $"| {RecordWords.Of(f)} | {mild.Count} | {Share(mild.Count(m => m.Before == f), mild.Count)} | {Share(mild.Count(m => m.After == f), mild.Count)} | {Share(mild.Count(m => m.Best == f), mild.Count)} |\n");
        }
        told.Append('\f');
    }

    private static string Or(IEnumerable<string> some) => some.ToList() is { Count: > 0 } list ? string.Join(" · ", list) : "none";

    private static string Share(int of, int all) => all == 0 ? "–" : ((double)of / all).ToString(".000", CultureInfo.InvariantCulture);
}
