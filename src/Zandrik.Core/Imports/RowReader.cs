using System.Globalization;
using Zandrik.Core.Shops;

namespace Zandrik.Core.Imports;

/// <summary>Reads the cells of one row by what they hold, and gathers what is wrong with them.</summary>
/// <param name="table">The table.</param>
/// <param name="row">The row, from 0.</param>
/// <param name="match">Which column holds what.</param>
internal sealed class RowReader(ImportTable table, int row, IReadOnlyDictionary<string, int> match)
{
    private readonly List<string> problems = [];

    internal IReadOnlyList<string> Problems => problems;

    internal void Wrong(string column, string says) => problems.Add($"{column}: {says}");

    // The place of a column; absent where the table has none for it.
    internal int? At(string key) => match.TryGetValue(key, out var at) && at >= 0 && at < table.Headers.Count ? at : null;

    internal string Cell(int at) => table.Rows[row][at].Trim();

    internal string? Text(string key, string name, int longest)
    {
        if (At(key) is not { } at || Cell(at) is not { Length: > 0 } text)
        {
            return null;
        }
        if (text.Length > longest)
        {
            Wrong(name, $"shorten this to {longest} characters.");
            return null;
        }
        return text;
    }

    internal double? Number(string key, string name, double min, double max)
    {
        if (Text(key, name, 60) is not { } text)
        {
            return null;
        }
        if (Figure(text) is { } value && value >= min && value <= max)
        {
            return value;
        }
        Wrong(name, string.Create(CultureInfo.InvariantCulture, $"“{text}” is not a number from {min} to {max}."));
        return null;
    }

    // A word of a closed list, whatever the case and the blanks in it.
    internal T? Word<T>(string key, string name, IReadOnlyDictionary<string, T> words, IEnumerable<string> known)
        where T : struct
    {
        if (Text(key, name, 200) is not { } text)
        {
            return null;
        }
        if (words.TryGetValue(Letters(text), out var member))
        {
            return member;
        }
        Wrong(name, $"“{text}” is not known here. Use one of: {string.Join(", ", known)}.");
        return null;
    }

    // A day as people write it: with the year first, else as the shop writes its days.
    internal DateOnly? Day(string key, string name, DateStyle style)
    {
        if (Text(key, name, 60) is not { } text)
        {
            return null;
        }
        // A time behind the day, as spreadsheets add one, says nothing here.
        var day = text.Split([' ', 'T'], 2)[0];
        string[] written = style == DateStyle.MonthFirst ? ["M/d/yyyy", "M-d-yyyy", "M.d.yyyy", "d.M.yyyy"] : ["d/M/yyyy", "d-M-yyyy", "d.M.yyyy"];
        foreach (var (candidate, formats) in new[] { (day, (string[])["yyyy-M-d", "yyyy/M/d", "yyyy.M.d", "yyyyMMdd", .. written]), (text, ["d MMM yyyy", "d MMMM yyyy", "MMM d yyyy", "MMMM d, yyyy"]) })
        {
            if (DateOnly.TryParseExact(candidate, formats, CultureInfo.InvariantCulture, DateTimeStyles.AllowWhiteSpaces, out var read) && read.Year is > 1950 and < 2200)
            {
                return read;
            }
        }
        Wrong(name, $"“{text}” is not a day. Write it as year-month-day, as in 2026-03-02.");
        return null;
    }

    /// <summary>A figure with a decimal point or comma; a thousands mark of three digits each is left out.</summary>
    internal static double? Figure(string text)
    {
        var digits = text.Replace(" ", "", StringComparison.Ordinal).Replace("\u00A0", "", StringComparison.Ordinal).Replace("\u202F", "", StringComparison.Ordinal).Replace("'", "", StringComparison.Ordinal);
        if (digits.Contains(',') && digits.Contains('.'))
        {
            // The last of the two marks is the decimal one: 131,200.5 and 131.200,5 are the same.
            digits = digits.LastIndexOf(',') > digits.LastIndexOf('.') ? digits.Replace(".", "", StringComparison.Ordinal) : digits.Replace(",", "", StringComparison.Ordinal);
        }
        return double.TryParse(digits.Replace(',', '.'), NumberStyles.AllowDecimalPoint | NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var value) && double.IsFinite(value) ? value : null;
    }

    internal static string Letters(string text) => new([.. text.Where(char.IsLetterOrDigit).Select(char.ToLowerInvariant)]);
}
