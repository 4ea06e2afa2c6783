using Zandrik.Core.Imports;

namespace Zandrik.Web.Imports;

/// <summary>A row of a table as the preview shows it.</summary>
/// <param name="Row">The row, from 1.</param>
/// <param name="Name">What it is of; empty where it does not say.</param>
/// <param name="Says">What happens to it, or why it is left out.</param>
/// <param name="IsTaken">True where it is imported.</param>
public sealed record PreviewRow(int Row, string Name, IReadOnlyList<string> Says, bool IsTaken);

/// <summary>What an import would do.</summary>
/// <param name="Rows">Row by row.</param>
/// <param name="Save">Imports what is taken; given the key of the preview.</param>
public sealed record ImportPreview(IReadOnlyList<PreviewRow> Rows, Func<Guid, CancellationToken, Task> Save)
{
    /// <summary>How many rows are imported.</summary>
    public int Taken => Rows.Count(r => r.IsTaken);
}

/// <summary>What can be imported, as its page says it.</summary>
/// <param name="Word">Its word in the address.</param>
/// <param name="Title">The heading of its page.</param>
/// <param name="Things">What a row is, several of it.</param>
/// <param name="About">What happens with it.</param>
/// <param name="Example">Two lines to see how a table may look.</param>
/// <param name="Columns">What can be read.</param>
public sealed record ImportSubject(string Word, string Title, string Things, string About, string Example, IReadOnlyList<ImportColumn> Columns)
{
    /// <summary>Everything that can be imported, in the order in which a shop does it.</summary>
    public static IReadOnlyList<ImportSubject> All { get; } =
    [
        new("sheets", "Import engine sheets", "engine sheets", "A sheet with the name of one you have becomes its new version. Jobs keep the version they were opened with.",
            "Name\tCylinders\tFuel\tFiring order\tUnit\tMinimum\tNominal\nMarrow 1.6 inline four\t4\tpetrol\t1-3-4-2\tpsi\t145\t190", SheetImport.Columns),
        new("vehicles", "Import vehicles", "vehicles", "A vehicle you have already is updated; a blank cell changes nothing. With an engine in the row, new jobs on the vehicle start with that engine.",
            "Vehicle\tRegistration\tEngine\tNotes\nHarbour pickup 4\tQF 4-118\tMarrow 1.6 inline four\tspare key in the office", VehicleImport.Columns),
        new("jobs", "Import old jobs", "old jobs", "Each row becomes a closed job on its date, judged by the shop's methods; test conditions stay unknown. Put all readings in one cell, or one column for each cylinder.",
            "Date\tVehicle\tOdometer\tDry\tUnit\tComplaint\tFound\tFound in cylinder\n2024-05-13\tHarbour pickup 4\t84200 km\t182/179/121/184\tpsi\tmisfire\texhaust valve\t3", JobImport.Columns),
    ];
}
