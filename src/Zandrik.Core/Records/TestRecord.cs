using System.Text.Json.Serialization;

namespace Zandrik.Core.Records;

/// <summary>
/// The open test record, version 1: everything measured on one engine in one job. It is the export, the
/// import and the body of the API. A value that was not measured is absent, never 0 or an empty text.
/// Read and write it with <see cref="TestRecordJson"/>.
/// </summary>
public sealed record TestRecord : RecordPart
{
    /// <summary>The name every record carries.</summary>
    public const string FormatName = "zandrik-test-record";

    /// <summary>The version of the format this program reads and writes.</summary>
    public const int FormatVersion = 1;

    /// <summary>Always <see cref="FormatName"/>.</summary>
    [RecordField("The name of the format.", Required = true)]
    public string Format { get; init; } = FormatName;

    /// <summary>Always <see cref="FormatVersion"/>.</summary>
    [RecordField("The version of the format.", Required = true, Min = 1, Max = 1)]
    public int Version { get; init; } = FormatVersion;

    /// <summary>The vehicle or machine the engine sits in.</summary>
    [RecordField("The vehicle or machine the engine sits in.")]
    public Vehicle? Vehicle { get; init; }

    /// <summary>The engine under test.</summary>
    [RecordField("The engine under test.", Required = true)]
    public EngineSheet Engine { get; init; } = new();

    /// <summary>Why the test is asked for, in the customer's or technician's words.</summary>
    [RecordField("Why the test is asked for, in words.")]
    public string? Complaint { get; init; }

    /// <summary>What was noticed before any test.</summary>
    [RecordField("What was noticed before any test.")]
    public IReadOnlyList<Observation>? Observations { get; init; }

    /// <summary>What was already ruled out, and how: it shifts what is likely.</summary>
    [RecordField("What was already ruled out, and how.")]
    public IReadOnlyList<RuledOut>? RuledOut { get; init; }

    /// <summary>The tests, in the order they were done.</summary>
    [RecordField("The tests, in the order they were done.")]
    public IReadOnlyList<TestEntry>? Tests { get; init; }

    /// <summary>What was found when the engine was open.</summary>
    [RecordField("What was found when the engine was open.")]
    public IReadOnlyList<FoundFault>? Found { get; init; }

    /// <summary>A shop's settings for judging, which travel with its record.</summary>
    [RecordField("A shop's settings for judging; without it the defaults hold.")]
    public JudgeBy? JudgeBy { get; init; }
}

/// <summary>The vehicle or machine an engine sits in.</summary>
public sealed record Vehicle : RecordPart
{
    /// <summary>What the shop calls it.</summary>
    [RecordField("What the shop calls it.")]
    public string? Label { get; init; }

    /// <summary>Distance or hours run.</summary>
    [RecordField("Distance or hours run.")]
    public Odometer? Odometer { get; init; }
}

/// <summary>A distance or running time with its unit.</summary>
public sealed record Odometer : RecordPart
{
    /// <summary>The figure, in <see cref="Unit"/>.</summary>
    [RecordField("The figure.", Required = true, Min = 0, Max = 1e8)]
    public double Value { get; init; }

    /// <summary>Kilometres, miles or hours.</summary>
    [RecordField("Kilometres, miles or hours.", Required = true)]
    public DistanceUnit Unit { get; init; }
}

/// <summary>What can be ruled out before the test; each excludes what it names and nothing else.</summary>
public enum RuledOutItem
{
    /// <summary>The spark: coil, lead, plug.</summary>
    Spark,

    /// <summary>Fuel to the engine: pump, pressure, mixture.</summary>
    Fuel,

    /// <summary>The injector of a cylinder.</summary>
    Injector,

    /// <summary>The oil cooler, as a way between oil and coolant.</summary>
    OilCooler,

    /// <summary>The exhaust-gas cooler, as a source of gas in the coolant.</summary>
    EgrCooler,

    /// <summary>An intake manifold heated with coolant, as a way of coolant into a cylinder.</summary>
    HeatedIntake,

    /// <summary>Cap and hoses of the cooling system.</summary>
    CapOrHose,

    /// <summary>Something else, in words.</summary>
    Other,
}

/// <summary>Something already ruled out before the test.</summary>
public sealed record RuledOut : RecordPart
{
    /// <summary>What it is, of the list; absent in records that say it only in words.</summary>
    [RecordField("What is ruled out; only the item named is excluded.")]
    public RuledOutItem? Item { get; init; }

    /// <summary>The part or cause.</summary>
    [RecordField("The part or cause.")]
    public string? What { get; init; }

    /// <summary>How it was ruled out.</summary>
    [RecordField("How it was ruled out.")]
    public string? How { get; init; }

    /// <summary>Who did it.</summary>
    [RecordField("Who did it.")]
    public string? By { get; init; }
}

/// <summary>What was found on the open engine.</summary>
public sealed record FoundFault : RecordPart
{
    /// <summary>The cylinder; absent for something engine-wide.</summary>
    [RecordField("The cylinder; absent for something engine-wide.", Min = 1, Max = 16)]
    public int? Cylinder { get; init; }

    /// <summary>The fault that was found.</summary>
    [RecordField("The fault that was found.", Required = true)]
    public Fault Fault { get; init; }

    /// <summary>The other cylinder of a gasket fault between two.</summary>
    [RecordField("The other cylinder of a gasket fault between two.", Min = 1, Max = 16)]
    public int? With { get; init; }

    /// <summary>What it looked like.</summary>
    [RecordField("What it looked like.")]
    public string? Says { get; init; }

    /// <summary>When it was found.</summary>
    [RecordField("When it was found.")]
    public DateTimeOffset? At { get; init; }

    /// <summary>Who found it.</summary>
    [RecordField("Who found it.")]
    public string? By { get; init; }
}

/// <summary>A shop's settings for judging.</summary>
public sealed record JudgeBy : RecordPart
{
    /// <summary>The method whose verdict decides the state of a cylinder.</summary>
    [RecordField("The method whose verdict decides the state of a cylinder.")]
    [JsonPropertyName("decidingSchool")]
    public SpreadMethod? DecidingMethod { get; init; }

    /// <summary>
    /// Limits by method: good up to, marginal up to. Percent (falling for lowest-to-highest; of the
    /// maker's figure for maker-difference), psi for fixed-pressure.
    /// </summary>
    [RecordField("Limits by method: good up to, marginal up to; percent, or psi for fixed-pressure.")]
    public IReadOnlyDictionary<SpreadMethod, IReadOnlyList<double>>? Limits { get; init; }

    /// <summary>
    /// The methods that can put a cylinder under watch; absent for the trade's choice (see
    /// <see cref="Readings.JudgingRules.IsInUse"/>). The deciding method is always among them.
    /// </summary>
    [RecordField("The methods that can put a cylinder under watch; absent for the usual ones.")]
    [JsonPropertyName("schoolsInUse")]
    public IReadOnlyList<SpreadMethod>? MethodsInUse { get; init; }

    /// <summary>How strictly leak-down figures are read.</summary>
    [RecordField("How strictly leak-down figures are read.")]
    [JsonPropertyName("leakDownSchool")]
    public LeakDownMethod? LeakDownMethod { get; init; }

    /// <summary>Below this a cylinder is low in relative compression, percent of the best; absent for the usual <see cref="RelativeCompression.CaptureQuestion.UsualLimitPercent"/>.</summary>
    [RecordField("Below this a cylinder is low in relative compression, percent of the best; absent for 85.", Min = 50, Max = 99)]
    public double? RelativeLimitPercent { get; init; }

    /// <summary>Height of the shop above sea level, metres.</summary>
    [RecordField("Height of the shop above sea level, m.", Min = -500, Max = 6000)]
    public double? AltitudeM { get; init; }

    /// <summary>Price of an hour's work, in <see cref="Currency"/>: what a test saves is then said in money too.</summary>
    [RecordField("Price of an hour's work, in currency: what a test saves is then said in money too.", Min = 0, Max = 1000000)]
    public double? LabourRate { get; init; }

    /// <summary>The currency, as the shop writes it.</summary>
    [RecordField("The currency, as the shop writes it.")]
    public string? Currency { get; init; }
}
