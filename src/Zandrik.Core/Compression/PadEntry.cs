using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Compression;

/// <summary>What a figure typed on the pad is meant as.</summary>
public enum PadEntryKind
{
    /// <summary>The reading of a cylinder; over an earlier one it is a correction, and takes its place.</summary>
    Reading,

    /// <summary>The same cylinder measured again: the new figure counts, the earlier one becomes a repeat.</summary>
    Repeat,

    /// <summary>The gauge after the first compression.</summary>
    FirstPulse,

    /// <summary>An earlier repeat chosen to be the reading that counts; the one that counted becomes a repeat.</summary>
    Choose,

    /// <summary>The unit of a doubtful reading, said by a person; the figure stays.</summary>
    ConfirmUnit,

    /// <summary>
    /// A second person's reading, taken without seeing the first: kept as a repeat beside the one that
    /// counts, until somebody says which does. Nothing in a hurry decides between two gauges.
    /// </summary>
    Beside,
}

/// <summary>One entry of the pad.</summary>
/// <param name="Cylinder">The cylinder.</param>
/// <param name="Kind">What the figure is meant as.</param>
/// <param name="Pressure">The figure, as typed; for <see cref="PadEntryKind.Choose"/> the repeat, as it was read.</param>
public sealed record PadEntry(int Cylinder, PadEntryKind Kind, GaugePressure Pressure)
{
    /// <summary>
    /// The reading of the cylinder after this entry. Nothing is lost: a corrected figure stays in the
    /// superseded row, a repeated one in <see cref="CompressionReading.Repeats"/>, each as it was read.
    /// Choosing a figure that is no repeat changes nothing.
    /// </summary>
    /// <param name="before">The reading so far; absent when there was none.</param>
    /// <param name="testUnit">The unit of the test's figures.</param>
    public CompressionReading Apply(CompressionReading? before, PressureUnit testUnit)
    {
        before ??= new CompressionReading { Cylinder = Cylinder };
        if (Kind == PadEntryKind.FirstPulse)
        {
            return before with { FirstPulse = Pressure.In(testUnit) };
        }
        if (before.ReadAs(testUnit) is not { } counted)
        {
            return Counting(before, Pressure, before.RepeatsReadAs(testUnit), testUnit);
        }
        var repeats = before.RepeatsReadAs(testUnit).ToList();
        switch (Kind)
        {
            case PadEntryKind.Repeat:
                repeats.Add(counted);
                break;
            case PadEntryKind.Choose:
                var chosen = repeats.IndexOf(Pressure);
                if (chosen < 0)
                {
                    return before;
                }
                repeats[chosen] = counted;
                break;
            case PadEntryKind.Beside:
                return Counting(before, counted, [.. repeats, Pressure], testUnit);
            case PadEntryKind.ConfirmUnit:
                return Confirmed(before, counted.Unit, repeats, testUnit);
        }
        return Counting(before, Pressure, repeats, testUnit);
    }

    // Whoever mistook the unit of a reading mistook that of its repeats and first pulse with it.
    private CompressionReading Confirmed(CompressionReading before, PressureUnit mistaken, List<GaugePressure> repeats, PressureUnit testUnit)
    {
        var meant = repeats.ConvertAll(r => r.Unit == mistaken ? r with { Unit = Pressure.Unit } : r);
        var pulse = before.FirstPulse is { } p && mistaken == testUnit ? new GaugePressure(p, Pressure.Unit).In(testUnit) : before.FirstPulse;
        return Counting(before, Pressure, meant, testUnit) with { UnitConfirmed = true, FirstPulse = pulse };
    }

    private static CompressionReading Counting(
        CompressionReading before, GaugePressure value, IReadOnlyList<GaugePressure> repeats, PressureUnit testUnit) => before with
        {
            Value = value.In(testUnit),
            AsRead = value.Unit == testUnit ? null : AsRead(value),
            Repeats = repeats.Count == 0 ? null : [.. repeats.Select(r => r.In(testUnit))],
            RepeatsAsRead = repeats.All(r => r.Unit == testUnit) ? null : [.. repeats.Select(AsRead)],
            Corrected = null,
            UnitConfirmed = null,
        };

    private static PressureAsRead AsRead(GaugePressure pressure) => new() { Value = pressure.Value, Unit = pressure.Unit };
}
