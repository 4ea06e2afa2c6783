using Zandrik.Core.Life;
using Zandrik.Core.Reports;

namespace Zandrik.Storage.Documents;

/// <summary>Work that was done, as schema 1 stores it. Frozen: a change is a schema 2 (docs/documents.md).</summary>
internal sealed record RepairDoneDocumentV1 : IStoredDocument<RepairDoneDocumentV1, RepairDone>
{
    public static int Number => 1;

    public int Schema { get; init; } = 1;

    public required string Option { get; init; }

    public IReadOnlyList<int> Cylinders { get; init; } = [];

    public double? Minutes { get; init; }

    public bool? WasRight { get; init; }

    public string? Says { get; init; }

    public static RepairDoneDocumentV1 Of(RepairDone d) => new() { Option = d.Option, Cylinders = d.Cylinders, Minutes = d.Minutes, WasRight = d.WasRight, Says = d.Says };

    public RepairDone ToValue() => new() { Option = Option, Cylinders = Cylinders, Minutes = Minutes, WasRight = WasRight, Says = Says };
}

/// <summary>A sheet for buying or selling, as schema 1 stores it: text as it was handed out. Frozen: a change is a schema 2.</summary>
internal sealed record SellingDocumentV1 : IStoredDocument<SellingDocumentV1, SellingSheet>
{
    public static int Number => 1;

    public int Schema { get; init; } = 1;

    public required string Shop { get; init; }

    public required string Job { get; init; }

    public required string Vehicle { get; init; }

    public required string Engine { get; init; }

    public string? Serial { get; init; }

    public IReadOnlyList<FactV1> Facts { get; init; } = [];

    public required string Finding { get; init; }

    public required string Cost { get; init; }

    public IReadOnlyList<PartV1> Parts { get; init; } = [];

    public IReadOnlyList<string> Missing { get; init; } = [];

    public required string Made { get; init; }

    public required string By { get; init; }

    internal sealed record FactV1(string Name, string Value);

    internal sealed record PartV1(string Title, string Says, string How, IReadOnlyList<string> Headers, IReadOnlyList<IReadOnlyList<string>> Rows, IReadOnlyList<string> Notes);

    public static SellingDocumentV1 Of(SellingSheet s) => new()
    {
        Shop = s.Shop, Job = s.Number, Vehicle = s.Vehicle, Engine = s.Engine, Serial = s.Serial, Facts = [.. s.Facts.Select(f => new FactV1(f.Name, f.Value))], Finding = s.Finding, Cost = s.Cost,
        Parts = [.. s.Parts.Select(p => new PartV1(p.Title, p.Says, p.How, p.Headers, p.Rows, p.Notes))], Missing = s.Missing, Made = s.Made, By = s.By,
    };

    public SellingSheet ToValue() => new(Shop, Job, Vehicle, Engine, Serial, [.. Facts.Select(f => new SellingFact(f.Name, f.Value))], Finding, Cost,
        [.. Parts.Select(p => new SellingPart(p.Title, p.Says, p.How, p.Headers, p.Rows, p.Notes))], Missing, Made, By);
}
