using System.Text.Json.Nodes;

namespace Zandrik.Core.Records;

/// <summary>
/// The JSON Schema (2020-12) of the open test record, made from the record types themselves. Rules that
/// a schema cannot say (a firing order that names every cylinder once) are in <see cref="RecordRules"/>.
/// </summary>
public static class TestRecordSchema
{
    /// <summary>Where an application serves the schema, and its <c>$id</c>.</summary>
    public const string Path = "/schema/test-record-1.json";

    /// <summary>Makes the schema anew; the caller may change it.</summary>
    /// <returns>The schema, the caller's own.</returns>
    public static JsonObject Make()
    {
        var schema = new JsonObject
        {
            ["$schema"] = "https://json-schema.org/draft/2020-12/schema",
            ["$id"] = Path,
            ["title"] = "Zandrik test record, version 1",
        };
        foreach (var (name, value) in SchemaOf(RecordShape.Record).ToList())
        {
            schema[name] = value?.DeepClone();
        }
        schema["properties"]!["format"]!.AsObject()["const"] = TestRecord.FormatName;
        schema["properties"]!["version"]!.AsObject()["const"] = TestRecord.FormatVersion;
        return schema;
    }

    private static JsonObject SchemaOf(RecordShape shape) => shape switch
    {
        RecordShape.Part part => SchemaOf(part, null),
        RecordShape.OneOf oneOf => new JsonObject
        {
            ["type"] = "object",
            ["required"] = new JsonArray(oneOf.Discriminator),
            ["oneOf"] = new JsonArray([.. oneOf.Parts.Select(p => SchemaOf(p.Value, p.Key))]),
        },
        RecordShape.ListOf list => new JsonObject { ["type"] = "array", ["items"] = SchemaOf(list.Item) },
        RecordShape.MapOf map => new JsonObject
        {
            ["type"] = "object",
            ["propertyNames"] = new JsonObject { ["enum"] = Words(map.Keys) },
            ["additionalProperties"] = SchemaOf(map.Value),
        },
        RecordShape.Number number => SchemaOf(number),
        RecordShape.NumberOr either => new JsonObject { ["anyOf"] = new JsonArray(SchemaOf(either.Bare), SchemaOf(either.Whole, null)) },
        RecordShape.Word word => new JsonObject { ["enum"] = Words(word.Words) },
        RecordShape.Instant => new JsonObject { ["type"] = "string", ["format"] = "date-time" },
        RecordShape.Day => new JsonObject { ["type"] = "string", ["format"] = "date" },
        RecordShape.Flag => new JsonObject { ["type"] = "boolean" },
        _ => new JsonObject { ["type"] = "string", ["minLength"] = 1, ["maxLength"] = RecordShape.LongestText },
    };

    private static JsonObject SchemaOf(RecordShape.Part part, string? kind)
    {
        var properties = new JsonObject();
        if (kind is not null)
        {
            properties[part.Discriminator!] = new JsonObject { ["const"] = kind };
        }
        foreach (var field in part.Fields)
        {
            var schema = SchemaOf(field.Shape);
            schema["description"] = field.Says;
            properties[field.Name] = schema;
        }
        var result = new JsonObject { ["type"] = "object", ["properties"] = properties };
        var required = part.Fields.Where(f => f.Required).Select(f => f.Name).ToList();
        if (required.Count > 0)
        {
            result["required"] = Words(required);
        }
        return result;
    }

    private static JsonObject SchemaOf(RecordShape.Number number)
    {
        var schema = new JsonObject { ["type"] = number.Whole ? "integer" : "number" };
        if (!double.IsNaN(number.Min))
        {
            schema["minimum"] = number.Min;
        }
        if (!double.IsNaN(number.Max))
        {
            schema["maximum"] = number.Max;
        }
        return schema;
    }

    private static JsonArray Words(IEnumerable<string> words) => new([.. words.Select(w => (JsonNode)w)]);
}
