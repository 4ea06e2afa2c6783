using CsCheck;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Diagnosis;

public sealed class LikelihoodTests
{
    private static readonly NodeSetting Petrol = new(false, 0.04, 0.57);

    [Fact]
    public void The_page_in_the_documents_is_the_one_the_code_makes() =>
        File.ReadAllText(Path.Combine(Repository.Root, "docs", "likelihood-table.md")).ShouldBe(LikelihoodDocument.Make(), "write what LikelihoodDocument.Make answers into docs/likelihood-table.md");

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void Weights_of_a_faults_severities_sum_to_one_and_two_leaks_are_a_twentieth(bool diesel)
    {
        foreach (var g in SeverityNodes.Local(Petrol with { Diesel = diesel }).GroupBy(k => k.Fault))
        {
            var pairs = g.Key is Fault.Rings or Fault.IntakeValve or Fault.ExhaustValve ? 0.05 : 0;
            g.Sum(k => k.Weight).ShouldBe(1 + pairs, 1e-9, g.Key.ToString());
            g.ShouldAllBe(k => k.Dry >= SeverityNodes.LowestDry);
        }
    }

    [Fact]
    public void No_reading_excludes_a_fault_and_none_weighs_beyond_its_cap()
    {
        var table = NodeTable.Of(Petrol);
        var exhaust = table.OfFault[Posterior.IndexOf(Fault.ExhaustValve)].From;
        // A reading that fits perfectly against one that could not be further off.
        var dry = LikelihoodTable.Dry(table, 0.031);
        (dry.At(exhaust, table.Dry[exhaust]) / dry.At(exhaust, -2.6)).ShouldBeInRange(100, 10_000);
        LikelihoodTable.Wet(table, (0, 0), false, false, false).At(exhaust, 3).ShouldBeGreaterThan(0);
        LikelihoodTable.Running(table, snap: true, 0, 0.06).At(exhaust, 5).ShouldBeGreaterThan(0);
        LikelihoodTable.Relative(table, 2).At(exhaust, -5).ShouldBeGreaterThan(0);
    }

    [Fact]
    public void A_curve_over_all_nodes_says_what_it_says_of_each() =>
        Gen.Select(Gen.Double[-2.6, 0.3], Gen.Double[0.02, 0.2]).Sample((reading, spread) =>
        {
            var table = NodeTable.Of(Petrol);
            var curve = LikelihoodTable.Dry(table, spread);
            var all = Enumerable.Repeat(2.0, table.Nodes.Length).ToArray();
            curve.Multiply(reading, all);
            for (var k = 0; k < all.Length; k++)
            {
                all[k].ShouldBe(2 * curve.At(k, reading), 1e-9 * all[k]);
            }
        }, iter: 20);

    [Fact]
    public void The_nodes_stand_fault_by_fault_and_the_pairs_of_webs_behind_them()
    {
        var table = NodeTable.Of(Petrol);
        for (var f = 0; f < FaultOdds.Local.Count; f++)
        {
            var (from, to) = table.OfFault[f];
            to.ShouldBeGreaterThan(from);
            table.Nodes[from..to].ShouldAllBe(k => k.Fault == FaultOdds.Local[f]);
        }
        table.OfFault[^1].To.ShouldBe(table.Local);
        var pair = table.Nodes[table.Pair(3, 5)];
        (pair.Front, pair.Behind, pair.Weight).ShouldBe((SeverityNodes.WebAreas[2], SeverityNodes.WebAreas[4], FaultOdds.BothWebs));
        table.Nodes[table.Pair(3, 0)].Weight.ShouldBe(1);
    }

    [Fact]
    public void What_is_heard_is_likeliest_where_the_air_goes()
    {
        var table = NodeTable.Of(Petrol);
        foreach (var (fault, place) in new[] { (Fault.IntakeValve, LeakEvidence.Intake), (Fault.ExhaustValve, LeakEvidence.Exhaust), (Fault.Rings, LeakEvidence.Crankcase), (Fault.GasketCoolant, LeakEvidence.Coolant) })
        {
            var heard = new int?[LeakEvidence.Places];
            Array.Fill(heard, 0);
            heard[place] = 3;
            var leak = new LeakEvidence { LnRatio = 1.0, LossPercent = 72, RestrictionMm2 = 0.628, FlowGramsPerS = LeakEvidence.Flow(0.628, 689_476, 72), Heard = heard };
            var like = Enumerable.Repeat(1.0, table.Nodes.Length).ToArray();
            LikelihoodTable.LeakDown(table, new LeakPaths(table, leak.Size, leak.RestrictionMm2, oiled: false, moreRings: 0), leak, like);
            var of = table.Nodes.Take(table.Local).Select((k, i) => (k.Fault, Like: k.Weight * like[i])).GroupBy(x => x.Fault).ToDictionary(g => g.Key, g => g.Sum(x => x.Like));
            // Washed walls let air by where rings do.
            of.Where(x => x.Key != Fault.FuelWashed).MaxBy(x => x.Value).Key.ShouldBe(fault);
        }
    }

    [Fact]
    public void Observations_add_up_with_the_strongest_whole_and_the_rest_in_part()
    {
        var engine = new EngineSheet { Cylinders = 4 };
        double Of(EvidenceTarget what, Fault fault, params Observation[] seen) => ObservationWeights.Of(seen.ToHashSet(), engine, what, fault);
        Of(EvidenceTarget.Coolant, Fault.None).ShouldBe(0);
        Of(EvidenceTarget.Coolant, Fault.None, Observation.CoolantBubbles).ShouldBe(9);
        Of(EvidenceTarget.Coolant, Fault.None, Observation.CoolantBubbles, Observation.CoolantLoss).ShouldBe(9 + 0.4 * 7, 1e-9);
        Of(EvidenceTarget.Cylinder, Fault.Rings, Observation.BlowBy, Observation.OilUse, Observation.BlueSmoke).ShouldBe(5 + 0.4 * 8, 1e-9);
        Of(EvidenceTarget.Cylinder, Fault.Piston, Observation.CoolantBubbles).ShouldBe(0);
        ObservationWeights.Of(new HashSet<Observation> { Observation.OilInCoolant }, engine with { Features = [EngineFeature.OilCooler] }, EvidenceTarget.Coolant).ShouldBe(4);
        ObservationWeights.Of(new HashSet<Observation> { Observation.WhiteSmoke }, engine with { Fuel = Fuel.Diesel }, EvidenceTarget.Coolant).ShouldBe(1);
    }

    [Fact]
    public void The_base_rate_is_what_comes_out_before_anything_is_read()
    {
        var said = EngineDiagnosis.Of(new TestRecord { Engine = new EngineSheet { Cylinders = 4, Fuel = Fuel.Petrol } }, ledger: false);
        var odds = said.Cylinders[1];
        // A twentieth more for rings that leak beside a valve.
        (odds.Of(Fault.Rings) / odds.Of(Fault.Sound)).ShouldBe(1.05 * FaultOdds.Of(Fault.Rings, false), 1e-6);
        said.Cylinders[1].Of(Fault.GasketAdjacent).ShouldBeGreaterThan(said.Cylinders[0].Of(Fault.GasketAdjacent), "it has two webs");
        said.State.ShouldBe(EngineState.Inconclusive);
        said.Headline.ShouldBe("Nothing measured yet: not enough to say.");
    }

    // Paths are kept and shared: what one job works out while another asks for it must not be seen half done.
    [Fact]
    public void Two_jobs_at_once_hear_the_same()
    {
        var table = NodeTable.Of(Petrol);
        Parallel.For(0, 400, round =>
        {
            var paths = new LeakPaths(table, 1 + round / 1000.0, 0.628, oiled: false, moreRings: 0);
            var alone = new LeakPaths(table, 1 + round / 1000.0, 0.628, oiled: false, moreRings: 0).ShareDb(LeakEvidence.Exhaust).ToArray();
            using var together = new Barrier(2);
            var found = new double[2][];
            void Ask(int who)
            {
                together.SignalAndWait();
                found[who] = paths.ShareDb(LeakEvidence.Exhaust).ToArray();
            }
            var other = new Thread(() => Ask(1));
            other.Start();
            Ask(0);
            other.Join();
            found[0].ShouldBe(alone);
            found[1].ShouldBe(alone);
        });
    }
}
