using System.Text.Json;
using System.Text.Json.Nodes;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;

namespace Zandrik.Storage.Documents;

/// <summary>A version of an engine sheet as schema 1 stores it. Frozen: a change is a schema 2 (docs/documents.md).</summary>
internal sealed record SheetDocumentV1 : IStoredDocument<SheetDocumentV1, EngineDocument>
{
    public static int Number => 1;

    public int Schema { get; init; } = 1;

    /// <summary>The engine as in the open record, which has a version of its own.</summary>
    public JsonNode? Engine { get; init; }

    public WorkshopV1 Workshop { get; init; } = new();

    internal sealed record AccessV1(string Says, double Minutes);

    internal sealed record SourceV1(string Figure, string Source, string? CheckedBy = null, DateOnly? CheckedOn = null);

    internal sealed record WorkshopV1
    {
        public string? PlugThread { get; init; }

        public double? PlugPitchMm { get; init; }

        public double? PlugReachMm { get; init; }

        public double? PlugSocketMm { get; init; }

        public double? WellDepthMm { get; init; }

        public IReadOnlyList<AccessV1> Access { get; init; } = [];

        public double? CrankBoltMm { get; init; }

        public string? CrankAccess { get; init; }

        public string? HeldBy { get; init; }

        public string? Weaknesses { get; init; }

        public IReadOnlyList<SourceV1> Sources { get; init; } = [];
    }

    public static SheetDocumentV1 Of(EngineDocument d) => new()
    {
        Engine = JsonSerializer.SerializeToNode(d.Engine, TestRecordJson.Options),
        Workshop = new()
        {
            PlugThread = d.Workshop.PlugThread,
            PlugPitchMm = d.Workshop.PlugPitchMm,
            PlugReachMm = d.Workshop.PlugReachMm,
            PlugSocketMm = d.Workshop.PlugSocketMm,
            WellDepthMm = d.Workshop.WellDepthMm,
            Access = [.. d.Workshop.Access.Select(a => new AccessV1(a.Says, a.Minutes))],
            CrankBoltMm = d.Workshop.CrankBoltMm,
            CrankAccess = d.Workshop.CrankAccess,
            HeldBy = d.Workshop.HeldBy,
            Weaknesses = d.Workshop.Weaknesses,
            Sources = [.. d.Workshop.Sources.Select(s => new SourceV1(s.Figure, s.Source, s.CheckedBy, s.CheckedOn))],
        },
    };

    public EngineDocument ToValue() => new(Engine!.Deserialize<EngineSheet>(TestRecordJson.Options)!, new WorkshopSheet
    {
        PlugThread = Workshop.PlugThread,
        PlugPitchMm = Workshop.PlugPitchMm,
        PlugReachMm = Workshop.PlugReachMm,
        PlugSocketMm = Workshop.PlugSocketMm,
        WellDepthMm = Workshop.WellDepthMm,
        Access = [.. Workshop.Access.Select(a => new AccessStep(a.Says, a.Minutes))],
        CrankBoltMm = Workshop.CrankBoltMm,
        CrankAccess = Workshop.CrankAccess,
        HeldBy = Workshop.HeldBy,
        Weaknesses = Workshop.Weaknesses,
        Sources = [.. Workshop.Sources.Select(s => new FigureSource(s.Figure, s.Source, s.CheckedBy, s.CheckedOn))],
    });
}
