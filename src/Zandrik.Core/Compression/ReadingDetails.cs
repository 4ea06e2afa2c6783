using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Compression;

/// <summary>What was noted about a reading beside its figure. Absent fields leave what is recorded as it is.</summary>
public sealed record ReadingDetails
{
    /// <summary>Compressions given: one per two turns of the crank.</summary>
    public int? Pulses { get; init; }

    /// <summary>Cranking time, s.</summary>
    public double? Seconds { get; init; }

    /// <summary>Battery voltage while cranking, V.</summary>
    public double? BatteryV { get; init; }

    /// <summary>Cranking speed, turns of the crank per minute.</summary>
    public double? CrankingRpm { get; init; }

    /// <summary>The gauge after each compression, first to last.</summary>
    public IReadOnlyList<GaugePressure>? PumpUp { get; init; }

    /// <summary>What else is to be said about the reading, in words.</summary>
    public string? Says { get; init; }

    /// <summary>Whether the needle rested at zero before this reading.</summary>
    public bool? NeedleAtZero { get; init; }

    /// <summary>
    /// The reading with these details. A pump-up curve says more than its parts: it brings the first pulse and
    /// the count along, and the reading itself where none was taken.
    /// </summary>
    /// <param name="before">The reading so far.</param>
    /// <param name="testUnit">The unit of the test's figures.</param>
    /// <returns>The reading with them; what the details do not say stays.</returns>
    public CompressionReading Apply(CompressionReading before, PressureUnit testUnit)
    {
        var after = before with
        {
            Pulses = Pulses ?? (PumpUp is { Count: > 0 } ? PumpUp.Count : before.Pulses),
            Seconds = Seconds ?? before.Seconds,
            Says = Says ?? before.Says,
            BatteryV = BatteryV ?? before.BatteryV,
            CrankingRpm = CrankingRpm ?? before.CrankingRpm,
            PulseValues = PumpUp is { Count: > 0 } ? [.. PumpUp.Select(p => p.In(testUnit))] : before.PulseValues,
            FirstPulse = PumpUp is { Count: > 0 } ? PumpUp[0].In(testUnit) : before.FirstPulse,
            Conditions = NeedleAtZero is { } atZero ? (before.Conditions ?? new TestConditions()) with { NeedleAtZero = atZero } : before.Conditions,
        };
        return after.Value is null && PumpUp is { Count: > 1 }
            ? new PadEntry(before.Cylinder, PadEntryKind.Reading, PumpUp[^1]).Apply(after, testUnit)
            : after;
    }

    /// <summary>What keeps a pump-up curve from being one; absent when nothing does. A gauge with a check valve never falls while cranking.</summary>
    /// <returns>One sentence that says what to do; null for a curve, and for no curve.</returns>
    public static string? Problem(IReadOnlyList<GaugePressure> pumpUp)
    {
        for (var i = 1; i < pumpUp.Count; i++)
        {
            if (pumpUp[i].Pascals < pumpUp[i - 1].Pascals)
            {
                return $"After compression {i} it reads less than before: a gauge with its check valve never falls while cranking.";
            }
        }
        return pumpUp.Count > 40 ? "Forty compressions are enough." : null;
    }
}
