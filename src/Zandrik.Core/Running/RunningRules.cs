using Zandrik.Core.Compression;
using Zandrik.Core.Records;

namespace Zandrik.Core.Running;

/// <summary>Where running and snap compression may be measured: an engine with a throttle, no coolant in a cylinder, and a sound dry reading first.</summary>
public static class RunningRules
{
    /// <summary>Why this engine is not run with the gauge in; absent when it may be.</summary>
    public static string? Forbids(TestRecord record)
    {
        var engine = record.Engine;
        if (engine.Fuel == Fuel.Diesel || engine.Throttle == ThrottleControl.None)
        {
            return "Running and snap compression are for engines with a throttle: without one there is nothing to snap, and the figures say little.";
        }
        if (CoolantInACylinder(record) is { } where)
        {
            return $"Coolant was found in a cylinder, or before one ({where}): it does not compress, and a start bends rods. Find and stop it before this engine is started.";
        }
        return null;
    }

    /// <summary>Why a cylinder is not measured running yet: its own dry reading must be sound; absent when it may be.</summary>
    /// <param name="dry">The job's latest dry test, judged; absent when there is none.</param>
    /// <param name="cylinder">The cylinder.</param>
    public static string? ForbidsCylinder(DryJudgement? dry, int cylinder) => dry?.Cylinders[cylinder - 1].State switch
    {
        null or CylinderState.Untested => $"Dry first: cylinder {cylinder} has no dry reading, and a leak would make the running figures mean nothing.",
        CylinderState.Low or CylinderState.Dead => $"Cylinder {cylinder} is {(dry.Cylinders[cylinder - 1].State == CylinderState.Low ? "low" : "dead")} dry: a leaking cylinder runs high against its own dry reading. Find the leak first.",
        _ => null,
    };

    private static string? CoolantInACylinder(TestRecord record)
    {
        if (record.Observations?.Contains(Observation.CoolantInCylinder) == true)
        {
            return "noted at intake";
        }
        foreach (var test in record.Tests ?? [])
        {
            if (test is FluidsCheck { Findings: { } findings } && findings.Contains(FluidFinding.CoolantInCylinder))
            {
                return "by the look at the fluids";
            }
        }
        // On its way there, where the engine heats its intake with coolant. The latest look counts.
        if ((record.Tests ?? []).OfType<FluidsCheck>().LastOrDefault(t => t.CoolantInIntake is not null)?.CoolantInIntake == true)
        {
            return "it stands in the intake";
        }
        // Each plug counts as it was read last.
        var plugs = (record.Tests ?? []).OfType<PlugInspection>().SelectMany(t => t.Readings ?? []).Where(r => r.SupersededBy is null).GroupBy(r => r.Cylinder).Select(g => g.Last());
        return plugs.FirstOrDefault(p => p.Signs?.Contains(PlugSign.CoolantWet) == true) is { } wet ? $"plug {wet.Cylinder} was coolant-wet" : null;
    }
}
