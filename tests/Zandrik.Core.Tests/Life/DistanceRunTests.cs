using CsCheck;
using Zandrik.Core.Life;
using Zandrik.Core.Records;
using static Zandrik.Core.Tests.Life.Lives;

namespace Zandrik.Core.Tests.Life;

public sealed class DistanceRunTests
{
    [Fact]
    public void Miles_are_counted_in_kilometres_and_a_year_is_from_the_odometer()
    {
        var run = DistanceRun.Of([Visit(1, Day(2020), 10_000, DistanceUnit.Mi), Visit(2, Day(2022), 20_000, DistanceUnit.Mi)]);
        run.InHours.ShouldBeFalse();
        run.At.Select(a => a.Run).ShouldBe([16_093.44, 32_186.88], 0.001);
        run.AYear.ShouldBe(8046.72, 10);
        run.IsByRule.ShouldBeFalse();
    }

    [Fact]
    public void A_figure_that_goes_back_is_left_aside_and_the_job_placed_by_its_date()
    {
        var run = DistanceRun.Of([Visit(1, Day(2020), 100_000), Visit(2, Day(2021), 12_000), Visit(3, Day(2022), 120_000)]);
        run.At.Select(a => a.Doubt).ShouldBe([RunDoubt.None, RunDoubt.Backwards, RunDoubt.None]);
        run.At[1].Run.ShouldBe(110_000, 100);
    }

    [Fact]
    public void Of_two_that_contradict_each_other_the_one_that_is_looked_at_now_is_believed() =>
        DistanceRun.Of([Visit(1, Day(2020), 150_000), Visit(2, Day(2021), 115_000)]).At.Select(a => a.Doubt).ShouldBe([RunDoubt.Backwards, RunDoubt.None]);

    [Fact]
    public void Hours_among_kilometres_are_left_aside()
    {
        var run = DistanceRun.Of([Visit(1, Day(2020), 100_000), Visit(2, Day(2021), 900, DistanceUnit.H), Visit(3, Day(2022), 120_000)]);
        run.InHours.ShouldBeFalse();
        run.At[1].Doubt.ShouldBe(RunDoubt.OtherUnit);
    }

    [Fact]
    public void A_changed_odometer_goes_on_from_where_the_old_one_was()
    {
        var run = DistanceRun.Of([Visit(1, Day(2020), 100_000), Visit(2, Day(2021), 120_000), Visit(3, Day(2022), 5_000, replaced: true), Visit(4, Day(2023), 25_000)]);
        run.At.ShouldAllBe(a => a.Doubt == RunDoubt.None);
        run.AYear.ShouldBe(20_000, 60);
        run.At[2].Run.ShouldBe(140_000, 100);
        run.At[3].Run.ShouldBe(160_000, 200);
    }

    [Fact]
    public void Put_into_another_vehicle_its_odometer_is_that_vehicles()
    {
        var run = DistanceRun.Of([Visit(1, Day(2020), 100_000), Visit(2, Day(2021), 110_000), Visit(3, Day(2022), 300_000, vehicle: 2), Visit(4, Day(2023), 310_000, vehicle: 2)]);
        run.At.ShouldAllBe(a => a.Doubt == RunDoubt.None);
        run.At[3].Run.ShouldBe(130_000, 150);
    }

    [Fact]
    public void Without_an_odometer_the_date_stands_for_it()
    {
        var run = DistanceRun.Of([Visit(1, Day(2020), null), Visit(2, Day(2022), null)]);
        (run.HasNoOdometer, run.IsByRule, run.AYear).ShouldBe((true, true, DistanceRun.UsualKm));
        run.At[1].Run.ShouldBe(30_000, 50);
        DistanceRun.Of([Visit(1, Day(2020), null), Visit(2, Day(2022), null)], saidAYear: 4_000).At[1].Run.ShouldBe(8_000, 20);
        DistanceRun.Of([]).On(Day(2020)).ShouldBe(0);
    }

    [Fact]
    public void It_never_falls_and_forgets_no_job() => Gen.Select(Gen.Int[0, 3000], Gen.Double[0, 300_000], Gen.Int[0, 9]).Array[0, 25].Sample(drawn =>
    {
        var run = DistanceRun.Of([.. drawn.Select((d, i) => Visit(i, Day(2015).AddDays(d.Item1), d.Item3 == 0 ? null : d.Item2, d.Item3 == 1 ? DistanceUnit.H : DistanceUnit.Km, d.Item3 % 2, d.Item3 == 5))]);
        run.At.Count.ShouldBe(drawn.Length);
        foreach (var (a, b) in run.At.Zip(run.At.Skip(1)))
        {
            b.Run.ShouldBeGreaterThanOrEqualTo(a.Run - 1e-6);
        }
    });
}
