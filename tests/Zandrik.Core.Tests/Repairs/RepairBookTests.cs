using CsCheck;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;

namespace Zandrik.Core.Tests.Repairs;

public sealed class RepairBookTests
{
    private static readonly EngineSheet Four = Cases.Inline(4);

    private static readonly EngineSheet Six = new() { Cylinders = 6, Fuel = Fuel.Petrol, Layout = CylinderArrangement.V, Banks = [[1, 3, 5], [2, 4, 6]] };

    [Fact]
    public void A_three_point_estimate_comes_to_a_sixth_of_low_four_likely_and_high()
    {
        new Estimate(60, 90, 180).Mean.ShouldBe(100);
        Estimate.About(100).ShouldBe(new Estimate(75, 100, 160));
        (new Estimate(1, 2, 3) + new Estimate(10, 20, 30) * 2).ShouldBe(new Estimate(21, 42, 63));
    }

    [Fact]
    public void A_head_is_behind_its_cover_the_intake_and_the_plugs_and_is_not_paid_for_twice()
    {
        var book = RepairBook.For(Four);
        var access = AccessLevels.Of(new(Repair.TopEnd), 1);
        access.ShouldBe(Access.Plugs | Access.Intake | Access.Cover | Access.Head);
        // Plugs 8, intake 60, cover 30, head 170: by hand from the rule.
        book.Minutes(access).Likely.ShouldBe(268);
        var head = book.Cost([new(Repair.TopEnd)]);
        var deeper = book.Cost([new(Repair.BottomEnd)], open: access);
        deeper.Minutes.Likely.ShouldBe(book.Cost(new RepairWork(Repair.BottomEnd)).Minutes.Likely + 90, 0.01, "only the sump is still to come off");
        book.Cost([new(Repair.TopEnd), new(Repair.BottomEnd)]).Minutes.Likely.ShouldBe(head.Minutes.Likely + deeper.Minutes.Likely, 0.01);
    }

    [Fact]
    public void Each_bank_of_a_vee_has_its_own_head_and_a_diesel_takes_longer()
    {
        var book = RepairBook.For(Six);
        book.Banks.ShouldBe([3, 3]);
        book.Cost([new(Repair.Gasket, 0), new(Repair.Gasket, 1)]).Minutes.Mean.ShouldBeLessThan(2 * book.Cost([new(Repair.Gasket, 0)]).Minutes.Mean, "the intake comes off once");
        RepairBook.For(Four with { Fuel = Fuel.Diesel }).Cost([new(Repair.Gasket)]).Minutes.Mean.ShouldBeGreaterThan(RepairBook.For(Four).Cost([new(Repair.Gasket)]).Minutes.Mean);
        RepairBook.For(Cases.Inline(1)).Cost([new(Repair.Overhaul)]).Minutes.Mean.ShouldBeLessThan(RepairBook.For(Four).Cost([new(Repair.Overhaul)]).Minutes.Mean);
    }

    [Fact]
    public void The_sheet_comes_after_the_shop_and_money_counts_only_with_a_rate()
    {
        RepairFigure[] figures = [new("gasket", new Estimate(50, 60, 90), Parts: new Estimate(80, 100, 150)), new("gasket", Parts: new Estimate(90, 120, 160)), new("access-head", new Estimate(100, 110, 150))];
        var book = RepairBook.For(Four, figures: figures, labourRate: 60);
        var gasket = book.Cost(new RepairWork(Repair.Gasket));
        gasket.Minutes.ShouldBe(new Estimate(50, 60, 90), "the shop's, as the sheet says nothing of it");
        gasket.Parts.Likely.ShouldBe(120, 1e-9, "at 60 an hour a minute is one");
        book.Minutes(Access.Head).ShouldBe(new Estimate(100, 110, 150));
        book.IsOwn("gasket").ShouldBeTrue();
        var without = RepairBook.For(Four, figures: figures);
        without.Cost(new RepairWork(Repair.Gasket)).Parts.ShouldBe(RepairBook.For(Four).Cost(new RepairWork(Repair.Gasket)).Parts);
        (without.Money(100), book.Money(90)).ShouldBe((null, 90));
    }

    [Fact]
    public void A_day_without_the_vehicle_counts_an_hour_until_somebody_says_what_it_costs()
    {
        RepairBook.For(Four).DayMinutes.ShouldBe(60);
        RepairBook.For(Four, labourRate: 60, dayRate: 200).DayMinutes.ShouldBe(200);
        RepairBook.For(Four, dayRate: 200).DayMinutes.ShouldBe(60, "money says nothing without a rate");
    }

    [Fact]
    public void Nothing_costs_less_than_nothing_and_more_work_never_less() => Gen.Select(Gen.Int[1, 12], Gen.Bool, Gen.Int[1, 12], Gen.Int[1, 12]).Sample((cylinders, diesel, a, b) =>
    {
        var book = RepairBook.For(Cases.Inline(cylinders) with { Fuel = diesel ? Fuel.Diesel : Fuel.Petrol });
        var (one, both) = (book.Whole(book.Cost([new((Repair)a)])), book.Whole(book.Cost([new((Repair)a), new((Repair)b)])));
        one.Low.ShouldBeInRange(0, one.Likely);
        one.Likely.ShouldBeLessThanOrEqualTo(one.High);
        both.Mean.ShouldBeGreaterThanOrEqualTo(one.Mean - 1e-9);
    });
}
