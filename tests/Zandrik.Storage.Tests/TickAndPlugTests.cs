using Npgsql;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Storage.Tests;

public sealed class TickAndPlugTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 3, 2, 9, 40, 0, TimeSpan.Zero);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private readonly TickStore ticks = new(db.Database);
    private readonly PlugStore plugs = new(db.Database);

    private Task<int> JobAsync() => db.Jobs.CreateAsync(db.Ostrel, new TestRecord { Engine = new EngineSheet { Cylinders = 4, Fuel = Fuel.Petrol } }, Now, cancel: Cancel);

    private Task<StepAnswer> TickAsync(int job, string list, string item, string? way, bool done = true, ShopPerson? who = null) =>
        new StepStore(db.Database).DoAsync(who ?? db.Ostrel, job, list, item, way, done, Guid.NewGuid(), Now, _ => null, Cancel);

    private Task<TestAnswer> EnterAsync(int job, int cylinder, double value) =>
        db.DryTests.EnterAsync(db.Ostrel, job, null, new PadEntry(cylinder, PadEntryKind.Reading, new GaugePressure(value, PressureUnit.Psi)), Guid.NewGuid(), Now, cancel: Cancel);

    [Fact]
    public async Task What_was_not_ticked_when_it_was_read_stands_on_that_reading_whatever_is_ticked_later()
    {
        var job = await JobAsync();
        await EnterAsync(job, 1, 200);
        await TickAsync(job, TickStore.Prepare, "fuel", "pump-relay", done: true);
        await EnterAsync(job, 2, 200);
        await TickAsync(job, TickStore.Prepare, "ignition", "coils-unplugged", done: true);
        await EnterAsync(job, 3, 200);
        var readings = (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.DryTests[0].Test.Readings!;
        readings[0].Conditions.ShouldBeNull("the list was not begun");
        readings[1].Conditions!.NotPrepared!.ShouldContain(PreparationItem.Ignition);
        readings[1].Conditions!.NotPrepared!.ShouldNotContain(PreparationItem.Fuel);
        readings[2].Conditions!.NotPrepared!.ShouldNotContain(PreparationItem.Ignition);
    }

    [Fact]
    public async Task The_same_figure_read_again_is_read_anew_and_choosing_an_older_one_is_not()
    {
        var job = await JobAsync();
        async Task<CompressionReading> ReadingAsync() => (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.DryTests[0].Test.Readings!.Single();
        await TickAsync(job, TickStore.Prepare, "fuel", "pump-relay", done: true);
        await EnterAsync(job, 1, 200);
        (await ReadingAsync()).Conditions!.NotPrepared!.ShouldContain(PreparationItem.Ignition);
        await TickAsync(job, TickStore.Prepare, "ignition", "coils-unplugged", done: true);
        await EnterAsync(job, 1, 200);
        (await ReadingAsync()).Conditions!.NotPrepared!.ShouldNotContain(PreparationItem.Ignition, "cranked again, prepared now");
        await db.DryTests.EnterAsync(db.Ostrel, job, null, new PadEntry(1, PadEntryKind.Repeat, new GaugePressure(190, PressureUnit.Psi)), Guid.NewGuid(), Now, cancel: Cancel);
        await TickAsync(job, TickStore.Prepare, "ignition", null, done: false);
        await db.DryTests.EnterAsync(db.Ostrel, job, null, new PadEntry(1, PadEntryKind.Choose, new GaugePressure(200, PressureUnit.Psi)), Guid.NewGuid(), Now, cancel: Cancel);
        (await ReadingAsync()).Conditions!.NotPrepared!.ShouldNotContain(PreparationItem.Ignition, "nothing was cranked for the choice");
    }

    [Fact]
    public async Task A_tick_knows_who_when_and_which_way_and_can_be_taken_away()
    {
        var job = await JobAsync();
        await TickAsync(job, TickStore.Prepare, "fuel", "pump-relay", done: true);
        (await ticks.ListAsync(db.Ostrel, job, TickStore.Prepare, Cancel))["fuel"].ShouldBe(new Tick { Item = "fuel", Way = "pump-relay", At = Now, By = "M. Ostrel" });
        await TickAsync(job, TickStore.Prepare, "fuel", null, done: false);
        (await ticks.ListAsync(db.Ostrel, job, TickStore.Prepare, Cancel)).ShouldBeEmpty();
        (await TickAsync(job + 5000, TickStore.Prepare, "fuel", null, who: db.Stranger)).Found.ShouldBeFalse();
        (await ticks.ListAsync(db.Ostrel, job, TickStore.Refit, Cancel)).ShouldBeEmpty();
    }

    private Task<StepAnswer> ReadAsync(int job, PlugReading reading, Guid key) =>
        new StepStore(db.Database).KeepAsync<PlugInspection, PlugReading>(db.Ostrel, job, reading.Cylinder, _ => new PlugInspection(), (_, _, _) => (reading, null), key, Now, cancel: Cancel);

    [Fact]
    public async Task A_plug_is_read_once_for_each_key_and_corrected_in_its_chain()
    {
        var job = await JobAsync();
        var key = Guid.NewGuid();
        var oily = new PlugReading { Cylinder = 2, Signs = [PlugSign.OilWet], Smell = "oil", Keep = false };
        await Task.WhenAll(Enumerable.Range(0, 4).Select(_ => ReadAsync(job, oily, key)));
        await ReadAsync(job, oily with { Signs = [PlugSign.DrySoot] }, Guid.NewGuid());
        await ReadAsync(job, new PlugReading { Cylinder = 1, Signs = [PlugSign.Normal] }, Guid.NewGuid());
        (await ReadAsync(job, oily with { Cylinder = 5 }, Guid.NewGuid())).Found.ShouldBeFalse("no such cylinder");
        var record = (await db.Jobs.RecordAsync(db.Ostrel, job, superseded: true, Cancel))!;
        var readings = record.Tests!.OfType<PlugInspection>().Single().Readings!;
        readings.Count(r => r.SupersededBy is null).ShouldBe(2);
        readings.Single(r => r.Cylinder == 2 && r.SupersededBy is null).Signs.ShouldBe([PlugSign.DrySoot]);
        readings.Count(r => r.Cylinder == 2).ShouldBe(2, "the oily one stays on record");
    }

    [Fact]
    public async Task A_photo_is_its_shops_only()
    {
        var job = await JobAsync();
        var photo = (await plugs.AddPhotoAsync(db.Ostrel, job, 3, [1, 2, 3], [1], 10, 10, Now, Cancel))!.Value;
        (await plugs.BytesAsync(db.Ostrel, job, photo, thumbnail: false, Cancel)).ShouldBe([1, 2, 3]);
        (await plugs.BytesAsync(db.Stranger, job, photo, thumbnail: true, Cancel)).ShouldBeNull();
        (await plugs.AddPhotoAsync(db.Ostrel, job, 9, [1], [1], 1, 1, Now, Cancel)).ShouldBeNull("no such cylinder");
        await plugs.RemovePhotoAsync(db.Ostrel, job, photo, Now, Cancel);
        (await plugs.PhotosAsync(db.Ostrel, job, Cancel)).ShouldBeEmpty();
    }

    [Fact]
    public async Task Ticks_are_only_ever_added()
    {
        var job = await JobAsync();
        await TickAsync(job, TickStore.Prepare, "fuel", null, done: true);
        (await Should.ThrowAsync<PostgresException>(() => db.AsOwnerAsync("update job_tick set done = false"))).MessageText.ShouldContain("never changed");
    }
}
