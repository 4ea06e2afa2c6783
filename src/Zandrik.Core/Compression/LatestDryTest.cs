using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Compression;

/// <summary>The dry test that the other tests of a job are read against: the latest that has a reading.</summary>
public static class LatestDryTest
{
    /// <summary>
    /// The latest dry test with a reading that can be a baseline; absent when nothing was read dry. A reading over test
    /// oil is none (<see cref="OilHistory"/>), so a test that has no other is passed over; and so is one that only compares gauges.
    /// </summary>
    /// <returns>The test; null when nothing was read dry that can be a baseline.</returns>
    public static DryCompressionTest? Of(TestRecord record) =>
        (OilHistory.Marked(record).Tests ?? []).OfType<DryCompressionTest>().LastOrDefault(t => t.Role is null && t.Readings?.Any(r => r.Counts() && !OilHistory.IsOverOil(r, t)) == true);

    /// <summary>The same, judged.</summary>
    /// <param name="record">The job.</param>
    /// <param name="shown">The unit of the figures in the sentences; absent for the test's own.</param>
    /// <returns>The judgement; null when there is no such test.</returns>
    public static DryJudgement? Judged(TestRecord record, PressureUnit? shown = null) =>
        Of(record) is { } test ? DryJudgement.Of(record.Engine, test, record.JudgeBy, shown) : null;
}
