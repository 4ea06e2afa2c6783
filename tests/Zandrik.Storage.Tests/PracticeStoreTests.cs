using Zandrik.Core.Compression;
using Zandrik.Core.Practice;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;
using Zandrik.Core.Units;

namespace Zandrik.Storage.Tests;

/// <summary>Runs of exercises at the database: whose they are, what was done, one call each, and nothing of it in work.</summary>
public sealed class PracticeStoreTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 6, 1, 9, 0, 0, TimeSpan.Zero);

    private readonly PracticeStore runs = new(db.Database);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private static PracticeResult Result(int place) => new(new([new(2, Fault.ExhaustValve, null, Fault.Rings), new(null, Fault.TestError)], [Repair.TopEnd]), new(place, 20, 10, 15, 5), 61.5, 52, 1);

    [Fact]
    public async Task A_run_is_a_job_of_its_own_number_and_no_list_of_work_has_it()
    {
        var before = (await db.Jobs.CountAsync(db.Ostrel, Cancel), (await new VehicleStore(db.Database).ListAsync(db.Ostrel, null, 100, Cancel)).Vehicles.Count);
        var number = await runs.BeginAsync(db.Ostrel, PracticeCases.Find(15)!, null, Now, Cancel);
        number.ShouldBeGreaterThan(PracticeNumbers.Before);
        PracticeNumbers.PurposeOf(number).ShouldBe(JobPurpose.Practice);
        (await db.DryTests.EnterAsync(db.Ostrel with { Purpose = JobPurpose.Practice }, number, null, new PadEntry(1, PadEntryKind.Reading, new GaugePressure(150, PressureUnit.Psi)), Guid.NewGuid(), Now, cancel: Cancel)).Test.ShouldNotBeNull();
        (await runs.NoteAsync(db.Ostrel, number, new(PracticeAct.Dry, 1), Guid.NewGuid(), Now, Cancel)).Refused.ShouldBeNull();
        (await runs.CallAsync(db.Ostrel, number, _ => Result(40), Now, Cancel)).Refused.ShouldBeNull();
        // Work has not become more by any of it: jobs, vehicles, outcomes, engines due, what is audited, what the archive takes.
        (await db.Jobs.CountAsync(db.Ostrel, Cancel)).ShouldBe(before.Item1);
        (await new VehicleStore(db.Database).ListAsync(db.Ostrel, null, 100, Cancel)).Vehicles.Count.ShouldBe(before.Item2);
        (await db.Jobs.RecordAsync(db.Ostrel, number, superseded: true, Cancel)).ShouldBeNull();
        (await new VerdictStore(db.Database).OutcomesAsync(db.Ostrel, Cancel)).Outcomes.ShouldBeEmpty();
        ((long)(await db.AsOwnerAsync("select count(*) from audit_event where about like '%900000%'"))!).ShouldBe(0);
        ((long)(await db.AsOwnerAsync("select count(*) from job where purpose = 'work' and number > 900000000"))!).ShouldBe(0);
        var next = await db.Jobs.CreateAsync(db.Ostrel, new TestRecord { Engine = new() { Cylinders = 4 } }, Now, cancel: Cancel);
        next.ShouldBeLessThan(PracticeNumbers.Before, "work goes on with its own numbers");
        await using var source = Npgsql.NpgsqlDataSource.Create(db.Connection);
        await using var seen = source.CreateCommand($"select set_config('zandrik.shop', '{db.Ostrel.ShopId}', false); select count(*) from practice_run");
        await using var reader = await seen.ExecuteReaderAsync(Cancel);
        await reader.NextResultAsync(Cancel);
        await reader.ReadAsync(Cancel);
        reader.GetInt64(0).ShouldBe(0, "a connection that names no purpose sees no run");
    }

    [Fact]
    public async Task What_was_done_is_kept_once_in_order_and_nothing_after_the_call()
    {
        var number = await runs.BeginAsync(db.Ostrel, PracticeCases.Find(3)!, null, Now, Cancel);
        var key = Guid.NewGuid();
        foreach (var _ in Enumerable.Range(0, 2))
        {
            await runs.NoteAsync(db.Ostrel, number, new(PracticeAct.FeelStroke, 3, "Pressure."), key, Now, Cancel);
        }
        await runs.NoteAsync(db.Ostrel, number, new(PracticeAct.Check, null, null, "combustion-gas"), Guid.NewGuid(), Now, Cancel);
        (await runs.ActsAsync(db.Ostrel, number, Cancel)).ShouldBe([new(PracticeAct.FeelStroke, 3, "Pressure."), new(PracticeAct.Check, null, null, "combustion-gas")]);
        // The call sees everything that was done, and there is one.
        await runs.CallAsync(db.Ostrel, number, done => { done.Count.ShouldBe(2); return Result(30); }, Now, Cancel);
        (await runs.CallAsync(db.Ostrel, number, _ => Result(40), Now, Cancel)).Refused.ShouldNotBeNull().ShouldContain("already");
        (await runs.NoteAsync(db.Ostrel, number, new(PracticeAct.Dry, 1), Guid.NewGuid(), Now, Cancel)).Refused.ShouldNotBeNull();
        var run = (await runs.FindAsync(db.Ostrel, number, Cancel))!;
        run.Result.ShouldNotBeNull().Score.ShouldBe(Result(30).Score);
        run.Result.Call.Suspects.ShouldBe(Result(30).Call.Suspects);
        run.Result.Call.Repairs.ShouldBe(Result(30).Call.Repairs);
        (run.Case, run.PersonId, run.Result.Minutes, run.Result.Hazards).ShouldBe((3, db.Ostrel.PersonId, 61.5, 1));
        (await runs.CalledAsync(db.Ostrel, Cancel))[(db.Ostrel.PersonId, db.Ostrel.Person)].ShouldContain((3, 80));
    }

    [Fact]
    public async Task An_exercise_is_set_for_one_or_all_and_known_to_be_done()
    {
        (await runs.SetAsync(db.Ostrel, 7, db.Ostrel.PersonId, new DateOnly(2026, 7, 1), "Before the fair.", Now, Cancel)).ShouldBeTrue();
        (await runs.SetAsync(db.Ostrel, 8, null, null, null, Now, Cancel)).ShouldBeTrue();
        (await runs.SetAsync(db.Ostrel, 8, 99_999, null, null, Now, Cancel)).ShouldBeFalse();
        var mine = await runs.SetAsync(db.Ostrel, db.Ostrel.PersonId, Cancel);
        mine.Select(e => (e.Case, e.Due, e.Says)).ShouldBe([(7, new DateOnly(2026, 7, 1), "Before the fair."), (8, null, null)]);
        (await runs.SetAsync(db.Ostrel, db.Ostrel.PersonId + 5000, Cancel)).Select(e => e.Case).ShouldBe([8], "what is set for somebody else is not theirs");
        (await runs.SetAsync(db.Stranger, null, Cancel)).ShouldBeEmpty("nor another shop's");
        var number = await runs.BeginAsync(db.Ostrel, PracticeCases.Find(7)!, mine[0].Id, Now, Cancel);
        (await runs.SetAsync(db.Ostrel, null, Cancel))[0].DoneBy.ShouldBeEmpty();
        await runs.CallAsync(db.Ostrel, number, _ => Result(0), Now, Cancel);
        (await runs.SetAsync(db.Ostrel, null, Cancel))[0].DoneBy.ShouldBe([db.Ostrel.PersonId]);
        (await runs.WithdrawAsync(db.Ostrel, mine[0].Id, Now, Cancel)).ShouldBeTrue();
        (await runs.WithdrawAsync(db.Ostrel, mine[0].Id, Now, Cancel)).ShouldBeFalse();
        (await runs.ListAsync(db.Ostrel, null, 10, Cancel)).ShouldContain(r => r.Number == number, "what was done stays");
        (await runs.ListAsync(db.Stranger, null, 10, Cancel)).ShouldBeEmpty();
    }
}
