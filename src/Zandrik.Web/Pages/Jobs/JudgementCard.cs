using Zandrik.Core.Assessment;
using Zandrik.Core.Diagnosis;
using Zandrik.Storage;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>What all readings of a job say together, in a few lines beside the step that is being done.</summary>
/// <param name="State">The job as it stands.</param>
public sealed record JudgementCard(JobState State)
{
    // As much as fits beside a pad.
    private const int MostLines = 4;

    /// <summary>The job.</summary>
    public Job Job => State.Job;

    /// <summary>The job, judged.</summary>
    public JobAssessment Assessment => State.Assessment;

    /// <summary>What all readings together say.</summary>
    public EngineDiagnosis Said => Assessment.Diagnosis;

    /// <summary>The cylinder it speaks of: the one least likely sound of those that were measured; absent where none was.</summary>
    public CylinderDiagnosis? At => Assessment.LeastSound;

    /// <summary>The verdict that was signed and stands: its answer is the headline then, and what the readings alone say stands beside it; absent for none.</summary>
    public VerdictLine? Signed => State.Verdict is { Stands: true } signed ? signed : null;

    /// <summary>What the readings say: beside the answer that somebody signed never that nobody can tell.</summary>
    public string OfReadings => Signed is { } signed && signed.Headline != Said.Headline && Said.Headline.Contains(FaultWords.NotEnough, StringComparison.OrdinalIgnoreCase) ? "The readings alone do not settle it." : Said.Headline;

    /// <summary>What is done next; absent when no further test is worth its minutes. After a signed verdict only what keeps people safe.</summary>
    public NextStep? Next => Assessment.Next is [var first, ..] && (first.IsSafety || Signed is null) ? first : null;

    /// <summary>The evidence that weighs most for or against the leading suspect, in the order of its ledger.</summary>
    public IReadOnlyList<EvidenceLine> Heaviest => At is null ? [] : [.. At.Leading.Evidence.Select((e, i) => (e, i)).OrderByDescending(x => Math.Abs(x.e.WeightDb)).Take(MostLines).OrderBy(x => x.i).Select(x => x.e)];

    /// <summary>Where a figure of the card is explained.</summary>
    /// <param name="ask">What is asked, as <see cref="Explanation"/> has it.</param>
    public string WhyOf(string ask) => $"/jobs/{Job.Number}/judgement?cylinder={At?.Cylinder ?? 1}&why={Uri.EscapeDataString(ask)}";
}
