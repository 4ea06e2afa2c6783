using Zandrik.Core.Records;

namespace Zandrik.Storage.Tests;

/// <summary>Which engine a job is of, and what a swap moves.</summary>
public sealed class EngineStoreTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 6, 1, 9, 0, 0, TimeSpan.Zero);

    private readonly EngineStore engines = new(db.Database);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private static string Day(DateTimeOffset at) => at.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture);

    private async Task<Job> JobAsync(string? vehicle, string? serial = null, int cylinders = 4, double day = 0, Fuel? fuel = null)
    {
        var number = await db.Jobs.CreateAsync(db.Ostrel, new TestRecord { Engine = new() { Cylinders = cylinders, Serial = serial, Fuel = fuel }, Vehicle = vehicle is null ? null : new() { Label = vehicle } }, Now.AddDays(day), cancel: Cancel);
        return (await db.Jobs.FindAsync(db.Ostrel, number, Cancel))!;
    }

    private async Task<int> EngineOf(int job) => (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.EngineId;

    private Task<StepAnswer> SwapAsync(int vehicle, int? comesOut, string? goesIn, double day) =>
        engines.SwapAsync(db.Ostrel, vehicle, new EngineSwap(comesOut, goesIn, Now.AddDays(day)), Day, Cancel);

    [Fact]
    public async Task Jobs_of_a_vehicle_are_of_the_engine_that_sits_in_it_and_its_number_may_be_read_later()
    {
        var first = await JobAsync("Quay van 1");
        (await JobAsync("Quay van 1", day: 3)).EngineId.ShouldBe(first.EngineId);
        (await JobAsync("Quay van 1", "K-100", day: 4)).EngineId.ShouldBe(first.EngineId, "the number is read for the first time");
        (await JobAsync("Quay van 1", "k-100", day: 5)).EngineId.ShouldBe(first.EngineId);
        (await JobAsync("Quay van 1", day: 6)).EngineId.ShouldBe(first.EngineId);
        var kept = (await engines.FindAsync(db.Ostrel, first.EngineId, Cancel))!;
        kept.Serial.ShouldBe("K-100");
        kept.Stays.ShouldHaveSingleItem().ShouldSatisfyAllConditions(s => s.Vehicle.ShouldBe("Quay van 1"), s => s.Since.ShouldBeNull(), s => s.Until.ShouldBeNull(), s => s.Jobs.ShouldBe(5));
        (await JobAsync("Quay van 1", cylinders: 6, day: 7)).EngineId.ShouldNotBe(first.EngineId, "six cylinders are another engine");
        (await JobAsync("Quay van 1", fuel: Fuel.Diesel, day: 7)).EngineId.ShouldNotBe(first.EngineId);
        (await JobAsync("Quay van 1", "K-200", day: 7)).EngineId.ShouldNotBe(first.EngineId);
        (await engines.StrangersAsync(db.Ostrel, first.VehicleId!.Value, Cancel)).Count.ShouldBe(3, "nobody has said that these sat in it");
        (await engines.FindAsync(db.Stranger, first.EngineId, Cancel)).ShouldBeNull();
        (await JobAsync(null)).EngineId.ShouldNotBe((await JobAsync(null)).EngineId, "without a vehicle nothing says they are one");
    }

    [Fact]
    public async Task A_swap_moves_the_jobs_after_it_and_the_engine_takes_its_readings_along()
    {
        var before = await JobAsync("Quay van 2");
        var after = await JobAsync("Quay van 2", day: 20);
        var named = await JobAsync("Quay van 2", "N-7", day: 21);
        var (van, old) = (before.VehicleId!.Value, before.EngineId);
        old.ShouldBe(named.EngineId);
        (await SwapAsync(van, old, "M-1", day: 10)).ShouldBe(StepAnswer.Kept);
        (await EngineOf(before.Number)).ShouldBe(old);
        var fresh = await EngineOf(after.Number);
        fresh.ShouldNotBe(old, "it was done after the swap");
        (await EngineOf(named.Number)).ShouldBe(old, "its number says which engine it was");
        (await engines.OfVehicleAsync(db.Ostrel, van, Cancel)).Select(s => (s.EngineId, s.Since, s.Until)).ShouldBe([(fresh, Now.AddDays(10), null), (old, null, Now.AddDays(10))]);
        // The old one goes into another vehicle, and its readings stand behind the columns there.
        var other = await JobAsync("Quay van 3");
        (await SwapAsync(other.VehicleId!.Value, other.EngineId, "N-7", day: 30)).ShouldBe(StepAnswer.Kept);
        (await JobAsync("Quay van 3", day: 31)).EngineId.ShouldBe(old);
        (await JobAsync("Quay van 3", day: 29)).EngineId.ShouldBe(other.EngineId, "a job from before the swap that is typed in later");
    }

    [Fact]
    public async Task An_engine_in_two_vehicles_at_once_is_refused_with_the_dates()
    {
        var (one, two) = (await JobAsync("Quay van 4", "Q-4"), await JobAsync("Quay van 5", "Q-5"));
        var refused = await SwapAsync(two.VehicleId!.Value, two.EngineId, "q-4", day: 10);
        refused.Refused!.ShouldContain("is fitted in Quay van 4.");
        (await engines.OfVehicleAsync(db.Ostrel, two.VehicleId.Value, Cancel)).ShouldHaveSingleItem().Until.ShouldBeNull("nothing of it was kept");
        (await SwapAsync(one.VehicleId!.Value, one.EngineId, null, day: 12)).ShouldBe(StepAnswer.Kept);
        (await SwapAsync(two.VehicleId.Value, two.EngineId, "Q-4", day: 10)).Refused!.ShouldContain("was fitted in Quay van 4 until 2026-06-13");
        (await SwapAsync(two.VehicleId.Value, two.EngineId, "Q-4", day: 12)).ShouldBe(StepAnswer.Kept);
        (await SwapAsync(two.VehicleId.Value, two.EngineId, null, day: 13)).Refused!.ShouldContain("already out");
        (await SwapAsync(two.VehicleId.Value, one.EngineId, null, day: 11)).Refused!.ShouldContain("fitted on 2026-06-13");
        (await SwapAsync(999_999, null, "Q-9", day: 1)).Found.ShouldBeFalse();
        (await engines.SwapAsync(db.Stranger, two.VehicleId.Value, new EngineSwap(null, "Q-9", Now), Day, Cancel)).Found.ShouldBeFalse();
    }

    [Fact]
    public async Task Two_who_swap_at_once_leave_one_engine_in_its_place()
    {
        var job = await JobAsync("Quay van 6");
        var answers = await Task.WhenAll(Enumerable.Range(0, 5).Select(i => SwapAsync(job.VehicleId!.Value, job.EngineId, $"R-{i}", day: 5)));
        answers.Count(a => a.Refused is null).ShouldBe(1);
        (await engines.OfVehicleAsync(db.Ostrel, job.VehicleId!.Value, Cancel)).Count(s => s.Until is null).ShouldBe(1);
    }

    [Fact]
    public async Task Jobs_that_are_opened_at_once_on_a_vehicle_are_of_one_engine_also_while_it_is_swapped()
    {
        var jobs = await Task.WhenAll(Enumerable.Range(0, 6).Select(_ => JobAsync("Quay van 10")));
        jobs.Select(j => j.EngineId).Distinct().Count().ShouldBe(1);
        var vehicle = jobs[0].VehicleId!.Value;
        await Task.WhenAll(jobs.Select(j => (Task)db.Jobs.ChangeIntakeAsync(db.Ostrel, j.Number, j.Record with { Engine = j.Record.Engine with { Serial = "V-10" } }, cancel: Cancel)).Append(SwapAsync(vehicle, jobs[0].EngineId, "V-11", day: 5)));
        (await engines.OfVehicleAsync(db.Ostrel, vehicle, Cancel)).Count(s => s.Until is null).ShouldBe(1);
        foreach (var job in jobs)
        {
            (await EngineOf(job.Number)).ShouldBe(jobs[0].EngineId, "it names the number of the engine that it was done on");
        }
    }

    [Fact]
    public async Task A_slip_about_the_engine_of_a_single_job_is_put_right_where_it_sits()
    {
        var job = await JobAsync("Quay van 11", "S-l1");
        async Task ChangeAsync(EngineSheet engine) => (await db.Jobs.ChangeIntakeAsync(db.Ostrel, job.Number, job.Record with { Engine = engine }, cancel: Cancel)).ShouldBe(StepAnswer.Kept);
        await ChangeAsync(new() { Cylinders = 4, Serial = "S-11" });
        await ChangeAsync(new() { Cylinders = 6, Serial = "S-11" });
        (await EngineOf(job.Number)).ShouldBe(job.EngineId);
        (await engines.OfVehicleAsync(db.Ostrel, job.VehicleId!.Value, Cancel)).ShouldHaveSingleItem().ShouldSatisfyAllConditions(s => s.Serial.ShouldBe("S-11"), s => s.Until.ShouldBeNull());
        (await JobAsync("Quay van 11", cylinders: 6, day: 2)).EngineId.ShouldBe(job.EngineId, "and the next job finds it there");
        // With two jobs on it a number that is not its own is another engine.
        await ChangeAsync(new() { Cylinders = 6, Serial = "S-12" });
        (await EngineOf(job.Number)).ShouldNotBe(job.EngineId);
    }

    [Fact]
    public async Task A_job_from_before_the_first_swap_leaves_the_engine_of_today_in_its_place()
    {
        var first = await JobAsync("Quay van 12", day: 5);
        var van = first.VehicleId!.Value;
        await SwapAsync(van, first.EngineId, null, day: 6);
        (await SwapAsync(van, null, "W-1", day: 20)).ShouldBe(StepAnswer.Kept);
        (await JobAsync("Quay van 12", "W-0", day: 10)).EngineId.ShouldNotBe(first.EngineId);
        (await engines.OfVehicleAsync(db.Ostrel, van, Cancel)).Where(s => s.Until is null).ShouldHaveSingleItem().Serial.ShouldBe("W-1");
    }

    [Fact]
    public async Task A_boat_with_two_engines_asks_for_the_number_and_takes_it()
    {
        var first = await JobAsync("Tug 7", "PORT-1");
        (await SwapAsync(first.VehicleId!.Value, null, "STAR-1", day: 1)).ShouldBe(StepAnswer.Kept);
        (await JobAsync("Tug 7", "PORT-1", day: 3)).EngineId.ShouldBe(first.EngineId);
        var starboard = (await JobAsync("Tug 7", "star-1", day: 3)).EngineId;
        starboard.ShouldNotBe(first.EngineId);
        var unsaid = await JobAsync("Tug 7", day: 4);
        unsaid.EngineId.ShouldNotBe(first.EngineId, "nobody said which of the two");
        // Once it is said, the job goes to its engine, and the one that was made for it is gone.
        await db.Jobs.ChangeIntakeAsync(db.Ostrel, unsaid.Number, unsaid.Record with { Engine = unsaid.Record.Engine with { Serial = "STAR-1" } }, cancel: Cancel);
        (await EngineOf(unsaid.Number)).ShouldBe(starboard);
        (await engines.FindAsync(db.Ostrel, unsaid.EngineId, Cancel)).ShouldBeNull();
    }

    [Fact]
    public async Task A_slip_in_the_vehicle_of_an_intake_leaves_no_engine_behind_and_a_number_belongs_to_one_engine()
    {
        var job = await JobAsync("Quay vam 8");
        await db.Jobs.ChangeIntakeAsync(db.Ostrel, job.Number, job.Record with { Vehicle = new() { Label = "Quay van 8" } }, cancel: Cancel);
        (await engines.FindAsync(db.Ostrel, job.EngineId, Cancel)).ShouldBeNull();
        var now = await EngineOf(job.Number);
        (await engines.ChangeAsync(db.Ostrel, now, "ZT-88", null, "Rebuilt 2019", Cancel)).ShouldBeTrue();
        var other = await JobAsync("Quay van 9");
        (await engines.ChangeAsync(db.Ostrel, other.EngineId, "zt-88", null, null, Cancel)).ShouldBeFalse("another engine has the number");
        (await engines.ChangeAsync(db.Stranger, now, "X", null, null, Cancel)).ShouldBeFalse();
        var found = await new SearchStore(db.Database).FindAsync(db.Ostrel, "ZT-88", 8, Cancel);
        found.Engines.ShouldHaveSingleItem().Id.ShouldBe(now);
        (await new SearchStore(db.Database).FindAsync(db.Stranger, "ZT-88", 8, Cancel)).IsEmpty.ShouldBeTrue();
    }
}
