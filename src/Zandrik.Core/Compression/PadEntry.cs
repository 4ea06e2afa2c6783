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

    /// <summary>
    /// An earlier repeat chosen to be the reading that counts; the one that counted becomes a repeat. Chosen while
    /// struck out, it counts again.
    /// </summary>
    Choose,

    /// <summary>A reading struck out with its reason: it stays on record, and the latest other one that counts takes its place.</summary>
    Strike,

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
/// <param name="Pressure">The figure, as typed; for <see cref="PadEntryKind.Choose"/> and <see cref="PadEntryKind.Strike"/> the reading that is meant, as it was read.</param>
public sealed record PadEntry(int Cylinder, PadEntryKind Kind, GaugePressure Pressure)
{
    /// <summary>What was noted about this reading with its figure; absent for nothing.</summary>
    public ReadingDetails? Details { get; init; }

    /// <summary>Which of the cylinder's readings is meant where two have the same figure: 0 for the one that stands, then its repeats; absent for the first with the figure.</summary>
    public int? Place { get; init; }

    /// <summary>Why the reading is struck out; only for <see cref="PadEntryKind.Strike"/>.</summary>
    public StruckOut? Struck { get; init; }

    /// <summary>
    /// The reading of the cylinder after this entry. Nothing is lost: a corrected figure stays in the superseded row,
    /// a repeated or struck one in <see cref="CompressionReading.Repeats"/>, each as it was read and with what was
    /// noted about it. Choosing or striking a figure that is none of the cylinder's changes nothing.
    /// </summary>
    /// <param name="before">The reading so far; absent when there was none.</param>
    /// <param name="testUnit">The unit of the test's figures.</param>
    /// <returns>The cylinder's entry as it stands afterwards; never null, also over nothing.</returns>
    public CompressionReading Apply(CompressionReading? before, PressureUnit testUnit)
    {
        before ??= new CompressionReading { Cylinder = Cylinder };
        if (Kind == PadEntryKind.FirstPulse)
        {
            return before with { FirstPulse = Pressure.In(testUnit) };
        }
        var taken = TakenReading.All(before, testUnit).ToList();
        var measured = before.FigureAs(testUnit) is not null;
        switch (Kind)
        {
            case PadEntryKind.Choose or PadEntryKind.Strike:
                return Find(taken) is not { } meant ? before
                    : Kind == PadEntryKind.Choose ? Chosen(before, taken, meant, testUnit)
                    : Stricken(before, taken, meant, testUnit);
            case PadEntryKind.ConfirmUnit when measured:
                // Whoever mistook the unit of a reading mistook that of its repeats and first pulses with it.
                var mistaken = taken[0].Figure.Unit;
                return TakenReading.Standing(before, [.. taken.Select(t => t.Meant(mistaken, Pressure.Unit, testUnit))], testUnit) with { UnitConfirmed = true };
            case PadEntryKind.Beside when measured:
                return TakenReading.Standing(before, [.. taken, New(testUnit)], testUnit);
            case PadEntryKind.Repeat when measured:
                return Noted(Cleared(TakenReading.Standing(before, [New(testUnit), .. Behind(taken)], testUnit)), testUnit);
            case PadEntryKind.Reading when measured && taken[0].IsStruck:
                // What was struck out is not what is corrected.
                return Noted(Cleared(TakenReading.Standing(before, [New(testUnit), .. Behind(taken)], testUnit)), testUnit);
            case PadEntryKind.Reading when measured:
                taken[0] = taken[0] with { Figure = Pressure };
                return Noted(TakenReading.Standing(before, taken, testUnit), testUnit);
            default:
                // The first figure of the cylinder: what was noted before it was typed is about it.
                return Noted(TakenReading.Standing(before,
                    [new TakenReading(Pressure, new RepeatReading
                    {
                        FirstPulse = before.FirstPulse, Pulses = before.Pulses, Seconds = before.Seconds, BatteryV = before.BatteryV,
                        CrankingRpm = before.CrankingRpm, PulseValues = before.PulseValues, Says = before.Says,
                    }), .. taken], testUnit), testUnit);
        }
    }

    private TakenReading New(PressureUnit testUnit) => new(Pressure, new RepeatReading { Value = Pressure.In(testUnit) });

    // The reading that stood comes last among the repeats: they are in the order they were taken.
    private static IEnumerable<TakenReading> Behind(List<TakenReading> taken) => taken.Skip(1).Append(taken[0]);

    // How the needle rested was said of the reading before.
    private static CompressionReading Cleared(CompressionReading reading) => reading.Conditions is { NeedleAtZero: not null } conditions
        ? reading with { Conditions = conditions with { NeedleAtZero = null } }
        : reading;

    private CompressionReading Noted(CompressionReading reading, PressureUnit testUnit) => Details?.Apply(reading, testUnit) ?? reading;

    private int? Find(List<TakenReading> taken)
    {
        if (Place is { } place && place >= 0 && place < taken.Count && taken[place].Figure == Pressure)
        {
            return place;
        }
        // Somebody was quicker: the figure that is meant may stand elsewhere now.
        var alike = Enumerable.Range(0, taken.Count).Where(i => taken[i].Figure == Pressure).ToList();
        return Kind == PadEntryKind.Choose
            ? alike.Count > 0 ? alike.Find(i => i > 0) : null
            : alike.Exists(i => !taken[i].IsStruck) ? alike.Find(i => !taken[i].IsStruck) : null;
    }

    private static CompressionReading Chosen(CompressionReading before, List<TakenReading> taken, int meant, PressureUnit testUnit)
    {
        var chosen = taken[meant] with { Noted = taken[meant].Noted with { Struck = null } };
        taken[meant] = taken[0];
        taken[0] = chosen;
        return TakenReading.Standing(before, taken, testUnit);
    }

    private CompressionReading Stricken(CompressionReading before, List<TakenReading> taken, int meant, PressureUnit testUnit)
    {
        taken[meant] = taken[meant] with { Noted = taken[meant].Noted with { Struck = Struck ?? new StruckOut { Reason = StruckReason.Other } } };
        if (meant == 0 && taken.FindLastIndex(t => !t.IsStruck) is > 0 and var next)
        {
            var stands = taken[next];
            taken.RemoveAt(next);
            taken = [stands, .. Behind(taken)];
        }
        return TakenReading.Standing(before, taken, testUnit);
    }
}
