using Zandrik.Core.Units;

namespace Zandrik.Core.Records;

/// <summary>
/// An engine as its sheet describes it. Only the number of cylinders is needed; everything that is
/// absent is unknown, and what Zandrik assumes instead is said where it is used
/// (<see cref="Engines.CylinderLayout"/>, <see cref="Readings.JudgingRules"/>).
/// </summary>
public sealed record EngineSheet : RecordPart
{
    /// <summary>What the shop calls the engine.</summary>
    [RecordField("What the shop calls the engine.")]
    public string? Name { get; init; }

    /// <summary>Serial number, or the shop's tag, of this one engine; never on a workshop sheet, which is of many.</summary>
    [RecordField("Serial number, or the shop's tag, of this one engine.")]
    public string? Serial { get; init; }

    /// <summary>What it burns.</summary>
    [RecordField("What it burns.")]
    public Fuel? Fuel { get; init; }

    /// <summary>Number of cylinders, 1 to 16.</summary>
    [RecordField("Number of cylinders.", Required = true, Min = 1, Max = 16)]
    public int Cylinders { get; init; }

    /// <summary>How the cylinders are arranged.</summary>
    [RecordField("How the cylinders are arranged.")]
    public CylinderArrangement? Layout { get; init; }

    /// <summary>Cylinder numbers by bank, each from the front of the engine to the back.</summary>
    [RecordField("Cylinder numbers by bank, each from the front of the engine to the back.", Min = 1, Max = 16)]
    public IReadOnlyList<IReadOnlyList<int>>? Banks { get; init; }

    /// <summary>Cylinder numbers in the order they fire.</summary>
    [RecordField("Cylinder numbers in the order they fire.", Min = 1, Max = 16)]
    public IReadOnlyList<int>? FiringOrder { get; init; }

    /// <summary>Cylinders that share a branch of the intake, group by group.</summary>
    [RecordField("Cylinders that share a branch of the intake, group by group.", Min = 1, Max = 16)]
    public IReadOnlyList<IReadOnlyList<int>>? IntakeBranches { get; init; }

    /// <summary>Crank degrees at which each cylinder of the firing order fires, counted from the first.</summary>
    [RecordField("Crank degrees at which each cylinder of the firing order fires, from the first.", Min = 0, Max = 720)]
    public IReadOnlyList<double>? FiringAngles { get; init; }

    /// <summary>Which way the crank turns, seen from the front.</summary>
    [RecordField("Which way the crank turns, seen from the front.")]
    public Rotation? Rotation { get; init; }

    /// <summary>Compression ratio, to 1.</summary>
    [RecordField("Compression ratio, to 1.", Min = 2, Max = 40)]
    public double? CompressionRatio { get; init; }

    /// <summary>Bore, mm.</summary>
    [RecordField("Bore, mm.", Min = 10, Max = 1000)]
    public double? BoreMm { get; init; }

    /// <summary>Stroke, mm.</summary>
    [RecordField("Stroke, mm.", Min = 10, Max = 3000)]
    public double? StrokeMm { get; init; }

    /// <summary>Displacement of the whole engine, cm³.</summary>
    [RecordField("Displacement of the whole engine, cm³.", Min = 10, Max = 1e6)]
    public double? DisplacementCc { get; init; }

    /// <summary>How the throttle plate is moved.</summary>
    [RecordField("How the throttle plate is moved.")]
    public ThrottleControl? Throttle { get; init; }

    /// <summary>The gearbox behind it.</summary>
    [RecordField("The gearbox behind it.")]
    public Gearbox? Gearbox { get; init; }

    /// <summary>Solid or hydraulic lifters.</summary>
    [RecordField("Solid or hydraulic lifters.")]
    public Lifters? Lifters { get; init; }

    /// <summary>Inclination of the cylinders from upright, degrees.</summary>
    [RecordField("Inclination of the cylinders from upright, degrees.", Min = 0, Max = 180)]
    public double? InclinationDeg { get; init; }

    /// <summary>Minutes until the plugs can be reached; absent where nobody said.</summary>
    [RecordField("Minutes until the plugs can be reached.", Min = 0, Max = 2880)]
    public double? AccessMinutes { get; init; }

    /// <summary>Features that change a test or lay a false trail.</summary>
    [RecordField("Features that change a test or lay a false trail.")]
    public IReadOnlyList<EngineFeature>? Features { get; init; }

    /// <summary>True for an engine that is said to sit in a hybrid.</summary>
    internal bool IsHybrid => Features?.Contains(EngineFeature.Hybrid) == true;

    /// <summary>The maker's figures.</summary>
    [RecordField("The maker's figures.")]
    public EngineSpec? Spec { get; init; }
}

/// <summary>The maker's figures for compression and leak-down. The maker's figure always wins over a rule of thumb.</summary>
public sealed record EngineSpec : RecordPart
{
    /// <summary>The unit of the pressures here; absent means psi.</summary>
    [RecordField("The unit of the pressures here; absent means psi.")]
    public PressureUnit? Unit { get; init; }

    /// <summary>Compression of a sound engine, in <see cref="Unit"/>.</summary>
    [RecordField("Compression of a sound engine.", Min = 0)]
    public double? Nominal { get; init; }

    /// <summary>Lowest compression the maker allows, in <see cref="Unit"/>.</summary>
    [RecordField("Lowest compression the maker allows.", Min = 0)]
    public double? Minimum { get; init; }

    /// <summary>Largest difference between cylinders the maker allows, in <see cref="Unit"/>.</summary>
    [RecordField("Largest difference between cylinders the maker allows.", Min = 0)]
    public double? MaxDifference { get; init; }

    /// <summary>Largest leak-down loss the maker allows, percent.</summary>
    [RecordField("Largest leak-down loss the maker allows, percent.", Min = 0, Max = 100)]
    public double? MaxLeakPercent { get; init; }

    /// <summary>Whether the maker or the shop allows a wet test.</summary>
    [RecordField("Whether the maker or the shop allows a wet test.")]
    public bool? WetAllowed { get; init; }
}
