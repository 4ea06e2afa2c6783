using System.Text.Json.Serialization;
using Zandrik.Core.Units;

namespace Zandrik.Core.Records;

/// <summary>A reading taken at one cylinder. Its own conditions and tester win over those of its test.</summary>
public abstract record CylinderReading : RecordPart
{
    /// <summary>The cylinder, by the maker's numbering.</summary>
    [RecordField("The cylinder, by the maker's numbering.", Required = true, Min = 1, Max = 16)]
    public int Cylinder { get; init; }

    /// <summary>When it was taken; absent means with its test.</summary>
    [RecordField("When it was taken; absent means with its test.")]
    public DateTimeOffset? At { get; init; }

    /// <summary>Who took it; absent means whoever did the test.</summary>
    [RecordField("Who took it; absent means whoever did the test.")]
    public string? By { get; init; }

    /// <summary>Conditions of this reading alone.</summary>
    [RecordField("Conditions of this reading alone.")]
    public TestConditions? Conditions { get; init; }

    /// <summary>The instrument of this reading alone.</summary>
    [RecordField("The instrument of this reading alone.")]
    public Tester? Tester { get; init; }

    /// <summary>Row of this reading, given when superseded readings are exported too.</summary>
    [RecordField("Row of this reading, given when superseded readings are exported too.")]
    public long? Id { get; init; }

    /// <summary>Row of the reading that took this one's place.</summary>
    [RecordField("Row of the reading that took this one's place.")]
    public long? SupersededBy { get; init; }

    /// <summary>The one pressure the reading is about, Pa gauge, struck out or not; absent where it has none or several, as running compression.</summary>
    /// <param name="testUnit">The unit of the test's figures.</param>
    /// <returns>Pa gauge; null where the reading has no one pressure.</returns>
    public virtual double? PressurePa(PressureUnit testUnit) => null;
}

/// <summary>A compression reading, dry or wet.</summary>
public sealed record CompressionReading : CylinderReading
{
    /// <summary>The reading that counts, as read, in the test's unit.</summary>
    [RecordField("The reading that counts, as read.")]
    public double? Value { get; init; }

    /// <summary>The reading after the tester's correction.</summary>
    [RecordField("The reading after the tester's correction.")]
    public double? Corrected { get; init; }

    /// <summary>The gauge after the first compression, in the test's unit.</summary>
    [RecordField("The gauge after the first compression.", Min = 0)]
    public double? FirstPulse { get; init; }

    /// <summary>Compressions given: one per two turns of the crank.</summary>
    [RecordField("Compressions given: one per two turns of the crank.", Min = 0, Max = 1000)]
    public int? Pulses { get; init; }

    /// <summary>Cranking time, s.</summary>
    [RecordField("Cranking time, s.", Min = 0, Max = 1000)]
    public double? Seconds { get; init; }

    /// <summary>Further readings of the same cylinder, the same way: each a number, or an object with what was noted about it.</summary>
    [RecordField("Further readings of the same cylinder, the same way: a number, or an object with what was noted about it.", Min = 0)]
    [JsonConverter(typeof(RepeatReading.ListConverter))]
    public IReadOnlyList<RepeatReading>? Repeats { get; init; }

    /// <summary>What was noted about the reading, in words.</summary>
    [RecordField("What was noted about the reading, in words.")]
    public string? Says { get; init; }

    /// <summary>Why the reading counts for nothing, where it was struck out; its repeats may still count.</summary>
    [RecordField("Why the reading was struck out and counts for nothing.")]
    public StruckOut? Struck { get; init; }

    /// <summary>Place in the order of testing, from 1.</summary>
    [RecordField("Place in the order of testing, from 1.", Min = 1, Max = 1000)]
    public int? Order { get; init; }

    /// <summary>Battery voltage while cranking, V.</summary>
    [RecordField("Battery voltage while cranking, V.", Min = 0, Max = 60)]
    public double? BatteryV { get; init; }

    /// <summary>Cranking speed, turns of the crank per minute.</summary>
    [RecordField("Cranking speed, turns of the crank per minute.", Min = 0, Max = 2000)]
    public double? CrankingRpm { get; init; }

    /// <summary>The gauge after each compression.</summary>
    [RecordField("The gauge after each compression.", Min = 0)]
    public IReadOnlyList<double>? PulseValues { get; init; }

    /// <summary>
    /// The reading in the unit it was taken in, given only where that differs from the test's unit, so
    /// that a unit changed in the middle of a test costs no digit.
    /// </summary>
    [RecordField("The reading in the unit it was taken in, where that differs from the test's.")]
    public PressureAsRead? AsRead { get; init; }

    /// <summary>The repeats in the units they were taken in, in the same order; given only where one differs from the test's unit.</summary>
    [RecordField("The repeats in the units they were taken in, in the same order; only where one differs from the test's unit.")]
    public IReadOnlyList<PressureAsRead>? RepeatsAsRead { get; init; }

    /// <summary>True when the gauge was read and the figure counts: not where it was struck out, or something else took its place.</summary>
    /// <returns>False also where the gauge was not read.</returns>
    public bool Counts() => Value is not null && Struck is null && SupersededBy is null;

    /// <summary>True when the cylinder was measured more than once and more than one of its readings counts.</summary>
    /// <returns>False where only one reading counts.</returns>
    public bool IsRepeated() => Counts() && Repeats?.Any(r => r.Struck is null) == true;

    /// <summary>The reading that counts, as it was read; absent when there is none, or it was struck out.</summary>
    /// <param name="testUnit">The unit of the test's figures.</param>
    /// <returns>The pressure; null when there is none, or it was struck out.</returns>
    public GaugePressure? ReadAs(PressureUnit testUnit) => Struck is null ? FigureAs(testUnit) : null;

    /// <summary>The figure of the reading as it was read, struck out or not.</summary>
    /// <param name="testUnit">The unit of the test's figures.</param>
    /// <returns>The pressure; null when there is none.</returns>
    public GaugePressure? FigureAs(PressureUnit testUnit) =>
        Value is not { } value ? null : AsRead is { } read ? new GaugePressure(read.Value, read.Unit) : new GaugePressure(value, testUnit);

    /// <inheritdoc/>
    public override double? PressurePa(PressureUnit testUnit) => FigureAs(testUnit)?.Pascals;

    /// <summary>The repeats that count, as they were read; empty when there are none.</summary>
    /// <param name="testUnit">The unit of the test's figures.</param>
    /// <returns>The pressures in the order they were taken; empty when there are none.</returns>
    public IReadOnlyList<GaugePressure> RepeatsReadAs(PressureUnit testUnit) =>
        [.. (Repeats ?? []).Select((r, k) => (Repeat: r, Figure: RepeatAs(k, testUnit))).Where(r => r.Repeat.Struck is null).Select(r => r.Figure)];

    /// <summary>The figure of one repeat as it was read, struck out or not.</summary>
    /// <param name="index">Its place among the repeats, from 0.</param>
    /// <param name="testUnit">The unit of the test's figures.</param>
    /// <returns>The pressure.</returns>
    public GaugePressure RepeatAs(int index, PressureUnit testUnit) =>
        RepeatsAsRead is { } read ? new GaugePressure(read[index].Value, read[index].Unit) : new GaugePressure(Repeats![index].Value, testUnit);

    /// <summary>True when a person has said that the unit of a doubtful figure is right.</summary>
    [RecordField("True when a person has said that the unit of a doubtful figure is right.")]
    public bool? UnitConfirmed { get; init; }

    /// <summary>Of a wet reading: all the oil in the cylinder since it was last run and cleared, ml; it wins over the test's.</summary>
    [RecordField("Of a wet reading: all the oil in the cylinder since it was last run and cleared, ml.", Min = 0, Max = 10000)]
    public double? OilMl { get; init; }
}

/// <summary>A pressure as a technician read and typed it.</summary>
public sealed record PressureAsRead : RecordPart
{
    /// <summary>The figure, in <see cref="Unit"/>.</summary>
    [RecordField("The figure.", Required = true)]
    public double Value { get; init; }

    /// <summary>Its unit.</summary>
    [RecordField("Its unit.", Required = true)]
    public PressureUnit Unit { get; init; }
}

/// <summary>A leak-down reading.</summary>
public sealed record LeakDownReading : CylinderReading
{
    /// <summary>Pressure held, in the test's unit.</summary>
    [RecordField("Pressure held, in the test's unit.", Min = 0)]
    public double? Held { get; init; }

    /// <summary>Supply at the same moment, when it differs from the test's.</summary>
    [RecordField("Supply at the same moment, when it differs from the test's.", Min = 0)]
    public double? Supply { get; init; }

    /// <summary>Loss, percent of the supply.</summary>
    [RecordField("Loss, percent of the supply.", Min = -5, Max = 100)]
    public double? LeakPercent { get; init; }

    /// <summary>Where air was heard; absent or empty means nobody listened.</summary>
    [RecordField("Where air was heard; absent or empty means nobody listened.")]
    public IReadOnlyList<HeardAir>? Heard { get; init; }

    /// <summary>Places that were listened at: silent where not in <see cref="Heard"/>.</summary>
    [RecordField("Places that were listened at: silent where not heard.")]
    public IReadOnlyList<ListeningPlace>? Listened { get; init; }

    /// <summary>Why a person left it out of the judgement, in words: the piston moved, the adapter leaked. It stays on record.</summary>
    [RecordField("Why a person left it out of the judgement, in words.")]
    public string? NotUsed { get; init; }

    /// <summary>Whether test oil was in the cylinder; worked out from the order and times of the tests where absent.</summary>
    [RecordField("Whether test oil was in the cylinder; worked out from the order and times of the tests where absent.")]
    public bool? Oiled { get; init; }

    /// <summary>True when a person has said that a doubtful figure stands: the hose was tried, or it was listened again.</summary>
    [RecordField("True when a person has said that a doubtful figure stands.")]
    public bool? Confirmed { get; init; }

    /// <inheritdoc/>
    public override double? PressurePa(PressureUnit testUnit) => Held * testUnit.Pascals();
}

/// <summary>Air heard at one place.</summary>
public sealed record HeardAir : RecordPart
{
    /// <summary>The place.</summary>
    [RecordField("The place.", Required = true)]
    public ListeningPlace At { get; init; }

    /// <summary>How strongly.</summary>
    [RecordField("How strongly.")]
    public HeardStrength? Strength { get; init; }

    /// <summary>The cylinder whose plug hole it was.</summary>
    [RecordField("The cylinder whose plug hole it was.", Min = 1, Max = 16)]
    public int? Cylinder { get; init; }
}

/// <summary>Running compression of one cylinder.</summary>
public sealed record RunningReading : CylinderReading
{
    /// <summary>Pressure at idle, in the test's unit.</summary>
    [RecordField("Pressure at idle.", Min = 0)]
    public double? Idle { get; init; }

    /// <summary>The idle readings after each press of the relief, oldest first; two that agree show that the cranking peak is out.</summary>
    [RecordField("The idle readings after each press of the relief, oldest first.", Min = 0)]
    public IReadOnlyList<double>? IdleReadings { get; init; }

    /// <summary>Pressure after a quick snap of the throttle.</summary>
    [RecordField("Pressure after a quick snap of the throttle.", Min = 0)]
    public double? Snap { get; init; }

    /// <summary>Pressure at held full throttle, in the test's unit: noted, and judged by nothing.</summary>
    [RecordField("Pressure at held full throttle: noted, and judged by nothing.", Min = 0)]
    public double? HeldThrottle { get; init; }

    /// <summary>The spark seen in the tester.</summary>
    [RecordField("The spark seen in the tester.")]
    public SparkSeen? Spark { get; init; }

    /// <summary>True where the cylinder had no dry reading of its own when it was run: what it says is provisional.</summary>
    [RecordField("True where the cylinder had no dry reading of its own when it was run.")]
    public bool? Provisional { get; init; }

    /// <summary>Whether the cranking peak was released until two idle readings agreed.</summary>
    [RecordField("Whether the cranking peak was released until two idle readings agreed.")]
    public bool? Purged { get; init; }
}

/// <summary>Relative compression of one cylinder, against the best.</summary>
public sealed record RelativeReading : CylinderReading
{
    /// <summary>Peak gauge pressure against the best cylinder, percent.</summary>
    [RecordField("Peak gauge pressure against the best cylinder, percent.", Min = 0, Max = 200)]
    public double? RelativePercent { get; init; }

    /// <summary>Its standard error, percent points.</summary>
    [RecordField("Its standard error, percent points.", Min = 0, Max = 100)]
    public double? StandardErrorPercent { get; init; }
}

/// <summary>One hump of a capture that does not tell which cylinder it is, against the best.</summary>
public sealed record RelativeSlotReading : RecordPart
{
    /// <summary>Its place in firing order, from 1; which cylinder is 1 is not known.</summary>
    [RecordField("Its place in firing order, from 1; which cylinder is 1 is not known.", Required = true, Min = 1, Max = 16)]
    public int Slot { get; init; }

    /// <summary>Peak gauge pressure against the best hump, percent.</summary>
    [RecordField("Peak gauge pressure against the best hump, percent.", Required = true, Min = 0, Max = 200)]
    public double RelativePercent { get; init; }

    /// <summary>Its standard error, percent points.</summary>
    [RecordField("Its standard error, percent points.", Min = 0, Max = 100)]
    public double? StandardErrorPercent { get; init; }
}

/// <summary>One plug.</summary>
public sealed record PlugReading : CylinderReading
{
    /// <summary>What it looked like.</summary>
    [RecordField("What it looked like.")]
    public IReadOnlyList<PlugSign>? Signs { get; init; }

    /// <summary>What it smelt of.</summary>
    [RecordField("What it smelt of.")]
    public string? Smell { get; init; }

    /// <summary>What else was seen, in words.</summary>
    [RecordField("What else was seen, in words.")]
    public string? Says { get; init; }

    /// <summary>Put it back, or replace it.</summary>
    [RecordField("Put it back, or replace it.")]
    public bool? Keep { get; init; }
}

/// <summary>Oil pressure at one speed.</summary>
public sealed record OilPressureReading : RecordPart
{
    /// <summary>Engine speed, rpm.</summary>
    [RecordField("Engine speed, rpm.", Min = 0, Max = 20000)]
    public double? Rpm { get; init; }

    /// <summary>Hot or cold oil, in words.</summary>
    [RecordField("Hot or cold oil, in words.")]
    public string? OilTemperature { get; init; }

    /// <summary>Pressure, in the test's unit.</summary>
    [RecordField("Pressure, in the test's unit.", Min = 0)]
    public double? Value { get; init; }

    /// <summary>What the gauge in the dash read at the same moment, in the test's unit.</summary>
    [RecordField("What the gauge in the dash read at the same moment, in the test's unit.", Min = 0)]
    public double? Dash { get; init; }

    /// <summary>Least pressure the maker allows at this speed, in the test's unit.</summary>
    [RecordField("Least pressure the maker allows at this speed.", Min = 0)]
    public double? Minimum { get; init; }
}

/// <summary>Clearance at one valve.</summary>
public sealed record ValveClearanceReading : CylinderReading
{
    /// <summary>Intake or exhaust.</summary>
    [RecordField("Intake or exhaust.")]
    public ValveSide? Valve { get; init; }

    /// <summary>The clearance, in the test's unit.</summary>
    [RecordField("The clearance.", Min = 0, Max = 400)]
    public double? Value { get; init; }

    /// <summary>Least clearance the maker allows, in the test's unit.</summary>
    [RecordField("Least clearance the maker allows.", Min = 0, Max = 400)]
    public double? Minimum { get; init; }

    /// <summary>Largest clearance the maker allows, in the test's unit.</summary>
    [RecordField("Largest clearance the maker allows.", Min = 0, Max = 400)]
    public double? Maximum { get; init; }
}
