using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Compression;

/// <summary>The dry test that an engine is judged by and the other tests of a job are read against: the latest that says enough of it.</summary>
public static class LatestDryTest
{
    /// <summary>
    /// The latest dry test with readings that can be a baseline of at least half as many cylinders as the fullest one has; absent when nothing was
    /// read dry. One cylinder that was read again warm does not take the place of six read cold. A reading over test
    /// oil is no baseline (<see cref="OilHistory"/>), so a test that has no other is passed over; and so is one that only compares gauges.
    /// </summary>
    /// <returns>The test; null when nothing was read dry that can be a baseline.</returns>
    public static DryCompressionTest? Of(TestRecord record)
    {
        var tests = WithReadings(record);
        return tests.LastOrDefault(t => SaysEnough(t.Read, tests)).Test;
    }

    /// <summary>How many cylinders a newer dry test has that says too little yet to be the one.</summary>
    /// <returns>A count of cylinders; 0 where the newest is the one, and without a test.</returns>
    public static int BegunAnew(TestRecord record)
    {
        var tests = WithReadings(record);
        return tests is [.., var newest] && !SaysEnough(newest.Read, tests) ? newest.Read : 0;
    }

    private static List<(DryCompressionTest Test, int Read)> WithReadings(TestRecord record) =>
        [.. (OilHistory.Marked(record).Tests ?? []).OfType<DryCompressionTest>().Where(t => t.Role is null).Select(t => (Test: t, Read: Read(t))).Where(t => t.Read > 0)];

    private static bool SaysEnough(int read, List<(DryCompressionTest Test, int Read)> tests) => 2 * read >= tests.Max(t => t.Read);

    private static int Read(DryCompressionTest test) => (test.Readings ?? []).Where(r => r.Counts() && !OilHistory.IsOverOil(r, test)).Select(r => r.Cylinder).Distinct().Count();

    /// <summary>The same, judged.</summary>
    /// <param name="record">The job.</param>
    /// <param name="shown">The unit of the figures in the sentences; absent for the test's own.</param>
    /// <returns>The judgement; null when there is no such test.</returns>
    public static DryJudgement? Judged(TestRecord record, PressureUnit? shown = null) =>
        Of(record) is { } test ? DryJudgement.Of(record.Engine, test, record.JudgeBy, shown) : null;
}
