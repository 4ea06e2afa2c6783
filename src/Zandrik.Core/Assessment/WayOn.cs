using Zandrik.Core.Diagnosis;
using Zandrik.Core.Planning;
using Zandrik.Core.Records;

namespace Zandrik.Core.Assessment;

/// <summary>A place on a job that somebody goes to, or is at.</summary>
public enum WayKind
{
    /// <summary>A test, a check, the preparation, or what keeps people safe.</summary>
    Step,

    /// <summary>Intake and plan, where a job begins.</summary>
    Plan,

    /// <summary>The verdict.</summary>
    Verdict,

    /// <summary>What is done about it.</summary>
    Decide,

    /// <summary>Reassembly.</summary>
    Refit,

    /// <summary>The end of the job, at reassembly.</summary>
    Close,

    /// <summary>The job sheet.</summary>
    JobSheet,
}

/// <summary>Where to go on from a place on a job. One rule for every page, so that no two send people different ways.</summary>
/// <param name="Kind">What kind of place it is.</param>
/// <param name="Step">The step, with <see cref="WayKind.Step"/>; absent for other places.</param>
/// <param name="Next">The test as the readings ask for it; absent where they do not.</param>
/// <param name="Planned">The step as the plan has it; absent where the readings ask for it, and for other places.</param>
public sealed record WayOn(WayKind Kind, StepKind? Step = null, NextStep? Next = null, PlanStep? Planned = null)
{
    /// <summary>
    /// The ways on, best first: what keeps people safe alone; after a signed verdict the reassembly, and beside it what is done about a faulty engine; before anything is
    /// measured the plan in its order, from where somebody is; then what the readings ask for, the verdict, and plugs that
    /// are out and not read.
    /// </summary>
    /// <param name="job">The job.</param>
    /// <param name="here">Where somebody is.</param>
    /// <returns>The ways; empty where the place itself is what is done next, and on a closed job.</returns>
    public static IReadOnlyList<WayOn> From(JobAssessment job, WayOn here)
    {
        if (job.Progress.IsClosed)
        {
            return [];
        }
        var ways = Ways(job, here).DistinctBy(w => (w.Kind, w.Step)).ToList();
        return ways.Count == 0 || ways[0].IsAt(here) ? [] : [ways[0], .. ways.Skip(1).Where(w => !w.IsAt(here))];
    }

    // Air is shut off on the page of the leak-down, and a job is closed on that of the reassembly.
    private bool IsAt(WayOn here) => (Kind == here.Kind && (Step == here.Step || (here.Step == StepKind.LeakDown && Step == StepKind.AirOff)))
        || (Kind == WayKind.Close && here.Kind == WayKind.Refit);

    private static IEnumerable<WayOn> Ways(JobAssessment job, WayOn here)
    {
        if (NextStep.Before(job.Safety) is { } before)
        {
            return [Of(before)];
        }
        if (job.Progress.Signed is not null)
        {
            return [job.StepOf(StepKind.Refit).IsOver ? new(WayKind.Close) : new(WayKind.Refit), .. job.State == EngineState.Faulty ? [new WayOn(WayKind.Decide)] : Array.Empty<WayOn>(), new(WayKind.JobSheet)];
        }
        var planned = job.Plan.Where(p => !p.IfNeeded && !job.StepOf(p.Kind).IsOver).Select(p => new WayOn(WayKind.Step, p.Kind, Planned: p)).ToList();
        var asked = job.Next.Select(Of);
        if (job.LeastSound is not null)
        {
            // The plugs are read while they are out, whatever the readings ask for.
            return [.. asked, new(WayKind.Verdict), .. planned.Where(p => p.Step == StepKind.Plugs)];
        }
        // A test that is begun is done where it is; from preparation and plugs the plan goes on, ticked or not.
        var at = planned.FindIndex(p => p.IsAt(here));
        return at < 0 ? [.. planned, .. asked]
            : here.Step is StepKind.Prepare or StepKind.Plugs ? [.. planned.Skip(at + 1), .. planned.Take(at), .. asked]
            : [here];
    }

    private static WayOn Of(NextStep next) => new(WayKind.Step, next.Kind, Next: next);
}
