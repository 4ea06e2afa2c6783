using System.Text.Json;
using System.Text.Json.Nodes;
using Zandrik.Core.Records;
using Zandrik.Core.Testers;
using Zandrik.Core.Units;

namespace Zandrik.Storage.Documents;

/// <summary>A tester of the shop as schema 1 stores it. Frozen: a change is a schema 2 (docs/documents.md).</summary>
internal sealed record TesterDocumentV1 : IStoredDocument<TesterDocumentV1, ShopTester>
{
    public static int Number => 1;

    public int Schema { get; init; } = 1;

    public string Label { get; init; } = "";

    public string Kind { get; init; } = "gauge";

    public string Unit { get; init; } = "psi";

    public double? FullScale { get; init; }

    public string? CheckValve { get; init; }

    public double? HoseMl { get; init; }

    public double? AdapterMl { get; init; }

    public double? RestrictionMm { get; init; }

    public double? MilliVoltsPerAmp { get; init; }

    public DateOnly? CheckedOn { get; init; }

    public string? CheckedBy { get; init; }

    public int? CheckEveryMonths { get; init; }

    /// <summary>Parts of the open record, which has a version of its own.</summary>
    public IReadOnlyList<JsonNode> Points { get; init; } = [];

    public string? Notes { get; init; }

    public static TesterDocumentV1 Of(ShopTester t) => new()
    {
        Label = t.Label,
        Kind = RecordWords.Of(t.Kind),
        Unit = RecordWords.Of(t.Unit),
        FullScale = t.FullScale,
        CheckValve = t.CheckValve is { } valve ? RecordWords.Of(valve) : null,
        HoseMl = t.HoseMl,
        AdapterMl = t.AdapterMl,
        RestrictionMm = t.RestrictionMm,
        MilliVoltsPerAmp = t.MilliVoltsPerAmp,
        CheckedOn = t.CheckedOn,
        CheckedBy = t.CheckedBy,
        CheckEveryMonths = t.CheckEveryMonths,
        Points = [.. t.Points.Select(p => JsonSerializer.SerializeToNode(p, TestRecordJson.Options)!)],
        Notes = t.Notes,
    };

    public ShopTester ToValue() => new()
    {
        Label = Label,
        Kind = StoredWords.Read<TesterKind>(Kind),
        Unit = StoredWords.Read<PressureUnit>(Unit),
        FullScale = FullScale,
        CheckValve = CheckValve is { } valve ? StoredWords.Read<CheckValvePlace>(valve) : null,
        HoseMl = HoseMl,
        AdapterMl = AdapterMl,
        RestrictionMm = RestrictionMm,
        MilliVoltsPerAmp = MilliVoltsPerAmp,
        CheckedOn = CheckedOn,
        CheckedBy = CheckedBy,
        CheckEveryMonths = CheckEveryMonths,
        Points = [.. Points.Select(p => p.Deserialize<CheckPoint>(TestRecordJson.Options)!)],
        Notes = Notes,
    };
}
