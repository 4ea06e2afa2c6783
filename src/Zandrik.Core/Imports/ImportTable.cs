using System.Globalization;
using CsvHelper;
using CsvHelper.Configuration;

namespace Zandrik.Core.Imports;

/// <summary>A table somebody brings along: a CSV file, or cells pasted from a spreadsheet. Its first row names the columns.</summary>
/// <param name="Headers">The names of its columns, in order; one that has none is called by its place, one that comes twice is numbered.</param>
/// <param name="Rows">Its rows, without the first; each has as many cells as there are columns, empty where the row was shorter.</param>
public sealed record ImportTable(IReadOnlyList<string> Headers, IReadOnlyList<IReadOnlyList<string>> Rows)
{
    /// <summary>Most rows taken at once.</summary>
    public const int MostRows = 2000;

    /// <summary>Most columns taken.</summary>
    public const int MostColumns = 120;

    /// <summary>Longest cell, characters: a longer one is most likely a quotation mark that was never closed.</summary>
    public const int LongestCell = 4000;

    /// <summary>Reads a table whose cells are parted by tabs, semicolons or commas, whichever its first row has most of.</summary>
    /// <param name="text">The text of the file, or what was pasted.</param>
    /// <returns>The table, or what keeps it from being read, with what to do: exactly one of the two.</returns>
    public static (ImportTable? Table, string? Problem) Read(string text)
    {
        // A tab at the start of the first line is an empty first cell: only line ends are taken off.
        var whole = text.TrimStart('\uFEFF').TrimStart('\r', '\n');
        if (string.IsNullOrWhiteSpace(whole))
        {
            return (null, "There is nothing in it. Choose a file, or paste the table with its first row.");
        }
        using var reader = new StringReader(whole);
        using var csv = new CsvParser(reader, new CsvConfiguration(CultureInfo.InvariantCulture)
        {
            Delimiter = Between(whole), TrimOptions = TrimOptions.Trim, BadDataFound = null, HasHeaderRecord = false,
        });
        IReadOnlyList<string>? headers = null;
        var rows = new List<IReadOnlyList<string>>();
        while (csv.Read())
        {
            var cells = csv.Record!;
            if (Array.Exists(cells, c => c.Length > LongestCell))
            {
                return (null, $"Row {rows.Count + 1} has a cell of more than {LongestCell} characters: look for a quotation mark that is not closed.");
            }
            if (cells.Length > MostColumns)
            {
                return (null, $"Row {rows.Count + 1} has {cells.Length} columns; at most {MostColumns} are taken. Leave out what is not needed.");
            }
            if (headers is null)
            {
                headers = Named(cells);
                continue;
            }
            if (Array.TrueForAll(cells, string.IsNullOrWhiteSpace))
            {
                continue;
            }
            if (rows.Count == MostRows)
            {
                return (null, $"There are more than {MostRows} rows. Split the table and import the parts one after the other.");
            }
            var width = headers.Count;
            rows.Add([.. Enumerable.Range(0, width).Select(i => i < cells.Length ? Plain(cells[i]) : "")]);
        }
        return rows.Count == 0
            ? (null, "There is one row only. The first row names the columns; the rows below it are what is imported.")
            : (new ImportTable(headers!, rows), null);
    }

    // Counted outside quotation marks; where none is found there is one column.
    private static string Between(string text)
    {
        var counts = new Dictionary<char, int> { ['\t'] = 0, [';'] = 0, [','] = 0 };
        var quoted = false;
        foreach (var c in text)
        {
            if (c == '"')
            {
                quoted = !quoted;
            }
            else if (!quoted && c is '\n' or '\r')
            {
                break;
            }
            else if (!quoted && counts.TryGetValue(c, out var n))
            {
                counts[c] = n + 1;
            }
        }
        return counts.MaxBy(c => c.Value).Key.ToString();
    }

    private static IReadOnlyList<string> Named(string[] cells)
    {
        var seen = new Dictionary<string, int>(StringComparer.OrdinalIgnoreCase);
        return [.. cells.Select((cell, i) =>
        {
            var name = string.IsNullOrWhiteSpace(cell) ? $"Column {i + 1}" : Plain(cell).ReplaceLineEndings(" ");
            seen[name] = seen.GetValueOrDefault(name) + 1;
            return seen[name] == 1 ? name : $"{name} ({seen[name]})";
        })];
    }

    // Our own exports write an apostrophe before a cell that a spreadsheet would take for a formula.
    private static string Plain(string cell) => cell.Length > 1 && cell[0] == '\'' && "=@+-".Contains(cell[1], StringComparison.Ordinal) ? cell[1..] : cell;
}
