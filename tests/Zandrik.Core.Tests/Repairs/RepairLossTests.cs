using CsCheck;
using Zandrik.Core.Repairs;

namespace Zandrik.Core.Tests.Repairs;

public sealed class RepairLossTests
{
    private static readonly RepairBook Book = RepairBook.For(Cases.Inline(4));

    private static readonly CureTable Cures = new(ByClearance: 0.35, ByFreeing: 0.05, Banks: 1);

    private static readonly RepairLoss Loss = new(Book, Cures);

    private static readonly RepairNeeds Top = RepairNeeds.TopEnd(0), Gasket = RepairNeeds.Gasket(0), Bottom = RepairNeeds.BottomEnd(0);

    private static double Mean(params RepairWork[] works) => Book.Whole(Book.Cost(works)).Mean;

    private const double Comeback = RepairBook.ComebackMinutes + RepairBook.ComebackDays * RepairBook.UsualDayMinutes, OnTheWay = RepairBook.FoundOnTheWayMinutes + RepairBook.FoundOnTheWayDays * RepairBook.UsualDayMinutes;

    [Fact]
    public void Clearances_first_cost_their_own_and_where_they_do_not_help_the_comeback_and_the_head()
    {
        var adjust = RepairOption.Of(Repair.AdjustValves);
        // By hand: the work, and with 0.65 the comeback and the right repair.
        Loss.Of(adjust, Top).Minutes.ShouldBe(Mean(new RepairWork(Repair.AdjustValves)) + 0.65 * (Comeback + Mean(new RepairWork(Repair.TopEnd))), 0.01);
        Loss.Of(adjust, Top).Cured.ShouldBe(0.35);
        Loss.Of(adjust, Bottom).Minutes.ShouldBe(Mean(new RepairWork(Repair.AdjustValves)) + Comeback + Mean(new RepairWork(Repair.BottomEnd)), 0.01);
        Loss.Of(adjust, RepairNeeds.None).ShouldBe((Mean(new RepairWork(Repair.AdjustValves)), 1));
    }

    [Fact]
    public void A_head_that_is_off_shows_what_is_wrong_and_that_is_done_with_the_access_paid_once()
    {
        var gasket = RepairOption.Of(Repair.Gasket);
        var (minutes, cured) = Loss.Of(gasket, Bottom);
        // The bores are seen: rings instead of the gasket alone, the owner asked again, the gasket's own parts sent back; five in a hundred come back.
        var sentBack = RepairBook.PlannedForNothingMinutes + RepairBook.SentBackShare * Book.Cost(new RepairWork(Repair.Gasket)).Parts.Mean;
        minutes.ShouldBe(Mean(new RepairWork(Repair.BottomEnd)) + OnTheWay + sentBack + 0.05 * (Comeback + Mean(new RepairWork(Repair.BottomEnd))), 0.01);
        cured.ShouldBe(0.95);
        // Off for nothing: a gasket, and what was ordered.
        Loss.Of(RepairOption.Of(Repair.TopEnd), RepairNeeds.None).Minutes.ShouldBe(Mean(new RepairWork(Repair.Gasket)) + RepairBook.PlannedForNothingMinutes + RepairBook.SentBackShare * Book.Cost(new RepairWork(Repair.TopEnd)).Parts.Mean, 0.01);
    }

    [Fact]
    public void What_stays_hidden_comes_back()
    {
        var (minutes, cured) = Loss.Of(RepairOption.Of(Repair.Gasket), Gasket | RepairNeeds.Exhaust);
        cured.ShouldBe(0);
        minutes.ShouldBeGreaterThan(Loss.Of(RepairOption.Of(Repair.Gasket), Gasket).Minutes + Mean(new RepairWork(Repair.ClearExhaust)));
        Loss.Of(RepairOption.Of(Repair.Overhaul), RepairNeeds.Exhaust).Cured.ShouldBe(0, "an overhaul frees no exhaust");
    }

    [Fact]
    public void Two_needs_are_met_together_and_a_worn_engine_by_rings_in_its_frame_or_by_another()
    {
        RepairOption.Meeting(Top | Gasket).Works.ShouldBe([new(Repair.TopEnd)], "a gasket comes with the head");
        RepairOption.Meeting(Top | Bottom).Works.ShouldBe([new(Repair.TopEnd), new(Repair.BottomEnd)]);
        RepairOption.Meeting(RepairNeeds.Wear | Top | RepairNeeds.Cooling).Works.ShouldBe([new(Repair.SealCooling), new(Repair.Overhaul)]);
        RepairOption.Meeting(RepairNeeds.None).IsLeave.ShouldBeTrue();
        Loss.Right(RepairNeeds.Wear).ShouldBeLessThan(Mean(new RepairWork(Repair.Exchange)));
        Loss.Of(RepairOption.Of(Repair.BottomEnd), RepairNeeds.Wear).Cured.ShouldBe(CureTable.WearInFrame);
    }

    [Fact]
    public void Running_on_costs_nothing_on_a_sound_engine_and_more_than_the_repair_on_any_that_is_broken()
    {
        Loss.Of(RepairOption.Leave, RepairNeeds.None).ShouldBe((0, 1));
        foreach (var need in new[] { Top, Gasket, Bottom, RepairNeeds.Timing, RepairNeeds.Cooling, RepairNeeds.Exhaust, RepairNeeds.Run })
        {
            Loss.Of(RepairOption.Leave, need).Minutes.ShouldBeGreaterThan(Loss.Of(RepairOption.Meeting(need), need).Minutes, $"{need.Work().Repair}");
        }
        Loss.Of(RepairOption.Leave, RepairNeeds.Wear).Minutes.ShouldBeLessThan(Mean(new RepairWork(Repair.Overhaul)), "wear alone is lived with as often as not");
    }

    [Fact]
    public void Scaled_rates_change_no_order_and_what_is_right_is_never_dearer_than_another_engine() => Gen.Select(Gen.Int[0, 511], Gen.Double[10, 400]).Sample((bits, rate) =>
    {
        var needs = new RepairNeeds(bits);
        RepairFigure[] Priced(double times) => [new("gasket", Parts: new Estimate(80, 100, 150) * times), new("overhaul", Machining: new Estimate(500, 900, 1500) * times)];
        var (one, other) = (new RepairLoss(RepairBook.For(Cases.Inline(4), figures: Priced(1), labourRate: 60, dayRate: 90), Cures), new RepairLoss(RepairBook.For(Cases.Inline(4), figures: Priced(rate / 60), labourRate: rate, dayRate: 1.5 * rate), Cures));
        foreach (var repair in Enum.GetValues<Repair>())
        {
            var option = repair == Repair.Leave ? RepairOption.Leave : RepairOption.Of(repair);
            one.Of(option, needs).Minutes.ShouldBe(other.Of(option, needs).Minutes, 1e-6 * (1 + one.Of(option, needs).Minutes), "in minutes all rates are one");
            one.Of(option, needs).Cured.ShouldBeInRange(0, 1);
        }
        Loss.Right(needs).ShouldBeLessThanOrEqualTo(Mean(new RepairWork(Repair.Exchange), new RepairWork(Repair.ClearExhaust), new RepairWork(Repair.SealCooling)) + 1e-9);
    }, iter: 200);
}
