using Zandrik.Core.Compression;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Diagnosis;

/// <summary>Two tests that agree are no test error, and what neighbours hear of each other is a gasket at any loss.</summary>
public sealed class AgreementTests
{
    private static EngineDiagnosis Of(string job) => EngineDiagnosis.Of(Whiteboard.Job(job));

    [Theory]
    [InlineData("petrol 4; nominal 165; dry 165 163 {0} 166", "118 42", "96 55", "78 68", "58 81", "44 90")]
    [InlineData("petrol 6; nominal 165; dry 165 163 {0} 166 164 162", "140 34", "118 42", "78 68", "31 96")]
    [InlineData("diesel 4; dry 420 415 {0} 418", "360 34", "300 45", "240 60", "150 80")]
    public void Dry_low_its_repeat_agreeing_and_a_loud_place_are_no_test_error(string dry, params string[] steps)
    {
        foreach (var step in steps)
        {
            var (psi, loss) = (step.Split(' ')[0], step.Split(' ')[1]);
            foreach (var place in new[] { "intake", "exhaust", "crankcase", "coolant", "plughole2" })
            {
                var job = $"{string.Format(System.Globalization.CultureInfo.InvariantCulture, dry, psi)}; repeat 3 {psi}; leak 3 {loss} {place} 3";
                Of(job).Cylinders[2].Of(Fault.TestError).ShouldBeLessThan(0.05, job);
            }
        }
    }

    [Fact]
    public void A_repeat_that_agrees_makes_a_slip_a_tenth_as_likely_and_readings_count_with_their_mean()
    {
        CylinderEvidence Third(string job) => JobEvidence.Of(Whiteboard.Job(job)).Cylinders[2];
        var once = Third("petrol 4; dry 190 188 131 191");
        var twice = Third("petrol 4; dry 190 188 131 191; repeat 3 133");
        twice.TestErrorFactor.ShouldBe(once.TestErrorFactor / 10, 1e-9);
        Math.Exp(twice.LnDry!.Value).ShouldBe(132, 0.01);
        Third("petrol 4; dry 190 188 131 191; repeat 3 150").TestErrorFactor.ShouldBeGreaterThan(once.TestErrorFactor, "one that does not");
    }

    [Theory]
    [InlineData("petrol 4; dry 190 168 166 191; leak 2 24 plughole3 2; leak 3 25 plughole2 2", "2 3")]
    [InlineData("petrol 4; dry 190 186 185 191; leak 2 18 plughole3 2; leak 3 17 plughole2 2", "2 3")]
    [InlineData("petrol 6; dry 190 182 180 181 190 191; leak 2 22 plughole3 3; leak 3 25 plughole2 3 plughole4 3; leak 4 22 plughole3 3", "2 3 4")]
    [InlineData("diesel 6; dry 420 400 398 421 419 420; leak 2 20 plughole3 2; leak 3 19 plughole2 2", "2 3")]
    [InlineData("petrol 8 v 1-2-3-4/5-6-7-8; dry 190 188 191 190 189 180 181 190; leak 6 20 plughole7 3; leak 7 21 plughole6 3", "6 7")]
    public void Neighbours_that_hear_each_other_have_a_burnt_gasket_at_any_loss(string job, string cylinders)
    {
        var said = Of(job);
        var all = $"{job}\n{said.State}: {said.Headline}\n{string.Join("\n", said.Cylinders.Select(c => $"{c.Cylinder} {c.State} {string.Join(" ", c.Suspects.Take(3).Select(s => $"{s.Fault} {s.Probability:0.00}"))}"))}";
        foreach (var c in cylinders.Split(' ').Select(int.Parse))
        {
            said.Cylinders[c - 1].Of(Fault.GasketAdjacent).ShouldBeGreaterThan(0.88, all);
            said.Cylinders[c - 1].State.ShouldNotBe(CylinderState.Sound, all);
        }
        said.State.ShouldBe(EngineState.Faulty, all);
        said.Headline.ShouldContain("gasket between them", Case.Insensitive, all);
    }

    [Fact]
    public void Faint_air_from_both_sides_is_a_gasket_too_though_less_surely()
    {
        var said = Of("petrol 4; dry 190 186 185 191; leak 2 16 plughole3 1; leak 3 15 plughole2 1");
        said.Cylinders[1].Of(Fault.GasketAdjacent).ShouldBeInRange(0.6, 0.95);
        said.Headline.ShouldContain("2 and 3");
    }

    [Fact]
    public void A_row_of_burnt_webs_is_one_gasket_in_one_sentence()
    {
        var said = Of("petrol 6; dry 190 182 180 181 190 191; leak 2 22 plughole3 3; leak 3 25 plughole2 3 plughole4 3; leak 4 22 plughole3 3");
        said.Headline.ShouldBe("Cylinders 2, 3 and 4: almost certainly the head gasket between them.");
        said.Cylinders[2].Says.ShouldContain("the head gasket between 2, 3 and 4.");
        said.Actions.ShouldHaveSingleItem().Says.ShouldStartWith("Cylinders 2, 3 and 4:", Case.Sensitive, "the one in the middle is opened with the others");
        Zandrik.Core.Verdicts.VerdictAnswer.Of(said).Single(a => a.Cylinder == 3).Probability!.Value.ShouldBeGreaterThan(0.95, "so is what the owner is told of it");
    }

    // A blown gasket read dry only, as it comes in: what is said of a cylinder and what is said of them together is one story.
    [Fact]
    public void A_cylinder_of_a_row_says_no_less_than_the_row()
    {
        var said = Of("petrol 6; nominal 150; dry 148 80 43 43 53 117; with cold");
        foreach (var c in said.Cylinders.Where(c => c.Leading.Fault == Fault.GasketAdjacent && c.Of(Fault.GasketAdjacent) > FaultWords.Said))
        {
            c.Says.ShouldNotContain("Can't tell", Case.Sensitive, $"cylinder {c.Cylinder}: {c.Says}");
        }
        said.Cylinders.Count(c => c.Of(Fault.GasketAdjacent) > FaultWords.Said).ShouldBeGreaterThan(1);
    }

    [Fact]
    public void Air_that_only_one_of_two_neighbours_hears_is_not_certain_and_a_loss_without_any_is_none()
    {
        Of("petrol 4; dry 190 186 185 191; leak 2 18 plughole3 2; leak 3 17 nowhere").Cylinders[1].Of(Fault.GasketAdjacent).ShouldBeLessThan(0.6);
        Of("petrol 4; dry 190 186 185 191; leak 2 18 nowhere; leak 3 17 nowhere").Cylinders[1].Of(Fault.GasketAdjacent).ShouldBeLessThan(0.03);
    }
}
