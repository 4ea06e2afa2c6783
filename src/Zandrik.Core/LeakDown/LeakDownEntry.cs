using Zandrik.Core.Records;

namespace Zandrik.Core.LeakDown;

/// <summary>What an entry at the leak-down step makes of a cylinder's reading: figures, and what was heard where.</summary>
public static class LeakDownEntry
{
    /// <summary>
    /// Which reading of a cylinder new figures belong to. Measured anew, under air that went on since, it is a reading of its
    /// own and the one before stays beside it; typed again under the same air, or put right afterwards, it is the same one.
    /// </summary>
    /// <param name="readings">The cylinder's readings, in the order they were taken.</param>
    /// <param name="correct">True for a slip of the finger put right.</param>
    /// <param name="airWentOnAt">When the air last went on; absent when it never did.</param>
    /// <returns>Its place; below 0 for a new reading.</returns>
    public static int Which(IReadOnlyList<LeakDownReading> readings, bool correct, DateTimeOffset? airWentOnAt)
    {
        var last = readings.Count > 0 ? readings[^1] : null;
        var anew = HasFigure(last) && !correct && (last!.At is null || airWentOnAt > last.At);
        return anew ? -1 : readings.Count - 1;
    }

    /// <summary>True when a reading has its figure: held, or percent.</summary>
    /// <returns>False for a reading that says only what was heard.</returns>
    public static bool HasFigure(LeakDownReading? reading) => reading is { Held: not null } or { LeakPercent: not null };

    /// <summary>What a reading lost, percent of the supply, as read: from both gauges where there are two, else the percent scale. Absent where neither says.</summary>
    /// <param name="reading">The reading.</param>
    /// <param name="test">Its test, whose supply holds where the reading has none.</param>
    /// <returns>Below 0 where more is held than supplied: the supply was not set.</returns>
    public static double? LostPercent(LeakDownReading reading, LeakDownTest test) =>
        reading.Held is { } held && (reading.Supply ?? test.Supply) is { } supply and > 0 ? 100 * (supply - held) / supply : reading.LeakPercent;

    /// <summary>A tap at one place: how loud it is there, or nothing. Either way it was listened at.</summary>
    /// <param name="before">The reading so far.</param>
    /// <param name="place">The place; not <see cref="ListeningPlace.Nowhere"/>.</param>
    /// <param name="hole">The cylinder of a plug hole; absent elsewhere.</param>
    /// <param name="loud">How loud; absent for nothing.</param>
    /// <returns>The reading with the place as it was tapped; its figure stays.</returns>
    public static LeakDownReading Heard(LeakDownReading before, ListeningPlace place, int? hole, HeardStrength? loud)
    {
        var others = (before.Heard ?? []).Where(h => h.At != ListeningPlace.Nowhere && !(h.At == place && h.Cylinder == hole)).ToList();
        var heard = loud is { } strength ? [.. others, new HeardAir { At = place, Strength = strength, Cylinder = hole }] : others;
        return before with { Heard = heard.Count > 0 ? heard : null, Listened = [.. Listened(before).Append(place).Distinct().Order()] };
    }

    /// <summary>Listened at every place that is open: where nothing was tapped, nothing was heard. A place that was not opened was not listened at.</summary>
    /// <param name="before">The reading so far.</param>
    /// <param name="notOpened">Lines of the leak-down's own preparation that are not ticked.</param>
    /// <returns>The reading with every place that is open listened at.</returns>
    public static LeakDownReading Everywhere(LeakDownReading before, IReadOnlyList<PreparationItem> notOpened) => before with
    {
        Listened = [.. AirHeard.Everywhere.Where(p => !notOpened.Any(i => LeakPreparation.Opens(i) == p)).Union(Listened(before)).Order()],
    };

    // A record without a list of places says by anything heard that all were listened at.
    private static IReadOnlyList<ListeningPlace> Listened(LeakDownReading reading) => reading.Listened ?? (reading.Heard is { Count: > 0 } ? AirHeard.Everywhere : []);
}
