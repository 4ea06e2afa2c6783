using Zandrik.Core.Engines;
using Zandrik.Core.Imports;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Storage.Tests;

/// <summary>Lists that come in whole, once, and go again whole, but for what somebody has worked on since.</summary>
public sealed class ImportStoreTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 3, 2, 9, 40, 0, TimeSpan.Zero);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private readonly ImportStore imports = new(db.Database);
    private readonly SheetStore sheets = new(db.Database);
    private readonly VehicleStore vehicles = new(db.Database);
    private readonly EngineStore engines = new(db.Database);
    private readonly SearchStore finding = new(db.Database);

    private static EngineDocument Sheet(string name, double minimum) =>
        new(new EngineSheet { Name = name, Cylinders = 4, Spec = new EngineSpec { Unit = PressureUnit.Psi, Minimum = minimum } }, new WorkshopSheet());

    private static VehicleRow Vehicle(int row, string label, string? identity = null, string? engine = null, string? serial = null) => new(row, label, identity, null, engine, serial, []);

    private static (JobRow, DateTimeOffset) Old(int row, string vehicle, int day, params double[] dry)
    {
        var at = new DateTimeOffset(2024, 5, day, 12, 0, 0, TimeSpan.Zero);
        var record = new TestRecord
        {
            Vehicle = new Vehicle { Label = vehicle }, Engine = new EngineSheet { Cylinders = dry.Length },
            Tests = [new DryCompressionTest { At = at, Unit = PressureUnit.Psi, Readings = [.. dry.Select((v, i) => new CompressionReading { Cylinder = i + 1, Value = v })] }],
        };
        return (new JobRow(row, vehicle, new DateOnly(2024, 5, day), record, null, null, []), at);
    }

    private Task<int> JobsAsync(Guid entry, params (JobRow, DateTimeOffset)[] rows) => imports.JobsAsync(db.Ostrel, rows, new Dictionary<string, int>(), entry, Now, Cancel);

    private async Task<IReadOnlyList<JobLine>> JobsOfAsync(string vehicle) => [.. (await finding.FindAsync(db.Ostrel, vehicle, 20, Cancel)).Jobs];

    [Fact]
    public async Task Old_jobs_come_in_closed_on_their_day_once_and_go_again_with_their_vehicles()
    {
        var entry = Guid.NewGuid();
        var import = await JobsAsync(entry, Old(2, "Import lorry", 14, 180, 181), Old(1, "Import lorry", 13, 182, 179), Old(3, "Import bus", 13, 170, 171));
        (await JobsAsync(entry, Old(1, "Import lorry", 13, 182, 179))).ShouldBe(import, "sent twice, imported once");

        var lorry = await JobsOfAsync("Import lorry");
        lorry.Select(l => l.OpenedAt.Day).ShouldBe([14, 13]);
        lorry.ShouldAllBe(l => l.ClosedAt == l.OpenedAt);
        lorry[1].Number.ShouldBeLessThan(lorry[0].Number, "the older has the lower number");
        (await db.Jobs.FindAsync(db.Ostrel, lorry[1].Number, Cancel))!.Record.Tests!.Single().CylinderReadings.Count.ShouldBe(2);
        (await imports.HereAlreadyAsync(db.Ostrel, [Old(7, "import LORRY", 13, 1), Old(8, "Import lorry", 15, 1)], Cancel)).ShouldBe(new Dictionary<int, int> { [7] = lorry[1].Number });
        (await imports.ListAsync(db.Ostrel, Cancel)).First(l => l.Id == import).Added.ShouldBe(3);
        (await imports.ListAsync(db.Stranger, Cancel)).ShouldNotContain(l => l.Id == import);

        (await imports.UndoAsync(db.Stranger, import, Now, Cancel)).ShouldBeNull("another shop's import cannot be named");
        var undo = (await imports.UndoAsync(db.Ostrel, import, Now, Cancel))!;
        undo.Undone.ShouldBe(3);
        undo.Kept.ShouldBeEmpty();
        (await imports.UndoAsync(db.Ostrel, import, Now, Cancel)).ShouldBeNull("undone once");
        var gone = await finding.FindAsync(db.Ostrel, "Import lorry", 20, Cancel);
        (gone.Jobs.Count, gone.Vehicles.Count).ShouldBe((0, 0));
        (await db.Jobs.FindAsync(db.Ostrel, lorry[0].Number, Cancel)).ShouldBeNull();

        // The names are free again, and the same list can come in anew.
        var again = await JobsAsync(Guid.NewGuid(), Old(1, "Import lorry", 13, 182, 179));
        (await JobsOfAsync("Import lorry")).Count.ShouldBe(1);
        (await imports.UndoAsync(db.Ostrel, again, Now, Cancel))!.Undone.ShouldBe(1);
    }

    [Fact]
    public async Task What_was_worked_on_since_stays_and_is_named()
    {
        var import = await JobsAsync(Guid.NewGuid(), Old(1, "Worked lorry", 13, 182, 179), Old(2, "Left lorry", 13, 182, 179));
        var worked = (await JobsOfAsync("Worked lorry")).Single().Number;
        await db.Jobs.CloseAsync(db.Ostrel, worked, null, cancel: Cancel);
        var undo = (await imports.UndoAsync(db.Ostrel, import, Now, Cancel))!;
        undo.Kept.ShouldBe([$"job {worked:0000}, Worked lorry"]);
        undo.Undone.ShouldBe(1);
        (await JobsOfAsync("Worked lorry")).Count.ShouldBe(1);
        (await vehicles.ByLabelAsync(db.Ostrel, "Worked lorry", Cancel)).ShouldNotBeNull();
        (await vehicles.ByLabelAsync(db.Ostrel, "Left lorry", Cancel)).ShouldBeNull();
    }

    [Fact]
    public async Task A_job_on_an_engine_that_was_here_goes_without_it()
    {
        var first = await db.Jobs.CreateAsync(db.Ostrel, Old(1, "Shared lorry", 12, 182, 179).Item1.Record!, Now, cancel: Cancel);
        var engine = (await db.Jobs.FindAsync(db.Ostrel, first, Cancel))!.EngineId;
        var import = await JobsAsync(Guid.NewGuid(), Old(1, "Shared lorry", 13, 182, 179));
        (await imports.UndoAsync(db.Ostrel, import, Now, Cancel))!.Undone.ShouldBe(1);
        (await JobsOfAsync("Shared lorry")).Select(j => j.Number).ShouldBe([first]);
        (await engines.FindAsync(db.Ostrel, engine, Cancel))!.Stays.Single().Jobs.ShouldBe(1);
        // Its engine can be put right and forgotten: the job that nobody sees holds it no longer.
        var record = (await db.Jobs.FindAsync(db.Ostrel, first, Cancel))!.Record;
        (await db.Jobs.ChangeIntakeAsync(db.Ostrel, first, record with { Vehicle = new Vehicle { Label = "Another lorry" } }, cancel: Cancel)).Refused.ShouldBeNull();
    }

    [Fact]
    public async Task Vehicles_bring_their_engine_keep_what_a_row_does_not_say_and_are_put_back()
    {
        var version = (await sheets.SaveAsync(db.Ostrel, null, Sheet("Import engine", 150), Now, Cancel))!.Value.VersionId;
        await imports.VehiclesAsync(db.Ostrel, [Vehicle(1, "Known van", "QF 1")], new Dictionary<string, int>(), Guid.NewGuid(), Now, Cancel);
        VehicleRow[] rows = [Vehicle(1, "Known van", "QF 2"), Vehicle(2, "New van", null, "Import engine", "M-900"), Vehicle(3, "known VAN")];
        (await imports.PlanAsync(db.Ostrel, rows, Cancel)).Select(p => p.Says).ShouldBe(["changed: registration QF 1 → QF 2", "new", "here already, nothing to change"]);
        var import = await imports.VehiclesAsync(db.Ostrel, rows[..2], new Dictionary<string, int> { ["Import engine"] = version }, Guid.NewGuid(), Now, Cancel);

        (await vehicles.ByLabelAsync(db.Ostrel, "Known van", Cancel))!.Identity.ShouldBe("QF 2");
        var van = (await vehicles.ByLabelAsync(db.Ostrel, "New van", Cancel))!;
        (await engines.OfVehicleAsync(db.Ostrel, van.Id, Cancel)).Single().Serial.ShouldBe("M-900");
        (await vehicles.ExportAsync(db.Ostrel, 100, Cancel)).ShouldContain(("New van", null, "Import engine", "M-900", null));
        (await imports.PlanAsync(db.Ostrel, [Vehicle(1, "Third van", serial: "m-900")], Cancel)).Single().Says.ShouldContain("is fitted in New van");

        (await imports.UndoAsync(db.Ostrel, import, Now, Cancel))!.ShouldSatisfyAllConditions(u => u.Undone.ShouldBe(2), u => u.Kept.ShouldBeEmpty());
        (await vehicles.ByLabelAsync(db.Ostrel, "Known van", Cancel))!.Identity.ShouldBe("QF 1");
        (await vehicles.ByLabelAsync(db.Ostrel, "New van", Cancel)).ShouldBeNull();
        (await engines.FindAsync(db.Ostrel, (await finding.FindAsync(db.Ostrel, "M-900", 5, Cancel)).Engines.Select(e => e.Id).FirstOrDefault(), Cancel)).ShouldBeNull();
    }

    [Fact]
    public async Task A_vehicle_that_got_a_job_meanwhile_or_was_renamed_stays()
    {
        var import = await imports.VehiclesAsync(db.Ostrel, [Vehicle(1, "Busy van"), Vehicle(2, "Renamed van"), Vehicle(3, "Idle van")], new Dictionary<string, int>(), Guid.NewGuid(), Now, Cancel);
        await db.Jobs.CreateAsync(db.Ostrel, new TestRecord { Vehicle = new Vehicle { Label = "Busy van" }, Engine = new EngineSheet { Cylinders = 4 } }, Now, cancel: Cancel);
        var renamed = (await vehicles.ByLabelAsync(db.Ostrel, "Renamed van", Cancel))!;
        await vehicles.ChangeAsync(db.Ostrel, renamed.Id, "Renamed for good", null, null, Cancel);
        var undo = (await imports.UndoAsync(db.Ostrel, import, Now, Cancel))!;
        undo.Kept.Order().ShouldBe(["Busy van", "Renamed for good"]);
        undo.Undone.ShouldBe(1);
    }

    [Fact]
    public async Task Sheets_go_back_to_the_version_before_and_new_ones_are_archived()
    {
        await sheets.SaveAsync(db.Ostrel, null, Sheet("Import old sheet", 150), Now, Cancel);
        var import = await imports.SheetsAsync(db.Ostrel, [new(1, "Import old sheet", Sheet("Import old sheet", 160), []), new(2, "Import new sheet", Sheet("Import new sheet", 140), [])], Guid.NewGuid(), Now, Cancel);
        async Task<IReadOnlyList<SheetLine>> FoundAsync(string name) => (await finding.FindAsync(db.Ostrel, name, 5, Cancel)).Sheets;
        (await FoundAsync("Import old sheet")).Single().Engine.Spec!.Minimum.ShouldBe(160);
        (await imports.UndoAsync(db.Ostrel, import, Now, Cancel))!.Undone.ShouldBe(2);
        (await FoundAsync("Import old sheet")).Single().Engine.Spec!.Minimum.ShouldBe(150);
        (await FoundAsync("Import new sheet")).ShouldBeEmpty();
    }

    [Fact]
    public async Task The_sample_is_there_once_counts_nowhere_and_goes_with_whatever_was_tried_on_it()
    {
        var record = Old(1, "Sample: a van", 13, 205, 163, 160, 208).Item1.Record!;
        await imports.SampleAsync(db.Ostrel, record, Now, Cancel);
        await imports.SampleAsync(db.Ostrel, record, Now, Cancel);
        var number = (await imports.SampleJobAsync(db.Ostrel, Cancel))!.Value;
        var job = (await db.Jobs.FindAsync(db.Ostrel, number, Cancel))!;
        (job.IsSample, job.ClosedAt).ShouldBe((true, null));
        (await imports.TourJobAsync(db.Ostrel, "no such key", Cancel)).ShouldBe(number);
        var verdicts = new VerdictStore(db.Database);
        await verdicts.AddFoundAsync(db.Ostrel, number, new FoundFault { Cylinder = 3, Fault = Fault.Rings }, Guid.NewGuid(), Now, Cancel);
        (await verdicts.OutcomesAsync(db.Ostrel, Cancel)).Item1.ShouldBeEmpty();
        await imports.SampleOffAsync(db.Ostrel, Now, Cancel);
        (await imports.SampleJobAsync(db.Ostrel, Cancel)).ShouldBeNull();
        (await db.Jobs.FindAsync(db.Ostrel, number, Cancel)).ShouldBeNull();
    }
}
