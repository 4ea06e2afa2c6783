using Zandrik.Core.Assessment;
using Zandrik.Core.Records;
using Zandrik.Storage;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>Where to go from a page of a job (<see cref="WayOn"/>): one button, and the other ways beside it, small.</summary>
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
        var here = PlaceOf(page);
        var practising = PracticeNumbers.PurposeOf(number) == JobPurpose.Practice;
        // On the practice bench what is not simulated is no way on, and all that follows the tests is the call.
        var ways = WayOn.From(job, here);
        if (ways.Count == 0 || (practising && found.Job.ClosedAt is not null))
        {
            return null;
        }
        if (practising)
        {
            ways = [.. ways.Where(w => (w.Next?.Kind ?? w.Planned?.Kind) is { } kind && Rail.OnTheBench(kind)), .. job.LeastSound is null ? Array.Empty<WayOn>() : [new WayOn(WayKind.Verdict)]];
            if (ways.Count == 0)
            {
                return null;
            }
        }
        var button = Look(ways[0]);
        return new NextBar(button.Kind, $"{(here.Kind == WayKind.Plan && job.LeastSound is null ? "Start" : "Next")}: {button.Label}", button.Address, ways[0].Next?.IsSafety == true,
            [.. ways.Skip(1).Take(MostBeside).Select(Look).Select(w => (w.Short, w.Address))]);

        (string Kind, string Label, string Short, string Address) Look(WayOn way) => way switch
        {
            { Next: { } next } => (RecordWords.Of(next.Kind), JudgementLinks.Says(next, cylinders), JudgementLinks.Short(next, cylinders), JudgementLinks.PageOf(number, next.Kind, next.Cylinder)),
            { Planned: { } step } => (RecordWords.Of(step.Kind), $"{JudgementLinks.NameOf(step.Kind)}, about {step.Minutes} min", JudgementLinks.NameOf(step.Kind), step.Kind == StepKind.Prepare ? $"/jobs/{number}/prepare" : JudgementLinks.PageOf(number, step.Kind, null)),
            { Kind: WayKind.Verdict } when practising => ("call", "Call it", "Call it", $"/practice/{number}/call"),
            { Kind: WayKind.Verdict } => Plain("verdict", "Verdict"),
            { Kind: WayKind.Decide } => Plain("decide", "Decide"),
            { Kind: WayKind.Close } => Plain("refit", "Close the job"),
            { Kind: WayKind.JobSheet } => Plain("sheet", "Job sheet"),
            _ => Plain("refit", "Reassembly"),
        };
        (string, string, string, string) Plain(string to, string label) => (to, label, label, $"/jobs/{number}/{to}");
    }

    private static WayOn PlaceOf(string page) => page switch
    {
        "plan" or "intake" => new(WayKind.Plan),
        "verdict" => new(WayKind.Verdict),
        "decide" => new(WayKind.Decide),
        "sheet" => new(WayKind.JobSheet),
        "refit" => new(WayKind.Refit),
        _ => new(WayKind.Step, Rail.KindOf(page)),
    };
}
