namespace Zandrik.Core.Records;

/// <summary>The words of the kinds of test in the open record; they are fixed.</summary>
public static class TestKinds
{
    /// <summary><see cref="DryCompressionTest"/>.</summary>
    public const string Dry = "compression-dry";

    /// <summary><see cref="WetCompressionTest"/>.</summary>
    public const string Wet = "compression-wet";

    /// <summary><see cref="LeakDownTest"/>.</summary>
    public const string LeakDown = "leak-down";

    /// <summary><see cref="RunningCompressionTest"/>.</summary>
    public const string Running = "compression-running";

    /// <summary><see cref="RelativeCompressionTest"/>.</summary>
    public const string Relative = "relative-compression";

    /// <summary><see cref="CombustionGasTest"/>.</summary>
    public const string CombustionGas = "combustion-gas";

    /// <summary><see cref="PlugInspection"/>.</summary>
    public const string Plugs = "plug-inspection";

    /// <summary><see cref="OilPressureTest"/>.</summary>
    public const string OilPressure = "oil-pressure";

    /// <summary><see cref="ValveClearanceCheck"/>.</summary>
    public const string ValveClearance = "valve-clearance";

    /// <summary><see cref="ManifoldVacuumTest"/>.</summary>
    public const string Vacuum = "manifold-vacuum";

    /// <summary><see cref="CrankSoundCheck"/>.</summary>
    public const string CrankSound = "crank-sound";

    /// <summary><see cref="OilUseCheck"/>.</summary>
    public const string OilUse = "oil-use";

    /// <summary><see cref="FluidsCheck"/>.</summary>
    public const string Fluids = "fluids";
}
