using Npgsql;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Storage.Tests;

/// <summary>Practice looks like work and is never counted as work: kept apart by the database itself.</summary>
public sealed class PurposeTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 6, 1, 9, 0, 0, TimeSpan.Zero);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private ShopPerson Practising => db.Ostrel with { Purpose = JobPurpose.Practice };

    private async Task<int> PracticeAsync()
    {
        var job = await db.Jobs.CreateAsync(Practising, new TestRecord { Engine = new() { Cylinders = 4, Serial = "DRILL-1" }, Vehicle = new() { Label = "Drill van" }, Complaint = "drill" }, Now, cancel: Cancel);
        (await db.DryTests.EnterAsync(Practising, job, null, new PadEntry(1, PadEntryKind.Reading, new GaugePressure(150, PressureUnit.Psi)), Guid.NewGuid(), Now, cancel: Cancel)).Test.ShouldNotBeNull();
        await new StepStore(db.Database).DoAsync(Practising, job, TickStore.Prepare, "fuel", null, true, Guid.NewGuid(), Now, _ => null, Cancel);
        (await new VerdictStore(db.Database).AddFoundAsync(Practising, job, new FoundFault { Cylinder = 1, Fault = Fault.Rings }, Guid.NewGuid(), Now, Cancel)).Found.ShouldBeTrue();
        return job;
    }

    [Fact]
    public async Task No_list_count_search_outcome_or_export_of_work_contains_practice()
    {
        var job = await PracticeAsync();
        (await db.Jobs.FindAsync(db.Ostrel, job, Cancel)).ShouldBeNull();
        (await db.Jobs.RecordAsync(db.Ostrel, job, superseded: true, Cancel)).ShouldBeNull();
        (await db.Jobs.LinesAsync(db.Ostrel, new JobFilter(), 50, Cancel)).Lines.ShouldNotContain(l => l.Number == job);
        (await new SearchStore(db.Database).FindAsync(db.Ostrel, "drill", 8, Cancel)).IsEmpty.ShouldBeTrue();
        (await new SearchStore(db.Database).FindAsync(db.Ostrel, $"{job}", 8, Cancel)).IsEmpty.ShouldBeTrue();
        (await new VerdictStore(db.Database).OutcomesAsync(db.Ostrel, Cancel)).Outcomes.ShouldBeEmpty();
        (await new VehicleStore(db.Database).ListAsync(db.Ostrel, null, 50, Cancel)).Vehicles.ShouldNotContain(v => v.Label == "Drill van");
        (await db.DryTests.EnterAsync(db.Ostrel, job, null, new PadEntry(2, PadEntryKind.Reading, new GaugePressure(150, PressureUnit.Psi)), Guid.NewGuid(), Now, cancel: Cancel)).Test.ShouldBeNull();
        // And whoever practises sees nothing of work.
        var work = await db.Jobs.CreateAsync(db.Ostrel, new TestRecord { Engine = new() { Cylinders = 4, Serial = "DRILL-1" }, Vehicle = new() { Label = "Drill van" } }, Now, cancel: Cancel);
        (await db.Jobs.FindAsync(Practising, work, Cancel)).ShouldBeNull();
        (await db.Jobs.LinesAsync(Practising, new JobFilter(), 50, Cancel)).Lines.ShouldAllBe(l => l.Number != work && l.Vehicle == "Drill van");
        (await new WorkspaceStore(db.Database).FindAsync(Practising, job, null, Cancel))!.Job.Record.Complaint.ShouldBe("drill");
    }

    [Fact]
    public async Task Whatever_belongs_to_a_job_has_a_policy_for_shop_and_purpose_and_none_names_the_shop_alone()
    {
        await PracticeAsync();
        await using var source = NpgsqlDataSource.Create(db.Connection);
        await using var connection = await source.OpenConnectionAsync(Cancel);
        var tables = new List<string>();
        await using (var list = new NpgsqlCommand("""
            select c.relname, p.polname from pg_class c join pg_namespace n on n.oid = c.relnamespace left join pg_policy p on p.polrelid = c.oid
            where n.nspname = 'public' and c.relkind = 'r' and exists (select 1 from pg_attribute a where a.attrelid = c.oid and a.attname in ('job_id', 'test_id', 'capture_id', 'engine_id', 'vehicle_id', 'purpose') and not a.attisdropped)
            """, connection))
        await using (var reader = await list.ExecuteReaderAsync(Cancel))
        {
            while (await reader.ReadAsync(Cancel))
            {
                tables.Add(reader.GetString(0));
                reader.GetString(1).ShouldBe("own_shop_and_purpose", tables[^1]);
            }
        }
        tables.Count.ShouldBeGreaterThan(15);
        foreach (var table in tables)
        {
            await using var count = new NpgsqlCommand($"select set_config('zandrik.shop', '{db.Ostrel.ShopId}', false), set_config('zandrik.purpose', '', false); select count(*) from {table} where purpose = 'practice'", connection);
            await using var counted = await count.ExecuteReaderAsync(Cancel);
            await counted.NextResultAsync(Cancel);
            await counted.ReadAsync(Cancel);
            counted.GetInt64(0).ShouldBe(0, table);
        }
        ((long)(await db.AsOwnerAsync("select count(*) from reading where purpose = 'practice'"))!).ShouldBeGreaterThan(0, "or nothing was tried");
    }

    [Fact]
    public async Task A_row_of_work_cannot_hang_on_a_job_of_practice()
    {
        var job = await PracticeAsync();
        var refused = await Should.ThrowAsync<PostgresException>(() => db.AsOwnerAsync(
            $"insert into test (shop_id, job_id, position, kind, body, made_by) select shop_id, id, 99, 'fluids', '[]', opened_by from job where number = {job}"));
        refused.SqlState.ShouldBe(PostgresErrorCodes.ForeignKeyViolation);
    }
}
