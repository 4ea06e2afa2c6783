using Zandrik.Core.Practice;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;

namespace Zandrik.Storage.Documents;

/// <summary>What was called on the practice bench and what it was worth, as schema 1 stores it. Frozen: a change is a schema 2 (docs/documents.md).</summary>
internal sealed record PracticeDocumentV1 : IStoredDocument<PracticeDocumentV1, PracticeResult>
{
    public static int Number => 1;

    public int Schema { get; init; } = 1;

    public IReadOnlyList<SuspectV1> Suspects { get; init; } = [];

    public IReadOnlyList<string> Repairs { get; init; } = [];

    public required int Place { get; init; }

    public required int Repair { get; init; }

    public required int Minutes { get; init; }

    public required int Opened { get; init; }

    public required int Hazard { get; init; }

    public required double Spent { get; init; }

    public required double Good { get; init; }

    public required int Hazards { get; init; }

    internal sealed record SuspectV1(int? Cylinder, string Fault, int? With, string? Or);

    public static PracticeDocumentV1 Of(PracticeResult r) => new()
    {
        Suspects = [.. r.Call.Suspects.Select(s => new SuspectV1(s.Cylinder, RecordWords.Of(s.Fault), s.With, s.Or is { } or ? RecordWords.Of(or) : null))], Repairs = [.. r.Call.Repairs.Select(x => RecordWords.Of(x))],
        Place = r.Score.Place, Repair = r.Score.Repair, Minutes = r.Score.Minutes, Opened = r.Score.Opened, Hazard = r.Score.Hazard, Spent = r.Minutes, Good = r.GoodMinutes, Hazards = r.Hazards,
    };

    public PracticeResult ToValue() => new(
        new([.. Suspects.Select(s => new PracticeSuspect(s.Cylinder, Word<Fault>(s.Fault), s.With, s.Or is null ? null : Word<Fault>(s.Or)))], [.. Repairs.Select(Word<Repair>)]),
        new(Place, Repair, Minutes, Opened, Hazard), Spent, Good, Hazards);

    private static T Word<T>(string word)
        where T : struct, Enum => RecordWords.TryParse<T>(word, out var value) ? value : throw new InvalidDataException($"This run of the practice bench has a word that this version does not know: {word}.");
}
