namespace Zandrik.Core.Imports;

/// <summary>Something that can be imported from a column of a table.</summary>
/// <param name="Key">Its word, as a form sends it.</param>
/// <param name="Name">What it is called.</param>
/// <param name="Hint">What may stand in it.</param>
/// <param name="IsNeeded">True where no row can do without it.</param>
/// <param name="AlsoCalled">Other names a table may have for it.</param>
public sealed record ImportColumn(string Key, string Name, string Hint, bool IsNeeded, params string[] AlsoCalled);

/// <summary>Which column of a table holds what: guessed from its names, and put right by a person.</summary>
public static class ColumnMatch
{
    /// <summary>Guesses by name, whatever the case, blanks and signs: first the whole name, then a name that holds one of ours as a word.</summary>
    /// <param name="wanted">What is looked for, the most important first.</param>
    /// <param name="headers">The names of the table's columns.</param>
    /// <returns>The place of a column, from 0, by the word of what it holds; what was not found is not in it, and no column is in it twice.</returns>
    public static IReadOnlyDictionary<string, int> Guess(IReadOnlyList<ImportColumn> wanted, IReadOnlyList<string> headers)
    {
        var found = new Dictionary<string, int>(StringComparer.Ordinal);
        var letters = headers.Select(Letters).ToList();
        foreach (var column in wanted)
        {
            var names = Names(column).Select(Letters).ToList();
            if (letters.FindIndex(h => names.Contains(h)) is >= 0 and var at && !found.ContainsValue(at))
            {
                found[column.Key] = at;
            }
        }
        foreach (var column in wanted.Where(c => !found.ContainsKey(c.Key)))
        {
            var at = Enumerable.Range(0, headers.Count).FirstOrDefault(i => !found.ContainsValue(i) && Names(column).Any(n => HasWord(headers[i], n)), -1);
            if (at >= 0)
            {
                found[column.Key] = at;
            }
        }
        return found;
    }

    private static IEnumerable<string> Names(ImportColumn column) => [column.Key, column.Name, .. column.AlsoCalled];

    private static string Letters(string name) => new([.. name.Where(char.IsLetterOrDigit).Select(char.ToLowerInvariant)]);

    private static bool HasWord(string header, string name) =>
        header.Split([' ', '_', '-', '.', '/', '(', ')', ':', '#'], StringSplitOptions.RemoveEmptyEntries).Any(w => string.Equals(w, name, StringComparison.OrdinalIgnoreCase));
}
