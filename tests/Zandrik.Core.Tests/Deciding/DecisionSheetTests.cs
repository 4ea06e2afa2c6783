using Zandrik.Core.Assessment;
using Zandrik.Core.Deciding;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;
using Zandrik.Core.Shops;
using Zandrik.Core.Tests.Diagnosis;

namespace Zandrik.Core.Tests.Deciding;

public sealed class DecisionSheetTests
{
    private const string Valve = "petrol 4; lifters hydraulic; dry 190 188 131 191; repeat 3 131; leak 3 85 exhaust 3";

    private static DecisionSheet Of(string job, ShopSettings? shop = null, DecisionInputs? inputs = null, RepairPolicy? repairs = null, string? name = null)
    {
        var record = Whiteboard.Job(job);
        return DecisionSheet.Of(JobAssessment.Of(record with { Engine = record.Engine with { Name = name } }, new JobPolicy(shop ?? new ShopSettings()) { Inputs = inputs ?? DecisionInputs.None, Repairs = repairs ?? RepairPolicy.None }));
    }

    [Fact]
    public void What_comes_to_the_same_is_not_called_cheaper()
    {
        DecisionSheet Where(double minutes) => Of("petrol 4; dry 190 188 131 191; repeat 3 131; leak 3 60 crankcase 3", repairs: RepairPolicy.None.With(new KeptFigure(null, new("bottom-end", Estimate.About(minutes), Estimate.About(0), Estimate.About(0), Estimate.About(0)))));
        // The minutes at which rings and bores stop being the cheapest.
        double cheap = 0, dear = 3000;
        while (dear - cheap > 0.2)
        {
            var middle = (cheap + dear) / 2;
            (cheap, dear) = Where(middle).Options[0].Word.StartsWith("bottom-end", StringComparison.Ordinal) ? (middle, dear) : (cheap, middle);
        }
        var sheet = Where(dear);
        sheet.Options[0].Why.ShouldBe("On average it comes to as much as the next.");
        sheet.Options.ShouldContain(o => o.Word.StartsWith("bottom-end", StringComparison.Ordinal) && o.Why.StartsWith("On average it comes to as much", StringComparison.Ordinal));
    }

    [Fact]
    public void The_cheapest_is_marked_first_and_says_by_how_much_and_nothing_is_hidden()
    {
        var sheet = Of(Valve);
        sheet.Options[0].ShouldSatisfyAllConditions(o => o.Word.ShouldBe("top-end-1"), o => o.IsBest.ShouldBeTrue(), o => o.Why.ShouldEndWith("of work cheaper than the next."), o => o.Measure.ShouldContain("seat run-out and width"));
        sheet.Options.Count(o => o.IsBest).ShouldBe(1);
        sheet.Options.Select(o => o.Word).ShouldBeUnique();
        sheet.Options.Where(o => o.IsLikely && o.Struck is null).Select(o => o.Expected).ShouldBeInOrder();
        sheet.Options.ShouldContain(o => o.Word == "leave" && o.Waiting!.Contains("burns its seat", StringComparison.Ordinal));
        sheet.Options.ShouldContain(o => o.Word == "exchange" && !o.IsLikely);
        sheet.Headline.ShouldBe("Cheapest on average: doing the valves with the head off");
        sheet.Before.ShouldBe("No further test would change what is best.");
    }

    [Fact]
    public void Where_a_test_still_pays_that_is_said_first()
    {
        var sheet = Of("petrol 4; dry 190 188 131 191; repeat 3 132");
        sheet.Test!.Kind.ShouldBe(StepKind.LeakDown);
        sheet.Before.ShouldStartWith("Before you decide: one more test saves about ");
        sheet.Test.Why.ShouldContain("it decides between setting the valves and ");
    }

    [Theory]
    [InlineData("petrol 4; dry 176 172 160 171; wet 3 186; seen low-power")] // The judgement opens nothing, and asks for air first.
    [InlineData("petrol 4; with throttle-closed; dry 148 146 140 147; gas positive; plug 3 coolant-wet; seen coolant-loss")] // The test is put right first.
    public void Nothing_is_opened_while_a_test_is_asked_for_or_the_judgement_opens_nothing(string job)
    {
        var sheet = Of(job);
        sheet.Test.ShouldNotBeNull();
        sheet.Headline.ShouldStartWith("Too early to open anything. Cheapest on average so far: ");
    }

    [Fact]
    public void A_sound_engine_is_left_alone() => Of("petrol 4; dry 190 188 189 191").Headline.ShouldBe("Nothing has to be opened, as far as it was measured");

    [Fact]
    public void The_owners_side_is_held_against_it()
    {
        var sheet = Of(Valve, new ShopSettings { LabourRate = 60, Currency = "kr" }, new DecisionInputs { Worth = 1200, KmAYear = 20_000, YearsToLast = 6 });
        var top = sheet.Options[0];
        top.Buys.ShouldBe("About 100 000 km by rule of thumb: 5 years at 20000 km a year.");
        top.Notes.Count.ShouldBe(2);
        top.Notes[0].ShouldEndWith("% of what the vehicle is worth.");
        top.Notes[1].ShouldBe("By rule of thumb shorter than the 6 years it must last.");
        Of(Valve, null, new DecisionInputs { Worth = 1200 }).Options[0].Notes.ShouldBeEmpty("without a rate nothing is in money");
    }

    [Fact]
    public void A_day_that_costs_much_speaks_against_what_takes_days()
    {
        double Exchange(double? day) => Of(Valve, new ShopSettings { LabourRate = 60 }, new DecisionInputs { DayRate = day }).Options.Single(o => o.Word == "exchange").Expected;
        Exchange(500).ShouldBeGreaterThan(Exchange(10) + 1000);
    }

    [Fact]
    public void House_rules_strike_out_with_their_reason_and_figures_of_the_sheet_count()
    {
        var policy = RepairPolicy.None.With(new RepairStrike("kestrel", Repair.TopEnd, "heads go to Marren.")).With(new KeptFigure(null, new RepairFigure("gasket", new Estimate(10, 20, 30))));
        var sheet = Of(Valve, repairs: policy, name: "1.8 Kestrel");
        sheet.Of("top-end-1")!.ShouldSatisfyAllConditions(o => o.Struck.ShouldBe("heads go to Marren."), o => o.Why.ShouldBe("This shop does not do it: heads go to Marren."), o => o.IsBest.ShouldBeFalse());
        sheet.Options.TakeWhile(o => o.IsLikely).Last().Word.ShouldBe("top-end-1", "after what the shop does");
        sheet.Of("gasket-1")!.Cured.ShouldBeLessThan(0.2, "a head that is off shows valves that this shop does not do");
        sheet.Book.IsOwn("gasket").ShouldBeTrue();
        Of(Valve, repairs: policy, name: "2.0 Plover").Of("top-end-1")!.Struck.ShouldBeNull("another family");
        policy.Without("KESTREL", Repair.TopEnd).Strikes.ShouldBeEmpty();
        policy.With(new KeptFigure(null, new RepairFigure("gasket"))).Figures.ShouldBeEmpty("a figure that says nothing is taken out");
        policy.With(new KeptFigure(7, new RepairFigure("gasket", new Estimate(1, 2, 3)))).For(7).Select(f => f.Minutes!.Value.Likely).ShouldBe([20, 2], "the sheet's last");
    }

    [Theory]
    [InlineData(-1.0, null, null, "/worth")]
    [InlineData(null, double.NaN, null, "/dayRate")]
    [InlineData(null, null, 2e6, "/kmAYear")]
    public void What_cannot_be_is_named_by_its_field(double? worth, double? day, double? km, string field)
    {
        new DecisionInputs { Worth = worth, DayRate = day, KmAYear = km }.Problems().Single().Pointer.ShouldBe(field);
        DecisionInputs.None.Problems().ShouldBeEmpty();
    }

    [Fact]
    public void An_option_comes_back_from_its_word()
    {
        foreach (var option in Of("petrol 6 v 1-3-5/2-4-6; dry 190 188 131 191 120 119; seen misfire").Options)
        {
            RepairWords.Parse(option.Word).ShouldBe(option.Option);
        }
        RepairWords.Parse("leave").ShouldBe(RepairOption.Leave);
        RepairWords.Parse("no-such").ShouldBeNull();
    }

    [Theory]
    [InlineData(38, "38 min")]
    [InlineData(60, "1 h")]
    [InlineData(112, "1 h 50 min")]
    [InlineData(598, "10 h")]
    [InlineData(1500, "25 h")]
    public void Minutes_are_said_as_people_say_them(double minutes, string says) => RepairWords.Time(minutes).ShouldBe(says);
}
