using Zandrik.Core.Diagnosis;
using Zandrik.Core.Planning;
using Zandrik.Core.Records;
using Zandrik.Core.Safety;

namespace Zandrik.Core.Assessment;

/// <summary>What is done next on a job.</summary>
/// <param name="Kind">A test, a small check, or what keeps people safe: <see cref="StepKind.AirOff"/>, <see cref="StepKind.Liquid"/>.</param>
/// <param name="Cylinders">The cylinders; empty for the engine.</param>
/// <param name="Minutes">About how long, from 0.</param>
/// <param name="GainBits">What a test is expected to tell, bits, from 0; 0 for what is not weighed: what keeps people safe, and what is begun.</param>
/// <param name="Why">Why.</param>
/// <param name="SavesMinutes">What it saves on average, minutes of work, its own minutes taken off; absent for what comes first by a rule of order or safety.</param>
public sealed record NextStep(StepKind Kind, IReadOnlyList<int> Cylinders, double Minutes, double GainBits, string Why, double? SavesMinutes = null)
{
    /// <summary>True for what keeps people safe and comes before any test.</summary>
    public bool IsSafety => Kind is StepKind.AirOff or StepKind.Liquid;

    /// <summary>The cylinder it begins with; absent for the engine.</summary>
    public int? Cylinder => Cylinders.Count > 0 ? Cylinders[0] : null;

    /// <summary>What has to be seen to before any test: the air shut off, or liquid got out of a cylinder; absent for nothing.</summary>
    /// <param name="safety">What can hurt somebody as the job stands.</param>
    /// <returns>The step; null where nobody is at risk.</returns>
    public static NextStep? Before(JobSafety safety) =>
        safety.AirOnAt is { } at ? new(StepKind.AirOff, [at], 0, 0, "Nobody turns the crank or opens anything while a cylinder is under air.")
        : safety.Liquid.IsLocked && !safety.IsClosed ? new(StepKind.Liquid, [], 0, 0, $"Liquid may stand in a cylinder ({string.Join("; ", safety.Liquid.Open.Select(s => s.Says))}): it does not compress and bends rods.")
        : null;

    /// <summary>
    /// What is done next, best first: what keeps people safe, then a dry test that is in hand, then the tests that tell
    /// most; only the air while it is on.
    /// </summary>
    /// <param name="said">The diagnosis.</param>
    /// <param name="unread">The cylinders that are not read yet of a dry test that somebody is in the middle of; empty for none.</param>
    /// <returns>The steps, best first; empty where nothing is worth its minutes.</returns>
    public static IReadOnlyList<NextStep> Of(EngineDiagnosis said, IReadOnlyList<int> unread) => Before(said.Safety) switch
    {
        { Kind: StepKind.AirOff } air => [air],
        { } first => [first, .. Tests(said, unread)],
        _ => [.. Tests(said, unread)],
    };

    private static IEnumerable<NextStep> Tests(EngineDiagnosis said, IReadOnlyList<int> unread)
    {
        var tests = said.Next.Select(t => new NextStep(t.Kind, t.Cylinders, t.Minutes, t.GainBits, t.Why, t.SavesMinutes)).ToList();
        // With the gauge in hand the rest takes minutes; a reading that has to be taken again is dry too.
        return unread.Count == 0 || tests is [{ Kind: StepKind.Dry }, ..] ? tests
            : tests.Where(t => t.Kind != StepKind.Dry).Prepend(new NextStep(StepKind.Dry, unread, StepMinutes.DryAgain(unread.Count), tests.FirstOrDefault(t => t.Kind == StepKind.Dry)?.GainBits ?? 0, "The cylinders that are not read yet: what is begun is finished first."));
    }
}
