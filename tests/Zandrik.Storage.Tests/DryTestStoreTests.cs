using Npgsql;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Storage.Tests;

public sealed class DryTestStoreTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 11, 25, 9, 0, 0, TimeSpan.Zero);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private async Task<int> JobAsync() =>
        await db.Jobs.CreateAsync(db.Ostrel, new TestRecord { Engine = new EngineSheet { Cylinders = 4 } }, Now, PressureUnit.Psi, cancel: Cancel);

    private async Task<long?> EnterAsync(int job, int cylinder, double value, PadEntryKind kind = PadEntryKind.Reading, Guid? key = null, PressureUnit unit = PressureUnit.Psi) =>
        (await db.DryTests.EnterAsync(db.Ostrel, job, null, new PadEntry(cylinder, kind, new GaugePressure(value, unit)), key ?? Guid.NewGuid(), Now, cancel: Cancel)).Test;

    private async Task<IReadOnlyList<CompressionReading>> ReadingsAsync(int job, bool superseded = false)
    {
        var record = (await db.Jobs.RecordAsync(db.Ostrel, job, superseded, Cancel))!;
        return ((DryCompressionTest?)record.Tests?.Single())?.Readings ?? [];
    }

    [Fact]
    public async Task The_first_reading_starts_the_test_and_each_knows_who_when_and_in_which_order()
    {
        var job = await JobAsync();
        await EnterAsync(job, 3, 205);
        await EnterAsync(job, 1, 203);
        var readings = await ReadingsAsync(job);
        readings.Select(r => (r.Cylinder, r.Value, r.Order, r.By, r.At)).ShouldBe([(3, 205, 1, "M. Ostrel", Now), (1, 203, 2, "M. Ostrel", Now)]);
    }

    [Theory]
    [InlineData(0)]
    [InlineData(5)]
    public async Task A_cylinder_that_the_engine_does_not_have_takes_no_reading(int cylinder) =>
        (await EnterAsync(await JobAsync(), cylinder, 205)).ShouldBeNull();

    [Fact]
    public async Task A_correction_keeps_what_it_replaced()
    {
        var job = await JobAsync();
        await EnterAsync(job, 1, 136);
        await EnterAsync(job, 1, 163);
        (await ReadingsAsync(job)).Single().Value.ShouldBe(163);
        var all = await ReadingsAsync(job, superseded: true);
        all.Select(r => r.Value).ShouldBe([136, 163]);
        all[0].SupersededBy.ShouldBe(all[1].Id);
        all[1].SupersededBy.ShouldBeNull();
    }

    [Fact]
    public async Task The_same_entry_sent_twice_is_kept_once()
    {
        var (job, key) = (await JobAsync(), Guid.NewGuid());
        await Task.WhenAll(Enumerable.Range(0, 5).Select(_ => EnterAsync(job, 2, 198, PadEntryKind.Repeat, key)));
        (await ReadingsAsync(job, superseded: true)).Count.ShouldBe(1);
    }

    [Fact]
    public async Task Two_writers_at_one_cylinder_are_both_kept_in_one_chain()
    {
        var job = await JobAsync();
        await Task.WhenAll(Enumerable.Range(0, 12).Select(i => EnterAsync(job, 1, 100 + i)));
        (await ReadingsAsync(job)).Count.ShouldBe(1);
        var all = await ReadingsAsync(job, superseded: true);
        all.Select(r => r.Value).Order().ShouldBe(Enumerable.Range(100, 12).Select(v => (double?)v));
        all.Count(r => r.SupersededBy is null).ShouldBe(1);
    }

    [Fact]
    public async Task Two_first_readings_at_once_start_one_test()
    {
        var job = await JobAsync();
        var tests = await Task.WhenAll(Enumerable.Range(1, 4).Select(c => EnterAsync(job, c, 200)));
        tests.Distinct().Count().ShouldBe(1);
        (await ReadingsAsync(job)).Count.ShouldBe(4);
    }

    [Fact]
    public async Task Undo_goes_back_entry_by_entry_and_removes_nothing()
    {
        var job = await JobAsync();
        await EnterAsync(job, 1, 205);
        await EnterAsync(job, 2, 136);
        var test = (await EnterAsync(job, 2, 163))!.Value;
        async Task<int?> Undo() => (await db.DryTests.UndoAsync(db.Ostrel, job, test, Guid.NewGuid(), Now, Cancel)).Cylinder;

        (await Undo()).ShouldBe(2);
        (await ReadingsAsync(job)).Select(r => r.Value).ShouldBe([205, 136]);
        (await Undo()).ShouldBe(2);
        (await ReadingsAsync(job)).Select(r => r.Value).ShouldBe([205]);
        await EnterAsync(job, 2, 170);
        (await ReadingsAsync(job)).Select(r => r.Value).ShouldBe([205, 170]);
        (await Undo()).ShouldBe(2);
        (await Undo()).ShouldBe(1);
        (await Undo()).ShouldBeNull("nothing is left to take back");
        (await ReadingsAsync(job)).ShouldBeEmpty();
        (await ReadingsAsync(job, superseded: true)).Select(r => r.Value).ShouldBe([205, 136, 163, 136, 170]);
    }

    [Fact]
    public async Task Conditions_are_kept_before_and_after_the_first_reading()
    {
        var job = await JobAsync();
        var test = (await db.DryTests.SetConditionsAsync(db.Ostrel, job, null, new TestConditions { Throttle = ThrottlePlate.Closed }, PressureUnit.Psi, Now, Cancel)).Test;
        await EnterAsync(job, 1, 180);
        await db.DryTests.SetConditionsAsync(db.Ostrel, job, test, new TestConditions { Throttle = ThrottlePlate.Open }, PressureUnit.Psi, Now, Cancel);
        var found = (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.DryTests.Single();
        found.Id.ShouldBe(test!.Value);
        found.Test.Conditions!.Throttle.ShouldBe(ThrottlePlate.Open);
        found.Test.Readings!.Single().Value.ShouldBe(180);
    }

    [Fact]
    public async Task What_is_put_right_after_a_reading_is_kept_with_who_changed_it()
    {
        var job = await JobAsync();
        async Task<long> Set(TestConditions conditions, long? test) => (await db.DryTests.SetConditionsAsync(db.Ostrel, job, test, conditions, PressureUnit.Psi, Now, Cancel)).Test!.Value;
        var test = await Set(new TestConditions { Throttle = ThrottlePlate.Closed }, null);
        await Set(new TestConditions { Throttle = ThrottlePlate.Unverified }, test);
        (await db.DryTests.ChangesAsync(db.Ostrel, job, test, Cancel)).ShouldBeEmpty("nothing was read by then");
        await EnterAsync(job, 1, 180);
        await Set(new TestConditions { Throttle = ThrottlePlate.Open }, test);
        await db.DryTests.SetCountAsync(db.Ostrel, job, test, 6, PressureUnit.Psi, Now, Cancel);
        var changes = await db.DryTests.ChangesAsync(db.Ostrel, job, test, Cancel);
        changes.Select(c => (c.Made.By, c.Before.Conditions!.Throttle, c.After.Conditions!.Throttle, c.Before.Count, c.After.Count)).ShouldBe(
            [("M. Ostrel", ThrottlePlate.Unverified, ThrottlePlate.Open, null, null), ("M. Ostrel", ThrottlePlate.Open, ThrottlePlate.Open, null, 6)]);
        (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.ChangedSinceRead.ShouldBe([test]);
        (await db.DryTests.ChangesAsync(db.Stranger, job, test, Cancel)).ShouldBeEmpty();
    }

    [Fact]
    public async Task Another_shop_sees_and_reaches_nothing()
    {
        var job = await JobAsync();
        var test = (await EnterAsync(job, 1, 205))!.Value;
        (await db.Jobs.FindAsync(db.Stranger, job, Cancel)).ShouldBeNull();
        (await db.Jobs.ListAsync(db.Stranger, new JobFilter(), 50, Cancel)).Jobs.ShouldNotContain(j => j.Number == job && j.OpenedBy == "M. Ostrel");
        (await db.Jobs.CloseAsync(db.Stranger, job, Now, cancel: Cancel)).Found.ShouldBeFalse();
        (await db.DryTests.UndoAsync(db.Stranger, job, test, Guid.NewGuid(), Now, Cancel)).Cylinder.ShouldBeNull();
        (await db.DryTests.EnterAsync(db.Stranger, job, test, new PadEntry(1, PadEntryKind.Reading, new GaugePressure(1, PressureUnit.Psi)), Guid.NewGuid(), Now, cancel: Cancel)).Test.ShouldBeNull();
        (await ReadingsAsync(job)).Single().Value.ShouldBe(205);
    }

    [Fact]
    public async Task A_test_of_one_job_cannot_be_reached_through_another()
    {
        var (mine, other) = (await JobAsync(), await JobAsync());
        var test = (await EnterAsync(mine, 1, 205))!.Value;
        (await db.DryTests.EnterAsync(db.Ostrel, other, test, new PadEntry(1, PadEntryKind.Reading, new GaugePressure(1, PressureUnit.Psi)), Guid.NewGuid(), Now, cancel: Cancel)).Test.ShouldBeNull();
    }

    [Theory]
    [InlineData("update reading set taken_at = now()")]
    [InlineData("delete from reading")]
    [InlineData("truncate reading cascade")]
    public async Task Readings_cannot_be_changed_or_removed_not_even_by_the_owner(string sql)
    {
        await EnterAsync(await JobAsync(), 1, 205);
        var refused = await Should.ThrowAsync<PostgresException>(() => db.AsOwnerAsync(sql));
        refused.Message.ShouldContain("never changed or removed");
    }

    [Fact]
    public async Task The_applications_role_sees_nothing_without_a_shop_and_cannot_write_into_another()
    {
        await EnterAsync(await JobAsync(), 1, 205);
        foreach (var table in new[] { "job", "test", "reading", "person", "api_token", "shop", "idempotency" })
        {
            (await TestDatabase.ExecuteAsync(db.Connection, $"select count(*) from {table}")).ShouldBe(0L, table);
        }
        await using var source = NpgsqlDataSource.Create(db.Connection);
        await using var connection = await source.OpenConnectionAsync(Cancel);
        await using var command = new NpgsqlCommand($"""
            select set_config('zandrik.shop', '{db.Stranger.ShopId}', false);
            insert into job (shop_id, number, record, unit, opened_at, opened_by) values ({db.Ostrel.ShopId}, 9999, '[]', 'psi', now(), {db.Ostrel.PersonId})
            """, connection);
        (await Should.ThrowAsync<PostgresException>(() => command.ExecuteNonQueryAsync(Cancel))).SqlState.ShouldBe("42501");
    }

    private async Task<ShopPerson> HallanAsync()
    {
        await db.AsOwnerAsync($"insert into person (shop_id, name) values ({db.Ostrel.ShopId}, 'T. Hallan') on conflict do nothing");
        return db.Ostrel with { Person = "T. Hallan", PersonId = (int)(await db.AsOwnerAsync($"select id from person where name = 'T. Hallan' and shop_id = {db.Ostrel.ShopId}"))! };
    }

    private async Task<long?> SeenAsync(ShopPerson who, int job, double value, long? seen, PadEntryKind kind = PadEntryKind.Reading) =>
        (await db.DryTests.EnterAsync(who, job, null, new PadEntry(1, kind, new GaugePressure(value, PressureUnit.Psi)), Guid.NewGuid(), Now, seen, cancel: Cancel)).Test;

    [Fact]
    public async Task A_reading_over_one_that_was_not_seen_is_kept_beside_it_until_somebody_says_which_counts()
    {
        var hallan = await HallanAsync();
        var job = await JobAsync();
        var test = (await SeenAsync(db.Ostrel, job, 178, seen: 0))!.Value;
        await SeenAsync(hallan, job, 145, seen: 0);
        async Task<(CompressionReading Reading, KeptReading Row)> NowAsync()
        {
            var found = (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!;
            return (found.DryTests[0].Test.Readings!.Single(), found.Rows[test][1]);
        }
        var (reading, row) = await NowAsync();
        (reading.Value, reading.By).ShouldBe((178, "M. Ostrel"), "nobody in a hurry decides");
        reading.Repeats.ShouldBe([145]);
        (row.Conflicting!.By, row.Conflicting.Value, row.Conflicting.OtherBy).ShouldBe(("T. Hallan", 145, "M. Ostrel"));

        await SeenAsync(hallan, job, 90, seen: null, PadEntryKind.FirstPulse);
        (await NowAsync()).Row.Conflicting.ShouldNotBeNull("a first pulse settles nothing");
        await SeenAsync(db.Ostrel, job, 145, seen: null, PadEntryKind.Choose);
        (reading, row) = await NowAsync();
        (reading.Value, row.Conflicting).ShouldBe((145, null));
        reading.Repeats!.Select(r => r.Value).ShouldBe([178], "both stay on record");

        // What was seen is a correction, and the same person never argues with himself.
        await SeenAsync(hallan, job, 150, seen: row.Id);
        (await NowAsync()).Reading.Value.ShouldBe(150);
        await SeenAsync(hallan, job, 151, seen: 0);
        (await NowAsync()).Row.Conflicting.ShouldBeNull();
    }

    [Fact]
    public async Task An_undo_takes_back_ones_own_entry_once_and_never_another_persons()
    {
        var hallan = await HallanAsync();
        var job = await JobAsync();
        var test = (await EnterAsync(job, 1, 205))!.Value;
        await EnterAsync(job, 2, 163);
        await db.DryTests.EnterAsync(hallan, job, test, new PadEntry(2, PadEntryKind.Reading, new GaugePressure(140, PressureUnit.Psi)), Guid.NewGuid(), Now, cancel: Cancel);
        var key = Guid.NewGuid();
        var undone = await Task.WhenAll(Enumerable.Range(0, 3).Select(_ => db.DryTests.UndoAsync(db.Ostrel, job, test, key, Now, Cancel)));
        undone.ShouldAllBe(u => u.Cylinder == 1, "cylinder 2 was written over by somebody else since; the same undo sent three times is one");
        (await db.DryTests.UndoAsync(db.Ostrel, job, test, Guid.NewGuid(), Now, Cancel)).Cylinder.ShouldBeNull();
        (await db.DryTests.UndoAsync(hallan, job, test, Guid.NewGuid(), Now, Cancel)).Cylinder.ShouldBe(2);
        (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.DryTests[0].Test.Readings!.Select(r => r.Value).ShouldBe([163]);
    }

    [Fact]
    public async Task What_is_entered_is_told_to_whoever_listens_and_so_is_a_condition()
    {
        var job = await JobAsync();
        var heard = System.Threading.Channels.Channel.CreateUnbounded<JobChange>();
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(Cancel);
        var ready = new TaskCompletionSource();
        var listening = new LiveChanges(db.Database).ListenAsync(ready.SetResult, c => heard.Writer.TryWrite(c), stop.Token);
        await ready.Task;
        var test = await EnterAsync(job, 1, 205);
        JobChange last;
        do
        {
            last = await heard.Reader.ReadAsync(Cancel);
        }
        while (last.Job != job || last.Row == 0);
        last.Shop.ShouldBe(db.Ostrel.ShopId);
        await db.DryTests.SetConditionsAsync(db.Ostrel, job, test, new TestConditions { Fuel = Supply.Off }, PressureUnit.Psi, Now, Cancel);
        do
        {
            last = await heard.Reader.ReadAsync(Cancel);
        }
        while (last.Job != job || last.Row != 0);
        await stop.CancelAsync();
        await Should.ThrowAsync<OperationCanceledException>(() => listening);
    }

    [Fact]
    public async Task Migrating_again_changes_nothing()
    {
        Migrator.Migrate(db.Owner, "zandrik").ShouldBeEmpty();
        (await Migrator.EnsureShopAsync(db.Owner, new FirstShop("Another", "Etc/UTC", "psi", []), Cancel)).ShouldBeFalse();
    }
}
