using Zandrik.Core.Diagnosis;
using Zandrik.Core.Planning;
using Zandrik.Core.Records;
using Zandrik.Core.Safety;

namespace Zandrik.Core.Assessment;

/// <summary>What is done next on a job.</summary>
/// <param name="Kind">A test's word in the open record, or of a small check; <see cref="AirOff"/> or <see cref="LiquidOut"/>.</param>
/// <param name="Cylinders">The cylinders; empty for the engine.</param>
/// <param name="Minutes">About how long, from 0.</param>
/// <param name="GainBits">What a test is expected to tell, bits, from 0; 0 for what is not weighed: what keeps people safe, and what is begun.</param>
/// <param name="Why">Why.</param>
public sealed record NextStep(string Kind, IReadOnlyList<int> Cylinders, double Minutes, double GainBits, string Why)
{
    /// <summary>The word for shutting the air off.</summary>
    public const string AirOff = "air-off";

    /// <summary>The word for getting liquid out of a cylinder.</summary>
    public const string LiquidOut = "liquid-out";

    /// <summary>True for what keeps people safe and comes before any test.</summary>
    public bool IsSafety => Kind is AirOff or LiquidOut;

    /// <summary>The cylinder it begins with; absent for the engine.</summary>
    public int? Cylinder => Cylinders.Count > 0 ? Cylinders[0] : null;

    /// <summary>What has to be seen to before any test: the air shut off, or liquid got out of a cylinder; absent for nothing.</summary>
    /// <param name="safety">What can hurt somebody as the job stands.</param>
    public static NextStep? Before(JobSafety safety) =>
        safety.AirOnAt is { } at ? new(AirOff, [at], 0, 0, "Nobody turns the crank or opens anything while a cylinder is under air.")
        : safety.Liquid.IsLocked && !safety.IsClosed ? new(LiquidOut, [], 0, 0, $"Liquid may stand in a cylinder ({string.Join("; ", safety.Liquid.Open.Select(s => s.Says))}): it does not compress and bends rods.")
        : null;

    /// <summary>
    /// What is done next, best first: what keeps people safe, then a dry test that is in hand, then the tests that tell
    /// most; only the air while it is on.
    /// </summary>
    /// <param name="said">The diagnosis.</param>
    /// <param name="unread">The cylinders that are not read yet of a dry test that somebody is in the middle of; empty for none.</param>
    public static IReadOnlyList<NextStep> Of(EngineDiagnosis said, IReadOnlyList<int> unread) => Before(said.Safety) switch
    {
        { Kind: AirOff } air => [air],
        { } first => [first, .. Tests(said, unread)],
        _ => [.. Tests(said, unread)],
    };

    private static IEnumerable<NextStep> Tests(EngineDiagnosis said, IReadOnlyList<int> unread)
    {
        var tests = said.Next.Select(t => new NextStep(t.Kind, t.Cylinders, t.Minutes, t.GainBits, t.Why)).ToList();
        // With the gauge in hand the rest takes minutes; a reading that has to be taken again is dry too.
        return unread.Count == 0 || tests is [{ Kind: TestKinds.Dry }, ..] ? tests
            : tests.Where(t => t.Kind != TestKinds.Dry).Prepend(new NextStep(TestKinds.Dry, unread, StepMinutes.DryAgain(unread.Count), tests.FirstOrDefault(t => t.Kind == TestKinds.Dry)?.GainBits ?? 0, "The cylinders that are not read yet: what is begun is finished first."));
    }
}
