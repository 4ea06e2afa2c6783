using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Storage.Documents;

/// <summary>How a capture's file was read, as schema 1 stores it. Frozen: a change is a schema 2 (docs/documents.md).</summary>
internal sealed record LayoutDocumentV1 : IStoredDocument<LayoutDocumentV1, CaptureLayout>
{
    public static int Number => 1;

    public int Schema { get; init; } = 1;

    public string Kind { get; init; } = "text";

    public char Delimiter { get; init; } = ',';

    public bool DecimalComma { get; init; }

    public int HeaderLines { get; init; }

    public int? TimeColumn { get; init; }

    public double TimeUnitS { get; init; } = 1;

    public double? IntervalS { get; init; }

    public int CurrentColumn { get; init; }

    public double AmpsPerUnit { get; init; } = 1;

    public bool ScaleKnown { get; init; } = true;

    public int? SyncColumn { get; init; }

    public int? BatteryColumn { get; init; }

    public double VoltsPerUnit { get; init; } = 1;

    public static LayoutDocumentV1 Of(CaptureLayout l) => new()
    {
        Kind = RecordWords.Of(l.Kind),
        Delimiter = l.Delimiter,
        DecimalComma = l.DecimalComma,
        HeaderLines = l.HeaderLines,
        TimeColumn = l.TimeColumn,
        TimeUnitS = l.TimeUnitS,
        IntervalS = l.IntervalS,
        CurrentColumn = l.CurrentColumn,
        AmpsPerUnit = l.AmpsPerUnit,
        ScaleKnown = l.ScaleKnown,
        SyncColumn = l.SyncColumn,
        BatteryColumn = l.BatteryColumn,
        VoltsPerUnit = l.VoltsPerUnit,
    };

    public CaptureLayout ToValue() => new()
    {
        Kind = StoredWords.Read<CaptureKind>(Kind),
        Delimiter = Delimiter,
        DecimalComma = DecimalComma,
        HeaderLines = HeaderLines,
        TimeColumn = TimeColumn,
        TimeUnitS = TimeUnitS,
        IntervalS = IntervalS,
        CurrentColumn = CurrentColumn,
        AmpsPerUnit = AmpsPerUnit,
        ScaleKnown = ScaleKnown,
        SyncColumn = SyncColumn,
        BatteryColumn = BatteryColumn,
        VoltsPerUnit = VoltsPerUnit,
    };
}

/// <summary>What was asked of a capture, as schema 1 stores it. Frozen: a change is a schema 2 (docs/documents.md).</summary>
internal sealed record QuestionDocumentV1 : IStoredDocument<QuestionDocumentV1, CaptureQuestion>
{
    public static int Number => 1;

    public int Schema { get; init; } = 1;

    public IReadOnlyList<int> FiringOrder { get; init; } = [];

    public IReadOnlyList<double>? FiringAngles { get; init; }

    public string? Fuel { get; init; }

    public double? CompressionRatio { get; init; }

    public string Sync { get; init; } = "none";

    public bool SyncAssumed { get; init; }

    public int SyncCylinder { get; init; } = 1;

    public double SyncAngleDeg { get; init; }

    public int? Unplugged { get; init; }

    public bool ScaleKnown { get; init; } = true;

    public double LimitPercent { get; init; }

    public double? SweptCc { get; init; }

    public static QuestionDocumentV1 Of(CaptureQuestion q) => new()
    {
        FiringOrder = q.FiringOrder,
        FiringAngles = q.FiringAngles,
        Fuel = q.Fuel is { } fuel ? RecordWords.Of(fuel) : null,
        CompressionRatio = q.CompressionRatio,
        Sync = RecordWords.Of(q.Sync),
        SyncAssumed = q.SyncAssumed,
        SyncCylinder = q.SyncCylinder,
        SyncAngleDeg = q.SyncAngleDeg,
        Unplugged = q.Unplugged,
        ScaleKnown = q.ScaleKnown,
        LimitPercent = q.LimitPercent,
        SweptCc = q.SweptCc,
    };

    public CaptureQuestion ToValue() => new()
    {
        FiringOrder = FiringOrder,
        FiringAngles = FiringAngles,
        Fuel = Fuel is { } fuel ? StoredWords.Read<Fuel>(fuel) : null,
        CompressionRatio = CompressionRatio,
        Sync = StoredWords.Read<SyncKind>(Sync),
        SyncAssumed = SyncAssumed,
        SyncCylinder = SyncCylinder,
        SyncAngleDeg = SyncAngleDeg,
        Unplugged = Unplugged,
        ScaleKnown = ScaleKnown,
        LimitPercent = LimitPercent,
        SweptCc = SweptCc,
    };
}

/// <summary>What was said of a capture, as schema 1 stores it. Frozen: a change is a schema 2 (docs/documents.md).</summary>
internal sealed record AnswerDocumentV1 : IStoredDocument<AnswerDocumentV1, RelativeAnswer>
{
    public static int Number => 1;

    public int Schema { get; init; } = 1;

    public RemarkV1? Refused { get; init; }

    public double SampleRateHz { get; init; }

    public double DurationS { get; init; }

    public double CrankingRpm { get; init; }

    public int Cycles { get; init; }

    public bool Synchronised { get; init; }

    public string Sync { get; init; } = "none";

    public IReadOnlyList<SlotV1> Slots { get; init; } = [];

    public double? InrushAmps { get; init; }

    public double? MeanAmps { get; init; }

    public SagV1? Battery { get; init; }

    public string Confidence { get; init; } = "high";

    public double Unexplained { get; init; }

    public IReadOnlyList<RemarkV1> Warnings { get; init; } = [];

    public IReadOnlyList<float> MeanCycle { get; init; } = [];

    public IReadOnlyList<IReadOnlyList<float>> EachCycle { get; init; } = [];

    public IReadOnlyList<MarkV1> Marks { get; init; } = [];

    public IReadOnlyList<MarkV1> Events { get; init; } = [];

    public IReadOnlyList<SpeedV1> Speed { get; init; } = [];

    public double ZeroA { get; init; }

    public bool Reversed { get; init; }

    public PartV1 Settled { get; init; } = new(0, 0);

    public IReadOnlyList<IReadOnlyList<int>> Candidates { get; init; } = [];

    public int? Unplugged { get; init; }

    internal sealed record RemarkV1(string Code, string Says)
    {
        internal static RemarkV1 Of(CaptureRemark r) => new(RecordWords.Of(r.Code), r.Says);

        internal CaptureRemark ToRemark() => new(StoredWords.Read<CaptureCode>(Code), Says);
    }

    internal sealed record SlotV1(int Slot, int? Cylinder, double RelativePercent, double StandardErrorPercent, string Verdict, double HumpPercent, double AtCycle);

    internal sealed record MarkV1(double TimeS, int Slot);

    internal sealed record SpeedV1(double TimeS, double Rpm);

    internal sealed record SagV1(double? RestV, double LowestV, double CrankingV);

    internal sealed record PartV1(double Item1, double Item2);

    public static AnswerDocumentV1 Of(RelativeAnswer a) => new()
    {
        Refused = a.Refused is { } refused ? RemarkV1.Of(refused) : null,
        SampleRateHz = a.SampleRateHz,
        DurationS = a.DurationS,
        CrankingRpm = a.CrankingRpm,
        Cycles = a.Cycles,
        Synchronised = a.Synchronised,
        Sync = RecordWords.Of(a.Sync),
        Slots = [.. a.Slots.Select(s => new SlotV1(s.Slot, s.Cylinder, s.RelativePercent, s.StandardErrorPercent, RecordWords.Of(s.Verdict), s.HumpPercent, s.AtCycle))],
        InrushAmps = a.InrushAmps,
        MeanAmps = a.MeanAmps,
        Battery = a.Battery is { } b ? new SagV1(b.RestV, b.LowestV, b.CrankingV) : null,
        Confidence = RecordWords.Of(a.Confidence),
        Unexplained = a.Unexplained,
        Warnings = [.. a.Warnings.Select(RemarkV1.Of)],
        MeanCycle = a.MeanCycle,
        EachCycle = a.EachCycle,
        Marks = [.. a.Marks.Select(m => new MarkV1(m.TimeS, m.Slot))],
        Events = [.. a.Events.Select(m => new MarkV1(m.TimeS, m.Slot))],
        Speed = [.. a.Speed.Select(p => new SpeedV1(p.TimeS, p.Rpm))],
        ZeroA = a.ZeroA,
        Reversed = a.Reversed,
        Settled = new PartV1(a.Settled.From, a.Settled.To),
        Candidates = a.Candidates,
        Unplugged = a.Unplugged,
    };

    public RelativeAnswer ToValue() => new()
    {
        Refused = Refused?.ToRemark(),
        SampleRateHz = SampleRateHz,
        DurationS = DurationS,
        CrankingRpm = CrankingRpm,
        Cycles = Cycles,
        Synchronised = Synchronised,
        Sync = StoredWords.Read<SyncKind>(Sync),
        Slots = [.. Slots.Select(s => new RelativeSlot(s.Slot, s.Cylinder, s.RelativePercent, s.StandardErrorPercent, StoredWords.Read<RelativeVerdict>(s.Verdict), s.HumpPercent, s.AtCycle))],
        InrushAmps = InrushAmps,
        MeanAmps = MeanAmps,
        Battery = Battery is { } b ? new BatterySag(b.RestV, b.LowestV, b.CrankingV) : null,
        Confidence = StoredWords.Read<Confidence>(Confidence),
        Unexplained = Unexplained,
        Warnings = [.. Warnings.Select(w => w.ToRemark())],
        MeanCycle = MeanCycle,
        EachCycle = EachCycle,
        Marks = [.. Marks.Select(m => new TraceMark(m.TimeS, m.Slot))],
        Events = [.. Events.Select(m => new TraceMark(m.TimeS, m.Slot))],
        Speed = [.. Speed.Select(p => new SpeedPoint(p.TimeS, p.Rpm))],
        ZeroA = ZeroA,
        Reversed = Reversed,
        Settled = (Settled.Item1, Settled.Item2),
        Candidates = Candidates,
        Unplugged = Unplugged,
    };
}
