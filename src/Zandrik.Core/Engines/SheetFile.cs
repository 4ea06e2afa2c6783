using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Zandrik.Core.Records;

namespace Zandrik.Core.Engines;

/// <summary>One row of an imported file: a sheet, or what keeps it from being one.</summary>
/// <param name="Row">Its place in the file, from 1; in a CSV the head is not counted.</param>
/// <param name="Name">The engine's name as written.</param>
/// <param name="Sheet">The sheet; absent when there are problems.</param>
/// <param name="Problems">What is wrong, field by field.</param>
public sealed record SheetRow(int Row, string Name, EngineDocument? Sheet, IReadOnlyList<string> Problems);

/// <summary>
/// Engine sheets as a file: JSON with everything, or CSV with a column for each field, for a spreadsheet.
/// Each row is checked by the rules of the open record; one bad row does not spoil the others.
/// </summary>
public static class SheetFile
{
    /// <summary>Most rows read from one file.</summary>
    public const int MostRows = 2000;

    private static readonly JsonSerializerOptions Indented = new(TestRecordJson.Options) { WriteIndented = true };

    private const string Format = "zandrik-engine-sheets";

    // Column, field in the engine ("e:"), its spec ("s:"), or the shop's part ("w:"), and how it is written.
    private static readonly (string Column, string Field, Kind Kind)[] Columns =
    [
        ("name", "e:name", Kind.Text), ("fuel", "e:fuel", Kind.Text), ("cylinders", "e:cylinders", Kind.Number), ("layout", "e:layout", Kind.Text),
        ("banks", "e:banks", Kind.Groups), ("firingOrder", "e:firingOrder", Kind.Numbers), ("firingAngles", "e:firingAngles", Kind.Numbers),
        ("rotation", "e:rotation", Kind.Text), ("compressionRatio", "e:compressionRatio", Kind.Number), ("boreMm", "e:boreMm", Kind.Number),
        ("strokeMm", "e:strokeMm", Kind.Number), ("displacementCc", "e:displacementCc", Kind.Number), ("throttle", "e:throttle", Kind.Text),
        ("gearbox", "e:gearbox", Kind.Text), ("lifters", "e:lifters", Kind.Text), ("inclinationDeg", "e:inclinationDeg", Kind.Number),
        ("features", "e:features", Kind.Words), ("intakeBranches", "e:intakeBranches", Kind.Groups),
        ("unit", "s:unit", Kind.Text), ("nominal", "s:nominal", Kind.Number), ("minimum", "s:minimum", Kind.Number),
        ("maxDifference", "s:maxDifference", Kind.Number), ("maxLeakPercent", "s:maxLeakPercent", Kind.Number), ("wetAllowed", "s:wetAllowed", Kind.Truth),
        ("sources", "w:sources", Kind.Sources),
        ("plugThread", "w:plugThread", Kind.Text), ("plugPitchMm", "w:plugPitchMm", Kind.Number), ("plugReachMm", "w:plugReachMm", Kind.Number),
        ("plugSocketMm", "w:plugSocketMm", Kind.Number), ("wellDepthMm", "w:wellDepthMm", Kind.Number), ("access", "w:access", Kind.Access),
        ("crankBoltMm", "w:crankBoltMm", Kind.Number), ("crankAccess", "w:crankAccess", Kind.Text), ("heldBy", "w:heldBy", Kind.Text),
        ("weaknesses", "w:weaknesses", Kind.Text),
    ];

    private enum Kind { Text, Number, Numbers, Groups, Words, Truth, Access, Sources }

    /// <summary>Writes sheets as JSON.</summary>
    /// <returns>The file; an empty list for none.</returns>
    public static string WriteJson(IEnumerable<EngineDocument> sheets) => JsonSerializer.Serialize(
        new { format = Format, version = 1, sheets }, Indented);

    /// <summary>Writes sheets as CSV with a head, commas between, and quotes where they are needed.</summary>
    /// <returns>The file with its head; nothing but the head for none.</returns>
    public static string WriteCsv(IEnumerable<EngineDocument> sheets) => CsvText.Write(ColumnNames, sheets.Select(Cells).Select(cells => (IReadOnlyList<string?>)[.. ColumnNames.Select(c => cells[c])]));

    /// <summary>The columns of a table of sheets, in their order.</summary>
    public static IReadOnlyList<string> ColumnNames { get; } = [.. Columns.Select(c => c.Column)];

    /// <summary>Reads a JSON file as <see cref="WriteJson"/> writes it. A table is read by <see cref="Imports.SheetImport"/>.</summary>
    /// <param name="file">The text of the file.</param>
    /// <returns>The rows, or what keeps the file from being read at all: exactly one of the two.</returns>
    public static (IReadOnlyList<SheetRow>? Rows, string? Problem) Read(string file)
    {
        try
        {
            var rows = JsonRows(file.TrimStart('\uFEFF', ' ', '\r', '\n', '\t'));
            return rows.Count switch
            {
                0 => (null, "The file has no sheets in it."),
                > MostRows => (null, $"The file has {rows.Count} rows; {MostRows} are taken at once. Split it."),
                _ => (rows, null),
            };
        }
        catch (JsonException broken)
        {
            return (null, $"This is not a whole JSON document{(broken.LineNumber is { } line ? $" near line {line + 1}" : "")}.");
        }
        catch (FormatException wrong)
        {
            return (null, wrong.Message);
        }
    }

    private static List<SheetRow> JsonRows(string text)
    {
        if (JsonNode.Parse(text) is not JsonObject root || root["format"]?.GetValueKind() != JsonValueKind.String || (string)root["format"]! != Format || root["sheets"] is not JsonArray sheets)
        {
            throw new FormatException($"This is no file of engine sheets: it starts with \"format\": \"{Format}\" and has a list \"sheets\".");
        }
        return [.. sheets.Select((s, i) => s is JsonObject sheet
            ? Row(i + 1, sheet["engine"] as JsonObject ?? [], sheet["workshop"] as JsonObject ?? [])
            : new SheetRow(i + 1, "", null, ["This is no sheet."]))];
    }

    /// <summary>The engine and the shop's part from the texts of cells, as a form or a row of a CSV has them; not checked yet.</summary>
    /// <param name="cell">The text of a column; null or empty for none.</param>
    /// <returns>Two objects; a cell that is empty is not in them.</returns>
    public static (JsonObject Engine, JsonObject Workshop) Nodes(Func<string, string?> cell)
    {
        JsonObject engine = [], workshop = [];
        foreach (var (column, field, kind) in Columns)
        {
            if (cell(column)?.Trim() is { Length: > 0 } text)
            {
                var into = field[0] switch { 'e' => engine, 's' => (engine["spec"] ??= new JsonObject()).AsObject(), _ => workshop };
                into[field[2..]] = Node(text, kind);
            }
        }
        return (engine, workshop);
    }

    /// <summary>A sheet as the texts of its cells, by column.</summary>
    /// <returns>A text for each column, empty where the sheet says nothing.</returns>
    public static IReadOnlyDictionary<string, string> Cells(EngineDocument sheet)
    {
        var engine = JsonSerializer.SerializeToNode(sheet.Engine, TestRecordJson.Options)!.AsObject();
        var workshop = JsonSerializer.SerializeToNode(sheet.Workshop, TestRecordJson.Options)!.AsObject();
        return Columns.ToDictionary(c => c.Column, c => Cell((c.Field[0] switch { 'e' => engine, 's' => engine["spec"] as JsonObject, _ => workshop })?[c.Field[2..]], c.Kind));
    }

    /// <summary>Checks a sheet by the rules of the open record.</summary>
    /// <param name="row">Its place in the file, from 1.</param>
    /// <param name="engine">The engine, as in the open record.</param>
    /// <param name="workshop">The shop's part.</param>
    /// <returns>The sheet, or what is wrong with it by column: exactly one of the two.</returns>
    public static SheetRow Row(int row, JsonObject engine, JsonObject workshop)
    {
        var name = engine["name"]?.GetValueKind() == JsonValueKind.String ? ((string)engine["name"]!).Trim() : "";
        var problems = new List<string>();
        if (name.Length is 0 or > 200)
        {
            problems.Add("name: give the engine a name of at most 200 characters.");
        }
        var record = new JsonObject { ["format"] = TestRecord.FormatName, ["version"] = TestRecord.FormatVersion, ["engine"] = engine.DeepClone() };
        var reading = TestRecordJson.Read(Encoding.UTF8.GetBytes(record.ToJsonString()));
        problems.AddRange(reading.Problems.Select(p => $"{p.Pointer.Replace("/engine/", "", StringComparison.Ordinal).Replace("spec/", "", StringComparison.Ordinal)}: {p.Says}"));
        WorkshopSheet? shop = null;
        try
        {
            shop = workshop.Deserialize<WorkshopSheet>(TestRecordJson.Options);
        }
        catch (JsonException wrong)
        {
            problems.Add($"{wrong.Path?.TrimStart('$', '.')}: this cannot be read.");
        }
        return problems.Count > 0 || shop is null || reading.Record is null
            ? new SheetRow(row, name, null, problems)
            : new SheetRow(row, name, new EngineDocument(reading.Record.Engine with { Name = name }, shop), []);
    }

    private static JsonNode? Node(string cell, Kind kind) => kind switch
    {
        Kind.Number => Number(cell),
        Kind.Truth => cell.ToLowerInvariant() switch { "yes" or "true" => JsonValue.Create(true), "no" or "false" => JsonValue.Create(false), _ => JsonValue.Create(cell) },
        Kind.Numbers => List(cell, ['-', ' '], Number),
        Kind.Words => List(cell, [' ', ';'], w => JsonValue.Create(w)),
        Kind.Groups => List(cell, ['/'], g => List(g, [' ', '-'], Number)),
        Kind.Access => List(cell, [';', '\n'], s => Pair(s, "says", "minutes", Number)),
        Kind.Sources => List(cell, [';', '\n'], Source),
        _ => JsonValue.Create(cell),
    };

    // A text that is no number stays a text: the rules of the record then say what is wrong with it.
    private static JsonNode? Number(string cell) =>
        double.TryParse(cell.Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var number) && double.IsFinite(number)
            ? number == Math.Floor(number) && Math.Abs(number) < 1e9 ? JsonValue.Create((int)number) : JsonValue.Create(number)
            : JsonValue.Create(cell);

    private static JsonArray List(string cell, char[] between, Func<string, JsonNode?> part) =>
        [.. cell.Split(between, StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries).Select(part)];

    private static JsonObject Pair(string part, string first, string second, Func<string, JsonNode?> node)
    {
        var at = part.LastIndexOf('=');
        return at < 0 ? new JsonObject { [first] = part.Trim(), [second] = node(second == "minutes" ? "0" : "") } : new JsonObject { [first] = part[..at].Trim(), [second] = node(part[(at + 1)..].Trim()) };
    }

    // figure=source|checked by|checked on, the last two optional.
    private static JsonObject Source(string part)
    {
        var at = part.IndexOf('=', StringComparison.Ordinal);
        var rest = (at < 0 ? "" : part[(at + 1)..]).Split('|', StringSplitOptions.TrimEntries);
        var source = new JsonObject { ["figure"] = (at < 0 ? part : part[..at]).Trim(), ["source"] = rest[0] };
        if (rest.Length > 1 && rest[1].Length > 0)
        {
            source["checkedBy"] = rest[1];
        }
        if (rest.Length > 2 && rest[2].Length > 0)
        {
            source["checkedOn"] = rest[2];
        }
        return source;
    }

    private static string Cell(JsonNode? node, Kind kind) => node switch
    {
        null => "",
        JsonArray list => kind switch
        {
            Kind.Numbers => string.Join('-', list.Select(Text)),
            Kind.Groups => string.Join(" / ", list.Select(g => string.Join(' ', g!.AsArray().Select(Text)))),
            Kind.Access => string.Join("; ", list.Select(s => $"{Text(s!["says"])}={Text(s["minutes"])}")),
            Kind.Sources => string.Join("; ", list.Select(s => $"{Text(s!["figure"])}={Text(s["source"])}|{Text(s["checkedBy"])}|{Text(s["checkedOn"])}".TrimEnd('|'))),
            _ => string.Join(' ', list.Select(Text)),
        },
        _ when kind == Kind.Truth => (bool)node ? "yes" : "no",
        _ => Text(node),
    };

    private static string Text(JsonNode? node) => node is null ? "" : node.GetValueKind() == JsonValueKind.String ? (string)node! : node.ToJsonString();
}
