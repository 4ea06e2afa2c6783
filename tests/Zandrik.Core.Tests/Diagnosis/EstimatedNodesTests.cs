using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Diagnosis;

public sealed class EstimatedNodesTests
{
    private static readonly NodeSetting Petrol = new(false, 0.04, 0.566), ByHand = Petrol with { Estimates = LikelihoodEstimates.None };

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void The_mean_lies_between_hand_and_estimate_and_the_spread_is_no_less_than_either(bool diesel)
    {
        var (hand, both) = (SeverityNodes.Local(ByHand with { Diesel = diesel }), SeverityNodes.Local(Petrol with { Diesel = diesel }));
        both.Count.ShouldBe(hand.Count);
        var (fault, place, changed) = (Fault.None, 0, 0);
        foreach (var (h, b) in hand.Zip(both))
        {
            (b.Fault, b.Weight, b.Rings, b.Intake, b.Exhaust, b.LeaksLikeSound).ShouldBe((h.Fault, h.Weight, h.Rings, h.Intake, h.Exhaust, h.LeaksLikeSound), "what a fault is stays");
            place = h.Fault == fault ? place + 1 : 0;
            fault = h.Fault;
            if (h.Paired || LikelihoodEstimates.CheckedIn.Of(h.Fault, diesel, EstimatedFinding.Dry) is not { } dry || h.Fault == Fault.Sound)
            {
                b.ShouldBe(h);
                continue;
            }
            changed++;
            b.Dry.ShouldBeInRange(Math.Min(h.Dry, dry.Means[place]) - 1e-9, Math.Max(h.Dry, dry.Means[place]) + 1e-9);
            b.DrySpread.ShouldBeGreaterThanOrEqualTo(Math.Max(h.DrySpread, dry.Spreads[place]) - 1e-12);
            // So that either mean is within one spread.
            Math.Abs(b.Dry - h.Dry).ShouldBeLessThanOrEqualTo(b.DrySpread + 1e-9);
            Math.Abs(b.Dry - dry.Means[place]).ShouldBeLessThanOrEqualTo(b.DrySpread + 1e-9);
        }
        changed.ShouldBe(SeverityFigures.All.Where(f => f is not (Fault.Sound or Fault.GasketAdjacent)).Sum(f => SeverityFigures.Of(f).Count));
    }

    [Fact]
    public void What_oil_brings_grows_with_the_share_of_the_leak_that_it_closes()
    {
        double Wet(double left) => SeverityNodes.Local(Petrol with { OilLeft = left }).First(k => k is { Fault: Fault.Rings, Rings: > 1 }).Wet;
        Wet(0.5).ShouldBeGreaterThan(Wet(0.8));
        Wet(1).ShouldBe(0.04, 1e-9);
    }

    [Fact]
    public void Oil_over_a_holed_crown_and_slips_of_the_test_stay_by_hand()
    {
        var (hand, both) = (SeverityNodes.Local(ByHand), SeverityNodes.Local(Petrol));
        both.Where(k => k.Fault == Fault.Piston).Select(k => (k.Wet, k.WetSpread)).ShouldBe(hand.Where(k => k.Fault == Fault.Piston).Select(k => (k.Wet, k.WetSpread)));
        both.Where(k => k.Fault == Fault.TestError).ShouldBe(hand.Where(k => k.Fault == Fault.TestError));
    }

    [Fact]
    public void Two_webs_let_by_as_much_as_one_of_both_areas()
    {
        var (small, large) = (SeverityNodes.WebAreas[4], SeverityNodes.WebAreas[5]);
        var one = SeverityNodes.Web(Petrol, large, 0).Dry;
        SeverityNodes.Web(Petrol, large / 2, large / 2).Dry.ShouldBe(one, 1e-9);
        SeverityNodes.Web(Petrol, small, 0).Dry.ShouldBeGreaterThan(one);
        SeverityNodes.Web(Petrol, 0, 0).Dry.ShouldBe(0);
    }

    [Fact]
    public void The_more_a_fault_leaks_the_less_a_cylinder_makes()
    {
        foreach (var group in SeverityNodes.Local(Petrol).Where(k => !k.Paired && k is { LeaksLikeSound: false }).GroupBy(k => k.Fault))
        {
            foreach (var (mild, severe) in group.Zip(group.Skip(1)))
            {
                severe.Dry.ShouldBeLessThanOrEqualTo(mild.Dry, $"{group.Key}");
                severe.Relative.ShouldBeLessThanOrEqualTo(mild.Relative, $"{group.Key}");
                severe.Idle.ShouldBeLessThanOrEqualTo(mild.Idle + 0.005, $"{group.Key}");
            }
        }
    }

    [Fact]
    public void Without_estimates_a_job_is_judged_by_hand_alone()
    {
        var record = Whiteboard.Job("petrol 4; dry 190 188 120 191; wet 3 160");
        double Rings(LikelihoodEstimates from) => EngineDiagnosis.Of(JudgedTests.Of(record, null, from), Core.Safety.JobSafety.Of(record)).Cylinders[2].Of(Fault.Rings);
        Rings(LikelihoodEstimates.None).ShouldNotBe(Rings(LikelihoodEstimates.CheckedIn));
        Rings(LikelihoodEstimates.CheckedIn).ShouldBe(EngineDiagnosis.Of(record).Cylinders[2].Of(Fault.Rings));
    }
}
