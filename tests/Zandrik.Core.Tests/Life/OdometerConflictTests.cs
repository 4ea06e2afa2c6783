using CsCheck;
using Zandrik.Core.Life;
using Zandrik.Core.Records;
using static Zandrik.Core.Tests.Life.Lives;

namespace Zandrik.Core.Tests.Life;

public sealed class OdometerConflictTests
{
    private static readonly Visit[] Usual = [Visit(1, Day(2020), 100_000), Visit(2, Day(2021), 120_000)];

    [Fact]
    public void One_that_goes_on_where_it_was_fits()
    {
        OdometerConflict.Of(Usual, Visit(0, Day(2022), 120_000)).ShouldBeNull();
        OdometerConflict.Of(Usual, Visit(0, Day(2022), 80_000, DistanceUnit.Mi)).ShouldBeNull("80 000 miles are more");
        OdometerConflict.Of(Usual, Visit(0, Day(2022), null)).ShouldBeNull();
        OdometerConflict.Of([], Visit(0, Day(2022), 3)).ShouldBeNull();
    }

    [Fact]
    public void One_that_goes_back_is_held_against_the_nearest_job_before_it()
    {
        var conflict = OdometerConflict.Of(Usual, Visit(0, Day(2022), 12_000))!;
        (conflict.Other.Job, conflict.IsOtherUnit).ShouldBe((2, false));
        conflict.Doubted.ShouldHaveSingleItem().Job.ShouldBe(0);
        OdometerConflict.Of(Usual, Visit(0, Day(2022), 110_000))!.Other.Job.ShouldBe(2);
        OdometerConflict.Of(Usual, Visit(0, Day(2022), 70_000, DistanceUnit.Mi))!.Other.Job.ShouldBe(2, "70 000 miles are less");
    }

    [Fact]
    public void Against_one_job_alone_it_is_that_one_which_falls_out_of_use()
    {
        var conflict = OdometerConflict.Of(Usual[..1], Visit(0, Day(2022), 12_000))!;
        conflict.Doubted.ShouldHaveSingleItem().Job.ShouldBe(1);
    }

    [Fact]
    public void An_older_job_put_right_is_held_against_what_came_after()
    {
        OdometerConflict.Of(Usual, Visit(9, Day(2020, 6), 1_100_000))!.Other.Job.ShouldBe(2);
        OdometerConflict.Of(Usual, Visit(9, Day(2020, 6), 110_000)).ShouldBeNull();
    }

    [Fact]
    public void Hours_among_kilometres_are_another_unit() =>
        OdometerConflict.Of(Usual, Visit(0, Day(2022), 4_000, DistanceUnit.H)).ShouldNotBeNull().ShouldSatisfyAllConditions(c => c.IsOtherUnit.ShouldBeTrue(), c => c.Other.Job.ShouldBe(2));

    [Fact]
    public void What_an_odometer_said_before_it_was_changed_says_nothing_of_the_new_one()
    {
        Visit[] changed = [.. Usual, Visit(3, Day(2022), 5_000, replaced: true)];
        OdometerConflict.Of(changed, Visit(0, Day(2023), 20_000)).ShouldBeNull();
        OdometerConflict.Of(changed, Visit(0, Day(2023), 4_000))!.Other.Job.ShouldBe(3);
    }

    [Fact]
    public void One_that_was_a_slip_before_is_not_asked_about_again() =>
        OdometerConflict.Of([.. Usual, Visit(3, Day(2022), 1_300_000), Visit(4, Day(2023), 130_000)], Visit(0, Day(2024), 140_000)).ShouldBeNull();

    // A figure between those before and after it always fits; one that is asked about names a job that truly is against it.
    [Fact]
    public void What_it_names_is_against_it() =>
        Gen.Select(Gen.Int[0, 300_000].Array[1, 8], Gen.Int[0, 300_000], Gen.Int[0, 9]).Sample((figures, typed, place) =>
        {
            var others = figures.Order().Select((f, i) => Visit(i + 1, Day(2010 + i), f)).ToList();
            var at = Day(2009 + Math.Min(place, figures.Length), 7);
            var conflict = OdometerConflict.Of(others, Visit(0, at, typed));
            var fits = others.All(o => o.At < at ? o.Odometer!.Value <= typed : o.Odometer!.Value >= typed);
            return fits ? conflict is null : conflict is { IsOtherUnit: false } c && (c.Other.At < at ? c.Other.Odometer!.Value > typed : c.Other.Odometer!.Value < typed);
        });
}
