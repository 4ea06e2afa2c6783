using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Tests.Diagnosis;

public sealed class NodeLikelihoodsTests
{
    private static JobEvidence Job(int cylinders = 4, CylinderArrangement layout = CylinderArrangement.Inline, params TestEntry[] tests) => JobEvidence.Of(new TestRecord
    {
        Engine = new EngineSheet { Cylinders = cylinders, Fuel = Fuel.Petrol, Layout = layout, DisplacementCc = 500 * cylinders, Throttle = ThrottleControl.Cable, Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = 190 } },
        Tests = tests,
    });

    private static JobEvidence Noticed(string text) => JobEvidence.Of(Whiteboard.Job(text));

    private static DryCompressionTest Dry(params double[] psi) => new() { Unit = PressureUnit.Psi, Readings = [.. psi.Select((v, i) => new CompressionReading { Cylinder = i + 1, Value = v })] };

    [Fact]
    public void What_was_not_read_is_one_row_for_all()
    {
        using var read = new NodeLikelihoods(Job(tests: Dry(190, 188, 191)));
        read.Dry(3, 2).ShouldBe(NodeLikelihoods.Unread);
        read.Wet(0, (0, 0)).ShouldBe(NodeLikelihoods.Unread);
        read.LeakDown(0, 0, aged: false, heard: true).ShouldBe(NodeLikelihoods.Unread);
        read.Running(0, new(0, 0)).ShouldBe(NodeLikelihoods.Unread);
        read.Relative(0).ShouldBe(NodeLikelihoods.Unread);
        read[NodeLikelihoods.Unread].ToArray().ShouldAllBe(x => x == 1);
    }

    [Fact]
    public void A_finding_is_worked_out_once_and_is_that_of_its_curve()
    {
        var job = Job(tests: [Dry(190, 188, 131, 189), new WetCompressionTest { Unit = PressureUnit.Psi, Readings = [new() { Cylinder = 3, Value = 150 }] }]);
        using var read = new NodeLikelihoods(job);
        var first = read.Wet(2, (0.1, 0.04));
        // More rows than were asked for at the start: they move, their places do not.
        for (var more = 0; more < 200; more++)
        {
            read.Wet(2, (more / 1000.0, 0.02));
        }
        read.Wet(2, (0.1, 0.04)).ShouldBe(first);
        var curve = job.Curves.Wet((0.1, 0.04), nearlyDead: false);
        for (var k = 0; k < job.Table.Nodes.Length; k += 11)
        {
            read[first][k].ShouldBe(curve.At(k, Math.Log(150.0 / 131)), 1e-12);
        }
    }

    [Fact]
    public void Levels_reach_from_below_the_highest_reading_to_above_it_and_again_for_each_shift_of_a_bank()
    {
        using var inline = new NodeLikelihoods(Job(tests: Dry(190, 188, 131, 189)));
        inline.Levels[0].ShouldBeLessThanOrEqualTo(Math.Log(190) - 0.12 + 1e-12);
        inline.Levels[^1].ShouldBe(Math.Log(190) + 0.06, 1e-12);
        inline.Levels.Zip(inline.Levels.Skip(1), (a, b) => b - a).ShouldAllBe(step => step > 0 && step <= 0.022 + 1e-12);
        inline.ShiftedLevels.ShouldBe(inline.Levels.Length);
        using var v = new NodeLikelihoods(Job(6, CylinderArrangement.V, Dry(190, 188, 189, 190, 190, 191)));
        v.ShiftedLevels.ShouldBe(4 * v.Levels.Length);
        var shifted = v[v.Dry(0, v.Levels.Length + 3)].ToArray();
        var curve = v.Job.Curves.Dry(v.Job.Cylinders[0].DrySpread);
        shifted[0].ShouldBe(curve.At(0, Math.Log(190) - (v.Levels[3] - 0.08)), 1e-12);
    }

    [Fact]
    public void Without_a_dry_reading_there_is_one_level()
    {
        using var read = new NodeLikelihoods(Job());
        read.Levels.ShouldBe([Math.Log(190)]);
    }

    [Fact]
    public void No_level_gives_more_than_the_most()
    {
        using var read = new NodeLikelihoods(Job(tests: Dry(190, 188, 131, 189)));
        for (var c = 0; c < 4; c++)
        {
            for (var level = 0; level < read.Levels.Length; level++)
            {
                var like = read[read.Dry(c, level)].ToArray();
                like.Zip(read.DryAtMost(c).ToArray(), (x, most) => most - x).ShouldAllBe(left => left >= -1e-12);
            }
        }
    }

    [Fact]
    public void Ears_count_only_when_they_are_asked_for()
    {
        var job = Job(tests: [Dry(190, 188, 131, 189), new LeakDownTest { Unit = PressureUnit.Psi, Supply = 100, Readings =
            [new() { Cylinder = 3, LeakPercent = 60, Heard = [new HeardAir { At = ListeningPlace.Exhaust, Strength = HeardStrength.Strong }] }, new() { Cylinder = 4, LeakPercent = 10 }] }]);
        using var read = new NodeLikelihoods(job);
        read.LeakDown(2, 0, aged: false, heard: true).ShouldNotBe(read.LeakDown(2, 0, aged: false, heard: false));
        read.LeakDown(3, 0, aged: false, heard: true).ShouldBe(read.LeakDown(3, 0, aged: false, heard: false));
        double Share(bool heard)
        {
            var like = read[read.LeakDown(2, 0, aged: false, heard)].ToArray();
            double Of(Fault f) => like[job.Table.OfFault[Posterior.IndexOf(f)].From..job.Table.OfFault[Posterior.IndexOf(f)].To].Sum();
            return Of(Fault.ExhaustValve) / Of(Fault.IntakeValve);
        }
        Share(heard: false).ShouldBe(1, 0.05);
        Share(heard: true).ShouldBeGreaterThan(10);
    }

    [Fact]
    public void What_was_noticed_shifts_odds_as_its_table_says_and_nothing_noticed_shifts_none()
    {
        using var silent = new NodeLikelihoods(Noticed("petrol 4; dry 190 188 131 189"));
        silent.Shift(EvidenceTarget.Cylinder, Fault.Rings).ShouldBe(1);
        silent.Shift(EvidenceTarget.Webs, Fault.None).ShouldBe(1);
        using var seen = new NodeLikelihoods(Noticed("petrol 4; dry 190 188 131 189; seen oil-use; seen overheated"));
        // 4 dB for rings, 5 for wear, 4 for webs, 5 for coolant in a cylinder.
        foreach (var (what, fault, db) in new[] { (EvidenceTarget.Cylinder, Fault.Rings, 4.0), (EvidenceTarget.Engine, Fault.GeneralWear, 5), (EvidenceTarget.Webs, Fault.None, 4), (EvidenceTarget.Coolant, Fault.None, 5), (EvidenceTarget.Cylinder, Fault.Piston, 0) })
        {
            (10 * Math.Log10(seen.Shift(what, fault))).ShouldBe(db, 1e-9, $"{what} {fault}");
            seen.Shift(what, fault).ShouldBe(seen.Shift(what, fault));
        }
    }
}
