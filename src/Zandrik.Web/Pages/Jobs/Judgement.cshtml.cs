using Zandrik.Core.Compression;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Storage;
using Zandrik.Web.Drawings;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>What the readings of all tests together say: suspects, how sure, why, and what to measure next. Live with every reading.</summary>
public sealed class JudgementModel(Visitor visitor, WorkspaceStore workspaces, StepStore steps, TimeProvider clock) : StepPage(visitor, workspaces, steps, clock)
{
    protected override string Step => "judgement";

    protected override string Part => "_Judgement";

    public EngineDiagnosis Said { get; private set; } = null!;

    /// <summary>The cylinder that is explained; the worst unless one is chosen.</summary>
    public CylinderDiagnosis At { get; private set; } = null!;

    /// <summary>Where a test is done.</summary>
    public string PageOf(string kind, int? cylinder)
    {
        var at = cylinder is { } c ? $"?cylinder={c}" : "";
        return $"/jobs/{Number}/" + kind switch
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
    public string? ReadingOf(EvidenceLine line) => line.Test is not { } test || Job.Record.Tests is not { } tests || test >= tests.Count ? null : tests[test] switch
    {
        DryCompressionTest => PageOf("compression-dry", At.Cylinder),
        LeakDownTest => PageOf("leak-down", At.Cylinder),
        WetCompressionTest => PageOf("compression-wet", At.Cylinder),
        RunningCompressionTest => PageOf("compression-running", At.Cylinder),
        RelativeCompressionTest => PageOf("relative-compression", null),
        PlugInspection => PageOf("plug-inspection", null),
        CombustionGasTest => PageOf("combustion-gas", null),
        ValveClearanceCheck => PageOf("valve-clearance", null),
        _ => null,
    };

    /// <summary>A suspect as it is spoken.</summary>
    public static string Name(CylinderSuspect s) => s is { Fault: Fault.GasketAdjacent, With: { } with } ? $"gasket to cylinder {with}" : FaultWords.Of(s.Fault);

    /// <summary>The cylinders as they sit, each as full as it is likely to be sound.</summary>
    public ColumnsPicture Picture => new()
    {
        Title = "Cylinders as they sit, how likely each is sound, in percent",
        Banks = CylinderLayout.Of(Engine).Banks,
        Brim = 1.05,
        Glasses = Said.Cylinders.ToDictionary(c => c.Cylinder, c => new Glass(c.State, c.State == CylinderState.Untested ? null : Math.Max(0.02, c.Of(Fault.Sound)),
            c.State == CylinderState.Untested ? "" : ShopText.Percent(c.Of(Fault.Sound)), c.State == CylinderState.Untested ? $"Cylinder {c.Cylinder} untested" : $"Cylinder {c.Cylinder} {ShopText.Percent(c.Of(Fault.Sound))} percent sound, {StateLook.Word(c.State)}")),
        Selected = At.Cylinder,
        Link = c => $"{Address}?cylinder={c}",
        LinkTarget = "#step",
    };

    protected override async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return false;
        }
        Said = EngineDiagnosis.Of(Job.Record);
        At = Cylinder is { } c && c >= 1 && c <= Said.Cylinders.Count ? Said.Cylinders[c - 1] : Said.Cylinders.MinBy(x => x.Of(Fault.Sound))!;
        return true;
    }
}
