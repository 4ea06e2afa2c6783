using System.Text.Json.Serialization;
using Zandrik.Core.Units;

namespace Zandrik.Core.Records;

/// <summary>One test of the record: a kind, how it was done, and its readings or result.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(DryCompressionTest), "compression-dry")]
[JsonDerivedType(typeof(WetCompressionTest), "compression-wet")]
[JsonDerivedType(typeof(LeakDownTest), "leak-down")]
[JsonDerivedType(typeof(RunningCompressionTest), "compression-running")]
[JsonDerivedType(typeof(RelativeCompressionTest), "relative-compression")]
[JsonDerivedType(typeof(CombustionGasTest), "combustion-gas")]
[JsonDerivedType(typeof(PlugInspection), "plug-inspection")]
[JsonDerivedType(typeof(OilPressureTest), "oil-pressure")]
[JsonDerivedType(typeof(ValveClearanceCheck), "valve-clearance")]
[JsonDerivedType(typeof(ManifoldVacuumTest), "manifold-vacuum")]
[JsonDerivedType(typeof(CrankSoundCheck), "crank-sound")]
[JsonDerivedType(typeof(OilUseCheck), "oil-use")]
[JsonDerivedType(typeof(FluidsCheck), "fluids")]
public abstract record TestEntry : RecordPart
{
    /// <summary>When it was done.</summary>
    [RecordField("When it was done.")]
    public DateTimeOffset? At { get; init; }

    /// <summary>Who did it.</summary>
    [RecordField("Who did it.")]
    public string? By { get; init; }

    /// <summary>The instrument.</summary>
    [RecordField("The instrument.")]
    public Tester? Tester { get; init; }

    /// <summary>How it was done.</summary>
    [RecordField("How it was done.")]
    public TestConditions? Conditions { get; init; }

    /// <summary>What kind of test it is.</summary>
    [JsonIgnore]
    public abstract TestKind Kind { get; }

    /// <summary>Its readings cylinder by cylinder; empty for a test that has none.</summary>
    [JsonIgnore]
    public virtual IReadOnlyList<CylinderReading> CylinderReadings => [];

    /// <summary>The unit of its gauge pressures; absent where it names none (<see cref="RecordRules.UnitOf"/>), or has none.</summary>
    [JsonIgnore]
    public virtual PressureUnit? GaugeUnit => null;
}

/// <summary>Dry compression: the gauge reading of each cylinder while cranking.</summary>
public sealed record DryCompressionTest : TestEntry
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override TestKind Kind => TestKind.Dry;

    /// <inheritdoc/>
    [JsonIgnore]
    public override IReadOnlyList<CylinderReading> CylinderReadings => Readings ?? [];

    /// <inheritdoc/>
    [JsonIgnore]
    public override PressureUnit? GaugeUnit => Unit;

    /// <summary>The unit of its pressures; absent means the spec's unit, else psi.</summary>
    [RecordField("The unit of its pressures; absent means the spec's unit, else psi.")]
    public PressureUnit? Unit { get; init; }

    /// <summary>What it was done for, where not to judge the engine: a gauge check compares gauges and judges no cylinder.</summary>
    [RecordField("What it was done for, where not to judge the engine: a gauge check compares gauges and judges no cylinder.")]
    public TestRole? Role { get; init; }

    /// <summary>Compressions given to each cylinder, where a reading does not say its own.</summary>
    [RecordField("Compressions given to each cylinder, where a reading does not say its own.", Min = 1, Max = 1000)]
    public int? Count { get; init; }

    /// <summary>The order in which the cylinders are to be tested; absent for 1 to N.</summary>
    [RecordField("The order in which the cylinders are to be tested; absent for 1 to N.", Min = 1, Max = 16)]
    public IReadOnlyList<int>? TestOrder { get; init; }

    /// <summary>The readings, in the order they were taken unless they give an order.</summary>
    [RecordField("The readings, in the order they were taken unless they give an order.")]
    public IReadOnlyList<CompressionReading>? Readings { get; init; }
}

/// <summary>Wet compression: the same with a little oil in the cylinder.</summary>
public sealed record WetCompressionTest : TestEntry
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override TestKind Kind => TestKind.Wet;

    /// <inheritdoc/>
    [JsonIgnore]
    public override IReadOnlyList<CylinderReading> CylinderReadings => Readings ?? [];

    /// <inheritdoc/>
    [JsonIgnore]
    public override PressureUnit? GaugeUnit => Unit;

    /// <summary>The unit of its pressures; absent means the spec's unit, else psi.</summary>
    [RecordField("The unit of its pressures; absent means the spec's unit, else psi.")]
    public PressureUnit? Unit { get; init; }

    /// <summary>Compressions given to each cylinder, where a reading does not say its own.</summary>
    [RecordField("Compressions given to each cylinder, where a reading does not say its own.", Min = 1, Max = 1000)]
    public int? Count { get; init; }

    /// <summary>Oil put into each cylinder, ml.</summary>
    [RecordField("Oil put into each cylinder, ml.", Min = 0, Max = 1000)]
    public double? OilMl { get; init; }

    /// <summary>The readings.</summary>
    [RecordField("The readings.")]
    public IReadOnlyList<CompressionReading>? Readings { get; init; }
}

/// <summary>Leak-down: how much of a supply of air a cylinder holds at top dead centre, and where the rest goes.</summary>
public sealed record LeakDownTest : TestEntry
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override TestKind Kind => TestKind.LeakDown;

    /// <inheritdoc/>
    [JsonIgnore]
    public override IReadOnlyList<CylinderReading> CylinderReadings => Readings ?? [];

    /// <inheritdoc/>
    [JsonIgnore]
    public override PressureUnit? GaugeUnit => Unit;

    /// <summary>The unit of supply and held pressure; absent means the spec's unit, else psi.</summary>
    [RecordField("The unit of supply and held pressure; absent means the spec's unit, else psi.")]
    public PressureUnit? Unit { get; init; }

    /// <summary>The supply pressure, in the test's unit.</summary>
    [RecordField("The supply pressure.", Min = 0)]
    public double? Supply { get; init; }

    /// <summary>The readings.</summary>
    [RecordField("The readings.")]
    public IReadOnlyList<LeakDownReading>? Readings { get; init; }
}

/// <summary>Running and snap compression of a throttled engine.</summary>
public sealed record RunningCompressionTest : TestEntry
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override TestKind Kind => TestKind.Running;

    /// <inheritdoc/>
    [JsonIgnore]
    public override IReadOnlyList<CylinderReading> CylinderReadings => Readings ?? [];

    /// <inheritdoc/>
    [JsonIgnore]
    public override PressureUnit? GaugeUnit => Unit;

    /// <summary>The unit of its pressures; absent means the spec's unit, else psi.</summary>
    [RecordField("The unit of its pressures; absent means the spec's unit, else psi.")]
    public PressureUnit? Unit { get; init; }

    /// <summary>The readings.</summary>
    [RecordField("The readings.")]
    public IReadOnlyList<RunningReading>? Readings { get; init; }
}

/// <summary>Relative compression from starter current.</summary>
public sealed record RelativeCompressionTest : TestEntry
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override TestKind Kind => TestKind.Relative;

    /// <inheritdoc/>
    [JsonIgnore]
    public override IReadOnlyList<CylinderReading> CylinderReadings => Readings ?? [];

    /// <summary>The readings.</summary>
    [RecordField("The readings.")]
    public IReadOnlyList<RelativeReading>? Readings { get; init; }

    /// <summary>The humps of a capture without usable sync, in place of readings: all of them, in firing order.</summary>
    [RecordField("The humps of a capture without usable sync, in place of readings: all of them, in firing order.")]
    public IReadOnlyList<RelativeSlotReading>? Slots { get; init; }
}

/// <summary>Combustion gas in the coolant, by test fluid.</summary>
public sealed record CombustionGasTest : TestEntry
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override TestKind Kind => TestKind.CombustionGas;

    /// <summary>What the fluid said.</summary>
    [RecordField("What the fluid said.")]
    public CombustionGasResult? Result { get; init; }
}

/// <summary>The plugs, read as they came out.</summary>
public sealed record PlugInspection : TestEntry
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override TestKind Kind => TestKind.Plugs;

    /// <inheritdoc/>
    [JsonIgnore]
    public override IReadOnlyList<CylinderReading> CylinderReadings => Readings ?? [];

    /// <summary>The plugs.</summary>
    [RecordField("The plugs.")]
    public IReadOnlyList<PlugReading>? Readings { get; init; }
}

/// <summary>Oil pressure with a mechanical gauge.</summary>
public sealed record OilPressureTest : TestEntry
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override TestKind Kind => TestKind.OilPressure;

    /// <summary>The unit of its pressures; absent means psi.</summary>
    [RecordField("The unit of its pressures; absent means psi.")]
    public PressureUnit? Unit { get; init; }

    /// <summary>Pressure at each speed.</summary>
    [RecordField("Pressure at each speed.")]
    public IReadOnlyList<OilPressureReading>? Readings { get; init; }
}

/// <summary>Valve clearances, measured cold.</summary>
public sealed record ValveClearanceCheck : TestEntry
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override TestKind Kind => TestKind.ValveClearance;

    /// <summary>The unit of length, mm unless said.</summary>
    [RecordField("The unit of length, mm unless said.")]
    public ClearanceUnit? Unit { get; init; }

    /// <summary>False where the clearances of this engine cannot be set.</summary>
    [RecordField("False where the clearances of this engine cannot be set.")]
    public bool? Adjustable { get; init; }

    /// <summary>Clearance at each valve.</summary>
    [RecordField("Clearance at each valve.")]
    public IReadOnlyList<ValveClearanceReading>? Readings { get; init; }
}

/// <summary>Manifold vacuum at idle.</summary>
public sealed record ManifoldVacuumTest : TestEntry
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override TestKind Kind => TestKind.Vacuum;

    /// <summary>The unit; absent means kPa.</summary>
    [RecordField("The unit; absent means kPa.")]
    public PressureUnit? Unit { get; init; }

    /// <summary>Vacuum below the air outside, in the test's unit.</summary>
    [RecordField("Vacuum below the air outside.", Min = 0)]
    public double? Value { get; init; }

    /// <summary>What the needle did.</summary>
    [RecordField("What the needle did.")]
    public VacuumBehaviour? Behaviour { get; init; }
}

/// <summary>How the engine sounds on the starter.</summary>
public sealed record CrankSoundCheck : TestEntry
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override TestKind Kind => TestKind.CrankSound;

    /// <summary>What was heard.</summary>
    [RecordField("What was heard.")]
    public CrankSoundResult? Result { get; init; }
}

/// <summary>Oil use over a distance.</summary>
public sealed record OilUseCheck : TestEntry
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override TestKind Kind => TestKind.OilUse;

    /// <summary>Oil used, litres.</summary>
    [RecordField("Oil used, litres.", Min = 0, Max = 10000)]
    public double? Litres { get; init; }

    /// <summary>The distance or time it was used over.</summary>
    [RecordField("The distance or time it was used over.")]
    public Odometer? Distance { get; init; }
}

/// <summary>What the fluids look like.</summary>
public sealed record FluidsCheck : TestEntry
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override TestKind Kind => TestKind.Fluids;

    /// <summary>What was found.</summary>
    [RecordField("What was found.")]
    public IReadOnlyList<FluidFinding>? Findings { get; init; }

    /// <summary>Whether coolant stood in the intake tract, where the engine heats its manifold with coolant.</summary>
    [RecordField("Whether coolant stood in the intake tract.")]
    public bool? CoolantInIntake { get; init; }

    /// <summary>Gas from the oil filler with the engine running: none, a little and even, much, or in puffs with one cylinder.</summary>
    [RecordField("Gas from the oil filler with the engine running.")]
    public BlowBy? BlowBy { get; init; }
}
