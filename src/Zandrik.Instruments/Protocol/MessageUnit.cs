namespace Zandrik.Instruments.Protocol;

/// <summary>One command of a line: its path, whether it asks, and its parameters.</summary>
/// <param name="Path">The words between colons, in full from the root.</param>
/// <param name="IsQuery">True where it ends with a question mark.</param>
/// <param name="Parameters">What stands behind the header, between commas; quotes taken off.</param>
public sealed record MessageUnit(IReadOnlyList<string> Path, bool IsQuery, IReadOnlyList<string> Parameters)
{
    /// <summary>
    /// Takes a line apart. A command behind a semicolon that begins with neither colon nor star goes on in the branch of
    /// the one before, as the standard has it.
    /// </summary>
    /// <param name="line">The line without its end.</param>
    /// <returns>The commands up to the first that cannot be read, and why that one cannot; no error where all can.</returns>
    public static (IReadOnlyList<MessageUnit> Units, ScpiError Error) Read(string line)
    {
        var units = new List<MessageUnit>();
        if (line.Any(c => c is < ' ' and not '\t' or > '~'))
        {
            return (units, ScpiError.InvalidCharacter);
        }
        IReadOnlyList<string> branch = [];
        if (Split(line, ';') is not { } parts)
        {
            return (units, ScpiError.Syntax);
        }
        foreach (var part in parts.Select(p => p.Trim()))
        {
            if (part.Length == 0)
            {
                continue;
            }
            var end = part.IndexOfAny([' ', '\t']);
            var (header, rest) = end < 0 ? (part, "") : (part[..end], part[end..].Trim());
            var query = header.EndsWith('?');
            var bare = query ? header[..^1] : header;
            var common = bare.StartsWith('*');
            var words = bare.TrimStart(':').Split(':');
            if (words.Any(w => w.Length == 0 || !w.TrimStart(common ? '*' : ':').All(c => char.IsAsciiLetterOrDigit(c) || c == '_')))
            {
                return (units, ScpiError.Syntax);
            }
            IReadOnlyList<string> path = common || bare.StartsWith(':') ? words : [.. branch, .. words];
            if (!common)
            {
                branch = [.. path.SkipLast(1)];
            }
            if (Split(rest, ',') is not { } parameters)
            {
                return (units, ScpiError.Syntax);
            }
            units.Add(new(path, query, rest.Length == 0 ? [] : [.. parameters.Select(p => p.Trim().Trim('"', '\''))]));
        }
        return (units, ScpiError.None);
    }

    // Not inside quotes; null where a quote stays open.
    private static List<string>? Split(string text, char at)
    {
        var parts = new List<string>();
        var (from, quote) = (0, '\0');
        for (var i = 0; i < text.Length; i++)
        {
            if (quote != '\0')
            {
                quote = text[i] == quote ? '\0' : quote;
            }
            else if (text[i] is '"' or '\'')
            {
                quote = text[i];
            }
            else if (text[i] == at)
            {
                parts.Add(text[from..i]);
                from = i + 1;
            }
        }
        parts.Add(text[from..]);
        return quote == '\0' ? parts : null;
    }
}
