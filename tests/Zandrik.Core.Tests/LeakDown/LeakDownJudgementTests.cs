using Zandrik.Core.Conditions;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using static Zandrik.Core.Tests.Cases;

namespace Zandrik.Core.Tests.LeakDown;

public sealed class LeakDownJudgementTests
{
    private static readonly EngineSheet Four = Inline(4, 205, 150) with { FiringOrder = [1, 3, 4, 2] };

    private static HeardAir Heard(ListeningPlace at, HeardStrength strength = HeardStrength.Clear, int? cylinder = null) => new() { At = at, Strength = strength, Cylinder = cylinder };

    private static LeakDownReading Held(int cylinder, double held, params HeardAir[] heard) =>
        new() { Cylinder = cylinder, Held = held, Heard = heard.Length > 0 ? heard : null };

    private static LeakDownJudgement Judge(IEnumerable<LeakDownReading> readings, double?[]? dry = null, EngineSheet? engine = null, double? supply = 100, double? restrictionMm = 1.0, JudgeBy? judgeBy = null)
    {
        var record = new TestRecord
        {
            Engine = engine ?? Four,
            JudgeBy = judgeBy,
            Tests = dry is null ? null : [new DryCompressionTest { Readings = [.. dry.Select((v, i) => new CompressionReading { Cylinder = i + 1, Value = v }).Where(r => r.Value is not null)] }],
        };
        return LeakDownJudgement.Of(record, new LeakDownTest
        {
            Unit = PressureUnit.Psi, Supply = supply, Readings = [.. readings], Tester = new Tester { Label = "L", RestrictionMm = restrictionMm },
        });
    }

    [Fact]
    public void Loss_is_supply_less_held_over_supply_with_the_area_beside_it()
    {
        var two = Judge([Held(2, 30, Heard(ListeningPlace.AdjacentPlugHole, HeardStrength.Strong, 3))]).Cylinders[1];
        two.Percent!.Value.ShouldBe(70, 1e-9);
        two.AreaMm2!.Value.ShouldBe(1.61, 0.01);
        two.State.ShouldBe(LeakState.Bad);
        // A supply read with the reading wins over that of the test.
        Judge([Held(2, 30) with { Supply = 60 }]).Cylinders[1].Percent!.Value.ShouldBe(50, 1e-9);
        // A percent scale gives its figure itself.
        Judge([new LeakDownReading { Cylinder = 1, LeakPercent = 35 }], supply: null).Cylinders[0].State.ShouldBe(LeakState.Watch);
    }

    [Theory]
    [InlineData(LeakDownMethod.Strict, 10, LeakState.Good)]
    [InlineData(LeakDownMethod.Strict, 10.5, LeakState.Watch)]
    [InlineData(LeakDownMethod.Strict, 20.5, LeakState.Bad)]
    [InlineData(LeakDownMethod.Workshop, 20, LeakState.Good)]
    [InlineData(LeakDownMethod.Workshop, 40, LeakState.Watch)]
    [InlineData(LeakDownMethod.Workshop, 41, LeakState.Bad)]
    [InlineData(LeakDownMethod.Zone, 40, LeakState.Good)]
    [InlineData(LeakDownMethod.Zone, 70, LeakState.Watch)]
    [InlineData(LeakDownMethod.Zone, 71, LeakState.Bad)]
    public void Each_method_has_its_limits_inclusive_on_the_good_side(LeakDownMethod method, double percent, LeakState state)
    {
        Judge([Held(1, 100 - percent)], judgeBy: new JudgeBy { LeakDownMethod = method }).Cylinders[0].State.ShouldBe(state);
        LeakDownJudgement.Methods(percent).Single(s => s.Method == method).State.ShouldBe(state);
    }

    [Fact]
    public void The_makers_figure_comes_before_any_method()
    {
        var engine = Four with { Spec = Four.Spec! with { MaxLeakPercent = 12 } };
        var judged = Judge([Held(1, 88), Held(2, 87), Held(3, 75)], engine: engine);
        judged.Cylinders.Select(c => c.State).ShouldBe([LeakState.Good, LeakState.Watch, LeakState.Bad, LeakState.Untested]);
        judged.Cylinders[2].Says.ShouldContain("twice the maker's 12 %");
    }

    [Fact]
    public void Another_restriction_or_supply_is_held_against_the_limits_through_the_area()
    {
        // 30 % through 1.5 mm is far more air than 30 % through 1.0 mm.
        var wide = Judge([Held(1, 70)], restrictionMm: 1.5).Cylinders[0];
        wide.Percent!.Value.ShouldBe(30, 1e-9);
        wide.ComparablePercent!.Value.ShouldBeGreaterThan(60);
        wide.State.ShouldBe(LeakState.Bad);
        // The same area at half the supply comes back as the same comparable loss.
        var full = Judge([Held(1, 60)]).Cylinders[0];
        var halfPercent = LeakFlow.Percent(full.AreaMm2!.Value / LeakFlow.RestrictionAreaMm2(1), 50 * 6894.757293168361);
        var half = Judge([Held(1, 50 * (1 - halfPercent / 100))], supply: 50);
        half.Cylinders[0].ComparablePercent!.Value.ShouldBe(40, 0.01);
        half.Validity.ShouldContain(n => n.Code == ValidityCode.LeakDownNonstandardSupply);
        Judge([Held(1, 60)], supply: 86).Validity.ShouldNotContain(n => n.Code == ValidityCode.LeakDownNonstandardSupply);
    }

    [Fact]
    public void Fifteen_points_above_the_median_is_a_finding_whatever_the_zone()
    {
        var judged = Judge([Held(1, 97), Held(2, 96), Held(3, 81), Held(4, 95)]);
        judged.MedianPercent!.Value.ShouldBe(4.5, 1e-9);
        judged.Cylinders[2].StandsOut.ShouldBeFalse();
        var wider = Judge([Held(1, 97), Held(2, 96), Held(3, 80), Held(4, 95)]);
        wider.Cylinders[2].StandsOut.ShouldBeTrue();
        wider.Cylinders[2].State.ShouldBe(LeakState.Watch);
        Judge([Held(1, 97), Held(3, 81)]).MedianPercent.ShouldBeNull();
    }

    [Fact]
    public void What_is_heard_changes_the_judgement()
    {
        var paths = new (HeardAir Heard, string Says)[]
        {
            (Heard(ListeningPlace.Intake), "intake valve"), (Heard(ListeningPlace.Exhaust), "exhaust valve"), (Heard(ListeningPlace.OilFiller), "rings"),
            (Heard(ListeningPlace.Coolant), "crack"), (Heard(ListeningPlace.AdjacentPlugHole, cylinder: 2), "head gasket between 2 and 3"), (Heard(ListeningPlace.OtherPlugHole, cylinder: 1), "by way of the manifold"),
        };
        foreach (var (heard, says) in paths)
        {
            Judge([Held(3, 50, heard)]).Cylinders[2].Says.ShouldContain(says);
        }
        // Bubbles alone are a finding, however little is lost.
        Judge([Held(1, 92)]).Cylinders[0].State.ShouldBe(LeakState.Good);
        Judge([Held(1, 92, Heard(ListeningPlace.Coolant, HeardStrength.Faint))]).Cylinders[0].State.ShouldBe(LeakState.Watch);
    }

    [Fact]
    public void A_pair_that_hears_each_other_is_named_as_a_pair() =>
        Judge([Held(2, 30, Heard(ListeningPlace.AdjacentPlugHole, HeardStrength.Strong, 3)), Held(3, 32, Heard(ListeningPlace.AdjacentPlugHole, HeardStrength.Strong, 2))])
            .Headline.ShouldBe("Air crosses between 2 and 3: head gasket between them.");

    [Fact]
    public void A_neighbours_hole_with_the_intake_heard_too_is_the_manifold_and_a_hole_further_off_always_is()
    {
        var both = Judge([Held(3, 50, Heard(ListeningPlace.Intake), Heard(ListeningPlace.AdjacentPlugHole, HeardStrength.Strong, 4))]).Cylinders[2];
        both.Air.ThroughManifold.ShouldBe([4]);
        both.Says.ShouldNotContain("gasket");
        // Only faint at the intake is no explanation.
        Judge([Held(3, 50, Heard(ListeningPlace.Intake, HeardStrength.Faint), Heard(ListeningPlace.AdjacentPlugHole, HeardStrength.Strong, 4))]).Cylinders[2].Says.ShouldContain("gasket between 3 and 4");
        // A record that calls hole 1 a neighbour of 3 is put right by the engine's layout.
        Judge([Held(3, 50, Heard(ListeningPlace.AdjacentPlugHole, HeardStrength.Clear, 1))]).Cylinders[2].Air.ThroughManifold.ShouldBe([1]);
    }

    [Fact]
    public void Places_stand_in_order_of_strength_and_a_hiss_at_the_filler_is_usual()
    {
        var air = Judge([Held(3, 50, Heard(ListeningPlace.OilFiller, HeardStrength.Faint), Heard(ListeningPlace.Exhaust, HeardStrength.Strong), Heard(ListeningPlace.Coolant, HeardStrength.Clear))]).Cylinders[2].Air;
        air.Says.ShouldBe("strong at exhaust; clear at coolant; faint at oil filler (normal)");
        Judge([Held(1, 92, Heard(ListeningPlace.OilFiller, HeardStrength.Faint))]).Cylinders[0].Air.Says.ShouldBe("faint at oil filler (normal)");
        Judge([Held(1, 92, new HeardAir { At = ListeningPlace.Nowhere })]).Cylinders[0].Air.IsSilent.ShouldBeTrue();
        Judge([Held(1, 92)]).Cylinders[0].Air.Listened.ShouldBeFalse();
    }

    public static TheoryData<LeakDownReading, double, LeakDoubt, string?> FalseOnes() => new()
    {
        { Held(2, 6, Heard(ListeningPlace.Exhaust, HeardStrength.Strong)), 200, LeakDoubt.WrongStroke, "leak-down-wrong-stroke" },
        { Held(2, 18), 200, LeakDoubt.OffTopDeadCentre, "leak-down-off-tdc" },
        { Held(2, 11), 192, LeakDoubt.OffTopDeadCentre, "leak-down-off-tdc" },
        { Held(2, 100), 200, LeakDoubt.CheckValveLeftIn, "leak-down-check-valve-left-in" },
        { Held(2, 104), 200, LeakDoubt.SupplyNotSet, "implausible-reading" },
        { Held(2, 50, new HeardAir { At = ListeningPlace.Nowhere }), 150, LeakDoubt.LossWithoutPlace, null },
    };

    [Theory]
    [MemberData(nameof(FalseOnes))]
    public void A_false_reading_is_recognised_and_weighs_nowhere(LeakDownReading reading, double dryOf2, LeakDoubt doubt, string? code)
    {
        LeakDownReading[] others = [Held(1, 95), Held(3, 94), Held(4, 93)];
        var with = Judge([.. others, reading], [205, dryOf2, 204, 206]);
        var without = Judge(others, [205, dryOf2, 204, 206]);
        with.Cylinders[1].Doubt.ShouldBe(doubt);
        with.Cylinders[1].State.ShouldBe(LeakState.NotUsed);
        if (code is not null)
        {
            with.Validity.ShouldContain(n => RecordWords.Of(n.Code) == code && n.Cylinders.Contains(2));
        }
        // Neither the median nor another cylinder's state knows of it.
        with.MedianPercent.ShouldBe(without.MedianPercent);
        with.Cylinders.Where(c => c.Cylinder != 2).Select(c => c.State).ShouldBe(without.Cylinders.Where(c => c.Cylinder != 2).Select(c => c.State));
        with.Headline.ShouldContain("in question");
    }

    [Fact]
    public void A_held_figure_without_any_supply_cannot_be_judged() =>
        Judge([Held(1, 80)], supply: null).Cylinders[0].Doubt.ShouldBe(LeakDoubt.SupplyNotSet);

    [Fact]
    public void A_true_zero_stands_once_the_hose_was_tried_but_a_wrong_stroke_never_does()
    {
        var zero = Judge([Held(1, 100) with { Confirmed = true }]).Cylinders[0];
        zero.State.ShouldBe(LeakState.Good);
        zero.Doubt.ShouldBeNull();
        Judge([Held(2, 6, Heard(ListeningPlace.Intake)) with { Confirmed = true }], [205, 200, 204, 206]).Cylinders[1].Doubt.ShouldBe(LeakDoubt.WrongStroke);
    }

    [Fact]
    public void A_low_dry_reading_makes_a_large_loss_believable()
    {
        var judged = Judge([Held(2, 6, Heard(ListeningPlace.Exhaust, HeardStrength.Strong))], [205, 60, 204, 206]);
        judged.Cylinders[1].State.ShouldBe(LeakState.Bad);
        judged.Headline.ShouldContain("exhaust valve");
        // Without a dry reading, heard at both valves, the stroke is asked about and the figure kept.
        var unknown = Judge([Held(2, 6, Heard(ListeningPlace.Exhaust, HeardStrength.Strong), Heard(ListeningPlace.Intake))]);
        unknown.Cylinders[1].State.ShouldBe(LeakState.Bad);
        unknown.Validity.ShouldContain(n => n.Code == ValidityCode.LeakDownWrongStroke && n.Severity == Severity.Caution);
    }

    [Fact]
    public void Oil_of_a_wet_test_marks_the_leak_down() =>
        Judge([Held(1, 90) with { Conditions = new TestConditions { OilBefore = true } }]).Validity.ShouldContain(n => n.Code == ValidityCode.OilBeforeLeakDown && n.Cylinders.Contains(1));

    [Fact]
    public void The_last_good_reading_is_judged_and_all_of_them_stay()
    {
        // The first was taken with the piston pushed away: a person says so. The last is a check valve left in.
        var judged = Judge([Held(2, 12) with { NotUsed = "the piston moved" }, Held(2, 64), Held(2, 100), Held(1, 90)]);
        var two = judged.Cylinders[1];
        (two.Percent, two.Disagrees).ShouldBe((36, false));
        two.Taken.Select(t => (t.IsJudged, t.WhyNot)).ShouldBe([(false, "the piston moved"), (true, null), (false, "nothing lost: check valve in the hose?")]);
        judged.Validity.ShouldNotContain(v => v.Code == ValidityCode.DoesNotRepeat);
        Judge([Held(2, 12) with { NotUsed = "the piston moved" }]).Cylinders[1].ShouldSatisfyAllConditions(
            c => c.State.ShouldBe(LeakState.Untested), c => c.Says.ShouldContain("the piston moved"), c => c.Taken.Count.ShouldBe(1));
    }

    [Fact]
    public void Readings_that_disagree_accuse_nobody_and_the_next_thing_is_to_read_again()
    {
        var judged = Judge([Held(2, 12, Heard(ListeningPlace.Intake, HeardStrength.Strong)), Held(2, 64), Held(2, 12, Heard(ListeningPlace.Intake, HeardStrength.Strong)), Held(1, 90)]);
        judged.Cylinders[1].State.ShouldBe(LeakState.Watch);
        judged.Headline.ShouldContain("does not repeat: 88, 36 and 88 %");
        judged.Validity.Single(v => v.Code == ValidityCode.DoesNotRepeat).Cylinders.ShouldBe([2]);
        Judge([Held(2, 60), Held(2, 64)]).Cylinders[1].Disagrees.ShouldBeFalse("the needle is no finer");
    }

    [Fact]
    public void Dry_and_with_oil_stand_side_by_side_and_the_dry_one_is_judged()
    {
        var record = new TestRecord
        {
            Engine = Four,
            Tests =
            [
                new LeakDownTest { Unit = PressureUnit.Psi, Supply = 100, Readings = [Held(2, 55), Held(2, 80) with { Oiled = true }] },
            ],
        };
        var two = LeakDownJudgement.Of(record, (LeakDownTest)record.Tests![0]).Cylinders[1];
        (two.AfterOil, two.State, two.Disagrees).ShouldBe((false, LeakState.Bad, false));
        two.Says.ShouldContain("20 % with oil: part of it goes past the rings");
        two.Taken.Select(t => t.AfterOil).ShouldBe([false, true]);
        // Nobody said so, but a wet reading stands before it: the order of the tests says it.
        record = record with { Tests = [new WetCompressionTest { Readings = [new CompressionReading { Cylinder = 2, Value = 150 }] }, new LeakDownTest { Supply = 100, Readings = [Held(2, 80)] }] };
        LeakDownJudgement.Of(record, (LeakDownTest)record.Tests[1]).Cylinders[1].AfterOil.ShouldBeTrue();
    }

    [Fact]
    public void Nothing_read_says_so_and_everything_tight_too()
    {
        Judge([]).Headline.ShouldBe("No reading yet.");
        Judge([Held(1, 95), Held(2, 94), Held(3, 93), Held(4, 96)]).Headline.ShouldBe("Every cylinder holds its air.");
    }

    [Fact]
    public void The_stroke_is_told_by_the_companion_where_there_is_one_and_not_by_rockers_on_hydraulic_lifters()
    {
        StrokeFinding.For(Four with { Lifters = Lifters.Solid }, 3).Select(w => w.Says).ShouldContain(s => s.Contains("valves of 2", StringComparison.Ordinal));
        StrokeFinding.For(Four with { Lifters = Lifters.Solid }, 3).ShouldContain(w => w.Says.Contains("rockers", StringComparison.Ordinal));
        StrokeFinding.For(Four with { Lifters = Lifters.Hydraulic }, 3).ShouldNotContain(w => w.Says.Contains("rockers", StringComparison.Ordinal));
        StrokeFinding.For(Inline(3) with { FiringOrder = [1, 3, 2] }, 3).ShouldNotContain(w => w.Says.Contains("overlap", StringComparison.Ordinal));
        StrokeFinding.For(Four, 4).ShouldContain(w => w.Says.Contains("timing mark", StringComparison.Ordinal));
        StrokeFinding.For(Four, 2).ShouldNotContain(w => w.Says.Contains("timing mark", StringComparison.Ordinal));
    }
}
