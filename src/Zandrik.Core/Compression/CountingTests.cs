using Zandrik.Core.Records;

namespace Zandrik.Core.Compression;

/// <summary>
/// Which test of a kind counts where a job has several: the latest in which anything was read, of dry tests the latest that
/// read half as many cylinders as the fullest one. One that was only begun hides nothing. Every judgement, page and paper asks here.
/// </summary>
public static class CountingTests
{
    /// <summary>The dry test that counts: the latest with enough readings that can be a baseline (<see cref="LatestDryTest"/>); absent when nothing was read dry.</summary>
    /// <param name="record">The job.</param>
    /// <returns>The test; null when nothing was read dry that can be a baseline.</returns>
    public static DryCompressionTest? Dry(TestRecord record) => LatestDryTest.Of(record);

    /// <summary>The wet test that counts; absent when nothing was read wet.</summary>
    /// <param name="record">The job.</param>
    /// <returns>The test; null when nothing was read wet.</returns>
    public static WetCompressionTest? Wet(TestRecord record) => Latest<WetCompressionTest>(record, t => t.Readings?.Any(r => r.Counts()) == true);

    /// <summary>The leak-down that counts: the latest with a figure, or with air that was listened for; absent without one.</summary>
    /// <param name="record">The job.</param>
    /// <returns>The test; null without a figure and without a place that was listened at.</returns>
    public static LeakDownTest? LeakDown(TestRecord record) => Latest<LeakDownTest>(record, t => HasReading(t.Readings));

    /// <summary>The running test that counts; absent when nothing was read running.</summary>
    /// <param name="record">The job.</param>
    /// <returns>The test; null when nothing was read running.</returns>
    public static RunningCompressionTest? Running(TestRecord record) => Latest<RunningCompressionTest>(record, t => HasReading(t.Readings));

    /// <summary>The relative compression that counts: the latest whose cylinders are known, else the latest with slots; absent without one.</summary>
    /// <param name="record">The job.</param>
    /// <returns>The test; null where no capture gave a figure.</returns>
    public static RelativeCompressionTest? Relative(TestRecord record) =>
        Latest<RelativeCompressionTest>(record, t => HasReading(t.Readings)) ?? Latest<RelativeCompressionTest>(record, t => t.Slots is { Count: > 0 });

    private static T? Latest<T>(TestRecord record, Func<T, bool> has)
        where T : TestEntry => (record.Tests ?? []).OfType<T>().LastOrDefault(has);

    private static bool HasReading(IEnumerable<CylinderReading>? readings) => readings?.Any(r => r.SupersededBy is null) == true;
}
