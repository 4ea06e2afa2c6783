using CsCheck;
using Zandrik.Core.Assessment;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;
using Zandrik.Core.Safety;
using Zandrik.Core.Tests.Diagnosis;
using static Zandrik.Core.Tests.Cases;

namespace Zandrik.Core.Tests.Assessment;

public sealed class WayOnTests
{
    private static readonly DateTimeOffset Ten = new(2026, 11, 5, 10, 0, 0, TimeSpan.Zero);

    private static readonly JobProgress Begun = new() { Events = [] };

    private static WayOn At(StepKind step) => new(WayKind.Step, step);

    private static JobAssessment Job(JobProgress? progress = null, params TestEntry[] tests) =>
        JobAssessment.Of(new TestRecord { Engine = Inline(4, 205, 150), Tests = tests }, progress: progress ?? Begun);

    [Fact]
    public void Before_anything_is_measured_the_plan_says_where_to_go()
    {
        var job = Job();
        var order = job.Plan.Where(p => !p.IfNeeded).Select(p => (StepKind?)p.Kind).ToList();
        WayOn.From(job, new(WayKind.Plan)).Select(w => w.Step).Take(order.Count).ShouldBe(order);
        // From the preparation on to the plugs and from the plugs to the gauge, ticked or not.
        WayOn.From(job, At(StepKind.Prepare))[0].Step.ShouldBe(StepKind.Plugs);
        WayOn.From(job, At(StepKind.Plugs))[0].Step.ShouldBe(StepKind.Dry);
    }

    [Fact]
    public void A_test_that_nothing_is_read_of_yet_sends_nobody_away()
    {
        WayOn.From(Job(), At(StepKind.Dry)).ShouldBeEmpty();
        WayOn.From(Job(), At(StepKind.Relative)).ShouldBeEmpty();
        WayOn.From(Job(null, Dry(205, 203, 204, 120)), At(StepKind.Dry)).ShouldNotBeEmpty();
    }

    [Fact]
    public void What_keeps_people_safe_comes_alone_and_is_done_where_it_is_done()
    {
        var air = new JobProgress { Events = [new(JobSafety.CrankList, CrankGuard.Turned, "2", true, Ten), new(JobSafety.CrankList, CrankGuard.Air, null, true, Ten)] };
        var job = Job(air, Dry(205, 203, 204, 120));
        job.Safety.AirOnAt.ShouldBe(2);
        WayOn.From(job, new(WayKind.Verdict)).ShouldHaveSingleItem().Step.ShouldBe(StepKind.AirOff);
        WayOn.From(job, At(StepKind.LeakDown)).ShouldBeEmpty("it is shut off there");
    }

    [Fact]
    public void A_signed_job_goes_back_together_and_a_closed_one_nowhere()
    {
        var signed = Begun with { Signed = new SignedAnswer("Valve in 4", "Ostrel") };
        WayOn.From(Job(signed, Dry(205, 203, 204, 120)), new(WayKind.Verdict)).Select(w => w.Kind).ShouldBe([WayKind.Refit, WayKind.Decide, WayKind.JobSheet]);
        WayOn.From(Job(signed, Dry(205, 203, 204, 120)), new(WayKind.JobSheet)).Select(w => w.Kind).ShouldBe([WayKind.Refit, WayKind.Decide]);
        WayOn.From(Job(Begun with { IsClosed = true }), new(WayKind.Plan)).ShouldBeEmpty();
    }

    [Fact]
    public void Nobody_is_sent_where_he_is_and_no_way_comes_twice() => DiagnosisPropertyTests.Jobs.Sample(text =>
    {
        var job = JobAssessment.Of(Whiteboard.Job(text), progress: Begun);
        foreach (var here in Enum.GetValues<StepKind>().Select(At).Concat([new(WayKind.Plan), new(WayKind.Verdict), new(WayKind.Refit), new(WayKind.JobSheet)]))
        {
            var ways = WayOn.From(job, here);
            ways.ShouldNotContain(w => w.Kind == here.Kind && w.Step == here.Step);
            ways.Select(w => (w.Kind, w.Step)).ShouldBeUnique();
        }
    }, iter: 30, seed: "0000Zandrik8");
}
