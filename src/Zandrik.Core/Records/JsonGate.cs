using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.Unicode;

namespace Zandrik.Core.Records;

/// <summary>
/// The one gate before any JSON from outside is looked at: text that is text, numbers that are numbers. What passes can
/// be stored and written again by anything behind it. Thread-safe.
/// </summary>
public static class JsonGate
{
    // As deep as the readers behind it go.
    private const int Deepest = 64;

    /// <summary>What keeps a document from being taken; absent for nothing.</summary>
    /// <param name="utf8">The document. Whether it is whole JSON at all is the reader's to say, not the gate's.</param>
    /// <returns>The first problem with the pointer of its field; control characters other than tab and line ends, halves of surrogate pairs, bytes that are no UTF-8, and numbers beyond what a double holds are problems.</returns>
    public static FieldProblem? Problem(ReadOnlySpan<byte> utf8)
    {
        if (!Utf8.IsValid(utf8))
        {
            return new FieldProblem("", "This is not UTF-8: send the document in that encoding.");
        }
        var reader = new Utf8JsonReader(utf8, new JsonReaderOptions { MaxDepth = Deepest });
        var path = new List<string>();
        try
        {
            while (reader.Read())
            {
                switch (reader.TokenType)
                {
                    case JsonTokenType.StartArray:
                        path.Add("0");
                        break;
                    case JsonTokenType.StartObject:
                        path.Add("");
                        break;
                    case JsonTokenType.EndArray or JsonTokenType.EndObject:
                        path.RemoveAt(path.Count - 1);
                        Next(path);
                        break;
                    case JsonTokenType.PropertyName:
                        if (TextOf(reader) is not { } name || !IsText(name))
                        {
                            return new FieldProblem(Pointer(path[..^1]), "A field's name has characters that are no text.");
                        }
                        path[^1] = "." + name.Replace("~", "~0", StringComparison.Ordinal).Replace("/", "~1", StringComparison.Ordinal);
                        break;
                    case JsonTokenType.String:
                        if (TextOf(reader) is not { } text || !IsText(text))
                        {
                            return new FieldProblem(Pointer(path), "This has characters that are no text: remove control characters and broken halves of letters.");
                        }
                        Next(path);
                        break;
                    case JsonTokenType.Number:
                        if (!reader.TryGetDouble(out var value) || !double.IsFinite(value))
                        {
                            return new FieldProblem(Pointer(path), "This number is too large.");
                        }
                        Next(path);
                        break;
                    default:
                        Next(path);
                        break;
                }
            }
        }
        catch (JsonException)
        {
            // Broken JSON: whoever reads it next says where.
        }
        return null;
    }

    /// <summary>True for text that can be kept: whole letters, no control characters but tab and line ends.</summary>
    /// <returns>False for half a letter of two code units, and for control characters.</returns>
    public static bool IsText(string text)
    {
        for (var i = 0; i < text.Length; i++)
        {
            var c = text[i];
            if (char.IsControl(c) && c is not ('\t' or '\n' or '\r'))
            {
                return false;
            }
            if (char.IsSurrogate(c) && !(char.IsHighSurrogate(c) && i + 1 < text.Length && char.IsLowSurrogate(text[++i])))
            {
                return false;
            }
        }
        return true;
    }

    // A half of a surrogate pair written as \uD800 is valid JSON and no text.
    private static string? TextOf(Utf8JsonReader reader)
    {
        try
        {
            return reader.GetString();
        }
        catch (InvalidOperationException)
        {
            return null;
        }
    }

    // Below an object the last part is the name, with a point before it; below a list it is the place.
    private static void Next(List<string> path)
    {
        if (path.Count > 0 && int.TryParse(path[^1], NumberStyles.None, CultureInfo.InvariantCulture, out var place))
        {
            path[^1] = (place + 1).ToString(CultureInfo.InvariantCulture);
        }
    }

    private static string Pointer(List<string> path)
    {
        var text = new StringBuilder();
        foreach (var part in path)
        {
            text.Append('/').Append(part.StartsWith('.') ? part.AsSpan(1) : part);
        }
        return text.ToString();
    }
}
