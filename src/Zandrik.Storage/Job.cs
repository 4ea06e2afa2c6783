using Zandrik.Core.Records;

namespace Zandrik.Storage;

/// <summary>A job as it is kept: the open record and what the shop floor adds to it.</summary>
public sealed record Job
{
    /// <summary>The job's number in its shop, from 1; stands in its address.</summary>
    public required int Number { get; init; }

    /// <summary>Everything measured, with the readings that count.</summary>
    public required TestRecord Record { get; init; }

    /// <summary>Row of each test of <see cref="TestRecord.Tests"/>, in the same order.</summary>
    public required IReadOnlyList<long> TestIds { get; init; }

    /// <summary>The unit pressures are shown and typed in.</summary>
    public required PressureUnit Unit { get; init; }

    /// <summary>When it was opened.</summary>
    public required DateTimeOffset OpenedAt { get; init; }

    /// <summary>Who opened it.</summary>
    public required string OpenedBy { get; init; }

    /// <summary>When it was closed; absent while it is open.</summary>
    public DateTimeOffset? ClosedAt { get; init; }

    /// <summary>What the shop calls the vehicle, or the job's number where nobody said.</summary>
    public string Title => Record.Vehicle?.Label ?? Record.Engine.Name ?? $"Job {Number}";

    /// <summary>The dry tests with their rows, oldest first.</summary>
    public IReadOnlyList<(long Id, DryCompressionTest Test)> DryTests =>
        [.. (Record.Tests ?? []).Zip(TestIds).Where(t => t.First is DryCompressionTest).Select(t => (t.Second, (DryCompressionTest)t.First))];
}

/// <summary>One page of jobs.</summary>
/// <param name="Jobs">The jobs, newest first.</param>
/// <param name="Total">How many there are in all.</param>
public sealed record JobPage(IReadOnlyList<Job> Jobs, int Total);
