using System.Text.Json;
using System.Text.Json.Nodes;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;

namespace Zandrik.Storage.Documents;

/// <summary>A shop's settings as schema 1 stores them. Frozen: a change is a schema 2 (docs/documents.md).</summary>
internal sealed record SettingsDocumentV1 : IStoredDocument<SettingsDocumentV1, ShopSettings>
{
    public static int Number => 1;

    public int Schema { get; init; } = 1;

    public string Numbers { get; init; } = "point";

    public string Dates { get; init; } = "year-first";

    /// <summary>A part of the open record, which has a version of its own.</summary>
    public JsonNode? JudgeBy { get; init; }

    public double? BarometricKPa { get; init; }

    public string Wet { get; init; } = "leak-down-first";

    public double? SquirtMl { get; init; }

    public double? CapMl { get; init; }

    public double? SpoonMl { get; init; }

    public double? LabourRate { get; init; }

    public string? Currency { get; init; }

    public IReadOnlyList<RuleV1> HouseRules { get; init; } = [];

    internal sealed record RuleV1(string Family, string Says);

    public static SettingsDocumentV1 Of(ShopSettings s) => new()
    {
        Numbers = RecordWords.Of(s.Numbers),
        Dates = RecordWords.Of(s.Dates),
        JudgeBy = s.JudgeBy is null ? null : JsonSerializer.SerializeToNode(s.JudgeBy, TestRecordJson.Options),
        BarometricKPa = s.BarometricKPa,
        Wet = RecordWords.Of(s.Wet),
        SquirtMl = s.SquirtMl,
        CapMl = s.CapMl,
        SpoonMl = s.SpoonMl,
        LabourRate = s.LabourRate,
        Currency = s.Currency,
        HouseRules = [.. s.HouseRules.Select(r => new RuleV1(r.Family, r.Says))],
    };

    public ShopSettings ToValue() => new()
    {
        Numbers = StoredWords.Read<NumberStyle>(Numbers),
        Dates = StoredWords.Read<DateStyle>(Dates),
        JudgeBy = JudgeBy?.Deserialize<JudgeBy>(TestRecordJson.Options),
        BarometricKPa = BarometricKPa,
        Wet = StoredWords.Read<WetMethod>(Wet),
        SquirtMl = SquirtMl,
        CapMl = CapMl,
        SpoonMl = SpoonMl,
        LabourRate = LabourRate,
        Currency = Currency,
        HouseRules = [.. HouseRules.Select(r => new HouseRule(r.Family, r.Says))],
    };
}
