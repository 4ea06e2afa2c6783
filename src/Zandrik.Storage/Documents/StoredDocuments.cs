using System.Text.Json;
using System.Text.Json.Serialization;
using Zandrik.Core.Records;
using Zandrik.Core.Verdicts;

namespace Zandrik.Storage.Documents;

/// <summary>
/// Reads and writes what is stored as a document of its own. Each carries the number of its schema and is read through
/// the frozen types of that number; what is written is always the newest. docs/documents.md says how one changes.
/// </summary>
internal static class StoredDocuments
{
    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull, Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>A verdict as it is stored.</summary>
    public static string Write(VerdictSnapshot verdict) => JsonSerializer.Serialize(VerdictDocumentV1.Of(verdict), Json);

    /// <summary>A stored verdict, of whatever schema.</summary>
    /// <exception cref="InvalidDataException">It is of a schema, or has a word, that this version does not know.</exception>
    public static VerdictSnapshot ReadVerdict(string json)
    {
        using var document = JsonDocument.Parse(json);
        return SchemaOf(document.RootElement) switch
        {
            VerdictDocumentV1.Number => document.RootElement.Deserialize<VerdictDocumentV1>(Json)!.ToSnapshot(),
            var number => throw Unknown("verdict", number),
        };
    }

    /// <summary>What was said of each place, as it is stored.</summary>
    public static string Write(IReadOnlyList<VerdictComparison> said) => JsonSerializer.Serialize(SaidDocumentV1.Of(said), Json);

    /// <summary>What was said of each place when a verdict was signed, of whatever schema.</summary>
    /// <exception cref="InvalidDataException">It is of a schema, or has a word, that this version does not know.</exception>
    public static IReadOnlyList<VerdictComparison> ReadSaid(string json)
    {
        using var document = JsonDocument.Parse(json);
        var root = document.RootElement;
        // Before schema numbers the list stood alone.
        return root.ValueKind == JsonValueKind.Array ? new SaidDocumentV1 { Said = root.Deserialize<List<SaidDocumentV1.PlaceV1>>(Json)! }.ToSaid()
            : SchemaOf(root) switch
            {
                SaidDocumentV1.Number => root.Deserialize<SaidDocumentV1>(Json)!.ToSaid(),
                var number => throw Unknown("list of what was said", number),
            };
    }

    /// <summary>A document of any other kind, as it is stored.</summary>
    /// <typeparam name="TDocument">The newest frozen type of its kind.</typeparam>
    /// <typeparam name="T">What it is today.</typeparam>
    public static string Write<TDocument, T>(T value)
        where TDocument : IStoredDocument<TDocument, T> => JsonSerializer.Serialize(TDocument.Of(value), Json);

    /// <summary>A stored document of any other kind.</summary>
    /// <exception cref="InvalidDataException">It is of a schema, or has a word, that this version does not know.</exception>
    public static T Read<TDocument, T>(string json)
        where TDocument : IStoredDocument<TDocument, T>
    {
        using var document = JsonDocument.Parse(json);
        var number = SchemaOf(document.RootElement);
        return number == TDocument.Number ? document.RootElement.Deserialize<TDocument>(Json)!.ToValue() : throw Unknown("part of the shop's data", number);
    }

    private static int SchemaOf(JsonElement root) => root.TryGetProperty("schema", out var number) ? number.GetInt32() : 1;

    private static InvalidDataException Unknown(string what, int number) =>
        new($"This {what} was stored by a newer Zandrik (schema {number}). Start that version again, or one after it.");
}

/// <summary>A frozen type of a schema number.</summary>
/// <typeparam name="TSelf">The type.</typeparam>
/// <typeparam name="T">What it is today.</typeparam>
internal interface IStoredDocument<TSelf, T>
    where TSelf : IStoredDocument<TSelf, T>
{
    /// <summary>Its number.</summary>
    public static abstract int Number { get; }

    /// <summary>The document of what it is today.</summary>
    public static abstract TSelf Of(T value);

    /// <summary>What it is today.</summary>
    public T ToValue();
}

/// <summary>Words of stored documents.</summary>
internal static class StoredWords
{
    /// <summary>What a stored word means today.</summary>
    /// <exception cref="InvalidDataException">It means nothing: then the mapper of its schema has to say what takes its place.</exception>
    public static T Read<T>(string word)
        where T : struct, Enum => RecordWords.TryParse<T>(word, out var value) ? value : throw new InvalidDataException($"\"{word}\" is no {typeof(T).Name}.");
}
