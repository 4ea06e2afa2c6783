using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Testers;
using Zandrik.Core.Units;

namespace Zandrik.Storage.Tests;

/// <summary>A workspace is kept for as long as its stamp, and its stamp changes with everything it shows.</summary>
public sealed class WorkspaceStoreTests(TestDatabase db) : IClassFixture<TestDatabase>, IDisposable
{
    private static readonly DateTimeOffset Now = new(2026, 11, 5, 10, 0, 0, TimeSpan.Zero);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private readonly WorkspaceStore workspaces = new(db.Database);

    public void Dispose() => workspaces.Dispose();

    private Task<int> JobAsync(string vehicle, params double[] dry) => db.Jobs.CreateAsync(db.Ostrel, new TestRecord
    {
        Vehicle = new Vehicle { Label = vehicle },
        Engine = new EngineSheet { Cylinders = 4, Fuel = Fuel.Petrol, Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = 190 } },
        Tests = dry.Length == 0 ? null : [new DryCompressionTest { Unit = PressureUnit.Psi, Readings = [.. dry.Select((v, i) => new CompressionReading { Cylinder = i + 1, Value = v })] }],
    }, Now, cancel: Cancel);

    // As a page asks: with who is looking.
    private async Task<JobStamp> StampAsync(int job)
    {
        await using var owner = Npgsql.NpgsqlDataSource.Create(db.Owner);
        await using var command = owner.CreateCommand($"select stamp from person where id = {db.Ostrel.PersonId}");
        var stamp = (Guid)(await command.ExecuteScalarAsync(Cancel))!;
        return (await new SignInStore(db.Database).VisitAsync(db.Ostrel.ShopId, db.Ostrel.PersonId, stamp, new VisitAbout(job), Cancel))!.Jobs.Single();
    }

    [Fact]
    public async Task What_is_kept_is_handed_out_until_something_changes()
    {
        var job = await JobAsync("Kept van", 190, 188, 131, 191);
        var stamp = await StampAsync(job);
        var first = (await workspaces.FindAsync(db.Ostrel, job, stamp, Cancel))!;
        (await workspaces.FindAsync(db.Ostrel, job, await StampAsync(job), Cancel)).ShouldBeSameAs(first);
        (await workspaces.FindAsync(db.Ostrel, [stamp], Cancel)).ShouldHaveSingleItem().ShouldBeSameAs(first);
        (await workspaces.FindAsync(db.Ostrel, job, null, Cancel)).ShouldNotBeSameAs(first, "asked without a stamp it is loaded");
        await db.DryTests.EnterAsync(db.Ostrel, job, null, new PadEntry(3, PadEntryKind.Repeat, new GaugePressure(133, PressureUnit.Psi)), Guid.NewGuid(), Now, cancel: Cancel);
        var after = await StampAsync(job);
        after.ShouldNotBe(stamp);
        var second = (await workspaces.FindAsync(db.Ostrel, job, after, Cancel))!;
        second.ShouldNotBeSameAs(first);
        second.Job.LatestRow.ShouldBeGreaterThan(first.Job.LatestRow);
    }

    [Fact]
    public async Task Another_copy_of_the_program_is_never_behind()
    {
        var job = await JobAsync("Two copies", 190, 188, 131, 191);
        using var other = new WorkspaceStore(db.Database);
        (await other.FindAsync(db.Ostrel, job, await StampAsync(job), Cancel))!.Job.Unit.ShouldBe(PressureUnit.Psi);
        await db.Jobs.ShowInAsync(db.Ostrel, job, PressureUnit.Bar, Cancel);
        (await other.FindAsync(db.Ostrel, job, await StampAsync(job), Cancel))!.Job.Unit.ShouldBe(PressureUnit.Bar);
    }

    [Fact]
    public async Task Everything_a_page_shows_changes_the_stamp_and_nothing_else_does()
    {
        var before = await JobAsync("Stamped van", 190, 189, 190, 191);
        var job = await JobAsync("Stamped van");
        var elsewhere = await JobAsync("Other van", 190, 189, 190, 191);
        var steps = new StepStore(db.Database);
        var stamps = new HashSet<string> { (await StampAsync(job)).Stamp };
        async Task ChangesAsync(string what, Func<Task> change)
        {
            await change();
            stamps.Add((await StampAsync(job)).Stamp).ShouldBeTrue(what);
        }
        await ChangesAsync("a reading", () => db.DryTests.EnterAsync(db.Ostrel, job, null, new PadEntry(1, PadEntryKind.Reading, new GaugePressure(190, PressureUnit.Psi)), Guid.NewGuid(), Now, cancel: Cancel));
        await ChangesAsync("conditions", () => db.DryTests.SetConditionsAsync(db.Ostrel, job, null, new TestConditions { Fuel = Supply.Off }, PressureUnit.Psi, Now, Cancel));
        await ChangesAsync("a tick", () => steps.DoAsync(db.Ostrel, job, "prepare", "throttle", null, true, Guid.NewGuid(), Now, _ => null, Cancel));
        await ChangesAsync("a check", () => steps.AddTestAsync(db.Ostrel, job, new CombustionGasTest { Result = CombustionGasResult.Negative }, null, Guid.NewGuid(), Now, cancel: Cancel));
        await ChangesAsync("the unit", () => db.Jobs.ShowInAsync(db.Ostrel, job, PressureUnit.Bar, Cancel));
        await ChangesAsync("the job before it", () => db.DryTests.EnterAsync(db.Ostrel, before, null, new PadEntry(1, PadEntryKind.Repeat, new GaugePressure(150, PressureUnit.Psi)), Guid.NewGuid(), Now, cancel: Cancel));
        await ChangesAsync("a gauge", () => new TesterStore(db.Database).SaveAsync(db.Ostrel, null, new ShopTester { Label = "Gauge 9", Kind = TesterKind.Gauge }, Cancel));
        await ChangesAsync("what was found", () => new VerdictStore(db.Database).AddFoundAsync(db.Ostrel, job, new FoundFault { Fault = Fault.None }, Guid.NewGuid(), Now, Cancel));
        await ChangesAsync("closing", () => db.Jobs.CloseAsync(db.Ostrel, job, Now, cancel: Cancel));
        await ChangesAsync("the vehicle's name", async () => await new VehicleStore(db.Database).ChangeAsync(db.Ostrel, (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.VehicleId!.Value, "Stamped van II", null, null, Cancel));

        await db.DryTests.EnterAsync(db.Ostrel, elsewhere, null, new PadEntry(1, PadEntryKind.Repeat, new GaugePressure(150, PressureUnit.Psi)), Guid.NewGuid(), Now, cancel: Cancel);
        stamps.Add((await StampAsync(job)).Stamp).ShouldBeFalse("another vehicle's job");
        await JobAsync("Other van");
        stamps.Add((await StampAsync(job)).Stamp).ShouldBeFalse("a job of a vehicle that is there already");
    }

    [Fact]
    public async Task Another_shop_gets_neither_stamp_nor_workspace()
    {
        var job = await JobAsync("Not yours", 190, 188, 131, 191);
        var stamp = await StampAsync(job);
        await workspaces.FindAsync(db.Ostrel, job, stamp, Cancel);
        (await workspaces.FindAsync(db.Stranger, job, stamp, Cancel)).ShouldBeNull();
        (await workspaces.FindAsync(db.Stranger, [stamp], Cancel)).ShouldBeEmpty();
    }

    [Fact]
    public async Task The_ghost_is_the_latest_job_before_with_a_dry_reading_also_in_a_list()
    {
        var (first, second, third) = (await JobAsync("Ghost bus", 190, 189, 190, 191), await JobAsync("Ghost bus"), await JobAsync("Ghost bus"));
        (await workspaces.FindAsync(db.Ostrel, third, null, Cancel))!.Earlier!.Number.ShouldBe(first);
        JobStamp[] unknown = [new(second, "?"), new(third, "?"), new(first, "?")];
        var list = await workspaces.FindAsync(db.Ostrel, unknown, Cancel);
        list.Select(w => (w.Job.Number, w.Earlier?.Number)).ShouldBe([(second, (int?)first), (third, first), (first, null)]);
        list[0].EarlierTests!.Dry!.Measured.ShouldBe(4);
    }
}
