using Zandrik.Core.Deciding;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;

namespace Zandrik.Storage.Documents;

/// <summary>A low, a likely and a high figure, as schema 1 stores them.</summary>
internal sealed record EstimateV1(double Low, double Likely, double High)
{
    public static EstimateV1 Of(Estimate e) => new(e.Low, e.Likely, e.High);

    public static EstimateV1? Of(Estimate? e) => e is { } known ? Of(known) : null;

    public Estimate ToValue() => new(Low, Likely, High);
}

/// <summary>What is known of the owner's side, as schema 1 stores it. Frozen: a change is a schema 2 (docs/documents.md).</summary>
internal sealed record InputsDocumentV1 : IStoredDocument<InputsDocumentV1, DecisionInputs>
{
    public static int Number => 1;

    public int Schema { get; init; } = 1;

    public double? Worth { get; init; }

    public double? DayRate { get; init; }

    public double? KmAYear { get; init; }

    public double? YearsToLast { get; init; }

    public string? Wishes { get; init; }

    public static InputsDocumentV1 Of(DecisionInputs i) => new() { Worth = i.Worth, DayRate = i.DayRate, KmAYear = i.KmAYear, YearsToLast = i.YearsToLast, Wishes = i.Wishes };

    public DecisionInputs ToValue() => new() { Worth = Worth, DayRate = DayRate, KmAYear = KmAYear, YearsToLast = YearsToLast, Wishes = Wishes };
}

/// <summary>What a shop knows of repairs, as schema 1 stores it. Frozen: a change is a schema 2.</summary>
internal sealed record RepairPolicyDocumentV1 : IStoredDocument<RepairPolicyDocumentV1, RepairPolicy>
{
    public static int Number => 1;

    public int Schema { get; init; } = 1;

    public IReadOnlyList<FigureV1> Figures { get; init; } = [];

    public IReadOnlyList<StrikeV1> Strikes { get; init; } = [];

    internal sealed record FigureV1(string What, int? Sheet = null, EstimateV1? Minutes = null, EstimateV1? Parts = null, EstimateV1? Machining = null, EstimateV1? Days = null);

    internal sealed record StrikeV1(string Family, string Repair, string Says);

    public static RepairPolicyDocumentV1 Of(RepairPolicy p) => new()
    {
        Figures = [.. p.Figures.Select(f => new FigureV1(f.Figure.What, f.Sheet, EstimateV1.Of(f.Figure.Minutes), EstimateV1.Of(f.Figure.Parts), EstimateV1.Of(f.Figure.Machining), EstimateV1.Of(f.Figure.Days)))],
        Strikes = [.. p.Strikes.Select(s => new StrikeV1(s.Family, RecordWords.Of(s.Repair), s.Says))],
    };

    public RepairPolicy ToValue() => new(
        [.. Figures.Select(f => new KeptFigure(f.Sheet, new RepairFigure(f.What, f.Minutes?.ToValue(), f.Parts?.ToValue(), f.Machining?.ToValue(), f.Days?.ToValue())))],
        [.. Strikes.Select(s => new RepairStrike(s.Family, StoredWords.Read<Repair>(s.Repair), s.Says))]);
}

/// <summary>What was decided, as schema 1 stores it. Frozen: a change is a schema 2.</summary>
internal sealed record DecisionDocumentV1 : IStoredDocument<DecisionDocumentV1, DecisionSnapshot>
{
    public static int Number => 1;

    public int Schema { get; init; } = 1;

    public required string Chosen { get; init; }

    public required IReadOnlyList<OptionV1> Options { get; init; }

    public required string Finding { get; init; }

    public required InputsDocumentV1 Inputs { get; init; }

    public double? Rate { get; init; }

    public string? Currency { get; init; }

    internal sealed record OptionV1
    {
        public required string Word { get; init; }

        public required string Title { get; init; }

        public required string Plain { get; init; }

        public required string Does { get; init; }

        public required EstimateV1 Minutes { get; init; }

        public required EstimateV1 Total { get; init; }

        public required EstimateV1 Days { get; init; }

        public required double Expected { get; init; }

        public required double Cured { get; init; }

        public IReadOnlyList<string> Unknown { get; init; } = [];

        public IReadOnlyList<string> Measure { get; init; } = [];

        public string? Buys { get; init; }

        public string? Waiting { get; init; }

        public string? Struck { get; init; }

        public bool IsBest { get; init; }

        public bool IsLikely { get; init; }
    }

    public static DecisionDocumentV1 Of(DecisionSnapshot d) => new()
    {
        Chosen = d.Chosen, Finding = d.Finding, Inputs = InputsDocumentV1.Of(d.Inputs), Rate = d.Rate, Currency = d.Currency,
        Options = [.. d.Options.Select(o => new OptionV1
        {
            Word = o.Word, Title = o.Title, Plain = o.Plain, Does = o.Does, Minutes = EstimateV1.Of(o.Minutes), Total = EstimateV1.Of(o.Total), Days = EstimateV1.Of(o.Days), Expected = o.Expected, Cured = o.Cured,
            Unknown = o.Unknown, Measure = o.Measure, Buys = o.Buys, Waiting = o.Waiting, Struck = o.Struck, IsBest = o.IsBest, IsLikely = o.IsLikely,
        })],
    };

    public DecisionSnapshot ToValue() => new(Chosen, [.. Options.Select(o => new DecidedOption
    {
        Word = o.Word, Title = o.Title, Plain = o.Plain, Does = o.Does, Minutes = o.Minutes.ToValue(), Total = o.Total.ToValue(), Days = o.Days.ToValue(), Expected = o.Expected, Cured = o.Cured,
        Unknown = o.Unknown, Measure = o.Measure, Buys = o.Buys, Waiting = o.Waiting, Struck = o.Struck, IsBest = o.IsBest, IsLikely = o.IsLikely,
    })], Finding, Inputs.ToValue(), Rate, Currency);
}
