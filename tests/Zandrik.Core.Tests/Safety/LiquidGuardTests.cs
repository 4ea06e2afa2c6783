using Zandrik.Core.Diagnosis;
using Zandrik.Core.Planning;
using Zandrik.Core.Records;
using Zandrik.Core.Safety;
using Zandrik.Core.Shops;
using Zandrik.Core.Tests.Diagnosis;
using static Zandrik.Core.Tests.Cases;

namespace Zandrik.Core.Tests.Safety;

public sealed class LiquidGuardTests
{
    private static readonly EngineSheet Four = Inline(4, 205, 150) with { Fuel = Fuel.Petrol, Throttle = ThrottleControl.Cable };
    private static readonly DateTimeOffset Now = new(2026, 3, 2, 9, 40, 0, TimeSpan.Zero);

    private static TestRecord Job(params TestEntry[] tests) => new() { Engine = Four, Tests = tests };

    private static PlugInspection Plug(int cylinder, PlugSign sign, int minute = 0) => new() { Readings = [new PlugReading { Cylinder = cylinder, Signs = [sign], At = Now.AddMinutes(minute) }] };

    private static SafetyEvent Tick(string item, string? way = null, bool done = true) => new(JobSafety.LiquidList, item, way, done, Now);

    private static SafetyEvent[] WholeWay(TestRecord job) => [Tick("plugs-out"), Tick("clear"), Tick("spun"), Tick(LiquidGuard.Dried, JobSafety.Of(job).Liquid.OpenKeys)];

    public static TheoryData<string, TestRecord> Signs => new()
    {
        { "intake chip", new TestRecord { Engine = Four, Observations = [Observation.CoolantInCylinder] } },
        { "swallowed", new TestRecord { Engine = Four, Observations = [Observation.IngestedLiquid] } },
        { "fluids", Job(new FluidsCheck { Findings = [FluidFinding.CoolantInCylinder] }) },
        { "intake tract", Job(new FluidsCheck { CoolantInIntake = true }) },
        { "coolant-wet", Job(Plug(2, PlugSign.CoolantWet)) },
        { "unknown", Job(Plug(2, PlugSign.WetUnknown)) },
    };

    [Theory]
    [MemberData(nameof(Signs))]
    public void Every_sign_of_liquid_locks_cranking_and_starting_and_puts_the_plugs_first(string what, TestRecord job)
    {
        var safety = JobSafety.Of(job);
        safety.ForbidsCranking!.ShouldContain("bends rods", customMessage: what);
        safety.ForbidsStart!.ShouldContain("Plugs out, everybody clear, crank with the holes open, dry it");
        RefitGuard.Refuses(safety, RefitGuard.Started, done: true).ShouldNotBeNull();
        RefitGuard.Refuses(safety, "counted", done: true).ShouldBeNull();
        string[] plan = [.. TestPlan.For(job with { Observations = [.. job.Observations ?? [], Observation.Misfire, Observation.CoolantLoss, Observation.LowPower, Observation.OilUse] }, null, new ShopSettings()).Select(s => RecordWords.Of(s.Kind))];
        plan[0].ShouldBe("liquid-out");
        plan.ShouldNotContain("crank-sound");
        plan.ShouldNotContain("relative-compression");
        plan.ShouldNotContain("compression-running");
        plan.ShouldNotContain("manifold-vacuum");
        plan.ShouldNotContain("blow-by");
    }

    [Theory]
    [MemberData(nameof(Signs))]
    public void No_next_test_starts_it_and_the_gas_test_is_done_without(string what, TestRecord job)
    {
        var measured = Whiteboard.Job("dry 190 188 189 191; seen misfire rough-idle coolant-loss");
        var record = measured with { Tests = [.. measured.Tests!, .. job.Tests ?? []], Observations = [.. measured.Observations!, .. job.Observations ?? []] };
        var said = EngineDiagnosis.Of(record, ledger: false);
        said.Next.ShouldNotContain(n => n.Kind == StepKind.Running || n.Kind == StepKind.Relative, what);
        said.Next.Where(n => n.Kind == StepKind.CombustionGas).ShouldAllBe(n => n.Why.Contains("not started", StringComparison.Ordinal));
    }

    [Fact]
    public void The_way_on_is_ticked_in_order_and_then_it_opens()
    {
        var job = Job(Plug(2, PlugSign.CoolantWet));
        var events = new List<SafetyEvent>();
        foreach (var e in WholeWay(job))
        {
            JobSafety.Of(job, events).ForbidsCranking.ShouldNotBeNull();
            JobSafety.Of(job, events).Liquid.Refuses(new(e.Item, e.Way, true)).ShouldBeNull();
            events.Add(e);
        }
        JobSafety.Of(job, events).ForbidsCranking.ShouldBeNull();
        JobSafety.Of(job, [Tick("plugs-out")]).Liquid.Refuses(new("spun", null, true))!.ShouldStartWith("First:");
        JobSafety.Of(job, [Tick("plugs-out"), Tick("clear"), Tick("spun")]).Liquid.Refuses(new(LiquidGuard.Dried, "something-else", true))!.ShouldContain("after you opened this page");
        JobSafety.Of(job, [.. events, Tick(LiquidGuard.Dried, JobSafety.Of(job).Liquid.OpenKeys, done: false)]).ForbidsCranking.ShouldNotBeNull("taken back");
    }

    [Fact]
    public void A_sign_that_is_found_later_locks_again_with_the_whole_way_before_it()
    {
        var job = Job(Plug(2, PlugSign.CoolantWet));
        var events = WholeWay(job);
        var later = JobSafety.Of(Job(Plug(2, PlugSign.CoolantWet), Plug(3, PlugSign.WetUnknown, 30)), events);
        later.Liquid.Open.ShouldHaveSingleItem().Cylinder.ShouldBe(3);
        later.Liquid.Next!.Word.ShouldBe("plugs-out");
        JobSafety.Of(Job(Plug(2, PlugSign.CoolantWet), Plug(2, PlugSign.CoolantWet, 30)), events).ForbidsCranking.ShouldNotBeNull("the same plug, wet again");
    }

    [Fact]
    public void Said_otherwise_it_is_no_liquid_any_more()
    {
        JobSafety.Of(Job(Plug(2, PlugSign.WetUnknown), Plug(2, PlugSign.FuelWet, 5))).ForbidsCranking.ShouldBeNull();
        JobSafety.Of(Job(new FluidsCheck { CoolantInIntake = true }, new FluidsCheck { CoolantInIntake = false })).ForbidsCranking.ShouldBeNull();
        JobSafety.Of(Job()).ForbidsCranking.ShouldBeNull();
    }
}
