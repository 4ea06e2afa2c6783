using System.Globalization;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;

namespace Zandrik.Core.Records;

/// <summary>
/// Reads and writes the open test record as JSON. Reading checks the shape, the closed lists and the
/// rules of <see cref="RecordRules"/> and answers with every problem at once; what is read and written
/// again is the same in meaning, unknown fields included. Thread-safe.
/// </summary>
public static class TestRecordJson
{
    /// <summary>
    /// How the parts of a record are written: camel case, absent values left out, closed lists as words,
    /// instants in UTC ending in Z. Shared with storage, which keeps parts of a record as JSON.
    /// </summary>
    public static JsonSerializerOptions Options { get; } = MakeOptions(indented: false);

    private static readonly JsonSerializerOptions Indented = MakeOptions(indented: true);

    /// <summary>Reads a record.</summary>
    /// <param name="utf8">The document, UTF-8, with or without a byte order mark.</param>
    /// <returns>The record, or the problems that keep it from being one: exactly one of the two.</returns>
    public static RecordReading Read(ReadOnlyMemory<byte> utf8)
    {
        if (utf8.Span.StartsWith((ReadOnlySpan<byte>)[0xEF, 0xBB, 0xBF]))
        {
            utf8 = utf8[3..];
        }
        if (JsonGate.Problem(utf8.Span) is { } noText)
        {
            return RecordReading.Bad([noText]);
        }
        JsonDocument document;
        try
        {
            document = JsonDocument.Parse(utf8, new JsonDocumentOptions { AllowDuplicateProperties = false });
        }
        catch (JsonException broken)
        {
            var place = broken.LineNumber is { } line
                ? $" near line {line + 1}, byte {(broken.BytePositionInLine ?? 0) + 1}"
                : "";
            return RecordReading.Bad([new FieldProblem("", $"This is not a whole JSON document{place}: check quotes, commas, brackets and names that stand twice.")]);
        }
        using (document)
        {
            var problems = ShapeCheck.Check(document.RootElement);
            if (problems.Count > 0)
            {
                return RecordReading.Bad(problems);
            }
            var record = document.RootElement.Deserialize<TestRecord>(Options)!;
            problems = RecordRules.Check(record);
            return problems.Count > 0 ? RecordReading.Bad(problems) : RecordReading.Good(record);
        }
    }

    /// <summary>Reads one test, to be added to a job: it is held to the rules of a record of the job's engine.</summary>
    /// <param name="utf8">The test as it stands in a record's <c>tests</c>, UTF-8.</param>
    /// <param name="engine">The engine of the job.</param>
    /// <returns>A record of that engine with the one test, or the problems with pointers from the test's own root.</returns>
    public static RecordReading ReadTest(ReadOnlyMemory<byte> utf8, EngineSheet engine)
    {
        if (JsonGate.Problem(utf8.Span) is { } noText)
        {
            return RecordReading.Bad([noText]);
        }
        JsonNode? test;
        try
        {
            test = JsonNode.Parse(utf8.Span, documentOptions: new JsonDocumentOptions { AllowDuplicateProperties = false });
        }
        catch (JsonException)
        {
            return Read(utf8);
        }
        var whole = ToNode(new TestRecord { Engine = engine });
        whole["tests"] = new JsonArray(test);
        const string Root = "/tests/0";
        var reading = Read(JsonSerializer.SerializeToUtf8Bytes(whole, Options));
        return reading.Record is not null ? reading
            : RecordReading.Bad([.. reading.Problems.Select(p => p.Pointer.StartsWith(Root, StringComparison.Ordinal) ? p with { Pointer = p.Pointer[Root.Length..] } : p)]);
    }

    /// <summary>Reads a record that this program wrote itself, without checking it again.</summary>
    /// <exception cref="JsonException">The stored document is not a record: a fault of the program or the machine.</exception>
    /// <returns>The record.</returns>
    public static TestRecord ReadTrusted(JsonNode record) => record.Deserialize<TestRecord>(Options)!;

    /// <summary>Writes a record as an indented document, for people and files.</summary>
    /// <returns>The document, unknown fields with it.</returns>
    public static string Write(TestRecord record) => JsonSerializer.Serialize(record, Indented);

    /// <summary>Writes a record as JSON nodes, for storage.</summary>
    /// <returns>The nodes, the caller's own.</returns>
    public static JsonObject ToNode(TestRecord record) => JsonSerializer.SerializeToNode(record, Options)!.AsObject();

    private static JsonSerializerOptions MakeOptions(bool indented)
    {
        var options = new JsonSerializerOptions(JsonSerializerDefaults.Web)
        {
            DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
            NumberHandling = JsonNumberHandling.Strict,
            PropertyNameCaseInsensitive = false,
            AllowOutOfOrderMetadataProperties = true,
            WriteIndented = indented,
            // Names of ships and people are written as they are; the result is never put into a page unescaped.
            Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
        };
        options.Converters.Add(new JsonStringEnumConverter(JsonNamingPolicy.KebabCaseLower, allowIntegerValues: false));
        options.Converters.Add(new InstantConverter());
        options.MakeReadOnly(populateMissingResolver: true);
        return options;
    }

    // 09:40Z and 09:40+00:00 are the same instant; scripts that compare texts like the first.
    private sealed class InstantConverter : JsonConverter<DateTimeOffset>
    {
        public override DateTimeOffset Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
            reader.GetDateTimeOffset();

        public override void Write(Utf8JsonWriter writer, DateTimeOffset value, JsonSerializerOptions options) =>
            writer.WriteStringValue(value.Offset == TimeSpan.Zero
                ? value.ToString("yyyy-MM-dd'T'HH:mm:ss.FFFFFFF'Z'", CultureInfo.InvariantCulture)
                : value.ToString("yyyy-MM-dd'T'HH:mm:ss.FFFFFFFzzz", CultureInfo.InvariantCulture));
    }
}

/// <summary>What reading a document gave: a record, or the problems that keep it from being one.</summary>
public sealed record RecordReading
{
    private RecordReading(TestRecord? record, IReadOnlyList<FieldProblem> problems)
    {
        Record = record;
        Problems = problems;
    }

    /// <summary>The record; absent when there are problems.</summary>
    public TestRecord? Record { get; }

    /// <summary>Every problem found; empty when there is a record.</summary>
    public IReadOnlyList<FieldProblem> Problems { get; }

    internal static RecordReading Good(TestRecord record) => new(record, []);

    internal static RecordReading Bad(IReadOnlyList<FieldProblem> problems) => new(null, problems);
}
