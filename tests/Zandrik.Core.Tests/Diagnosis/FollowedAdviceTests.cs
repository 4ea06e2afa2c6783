using Zandrik.Core.Diagnosis;

namespace Zandrik.Core.Tests.Diagnosis;

/// <summary>Whoever does what is offered, first line first, comes to an end; whatever the engine is.</summary>
public sealed class FollowedAdviceTests
{
    // Engines of the study, which make sense, end within 8; each contradiction of these costs two readings more.
    private const int MostRounds = 11;

    [Fact]
    public void It_ends_whatever_the_engine_reads()
    {
        var longest = 0;
        for (var seed = 1; seed <= 400; seed++)
        {
            var engine = new AnyEngine(seed);
            var done = new List<string>();
            while (EngineDiagnosis.Of(engine.Record, ledger: false).Next is [var first, ..])
            {
                done.Add($"{first.Kind} {string.Join('-', first.Cylinders)}");
                done.Count.ShouldBeLessThanOrEqualTo(MostRounds, $"seed {seed}: {string.Join(", ", done)}");
                engine.Do(first);
            }
            longest = Math.Max(longest, done.Count);
        }
        longest.ShouldBeGreaterThan(3, "an engine that asks for nothing is not tried");
    }
}
