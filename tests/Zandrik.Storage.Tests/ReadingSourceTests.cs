using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Storage.Tests;

/// <summary>What stands beside a reading: its pressure in Pa, and the instrument it came from.</summary>
public sealed class ReadingSourceTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 6, 1, 9, 0, 0, TimeSpan.Zero);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private Task<int> JobAsync(params TestEntry[] tests) =>
        db.Jobs.CreateAsync(db.Ostrel, new TestRecord { Engine = new() { Cylinders = 4, Spec = new() { Unit = PressureUnit.Bar } }, Tests = tests }, Now, cancel: Cancel);

    private async Task<string> RowsAsync(int job, string what) => (string)(await db.AsOwnerAsync(
        $"select coalesce(string_agg(coalesce({what}::text, '-'), ' ' order by r.id), '') from reading r join test t on t.id = r.test_id join job j on j.id = t.job_id where j.number = {job} and j.shop_id = {db.Ostrel.ShopId}"))!;

    private Task<TestAnswer> EnterAsync(int job, int cylinder, double value, PressureUnit unit, PadEntryKind kind = PadEntryKind.Reading, ReadingSource? source = null) =>
        db.DryTests.EnterAsync(db.Ostrel, job, null, new PadEntry(cylinder, kind, new GaugePressure(value, unit)), Guid.NewGuid(), Now, null, source, Cancel);

    [Fact]
    public async Task A_reading_has_its_pressure_in_pascals_whatever_unit_it_was_read_in()
    {
        var job = await JobAsync();
        await EnterAsync(job, 1, 12.5, PressureUnit.Bar);
        await EnterAsync(job, 2, 180, PressureUnit.Psi);
        await EnterAsync(job, 1, 12.6, PressureUnit.Bar, PadEntryKind.Repeat);
        await new StepStore(db.Database).KeepAsync<LeakDownTest, LeakDownReading>(db.Ostrel, job, 3, _ => new LeakDownTest { Unit = PressureUnit.KPa, Supply = 700 }, (_, _, _) => (new LeakDownReading { Cylinder = 3, Held = 650 }, null), Guid.NewGuid(), Now, cancel: Cancel);
        await new StepStore(db.Database).KeepAsync<RunningCompressionTest, RunningReading>(db.Ostrel, job, 3, _ => new RunningCompressionTest { Unit = PressureUnit.Bar }, (_, _, _) => (new RunningReading { Cylinder = 3, Idle = 4 }, null), Guid.NewGuid(), Now, cancel: Cancel);
        var psi = new GaugePressure(180, PressureUnit.Psi).Pascals.ToString("R", System.Globalization.CultureInfo.InvariantCulture);
        (await RowsAsync(job, "r.pressure_pa")).ShouldBe($"1250000 {psi} 1260000 650000 -", "running compression has two pressures and none of them is the reading");
    }

    [Fact]
    public async Task What_is_imported_has_it_too_and_a_migration_of_old_rows_comes_to_the_same()
    {
        var job = await JobAsync(
            new DryCompressionTest { Readings = [new() { Cylinder = 1, Value = 11 }, new() { Cylinder = 2, Value = 160, AsRead = new() { Value = 160, Unit = PressureUnit.Psi } }, new() { Cylinder = 3, Repeats = [] }] },
            new LeakDownTest { Unit = PressureUnit.KgfPerCm2, Supply = 7, Readings = [new() { Cylinder = 1, Held = 6 }, new() { Cylinder = 2, LeakPercent = 8 }] });
        var written = await RowsAsync(job, "round(r.pressure_pa::numeric, 6)");
        await db.AsOwnerAsync("alter table reading disable trigger reading_is_append_only; update reading set pressure_pa = null");
        var migration = await File.ReadAllTextAsync(Path.Combine(Repository.Root, "src/Zandrik.Storage/Migrations/0016-pressure-and-source.sql"), Cancel);
        await db.AsOwnerAsync(migration[migration.IndexOf("alter table reading disable", StringComparison.Ordinal)..]);
        (await RowsAsync(job, "round(r.pressure_pa::numeric, 6)")).ShouldBe(written);
        written.ShouldStartWith("1100000.000000 1103161.166");
    }

    [Fact]
    public async Task An_instrument_is_named_with_what_it_recorded_and_the_person_stays_the_one_who_took_it()
    {
        var job = await JobAsync();
        var trace = new byte[] { 1, 2, 3 };
        await EnterAsync(job, 1, 12, PressureUnit.Bar, source: new ReadingSource("Bench gauge 1", trace));
        await EnterAsync(job, 1, 11.9, PressureUnit.Bar);
        await EnterAsync(job, 2, 11.5, PressureUnit.Bar);
        (await RowsAsync(job, "r.instrument")).ShouldBe("Bench gauge 1 - -");
        (await db.Jobs.RecordAsync(db.Ostrel, job, superseded: false, Cancel))!.Tests!.OfType<DryCompressionTest>().Single().Readings!.ShouldAllBe(r => r.By == db.Ostrel.Person);
        var test = (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.TestIds[0];
        // Taken back twice, the reading of the instrument stands again, whole.
        await db.DryTests.UndoAsync(db.Ostrel, job, test, Guid.NewGuid(), Now, Cancel);
        await db.DryTests.UndoAsync(db.Ostrel, job, test, Guid.NewGuid(), Now, Cancel);
        (await RowsAsync(job, "coalesce(r.instrument, '') || encode(coalesce(r.trace, ''), 'hex')")).ShouldBe("Bench gauge 1010203    Bench gauge 1010203");
        (await RowsAsync(job, "r.pressure_pa")).ShouldBe("1200000 1190000 1150000 - 1200000");
    }
}
