using Zandrik.Core.Checks;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Planning;
using Zandrik.Core.Records;
using Zandrik.Core.Safety;
using Zandrik.Core.Shops;
using Zandrik.Core.Tests.Diagnosis;

namespace Zandrik.Core.Tests.Safety;

public sealed class JobSafetyTests
{
    private static readonly DateTimeOffset Now = new(2026, 3, 2, 9, 40, 0, TimeSpan.Zero);

    private static readonly TestRecord Sound = Whiteboard.Job("dry 190 188 189 191; seen misfire rough-idle");

    private static SafetyEvent Did(string list, string item, string? way = null, bool done = true, int minute = 0) => new(list, item, way, done, Now.AddMinutes(minute));

    private static SafetyEvent[] AirOn => [Did(JobSafety.CrankList, CrankGuard.Turned, "2"), Did(JobSafety.CrankList, CrankGuard.Air)];

    [Fact]
    public void Under_air_the_only_next_step_is_to_shut_it_off()
    {
        var safety = JobSafety.Of(Sound, AirOn);
        safety.AirOnAt.ShouldBe(2);
        safety.ForbidsUnderAir.ShouldBe("The air is on at cylinder 2. Air off first.");
        RefitGuard.Refuses(safety, "counted", done: true).ShouldNotBeNull();
        var said = EngineDiagnosis.Of(Sound, ledger: false, safety);
        said.Next.ShouldBeEmpty();
        said.AfterReassembly.ShouldBeEmpty();
        JobSafety.Of(Sound, [.. AirOn, Did(JobSafety.CrankList, CrankGuard.Air, done: false)]).ForbidsUnderAir.ShouldBeNull();
    }

    [Fact]
    public void With_the_plugs_out_running_waits_for_the_reassembly_and_nothing_is_cranked_to_listen()
    {
        var plugs = RecordWords.Of(PreparationItem.Plugs);
        SafetyEvent[] pulled = [Did(JobSafety.PrepareList, plugs, "all-out")];
        var safety = JobSafety.Of(Sound, pulled);
        safety.PlugsAreOut.ShouldBeTrue();
        foreach (var kind in new[] { StepKind.Running, StepKind.Relative, StepKind.CrankSound, StepKind.Vacuum, StepKind.BlowBy })
        {
            safety.Offers(kind).ShouldBeFalse($"{kind}");
        }
        var said = EngineDiagnosis.Of(Sound, ledger: false, safety);
        said.Next.ShouldNotContain(n => n.Kind == StepKind.Running);
        said.AfterReassembly.ShouldHaveSingleItem().Kind.ShouldBe(StepKind.Running);
        var back = JobSafety.Of(Sound, [.. pulled, Did(JobSafety.RefitList, plugs, minute: 30)]);
        back.PlugsAreOut.ShouldBeFalse();
        EngineDiagnosis.Of(Sound, ledger: false, back).Next.ShouldContain(n => n.Kind == StepKind.Running);
        JobSafety.Of(Sound with { Tests = null }, [Did(JobSafety.PrepareList, plugs, "one-at-a-time")]).Offers(StepKind.Running).ShouldBeTrue();
        // Nobody ticked it, but air went in through a plug hole.
        var leaked = JobSafety.Of(Whiteboard.Job("leak 2 85"), []);
        (leaked.PlugsAreOut, leaked.Offers(StepKind.Relative)).ShouldBe((true, false));
        JobSafety.Of(Sound with { Tests = null }, [Did(JobSafety.LeakList, plugs)]).Offers(StepKind.Relative).ShouldBeFalse();
    }

    [Fact]
    public void An_engine_that_does_not_start_is_offered_nothing_that_runs_it()
    {
        var job = Whiteboard.Job("dry 190 188 189 191; seen misfire no-start low-power coolant-loss oil-use");
        var safety = JobSafety.Of(job);
        EngineDiagnosis.Of(job, ledger: false).Next.ShouldNotContain(n => n.Kind == StepKind.Running);
        string[] plan = [.. TestPlan.For(job, null, new ShopSettings()).Select(s => RecordWords.Of(s.Kind))];
        plan.ShouldNotContain("compression-running");
        plan.ShouldNotContain("relative-compression");
        plan.ShouldNotContain("manifold-vacuum");
        plan.ShouldNotContain("blow-by");
        TestPlan.For(job, null, new ShopSettings()).Single(s => s.Kind == StepKind.CombustionGas).Why.ShouldContain("not started");
        SupportingCheck.Of(StepKind.CombustionGas)!.OrderFor(safety)[1].ShouldContain("under pressure");
        SupportingCheck.Of(StepKind.CombustionGas)!.OrderFor(JobSafety.Of(Sound))[2].ShouldContain("idle");
    }

    [Fact]
    public void No_wet_test_is_offered_where_shop_or_sheet_forbids_it()
    {
        const string low = "dry 190 188 131 191; leak 3 60 crankcase 2";
        NextTest[] Next(TestRecord job, ShopSettings? shop = null) => [.. EngineDiagnosis.Of(job, ledger: false, JobSafety.Of(job, shop: shop)).Next];
        var job = Whiteboard.Job(low);
        Next(job).ShouldContain(n => n.Kind == StepKind.Wet);
        Next(job, new ShopSettings { Wet = WetMethod.Never }).ShouldNotContain(n => n.Kind == StepKind.Wet);
        Next(job with { Engine = job.Engine with { Spec = new EngineSpec { WetAllowed = false } } }).ShouldNotContain(n => n.Kind == StepKind.Wet);
        JobSafety.Of(job, shop: new ShopSettings { Wet = WetMethod.Never }).Offers(StepKind.Wet).ShouldBeFalse();
    }

    [Fact]
    public void A_closed_job_takes_nothing()
    {
        var safety = JobSafety.Of(Sound, closed: true);
        safety.ForbidsWriting!.ShouldContain("closed");
        RefitGuard.Refuses(safety, "counted", done: false).ShouldNotBeNull();
        SupportingCheck.Locked(StepKind.Fluids, safety).ShouldNotBeNull();
    }

    [Fact]
    public void A_dry_reading_over_oil_is_never_recommended()
    {
        var job = Whiteboard.Job("dry 190 188 131 191; leak 3 60 crankcase 2; wet 3 150");
        JobSafety.Of(job).Oil.HoldOil.ShouldBe([3]);
        var said = EngineDiagnosis.Of(job, ledger: false);
        said.Next.ShouldNotContain(n => n.Kind == StepKind.Dry && n.Cylinders.Contains(3));
        said.Actions.ShouldNotContain(a => a.Checks.Any(c => c.StartsWith("the same cylinder again", StringComparison.Ordinal)));
    }
}
