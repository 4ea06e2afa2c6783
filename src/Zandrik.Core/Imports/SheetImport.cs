using Zandrik.Core.Engines;

namespace Zandrik.Core.Imports;

/// <summary>Engine sheets from a table: a column for each field, as <see cref="SheetFile.WriteCsv"/> writes them or called otherwise.</summary>
public static class SheetImport
{
    // The fields most lists have, with what they are called there; the others go by their own names.
    private static readonly IReadOnlyDictionary<string, ImportColumn> Known = new ImportColumn[]
    {
        new("name", "Name", "what the shop calls the engine", true, "engine", "model", "engine name", "motor", "code"),
        new("cylinders", "Cylinders", "how many", true, "cyls", "number of cylinders", "cyl"),
        new("fuel", "Fuel", "petrol, diesel, lpg, cng or ethanol", false),
        new("layout", "Layout", "inline, v, flat or w", false, "arrangement", "configuration"),
        new("firingOrder", "Firing order", "as in 1-3-4-2", false, "order"),
        new("compressionRatio", "Compression ratio", "as in 10.2", false, "ratio", "cr"),
        new("boreMm", "Bore, mm", "", false, "bore"),
        new("strokeMm", "Stroke, mm", "", false, "stroke"),
        new("displacementCc", "Displacement, cm³", "", false, "displacement", "capacity", "cc"),
        new("unit", "Unit of the pressures", "psi, bar, kPa or kgf/cm2; psi where it is empty", false, "pressure unit", "units"),
        new("nominal", "Compression, nominal", "of a sound engine", false, "compression", "standard", "spec"),
        new("minimum", "Compression, minimum", "the lowest the maker allows", false, "min", "limit", "service limit"),
        new("maxDifference", "Largest difference", "between cylinders", false, "max difference", "difference", "spread"),
        new("maxLeakPercent", "Largest leak-down loss, %", "", false, "max leak", "leak-down"),
        new("wetAllowed", "Wet test allowed", "yes or no", false, "wet"),
        new("plugThread", "Plug thread", "as in M14", false, "thread"),
        new("weaknesses", "Known weaknesses", "in the shop's own words", false, "notes", "remarks"),
    }.ToDictionary(c => c.Key);

    /// <summary>What can be read: every field of a sheet.</summary>
    public static IReadOnlyList<ImportColumn> Columns { get; } = [.. SheetFile.ColumnNames.OrderBy(c => !Known.ContainsKey(c)).Select(c => Known.GetValueOrDefault(c) ?? new ImportColumn(c, Spaced(c), "", false))];

    /// <summary>Reads a table.</summary>
    /// <param name="table">The table.</param>
    /// <param name="match">Which of its columns holds what: places from 0 by the words of <see cref="Columns"/>.</param>
    /// <returns>A row for each of the table; a name that comes twice is wrong the second time.</returns>
    public static IReadOnlyList<SheetRow> Read(ImportTable table, IReadOnlyDictionary<string, int> match) => Once(
        [.. table.Rows.Select((_, i) =>
        {
            var cells = new RowReader(table, i, match);
            var (engine, workshop) = SheetFile.Nodes(column => cells.At(column) is { } at ? cells.Cell(at) : null);
            return SheetFile.Row(i + 1, engine, workshop);
        })]);

    /// <summary>The rows of a file with each name once: a second sheet of a name would write over the first.</summary>
    /// <param name="rows">The rows.</param>
    /// <returns>The same rows; one whose name came before is no sheet any more, and says so.</returns>
    public static IReadOnlyList<SheetRow> Once(IReadOnlyList<SheetRow> rows)
    {
        var seen = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        return [.. rows.Select(r => r.Sheet is null || seen.Add(r.Name) ? r : r with { Sheet = null, Problems = ["name: an engine of this name stands in the file before."] })];
    }

    private static string Spaced(string name) => string.Concat(name.Select((c, i) => char.IsUpper(c) ? $" {char.ToLowerInvariant(c)}" : i == 0 ? char.ToUpperInvariant(c).ToString() : c.ToString()));
}
