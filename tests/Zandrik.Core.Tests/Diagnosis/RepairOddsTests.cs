using System.Numerics.Tensors;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;

namespace Zandrik.Core.Tests.Diagnosis;

public sealed class RepairOddsTests
{
    private static (RepairOdds Odds, Posterior Posterior) Of(string job)
    {
        using var read = new NodeLikelihoods(JobEvidence.Of(Whiteboard.Job(job)));
        using var inference = Inference.Of(read);
        return (inference.Repairs(), inference.Answers());
    }

    [Theory]
    [InlineData("petrol 4; dry 190 188 131 191")]
    [InlineData("petrol 4; dry 190 120 122 191; leak 2 90 plughole3 3; leak 3 90 plughole2 3")]
    [InlineData("petrol 4; dry 150 148 149 151; nominal 190; seen oil-use")]
    [InlineData("petrol 6; dry 190 188 131 191 120 119; seen misfire coolant-loss; gas positive")]
    [InlineData("petrol 6 v 1-3-5/2-4-6; dry 190 188 160 191 120 119; leak 3 40 crankcase 2")]
    [InlineData("diesel 8; dry 420 418 300 421 415 410 416 419; leak 3 60 crankcase 3")]
    [InlineData("petrol 1; dry 90; nominal 150")]
    public void Summed_over_the_sets_each_cylinder_and_cause_is_as_likely_as_it_is_said_to_be(string job)
    {
        var (odds, posterior) = Of(job);
        odds.Sets.Sum(s => s.Probability).ShouldBe(1, 1e-6);
        for (var i = 0; i < odds.Cylinders; i++)
        {
            var sum = new double[Posterior.Answers];
            foreach (var (needs, _) in odds.Sets)
            {
                var with = odds.With(needs, i);
                for (var f = 0; f < sum.Length; f++)
                {
                    with[f].ShouldBeGreaterThanOrEqualTo(0);
                    sum[f] += with[f];
                }
            }
            for (var f = 0; f < sum.Length; f++)
            {
                sum[f].ShouldBe(posterior.Cylinders[i][f], 0.002, $"cylinder {i + 1}, answer {f}");
            }
        }
        // Causes of the whole engine are lost in no set, though a set may hold them for another reason too.
        odds.Of(RepairNeeds.Wear).ShouldBe(posterior.Of(Fault.GeneralWear) / (1 - CoolantShare(posterior)), 0.01);
        odds.Of(RepairNeeds.Timing).ShouldBe(posterior.Of(Fault.CamTiming) / (1 - CoolantShare(posterior)), 0.01);
    }

    [Theory]
    [InlineData("petrol 4; dry 190 188 131 191; seen coolant-loss")]
    [InlineData("petrol 6 v 1-3-5/2-4-6; dry 190 188 160 191 120 119; leak 3 40 crankcase 2")]
    [InlineData("diesel 8; dry 420 418 300")]
    public void The_likeliest_alone_are_told_as_among_all_and_each_cylinder_shares_out_what_its_set_comes_to(string job)
    {
        using var read = new NodeLikelihoods(JobEvidence.Of(Whiteboard.Job(job)));
        using var inference = Inference.Of(read);
        var (few, all) = (inference.Repairs(detailed: 12), inference.Repairs());
        few.Sets.ShouldBe(all.Sets);
        foreach (var (needs, p) in few.Sets.Take(12))
        {
            for (var i = 0; i < few.Cylinders; i++)
            {
                few.With(needs, i).SequenceEqual(all.With(needs, i)).ShouldBeTrue();
                TensorPrimitives.Sum(few.With(needs, i)).ShouldBe(p, 1e-9, $"{needs}, cylinder {i + 1}");
            }
        }
        TensorPrimitives.Sum(few.With(few.Sets[12].Needs, 0)).ShouldBe(0, "not asked for");
    }

    // Causes of the engine are listed with coolant as one more; in the sets it goes together with any of them.
    private static double CoolantShare(Posterior posterior) => posterior.Of(Fault.GasketCoolant) + posterior.Of(Fault.CoolantPathElsewhere);

    [Fact]
    public void Two_suspects_of_one_gasket_are_one_need_and_a_valve_beside_rings_are_two()
    {
        var (gasket, posterior) = Of("petrol 4; dry 190 120 122 191; leak 2 90 plughole3 3; leak 3 90 plughole2 3");
        gasket.Sets[0].Needs.ShouldBe(RepairNeeds.Gasket(0));
        gasket.Sets[0].Probability.ShouldBeGreaterThan(0.8, "not the product of two");
        posterior.Of(1, Fault.GasketAdjacent).ShouldBeGreaterThan(0.85);
        var (two, _) = Of("petrol 6; dry 190 188 120 191 189 118; leak 3 85 exhaust 3; leak 6 85 crankcase 3; wet 6 170");
        two.Sets[0].Needs.ShouldBe(RepairNeeds.TopEnd(0) | RepairNeeds.BottomEnd(0));
        two.Of(RepairNeeds.Gasket(0)).ShouldBeLessThan(0.1);
    }

    [Fact]
    public void Every_cylinder_a_bank_of_its_own_is_summed_too()
    {
        // A sheet without a layout may have as many banks as cylinders.
        var (odds, posterior) = Of("petrol 16 w 1/2/3/4/5/6/7/8/9/10/11/12/13/14/15/16; dry 190 188 131 191 190 189 191 188 190 192 189 190 188 120 190 191");
        odds.Sets.Sum(s => s.Probability).ShouldBe(1, 1e-6);
        for (var i = 0; i < odds.Cylinders; i++)
        {
            // So many banks leave more rare sets out.
            odds.Sets.Sum(s => odds.With(s.Needs, i)[Posterior.IndexOf(Fault.Sound)]).ShouldBe(posterior.Of(i, Fault.Sound), 0.01, $"cylinder {i + 1}");
        }
    }

    [Fact]
    public void Each_bank_of_a_vee_has_its_own_head()
    {
        var (odds, _) = Of("petrol 6 v 1-3-5/2-4-6; dry 190 188 189 120 191 190; leak 4 85 exhaust 3");
        odds.Sets[0].Needs.Each().Count().ShouldBe(1);
        odds.Sets[0].Needs.Work().Repair.ShouldBe(Repair.TopEnd);
    }
}
