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
}

/// <summary>One entry of the pad.</summary>
/// <param name="Cylinder">The cylinder.</param>
/// <param name="Kind">What the figure is meant as.</param>
/// <param name="Pressure">The figure, as typed.</param>
public sealed record PadEntry(int Cylinder, PadEntryKind Kind, GaugePressure Pressure)
{
    /// <summary>
    /// The reading of the cylinder after this entry. Nothing is lost: a corrected figure stays in the
    /// superseded row, a repeated one in <see cref="CompressionReading.Repeats"/>.
    /// </summary>
    /// <param name="before">The reading so far; absent when there was none.</param>
    /// <param name="testUnit">The unit of the test's figures.</param>
    public CompressionReading Apply(CompressionReading? before, PressureUnit testUnit)
    {
        before ??= new CompressionReading { Cylinder = Cylinder };
        return Kind switch
        {
            PadEntryKind.FirstPulse => before with { FirstPulse = Pressure.In(testUnit) },
            PadEntryKind.Repeat when before.Value is { } value => WithValue(before, testUnit) with { Repeats = [.. before.Repeats ?? [], value] },
            PadEntryKind.Choose when before.Value is { } value => WithValue(before, testUnit) with { Repeats = Swap(before.Repeats ?? [], value, testUnit) },
            PadEntryKind.ConfirmUnit => WithValue(before, testUnit) with { UnitConfirmed = true },
            _ => WithValue(before, testUnit),
        };
    }

    private CompressionReading WithValue(CompressionReading before, PressureUnit testUnit) => before with
    {
        Value = Pressure.In(testUnit),
        AsRead = Pressure.Unit == testUnit ? null : new PressureAsRead { Value = Pressure.Value, Unit = Pressure.Unit },
        Corrected = null,
        UnitConfirmed = null,
    };

    private List<double> Swap(IReadOnlyList<double> repeats, double counted, PressureUnit testUnit)
    {
        var result = repeats.ToList();
        var chosen = Pressure.In(testUnit);
        var at = result.FindIndex(r => Math.Abs(r - chosen) <= 1e-6 * (1 + chosen));
        if (at >= 0)
        {
            result[at] = counted;
        }
        else
        {
            result.Add(counted);
        }
        return result;
    }
}
