using Zandrik.Core.Assessment;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Web.Drawings;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>Where tests and readings stand, for whatever speaks of them.</summary>
public static class JudgementLinks
{
    /// <summary>Where a test is done.</summary>
    public static string PageOf(int job, StepKind kind, int? cylinder)
    {
        var at = cylinder is { } c ? $"?cylinder={c}" : "";
        return $"/jobs/{job}/" + kind switch
        {
            StepKind.Dry => "dry" + at,
            StepKind.LeakDown => "leak-down" + at,
            StepKind.Wet => "wet" + at,
            StepKind.Running => "running" + at,
            StepKind.Relative => "relative-compression",
            StepKind.Plugs => "plugs",
            StepKind.AirOff => "leak-down" + at,
            StepKind.Liquid => "liquid",
            _ => $"checks/{RecordWords.Of(kind)}",
        };
    }

    /// <summary>What is done next, as a button says it: what, on which cylinders, about how long.</summary>
    /// <param name="next">What is done.</param>
    /// <param name="cylinders">How many the engine has: all of them are not listed.</param>
    public static string Says(NextStep next, int cylinders) => next.Kind switch
    {
        StepKind.AirOff => $"Air off at cylinder {next.Cylinder}",
        StepKind.Liquid => "Get the liquid out",
        _ => $"{Short(next, cylinders)}, about {next.Minutes.ToString("0", System.Globalization.CultureInfo.CurrentCulture)} min",
    };

    /// <summary>The same without the minutes.</summary>
    /// <param name="next">What is done.</param>
    /// <param name="cylinders">How many the engine has.</param>
    public static string Short(NextStep next, int cylinders) => next.IsSafety ? Says(next, cylinders)
        : NameOf(next.Kind) + (next.Cylinders.Count > 0 && next.Cylinders.Count < cylinders ? $" on {CylinderList.Sentence([.. next.Cylinders.Order()])}" : "");

    /// <summary>What a test is called.</summary>
    public static string NameOf(StepKind kind) => kind switch
    {
        StepKind.Dry => "Dry",
        StepKind.LeakDown => "Leak-down",
        StepKind.Wet => "Wet",
        StepKind.Running => "Running",
        StepKind.Relative => "Relative compression",
        StepKind.Plugs => "Plugs",
        StepKind.Prepare => "Prepare",
        StepKind.AirOff => "Air off",
        StepKind.Liquid => "Get the liquid out",
        _ => Core.Checks.SupportingCheck.Of(kind)?.Name ?? RecordWords.Of(kind),
    };

    /// <summary>Where the reading of a line of the ledger stands; absent for none.</summary>
    public static string? ReadingOf(int job, TestRecord record, EvidenceLine line, int cylinder) => line.Test is not { } test || record.Tests is not { } tests || test >= tests.Count ? null : tests[test] switch
    {
        DryCompressionTest => PageOf(job, StepKind.Dry, cylinder),
        LeakDownTest => PageOf(job, StepKind.LeakDown, cylinder),
        WetCompressionTest => PageOf(job, StepKind.Wet, cylinder),
        RunningCompressionTest => PageOf(job, StepKind.Running, cylinder),
        RelativeCompressionTest => PageOf(job, StepKind.Relative, null),
        PlugInspection => PageOf(job, StepKind.Plugs, null),
        CombustionGasTest => PageOf(job, StepKind.CombustionGas, null),
        ValveClearanceCheck => PageOf(job, StepKind.ValveClearance, null),
        _ => null,
    };

    /// <summary>The webs between two cylinders that are more likely burnt than not, for the picture.</summary>
    public static IReadOnlyList<BurntWeb> BurntWebs(IReadOnlyList<CylinderDiagnosis> cylinders) =>
    [
        .. cylinders.SelectMany(c => c.Suspects.Where(s => s is { Fault: Fault.GasketAdjacent, With: not null, Probability: > 0.5 }).Select(s => (First: Math.Min(c.Cylinder, s.With!.Value), Second: Math.Max(c.Cylinder, s.With.Value))))
            .Distinct().Select(w => new BurntWeb(w.First, w.Second, $"Gasket between {w.First} and {w.Second} suspected burnt")),
    ];
}
