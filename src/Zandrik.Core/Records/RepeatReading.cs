using System.Text.Json;
using System.Text.Json.Serialization;

namespace Zandrik.Core.Records;

/// <summary>Why a reading was struck out.</summary>
public enum StruckReason
{
    /// <summary>The gauge still rose when the crank stopped.</summary>
    CrankedTooShort,

    /// <summary>The hose, its seal or its adapter leaked.</summary>
    HoseLeaked,

    /// <summary>It was another cylinder.</summary>
    WrongCylinder,

    /// <summary>Something else, in words.</summary>
    Other,
}

/// <summary>A reading struck out by whoever took it: it stays on record and counts for nothing.</summary>
public sealed record StruckOut : RecordPart
{
    /// <summary>Why.</summary>
    [RecordField("Why it was struck out.", Required = true)]
    public StruckReason Reason { get; init; }

    /// <summary>What else is to be said, in words.</summary>
    [RecordField("What else is to be said about it, in words.")]
    public string? Says { get; init; }
}

/// <summary>
/// A further reading of a cylinder, with what was noted about it and about no other. In a record it is a plain number
/// where nothing was noted, else an object.
/// </summary>
public sealed record RepeatReading : RecordPart
{
    /// <summary>The reading, in the test's unit.</summary>
    [RecordField("The reading, in the test's unit.", Required = true, Min = 0)]
    public double Value { get; init; }

    /// <summary>The gauge after the first compression, in the test's unit.</summary>
    [RecordField("The gauge after the first compression.", Min = 0)]
    public double? FirstPulse { get; init; }

    /// <summary>Compressions given: one per two turns of the crank.</summary>
    [RecordField("Compressions given: one per two turns of the crank.", Min = 0, Max = 1000)]
    public int? Pulses { get; init; }

    /// <summary>Cranking time, s.</summary>
    [RecordField("Cranking time, s.", Min = 0, Max = 1000)]
    public double? Seconds { get; init; }

    /// <summary>Battery voltage while cranking, V.</summary>
    [RecordField("Battery voltage while cranking, V.", Min = 0, Max = 60)]
    public double? BatteryV { get; init; }

    /// <summary>Cranking speed, turns of the crank per minute.</summary>
    [RecordField("Cranking speed, turns of the crank per minute.", Min = 0, Max = 2000)]
    public double? CrankingRpm { get; init; }

    /// <summary>The gauge after each compression.</summary>
    [RecordField("The gauge after each compression.", Min = 0)]
    public IReadOnlyList<double>? PulseValues { get; init; }

    /// <summary>What was noted about it, in words.</summary>
    [RecordField("What was noted about it, in words.")]
    public string? Says { get; init; }

    /// <summary>Why it counts for nothing; absent where it counts.</summary>
    [RecordField("Why it was struck out; absent where it counts.")]
    public StruckOut? Struck { get; init; }

    /// <summary>A repeat of which nothing but the figure is known.</summary>
    /// <param name="value">The figure, in the test's unit.</param>
    public static implicit operator RepeatReading(double value) => new() { Value = value };

    // True when there is nothing to say but the figure: it is written as a number then.
    private bool IsBare => this == Value;

    /// <summary>Reads and writes the repeats of a reading, each a number or an object.</summary>
    internal sealed class ListConverter : JsonConverter<IReadOnlyList<RepeatReading>>
    {
        public override IReadOnlyList<RepeatReading> Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options)
        {
            if (reader.TokenType != JsonTokenType.StartArray)
            {
                throw new JsonException("Repeats are a list.");
            }
            var repeats = new List<RepeatReading>();
            while (reader.Read() && reader.TokenType != JsonTokenType.EndArray)
            {
                repeats.Add(reader.TokenType == JsonTokenType.Number ? reader.GetDouble() : JsonSerializer.Deserialize<RepeatReading>(ref reader, options)!);
            }
            return repeats;
        }

        public override void Write(Utf8JsonWriter writer, IReadOnlyList<RepeatReading> value, JsonSerializerOptions options)
        {
            writer.WriteStartArray();
            foreach (var repeat in value)
            {
                if (repeat.IsBare)
                {
                    writer.WriteNumberValue(repeat.Value);
                }
                else
                {
                    JsonSerializer.Serialize(writer, repeat, options);
                }
            }
            writer.WriteEndArray();
        }
    }
}
