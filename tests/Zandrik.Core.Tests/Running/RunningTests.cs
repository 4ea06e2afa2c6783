using Zandrik.Core.Compression;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;
using Zandrik.Core.Running;
using Zandrik.Core.Safety;
using Zandrik.Core.Units;
using static Zandrik.Core.Tests.Cases;

namespace Zandrik.Core.Tests.Running;

public sealed class RunningTests
{
    private static readonly EngineSheet Four = Inline(4, 205, 150) with { Fuel = Fuel.Petrol, Throttle = ThrottleControl.Cable };

    private static TestRecord Job(params double?[] dry) => new()
    {
        Engine = Four,
        Tests = dry.Length == 0 ? null : [new DryCompressionTest { Unit = PressureUnit.Psi, Readings = [.. dry.Select((v, i) => new CompressionReading { Cylinder = i + 1, Value = v }).Where(r => r.Value is not null)] }],
    };

    private static RunningJudgement Judge(TestRecord job, params (double Idle, double Snap)[] read) =>
        RunningJudgement.Of(job, new RunningCompressionTest { Unit = PressureUnit.Psi, Readings = [.. read.Select((r, i) => new RunningReading { Cylinder = i + 1, Idle = r.Idle, Snap = r.Snap, Purged = true })] });

    [Fact]
    public void Idle_well_above_the_others_cannot_exhale_and_a_low_snap_cannot_inhale()
    {
        // Figures of the engine model: sound, moderate exhaust lobe, moderate intake lobe.
        var job = Job(205, 207, 206, 208);
        var exhale = Judge(job, (110, 180), (110, 179), (167, 167), (111, 181));
        exhale.Cylinders.Select(c => c.Breathing).ShouldBe([Breathing.Normal, Breathing.Normal, Breathing.CannotExhale, Breathing.Normal]);
        exhale.Headline.ShouldContain("3 cannot get the burnt charge out");
        var inhale = Judge(job, (110, 180), (108, 135), (109, 178), (111, 181));
        inhale.Cylinders[1].Breathing.ShouldBe(Breathing.CannotInhale);
        Judge(job, (110, 180), (108, 176), (109, 178), (111, 181)).Headline.ShouldContain("look away from the mechanics");
    }

    [Fact]
    public void The_trapped_cranking_peak_is_kept_out_of_every_comparison()
    {
        var job = Job(205, 207, 206, 208);
        var test = new RunningCompressionTest
        {
            Unit = PressureUnit.Psi,
            Readings =
            [
                new RunningReading { Cylinder = 1, Idle = 110, Snap = 180, Purged = true },
                new RunningReading { Cylinder = 2, Idle = 190, Snap = 195 },
                new RunningReading { Cylinder = 3, Idle = 112, Snap = 179, IdleReadings = [150, 112] },
            ],
        };
        var judged = RunningJudgement.Of(job, test);
        judged.Cylinders.Take(3).Select(c => c.Breathing).ShouldBe([Breathing.Normal, Breathing.Trapped, Breathing.Trapped]);
        judged.Validity.ShouldHaveSingleItem().Cylinders.ShouldBe([2, 3]);
        judged.Cylinders[0].IdleToOthers.ShouldBeNull();
        RunningJudgement.Agree([190, 118, 112]).ShouldBeTrue();
        RunningJudgement.Agree([190]).ShouldBeFalse();
    }

    [Fact]
    public void All_alike_is_a_cause_they_share()
    {
        var job = Job(200, 200, 200, 200);
        Judge(job, (160, 165), (162, 166), (158, 164), (161, 165)).Headline.ShouldContain("blocked exhaust");
        Judge(job, (100, 130), (102, 128), (99, 131), (101, 130)).Headline.ShouldContain("air path");
    }

    [Fact]
    public void It_waits_for_a_throttle_a_dry_cylinder_and_a_sound_dry_reading()
    {
        RunningRules.Forbids(Job()).ShouldBeNull();
        RunningRules.Forbids(new TestRecord { Engine = Four with { Fuel = Fuel.Diesel } })!.ShouldContain("throttle");
        RunningRules.Forbids(new TestRecord { Engine = Four with { Throttle = ThrottleControl.None } })!.ShouldContain("throttle");

        var dry = DryJudgement.Of(Four, (DryCompressionTest)Job(205, 140, null, 206).Tests![0]);
        RunningRules.ForbidsCylinder(dry, 1).ShouldBeNull();
        RunningRules.ForbidsCylinder(dry, 2)!.ShouldContain("low dry");
        var held = new LeakDownTest { Unit = PressureUnit.Psi, Supply = 100, Readings = [new LeakDownReading { Cylinder = 2, Held = 90 }] };
        RunningRules.ForbidsCylinder(dry, 2, LeakDownJudgement.Of(new TestRecord { Engine = Four, Tests = [held] }, held)).ShouldBeNull("low, and it holds its air: it may not breathe");
        // Without its own dry reading it may be run, and what it says is provisional.
        (RunningRules.ForbidsCylinder(dry, 3), RunningRules.IsProvisional(dry, 3)).ShouldBe((null, true));
        (RunningRules.ForbidsCylinder(null, 1), RunningRules.IsProvisional(null, 1)).ShouldBe((null, true));
        RunningRules.IsProvisional(dry, 1).ShouldBeFalse();
        var running = new RunningCompressionTest { Unit = PressureUnit.Psi, Readings = [new RunningReading { Cylinder = 2, IdleReadings = [78, 77], Idle = 77, Snap = 106, Purged = true, HeldThrottle = 140, Spark = SparkSeen.Blue }] };
        var alone = RunningJudgement.Of(new TestRecord { Engine = Four, Tests = [running] }, running).Cylinders[1];
        alone.Says.ShouldContain("Provisional");
        (alone.HeldThrottle!.Value.Value, alone.Spark).ShouldBe((140, SparkSeen.Blue));
    }

    [Fact]
    public void Idle_counts_once_two_agree_and_a_snap_ends_the_round()
    {
        var reading = RunningEntry.Idle(new RunningReading { Cylinder = 1 }, 140);
        reading.Purged.ShouldBeNull();
        RunningEntry.Snap(reading, 180).Refused!.ShouldContain("Idle first");
        RunningEntry.Snap(new RunningReading { Cylinder = 1 }, 180).Reading.ShouldBeNull();
        reading = RunningEntry.Idle(RunningEntry.Idle(reading, 110), 111);
        reading.Purged.ShouldBe(true);
        reading.IdleReadings.ShouldBe([140, 110, 111]);
        var snapped = RunningEntry.Snap(reading, 180).Reading!;
        (snapped.Idle, snapped.Snap).ShouldBe((111, 180));
        RunningEntry.Held(reading, 190).Refused!.ShouldContain("snap first");
        RunningEntry.Held(snapped, 190).Reading!.HeldThrottle.ShouldBe(190);
        // The next idle begins a new round; the finished one's figures do not count towards it.
        var again = RunningEntry.Idle(snapped, 109);
        again.IdleReadings.ShouldBe([109]);
        again.Snap.ShouldBeNull();
        again.Purged.ShouldBeNull();
    }

    [Fact]
    public void Every_line_has_to_be_ticked_for_this_cylinder_and_the_first_that_is_missing_is_named()
    {
        var job = Job(205, 207, 206, 208);
        var dry = LatestDryTest.Judged(job);
        var ticked = new HashSet<string>();
        foreach (var line in RunningLine.All)
        {
            RunningEntry.Refuses(job, JobSafety.Of(job), dry, 2, ticked.Contains).ShouldBe($"First: {line.Says}.");
            ticked.Add(line.ItemOf(2));
        }
        RunningEntry.Refuses(job, JobSafety.Of(job), dry, 2, ticked.Contains).ShouldBeNull();
        RunningEntry.Refuses(job, JobSafety.Of(job), dry, 3, ticked.Contains)!.ShouldContain("injector");
        RunningEntry.Refuses(Job(), JobSafety.Of(Job()), null, 2, ticked.Contains).ShouldBeNull();
    }
}
