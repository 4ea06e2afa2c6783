using Zandrik.Core.Checks;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Planning;
using Zandrik.Core.Preparation;
using Zandrik.Core.Records;
using Zandrik.Core.Safety;

namespace Zandrik.Core.Assessment;

/// <summary>How far a step of a job is.</summary>
/// <param name="Kind">The step.</param>
/// <param name="Done">How much of it is done; no unit.</param>
/// <param name="Of">Of how much; 0 where nothing is counted.</param>
/// <param name="IsOver">True when nothing is left of it.</param>
public sealed record StepProgress(StepKind Kind, int Done, int Of, bool IsOver)
{
    /// <summary>How far a step is; of a kind that nothing is counted of, whether it was done.</summary>
    /// <param name="kind">The step.</param>
    /// <param name="tests">The tests of the job, judged.</param>
    /// <param name="progress">What was done beside the readings.</param>
    /// <param name="safety">What can hurt somebody as the job stands.</param>
    /// <returns>Counts of lines or cylinders, no unit; 0 of 0 where nothing is counted.</returns>
    public static StepProgress For(StepKind kind, JudgedTests tests, JobProgress progress, JobSafety safety)
    {
        var record = tests.Record;
        var n = record.Engine.Cylinders;
        // Later tests are asked of the cylinders that the dry one leaves in doubt.
        IReadOnlyList<int> asked = tests.Dry is { } dry ? [.. dry.InDoubt.Select(c => c.Cylinder)] : [];
        StepProgress Ticked(string list, IReadOnlyList<string> lines)
        {
            var ticked = TickedOf(progress, list);
            var done = lines.Count(ticked.Contains);
            return new(kind, done, lines.Count, lines.Count > 0 && done >= lines.Count);
        }
        StepProgress Each(HashSet<int> read, bool whole = false) => new(kind, read.Count, n, whole ? read.Count >= n : read.Count > 0 && asked.All(read.Contains));
        IEnumerable<T> All<T>()
            where T : TestEntry => (record.Tests ?? []).OfType<T>();
        static HashSet<int> Read(IEnumerable<CylinderReading> readings) => [.. readings.Where(r => r.SupersededBy is null).Select(r => r.Cylinder)];
        switch (kind)
        {
            case StepKind.Liquid:
                var liquid = safety.Liquid;
                return new(kind, liquid.Lines.Count(l => liquid.IsTicked(l.Word)), liquid.Lines.Count, !liquid.IsLocked && liquid.Signs.Count > 0);
            case StepKind.Prepare:
                return Ticked(JobSafety.PrepareList, [.. PreparationList.For(record.Engine, progress.Workshop).Select(l => RecordWords.Of(l.Item))]);
            case StepKind.Refit:
                return Ticked(JobSafety.RefitList, [.. RefitOf(record, progress).Select(l => l.Word)]);
            case StepKind.Relative:
                var captured = All<RelativeCompressionTest>().LastOrDefault();
                return new(kind, captured?.Readings?.Count ?? 0, captured?.Readings is null ? 0 : n, captured is not null);
            case StepKind.Plugs:
                return Each(Read(All<PlugInspection>().SelectMany(t => t.Readings ?? [])), whole: true);
            case StepKind.Dry:
                return new(kind, BeingDone(record)?.Readings?.Count(r => r.Counts()) ?? 0, n, BeingDone(record)?.Readings?.Count(r => r.Counts()) >= n);
            case StepKind.LeakDown:
                return Each(Read(All<LeakDownTest>().SelectMany(t => t.Readings ?? []).Where(r => r.Held is not null || r.LeakPercent is not null)));
            case StepKind.Wet:
                return Each(Read(All<WetCompressionTest>().SelectMany(t => t.Readings ?? []).Where(r => r.Counts())));
            case StepKind.Running:
                return Each(Read(All<RunningCompressionTest>().SelectMany(t => t.Readings ?? []).Where(r => r is { Idle: not null, Snap: not null })), whole: true);
            default:
                return new(kind, 0, 0, (record.Tests ?? []).Any(t => SupportingCheck.KindOf(t) == kind));
        }
    }

    /// <summary>The dry test that is being done: the latest that is no gauge check, else the latest; it may be empty. Absent where there is none.</summary>
    /// <param name="record">The job.</param>
    /// <returns>The test; null where no dry test was started.</returns>
    public static DryCompressionTest? BeingDone(TestRecord record)
    {
        var dry = (record.Tests ?? []).OfType<DryCompressionTest>().ToList();
        return dry.LastOrDefault(t => t.Role is null) ?? dry.LastOrDefault();
    }

    /// <summary>What has to be put back on a job.</summary>
    /// <param name="record">The job.</param>
    /// <param name="progress">What was done beside the readings.</param>
    /// <returns>The lines in working order; empty where nothing was touched.</returns>
    public static IReadOnlyList<RefitLine> RefitOf(TestRecord record, JobProgress progress)
    {
        var done = Latest(progress, JobSafety.PrepareList).Select(e => (Known: RecordWords.TryParse<PreparationItem>(e.Item, out var item), item, e.Way)).Where(t => t.Known).ToDictionary(t => t.item, t => t.Way);
        return Planning.RefitList.For(record, done, progress.Workshop?.Access ?? []);
    }

    /// <summary>Time spent so far, by step (<see cref="JobClock"/>).</summary>
    /// <param name="record">The job.</param>
    /// <param name="progress">What was done beside the readings.</param>
    /// <returns>Time for each step that has any; empty with fewer than two moments.</returns>
    public static IReadOnlyDictionary<StepKind, TimeSpan> Spent(TestRecord record, JobProgress progress) => JobClock.Spent(Moments(record, progress));

    private static IEnumerable<StepMoment> Moments(TestRecord record, JobProgress progress)
    {
        foreach (var e in progress.Events ?? [])
        {
            yield return new StepMoment(e.List switch
            {
                JobSafety.LeakList or JobSafety.CrankList => StepKind.LeakDown,
                JobSafety.OilList => StepKind.Wet,
                JobSafety.RunningList => StepKind.Running,
                JobSafety.RelativeList => StepKind.Relative,
                JobSafety.LiquidList => StepKind.Liquid,
                JobSafety.RefitList => StepKind.Refit,
                _ => StepKind.Prepare,
            }, e.At);
        }
        foreach (var test in record.Tests ?? [])
        {
            foreach (var at in test.CylinderReadings.Select(r => r.At).Append(test.At).OfType<DateTimeOffset>())
            {
                yield return new StepMoment(KindOf(test), at);
            }
        }
    }

    /// <summary>The step at which a test is done.</summary>
    /// <param name="test">The test.</param>
    /// <returns>The step; every kind of test has one.</returns>
    public static StepKind KindOf(TestEntry test) => test.Kind switch
    {
        TestKind.Dry => StepKind.Dry,
        TestKind.Wet => StepKind.Wet,
        TestKind.LeakDown => StepKind.LeakDown,
        TestKind.Running => StepKind.Running,
        TestKind.Relative => StepKind.Relative,
        TestKind.Plugs => StepKind.Plugs,
        _ => SupportingCheck.KindOf(test)!.Value,
    };

    // No line of a list is ticked.
    internal static bool IsUntouched(JobProgress progress, string list) => !Latest(progress, list).Any();

    private static HashSet<string> TickedOf(JobProgress progress, string list) => [.. Latest(progress, list).Select(e => e.Item)];

    // The last word on each line of a list, where it is ticked.
    private static IEnumerable<SafetyEvent> Latest(JobProgress progress, string list) =>
        (progress.Events ?? []).Where(e => e.List == list).GroupBy(e => e.Item).Select(g => g.Last()).Where(e => e.Done);
}
