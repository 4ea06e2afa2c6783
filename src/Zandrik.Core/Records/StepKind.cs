using System.Text.Json.Serialization;

namespace Zandrik.Core.Records;

/// <summary>
/// The steps of a job: the tests (by the words of <see cref="TestKind"/>), the small checks that stand among the fluids
/// in a record, and what goes before and after. In working order, as a plan has them.
/// </summary>
public enum StepKind
{
    /// <summary>The air at a cylinder shut off and vented.</summary>
    AirOff,

    /// <summary>Liquid got out of a cylinder.</summary>
    [JsonStringEnumMemberName("liquid-out")]
    Liquid,

    /// <summary>Fuel and ignition off, throttle open, plugs out.</summary>
    Prepare,

    /// <summary>Oil and coolant looked at.</summary>
    Fluids,

    /// <summary>Coolant looked for in the intake.</summary>
    CoolantInIntake,

    /// <summary>The engine listened to while it cranks.</summary>
    CrankSound,

    /// <summary>Relative compression from starter current.</summary>
    [JsonStringEnumMemberName("relative-compression")]
    Relative,

    /// <summary>The plugs read.</summary>
    [JsonStringEnumMemberName("plug-inspection")]
    Plugs,

    /// <summary>Dry compression.</summary>
    [JsonStringEnumMemberName("compression-dry")]
    Dry,

    /// <summary>Combustion gas in the coolant.</summary>
    CombustionGas,

    /// <summary>Leak-down.</summary>
    LeakDown,

    /// <summary>Wet compression.</summary>
    [JsonStringEnumMemberName("compression-wet")]
    Wet,

    /// <summary>Running and snap compression.</summary>
    [JsonStringEnumMemberName("compression-running")]
    Running,

    /// <summary>Oil pressure at several speeds.</summary>
    OilPressure,

    /// <summary>Valve clearances.</summary>
    ValveClearance,

    /// <summary>Manifold vacuum.</summary>
    [JsonStringEnumMemberName("manifold-vacuum")]
    Vacuum,

    /// <summary>Gas from the crankcase at the oil filler.</summary>
    BlowBy,

    /// <summary>Oil use over a distance.</summary>
    OilUse,

    /// <summary>What was taken off or opened, put back.</summary>
    Refit,
}
