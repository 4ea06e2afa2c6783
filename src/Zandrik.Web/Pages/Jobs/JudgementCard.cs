using Zandrik.Core.Compression;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Storage;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>What all readings of a job say together, in a few lines beside the step that is being done.</summary>
/// <param name="Job">The job.</param>
/// <param name="Said">The diagnosis.</param>
/// <param name="At">The cylinder it speaks of: the one least likely sound of those that were measured; absent where none was.</param>
public sealed record JudgementCard(Job Job, EngineDiagnosis Said, CylinderDiagnosis? At)
{
    /// <summary>The verdict that was signed and stands: its answer is the headline then, and Zandrik's stands beside it; absent for none.</summary>
    public VerdictLine? Signed { get; init; }

    /// <summary>What has to be seen to before any test; absent for nothing.</summary>
    public SafetyStep? First => JudgementLinks.BeforeAnyTest(Job.Number, Said.Safety);

    // As much as fits beside a pad.
    private const int MostLines = 4;

    /// <summary>The card of a job.</summary>
    /// <param name="standing">How things stand.</param>
    /// <param name="verdict">The latest verdict that was signed; absent for none.</param>
    public static JudgementCard Of(JobState standing, VerdictLine? verdict = null)
    {
        var job = standing.Job;
        var said = EngineDiagnosis.Of(job.Record, safety: standing.Safety, shown: job.Unit);
        return new JudgementCard(job, said, said.Cylinders.Where(c => c.State != CylinderState.Untested).MinBy(c => c.Of(Fault.Sound))) { Signed = verdict is { Stands: true } ? verdict : null };
    }

    /// <summary>The evidence that weighs most for or against the leading suspect, in the order of its ledger.</summary>
    public IReadOnlyList<EvidenceLine> Heaviest => At is null ? [] : [.. At.Leading.Evidence.Select((e, i) => (e, i)).OrderByDescending(x => Math.Abs(x.e.WeightDb)).Take(MostLines).OrderBy(x => x.i).Select(x => x.e)];

    /// <summary>Where a figure of the card is explained.</summary>
    public string WhyOf(string ask) => $"/jobs/{Job.Number}/judgement?cylinder={At?.Cylinder ?? 1}&why={Uri.EscapeDataString(ask)}";
}
