using System.Text.Json.Serialization;

namespace Zandrik.Core.Records;

/// <summary>The kinds of test an open record knows. Their words are those of <see cref="TestEntry"/>, and are fixed.</summary>
public enum TestKind
{
    /// <summary><see cref="DryCompressionTest"/>.</summary>
    [JsonStringEnumMemberName("compression-dry")]
    Dry,

    /// <summary><see cref="WetCompressionTest"/>.</summary>
    [JsonStringEnumMemberName("compression-wet")]
    Wet,

    /// <summary><see cref="LeakDownTest"/>.</summary>
    LeakDown,

    /// <summary><see cref="RunningCompressionTest"/>.</summary>
    [JsonStringEnumMemberName("compression-running")]
    Running,

    /// <summary><see cref="RelativeCompressionTest"/>.</summary>
    [JsonStringEnumMemberName("relative-compression")]
    Relative,

    /// <summary><see cref="CombustionGasTest"/>.</summary>
    CombustionGas,

    /// <summary><see cref="PlugInspection"/>.</summary>
    [JsonStringEnumMemberName("plug-inspection")]
    Plugs,

    /// <summary><see cref="OilPressureTest"/>.</summary>
    OilPressure,

    /// <summary><see cref="ValveClearanceCheck"/>.</summary>
    ValveClearance,

    /// <summary><see cref="ManifoldVacuumTest"/>.</summary>
    [JsonStringEnumMemberName("manifold-vacuum")]
    Vacuum,

    /// <summary><see cref="CrankSoundCheck"/>.</summary>
    CrankSound,

    /// <summary><see cref="OilUseCheck"/>.</summary>
    OilUse,

    /// <summary><see cref="FluidsCheck"/>.</summary>
    Fluids,
}
