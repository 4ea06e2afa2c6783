using Zandrik.Core.Engines;
using Zandrik.Core.Imports;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Imports;

/// <summary>What was chosen for a whole table.</summary>
/// <param name="Unit">The unit of pressures where a row names none.</param>
/// <param name="Again">True to import also jobs of a vehicle and day that are here already.</param>
public sealed record ImportChoices(PressureUnit Unit, bool Again);

/// <summary>Works out what an import would do: reads the table, asks the stores, and keeps what saves it.</summary>
public sealed class ImportDesk(ImportStore imports, SheetStore sheets, TimeProvider clock)
{
    /// <summary>What the rows of a table would do.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="subject">What they are.</param>
    /// <param name="table">The table.</param>
    /// <param name="match">Which column holds what.</param>
    /// <param name="choices">What was chosen for the whole table.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task<ImportPreview> PreviewAsync(ShopPerson who, ImportSubject subject, ImportTable table, IReadOnlyDictionary<string, int> match, ImportChoices choices, CancellationToken cancel) => subject.Word switch
    {
        "vehicles" => VehiclesAsync(who, table, match, cancel),
        "jobs" => JobsAsync(who, table, match, choices, cancel),
        _ => SheetsAsync(who, SheetImport.Read(table, match), cancel),
    };

    /// <summary>What engine sheets would do, from whatever file they come.</summary>
    public async Task<ImportPreview> SheetsAsync(ShopPerson who, IReadOnlyList<SheetRow> rows, CancellationToken cancel)
    {
        var good = rows.Where(r => r.Sheet is not null).ToList();
        var changes = good.Zip(await sheets.PreviewAsync(who, [.. good.Select(r => r.Sheet!)], cancel)).ToDictionary(c => c.First.Row, c => c.Second);
        var taken = good.Where(r => changes[r.Row] != SheetChange.Same).ToList();
        return new ImportPreview(
            [.. rows.Select(r => new PreviewRow(r.Row, r.Name, r.Sheet is null ? r.Problems : [changes[r.Row] switch { SheetChange.New => "new", SheetChange.Changed => "a new version", _ => "here already, nothing to change" }], taken.Contains(r)))],
            (entry, c) => imports.SheetsAsync(who, taken, entry, clock.GetUtcNow(), c));
    }

    private async Task<ImportPreview> VehiclesAsync(ShopPerson who, ImportTable table, IReadOnlyDictionary<string, int> match, CancellationToken cancel)
    {
        var versions = (await sheets.ListAsync(who, null, ImportTable.MostRows, cancel)).Sheets.ToDictionary(s => s.Name, s => s.VersionId, StringComparer.OrdinalIgnoreCase);
        var rows = VehicleImport.Read(table, match, versions.Keys);
        var plans = (await imports.PlanAsync(who, rows, cancel)).ToDictionary(p => p.Row);
        return new ImportPreview(
            [.. rows.Select(r => new PreviewRow(r.Row, r.Label, r.Problems.Count > 0 ? r.Problems : [plans[r.Row].Says], plans[r.Row].IsTaken))],
            (entry, c) => imports.VehiclesAsync(who, [.. rows.Where(r => plans[r.Row].IsTaken)], versions, entry, clock.GetUtcNow(), c));
    }

    private async Task<ImportPreview> JobsAsync(ShopPerson who, ImportTable table, IReadOnlyDictionary<string, int> match, ImportChoices choices, CancellationToken cancel)
    {
        var again = choices.Again;
        var lines = (await sheets.ListAsync(who, null, ImportTable.MostRows, cancel)).Sheets;
        var rules = new JobImportRules(who.Settings.Dates, choices.Unit, lines.ToDictionary(s => s.Name, s => s.Engine, StringComparer.OrdinalIgnoreCase),
            day => ShopText.Midnight(day, who).AddHours(12), ShopText.Today(clock, who));
        var rows = JobImport.Read(table, match, rules);
        var good = rows.Where(r => r.Problems.Count == 0).Select(r => (Row: r, Noon: rules.Noon(r.Day!.Value))).ToList();
        var here = await imports.HereAlreadyAsync(who, good, cancel);
        var taken = good.Where(g => again || !here.ContainsKey(g.Row.Row)).ToList();
        var numbers = taken.Select(g => g.Row.Row).ToHashSet();
        return new ImportPreview(
            [.. rows.Select(r => new PreviewRow(r.Row, string.Join(", ", new[] { r.Vehicle, r.Day is { } day ? ShopText.Day(day, who) : "" }.Where(t => t.Length > 0)),
                r.Problems.Count > 0 ? r.Problems : [here.TryGetValue(r.Row, out var job) ? $"{(again ? "new, though " : "")}job {job:0000} is of this vehicle and day already" : Says(r.Record!)], numbers.Contains(r.Row)))],
            (entry, c) => imports.JobsAsync(who, taken, lines.ToDictionary(s => s.Name, s => s.VersionId, StringComparer.OrdinalIgnoreCase), entry, clock.GetUtcNow(), c));
    }

    private static string Says(TestRecord record)
    {
        var tests = record.Tests ?? [];
        var parts = tests.Select(t => $"{t.Kind switch { TestKind.Dry => "dry", TestKind.Wet => "wet", _ => "leak-down" }} {string.Join("/", t.CylinderReadings.Select(r => r switch { CompressionReading c => TypedFields.Text(c.Value), LeakDownReading l => TypedFields.Text(l.LeakPercent), _ => "" }))}{(t.GaugeUnit is { } u ? $" {u.Symbol()}" : " %")}");
        return string.Join("; ", parts.Append(record.Found is [var found, ..] ? $"found: {Core.Diagnosis.FaultWords.Of(found.Fault)}{(found.Cylinder is { } c ? $" in cylinder {c}" : "")}" : "").Where(p => p.Length > 0)) is { Length: > 0 } says ? says : "no readings";
    }
}
