using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Safety;
using Zandrik.Web.Drawings;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>Where tests and readings stand, for whatever speaks of them.</summary>
public static class JudgementLinks
{
    /// <summary>Where a test is done.</summary>
    public static string PageOf(int job, string kind, int? cylinder)
    {
        var at = cylinder is { } c ? $"?cylinder={c}" : "";
        return $"/jobs/{job}/" + kind switch
        {
            "compression-dry" => "dry" + at,
            "leak-down" => "leak-down" + at,
            "compression-wet" => "wet" + at,
            "compression-running" => "running" + at,
            "relative-compression" => "relative-compression",
            "plug-inspection" => "plugs",
            _ => $"checks/{kind}",
        };
    }

    /// <summary>What has to be seen to before any test: the air shut off, or liquid got out of a cylinder; absent for nothing.</summary>
    public static SafetyStep? BeforeAnyTest(int job, JobSafety safety) =>
        safety.AirOnAt is { } at ? new SafetyStep("air-off", $"Air off at cylinder {at}", $"/jobs/{job}/leak-down?cylinder={at}")
        : safety.Liquid.IsLocked && !safety.IsClosed ? new SafetyStep("liquid-out", "Get the liquid out", $"/jobs/{job}/liquid")
        : null;

    /// <summary>What a test is called.</summary>
    public static string NameOf(string kind) => kind switch
    {
        "compression-dry" => "Dry",
        "leak-down" => "Leak-down",
        "compression-wet" => "Wet",
        "compression-running" => "Running",
        "relative-compression" => "Starter current",
        "plug-inspection" => "Plugs",
        _ => Core.Checks.SupportingCheck.Of(kind)?.Name ?? kind,
    };

    /// <summary>Where the reading of a line of the ledger stands; absent for none.</summary>
    public static string? ReadingOf(int job, TestRecord record, EvidenceLine line, int cylinder) => line.Test is not { } test || record.Tests is not { } tests || test >= tests.Count ? null : tests[test] switch
    {
        DryCompressionTest => PageOf(job, "compression-dry", cylinder),
        LeakDownTest => PageOf(job, "leak-down", cylinder),
        WetCompressionTest => PageOf(job, "compression-wet", cylinder),
        RunningCompressionTest => PageOf(job, "compression-running", cylinder),
        RelativeCompressionTest => PageOf(job, "relative-compression", null),
        PlugInspection => PageOf(job, "plug-inspection", null),
        CombustionGasTest => PageOf(job, "combustion-gas", null),
        ValveClearanceCheck => PageOf(job, "valve-clearance", null),
        _ => null,
    };

    /// <summary>The webs between two cylinders that are more likely burnt than not, for the picture.</summary>
    public static IReadOnlyList<BurntWeb> BurntWebs(IReadOnlyList<CylinderDiagnosis> cylinders) =>
    [
        .. cylinders.SelectMany(c => c.Suspects.Where(s => s is { Fault: Fault.GasketAdjacent, With: not null, Probability: > 0.5 }).Select(s => (First: Math.Min(c.Cylinder, s.With!.Value), Second: Math.Max(c.Cylinder, s.With.Value))))
            .Distinct().Select(w => new BurntWeb(w.First, w.Second, $"Gasket between {w.First} and {w.Second} suspected burnt")),
    ];
}

/// <summary>Something that keeps people safe and comes before any test.</summary>
/// <param name="Word">Its word.</param>
/// <param name="Says">What is done, as a button says it.</param>
/// <param name="Address">Where it is done.</param>
public sealed record SafetyStep(string Word, string Says, string Address);
