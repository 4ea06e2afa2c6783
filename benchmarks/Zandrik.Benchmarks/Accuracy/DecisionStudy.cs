using System.Globalization;
using System.Text;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Planning;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;

namespace Zandrik.Benchmarks.Accuracy;

/// <summary>
/// What an engine costs until it is right: minutes of tests, and the repair that is chosen after them, with its comeback where it was the wrong one. By what saves most, by bits a minute, by the textbook's order to its end, and by rules of
/// thumb on dry and wet figures. The truth is the sampled engine's; what a repair comes to where it is needed or not is <see cref="RepairLoss"/>.
/// </summary>
internal static class DecisionStudy
{
    // Valves that are set do their work in this share of leaking ones: what the truth does not say is taken at its mean.
    private static readonly double Set = CureTable.ClearanceOfValves;

    private sealed record Path(double Tests, double Repair, double Perfect, bool Right);

    public static void Run(int count, int seed, string page)
    {
        var text = new StringBuilder(string.Create(CultureInfo.InvariantCulture, $"""
            # What an engine costs until it is right

            {count} engines a world from seed {seed}, sampled from the physics with faults by their base odds ([diagnosis-accuracy.md](diagnosis-accuracy.md)); made by `benchmarks/decisions-accuracy`. Minutes of the shop: tests as they are done, then the
            repair that is chosen, its parts and days counted as minutes, with what is found on the way and the comeback where it was the wrong one ([deciding.md](deciding.md), section 2). *Best possible*: the right repair at once, no test.
            *Over it*: what testing and choosing cost on top, the part that any order of tests can change.

            | world | way | tests | repair | together | over the best possible | right at once |
            |---|---|---|---|---|---|---|

            """));
        var reached = new List<string>();
        foreach (var (name, world) in new[] { ("its own", SampledWorld.Own), (SampledWorld.Loose[^1].Name, SampledWorld.Loose[^1].World) })
        {
            var ways = Enumerable.Range(0, count).AsParallel().AsOrdered().Select(i => Ways(seed + i, world)).ToList();
            string[] called = ["what saves most, until nothing does", "bits by the minute, until nothing tells anything", "the same, chosen after everything was measured (textbook's order to its end)", "dry, oil in the low ones, rules of thumb", "best possible"];
            var mean = Enumerable.Range(0, 5).Select(w => ways.Average(x => x[w].Tests + x[w].Repair)).ToList();
            string Under(int other) => string.Create(CultureInfo.InvariantCulture, $"{100 * (1 - mean[0] / mean[other]):0.0} % under {(other == 1 ? "bits by the minute" : "the textbook's order")} ({100 * (1 - (mean[0] - mean[4]) / (mean[other] - mean[4])):0} % of what is over the best possible)");
            reached.Add($"In {name} it is {Under(2)} and {Under(1)}.");
            for (var w = 0; w < 5; w++)
            {
                text.Append(CultureInfo.InvariantCulture, $"| {name} | {called[w]} | {ways.Average(x => x[w].Tests):0} | {ways.Average(x => x[w].Repair):0} | {mean[w]:0} | {mean[w] - mean[4]:0} | {ways.Count(x => x[w].Right) / (double)count:.000} |\n");
            }
        }
        File.WriteAllText(page, text.Append(CultureInfo.InvariantCulture, $"""

            {string.Join(' ', reached)}

            Wanted were 40 % under the textbook's order and 15 % under bits by the minute, of minutes and money together. *Bits by the minute* keeps the rules of order and safety and what is asked about; it takes what tells most of the faults a minute and ends where
            nothing tells 0.06 bits.
            """).Append('\n').ToString().ReplaceLineEndings("\n"));
        Console.WriteLine(text);
    }

    private static Path[] Ways(int seed, SampledWorld world)
    {
        var engine = SampledEngine.Draw(seed, world);
        var record = engine.Empty();
        var needs = Needs(engine);
        var book = RepairBook.For(record.Engine);
        var loss = new RepairLoss(book, new CureTable(Set, CureTable.FreedOtherwise, engine.Banks.Count), runsBadly: record.Observations?.Contains(Observation.Misfire) == true);
        var perfect = Enum.GetValues<Repair>().Select(r => r == Repair.Leave ? RepairOption.Leave : RepairOption.Of(r)).Append(RepairOption.Meeting(needs)).Min(o => loss.Of(o, needs).Minutes);
        Path Chosen(double tests, RepairOption option) => loss.Of(option, needs) is var (minutes, cured) ? new(tests, minutes, perfect, cured > 0.5) : null!;

        Path Advised(Func<TestRecord, EngineDiagnosis> judge)
        {
            // The same engine for each way, with chances of its own: what one way measures is no other's.
            var own = SampledEngine.Draw(seed, world);
            var known = own.Empty();
            var (minutes, said) = (0.0, judge(known));
            for (var rounds = 0; said.Next is [var first, ..] && rounds < 20; rounds++)
            {
                known = own.Do(known, first);
                minutes += first.Minutes;
                said = judge(known);
            }
            return Chosen(minutes, said.Decision.Best.Option);
        }
        var all = EngineDiagnosis.Of(engine.Record('d') with { Observations = record.Observations }, ledger: false);
        var wet = engine.Record('b');
        var oiled = wet.Tests!.OfType<WetCompressionTest>().Sum(t => t.Readings!.Count);
        return
        [
            Advised(r => EngineDiagnosis.Of(r, ledger: false)), Advised(EngineDiagnosis.ByBits), Chosen(engine.MinutesOfAll, all.Decision.Best.Option),
            Chosen(StepMinutes.DryPlugsIn(engine.Cylinders) + StepMinutes.Wet(oiled), ByThumb(engine, wet)), new(0, perfect, perfect, true),
        ];
    }

    // What rules of thumb open: the head of the bank for valves or a gasket, an overhaul for rings.
    private static RepairOption ByThumb(SampledEngine engine, TestRecord record)
    {
        var faults = ThresholdJudge.Of(record);
        if (faults.Contains(Fault.Rings))
        {
            return RepairOption.Of(Repair.Overhaul);
        }
        RepairWork[] heads = [.. faults.Select((f, i) => (f, i)).Where(x => x.f is not (Fault.Sound or Fault.TestError)).Select(x => new RepairWork(x.f == Fault.GasketAdjacent ? Repair.Gasket : Repair.TopEnd, BankOf(engine, x.i + 1))).Distinct()];
        return heads.Length == 0 ? RepairOption.Leave : new(heads);
    }

    private static RepairNeeds Needs(SampledEngine engine) => Enumerable.Range(1, engine.Cylinders).Aggregate(RepairNeeds.None, (all, c) => all | RepairKinds.Of(engine.Truth(c)) switch
    {
        RepairKind.TopEnd => RepairNeeds.TopEnd(BankOf(engine, c)),
        RepairKind.Gasket => RepairNeeds.Gasket(BankOf(engine, c)),
        RepairKind.BottomEnd => RepairNeeds.BottomEnd(BankOf(engine, c)),
        RepairKind.Run => RepairNeeds.Run,
        RepairKind.Deposits => RepairNeeds.Deposits,
        _ => RepairNeeds.None,
    });

    private static int BankOf(SampledEngine engine, int cylinder) => engine.Banks.ToList().FindIndex(b => b.Contains(cylinder));
}
