using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Diagnosis;

public sealed class LedgerTests
{
    private const string Everything = "petrol 4; rel 100 99 72 98; dry 190 188 131 191; leak 3 85 exhaust 3; leak 1 10; wet 3 136; run 1 100 163; plug 3 normal; gas negative; seen misfire exhaust-puffing";

    private static CylinderSuspect Suspect(string job, int cylinder, Fault fault) => EngineDiagnosis.Of(Whiteboard.Job(job)).Cylinders[cylinder - 1].Suspects.First(s => s.Fault == fault);

    [Fact]
    public void Lines_stand_in_the_order_of_the_stages_with_the_base_rate_first()
    {
        string[] order = ["base-rate", "observations", "dry", "relative", "leak-down-amount", "leak-down-heard", "wet-excess-gain", "running", "plug", "combustion-gas", "small-findings"];
        foreach (var suspect in EngineDiagnosis.Of(Whiteboard.Job(Everything)).Cylinders.SelectMany(c => c.Suspects))
        {
            var places = suspect.Evidence.Select(e => Array.IndexOf(order, e.Finding)).ToList();
            places[0].ShouldBe(0);
            places.ShouldBe(places.Order());
            places.Distinct().Count().ShouldBe(places.Count);
        }
    }

    [Fact]
    public void A_line_names_its_test_by_its_place_in_the_record()
    {
        var lines = Suspect(Everything, 3, Fault.ExhaustValve).Evidence.ToDictionary(e => e.Finding);
        // rel, dry, leak, wet, run, plugs, gas.
        (lines["dry"].Test, lines["leak-down-heard"].Test).ShouldBe((1, 2));
        lines["base-rate"].Test.ShouldBeNull();
        lines["observations"].Test.ShouldBeNull();
        lines["observations"].Says.ShouldContain("exhaust puffing");
    }

    [Fact]
    public void What_was_read_here_is_told_from_what_was_read_at_the_others()
    {
        var here = Suspect("petrol 4; dry 190 188 131 191; leak 3 85 exhaust 3", 3, Fault.ExhaustValve);
        here.Evidence.First(e => e.Finding == "dry").Says.ShouldStartWith("dry, 69 % of the reference");
        here.Evidence.First(e => e.Finding == "leak-down-amount").Says.ShouldBe("leak-down, 85 % lost");
        var neighbour = Suspect("petrol 4; dry 190 120 - 191", 3, Fault.GasketAdjacent);
        neighbour.Evidence.First(e => e.Finding == "dry").Says.ShouldBe("dry of the others");
    }

    [Fact]
    public void A_slip_on_record_is_named_in_the_line_it_weighs_in() =>
        Suspect("petrol 4; with throttle-closed; dry 170 168 95 169", 3, Fault.ExhaustValve).Evidence.First(e => e.Finding == "dry").Says.ShouldEndWith("weighed with the test error on record");

    [Theory]
    [InlineData(150, " more than a sound cylinder")]
    [InlineData(131, "oil raised it 4 % less than a sound cylinder")]
    public void Oil_that_raised_it_less_than_a_sound_one_is_called_less(double wet, string says) =>
        Suspect($"petrol 4; dry 190 188 131 191; wet 3 {wet}", 3, wet > 140 ? Fault.Rings : Fault.ExhaustValve).Evidence.First(e => e.Finding == "wet-excess-gain").Says.ShouldEndWith(says);

    [Fact]
    public void Nothing_lighter_than_three_tenths_of_a_deciban_has_a_line_of_its_own()
    {
        foreach (var suspect in EngineDiagnosis.Of(Whiteboard.Job(Everything)).Cylinders.SelectMany(c => c.Suspects))
        {
            suspect.Evidence.Where(e => e.Finding is not ("base-rate" or "small-findings")).ShouldAllBe(e => Math.Abs(e.WeightDb) >= 0.295);
            suspect.Evidence.Count(e => e.Finding == "small-findings").ShouldBeLessThanOrEqualTo(1);
        }
    }

    [Theory]
    [InlineData("petrol 4")]
    [InlineData("petrol 4; dry 190 188 131 191")]
    [InlineData(Everything)]
    [InlineData("diesel 8 v 1-3-5-7/2-4-6-8; dry 420 418 230 421 419 417 422 420; leak 3 85 exhaust 3; seen white-smoke coolant-loss; gas positive")]
    [InlineData("petrol 6 v 1-3-5/2-4-6; dry 120 190 122 189 191 188; seen overheated")]
    public void The_lines_sum_to_the_odds_that_are_shown(string job)
    {
        foreach (var suspect in EngineDiagnosis.Of(Whiteboard.Job(job)).Cylinders.SelectMany(c => c.Suspects))
        {
            var p = suspect.Probability;
            suspect.Evidence.Sum(e => e.WeightDb).ShouldBe(10 * Math.Log10(Math.Clamp(p / (1 - p), 1e-4, 1e4)), 0.06);
        }
    }

    [Fact]
    public void Without_readings_there_is_the_base_rate_and_nothing_else() =>
        EngineDiagnosis.Of(Whiteboard.Job("petrol 4")).Cylinders.SelectMany(c => c.Suspects).ShouldAllBe(s => s.Evidence.Count == 1 && s.Evidence[0].Finding == "base-rate");

    [Fact]
    public void It_is_left_out_where_it_is_not_asked_for_and_changes_nothing()
    {
        var (with, without) = (EngineDiagnosis.Of(Whiteboard.Job(Everything)), EngineDiagnosis.Of(Whiteboard.Job(Everything), ledger: false));
        without.Cylinders.SelectMany(c => c.Suspects).ShouldAllBe(s => s.Evidence.Count == 0);
        without.Cylinders.SelectMany(c => c.Suspects).Select(s => (s.Fault, s.With, s.Probability)).ShouldBe(with.Cylinders.SelectMany(c => c.Suspects).Select(s => (s.Fault, s.With, s.Probability)));
        without.Headline.ShouldBe(with.Headline);
    }
}
