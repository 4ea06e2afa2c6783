using Zandrik.Core.Assessment;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage.Documents;

namespace Zandrik.Storage;

/// <summary>A job as it is kept: the open record and what the shop floor adds to it.</summary>
public sealed record Job
{
    /// <summary>The job's number in its shop, from 1; stands in its address.</summary>
    public required int Number { get; init; }

    internal long Id { get; init; }

    /// <summary>Everything measured, with the readings that count.</summary>
    public required TestRecord Record { get; init; }

    /// <summary>Row of each test of <see cref="TestRecord.Tests"/>, in the same order.</summary>
    public required IReadOnlyList<long> TestIds { get; init; }

    /// <summary>Row of everything in <see cref="TestRecord.Found"/>, in the same order.</summary>
    public IReadOnlyList<long> FoundIds { get; init; } = [];

    /// <summary>The rows behind the readings of each test, by test and slot (a cylinder, in a compression test).</summary>
    public IReadOnlyDictionary<long, IReadOnlyDictionary<int, KeptReading>> Rows { get; init; } = new Dictionary<long, IReadOnlyDictionary<int, KeptReading>>();

    /// <summary>The latest row of the job; 0 when nothing was read yet.</summary>
    public long LatestRow => Rows.Values.SelectMany(r => r.Values).Select(r => r.Id).DefaultIfEmpty(0).Max();

    /// <summary>The unit pressures are shown and typed in.</summary>
    public required PressureUnit Unit { get; init; }

    /// <summary>When it was opened.</summary>
    public required DateTimeOffset OpenedAt { get; init; }

    /// <summary>Who opened it.</summary>
    public required string OpenedBy { get; init; }

    /// <summary>When it was closed; absent while it is open.</summary>
    public DateTimeOffset? ClosedAt { get; init; }

    /// <summary>The vehicle; absent where nobody said.</summary>
    public int? VehicleId { get; init; }

    /// <summary>The engine.</summary>
    public int EngineId { get; init; }

    /// <summary>The version of the engine sheet its engine was taken from; absent for none.</summary>
    public int? SheetVersionId { get; init; }

    /// <summary>Why it was closed with things still to be put back; absent where there were none.</summary>
    public string? CloseReason { get; init; }

    /// <summary>How often the intake was changed since the job was opened; stands in a form, so that it never hides somebody else's change.</summary>
    public int IntakeVersion { get; init; }

    /// <summary>Rows of the tests whose conditions were put right after something was read; <see cref="DryTestStore.ChangesAsync"/> says what.</summary>
    public IReadOnlySet<long> ChangedSinceRead { get; init; } = new HashSet<long>();

    /// <summary>What the shop calls the vehicle by now, where it was renamed since; absent where nobody said which it is.</summary>
    public string? VehicleNow { get; init; }

    /// <summary>True for the sample job of a new shop: made-up readings to look at, counted nowhere.</summary>
    public bool IsSample { get; init; }

    /// <summary>What the shop calls the vehicle, or the job's number where nobody said.</summary>
    public string Title => Record.Vehicle?.Label ?? Record.Engine.Name ?? $"Job {Number}";

    /// <summary>The dry test that is being done: the latest that is no gauge check, else the latest; empty where there is none.</summary>
    public (long Id, DryCompressionTest? Test) LatestDry => StepProgress.BeingDone(Record) is { } test ? DryTests.First(t => ReferenceEquals(t.Test, test)) : default;

    /// <summary>The dry tests with their rows, oldest first.</summary>
    public IReadOnlyList<(long Id, DryCompressionTest Test)> DryTests =>
        [.. (Record.Tests ?? []).Zip(TestIds).Where(t => t.First is DryCompressionTest).Select(t => (t.Second, (DryCompressionTest)t.First))];

    /// <summary>The row of a cylinder in the latest test of a kind; absent where there is none.</summary>
    /// <typeparam name="T">The kind of test.</typeparam>
    /// <param name="cylinder">The cylinder.</param>
    public KeptReading? KeptIn<T>(int cylinder)
        where T : TestEntry =>
        (Record.Tests ?? []).Zip(TestIds).LastOrDefault(t => t.First is T) is { First: not null } found ? Rows.GetValueOrDefault(found.Second)?.GetValueOrDefault(cylinder) : null;

    /// <summary>The job with one reading more, as loading it again would give it.</summary>
    /// <param name="added">The reading.</param>
    /// <returns>Absent where the test is not there.</returns>
    internal Job? With(AddedReading added)
    {
        var place = TestIds.ToList().IndexOf(added.Test);
        if (place < 0 || Record.Tests?[place] is not DryCompressionTest test)
        {
            return null;
        }
        // What an instrument left with the reading only the database knows.
        if (Rows.GetValueOrDefault(added.Test)?.GetValueOrDefault(added.Reading.Cylinder)?.Instrument is not null)
        {
            return null;
        }
        var readings = (test.Readings ?? []).ToList();
        var over = readings.FindIndex(r => r.Cylinder == added.Reading.Cylinder);
        readings.RemoveRange(over < 0 ? readings.Count : over, over < 0 ? 0 : 1);
        readings.Insert(over < 0 ? readings.Count : over, added.Reading);
        var rows = new Dictionary<long, IReadOnlyDictionary<int, KeptReading>>(Rows)
        {
            [added.Test] = new Dictionary<int, KeptReading>(Rows.GetValueOrDefault(added.Test) ?? new Dictionary<int, KeptReading>())
            {
                [added.Reading.Cylinder] = new(added.Row, added.Conflicting is null ? null : StoredDocuments.Read<ConflictDocumentV1, ConflictingReading>(added.Conflicting)),
            },
        };
        return this with { Record = OilHistory.Marked(Record with { Tests = [.. Record.Tests.Select((t, i) => i == place ? test with { Readings = readings } : t)] }), Rows = rows };
    }
}

/// <summary>The row that counts in a slot of a test; it may be one that took the reading back.</summary>
/// <param name="Id">The row.</param>
/// <param name="Conflicting">A reading of somebody else that waits beside it for a choice; absent when there is none.</param>
/// <param name="Instrument">The instrument its figure came from; absent where a person read it.</param>
/// <param name="Traced">True where the instrument's trace is kept with it.</param>
public sealed record KeptReading(long Id, ConflictingReading? Conflicting, string? Instrument = null, bool Traced = false);

/// <summary>A reading that somebody took without seeing the one that counts.</summary>
/// <param name="Value">The figure, as read.</param>
/// <param name="Unit">Its unit.</param>
/// <param name="By">Who took it.</param>
/// <param name="At">When.</param>
/// <param name="OtherBy">Who took the one that counts.</param>
public sealed record ConflictingReading(double Value, PressureUnit Unit, string By, DateTimeOffset At, string OtherBy);

/// <summary>A change of something that is never overwritten.</summary>
public sealed record Change
{
    /// <summary>When.</summary>
    public DateTimeOffset At { get; init; }

    /// <summary>Who; absent where nobody was signed in.</summary>
    public string? By { get; init; }
}

/// <summary>One page of jobs.</summary>
/// <param name="Jobs">The jobs, newest first.</param>
/// <param name="More">True when there are older ones.</param>
public sealed record JobPage(IReadOnlyList<Job> Jobs, bool More);

/// <summary>Which jobs a list shows. Everything absent is no condition.</summary>
public sealed record JobFilter
{
    /// <summary>True for open ones, false for closed ones.</summary>
    public bool? Open { get; init; }

    /// <summary>Opened by this person.</summary>
    public int? OpenedBy { get; init; }

    /// <summary>Of this vehicle.</summary>
    public int? Vehicle { get; init; }

    /// <summary>Of this engine, in whatever vehicle it sat.</summary>
    public int? Engine { get; init; }

    /// <summary>Opened at or after.</summary>
    public DateTimeOffset? From { get; init; }

    /// <summary>Opened before.</summary>
    public DateTimeOffset? To { get; init; }

    /// <summary>The last job of the page before; the list goes on after it.</summary>
    public int? After { get; init; }
}

/// <summary>How a dry test was done, as it stood before and after somebody put it right.</summary>
/// <param name="Made">Who and when.</param>
/// <param name="Before">The test as it stood.</param>
/// <param name="After">The test as it stands since, until the next change.</param>
public sealed record TestChange(Change Made, DryCompressionTest Before, DryCompressionTest After);
