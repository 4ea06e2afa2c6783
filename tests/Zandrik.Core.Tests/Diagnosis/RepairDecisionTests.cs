using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;

namespace Zandrik.Core.Tests.Diagnosis;

/// <summary>Cases decided by hand, and what a test is worth.</summary>
public sealed class RepairDecisionTests
{
    private static RepairDecision Of(string job, RepairBook? book = null) => EngineDiagnosis.Of(Whiteboard.Job(job), ledger: false, book: book).Decision;

    private static string Best(string job) => Of(job).Best.Option is { IsLeave: false } option ? string.Join(" ", option.Works.Select(w => RecordWords.Of(w.Repair) + (w.Bank > 0 ? $"-{w.Bank + 1}" : ""))) : "leave";

    [Theory]
    [InlineData("petrol 4; dry 190 188 189 191", "leave")]
    [InlineData("petrol 4; dry 190 188 131 191; leak 3 85 exhaust 3", "adjust-valves")] // A third of leaking valves with solid lifters only want their clearance.
    [InlineData("petrol 4; lifters hydraulic; dry 190 188 131 191; leak 3 85 exhaust 3", "top-end")]
    [InlineData("petrol 6 v 1-3-5/2-4-6; lifters hydraulic; dry 190 188 189 120 191 190; leak 4 85 exhaust 3", "top-end-2")]
    [InlineData("petrol 4; dry 190 188 131 191; leak 3 89 crankcase 3; wet 3 165", "bottom-end")]
    [InlineData("petrol 4; dry 190 188 131 191; leak 3 89 crankcase 3; wet 3 165; seen stood-long", "free-rings")]
    [InlineData("petrol 4; dry 190 120 122 191; leak 2 90 plughole3 3; leak 3 90 plughole2 3", "gasket")]
    [InlineData("petrol 4; dry 190 188 189 191; seen coolant-loss coolant-bubbles; gas positive", "gasket")]
    [InlineData("petrol 4; dry 190 188 131 191; plug 3 fuel-wet; seen flooded; wet 3 186", "run-and-retest")]
    [InlineData("petrol 4; dry 140 139 141 140; leak 1 8; leak 2 8; wet 1 146; wet 2 146; seen no-start timing-jumped", "set-timing")]
    [InlineData("petrol 6; lifters hydraulic; dry 190 188 120 191 189 118; leak 3 85 exhaust 3; leak 6 85 crankcase 3; wet 6 150", "top-end bottom-end")]
    public void The_cheapest_on_average_is_what_a_careful_shop_would_do(string job, string best) => Best(job).ShouldBe(best);

    [Fact]
    public void An_engine_that_is_worn_all_over_is_run_on_and_another_one_is_beside_it_with_its_price()
    {
        var decision = Of("petrol 4; dry 90 92 88 91; nominal 190; minimum 140; wet 1 160; wet 2 161; leak 1 70 crankcase 3; leak 2 72 crankcase 3; seen oil-use blow-by");
        decision.Best.Option.IsLeave.ShouldBeTrue();
        decision.Options.Single(o => o.Option == RepairOption.Of(Repair.Exchange)).Cured.ShouldBeGreaterThan(0.9);
        decision.Options.Single(o => o.Option == RepairOption.Of(Repair.Overhaul)).Cost.Days.Likely.ShouldBe(10);
    }

    [Theory]
    [InlineData("petrol 4; dry 190 188 189 191; seen coolant-in-cylinder coolant-loss; plug 3 coolant-wet")]
    [InlineData("petrol 4; dry 140 139 141 140; leak 1 8; leak 2 8; wet 1 146; wet 2 146; seen no-start timing-jumped")]
    public void Nobody_is_told_to_run_on_with_coolant_in_a_cylinder_or_timing_that_jumped(string job)
    {
        var decision = Of(job);
        decision.MustNotRunOn.ShouldBeTrue();
        decision.Options.ShouldNotContain(o => o.Option.IsLeave);
    }

    [Fact]
    public void A_test_that_tells_apart_what_one_repair_mends_is_worth_nothing()
    {
        // Intake or exhaust valve: the same head comes off for either, and hydraulic lifters leave nothing to set.
        var decision = Of("petrol 4; lifters hydraulic; dry 190 188 131 191; repeat 3 131; leak 3 85 exhaust 3");
        var tells = new double[Posterior.Answers * 2];
        for (var f = 0; f < Posterior.Answers; f++)
        {
            tells[2 * f + (f == Posterior.IndexOf(Fault.IntakeValve) ? 0 : 1)] = 1;
        }
        decision.Saves(2, tells).ShouldBe(0, 1e-6);
        EngineDiagnosis.Of(Whiteboard.Job("petrol 4; lifters hydraulic; dry 190 188 131 191; repeat 3 131; leak 3 85 exhaust 3"), ledger: false).Next.ShouldBeEmpty("no test would change what is done");
    }

    [Fact]
    public void Nothing_told_saves_nothing_everything_told_saves_most_and_two_together_no_less_than_either()
    {
        double[] nothing = [.. Enumerable.Repeat(1.0, Posterior.Answers)];
        var everything = new double[Posterior.Answers * Posterior.Answers];
        for (var f = 0; f < Posterior.Answers; f++)
        {
            everything[f * Posterior.Answers + f] = 1;
        }
        foreach (var job in new[] { "petrol 4; dry 190 188 131 191", "petrol 4; dry 190 150 131 191; repeat 2 150; repeat 3 131", "petrol 6 v 1-3-5/2-4-6; dry 190 188 131 191 120 119; seen misfire", "diesel 6; dry 420 418 300 421 415 410; seen white-smoke" })
        {
            var decision = Of(job);
            for (var i = 0; i < 4; i++)
            {
                decision.Saves(i, nothing).ShouldBe(0, 1e-6);
                decision.Saves(i, everything).ShouldBeInRange(0, decision.Perfect + 1e-6, job);
                decision.Saves([(i, everything)]).ShouldBeInRange(0, decision.Saves(i, everything) + 1e-6, "by kind of repair nothing is gained");
            }
            decision.Saves([(1, everything), (2, everything)]).ShouldBeGreaterThanOrEqualTo(Math.Max(decision.Saves([(1, everything)]), decision.Saves([(2, everything)])) - 1e-6);
            decision.Saves((_, _) => 0.5).ShouldBe(0, 1e-6);
        }
    }

    [Fact]
    public void What_is_struck_out_is_neither_chosen_nor_asked_about()
    {
        const string job = "petrol 4; lifters hydraulic; dry 190 188 131 191; leak 3 85 exhaust 3";
        using var read = new NodeLikelihoods(JobEvidence.Of(Whiteboard.Job(job)));
        var book = RepairBook.For(read.Job.Engine);
        using var inference = Inference.Of(read);
        var odds = inference.Repairs(RepairDecision.MostSets);
        var all = RepairDecision.Of(read.Job, odds, book, locked: false);
        var without = RepairDecision.Of(read.Job, odds, book, locked: false, new Dictionary<Repair, string> { [Repair.TopEnd] = "Sent away." });
        all.Best.Option.ShouldBe(RepairOption.Of(Repair.TopEnd));
        without.Options.ShouldNotContain(o => o.Option.Has(Repair.TopEnd));
        without.Struck.ShouldContain(s => s.Option.Option == RepairOption.Of(Repair.TopEnd) && s.Says == "Sent away." && Math.Abs(s.Option.Expected - all.Best.Expected) < 1e-6);
        without.Best.Expected.ShouldBeGreaterThanOrEqualTo(all.Best.Expected, "one option more never makes the best dearer");
    }

    [Fact]
    public void A_leak_down_before_the_head_comes_off_saves_minutes_and_says_so()
    {
        var next = EngineDiagnosis.Of(Whiteboard.Job("petrol 4; dry 190 188 131 191; repeat 3 132"), ledger: false).Next[0];
        (next.Kind, next.Cylinders[0]).ShouldBe((StepKind.LeakDown, 3));
        next.SavesMinutes!.Value.ShouldBeInRange(10, 150);
        // By rule of order first, not for what it saves.
        EngineDiagnosis.Of(Whiteboard.Job("petrol 4; with throttle-closed; dry 170 168 120 169"), ledger: false).Next[0].SavesMinutes.ShouldBeNull();
    }
}
