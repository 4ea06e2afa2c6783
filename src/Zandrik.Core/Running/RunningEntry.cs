using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Safety;

namespace Zandrik.Core.Running;

/// <summary>What an entry at the running step makes of a cylinder's reading, and what has to be so before it may be taken.</summary>
public static class RunningEntry
{
    /// <summary>Why nothing is measured on a cylinder yet; absent when it may be: the engine may be run, the cylinder is not low dry, and every line is ticked.</summary>
    /// <param name="record">The job.</param>
    /// <param name="safety">What is locked on it.</param>
    /// <param name="dry">Its latest dry test, judged; absent when there is none.</param>
    /// <param name="cylinder">The cylinder.</param>
    /// <param name="isTicked">Whether a line's item is ticked.</param>
    /// <param name="leak">Its leak-down, judged; absent when there is none.</param>
    /// <returns>One sentence with what to do first; null when it may be measured.</returns>
    public static string? Refuses(TestRecord record, JobSafety safety, DryJudgement? dry, int cylinder, Func<string, bool> isTicked, LeakDown.LeakDownJudgement? leak = null) =>
        RunningRules.Forbids(record) ?? safety.ForbidsStart ?? RunningRules.ForbidsCylinder(dry, cylinder, leak)
        ?? (RunningLine.All.FirstOrDefault(l => !isTicked(l.ItemOf(cylinder))) is { } line ? $"First: {line.Says}." : null);

    /// <summary>
    /// An idle reading after the relief was pressed. It counts as purged once two agree. Idle readings of a reading that
    /// was finished belong to it: after a snap a new round begins with a new list.
    /// </summary>
    /// <returns>The reading with the new figure as its idle.</returns>
    public static RunningReading Idle(RunningReading before, double value)
    {
        IReadOnlyList<double> list = before.Snap is not null ? [value] : [.. before.IdleReadings ?? [], value];
        return before with { IdleReadings = list, Idle = value, Purged = RunningJudgement.Agree(list) ? true : null, Snap = null };
    }

    /// <summary>The reading after a short snap, or why it is not taken: a peak that was trapped before idle agreed would be read instead.</summary>
    /// <returns>The reading, or one sentence with what to do first: exactly one of the two.</returns>
    public static (RunningReading? Reading, string? Refused) Snap(RunningReading before, double value) =>
        before.Idle is null || !RunningJudgement.Agree(before.IdleReadings ?? [])
            ? (null, "Idle first: press the relief while it runs, and read, until two idle readings agree.")
            : (before with { Snap = value }, null);

    /// <summary>The figure at held full throttle, or why it is not taken: it is read after the snap, on a gauge that is relieved.</summary>
    /// <returns>The reading, or one sentence with what to do first: exactly one of the two.</returns>
    public static (RunningReading? Reading, string? Refused) Held(RunningReading before, double value) =>
        before.Snap is null ? (null, "Idle and snap first. The held figure is only noted, and judged by nothing.") : (before with { HeldThrottle = value }, null);
}
