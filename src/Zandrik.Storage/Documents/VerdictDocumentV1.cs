using System.Text.Json.Nodes;
using Zandrik.Core.Compression;
using Zandrik.Core.Conditions;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Core.Verdicts;

namespace Zandrik.Storage.Documents;

/// <summary>
/// A signed verdict as it is stored, schema 1. Frozen: what was signed with it is read with it for ever, whatever the
/// classes of today become; a change of what is stored is a schema of its own. Words are text here, not enumerations.
/// Verdicts from before there were schema numbers are of this one.
/// </summary>
internal sealed record VerdictDocumentV1
{
    public const int Number = 1;

    public int Schema { get; init; } = Number;

    /// <summary>The open record it stands on; that format has a version of its own.</summary>
    public required JsonObject Record { get; init; }

    public required string Unit { get; init; }

    public required string State { get; init; }

    public required string Headline { get; init; }

    public required IReadOnlyList<SuspectV1> Suspects { get; init; }

    public required IReadOnlyList<CylinderV1> Cylinders { get; init; }

    public required IReadOnlyList<ShownV1> Shown { get; init; }

    public required string ShownIn { get; init; }

    public required IReadOnlyList<SchoolV1> Schools { get; init; }

    public required IReadOnlyList<ValidityV1> Validity { get; init; }

    public required IReadOnlyList<NextV1> Next { get; init; }

    public required IReadOnlyList<ActionV1> Actions { get; init; }

    public required IReadOnlyList<string> Cautions { get; init; }

    public required string Owner { get; init; }

    internal sealed record SuspectV1(string Fault, double Probability, int? With = null, int? Bank = null, IReadOnlyList<LineV1>? Evidence = null);

    internal sealed record LineV1(string Finding, string Says, double WeightDb, int? Test = null);

    internal sealed record CylinderV1(int Cylinder, string State, string Says, IReadOnlyList<SuspectV1> Suspects, IReadOnlyList<string> AlsoLikely);

    internal sealed record ReadingV1(string Test, string Says);

    internal sealed record ShownV1(int Cylinder, IReadOnlyList<ReadingV1> Readings, double? Level, string Figure);

    internal sealed record SchoolV1(string Name, string Value, string Limits, string Verdict, bool Deciding);

    internal sealed record ValidityV1(string Code, string Severity, string Says, IReadOnlyList<int> Cylinders);

    internal sealed record NextV1(string Kind, IReadOnlyList<int> Cylinders, double Minutes, double GainBits, string Why);

    internal sealed record ActionV1(string Action, string Says, IReadOnlyList<string> Checks);

    internal static VerdictDocumentV1 Of(VerdictSnapshot s) => new()
    {
        Record = TestRecordJson.ToNode(s.Record),
        Unit = RecordWords.Of(s.Unit),
        State = RecordWords.Of(s.State),
        Headline = s.Headline,
        Suspects = [.. s.Suspects.Select(x => new SuspectV1(RecordWords.Of(x.Fault), x.Probability, Bank: x.Bank))],
        Cylinders = [.. s.Cylinders.Select(c => new CylinderV1(c.Cylinder, RecordWords.Of(c.State), c.Says,
            [.. c.Suspects.Select(x => new SuspectV1(RecordWords.Of(x.Fault), x.Probability, x.With, Evidence: [.. x.Evidence.Select(e => new LineV1(e.Finding, e.Says, e.WeightDb, e.Test))]))], [.. c.AlsoLikely.Select(RecordWords.Of)]))],
        Shown = [.. s.Shown.Select(c => new ShownV1(c.Cylinder, [.. c.Readings.Select(r => new ReadingV1(RecordWords.Of(r.Test), r.Says))], c.Level, c.Figure))],
        ShownIn = s.ShownIn,
        Schools = [.. s.Methods.Select(x => new SchoolV1(x.Name, x.Value, x.Limits, RecordWords.Of(x.Verdict), x.Deciding))],
        Validity = [.. s.Validity.Select(v => new ValidityV1(RecordWords.Of(v.Code), RecordWords.Of(v.Severity), v.Says, v.Cylinders))],
        Next = [.. s.Next.Select(n => new NextV1(RecordWords.Of(n.Kind), n.Cylinders, n.Minutes, n.GainBits, n.Why))],
        Actions = [.. s.Actions.Select(a => new ActionV1(RecordWords.Of(a.Action), a.Says, a.Checks))],
        Cautions = s.Cautions,
        Owner = s.Owner,
    };

    internal VerdictSnapshot ToSnapshot() => new()
    {
        Record = TestRecordJson.ReadTrusted(Record),
        Unit = StoredWords.Read<PressureUnit>(Unit),
        State = StoredWords.Read<EngineState>(State),
        Headline = Headline,
        Suspects = [.. Suspects.Select(x => new EngineSuspect(StoredWords.Read<Fault>(x.Fault), x.Probability, x.Bank))],
        Cylinders = [.. Cylinders.Select(c => new CylinderDiagnosis(c.Cylinder, StoredWords.Read<CylinderState>(c.State), c.Says,
            [.. c.Suspects.Select(x => new CylinderSuspect(StoredWords.Read<Fault>(x.Fault), x.Probability, x.With) { Evidence = [.. (x.Evidence ?? []).Select(e => new EvidenceLine(e.Finding, e.Says, e.WeightDb, e.Test))] })],
            [.. c.AlsoLikely.Select(StoredWords.Read<Fault>)]))],
        Shown = [.. Shown.Select(c => new CylinderShown(c.Cylinder, [.. c.Readings.Select(r => new ReadingSays(StoredWords.Read<StepKind>(r.Test), r.Says))], c.Level, c.Figure))],
        ShownIn = ShownIn,
        Methods = [.. Schools.Select(x => new MethodSays(x.Name, x.Value, x.Limits, StoredWords.Read<SpreadVerdict>(x.Verdict), x.Deciding))],
        Validity = [.. Validity.Select(v => new ValidityNote(StoredWords.Read<ValidityCode>(v.Code), StoredWords.Read<Severity>(v.Severity), v.Says, v.Cylinders))],
        Next = [.. Next.Select(n => new NextTest(StoredWords.Read<StepKind>(n.Kind), n.Cylinders, n.Minutes, n.GainBits, n.Why))],
        Actions = [.. Actions.Select(a => new ActionAdvice(StoredWords.Read<RepairAction>(a.Action), a.Says, a.Checks))],
        Cautions = Cautions,
        Owner = Owner,
    };
}

/// <summary>What was said of each place when a verdict was signed, as it is stored, schema 1. Frozen. Before there were schema numbers its list stood alone.</summary>
internal sealed record SaidDocumentV1
{
    public const int Number = 1;

    public int Schema { get; init; } = Number;

    public required IReadOnlyList<PlaceV1> Said { get; init; }

    internal sealed record AnswerV1(int? Cylinder, string Fault, int? With = null, double? Probability = null)
    {
        internal static AnswerV1 Of(VerdictAnswer a) => new(a.Cylinder, RecordWords.Of(a.Fault), a.With, a.Probability);

        internal VerdictAnswer ToAnswer() => new(Cylinder, StoredWords.Read<Fault>(Fault), With, Probability);
    }

    internal sealed record PlaceV1(AnswerV1 Program, AnswerV1 People, IReadOnlyDictionary<string, double> Given);

    internal static SaidDocumentV1 Of(IEnumerable<VerdictComparison> said) =>
        new() { Said = [.. said.Select(s => new PlaceV1(AnswerV1.Of(s.Program), AnswerV1.Of(s.People), s.Given))] };

    internal IReadOnlyList<VerdictComparison> ToSaid() => [.. Said.Select(s => new VerdictComparison(s.Program.ToAnswer(), s.People.ToAnswer(), s.Given))];
}
