using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Verdicts;

/// <summary>What somebody signs.</summary>
/// <param name="Agrees">True to agree with Zandrik.</param>
/// <param name="Reason">Why not; a remark, or absent, where it agrees. At most <see cref="LongestReason"/> letters.</param>
/// <param name="Answers">What the people say where they do not agree; a place that is left out is agreed to.</param>
/// <param name="Seen">Print of what was looked at: another one is not signed unseen.</param>
public sealed record SignOff(bool Agrees, string? Reason, IReadOnlyList<VerdictAnswer> Answers, string Seen)
{
    /// <summary>Longest reason, remark or description that is kept, letters.</summary>
    public const int LongestReason = 1000;

    /// <summary>Why a verdict is not signed so, with what to do; absent where it may be.</summary>
    /// <param name="verdict">What is signed.</param>
    /// <returns>The pointer is empty, <c>/reason</c>, or <c>/answers/</c> with the cylinder or <c>engine</c>.</returns>
    public FieldProblem? Refuses(VerdictSnapshot verdict)
    {
        if (!verdict.SaysSomething())
        {
            return new FieldProblem("", "Nothing is measured yet: there is nothing to sign.");
        }
        if (Reason?.Length > LongestReason)
        {
            return new FieldProblem("/reason", $"Say it in {LongestReason} letters or fewer.");
        }
        if (Agrees)
        {
            return null;
        }
        var program = VerdictAnswer.Of(verdict);
        foreach (var answer in Answers)
        {
            if (program.All(p => p.Cylinder != answer.Cylinder) || VerdictAnswer.Possible(verdict.Record.Engine, answer.Cylinder).All(p => (p.Fault, p.With) != (answer.Fault, answer.With)))
            {
                return new FieldProblem($"/answers/{(answer.Cylinder is { } c ? $"{c}" : "engine")}", $"Choose what you say of {(answer.Cylinder is { } n ? $"cylinder {n}" : "the engine")}.");
            }
        }
        return Differs(verdict) && string.IsNullOrWhiteSpace(Reason)
            ? new FieldProblem("/reason", "Say why you see it otherwise: whoever opens the engine, and whoever asks later, will want to know.") : null;
    }

    /// <summary>
    /// True where what is signed is not what Zandrik says: another fault somewhere, or a definite answer where Zandrik
    /// cannot tell yet. Signed with nothing different, it is an agreement and needs no reason.
    /// </summary>
    /// <param name="verdict">What is signed.</param>
    /// <returns>False for an agreement, whichever button was pressed.</returns>
    public bool Differs(VerdictSnapshot verdict)
    {
        var program = VerdictAnswer.Of(verdict);
        return !Agrees && (verdict.State == EngineState.Inconclusive
            || Answers.Any(a => program.FirstOrDefault(p => p.Cylinder == a.Cylinder) is not { } said || !a.Agrees(said) || (said.Cylinder is not null && said.Probability <= FaultWords.Said)));
    }
}
