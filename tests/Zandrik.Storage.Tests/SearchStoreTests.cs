using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Storage.Tests;

/// <summary>Sheets in versions, vehicles, and finding things again.</summary>
public sealed class SearchStoreTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 3, 2, 9, 40, 0, TimeSpan.Zero);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private readonly SheetStore sheets = new(db.Database);
    private readonly VehicleStore vehicles = new(db.Database);
    private readonly SearchStore finding = new(db.Database);

    private static EngineDocument Sheet(string name, double minimum) => new(
        new EngineSheet { Name = name, Cylinders = 4, Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = 205, Minimum = minimum } }, new WorkshopSheet { PlugThread = "M14" });

    private Task<int> JobAsync(string? label, string? complaint = null, ShopPerson? who = null) =>
        db.Jobs.CreateAsync(who ?? db.Ostrel, new TestRecord { Vehicle = label is null ? null : new Vehicle { Label = label }, Complaint = complaint, Engine = new EngineSheet { Cylinders = 4 } }, Now, cancel: Cancel);

    [Fact]
    public async Task A_changed_sheet_is_a_new_version_and_an_old_job_keeps_the_one_it_was_opened_with()
    {
        var first = (await sheets.SaveAsync(db.Ostrel, null, Sheet("Versioned", 150), Now, Cancel))!.Value;
        first.Change.ShouldBe(SheetChange.New);
        var engine = (await sheets.VersionAsync(db.Ostrel, first.VersionId, Cancel))!.Document.Engine;
        var job = await db.Jobs.CreateAsync(db.Ostrel, new TestRecord { Engine = engine }, Now, sheetVersion: first.VersionId, cancel: Cancel);

        var second = (await sheets.SaveAsync(db.Ostrel, null, Sheet("versioned", 170), Now, Cancel))!.Value;
        second.Change.ShouldBe(SheetChange.Changed, "whatever the case");
        (await sheets.SaveAsync(db.Ostrel, null, Sheet("versioned", 170), Now, Cancel))!.Value.ShouldBe((second.VersionId, SheetChange.Same));
        var kept = (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!;
        (kept.SheetVersionId, kept.Record.Engine.Spec!.Minimum).ShouldBe((first.VersionId, 150));
        (await sheets.VersionAsync(db.Ostrel, first.VersionId, Cancel))!.Document.Engine.Spec!.Minimum.ShouldBe(150);

        var other = (await sheets.SaveAsync(db.Ostrel, null, Sheet("Another", 100), Now, Cancel))!.Value;
        var otherSheet = (await sheets.VersionAsync(db.Ostrel, other.VersionId, Cancel))!.SheetId;
        (await sheets.SaveAsync(db.Ostrel, otherSheet, Sheet("Versioned", 100), Now, Cancel)).ShouldBeNull("the name is taken");
        (await sheets.VersionAsync(db.Stranger, first.VersionId, Cancel)).ShouldBeNull();
        (await db.Jobs.FindAsync(db.Stranger, await db.Jobs.CreateAsync(db.Stranger, new TestRecord { Engine = engine }, Now, sheetVersion: first.VersionId, cancel: Cancel), Cancel))!
            .SheetVersionId.ShouldBeNull("another shop's sheet cannot be named");
    }

    [Fact]
    public async Task An_import_shows_first_what_it_would_do_and_then_does_that()
    {
        await sheets.SaveAsync(db.Ostrel, null, Sheet("Import same", 150), Now, Cancel);
        await sheets.SaveAsync(db.Ostrel, null, Sheet("Import changed", 150), Now, Cancel);
        EngineDocument[] file = [Sheet("Import same", 150), Sheet("Import changed", 160), Sheet("Import new", 150)];
        (await sheets.PreviewAsync(db.Ostrel, file, Cancel)).ShouldBe([SheetChange.Same, SheetChange.Changed, SheetChange.New]);
        (await sheets.ImportAsync(db.Ostrel, file, Now, Cancel)).ShouldBe((1, 1, 1));
        (await sheets.PreviewAsync(db.Ostrel, file, Cancel)).ShouldAllBe(c => c == SheetChange.Same);
        (await sheets.PreviewAsync(db.Stranger, file, Cancel)).ShouldAllBe(c => c == SheetChange.New);
    }

    [Fact]
    public async Task A_vehicle_is_kept_once_however_it_is_written_also_when_two_name_it_at_once()
    {
        var jobs = await Task.WhenAll(JobAsync("Shore van 77"), JobAsync("shore VAN 77"), JobAsync("Shore van 77"));
        var found = (await finding.FindAsync(db.Ostrel, "van 77", 8, Cancel)).Vehicles.ShouldHaveSingleItem();
        var (lines, more) = await db.Jobs.LinesAsync(db.Ostrel, new JobFilter { Vehicle = found.Id }, 2, Cancel);
        (lines.Count, more).ShouldBe((2, true));
        (await vehicles.ChangeAsync(db.Ostrel, found.Id, "Shore van 77", "QF 77-12", null, Cancel)).ShouldBeTrue();
        (await finding.FindAsync(db.Ostrel, "77-12", 8, Cancel)).Vehicles.Single().Id.ShouldBe(found.Id);
        (await vehicles.ChangeAsync(db.Stranger, found.Id, "Mine", null, null, Cancel)).ShouldBeFalse();
        await JobAsync("Shore van 78");
        (await vehicles.ChangeAsync(db.Ostrel, found.Id, "SHORE VAN 78", null, null, Cancel)).ShouldBeFalse("that is another one's name");
        jobs.Distinct().Count().ShouldBe(3);
    }

    [Fact]
    public async Task Jobs_are_found_by_vehicle_complaint_and_number_and_by_no_pattern()
    {
        var job = await JobAsync("Tide ferry", "knocks at 100% load_x");
        async Task<int[]> FoundAsync(string text) => [.. (await finding.FindAsync(db.Ostrel, text, 8, Cancel)).Jobs.Select(j => j.Number)];
        (await FoundAsync("TIDE")).ShouldBe([job]);
        (await FoundAsync("100% l")).ShouldBe([job]);
        (await FoundAsync(job.ToString(System.Globalization.CultureInfo.InvariantCulture))).ShouldContain(job);
        (await FoundAsync("d%x")).ShouldBeEmpty("% and _ are letters like others");
        (await FoundAsync("load_x")).ShouldBe([job]);
        (await FoundAsync("'; drop table job; --")).ShouldBeEmpty();
        (await FoundAsync("t")).ShouldBeEmpty("one letter is no search");
        (await finding.FindAsync(db.Stranger, "tide", 8, Cancel)).IsEmpty.ShouldBeTrue();
    }

    [Fact]
    public async Task What_lies_far_back_is_found_too()
    {
        var old = await JobAsync("Needle in the haystack");
        await db.AsOwnerAsync($"""
            with e as (insert into engine (shop_id) values ({db.Ostrel.ShopId}) returning id)
            insert into job (shop_id, number, record, unit, opened_at, opened_by, engine_id)
            select {db.Ostrel.ShopId}, n, '{"{"}"engine": {"{"}"cylinders": 4{"}"}{"}"}', 'psi', '2027-01-01'::timestamptz + n * interval '1 minute', {db.Ostrel.PersonId}, e.id from generate_series(100001, 101600) n, e
            """);
        (await finding.FindAsync(db.Ostrel, "needle", 8, Cancel)).Jobs.Single().Number.ShouldBe(old);
        (await finding.FindAsync(db.Ostrel, old.ToString(System.Globalization.CultureInfo.InvariantCulture), 8, Cancel)).Jobs.ShouldContain(j => j.Number == old);
    }
}
