using Zandrik.Core.Compression;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Diagnosis;

public sealed class EngineDiagnosisTests
{
    private static EngineDiagnosis Of(string job) => EngineDiagnosis.Of(Whiteboard.Job(job), ledger: false);

    [Theory]
    [InlineData("petrol 4", "Nothing measured yet: not enough to say.")]
    [InlineData("petrol 4; dry 190 188 191 189", "Every cylinder seals, as far as it was measured.")]
    [InlineData("petrol 4; dry 190 - - -", "Can't tell yet.")]
    [InlineData("petrol 4; dry 190 188 131 191", "Cylinder 3, can't tell yet: rings or bore, or the exhaust valve.")]
    [InlineData("petrol 4; dry 190 188 131 191; leak 3 85 exhaust 3 crankcase 1; seen exhaust-puffing", "Cylinder 3: almost certainly the exhaust valve.")]
    [InlineData("petrol 4; dry 190 120 122 191; leak 2 90 plughole3 3; leak 3 90 plughole2 3", "Cylinders 2 and 3: almost certainly the head gasket between them.")]
    [InlineData("petrol 4; with throttle-closed; dry 165 163 166 164", "The way of testing explains these readings, not the engine: put the test right and measure again.")]
    public void The_headline_is_one_plain_sentence(string job, string says) => Of(job).Headline.ShouldBe(says);

    [Fact]
    public void The_worst_cylinder_leads_the_headline_and_the_others_follow() =>
        Of("petrol 6; dry 190 150 60 191 189 152; leak 3 97 exhaust 3").Headline.ShouldMatch("^Cylinder 3: .* the exhaust valve; also 2 and 6\\.$");

    [Theory]
    [InlineData("petrol 4; dry 190 188 60 191", 3, CylinderState.Dead)] // under a third
    [InlineData("petrol 4; dry 190 188 131 191", 3, CylinderState.Low)]
    [InlineData("petrol 4; dry 190 188 165 191", 3, CylinderState.Watch)]
    [InlineData("petrol 4; dry 190 188 189 191", 3, CylinderState.Sound)]
    [InlineData("petrol 4; dry 190 - 189 191", 2, CylinderState.Untested)]
    [InlineData("petrol 4; rel 100 99 30 98", 3, CylinderState.Dead)]
    [InlineData("petrol 4; rel 100 99 75 98", 3, CylinderState.Low)]
    [InlineData("petrol 4; rel 100 99 86 98", 3, CylinderState.Watch)]
    [InlineData("petrol 4; dry 190 188 170 191; leak 3 60 exhaust 3; leak 1 9; leak 2 10", 3, CylinderState.Low)] // lost more than the limit, and it is believed
    [InlineData("petrol 4; dry 190 188 189 191; leak 3 60 exhaust 3; leak 1 9; leak 2 10", 3, CylinderState.Watch)] // lost as much, and the gauge says it seals
    [InlineData("petrol 4; dry 190 188 150 191; repeat 3 189", 3, CylinderState.Watch)] // does not repeat
    public void The_state_describes_the_readings(string job, int cylinder, CylinderState state) => Of(job).Cylinders[cylinder - 1].State.ShouldBe(state);

    [Theory]
    [InlineData("petrol 4", EngineState.Inconclusive)]
    [InlineData("petrol 6; dry 190 191 - - - -", EngineState.Inconclusive)] // under half
    [InlineData("petrol 6; dry 190 191 189 - - -", EngineState.Sound)]
    [InlineData("petrol 6; dry 190 131 - - - -; leak 2 85 exhaust 3", EngineState.Faulty)] // one that is known
    [InlineData("petrol 4; dry 190 188 131 191", EngineState.Faulty)]
    [InlineData("petrol 4; dry 190 188 165 191", EngineState.Watch)]
    [InlineData("petrol 4; with throttle-closed; dry 165 163 166 164", EngineState.Inconclusive)]
    [InlineData("petrol 4; dry 190 188 189 191; seen coolant-loss coolant-bubbles; gas positive", EngineState.Faulty)]
    [InlineData("petrol 4; seen coolant-loss coolant-bubbles; gas positive", EngineState.Faulty)] // with nothing measured in a cylinder
    public void The_engine_is_what_its_cylinders_and_causes_make_it(string job, EngineState state) => Of(job).State.ShouldBe(state);

    [Fact]
    public void Air_in_two_places_names_the_second_fault_too()
    {
        var c = Of("petrol 4; dry 190 188 110 191; leak 3 92 exhaust 3 crankcase 3; wet 3 112").Cylinders[2];
        c.AlsoLikely.ShouldNotBeEmpty();
        c.AlsoLikely.ShouldNotContain(c.Leading.Fault);
        Of("petrol 4; dry 190 188 131 191; leak 3 85 exhaust 3").Cylinders[2].AlsoLikely.ShouldBeEmpty();
    }

    [Fact]
    public void Suspects_are_cut_only_where_all_that_is_left_is_next_to_nothing()
    {
        foreach (var c in Of("petrol 4; dry 190 188 131 191; leak 3 85 exhaust 3").Cylinders)
        {
            c.Suspects.Sum(s => s.Probability).ShouldBeInRange(0.992, 1.0000001);
            c.Suspects.Select(s => s.Probability).ShouldBe(c.Suspects.Select(s => s.Probability).OrderDescending());
        }
    }

    [Fact]
    public void The_ends_of_a_row_have_no_gasket_outside()
    {
        var said = Of("petrol 4; dry 120 122 190 191");
        said.Cylinders[0].Suspects.Where(s => s.Fault == Fault.GasketAdjacent).Select(s => s.With).ShouldBe([2]);
        said.Cylinders[1].Suspects.First(s => s.Fault == Fault.GasketAdjacent).With.ShouldBe(1);
    }

    [Fact]
    public void A_cylinder_that_reads_low_because_of_the_test_is_not_blamed()
    {
        var c = Of("petrol 4; with throttle-closed; minimum 175; dry 165 163 166 164").Cylinders[1];
        c.Of(Fault.Sound).ShouldBeGreaterThan(0.8);
    }
}
