using Zandrik.Core.Compression;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;

namespace Zandrik.Core.Running;

/// <summary>
/// Where running and snap compression may be measured: an engine with a throttle, and no cylinder that is low dry. That
/// nothing is started with liquid in a cylinder is <see cref="Safety.LiquidGuard"/>'s to say.
/// </summary>
public static class RunningRules
{
    /// <summary>Why this engine is not run with the gauge in; absent when it may be.</summary>
    /// <returns>One sentence that says why; null when it may be run.</returns>
    public static string? Forbids(TestRecord record)
    {
        var engine = record.Engine;
        if (engine.Fuel == Fuel.Diesel || engine.Throttle == ThrottleControl.None)
        {
            return "Running and snap compression are for engines with a throttle: without one there is nothing to snap, and the figures say little.";
        }
        return null;
    }

    /// <summary>Why a cylinder is not measured running: a leaking cylinder runs high against its own dry reading; absent when it may be.</summary>
    /// <param name="dry">The job's latest dry test, judged; absent when there is none.</param>
    /// <param name="cylinder">The cylinder.</param>
    /// <param name="leak">The job's leak-down, judged: a low cylinder that holds its air may be run; absent when there is none.</param>
    /// <returns>One sentence that says why; null when it may be measured.</returns>
    public static string? ForbidsCylinder(DryJudgement? dry, int cylinder, LeakDownJudgement? leak = null) => dry?.Cylinders[cylinder - 1].State switch
    {
        // Low, and no leak: stroke, lift or timing, and a running test tells of lift.
        CylinderState.Low when HoldsItsAir(leak, cylinder) => null,
        CylinderState.Low or CylinderState.Dead => $"Cylinder {cylinder} is {(dry.Cylinders[cylinder - 1].State == CylinderState.Low ? "low" : "dead")} dry: a leaking cylinder runs high against its own dry reading. Find the leak first.",
        _ => null,
    };

    /// <summary>True where a leak-down without oil found a cylinder within the limit.</summary>
    /// <param name="leak">The job's leak-down, judged; absent when there is none.</param>
    /// <param name="cylinder">The cylinder.</param>
    /// <returns>False for a cylinder that was not read.</returns>
    public static bool HoldsItsAir(LeakDownJudgement? leak, int cylinder) => leak?.Cylinders[cylinder - 1] is { State: LeakState.Good, AfterOil: false };

    /// <summary>True where a cylinder has no dry reading of its own: what it says running is provisional, since a leak is not excluded.</summary>
    /// <param name="dry">The job's latest dry test, judged; absent when there is none.</param>
    /// <param name="cylinder">The cylinder.</param>
    /// <returns>False for a cylinder that was read dry.</returns>
    public static bool IsProvisional(DryJudgement? dry, int cylinder) => dry is null || dry.Cylinders[cylinder - 1].State == CylinderState.Untested;
}
