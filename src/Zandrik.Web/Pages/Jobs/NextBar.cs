using Zandrik.Core.Assessment;
using Zandrik.Core.Planning;
using Zandrik.Core.Records;
using Zandrik.Storage;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>Where to go from a page of a job: one button, and the other ways beside it, small.</summary>
/// <param name="Kind">What the button leads to, as a word: a test, a small check, <c>verdict</c>, <c>refit</c>.</param>
/// <param name="Label">What it says.</param>
/// <param name="Address">Where it leads.</param>
/// <param name="IsSafety">True for what keeps people safe and comes before any test.</param>
/// <param name="Beside">The other ways, best first.</param>
public sealed record NextBar(string Kind, string Label, string Address, bool IsSafety, IReadOnlyList<(string Label, string Address)> Beside)
{
    // As many as stay small beside the button.
    private const int MostBeside = 2;

    /// <summary>The bar of a page; absent where the page itself is what is done next, and on a closed job.</summary>
    /// <param name="found">The job.</param>
    /// <param name="page">The word of the page, as the rail has it.</param>
    public static NextBar? Of(Workspace found, string page)
    {
        var (number, job, cylinders) = (found.Job.Number, found.Assessment, found.Job.Record.Engine.Cylinders);
        if (found.Job.ClosedAt is not null)
        {
            return null;
        }
        var measured = job.LeastSound is not null;
        var ways = Ways().DistinctBy(w => w.Kind).ToList();
        if (ways.Count == 0 || IsHere(ways[0]))
        {
            return null;
        }
        var first = ways[0];
        return new NextBar(first.Kind, $"{((page is "plan" or "intake") && !measured ? "Start" : "Next")}: {first.Label}", first.Address, first.IsSafety,
            first.IsSafety ? [] : [.. ways.Skip(1).Where(w => !IsHere(w)).Take(MostBeside).Select(w => (w.Short, w.Address))]);

        bool IsHere((string Kind, string Label, string Short, string Address, bool IsSafety) way) =>
            way.Kind == page || (Rail.KindOf(page) is { } here && (way.Kind == RecordWords.Of(here) || (here == StepKind.LeakDown && way.Kind == RecordWords.Of(StepKind.AirOff))));

        IEnumerable<(string Kind, string Label, string Short, string Address, bool IsSafety)> Ways()
        {
            if (NextStep.Before(job.Safety) is { } before)
            {
                yield return Way(before);
                yield break;
            }
            if (found.Verdict is { Stands: true })
            {
                yield return job.StepOf(StepKind.Refit) is { IsOver: false } ? Plain("refit", "Reassembly", "refit") : Plain("refit", "Close the job", "refit");
                yield return Plain("sheet", "Job sheet", "sheet");
                yield break;
            }
            // Before anything is measured the plan says what is begun with; its plugs are read while they are out, whatever the readings ask for.
            var planned = job.Plan.Where(p => !p.IfNeeded && !job.StepOf(p.Kind).IsOver).ToList();
            if (planned is [var start, ..] && (page is "plan" or "intake") && !measured)
            {
                yield return Of(start);
            }
            foreach (var next in job.Next)
            {
                yield return Way(next);
            }
            if (measured)
            {
                yield return Plain("verdict", "Verdict", "verdict");
            }
            if (planned.Find(p => p.Kind == StepKind.Plugs) is { } plugs)
            {
                yield return Of(plugs);
            }
        }

        (string, string, string, string, bool) Way(NextStep next) =>
            (RecordWords.Of(next.Kind), JudgementLinks.Says(next, cylinders), JudgementLinks.Short(next, cylinders), JudgementLinks.PageOf(number, next.Kind, next.Cylinder), next.IsSafety);
        (string, string, string, string, bool) Of(PlanStep step) =>
            (RecordWords.Of(step.Kind), $"{JudgementLinks.NameOf(step.Kind)}, about {step.Minutes} min", JudgementLinks.NameOf(step.Kind), step.Kind == StepKind.Prepare ? $"/jobs/{number}/prepare" : JudgementLinks.PageOf(number, step.Kind, null), false);
        (string, string, string, string, bool) Plain(string kind, string label, string to) => (kind, label, label, $"/jobs/{number}/{to}", false);
    }
}
