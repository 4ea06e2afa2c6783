using System.Globalization;
using Zandrik.Core.Records;

namespace Zandrik.Web.Front;

/// <summary>
/// Reads the texts of a form and remembers which of them need another look, by field. A point or a comma
/// separates decimals; blanks and thin spaces are nothing.
/// </summary>
public sealed class TypedFields
{
    private readonly Dictionary<string, string> problems = [];

    /// <summary>What needs another look: field and message.</summary>
    public IReadOnlyDictionary<string, string> Problems => problems;

    /// <summary>The message of a field; null when nothing is wrong with it.</summary>
    public string? Problem(string field) => problems.GetValueOrDefault(field);

    /// <summary>Adds a message; the first one of a field stays.</summary>
    public void Add(string field, string says) => problems.TryAdd(field, says);

    /// <summary>A text without blanks around it; null when there is none.</summary>
    public string? Text(string? typed, string field, int longest)
    {
        var text = typed?.Trim();
        if (string.IsNullOrEmpty(text))
        {
            return null;
        }
        if (text.Length > longest || text.Contains('\0', StringComparison.Ordinal))
        {
            Add(field, $"Shorten this to {longest} characters.");
            return null;
        }
        return text;
    }

    /// <summary>A number; null when nothing was typed or it needs another look.</summary>
    public double? Number(string? typed, string field, double min, double max)
    {
        var text = (typed ?? "").Replace(" ", "", StringComparison.Ordinal).Replace("\u202F", "", StringComparison.Ordinal).Replace(',', '.');
        if (text.Length == 0)
        {
            return null;
        }
        if (double.TryParse(text, NumberStyles.AllowDecimalPoint | NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var value)
            && value >= min && value <= max)
        {
            return value;
        }
        Add(field, string.Create(CultureInfo.InvariantCulture, $"Write a number from {min} to {max}, or leave it empty."));
        return null;
    }

    /// <summary>A whole number; null when nothing was typed or it needs another look.</summary>
    public int? Whole(string? typed, string field, int min, int max)
    {
        if (Number(typed, field, min, max) is not { } value)
        {
            return null;
        }
        if (value != Math.Floor(value))
        {
            Add(field, "Write a whole number.");
            return null;
        }
        return (int)value;
    }

    /// <summary>A day as a browser sends it; null when none was chosen or it needs another look.</summary>
    public DateOnly? Day(string? typed, string field)
    {
        if (string.IsNullOrWhiteSpace(typed))
        {
            return null;
        }
        if (DateOnly.TryParseExact(typed.Trim(), "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out var day) && day.Year is > 1950 and < 2200)
        {
            return day;
        }
        Add(field, "Write the day as year-month-day, or leave it empty.");
        return null;
    }

    /// <summary>A word of a closed list; null when none was chosen or it needs another look.</summary>
    public T? Word<T>(string? typed, string field)
        where T : struct, Enum
    {
        if (string.IsNullOrEmpty(typed))
        {
            return null;
        }
        if (RecordWords.TryParse<T>(typed, out var member))
        {
            return member;
        }
        Add(field, "Choose one of the list.");
        return null;
    }

    /// <summary>A figure as it stands in a field: in the shop's style, at most three decimals.</summary>
    public static string? Text(double? value) => value?.ToString("0.###", CultureInfo.CurrentCulture);
}
