namespace Zandrik.Instruments.Protocol;

/// <summary>
/// A command as it may be written: <c>FETCh:PRESsure:PEAK?</c> stands for its short form (the capitals), its long form and
/// nothing between, in any case. A star command has one form.
/// </summary>
public sealed class CommandPattern
{
    private readonly (string Short, string Long)[] words;

    /// <summary>Reads a pattern.</summary>
    /// <param name="pattern">The pattern; capitals are what a word may be shortened to.</param>
    public CommandPattern(string pattern)
    {
        Pattern = pattern;
        IsQuery = pattern.EndsWith('?');
        words = [.. pattern.TrimEnd('?').Split(':').Select(w => (new string([.. w.Where(c => !char.IsAsciiLetterLower(c))]), w.ToUpperInvariant()))];
    }

    /// <summary>The pattern as it stands in the documentation.</summary>
    public string Pattern { get; }

    /// <summary>True for a command that is answered.</summary>
    public bool IsQuery { get; }

    /// <summary>Whether a header is this command.</summary>
    /// <param name="path">The words of the header, without the question mark.</param>
    /// <param name="query">Whether it had one.</param>
    /// <returns>True for the short and the long form of each word.</returns>
    public bool Is(IReadOnlyList<string> path, bool query)
    {
        if (query != IsQuery || path.Count != words.Length)
        {
            return false;
        }
        for (var i = 0; i < words.Length; i++)
        {
            if (!path[i].Equals(words[i].Short, StringComparison.OrdinalIgnoreCase) && !path[i].Equals(words[i].Long, StringComparison.OrdinalIgnoreCase))
            {
                return false;
            }
        }
        return true;
    }

    /// <summary>Whether a word is one of some, in its short or long form.</summary>
    /// <param name="word">What was written.</param>
    /// <param name="pattern">The word with its short form in capitals.</param>
    /// <returns>True where it is.</returns>
    public static bool IsWord(string word, string pattern) =>
        word.Equals(pattern, StringComparison.OrdinalIgnoreCase) || word.Equals(new string([.. pattern.Where(c => !char.IsAsciiLetterLower(c))]), StringComparison.OrdinalIgnoreCase);
}
