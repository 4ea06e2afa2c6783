using System.Globalization;

namespace Zandrik.Core.Engines;

/// <summary>Cylinder numbers as a technician types them: <c>1-3-4-2</c>, <c>1 3 4 2</c> or <c>1,3,4,2</c>; banks apart by a slash.</summary>
public static class CylinderList
{
    private static readonly char[] Between = ['-', '–', ' ', ',', ';', '.', '\t'];

    /// <summary>Reads one list.</summary>
    /// <returns>The numbers; null when something is not a number. An empty text gives an empty list.</returns>
    public static IReadOnlyList<int>? Read(string? typed)
    {
        var numbers = new List<int>();
        foreach (var part in (typed ?? "").Split(Between, StringSplitOptions.RemoveEmptyEntries))
        {
            if (!int.TryParse(part, NumberStyles.None, CultureInfo.InvariantCulture, out var number))
            {
                return null;
            }
            numbers.Add(number);
        }
        return numbers;
    }

    /// <summary>Reads banks, as in <c>1 3 5 / 2 4 6</c>.</summary>
    /// <returns>The banks; null when something is not a number. An empty text gives no bank.</returns>
    public static IReadOnlyList<IReadOnlyList<int>>? ReadBanks(string? typed)
    {
        var banks = new List<IReadOnlyList<int>>();
        foreach (var bank in (typed ?? "").Split('/', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
        {
            if (Read(bank) is not { } numbers)
            {
                return null;
            }
            banks.Add(numbers);
        }
        return banks;
    }

    /// <summary>A firing order as it is stamped on an engine: <c>1-3-4-2</c>.</summary>
    /// <returns>Numbers with dashes; empty for no order.</returns>
    public static string Text(IEnumerable<int>? order) => order is null ? "" : string.Join('-', order);

    /// <summary>Banks as <see cref="ReadBanks"/> reads them.</summary>
    /// <returns>Numbers with blanks, banks apart by a slash; empty for none.</returns>
    public static string BanksText(IReadOnlyList<IReadOnlyList<int>>? banks) =>
        banks is null ? "" : string.Join(" / ", banks.Select(b => string.Join(' ', b)));

    /// <summary>Cylinders in a sentence: <c>2</c>, <c>2 and 3</c>, <c>1, 2 and 3</c>.</summary>
    /// <returns>Numbers with commas and an "and"; empty for none.</returns>
    public static string Sentence(IReadOnlyList<int> cylinders) => cylinders.Count switch
    {
        0 => "",
        1 => cylinders[0].ToString(CultureInfo.InvariantCulture),
        _ => $"{string.Join(", ", cylinders.Take(cylinders.Count - 1))} and {cylinders[^1]}",
    };
}
