using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Compression;

/// <summary>The gauge read once at a cylinder: the figure as it was read, and what was noted about it and about no other.</summary>
/// <param name="Figure">The figure, in the unit it was read in.</param>
/// <param name="Noted">What was noted; its value is the figure in the test's unit.</param>
public sealed record TakenReading(GaugePressure Figure, RepeatReading Noted)
{
    /// <summary>True when it was struck out.</summary>
    public bool IsStruck => Noted.Struck is not null;

    /// <summary>Every reading of a cylinder: the one that stands first, then its repeats; empty when none was taken.</summary>
    /// <param name="reading">The cylinder's entry in the record.</param>
    /// <param name="testUnit">The unit of the test's figures.</param>
    /// <returns>The readings in the order they were taken, struck ones too; empty when none was taken.</returns>
    public static IReadOnlyList<TakenReading> All(CompressionReading reading, PressureUnit testUnit)
    {
        var taken = new List<TakenReading>();
        if (reading.FigureAs(testUnit) is { } figure)
        {
            taken.Add(new TakenReading(figure, new RepeatReading
            {
                Value = reading.Value!.Value, FirstPulse = reading.FirstPulse, Pulses = reading.Pulses, Seconds = reading.Seconds, BatteryV = reading.BatteryV,
                CrankingRpm = reading.CrankingRpm, PulseValues = reading.PulseValues, Says = reading.Says, Struck = reading.Struck,
            }));
        }
        for (var k = 0; k < (reading.Repeats?.Count ?? 0); k++)
        {
            taken.Add(new TakenReading(reading.RepeatAs(k, testUnit), reading.Repeats![k]));
        }
        return taken;
    }

    /// <summary>The cylinder's entry with these readings, the first standing and the others its repeats.</summary>
    /// <param name="before">The entry so far: what belongs to the cylinder and not to one reading stays.</param>
    /// <param name="taken">The readings, at least one.</param>
    /// <param name="testUnit">The unit of the test's figures.</param>
    /// <returns>The entry; its figure is that of the first.</returns>
    public static CompressionReading Standing(CompressionReading before, IReadOnlyList<TakenReading> taken, PressureUnit testUnit)
    {
        var (first, others) = (taken[0], taken.Skip(1).ToList());
        var noted = first.Noted;
        return before with
        {
            Value = first.Figure.In(testUnit),
            AsRead = first.Figure.Unit == testUnit ? null : AsRead(first.Figure),
            FirstPulse = noted.FirstPulse,
            Pulses = noted.Pulses,
            Seconds = noted.Seconds,
            BatteryV = noted.BatteryV,
            CrankingRpm = noted.CrankingRpm,
            PulseValues = noted.PulseValues,
            Says = noted.Says,
            Struck = noted.Struck,
            Repeats = others.Count == 0 ? null : [.. others.Select(o => o.Noted with { Value = o.Figure.In(testUnit) })],
            RepeatsAsRead = others.All(o => o.Figure.Unit == testUnit) ? null : [.. others.Select(o => AsRead(o.Figure))],
            Corrected = null,
            UnitConfirmed = null,
        };
    }

    /// <summary>The same reading, where its unit was mistaken for another.</summary>
    /// <param name="mistaken">The unit it was taken for.</param>
    /// <param name="meant">The unit it was read in.</param>
    /// <param name="testUnit">The unit of the test's figures.</param>
    internal TakenReading Meant(PressureUnit mistaken, PressureUnit meant, PressureUnit testUnit)
    {
        if (Figure.Unit != mistaken)
        {
            return this;
        }
        double Again(double value) => mistaken == testUnit ? new GaugePressure(value, meant).In(testUnit) : value;
        return new TakenReading(Figure with { Unit = meant }, Noted with
        {
            FirstPulse = Noted.FirstPulse is { } pulse ? Again(pulse) : null,
            PulseValues = Noted.PulseValues is { } curve ? [.. curve.Select(Again)] : null,
        });
    }

    private static PressureAsRead AsRead(GaugePressure pressure) => new() { Value = pressure.Value, Unit = pressure.Unit };
}
