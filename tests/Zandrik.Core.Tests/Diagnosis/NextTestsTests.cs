using Zandrik.Core.Conditions;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Diagnosis;

/// <summary>The hard rules on top of bits and minutes.</summary>
public sealed class NextTestsTests
{
    private static IReadOnlyList<NextTest> Next(string job) => EngineDiagnosis.Of(Whiteboard.Job(job), ledger: false).Next;

    private static bool Offers(string job, StepKind kind) => Next(job).Any(n => n.Kind == kind);

    [Fact]
    public void Three_at_most_one_of_a_kind_each_with_minutes_and_a_reason()
    {
        foreach (var job in new[] { "petrol 4", "petrol 4; dry 190 188 131 191", "petrol 6; dry 190 188 131 191 120 119; seen misfire coolant-loss", "diesel 8; dry 420 418 300 421 415 410 416 419" })
        {
            var next = Next(job);
            next.Count.ShouldBeInRange(1, 3, job);
            next.Select(n => n.Kind).ShouldBeUnique();
            next.ShouldAllBe(n => n.Minutes > 0 && n.Why.Length > 10 && n.GainBits >= 0);
        }
    }

    [Fact]
    public void A_cold_engine_is_warmed_before_its_figures_are_compared_but_not_where_a_cylinder_has_less_than_half()
    {
        Next("petrol 4; dry 165 163 130 164; with cold")[0].ShouldSatisfyAllConditions(n => n.Kind.ShouldBe(StepKind.Dry), n => n.Why.ShouldContain("warm it up"));
        Next("petrol 4; dry 165 163 60 164; with cold").ShouldNotContain(n => n.Why.Contains("warm it up", StringComparison.Ordinal));
    }

    [Fact]
    public void Leak_down_comes_before_wet_on_a_cylinder_and_wet_only_where_it_is_allowed()
    {
        Offers("petrol 4; dry 190 188 160 191", StepKind.Wet).ShouldBeFalse();
        Offers("petrol 4; dry 190 188 160 191; repeat 3 160; leak 3 60", StepKind.Wet).ShouldBeTrue();
        Offers("diesel 4; dry 420 418 340 421; repeat 3 340; leak 3 60", StepKind.Wet).ShouldBeFalse("no leave for oil on this diesel");
        Offers("diesel 4; wetallowed; dry 420 418 340 421; repeat 3 340; leak 3 60", StepKind.Wet).ShouldBeTrue();
    }

    [Theory]
    [InlineData("diesel 4; dry 420 418 421 419; seen misfire rough-idle")]
    [InlineData("petrol 4; dry 190 188 189 191; seen misfire coolant-in-cylinder")]
    [InlineData("petrol 4; dry 190 188 189 191; seen misfire; plug 2 coolant-wet")]
    [InlineData("petrol 4; dry 190 188 189 191; seen misfire coolant-loss coolant-bubbles; gas positive")]
    public void Nothing_is_run_where_it_must_not_be(string job) => Offers(job, StepKind.Running).ShouldBeFalse();

    [Fact]
    public void A_test_error_is_put_right_before_anything_else() =>
        Next("petrol 4; with throttle-closed; dry 170 168 120 169")[0].ShouldSatisfyAllConditions(n => n.Kind.ShouldBe(StepKind.Dry), n => n.Cylinders.Count.ShouldBe(4), n => n.Why.ShouldContain("Put the test right"));

    [Fact]
    public void An_invalid_leak_down_is_read_again_first_and_its_setup_costs_nothing()
    {
        var first = Next("petrol 4; dry 190 188 189 191; leak 3 85 intake 3")[0];
        (first.Kind, first.Cylinders[0], first.Minutes).ShouldBe((StepKind.LeakDown, 3, 8));
        var begun = Next("petrol 4; dry 190 150 131 191; repeat 2 150; repeat 3 131; leak 3 85 exhaust 3").First(n => n.Kind == StepKind.LeakDown);
        begun.Minutes.ShouldBe(4, "the air is connected, and the crank is held");
    }

    [Fact]
    public void More_is_to_be_learnt_where_less_is_known()
    {
        double Bits(string job) => Next(job).Where(n => n.Kind == StepKind.LeakDown).Select(n => n.GainBits).DefaultIfEmpty(0).Max();
        Bits("petrol 4; dry 190 188 131 191; repeat 3 131").ShouldBeGreaterThan(Bits("petrol 4; dry 190 188 131 191; repeat 3 131; wet 3 160; plug 3 oil-wet; seen blow-by"));
    }

    [Fact]
    public void Actions_name_the_least_invasive_first_and_open_nothing_on_a_guess()
    {
        IReadOnlyList<ActionAdvice> Actions(string job) => EngineDiagnosis.Of(Whiteboard.Job(job), ledger: false).Actions;
        Actions("petrol 4; dry 190 188 131 191").ShouldNotContain(a => a.Action == RepairAction.HeadOff || a.Action == RepairAction.Overhaul);
        Actions("petrol 4; dry 190 188 131 191").ShouldContain(a => a.Action == RepairAction.MeasureMore && a.Says.StartsWith("Cylinder 3", StringComparison.Ordinal));
        Actions("petrol 4; dry 190 120 122 191; leak 2 90 plughole3 3; leak 3 90 plughole2 3").ShouldContain(a => a.Action == RepairAction.HeadOff && a.Says.StartsWith("Cylinders 2 and 3", StringComparison.Ordinal));
        Actions("petrol 4; dry 190 188 189 191").Single().Action.ShouldBe(RepairAction.None);
        Actions("petrol 4; dry 190 188 - -").ShouldContain(a => a.Action == RepairAction.CompleteTest);
        Actions("petrol 4; dry 190 188 131 191; leak 3 89 crankcase 3; wet 3 160; seen stood-long").ShouldContain(a => a.Action == RepairAction.FreeRings);
        var mixed = Actions("petrol 4; dry 190 - 131 191; leak 3 85 exhaust 3");
        mixed.Select(a => a.Action).ShouldBeInOrder();
    }

    [Fact]
    public void Leak_down_readings_that_lie_far_apart_are_read_again_before_anything_else()
    {
        LeakDownReading Lost(double percent) => new() { Cylinder = 2, LeakPercent = percent, Heard = percent > 50 ? [new HeardAir { At = ListeningPlace.Intake, Strength = HeardStrength.Strong }] : null };
        var said = EngineDiagnosis.Of(new TestRecord { Engine = new EngineSheet { Cylinders = 4, Fuel = Fuel.Petrol }, Tests = [new LeakDownTest { Readings = [Lost(85), Lost(33), Lost(86)] }] }, ledger: false);
        said.State.ShouldBe(EngineState.Inconclusive);
        // Three readings that lie apart are enough: then another test has to say it.
        said.Next.ShouldNotContain(n => n.Kind == StepKind.LeakDown && n.Cylinders.Contains(2));
        var next = EngineDiagnosis.Of(new TestRecord { Engine = new EngineSheet { Cylinders = 4, Fuel = Fuel.Petrol }, Tests = [new LeakDownTest { Readings = [Lost(85), Lost(33)] }] }, ledger: false).Next[0];
        next.Kind.ShouldBe(StepKind.LeakDown);
        next.Cylinders.ShouldBe([2]);
        next.Why.ShouldContain("before anything is opened");
        said.Validity.ShouldNotContain(v => v.Code == ValidityCode.LeakDownOffTdc, "nothing else was read that says it seals");
        said.Actions.ShouldNotContain(a => a.Action == RepairAction.HeadOff || a.Action == RepairAction.AdjustValves);
    }

    [Fact]
    public void Where_a_gasket_explains_it_the_others_need_not_be_run() =>
        EngineDiagnosis.Of(Whiteboard.Job("seen misfire rough-idle; dry 205 163 160 208; nominal 205; leak 1 8 crankcase 1; leak 2 68 plughole3 3; leak 3 70 plughole2 3"), ledger: false).Next.ShouldAllBe(t => t.Kind != StepKind.Running);

    [Theory]
    [InlineData("petrol 4; rel 100 99 55 100")]
    [InlineData("petrol 4; dry 190 188 131 191; repeat 3 131; rel 100 99 69 100; seen misfire")]
    public void Everything_read_at_a_cylinder_says_how_severe_it_is_before_it_is_asked_what_a_test_would_tell(string job)
    {
        using var read = new NodeLikelihoods(JobEvidence.Of(Whiteboard.Job(job)));
        var outcomes = read.Job.Table.Curves.Outcomes;
        var level = Array.IndexOf(read.Levels, read.Levels.MinBy(l => Math.Abs(l - (read.Job.ReferenceLn ?? read.Job.ExpectedLn))));
        // Written out for cylinder 3, which has a dry reading or none, and a share of the starter's current.
        double[] likely = [.. outcomes.Nodes.Select(n => n.Weight * read[read.Dry(2, level)][n.Node] * read[read.Relative(2)][n.Node])];
        var told = TestOutcomes.Information(Inference.Of(read, EvidenceStage.CombustionGas).Cylinders[2], outcomes.Shows(PossibleTest.LeakDown, 1, LeakFlow.RestrictionAreaMm2(LeakFlow.StandardRestrictionMm(null)), likely));
        Next(job).Single(n => n is { Kind: StepKind.LeakDown, Cylinders: [3] }).GainBits.ShouldBe(told, 0.0006);
    }
}
