namespace Zandrik.Core.Diagnosis;

/// <summary>The stages of the ledger, in the order in which evidence is added.</summary>
public enum EvidenceStage
{
    /// <summary>Nothing yet: base rates.</summary>
    None,

    /// <summary>What was noticed, and ruled out.</summary>
    Observations,

    /// <summary>Dry compression, of all cylinders.</summary>
    Dry,

    /// <summary>Relative compression.</summary>
    Relative,

    /// <summary>How much a leak-down lost.</summary>
    LeakDownAmount,

    /// <summary>Where its air was heard.</summary>
    LeakDownHeard,

    /// <summary>Wet compression.</summary>
    Wet,

    /// <summary>Running and snap compression.</summary>
    Running,

    /// <summary>Plugs and valve clearances.</summary>
    PlugsAndClearance,

    /// <summary>Combustion gas in the coolant.</summary>
    CombustionGas,
}
