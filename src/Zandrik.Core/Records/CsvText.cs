using System.Globalization;
using CsvHelper;
using CsvHelper.Configuration;

namespace Zandrik.Core.Records;

/// <summary>A list as CSV: one row of names, commas between, quotation marks where they are needed, UTF-8.</summary>
public static class CsvText
{
    /// <summary>Writes a list. A cell that a spreadsheet would take for a formula has an apostrophe before it.</summary>
    /// <param name="headers">The names of the columns.</param>
    /// <param name="rows">The rows, each with as many cells; null for an empty one.</param>
    /// <returns>The file with its head; nothing but the head for no rows.</returns>
    public static string Write(IReadOnlyList<string> headers, IEnumerable<IReadOnlyList<string?>> rows) => Lines(rows.Prepend(headers));

    /// <summary>Writes the lines of a list without its head, for one that goes on.</summary>
    /// <param name="rows">The rows, each with as many cells; null for an empty one.</param>
    /// <returns>The lines; empty for no rows.</returns>
    public static string Lines(IEnumerable<IReadOnlyList<string?>> rows)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        using var csv = new CsvWriter(text, new CsvConfiguration(CultureInfo.InvariantCulture) { InjectionOptions = InjectionOptions.Escape });
        foreach (var row in rows)
        {
            foreach (var cell in row)
            {
                csv.WriteField(cell);
            }
            csv.NextRecord();
        }
        csv.Flush();
        return text.ToString();
    }
}
