using Zandrik.Core.Records;

namespace Zandrik.Core.Planning;

/// <summary>A moment at which something was written down at a step of a job.</summary>
/// <param name="Step">The step.</param>
/// <param name="At">When.</param>
public readonly record struct StepMoment(StepKind Step, DateTimeOffset At);

/// <summary>
/// How long a job has taken so far, from the moments at which anything was written down: the time between two
/// goes to the step of the later one. A pause longer than <see cref="LongestPause"/> was something else.
/// </summary>
public static class JobClock
{
    /// <summary>The longest pause that still counts as work on the job.</summary>
    public static readonly TimeSpan LongestPause = TimeSpan.FromMinutes(20);

    /// <summary>Time spent, by step; a step with a single moment of its own has what led up to it. Order does not matter.</summary>
    /// <returns>Time for each step that has any; empty with fewer than two moments.</returns>
    public static IReadOnlyDictionary<StepKind, TimeSpan> Spent(IEnumerable<StepMoment> moments)
    {
        var spent = new Dictionary<StepKind, TimeSpan>();
        DateTimeOffset? before = null;
        foreach (var (step, at) in moments.OrderBy(m => m.At).ThenBy(m => m.Step))
        {
            if (before is { } b && at - b is var pause && pause > TimeSpan.Zero && pause <= LongestPause)
            {
                spent[step] = spent.GetValueOrDefault(step) + pause;
            }
            before = at;
        }
        return spent;
    }
}
