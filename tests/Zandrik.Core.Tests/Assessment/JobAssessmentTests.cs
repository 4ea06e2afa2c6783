using CsCheck;
using Zandrik.Core.Assessment;
using Zandrik.Core.Compression;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Planning;
using Zandrik.Core.Records;
using Zandrik.Core.Reports;
using Zandrik.Core.Safety;
using Zandrik.Core.Shops;
using Zandrik.Core.Tests.Diagnosis;
using Zandrik.Core.Units;
using Zandrik.Core.Verdicts;

namespace Zandrik.Core.Tests.Assessment;

/// <summary>One job, judged once, for everybody who speaks of it.</summary>
public sealed class JobAssessmentTests
{
    private static readonly DateTimeOffset Ten = new(2026, 11, 5, 10, 0, 0, TimeSpan.Zero);

    private static SafetyEvent Did(string list, string item, string? way = null, int minutes = 0) => new(list, item, way, true, Ten.AddMinutes(minutes));

    [Fact]
    public void Whoever_is_given_it_says_the_same() => DiagnosisPropertyTests.Jobs.Sample(text =>
    {
        var job = JobAssessment.Of(Whiteboard.Job(text), progress: new JobProgress { Events = [], Shown = PressureUnit.Psi });
        var signed = VerdictSnapshot.Of(job);
        signed.Headline.ShouldBe(job.Headline);
        signed.State.ShouldBe(job.State);
        signed.Cylinders.Select(c => c.State).ShouldBe(job.States);
        signed.Next.Select(n => (n.Kind, n.Minutes)).ShouldBe(job.Next.Select(n => (n.Kind, n.Minutes)));
        signed.Owner.ShouldStartWith(OwnerParagraph.Of(job.Tests));
        // What is read of a test is what the diagnosis stands on: the same object, judged once.
        job.Tests.Dry.ShouldBeSameAs(job.Tests.Of(job.Tests.DryTest!));
        job.Diagnosis.Spread.ShouldBeSameAs(job.Tests.Dry!.Spread);
        job.Worst.ShouldBe(job.States.Max());
        (job.LeastSound is { } least && job.Diagnosis.Cylinders.Where(c => c.State != CylinderState.Untested).All(c => c.Of(Fault.Sound) >= least.Of(Fault.Sound))).ShouldBeTrue(text);
    }, iter: 60, seed: "0000Zandrik7");

    [Fact]
    public void A_test_that_was_only_begun_hides_none_that_was_read()
    {
        var record = Whiteboard.Job("dry 190 188 131 191; leak 3 85 exhaust 3; wet 3 160; run 1 100 165; rel 100 99 71 100");
        TestEntry[] begun = [new DryCompressionTest(), new LeakDownTest { Unit = PressureUnit.Psi }, new WetCompressionTest(), new RunningCompressionTest(), new RelativeCompressionTest()];
        var (before, after) = (JobAssessment.Of(record), JobAssessment.Of(record with { Tests = [.. record.Tests!, .. begun] }));
        after.States.ShouldBe(before.States);
        after.Headline.ShouldBe(before.Headline);
        after.Next.Select(n => (n.Kind, n.Minutes, n.GainBits)).ShouldBe(before.Next.Select(n => (n.Kind, n.Minutes, n.GainBits)));
        after.Tests.LeakDown!.Cylinders[2].Percent.ShouldBe(85);
        after.Tests.Relative.ShouldBeSameAs(after.Record.Tests!.OfType<RelativeCompressionTest>().First());
        // What is being done is the empty one all the same: there the next figure goes.
        after.StepOf(StepKind.Dry).ShouldBe(new StepProgress(StepKind.Dry, 0, 4, false));
    }

    [Fact]
    public void Test_that_is_no_part_of_the_job_is_judged_and_forgotten()
    {
        var tests = JobAssessment.Of(Whiteboard.Job("dry 190 188 131 191")).Tests;
        var fresh = new LeakDownTest { Unit = PressureUnit.Psi };
        tests.Of(fresh).ShouldNotBeSameAs(tests.Of(fresh));
    }

    [Fact]
    public void Air_that_is_on_is_the_only_next_step_and_liquid_the_first()
    {
        var record = Whiteboard.Job("dry 190 188 131 191");
        JobAssessment With(TestRecord of, params SafetyEvent[] events) => JobAssessment.Of(of, progress: new JobProgress { Events = events });
        var air = With(record, Did(JobSafety.CrankList, CrankGuard.Turned, "3"), Did(JobSafety.CrankList, CrankGuard.Air, minutes: 1));
        air.Next.ShouldHaveSingleItem().ShouldSatisfyAllConditions(n => n.Kind.ShouldBe(StepKind.AirOff), n => n.Cylinder.ShouldBe(3), n => n.IsSafety.ShouldBeTrue());
        var wet = With(record with { Observations = [Observation.CoolantInCylinder] });
        wet.Next[0].Kind.ShouldBe(StepKind.Liquid);
        wet.Next[0].Why.ShouldContain("does not compress");
        wet.Next.Skip(1).ShouldAllBe(n => !n.IsSafety);
        JobAssessment.Of(wet.Record, progress: new JobProgress { Events = [], IsClosed = true }).Next.ShouldAllBe(n => n.Kind != StepKind.Liquid, "a closed job takes nothing");
    }

    [Fact]
    public void What_is_begun_is_finished_first_while_it_is_in_hand()
    {
        var record = Whiteboard.Job("dry 190 188 131");
        var job = JobAssessment.Of(record, progress: new JobProgress { Events = [] });
        job.Next[0].ShouldSatisfyAllConditions(n => n.Kind.ShouldBe(StepKind.Dry), n => n.Cylinders.ShouldBe([4]), n => n.Minutes.ShouldBe(StepMinutes.DryAgain(1)));
        job.Next.Skip(1).ShouldAllBe(n => n.Kind != StepKind.Dry);
        // Alone it has nobody at the engine; with another test read since, somebody went on; where oil was left nothing is read dry.
        JobAssessment.Of(record).Next.Select(n => n.Kind).ShouldBe(job.Diagnosis.Next.Select(n => n.Kind));
        var wentOn = JobAssessment.Of(Whiteboard.Job("dry 190 188 131; leak 3 20 nowhere"), progress: new JobProgress { Events = [] });
        wentOn.Next.Select(n => n.Kind).ShouldBe(wentOn.Diagnosis.Next.Select(n => n.Kind));
        JobAssessment.Of(record, progress: new JobProgress { Events = [Did(JobSafety.OilList, WetGuard.Oiled, "4")] }).Next.ShouldAllBe(n => n.Kind != StepKind.Dry || !n.Cylinders.Contains(4));
        JobAssessment.Of(Whiteboard.Job("dry 190 188 131 191"), progress: new JobProgress { Events = [] }).Next.ShouldAllBe(n => n.Kind != StepKind.Dry || n.Cylinders.Count == 1);
    }

    [Theory]
    [InlineData(WetMethod.WetFirst, true)]
    [InlineData(WetMethod.LeakDownFirst, false)]
    [InlineData(WetMethod.Never, false)]
    public void The_shops_rule_on_oil_holds_in_the_next_steps(WetMethod method, bool offered)
    {
        // With the plugs read and the low reading repeated, oil is what tells next where the shop has it first.
        var record = Whiteboard.Job("dry 190 188 131 191; repeat 3 131; plug 3 normal");
        var job = JobAssessment.Of(record, new JobPolicy(new ShopSettings { Wet = method }), new JobProgress { Events = [] });
        job.Next.Any(n => n.Kind == StepKind.Wet).ShouldBe(offered);
        (job.Plan.Any(p => p.Kind == StepKind.Wet)).ShouldBe(method != WetMethod.Never);
    }

    [Fact]
    public void The_shops_limit_for_starter_current_decides_the_state()
    {
        var record = Whiteboard.Job("rel 100 99 82 100");
        JobAssessment By(double? limit) => JobAssessment.Of(record with { JudgeBy = limit is { } l ? new JudgeBy { RelativeLimitPercent = l } : null });
        By(95).States[2].ShouldBe(CylinderState.Low);
        By(70).States[2].ShouldNotBe(CylinderState.Low);
    }

    [Fact]
    public void Minutes_are_one_table()
    {
        var job = JobAssessment.Of(Whiteboard.Job("dry 190 188 131 191; repeat 3 131"), progress: new JobProgress { Events = [] });
        var leak = job.Next.First(n => n.Kind == StepKind.LeakDown);
        leak.Minutes.ShouldBe(StepMinutes.LeakDown(leak.Cylinders.Count));
        job.Plan.Single(p => p.Kind == StepKind.LeakDown).Minutes.ShouldBe(StepMinutes.LeakDown(1));
        var fresh = JobAssessment.Of(Whiteboard.Job("seen misfire"));
        fresh.Plan.Single(p => p.Kind == StepKind.Relative).Minutes.ShouldBe((int)fresh.Next.Single(n => n.Kind == StepKind.Relative).Minutes);
        fresh.Plan.Single(p => p.Kind == StepKind.Dry).Minutes.ShouldBe(StepMinutes.Dry(4));
        (fresh.MinutesLeft.Sure, fresh.MinutesLeft.IfNeeded).ShouldBe(TestPlan.Minutes(fresh.Plan));
        job.MinutesLeft.Sure.ShouldBeLessThan(TestPlan.Minutes(job.Plan).Sure, "what is read dry is not left");
    }

    [Theory]
    [InlineData("seen misfire", JobStage.Waiting)]
    [InlineData("dry 190 188", JobStage.BeingMeasured)]
    [InlineData("dry 190 188 131 191", JobStage.ToDecide)]
    [InlineData("leak 3 85 exhaust 3", JobStage.BeingMeasured)]
    [InlineData("gas positive", JobStage.BeingMeasured)]
    public void A_board_knows_how_far_it_is(string text, JobStage stage)
    {
        var record = Whiteboard.Job(text);
        JobAssessment.Of(record).Stage.ShouldBe(stage);
        var signed = JobAssessment.Of(record, progress: new JobProgress { Signed = new SignedAnswer("Cylinder 3: the exhaust valve.", "M. Ostrel") });
        signed.Stage.ShouldBe(JobStage.Signed);
        signed.Headline.ShouldBe("Cylinder 3: the exhaust valve.");
        signed.Diagnosis.Headline.ShouldBe(JobAssessment.Of(record).Headline, "Zandrik's own stands beside it");
    }

    [Fact]
    public void Steps_count_what_was_done_and_time_goes_to_the_step_it_was_done_at()
    {
        var record = Whiteboard.Job("dry 190 188 131 191; leak 3 85 exhaust 3");
        var job = JobAssessment.Of(record, progress: new JobProgress
        {
            Events = [Did(JobSafety.PrepareList, "plugs", minutes: 0), Did(JobSafety.PrepareList, "throttle", minutes: 4), Did(JobSafety.LeakList, "oil-cap", minutes: 10), Did(JobSafety.OilList, "oiled", "3", 16)],
        });
        job.StepOf(StepKind.Prepare).Done.ShouldBe(2);
        job.StepOf(StepKind.Prepare).IsOver.ShouldBeFalse();
        job.StepOf(StepKind.Dry).ShouldBe(new StepProgress(StepKind.Dry, 4, 4, true));
        job.StepOf(StepKind.LeakDown).ShouldBe(new StepProgress(StepKind.LeakDown, 1, 4, true), "only the low one was asked about");
        job.StepOf(StepKind.Fluids).ShouldBe(new StepProgress(StepKind.Fluids, 0, 0, false));
        job.Spent[StepKind.Prepare].ShouldBe(TimeSpan.FromMinutes(4));
        job.Spent[StepKind.LeakDown].ShouldBe(TimeSpan.FromMinutes(6));
        job.Spent[StepKind.Wet].ShouldBe(TimeSpan.FromMinutes(6));
        job.Refit.ShouldNotBeEmpty();
    }
}
