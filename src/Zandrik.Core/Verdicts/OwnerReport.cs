using Zandrik.Core.Compression;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Verdicts;

/// <summary>A cylinder as the owner of the vehicle is told of it.</summary>
/// <param name="Cylinder">Its number.</param>
/// <param name="State">How it stands, for the drawing.</param>
/// <param name="Says">The same in a word or two.</param>
public sealed record OwnerCylinder(int Cylinder, CylinderState State, string Says);

/// <summary>
/// A job for the owner of the vehicle: what was asked, what it means, what was measured, what we would do. No unit, no
/// abbreviation, and nothing that the verdict does not say.
/// </summary>
/// <param name="Asked">What the owner came with, one sentence; absent where nobody wrote it down.</param>
/// <param name="Means">What it means: the answer, first on the page.</param>
/// <param name="Measured">What was measured and found.</param>
/// <param name="Cylinders">Cylinders 1 to N.</param>
/// <param name="Steps">What we would do, in order; empty where that has to be talked about.</param>
/// <param name="KeepOff">Why the engine is better left alone until then; absent where nothing speaks against running it.</param>
public sealed record OwnerReport(string? Asked, string Means, string Measured, IReadOnlyList<OwnerCylinder> Cylinders, IReadOnlyList<string> Steps, string? KeepOff)
{
    /// <summary>What running an engine with such a fault can do to it.</summary>
    public const string Harm = "Please do not run the engine until we have spoken: going on can damage it further.";

    /// <summary>From this probability on, of all such faults in one cylinder together or in the engine, the owner is asked not to run it. A rule of thumb: asked too often costs a telephone call.</summary>
    public const double HarmFrom = 0.25;

    // Gas or coolant through a gasket eats the metal beside it, a broken part breaks others.
    private static readonly IReadOnlyList<Fault> GrowsWorse = [Fault.GasketAdjacent, Fault.GasketCoolant, Fault.Piston, Fault.ShortStroke];

    // What is done about an answer; anything else only measures, or waits.
    private static readonly IReadOnlyList<RepairAction> Opens = [RepairAction.InspectTopEnd, RepairAction.HeadOff, RepairAction.Overhaul, RepairAction.ExchangeEngine, RepairAction.MeasureMore, RepairAction.CompleteTest, RepairAction.RepeatTest];

    /// <summary>The report of a verdict, signed or not.</summary>
    /// <param name="said">What is said, as it was signed or as things stand.</param>
    /// <param name="people">What the people of the shop say in its place; absent where they agree, or nobody signed.</param>
    /// <returns>The report; nothing is judged anew.</returns>
    public static OwnerReport Of(VerdictSnapshot said, IReadOnlyList<VerdictAnswer>? people = null)
    {
        var answers = people ?? VerdictAnswer.Of(said);
        var means = OwnerVerdict.Of(answers, overruled: people is not null, said.State);
        // The verdict keeps both as one text: what was measured stands before what it means.
        var at = said.Owner.IndexOf(means, StringComparison.Ordinal);
        var (measured, more) = at < 0 ? (said.Owner, "") : (said.Owner[..at].TrimEnd(), said.Owner[(at + means.Length)..].TrimEnd());
        var record = said.Record;
        var noticed = (record.Observations ?? []).Select(ObservationWords.Of).ToList();
        var asked = string.Join("; ", new[] { record.Complaint?.Trim().TrimEnd('.'), noticed.Count > 0 ? $"noticed: {string.Join(", ", noticed)}" : null }.Where(t => !string.IsNullOrEmpty(t)));
        return new OwnerReport(asked.Length > 0 ? char.ToUpperInvariant(asked[0]) + asked[1..] + "." : null, means + more, measured,
            [.. said.Cylinders.Select(c => new OwnerCylinder(c.Cylinder, c.State, Word(c.State)))],
            // What follows from the program's answer does not follow from another one.
            people is not null ? [] : StepsOf(said, answers),
            (people is null ? MayGrowWorse(said) : people.Any(a => GrowsWorse.Contains(a.Fault))) ? Harm : null);
    }

    // Where a cylinder is not explained yet, measuring comes before whatever else is done.
    private static IReadOnlyList<string> StepsOf(VerdictSnapshot said, IReadOnlyList<VerdictAnswer> answers)
    {
        var unexplained = said.Next.Count > 0 && answers.Any(a => a is { Cylinder: not null, IsNothing: false } && a.Probability <= FaultWords.Said) && !said.Actions.Any(a => Opens.Contains(a.Action));
        return [.. (unexplained ? [RepairAction.MeasureMore] : Array.Empty<RepairAction>()).Concat(said.Actions.Select(a => a.Action)).Select(Step).Distinct()];
    }

    private static bool MayGrowWorse(VerdictSnapshot said) =>
        said.Cylinders.Any(c => c.Suspects.Where(s => GrowsWorse.Contains(s.Fault)).Sum(s => s.Probability) >= HarmFrom)
        || said.Suspects.Where(s => GrowsWorse.Contains(s.Fault)).Sum(s => s.Probability) >= HarmFrom;

    private static string Word(CylinderState state) => state switch
    {
        CylinderState.Sound => "good",
        CylinderState.Watch => "to be watched",
        CylinderState.Low => "low",
        CylinderState.Dead => "builds up next to nothing",
        CylinderState.High => "higher than the others",
        _ => "not measured",
    };

    private static string Step(RepairAction action) => action switch
    {
        RepairAction.None => "Nothing has to be done to the cylinders.",
        RepairAction.CompleteTest => "Measure the cylinders that are missing.",
        RepairAction.RepeatTest => "Take the test again, because the way of testing explains some of the figures.",
        RepairAction.MeasureMore => "Measure more before anything is opened.",
        RepairAction.Watch => "Measure again after some time, to see whether anything changes.",
        RepairAction.RunClearRetest => "Clear the oil or fuel out of the cylinder, and test it again.",
        RepairAction.CheckTiming => "Check whether the camshafts are timed as they should be.",
        RepairAction.CheckExhaust => "Check the exhaust for a blockage.",
        RepairAction.CheckCooling => "Check the coolers, the hoses and the cap of the cooling system.",
        RepairAction.AdjustValves => "Check the valve clearances, and set them.",
        RepairAction.FreeRings => "Try to free the piston rings without opening the engine.",
        RepairAction.Decarbonise => "Clean the deposits off.",
        RepairAction.InspectTopEnd => "Take the valve cover off and look at what moves the valves.",
        RepairAction.HeadOff => "Take the cylinder head off: what is worn or burnt is then seen, and can be priced.",
        RepairAction.Overhaul => "Overhaul the engine.",
        _ => "Fit another engine.",
    };
}
