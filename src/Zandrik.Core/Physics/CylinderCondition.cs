namespace Zandrik.Core.Physics;

/// <summary>What is wrong, or merely different, with one cylinder of a simulated engine. Everything 0 (and lifts 1) is a sound one.</summary>
public sealed record CylinderCondition
{
    /// <summary>Factor on the sound ring leak, for build scatter; a ratio.</summary>
    public double RingFactor { get; init; } = 1;

    /// <summary>Factor on all that goes past the rings, for walls that fuel has washed; a ratio.</summary>
    public double WashFactor { get; init; } = 1;

    /// <summary>Factor on the sound leak of the valves, for build scatter; a ratio.</summary>
    public double ValveFactor { get; init; } = 1;

    /// <summary>Ring leak on top, m².</summary>
    public double RingM2 { get; init; }

    /// <summary>Leak through the crown to the crankcase, m²; oil does not seal it.</summary>
    public double CrownM2 { get; init; }

    /// <summary>Leak of the intake valve on top, m².</summary>
    public double IntakeValveM2 { get; init; }

    /// <summary>Leak of the exhaust valve on top, m².</summary>
    public double ExhaustValveM2 { get; init; }

    /// <summary>Leak into the coolant, m².</summary>
    public double CoolantM2 { get; init; }

    /// <summary>Leak to the neighbour with the next higher number in <see cref="GasketTo"/>, m².</summary>
    public double GasketM2 { get; init; }

    /// <summary>The neighbour behind the leaking gasket; absent for none.</summary>
    public int? GasketTo { get; init; }

    /// <summary>Lift of the intake valves against a good lobe; 1 is good, 0.08 hardly opens.</summary>
    public double IntakeLift { get; init; } = 1;

    /// <summary>Lift of the exhaust valves against a good lobe.</summary>
    public double ExhaustLift { get; init; } = 1;

    /// <summary>Volume on top of the clearance, m³: a bent rod adds, carbon takes away.</summary>
    public double VolumeM3 { get; init; }
}
