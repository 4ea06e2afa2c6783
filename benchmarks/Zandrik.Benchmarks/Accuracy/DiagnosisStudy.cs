using System.Diagnostics;
using System.Globalization;
using System.Text;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Verdicts;

namespace Zandrik.Benchmarks.Accuracy;

/// <summary>
/// How often the diagnosis is right, and how honest its probabilities are: over engines sampled from the physics, beside rules of thumb. Writes docs/diagnosis-accuracy.md; the same seed gives the
/// same page.
/// </summary>
internal static class DiagnosisStudy
{
    private const string Stages = "abcd";

    private sealed class Tally
    {
        public int Cylinders, Right, Faulty, FaultyRight, Sound, Accused, PlainRight, PlainFaultyRight, PlainAccused, Engines;
        public double Brier, Bits;
        public double Promised, Kept;
        public int Offers;
        public readonly double[] Said = new double[10];
        public readonly int[] Happened = new int[10], Cases = new int[10];
        public readonly Dictionary<(Fault Truth, Fault Said), int> Confusion = [];
    }

    public static void Run(int engines, int seed, string? page)
    {
        var text = new StringBuilder();
        text.Append(CultureInfo.InvariantCulture, $"""
            # How often the diagnosis is right

            Made by `benchmarks/diagnosis-accuracy {engines} {seed}`, which draws engines with hidden faults, reads them with every test as a workshop would, and asks. Six engines (petrol three, four, flat four and six;
            V8 and truck diesel), 72 % with a fault drawn by the base rates and one in eight of those with a second one; worn rings, build scatter, 2.2 % reading noise, 5 psi rounding, gauge gain, maker's figure off by 3 %, an
            ear with 4 dB error and 3 % blunders; one valve in twelve of those that leak does not come to its seat at all. Pressures after the tables of the crank-angle model, leak-down by compressible flow; severities logarithmic from mild to severe but thickest in the middle: a spread of the
            study's own. World and judge share the base rates and much of the physics: **this tests the arithmetic and the honesty of the probabilities, not the world.** Only what is found in engines does that
            (*Outcomes* in the shop).

            Readings: (a) dry · (b) dry, and wet on the odd ones · (c) dry, and leak-down with listening on the odd ones · (d) dry, wet and leak-down on all, and running on petrol engines. Odd: under 92 % of the second-best
            cylinder, else the lowest. *Right*: the leading answer. *Accused*: a sound cylinder whose leading answer is neither sound nor a slip of the test. *Rules of thumb*: a plain judge of thresholds.

            """);
        foreach (var (name, world, count) in new[] { ("72 engines in a hundred with a fault", SampledWorld.Own, engines), ("Each cylinder by the base rates themselves", SampledWorld.ByOdds, engines), ("Every fault equally likely: the base rates are wrong", SampledWorld.EqualFaults, engines / 4), ("Severities even: as many mild and severe faults as middling ones", SampledWorld.EvenSeverities, engines / 4), ("Most faults mild", SampledWorld.MostlyMild, engines / 4), ("A rougher world: ear 7 dB and 8 % blunders, readings 3.2 %, leak-down ± 4 points, each tester's restriction off by 30 %, oil off by 3 %, figures off by 6 %", SampledWorld.Rough, engines / 4) })
        {
            var petrol = Stages.Select(_ => new Tally()).ToArray();
            var diesel = Stages.Select(_ => new Tally()).ToArray();
            Sample(world, count, seed, petrol, diesel, name);
            text.Append(CultureInfo.InvariantCulture, $"\n## {name}\n\n{petrol[0].Engines} petrol engines with {petrol[0].Cylinders} cylinders, {petrol[0].Faulty} faulty; {diesel[0].Engines} diesels with {diesel[0].Cylinders}, {diesel[0].Faulty} faulty.\n");
            Table(text, petrol, diesel);
            var (fits, promised, kept) = (petrol[2].Offers + diesel[2].Offers, petrol[2].Promised + diesel[2].Promised, petrol[2].Kept + diesel[2].Kept);
            text.Append(CultureInfo.InvariantCulture, $"\nA leak-down that was offered after dry readings for just the cylinders that were then read ({fits} engines) promised {promised / Math.Max(1, fits):0.00} bits and told {kept / Math.Max(1, fits):0.00}.\n");
            if (world == SampledWorld.ByOdds)
            {
                Reliability(text, petrol, diesel);
            }
            else if (world == SampledWorld.Own)
            {
                Reliability(text, petrol, diesel);
                Confusion(text, "petrol", petrol[3]);
                Confusion(text, "diesel", diesel[3]);
            }
            else
            {
                Worst(text, petrol, diesel);
            }
        }
        LooseWorlds.Write(text, engines, seed);
        Console.Write(text);
        if (page is not null)
        {
            File.WriteAllText(page, text.ToString());
        }
    }

    private static void Sample(SampledWorld world, int count, int seed, Tally[] petrol, Tally[] diesel, string name)
    {
        var clock = Stopwatch.StartNew();
        var results = new (SampledEngine Engine, (EngineDiagnosis Said, IReadOnlyList<Fault> Plain)[] Stages, (double Promised, double Kept)? Offer)[count];
        var done = 0;
        Parallel.For(0, count, new ParallelOptions { MaxDegreeOfParallelism = Environment.ProcessorCount }, i =>
        {
            var engine = SampledEngine.Draw(seed + i, world);
            (double Promised, double Kept)? offer = null;
            results[i] = (engine, [.. Stages.Select(s =>
            {
                var record = engine.Record(s);
                var said = EngineDiagnosis.Of(record, ledger: false);
                offer = s == 'c' ? Offered(record, said) : offer;
                return (said, ThresholdJudge.Of(record));
            })], offer);
            var now = Interlocked.Increment(ref done);
            if (now % 25 == 0 || now == count)
            {
                Console.Error.Write($"\r[{new string('#', 40 * now / count)}{new string('.', 40 - 40 * now / count)}] {now} of {count} engines, {clock.Elapsed.TotalSeconds:0} s: {name.Split(':')[0]}   ");
            }
        });
        Console.Error.WriteLine();
        foreach (var (engine, stages, offer) in results)
        {
            if (offer is { } made)
            {
                var t = (engine.Diesel ? diesel : petrol)[Stages.IndexOf('c')];
                (t.Offers, t.Promised, t.Kept) = (t.Offers + 1, t.Promised + made.Promised, t.Kept + made.Kept);
            }
            for (var s = 0; s < Stages.Length; s++)
            {
                Count((engine.Diesel ? diesel : petrol)[s], engine, stages[s].Said, stages[s].Plain);
            }
        }
    }

    // What a leak-down was to tell of its cylinders when only the dry readings were known, and what it told; where it was offered for just the cylinders that were then read.
    private static (double Promised, double Kept)? Offered(TestRecord record, EngineDiagnosis after)
    {
        var read = record.Tests!.OfType<LeakDownTest>().Single().Readings!.Select(r => r.Cylinder).Order().ToList();
        var before = EngineDiagnosis.Of(record with { Tests = [.. record.Tests!.Where(t => t is not LeakDownTest)] }, ledger: false);
        return before.Next.FirstOrDefault(n => n.Kind == StepKind.LeakDown && n.Cylinders.Order().SequenceEqual(read)) is { } offer
            ? (offer.GainBits, read.Sum(c => Entropy(before.Cylinders[c - 1]) - Entropy(after.Cylinders[c - 1]))) : null;
    }

    private static double Entropy(CylinderDiagnosis c) => -c.Suspects.Sum(s => s.Probability * Math.Log2(s.Probability));

    private static void Count(Tally t, SampledEngine engine, EngineDiagnosis said, IReadOnlyList<Fault> plain)
    {
        t.Engines++;
        foreach (var c in said.Cylinders)
        {
            var truth = engine.Truth(c.Cylinder);
            var (leading, thumb) = (c.Leading.Fault, plain[c.Cylinder - 1]);
            bool Wrongs(Fault f) => f is not (Fault.Sound or Fault.TestError);
            t.Cylinders++;
            t.Right += leading == truth ? 1 : 0;
            t.PlainRight += thumb == truth ? 1 : 0;
            if (truth == Fault.Sound)
            {
                t.Sound++;
                t.Accused += Wrongs(leading) ? 1 : 0;
                t.PlainAccused += Wrongs(thumb) ? 1 : 0;
            }
            else
            {
                t.Faulty++;
                t.FaultyRight += leading == truth ? 1 : 0;
                t.PlainFaultyRight += thumb == truth ? 1 : 0;
            }
            t.Confusion[(truth, leading)] = t.Confusion.GetValueOrDefault((truth, leading)) + 1;
            foreach (var f in VerdictAnswer.OfCylinder)
            {
                var p = c.Of(f);
                t.Brier += (p - (f == truth ? 1 : 0)) * (p - (f == truth ? 1 : 0));
                t.Bits -= p > 0 ? p * Math.Log2(p) : 0;
                if (p > 0.005)
                {
                    var d = Math.Min(9, (int)(10 * p));
                    (t.Said[d], t.Cases[d], t.Happened[d]) = (t.Said[d] + p, t.Cases[d] + 1, t.Happened[d] + (f == truth ? 1 : 0));
                }
            }
        }
    }

    private static string Share(int of, int all) => all == 0 ? "–" : ((double)of / all).ToString(".000", CultureInfo.InvariantCulture);

    private static void Table(StringBuilder text, Tally[] petrol, Tally[] diesel)
    {
        text.Append("\n| readings | engines | right, all | right, faulty | Brier | bits left an engine | accused | thumb: right, all | thumb: right, faulty | thumb: accused |\n|---|---|---|---|---|---|---|---|---|---|\n");
        foreach (var (fuel, tallies) in new[] { ("petrol", petrol), ("diesel", diesel) })
        {
            for (var s = 0; s < Stages.Length; s++)
            {
                var t = tallies[s];
                text.Append(CultureInfo.InvariantCulture, $"| ({Stages[s]}) | {fuel} | {Share(t.Right, t.Cylinders)} | {Share(t.FaultyRight, t.Faulty)} | {t.Brier / t.Cylinders:.000} | {t.Bits / t.Engines:0.00} | {Share(t.Accused, t.Sound)} | {Share(t.PlainRight, t.Cylinders)} | {Share(t.PlainFaultyRight, t.Faulty)} | {Share(t.PlainAccused, t.Sound)} |\n");
            }
        }
    }

    private static IEnumerable<(int Decile, double Said, double Happened, int Cases)> Deciles(Tally t) =>
        Enumerable.Range(0, 10).Where(d => t.Cases[d] > 0).Select(d => (d, t.Said[d] / t.Cases[d], (double)t.Happened[d] / t.Cases[d], t.Cases[d]));

    private const int Enough = 50;
    private const double Tolerated = 0.06;

    private static bool IsOff((int Decile, double Said, double Happened, int Cases) d) => d.Cases >= Enough && Math.Abs(d.Said - d.Happened) > Tolerated;

    // How likely a share of so many cases is off by more than is tolerated though what was said is right.
    private static double OffByChance((int Decile, double Said, double Happened, int Cases) d) =>
        MathNet.Numerics.SpecialFunctions.Erfc(Tolerated / Math.Sqrt(2 * d.Said * (1 - d.Said) / d.Cases));

    private static void Reliability(StringBuilder text, Tally[] petrol, Tally[] diesel)
    {
        text.Append("\n### Said, and happened\n\nEvery probability of every fault of every cylinder, in tenths: mean said → share that was so (cases). Tenths of 50 cases or more that are off by over 6 points stand **bold**.\n\n");
        foreach (var (fuel, tallies) in new[] { ("petrol", petrol), ("diesel", diesel) })
        {
            for (var s = 0; s < Stages.Length; s++)
            {
                text.Append(CultureInfo.InvariantCulture, $"- {fuel} ({Stages[s]}): {string.Join(" · ", Deciles(tallies[s]).Select(d => Mark(d, string.Create(CultureInfo.InvariantCulture, $"{d.Said:.00}→{d.Happened:.00} ({d.Cases})"))))}\n");
            }
        }
        var judged = petrol.Concat(diesel).SelectMany(Deciles).Where(d => d.Cases >= Enough).ToList();
        text.Append(CultureInfo.InvariantCulture, $"\n{judged.Count(IsOff)} of {judged.Count} tenths with {Enough} cases or more are off by over 6 points; of a judge whose every probability is right about {judged.Sum(OffByChance):0.0} would be, by the luck of so few cases.\n");
        static string Mark((int, double, double, int) d, string says) => IsOff(d) ? $"**{says}**" : says;
    }

    private static void Worst(StringBuilder text, Tally[] petrol, Tally[] diesel)
    {
        var off = petrol.Select((t, s) => ("petrol", s, t)).Concat(diesel.Select((t, s) => ("diesel", s, t))).SelectMany(x => Deciles(x.t).Where(IsOff).Select(d => string.Create(CultureInfo.InvariantCulture, $"{x.Item1} ({Stages[x.s]}) {d.Said:.00}→{d.Happened:.00} ({d.Cases})"))).ToList();
        text.Append(CultureInfo.InvariantCulture, $"\nTenths of 50 cases or more off by over 6 points: {(off.Count == 0 ? "none" : string.Join(" · ", off))}.\n");
    }

    private static void Confusion(StringBuilder text, string fuel, Tally t)
    {
        var faults = VerdictAnswer.OfCylinder.Where(f => t.Confusion.Keys.Any(k => k.Truth == f || k.Said == f)).ToList();
        text.Append(CultureInfo.InvariantCulture, $"\n### What was taken for what: {fuel}, everything measured (d)\n\nRows: what it was; columns: the leading answer.\n\n| | {string.Join(" | ", faults.Select(RecordWords.Of))} |\n|---{string.Concat(Enumerable.Repeat("|---", faults.Count))}|\n");
        foreach (var truth in faults.Where(f => t.Confusion.Keys.Any(k => k.Truth == f)))
        {
            text.Append(CultureInfo.InvariantCulture, $"| **{RecordWords.Of(truth)}** | {string.Join(" | ", faults.Select(s => t.Confusion.GetValueOrDefault((truth, s)) is var n and > 0 ? n.ToString(CultureInfo.InvariantCulture) : ""))} |\n");
        }
    }
}
