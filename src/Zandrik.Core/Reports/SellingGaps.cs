using Zandrik.Core.Assessment;
using Zandrik.Core.Records;

namespace Zandrik.Core.Reports;

/// <summary>What was not measured or not recorded on a job: whoever buys the engine has to know.</summary>
public static class SellingGaps
{
    /// <summary>Lists it.</summary>
    /// <param name="job">The job, judged.</param>
    /// <returns>A sentence each; never empty, for no test of cylinders says anything of bearings.</returns>
    public static IReadOnlyList<string> Of(JobAssessment job) => [.. Gaps(job)];

    private static IEnumerable<string> Gaps(JobAssessment assessment)
    {
        var record = assessment.Record;
        var n = record.Engine.Cylinders;
        if (assessment.Tests.Dry is not { Measured: > 0 } dry)
        {
            yield return "Dry compression: not measured.";
        }
        else
        {
            if (dry.Measured < n)
            {
                yield return $"Dry compression: {n - dry.Measured} of {n} cylinders were not read.";
            }
            var how = assessment.Tests.DryTest?.Conditions;
            if (how?.EngineTemperature is null)
            {
                yield return "Whether the engine was warm.";
            }
            if (how?.Throttle is null or ThrottlePlate.Unverified && record.Engine.Throttle != ThrottleControl.None && record.Engine.Fuel != Fuel.Diesel)
            {
                yield return "Whether the throttle was seen open.";
            }
            if (how?.Battery is null)
            {
                yield return "How the battery was.";
            }
            if (assessment.Tests.DryTest?.Tester is not { } gauge)
            {
                yield return "Which gauge was used.";
            }
            else if (gauge.LastChecked is null && gauge.CheckPoints is null)
            {
                yield return $"{gauge.Label ?? "The gauge"} was never checked against a reference.";
            }
        }
        if (record.Engine.Spec is not { Minimum: not null } and not { Nominal: not null })
        {
            yield return "The maker’s figures: none on the engine’s sheet.";
        }
        if (!(record.Tests ?? []).OfType<LeakDownTest>().Any(t => t.Readings is { Count: > 0 }))
        {
            yield return "Leak-down: not measured. Compression alone finds no small leak.";
        }
        yield return "Bearings, oil pressure and what is outside the cylinders, but for what stands here.";
    }
}
