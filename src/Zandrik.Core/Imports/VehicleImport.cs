namespace Zandrik.Core.Imports;

/// <summary>A vehicle from a row of a table, or what keeps it from being one.</summary>
/// <param name="Row">Its row, from 1, the row with the names not counted.</param>
/// <param name="Label">What the shop calls it; empty where the row does not say.</param>
/// <param name="Identity">Registration, hull or chassis number; absent where the row does not say.</param>
/// <param name="Notes">The shop's own notes; absent where the row has none.</param>
/// <param name="Engine">The name of the engine sheet it is built by; absent where the row does not say.</param>
/// <param name="Serial">Serial number or tag of its engine; absent where the row does not say.</param>
/// <param name="Problems">What is wrong, column by column; empty where the row can be imported.</param>
public sealed record VehicleRow(int Row, string Label, string? Identity, string? Notes, string? Engine, string? Serial, IReadOnlyList<string> Problems);

/// <summary>Vehicles from a table.</summary>
public static class VehicleImport
{
    /// <summary>What can be read.</summary>
    public static IReadOnlyList<ImportColumn> Columns { get; } =
    [
        new("vehicle", "Vehicle", "what the shop calls it", true, "name", "unit", "machine", "label", "car", "truck", "asset"),
        new("identity", "Registration", "registration, hull or chassis number", false, "plate", "reg", "licence", "license", "chassis", "hull", "vin", "number"),
        new("engine", "Engine", "the name of an engine sheet of the shop", false, "engine sheet", "motor", "engine type"),
        new("serial", "Engine serial", "serial number or tag of its engine", false, "serial number", "engine number", "engine no"),
        new("notes", "Notes", "the shop's own words", false, "note", "remarks", "comment", "comments"),
    ];

    /// <summary>Reads a table.</summary>
    /// <param name="table">The table.</param>
    /// <param name="match">Which of its columns holds what: places from 0 by the words of <see cref="Columns"/>.</param>
    /// <param name="sheets">Names of the shop's engine sheets.</param>
    /// <returns>A row for each of the table; a name that comes twice in the table is wrong the second time.</returns>
    public static IReadOnlyList<VehicleRow> Read(ImportTable table, IReadOnlyDictionary<string, int> match, IReadOnlyCollection<string> sheets)
    {
        var seen = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        var serials = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        return [.. table.Rows.Select((_, i) =>
        {
            var cells = new RowReader(table, i, match);
            var label = cells.Text("vehicle", "Vehicle", 200);
            if (label is null && cells.Problems.Count == 0)
            {
                cells.Wrong("Vehicle", "the row does not say which vehicle it is.");
            }
            if (label is not null && !seen.Add(label))
            {
                cells.Wrong("Vehicle", "this vehicle stands in the table before.");
            }
            var engine = cells.Text("engine", "Engine", 200);
            var known = engine is null ? null : sheets.FirstOrDefault(s => string.Equals(s, engine, StringComparison.OrdinalIgnoreCase));
            if (engine is not null && known is null)
            {
                cells.Wrong("Engine", $"no engine sheet is called “{engine}”. Import the sheets first, or leave this column out.");
            }
            var serial = cells.Text("serial", "Engine serial", 100);
            if (serial is not null && !serials.Add(serial))
            {
                cells.Wrong("Engine serial", "another row has this number, and an engine sits in one vehicle.");
            }
            return new VehicleRow(i + 1, label ?? "", cells.Text("identity", "Registration", 200), cells.Text("notes", "Notes", 4000), known, serial, cells.Problems);
        })];
    }
}
