using Zandrik.Core.Practice;
using Zandrik.Core.Preparation;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Units;

namespace Zandrik.Core.Tests.Practice;

/// <summary>What is left undone at the practice bench shows in the numbers, and what is done too.</summary>
public sealed class PracticeBenchTests
{
    private static readonly PracticeCase Sound = PracticeCases.All.First(c => c is { Theme: PracticeTheme.NothingWrong, Level: PracticeLevel.Everyday });

    private static double Psi(PracticeStand stand, int compressions = PracticeBench.UsualCompressions, int attempt = 0, double oil = 0, double held = 0) =>
        PracticeBench.Crank(Sound, stand, 1, compressions, attempt, oil, held).FinalPa / PressureUnit.Psi.Pascals();

    [Fact]
    public void Each_line_that_is_not_ticked_really_changes_the_figure()
    {
        var ready = Psi(PracticeStand.Ready);
        var spec = Sound.Intake.Engine.Spec!;
        ready.ShouldBeInRange(0.9 * spec.Nominal!.Value, 1.08 * spec.Nominal.Value);
        (Psi(PracticeStand.Ready with { ThrottleOpen = false }) / ready).ShouldBeInRange(0.8, 0.97, "throttle shut");
        (Psi(PracticeStand.Ready with { Warm = false }) / ready).ShouldBeInRange(0.8, 0.97, "cold");
        (Psi(PracticeStand.Ready with { WeakBattery = 0.55 }) / ready).ShouldBeInRange(0.9, 0.99, "weak battery");
        (Psi(PracticeStand.Ready with { RightAdapter = false }) / ready).ShouldBeInRange(0.85, 0.99, "an adapter that adds to the chamber");
        (Psi(PracticeStand.Ready, compressions: 2) / ready).ShouldBeInRange(0.6, 0.9, "two compressions");
        var slow = PracticeBench.Crank(Sound, PracticeStand.Ready with { PlugsOut = false }, 1, 7, 0);
        slow.Rpm.ShouldBeLessThan(PracticeBench.Crank(Sound, PracticeStand.Ready, 1, 7, 0).Rpm - 5, "plugs left in");
        Psi(PracticeStand.Ready, oil: 10).ShouldBeGreaterThan(ready, "oil seals a little of any cylinder");
        Psi(PracticeStand.Ready with { Bled = false }, held: 1.5e6).ShouldBe(1.5e6 / PressureUnit.Psi.Pascals(), 0.01, "a gauge that was not bled");
        Psi(PracticeStand.Ready, held: 1.5e6).ShouldBe(ready, 1e-9);
    }

    [Fact]
    public void What_could_hurt_somebody_is_refused_with_what_to_do()
    {
        var lines = PreparationList.For(Sound.Intake.Engine);
        var all = lines.ToDictionary(l => l.Item, l => l.Ways.Count > 0 ? l.Ways[0].Word : null);
        PracticeStand.Of(all).RefusesCranking.ShouldBeNull();
        PracticeStand.Of(all).Missing(Sound.Intake.Engine).ShouldBeEmpty();
        foreach (var item in new[] { PreparationItem.Fuel, PreparationItem.Ignition, PreparationItem.Clear })
        {
            var without = all.Where(l => l.Key != item).ToDictionary();
            PracticeStand.Of(without).RefusesCranking.ShouldNotBeNull().ShouldContain("Prepare");
        }
        PracticeStand.Of(new Dictionary<PreparationItem, string?>()).Missing(Sound.Intake.Engine).ShouldBe(["engine cold", "throttle shut", "other plugs in", "battery weak", "wrong adapter", "gauge not bled"]);
        var one = all.ToDictionary();
        one[PreparationItem.Plugs] = "one-at-a-time";
        PracticeStand.Of(one).PlugsOut.ShouldBeFalse();
    }

    [Fact]
    public void A_trap_shows_until_it_is_seen_to()
    {
        double First(PracticeCase c, PracticeStand stand, int at, int attempt) => PracticeBench.Crank(c, stand, at, 7, attempt).FinalPa;
        foreach (var c in PracticeCases.All.Where(c => c.Trap is PracticeTrap.CheckValveInHead or PracticeTrap.GaugeReadsLow))
        {
            (First(c, PracticeStand.Ready, 1, 0) / First(c, PracticeStand.Ready with { SecondGauge = true }, 1, 0)).ShouldBeInRange(0.75, 0.9);
            PracticeBench.LookOver(c, PracticeStand.Ready).ShouldContain("second gauge");
        }
        var seal = PracticeCases.All.First(c => c.Trap == PracticeTrap.SealLeaks);
        (First(seal, PracticeStand.Ready, seal.TrapAt!.Value, 0) / First(seal, PracticeStand.Ready, seal.TrapAt.Value, 1)).ShouldBeInRange(0.5, 0.92);
        var valve = PracticeCases.All.First(c => c.Trap == PracticeTrap.LeakValveLeftIn);
        PracticeBench.LeakDown(valve, PracticeStand.Ready, 1, 0).Percent.ShouldBe(0);
        PracticeBench.LeakDown(valve, PracticeStand.Ready, 1, 1).Percent.ShouldBeGreaterThan(5);
    }

    [Fact]
    public void Air_is_heard_where_it_goes_and_less_where_nothing_was_opened()
    {
        var exercise = PracticeCases.All.First(c => c.Truths is [{ Fault: Fault.IntakeValve, Severity: > 1 }] && c.Theme == PracticeTheme.Valves);
        var at = exercise.Truths[0].Cylinder;
        var leak = PracticeBench.LeakDown(exercise, PracticeStand.Ready, at, 0);
        leak.Percent.ShouldBeGreaterThan(40);
        PracticeSound Hear(ListeningPlace place, params PreparationItem[] shut) => PracticeBench.Listen(exercise, PracticeStand.Ready, at, leak, place, null, shut);
        Hear(ListeningPlace.Intake).Strength.ShouldBe(HeardStrength.Strong);
        Hear(ListeningPlace.Intake, PreparationItem.AirPath).Db.ShouldBeLessThan(Hear(ListeningPlace.Intake).Db - 8);
        Hear(ListeningPlace.Exhaust).Strength.ShouldBeNull();
        Hear(ListeningPlace.Coolant, PreparationItem.CoolantCap).Strength.ShouldBeNull();
        var wrong = PracticeBench.LeakDown(exercise, PracticeStand.Ready, exercise.IsFaulty(1) ? 2 : 1, 0, wrongStroke: true);
        wrong.Percent.ShouldBeGreaterThan(70, "a turn away from compression both valves stand a little open");
        var gasket = PracticeCases.All.First(c => c.Truths is [{ Fault: Fault.GasketAdjacent }]);
        var (a, b) = (gasket.Truths[0].Cylinder, gasket.Truths[0].With!.Value);
        var between = PracticeBench.LeakDown(gasket, PracticeStand.Ready, b, 0);
        PracticeBench.Listen(gasket, PracticeStand.Ready, b, between, ListeningPlace.AdjacentPlugHole, a, []).Strength.ShouldNotBeNull();
    }

    [Fact]
    public async Task A_capture_can_be_read_by_whoever_reads_captures()
    {
        var exercise = PracticeCases.All.First(c => c is { Theme: PracticeTheme.Valves, Level: PracticeLevel.Clear });
        var file = PracticeBench.Capture(exercise, PracticeStand.Ready);
        var found = await CaptureFile.InspectAsync(new MemoryStream(file), cancel: TestContext.Current.CancellationToken);
        found.Problem.ShouldBeNull();
        var read = await CaptureFile.ReadAsync(new MemoryStream(file), found.Layout, null, TestContext.Current.CancellationToken);
        var engine = exercise.Engine.Engine;
        var answer = RelativeAnalysis.Of(read.Trace!, new CaptureQuestion { FiringOrder = engine.FiringOrder, Fuel = engine.Fuel, CompressionRatio = engine.CompressionRatio, Sync = SyncKind.EveryCycle });
        answer.Refused.ShouldBeNull();
        answer.Slots.MinBy(c => c.RelativePercent)!.Cylinder.ShouldBe(exercise.Truths[0].Cylinder);
    }

    [Fact]
    public void A_running_gauge_holds_the_start_until_it_is_bled()
    {
        var trapped = PracticeBench.Running(Sound, PracticeStand.Ready, 1, 0, snap: false);
        var idle = PracticeBench.Running(Sound, PracticeStand.Ready, 1, 1, snap: false);
        trapped.ShouldBeGreaterThan(1.3 * idle);
        (PracticeBench.Running(Sound, PracticeStand.Ready, 1, 2, snap: false) / idle).ShouldBeInRange(0.97, 1.03);
        PracticeBench.Running(Sound, PracticeStand.Ready, 1, 2, snap: true).ShouldBeGreaterThan(idle);
    }

    [Fact]
    public void A_trace_is_kept_and_read_as_it_was()
    {
        var reading = PracticeBench.Crank(Sound, PracticeStand.Ready, 2, 5, 0);
        reading.PulsesPa.Count.ShouldBe(5);
        var packed = reading.Trace.Pack();
        var back = PressureTrace.Unpack(packed).ShouldNotBeNull();
        back.IntervalS.ShouldBe(reading.Trace.IntervalS);
        back.Pa.ShouldBe(reading.Trace.Pa);
        reading.TurnsRad.Count.ShouldBe(back.Pa.Count);
        PressureTrace.Unpack(packed.AsSpan(0, packed.Length - 1)).ShouldBeNull();
        PressureTrace.Unpack([]).ShouldBeNull();
        packed[0] = 0;
        PressureTrace.Unpack(packed).ShouldBeNull();
    }

    [Fact]
    public void The_clock_counts_by_the_table_of_the_plan()
    {
        var prepared = new Dictionary<PreparationItem, string?> { [PreparationItem.Warm] = "warm", [PreparationItem.Plugs] = "all-out", [PreparationItem.Fuel] = "pump-relay" };
        PracticeClock.Minutes(4, new Dictionary<PreparationItem, string?>(), []).ShouldBe(0);
        PracticeClock.Minutes(4, prepared, []).ShouldBe(15 + 8 + 1);
        PracticeClock.Minutes(4, prepared, [new(PracticeAct.Dry, 1), new(PracticeAct.Dry, 2), new(PracticeAct.Hazard)]).ShouldBe(24 + 5 + 4);
        PracticeClock.Minutes(4, new Dictionary<PreparationItem, string?>(), [new(PracticeAct.LeakDown, 1), new(PracticeAct.FeelStroke), new(PracticeAct.Check, null, null, "combustion-gas-test"), new(PracticeAct.Running, 2), new(PracticeAct.Running, 2)])
            .ShouldBe(16 + 1 + (RecordWords.TryParse<StepKind>("combustion-gas-test", out _) ? 10 : 0) + 12);
    }
}
