using System.Collections.Concurrent;
using Zandrik.Core.Compression;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;
using Zandrik.Core.Running;
using Zandrik.Core.Units;

namespace Zandrik.Core.Diagnosis;

/// <summary>
/// The tests of a job, each judged once: those that count (<see cref="CountingTests"/>) against each other, and any
/// other by itself. Unchangeable; several may ask at once.
/// </summary>
public sealed class JudgedTests
{
    private readonly ConcurrentDictionary<TestEntry, object> judged = new(ReferenceEqualityComparer.Instance);

    private JudgedTests(TestRecord record, PressureUnit? shown, LikelihoodEstimates estimates) => (Record, Shown, Estimates) = (record, shown, estimates);

    /// <summary>The job, with what was read over oil marked.</summary>
    public TestRecord Record { get; }

    /// <summary>The unit of the figures in the sentences; absent for each test's own.</summary>
    public PressureUnit? Shown { get; }

    /// <summary>What a diagnosis of them expects of each fault beyond what stands by hand.</summary>
    public LikelihoodEstimates Estimates { get; }

    /// <summary>The dry test that counts; absent when nothing was read dry.</summary>
    public DryCompressionTest? DryTest => CountingTests.Dry(Record);

    /// <summary>The dry test that counts, judged; absent without one.</summary>
    public DryJudgement? Dry => DryTest is { } test ? Of(test) : null;

    /// <summary>The wet test that counts, judged; absent without one.</summary>
    public WetJudgement? Wet => CountingTests.Wet(Record) is { } test ? Of(test) : null;

    /// <summary>The leak-down that counts, judged; absent without one.</summary>
    public LeakDownJudgement? LeakDown => CountingTests.LeakDown(Record) is { } test ? Of(test) : null;

    /// <summary>The running test that counts, judged; absent without one.</summary>
    public RunningJudgement? Running => CountingTests.Running(Record) is { } test ? Of(test) : null;

    /// <summary>The relative compression that counts; absent without one.</summary>
    public RelativeCompressionTest? Relative => CountingTests.Relative(Record);

    /// <summary>Takes the tests of a job.</summary>
    /// <param name="record">A record whose engine passes <see cref="Records.EngineRules"/>.</param>
    /// <param name="shown">The unit of the figures in the sentences; absent for each test's own.</param>
    /// <param name="estimates">What a diagnosis expects; absent for what is checked in. Others are for studies.</param>
    /// <returns>The tests; each is judged when it is first looked at, and once.</returns>
    public static JudgedTests Of(TestRecord record, PressureUnit? shown = null, LikelihoodEstimates? estimates = null) => new(OilHistory.Marked(record), shown, estimates ?? LikelihoodEstimates.CheckedIn);

    /// <summary>A dry test of this job, judged; one that is empty says that it waits.</summary>
    /// <param name="test">A test of <see cref="Record"/>, or an empty one.</param>
    /// <returns>The judgement; the same object each time for the test that counts.</returns>
    public DryJudgement Of(DryCompressionTest test) => Once(test, t => DryJudgement.Of(Record.Engine, t, Record.JudgeBy, Shown));

    /// <summary>A wet test of this job, judged against the dry test that counts.</summary>
    /// <param name="test">A test of <see cref="Record"/>, or an empty one.</param>
    /// <returns>The judgement; the same object each time for the test that counts.</returns>
    public WetJudgement Of(WetCompressionTest test) => Once(test, t => WetJudgement.Of(Record.Engine, t, DryTest, Dry, Shown));

    /// <summary>A leak-down of this job, judged beside the dry test that counts.</summary>
    /// <param name="test">A test of <see cref="Record"/>, or an empty one.</param>
    /// <returns>The judgement; the same object each time for the test that counts.</returns>
    public LeakDownJudgement Of(LeakDownTest test) => Once(test, t => LeakDownJudgement.Of(Record, t, Dry, Shown));

    /// <summary>A running test of this job, judged beside the dry test that counts.</summary>
    /// <param name="test">A test of <see cref="Record"/>, or an empty one.</param>
    /// <returns>The judgement; the same object each time for the test that counts.</returns>
    public RunningJudgement Of(RunningCompressionTest test) => Once(test, t => RunningJudgement.Of(Record, t, Dry, Shown));

    // A test that is no part of the job (one that is about to be started) is judged and forgotten.
    private TJudgement Once<TTest, TJudgement>(TTest test, Func<TTest, TJudgement> judge)
        where TTest : TestEntry
        where TJudgement : class =>
        (Record.Tests ?? []).Any(t => ReferenceEquals(t, test)) ? (TJudgement)judged.GetOrAdd(test, _ => judge(test)) : judge(test);
}
