using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Storage.Tests;

public sealed class StepStoreTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 3, 2, 9, 40, 0, TimeSpan.Zero);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private readonly StepStore steps = new(db.Database);

    private Task<int> JobAsync(params TestEntry[] tests) => db.Jobs.CreateAsync(db.Ostrel, new TestRecord
    {
        Engine = new EngineSheet { Cylinders = 4, Fuel = Fuel.Petrol, Gearbox = Gearbox.Manual, FiringOrder = [1, 3, 4, 2] }, Tests = tests.Length > 0 ? tests : null,
    }, Now, cancel: Cancel);

    private async Task<TestRecord> RecordAsync(int job) => (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.Record;

    private Task<StepAnswer> CrankAsync(int job, string item, string? way = null, bool done = true, Guid? key = null) =>
        steps.DoAsync(db.Ostrel, job, StepStore.Crank, item, way, done, key ?? Guid.NewGuid(), Now, s => s.Crank.Refuses(new CrankEvent(item, way, done)), Cancel);

    private Task<StepAnswer> HeldAsync(int job, int cylinder, double held, Guid? key = null) =>
        steps.KeepAsync<LeakDownTest, LeakDownReading>(db.Ostrel, job, cylinder, _ => new LeakDownTest { Unit = PressureUnit.Psi, Supply = 100 },
            (standing, _, before) => standing.Crank.RefusesReading(cylinder) is { } why ? (null, why) : ((before ?? new LeakDownReading { Cylinder = cylinder }) with { Held = held }, null), key ?? Guid.NewGuid(), Now, cancel: Cancel);

    [Fact]
    public async Task A_guard_is_asked_where_it_is_written_so_nothing_slips_in_beside_it()
    {
        var job = await JobAsync();
        (await HeldAsync(job, 1, 90)).Refused!.ShouldContain("TDC on compression");
        (await CrankAsync(job, CrankGuard.Turned, "1")).Refused.ShouldBeNull();
        (await CrankAsync(job, CrankGuard.Air)).Refused!.ShouldContain("No air yet");
        foreach (var word in new[] { "key", "stroke", "chocks", "held", "bar" })
        {
            (await CrankAsync(job, word)).Refused.ShouldBeNull();
        }
        // Of many who would open the air or turn the crank at once, each is asked about what the one before it did.
        var answers = await Task.WhenAll(Enumerable.Range(0, 8).Select(i => i % 2 == 0 ? CrankAsync(job, CrankGuard.Air) : CrankAsync(job, CrankGuard.Turned, "3")));
        var crank = (await new WorkspaceStore(db.Database).FindAsync(db.Ostrel, job, cancel: Cancel))!.JobState.Crank;
        crank.AirIsOn.ShouldBe(crank.Cylinder == 1);
        answers.Where((_, i) => i % 2 == 1).ShouldAllBe(a => a.Refused == null == (crank.Cylinder == 3));
    }

    private async Task<int> WithAirAsync()
    {
        var job = await JobAsync();
        await CrankAsync(job, CrankGuard.Turned, "2");
        foreach (var word in new[] { "key", "stroke", "chocks", "held", "bar" })
        {
            await CrankAsync(job, word);
        }
        await CrankAsync(job, CrankGuard.Air);
        return job;
    }

    [Fact]
    public async Task An_entry_sent_twice_is_kept_once_and_an_undo_brings_the_one_before_back()
    {
        var job = await WithAirAsync();
        var key = Guid.NewGuid();
        await HeldAsync(job, 2, 55, key);
        await HeldAsync(job, 2, 55, key);
        await HeldAsync(job, 2, 60);
        async Task<LeakDownReading[]> ReadingsAsync() => [.. ((LeakDownTest)(await RecordAsync(job)).Tests!.Single()).Readings ?? []];
        (await ReadingsAsync()).ShouldHaveSingleItem().Held.ShouldBe(60);
        (await steps.UndoAsync(db.Ostrel, job, TestKind.LeakDown, Guid.NewGuid(), Now, Cancel)).Found.ShouldBeTrue();
        (await ReadingsAsync()).ShouldHaveSingleItem().Held.ShouldBe(55);
        await steps.UndoAsync(db.Ostrel, job, TestKind.LeakDown, Guid.NewGuid(), Now, Cancel);
        (await ReadingsAsync()).ShouldBeEmpty();
        (await steps.UndoAsync(db.Ostrel, job, TestKind.LeakDown, Guid.NewGuid(), Now, Cancel)).Found.ShouldBeFalse();
        (await HeldAsync(job, 2, 70)).Refused.ShouldBeNull();
        (await ReadingsAsync()).ShouldHaveSingleItem().Held.ShouldBe(70);
        (await db.Jobs.RecordAsync(db.Ostrel, job, superseded: true, Cancel))!.Tests!.OfType<LeakDownTest>().Single().Readings!.Count.ShouldBe(4, "nothing is lost");
    }

    [Fact]
    public async Task A_test_that_came_as_a_list_goes_on_at_its_cylinders()
    {
        var job = await JobAsync(new LeakDownTest { Supply = 100, Readings = [new LeakDownReading { Cylinder = 3, Held = 80 }, new LeakDownReading { Cylinder = 1, Held = 90 }] });
        for (var cylinder = 1; cylinder <= 4; cylinder++)
        {
            var c = cylinder;
            await steps.KeepAsync<LeakDownTest, LeakDownReading>(db.Ostrel, job, c, _ => new LeakDownTest(), (_, _, before) => ((before ?? new LeakDownReading { Cylinder = c }) with { LeakPercent = c }, null), Guid.NewGuid(), Now, cancel: Cancel);
        }
        var readings = ((LeakDownTest)(await RecordAsync(job)).Tests!.Single()).Readings!;
        readings.Select(r => (r.Cylinder, r.Held, r.LeakPercent)).ShouldBe([(3, 80, 3), (1, 90, 1), (2, null, 2), (4, null, 4)]);
        (await HeldAsync(job, 5, 90)).Found.ShouldBeFalse();
        (await HeldAsync(99_999, 1, 90)).Found.ShouldBeFalse();
    }

    [Fact]
    public async Task A_small_check_is_corrected_by_a_new_one_and_the_old_one_stays_withdrawn()
    {
        var job = await JobAsync();
        var key = Guid.NewGuid();
        var first = await steps.AddTestAsync(db.Ostrel, job, new CombustionGasTest { Result = CombustionGasResult.Unclear }, null, key, Now, cancel: Cancel);
        (await steps.AddTestAsync(db.Ostrel, job, new CombustionGasTest { Result = CombustionGasResult.Unclear }, null, key, Now, cancel: Cancel)).ShouldBe(first);
        await steps.AddTestAsync(db.Ostrel, job, new CombustionGasTest { Result = CombustionGasResult.Positive }, first.Test, Guid.NewGuid(), Now, cancel: Cancel);
        var test = (CombustionGasTest)(await RecordAsync(job)).Tests!.ShouldHaveSingleItem();
        (test.Result, test.By, test.At).ShouldBe((CombustionGasResult.Positive, "M. Ostrel", Now));
        var kept = await db.Database.InShopAsync(db.Ostrel, (c, t) => Dapper.SqlMapper.ExecuteScalarAsync<int>(c, "select count(*)::int from test where withdrawn_at is not null and job_id = (select id from job where number = @job)", new { job }, t), Cancel);
        kept.ShouldBe(1);
    }

    [Fact]
    public async Task Readings_taken_at_the_engine_are_not_withdrawn_as_a_check_is()
    {
        var job = await JobAsync(new DryCompressionTest { Readings = [new CompressionReading { Cylinder = 1, Value = 200 }] });
        var id = (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.TestIds.Single();
        (await steps.WithdrawAsync(db.Ostrel, job, id, Now, Cancel)).Found.ShouldBeFalse();
        (await RecordAsync(job)).Tests!.Count.ShouldBe(1);
    }

    [Fact]
    public async Task Another_shop_neither_sees_nor_turns_anything()
    {
        var job = await WithAirAsync();
        var stranger = db.Stranger;
        (await steps.DoAsync(stranger, job, StepStore.Crank, CrankGuard.Air, null, false, Guid.NewGuid(), Now, _ => null, Cancel)).Found.ShouldBeFalse();
        (await steps.AddTestAsync(stranger, job, new FluidsCheck(), null, Guid.NewGuid(), Now, cancel: Cancel)).Test.ShouldBeNull();
        (await steps.UndoAsync(stranger, job, TestKind.LeakDown, Guid.NewGuid(), Now, Cancel)).Found.ShouldBeFalse();
    }
}
