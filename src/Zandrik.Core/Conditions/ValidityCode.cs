namespace Zandrik.Core.Conditions;

/// <summary>What the way of testing did to the numbers: the codes of the open format (docs/dry-test.md, docs/leak-down.md, docs/wet-and-running.md).</summary>
public enum ValidityCode
{
    /// <summary>Thin air was not taken into account.</summary>
    AltitudeUncorrected,

    /// <summary>The battery turned the engine slowly.</summary>
    BatteryWeak,

    /// <summary>A check valve in the gauge head: the hose volume is compressed too.</summary>
    CheckValveInHead,

    /// <summary>Not every cylinder was read.</summary>
    CylindersMissing,

    /// <summary>Readings of one cylinder lie too far apart.</summary>
    DoesNotRepeat,

    /// <summary>Tested cold.</summary>
    EngineCold,

    /// <summary>The readings fall in the order they were taken.</summary>
    FallsWithOrder,

    /// <summary>Fuel was on.</summary>
    FuelOn,

    /// <summary>The needle did not stand at zero.</summary>
    GaugeNotZero,

    /// <summary>Ignition was on.</summary>
    IgnitionOn,

    /// <summary>No engine reads that.</summary>
    ImplausibleReading,

    /// <summary>The check valve was left in the leak-down hose.</summary>
    LeakDownCheckValveLeftIn,

    /// <summary>A supply that percentages of the trade are not made for.</summary>
    LeakDownNonstandardSupply,

    /// <summary>Read off top dead centre.</summary>
    LeakDownOffTdc,

    /// <summary>Read on the wrong stroke.</summary>
    LeakDownWrongStroke,

    /// <summary>More than one gauge in a comparison.</summary>
    MixedTesters,

    /// <summary>Steps of the preparation were not ticked when it was read.</summary>
    NotPrepared,

    /// <summary>Read dry over test oil.</summary>
    OilBeforeDry,

    /// <summary>Leak-down over test oil.</summary>
    OilBeforeLeakDown,

    /// <summary>Other plugs were in.</summary>
    PlugsOneAtATime,

    /// <summary>Too few compressions.</summary>
    PulsesFew,

    /// <summary>Unequal numbers of compressions.</summary>
    PulsesUnequal,

    /// <summary>No maker's figure.</summary>
    SpecMissing,

    /// <summary>The throttle was shut.</summary>
    ThrottleClosed,

    /// <summary>Nobody looked whether the throttle was open.</summary>
    ThrottleUnverified,

    /// <summary>The gauge still held the cranking peak.</summary>
    TrappedPeak,

    /// <summary>The unit of a figure is in doubt.</summary>
    UnitDoubtful,

    /// <summary>Oil brought back more than rings can explain.</summary>
    WetExcessGain,
}
