using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Storage.Documents;

/// <summary>A reading that waits beside another for a choice, as schema 1 stores it. Frozen: a change is a schema 2 (docs/documents.md).</summary>
internal sealed record ConflictDocumentV1 : IStoredDocument<ConflictDocumentV1, ConflictingReading>
{
    public static int Number => 1;

    public int Schema { get; init; } = 1;

    public double Value { get; init; }

    public string Unit { get; init; } = "";

    public string By { get; init; } = "";

    public DateTimeOffset At { get; init; }

    public string OtherBy { get; init; } = "";

    public static ConflictDocumentV1 Of(ConflictingReading c) => new() { Value = c.Value, Unit = RecordWords.Of(c.Unit), By = c.By, At = c.At, OtherBy = c.OtherBy };

    public ConflictingReading ToValue() => new(Value, StoredWords.Read<PressureUnit>(Unit), By, At, OtherBy);
}
