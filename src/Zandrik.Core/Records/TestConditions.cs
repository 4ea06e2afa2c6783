using Zandrik.Core.Units;

namespace Zandrik.Core.Records;

/// <summary>
/// How a test, or one reading of it, was done. A reading's own conditions win over the test's, field by
/// field; what is absent was not recorded.
/// </summary>
public sealed record TestConditions : RecordPart
{
    /// <summary>Warm or cold.</summary>
    [RecordField("Warm or cold engine.")]
    public EngineTemperature? EngineTemperature { get; init; }

    /// <summary>Throttle plate: seen open, closed, or not looked at.</summary>
    [RecordField("Throttle plate: seen open, closed, or not looked at.")]
    public ThrottlePlate? Throttle { get; init; }

    /// <summary>All plugs out, or one at a time.</summary>
    [RecordField("All plugs out, or one at a time.")]
    public PlugsRemoved? Plugs { get; init; }

    /// <summary>Fuel off or on while cranking.</summary>
    [RecordField("Fuel off or on while cranking.")]
    public Supply? Fuel { get; init; }

    /// <summary>Ignition off or on while cranking.</summary>
    [RecordField("Ignition off or on while cranking.")]
    public Supply? Ignition { get; init; }

    /// <summary>The battery.</summary>
    [RecordField("The battery.")]
    public BatteryState? Battery { get; init; }

    /// <summary>Air pressure at the engine, kPa absolute.</summary>
    [RecordField("Air pressure at the engine, kPa absolute.", Min = 40, Max = 115)]
    public double? BarometricKPa { get; init; }

    /// <summary>Where the check valve sits.</summary>
    [RecordField("Where the check valve sits.")]
    public CheckValvePlace? CheckValve { get; init; }

    /// <summary>What ended each reading.</summary>
    [RecordField("What ended each reading.")]
    public CountMode? CountMode { get; init; }

    /// <summary>True when cylinders still hold oil from a wet test.</summary>
    [RecordField("True when cylinders still hold oil from a wet test.")]
    public bool? OilBefore { get; init; }

    /// <summary>Whether the needle rested at zero before each reading.</summary>
    [RecordField("Whether the needle rested at zero before each reading.")]
    public bool? NeedleAtZero { get; init; }

    /// <summary>Lines of the preparation list that nobody had ticked when this was read.</summary>
    [RecordField("Lines of the preparation list that nobody had ticked when this was read.")]
    public IReadOnlyList<PreparationItem>? NotPrepared { get; init; }

    /// <summary>These conditions where they are recorded, those of <paramref name="test"/> where not.</summary>
    /// <returns>The conditions, each field from the first that has it.</returns>
    public TestConditions Over(TestConditions test) => new()
    {
        EngineTemperature = EngineTemperature ?? test.EngineTemperature,
        Throttle = Throttle ?? test.Throttle,
        Plugs = Plugs ?? test.Plugs,
        Fuel = Fuel ?? test.Fuel,
        Ignition = Ignition ?? test.Ignition,
        Battery = Battery ?? test.Battery,
        BarometricKPa = BarometricKPa ?? test.BarometricKPa,
        CheckValve = CheckValve ?? test.CheckValve,
        CountMode = CountMode ?? test.CountMode,
        OilBefore = OilBefore ?? test.OilBefore,
        NeedleAtZero = NeedleAtZero ?? test.NeedleAtZero,
        NotPrepared = NotPrepared ?? test.NotPrepared,
        Unknown = Unknown ?? test.Unknown,
    };
}

/// <summary>The instrument a reading was taken with.</summary>
public sealed record Tester : RecordPart
{
    /// <summary>What the shop calls it.</summary>
    [RecordField("What the shop calls it.")]
    public string? Label { get; init; }

    /// <summary>Where its check valve sits.</summary>
    [RecordField("Where its check valve sits.")]
    public CheckValvePlace? CheckValve { get; init; }

    /// <summary>The day it was last checked against a reference.</summary>
    [RecordField("The day it was last checked against a reference.")]
    public DateOnly? LastChecked { get; init; }

    /// <summary>The unit of <see cref="CheckPoints"/>; absent means psi.</summary>
    [RecordField("The unit of the check points; absent means psi.")]
    public PressureUnit? CheckUnit { get; init; }

    /// <summary>
    /// What the last check against a reference gave, point by point: from it readings are corrected
    /// (<see cref="Records.GaugeCorrection"/>). It travels with the test, so that a later check rewrites no verdict.
    /// </summary>
    [RecordField("What the last check against a reference gave: readings are corrected along these points.")]
    public IReadOnlyList<CheckPoint>? CheckPoints { get; init; }

    /// <summary>Diameter of a leak-down tester's restriction, mm.</summary>
    [RecordField("Diameter of a leak-down tester's restriction, mm.", Min = 0.1, Max = 10)]
    public double? RestrictionMm { get; init; }
}

/// <summary>One point of a gauge's check.</summary>
public sealed record CheckPoint : RecordPart
{
    /// <summary>What the gauge read, in the tester's unit.</summary>
    [RecordField("What the gauge read.", Required = true, Min = 0)]
    public double Reads { get; init; }

    /// <summary>What it was by the reference, in the tester's unit.</summary>
    [RecordField("What it was by the reference.", Required = true, Min = 0)]
    public double Is { get; init; }
}
