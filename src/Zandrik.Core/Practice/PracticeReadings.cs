using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.Practice;

/// <summary>What a gauge showed on the practice bench.</summary>
/// <param name="PulsesPa">After each compression, Pa over the air outside; at least one.</param>
/// <param name="Seconds">How long it was cranked, s.</param>
/// <param name="Rpm">Mean cranking speed, rpm.</param>
/// <param name="Trace">What the gauge held meanwhile.</param>
/// <param name="TurnsRad">Where the crank was at each moment of the trace, rad.</param>
public sealed record PracticeGaugeReading(IReadOnlyList<double> PulsesPa, double Seconds, double Rpm, Readings.PressureTrace Trace, IReadOnlyList<float> TurnsRad)
{
    /// <summary>What stands on the gauge, Pa.</summary>
    public double FinalPa => PulsesPa[^1];
}

/// <summary>What a leak-down tester showed, and how loud the air is at each place.</summary>
/// <param name="SupplyPa">Supply, Pa over the air outside.</param>
/// <param name="HeldPa">Held, Pa over the air outside.</param>
/// <param name="Leak">The leak.</param>
public sealed record PracticeLeak(double SupplyPa, double HeldPa, StaticLeak Leak)
{
    /// <summary>The loss, percent of the supply.</summary>
    public double Percent => 100 * (SupplyPa - HeldPa) / SupplyPa;
}

/// <summary>How loud the air is where somebody listens.</summary>
/// <param name="Db">Level, dB over 0.1 g/s of air; negative infinity for nothing.</param>
/// <param name="Strength">As it is noted; absent for nothing heard.</param>
public sealed record PracticeSound(double Db, HeardStrength? Strength)
{
    /// <summary>A level as it is noted: nothing under 0 dB, faint to 6, clear to 16, strong above.</summary>
    /// <param name="db">The level, dB.</param>
    /// <returns>The level with its word.</returns>
    public static PracticeSound Of(double db) => new(db, db < 0 ? null : db < 6 ? HeardStrength.Faint : db < 16 ? HeardStrength.Clear : HeardStrength.Strong);

    /// <summary>The same in words.</summary>
    public string Says => Strength switch { null => "Nothing to hear.", HeardStrength.Faint => "A faint hiss.", HeardStrength.Clear => "A clear hiss.", _ => "A strong rush of air." };
}
