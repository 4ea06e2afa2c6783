using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>What was found at one cylinder, as the table reads it.</summary>
public sealed class CylinderEvidence
{
    /// <summary>The cylinder.</summary>
    public required int Cylinder { get; init; }

    /// <summary>ln of the dry reading in psi, corrected; absent without one that counts.</summary>
    public double? LnDry { get; internal set; }

    /// <summary>How many readings <see cref="LnDry"/> is the mean of: more than one where repeats agree.</summary>
    public int DryReadings { get; internal set; } = 1;

    /// <summary>Its standard deviation, ln.</summary>
    public double DrySpread { get; internal set; } = LikelihoodTable.DrySpread;

    /// <summary>Factor on the odds of a slip at this cylinder alone: a reading that does not repeat, fewer compressions, repeats that agree.</summary>
    public double TestErrorFactor { get; internal set; } = 1;

    /// <summary>True where it pumps as well as the others and its first compression jumped a tenth further than theirs.</summary>
    public bool JumpsAtFirst { get; internal set; }

    /// <summary>Relative compression; absent where no capture says anything of it.</summary>
    public RelativeEvidence? Relative { get; internal set; }

    /// <summary>The leak-down.</summary>
    public LeakEvidence? Leak { get; internal set; }

    /// <summary>ln(wet/dry).</summary>
    public double? LnWet { get; internal set; }

    /// <summary>True for a dry reading under 60 psi beside the wet one.</summary>
    public bool NearlyDead { get; internal set; }

    /// <summary>ln of running idle against what a sound cylinder gives.</summary>
    public double? LnIdle { get; internal set; }

    /// <summary>The same after a snap.</summary>
    public double? LnSnap { get; internal set; }

    /// <summary>Signs of its plug.</summary>
    public IReadOnlyList<PlugSign> Plug { get; internal set; } = [];

    /// <summary>Its valve clearances.</summary>
    public IReadOnlyList<ValveClearanceReading> Clearances { get; internal set; } = [];
}
