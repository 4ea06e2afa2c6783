using Zandrik.Core.Compression;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using static Zandrik.Core.Tests.Cases;

namespace Zandrik.Core.Tests.Compression;

public sealed class DryPatternTests
{
    private static readonly EngineSheet V6 = new()
    {
        Fuel = Fuel.Petrol, Cylinders = 6, Layout = CylinderArrangement.V, Banks = [[1, 3, 5], [2, 4, 6]], Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = 205, Minimum = 150 },
    };

    private static DryPatternKind[] Kinds(EngineSheet engine, params double[] psi) => [.. Judge(engine, Dry(psi)).Patterns.Select(p => p.Kind)];

    [Fact]
    public void Each_pattern_is_named_by_the_places_of_its_cylinders()
    {
        var four = Inline(4, 205, 150);
        Kinds(four, 205, 203, 204, 120).ShouldBe([DryPatternKind.OddOne]);
        Kinds(four, 120, 122, 204, 205).ShouldBe([DryPatternKind.Neighbours]);
        Kinds(four, 205, 120, 122, 204).ShouldBe([DryPatternKind.Neighbours, DryPatternKind.MiddleOfBlock]);
        Kinds(four, 120, 203, 122, 205).ShouldBeEmpty("1 and 3 are no neighbours");
        Kinds(four, 145, 144, 146, 145).ShouldBe([DryPatternKind.EvenLow]);
        Kinds(four, 200, 201, 240, 199).ShouldBe([DryPatternKind.OneHigh]);
        Kinds(four, 205, 203, 204, 206).ShouldBeEmpty();
        Kinds(Inline(6, 205, 150), 205, 204, 120, 121, 203, 206).ShouldBe([DryPatternKind.Neighbours, DryPatternKind.MiddleOfBlock]);
    }

    [Fact]
    public void A_low_reading_that_was_repeated_is_not_asked_for_again()
    {
        var four = Inline(4, 205, 150);
        var test = Dry(205, 203, 204, 120);
        Judge(four, test).Patterns.Single().Says.ShouldContain("repeat it");
        var again = test with { Readings = [.. test.Readings!.Select(r => r.Cylinder == 4 ? r with { Repeats = [121] } : r)] };
        Judge(four, again).Patterns.Single().Says.ShouldBe("Cylinder 4 alone, and it repeats: leak-down tells which way it loses.");
    }

    [Fact]
    public void A_whole_bank_is_its_cam_and_not_three_bad_cylinders()
    {
        var judged = Judge(V6, Dry(205, 140, 203, 141, 204, 139));
        judged.Patterns.Single().ShouldSatisfyAllConditions(
            p => p.Kind.ShouldBe(DryPatternKind.WholeBank), p => p.Cylinders.ShouldBe([2, 4, 6]), p => p.Says.ShouldContain("cam timing"));
        // Across the banks nothing is a neighbour.
        Kinds(V6, 120, 121, 205, 204, 203, 206).ShouldBeEmpty();
    }

    [Fact]
    public void Cylinders_that_share_a_branch_of_the_intake_are_not_the_gasket()
    {
        var engine = Inline(4, 205, 150) with { IntakeBranches = [[1, 2], [3, 4]] };
        Kinds(engine, 120, 122, 204, 205).ShouldBe([DryPatternKind.SharedBranch]);
        Kinds(engine, 205, 120, 122, 204).ShouldContain(DryPatternKind.Neighbours, "2 and 3 share nothing");
    }

    [Fact]
    public void What_an_even_low_engine_may_have_follows_what_is_known()
    {
        var four = Inline(4, 205, 150);
        Judge(four, Dry(145, 144, 146, 145)).Patterns.Single().Says.ShouldContain("a throttle plate not open, slow cranking, the gauge");
        Judge(four with { Fuel = Fuel.Diesel, Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = 450, Minimum = 380 } }, Dry(340, 341, 342, 340)).Patterns.Single().Says.ShouldNotContain("throttle");
        Judge(four, Dry(Proper with { Throttle = ThrottlePlate.Closed }, 145, 144, 146, 145)).Patterns.Single().Says.ShouldContain("the error in this test");
    }

    [Fact]
    public void A_reading_that_does_not_repeat_accuses_nobody_yet()
    {
        var test = Dry(205, 203, 120, 204);
        test = test with { Readings = [.. test.Readings!.Select(r => r.Cylinder == 3 ? r with { Repeats = [160] } : r)] };
        var judged = Judge(Inline(4, 205, 150), test);
        judged.Cylinders[2].State.ShouldBe(CylinderState.Watch);
        judged.Codes().ShouldContain("does-not-repeat");
    }

    [Fact]
    public void A_chosen_order_of_testing_names_every_cylinder_once_and_methods_can_be_left_out()
    {
        var record = new TestRecord { Engine = Inline(4), Tests = [Dry(200, 200, 200, 200) with { TestOrder = [1, 3, 4, 4] }] };
        RecordRules.Check(record).Single().ShouldSatisfyAllConditions(p => p.Pointer.ShouldBe("/tests/0/testOrder"), p => p.Says.ShouldContain("2 is missing"));
        var only = new JudgeBy { MethodsInUse = [SpreadMethod.LowestToHighest], DecidingMethod = SpreadMethod.LowestToHighest };
        var rules = JudgingRules.For(Inline(4, maxDifference: 25), only);
        Enum.GetValues<SpreadMethod>().Where(rules.IsInUse).ShouldBe([SpreadMethod.LowestToHighest]);
    }
}
