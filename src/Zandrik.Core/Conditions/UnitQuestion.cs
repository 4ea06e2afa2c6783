using Zandrik.Core.Readings;
using Zandrik.Core.Units;

namespace Zandrik.Core.Conditions;

/// <summary>
/// A reading that would make sense in another unit (12.1 typed as psi): it is not used until a person
/// says which unit it was.
/// </summary>
/// <param name="Reading">The reading as it stands.</param>
/// <param name="Likely">The unit it would make sense in.</param>
public sealed record UnitQuestion(DryReading Reading, PressureUnit Likely)
{
    // Under a quarter of what the other cylinders give, and within 25 % of it in another unit; for a
    // whole test under a quarter of the expected level, and within 35 % of it.
    private const double Quarter = 0.25;
    private const double ReadingFits = 0.25;
    private const double TestFits = 0.35;

    /// <summary>Asks about each reading that is doubtful; confirmed ones are not asked about again.</summary>
    internal static List<UnitQuestion> Ask(IReadOnlyList<DryReading> readings, JudgingRules rules)
    {
        var questions = new List<UnitQuestion>();
        if (readings.Count == 0)
        {
            return questions;
        }
        Span<double> sorted = stackalloc double[readings.Count];
        for (var i = 0; i < readings.Count; i++)
        {
            sorted[i] = readings[i].Value.Pascals;
        }
        sorted.Sort();
        var median = Median(sorted);

        var expectedPa = ExpectedLevel.Pa(rules);
        if (sorted[^1] < Quarter * expectedPa)
        {
            foreach (var reading in readings)
            {
                if (!reading.UnitConfirmed
                    && Fitting(reading.Value, median / reading.Value.Unit.Pascals(), expectedPa, TestFits) is { } unit)
                {
                    questions.Add(new UnitQuestion(reading, unit));
                }
            }
            return questions;
        }
        foreach (var reading in readings)
        {
            // The median of the others: with the lowest taken out, the rest are the others of that one.
            if (reading.UnitConfirmed || readings.Count < 2)
            {
                continue;
            }
            var othersPa = MedianWithout(sorted, reading.Value.Pascals);
            if (reading.Value.Pascals < Quarter * othersPa
                && Fitting(reading.Value, reading.Value.Value, othersPa, ReadingFits) is { } unit)
            {
                questions.Add(new UnitQuestion(reading, unit));
            }
        }
        return questions;
    }

    private static PressureUnit? Fitting(GaugePressure reading, double figure, double levelPa, double within)
    {
        foreach (var unit in PressureUnits.All)
        {
            if (unit != reading.Unit && Math.Abs(figure * unit.Pascals() / levelPa - 1) <= within)
            {
                return unit;
            }
        }
        return null;
    }

    private static double MedianWithout(ReadOnlySpan<double> sorted, double value)
    {
        Span<double> others = stackalloc double[sorted.Length - 1];
        var at = sorted.IndexOf(value);
        sorted[..at].CopyTo(others);
        sorted[(at + 1)..].CopyTo(others[at..]);
        return Median(others);
    }

    private static double Median(ReadOnlySpan<double> sorted) => sorted.Length % 2 == 1
        ? sorted[sorted.Length / 2]
        : (sorted[sorted.Length / 2 - 1] + sorted[sorted.Length / 2]) / 2;
}
