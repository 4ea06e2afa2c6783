using Zandrik.Core.Compression;
using Zandrik.Core.Records;

namespace Zandrik.Core.LeakDown;

/// <summary>One time the gauges of a leak-down were read at a cylinder, with everything that was noted under that figure.</summary>
/// <param name="Reading">The reading as it stood last.</param>
/// <param name="Percent">Loss, percent of the supply; absent where it cannot be worked out.</param>
/// <param name="ReplacedAt">When the next figure of this cylinder was taken; absent for the one that counts.</param>
/// <param name="TakenBack">True for a figure that was undone.</param>
/// <param name="AfterOil">True when test oil was in the cylinder, as far as is known (<see cref="OilHistory"/>).</param>
public sealed record LeakDownTaken(LeakDownReading Reading, double? Percent, DateTimeOffset? ReplacedAt, bool TakenBack, bool AfterOil)
{
    /// <summary>True for the one the judgement uses.</summary>
    public bool Counts => ReplacedAt is null && !TakenBack;

    /// <summary>
    /// Every figure of the latest leak-down that was read more than once or undone, by cylinder and in the order they were taken: what
    /// was heard under a figure belongs to it and makes no line of its own. Empty when nothing was read twice, or there is no leak-down.
    /// </summary>
    /// <param name="record">The job with the readings that were superseded; one without them gives nothing.</param>
    public static IReadOnlyList<LeakDownTaken> All(TestRecord record)
    {
        if ((OilHistory.Marked(record).Tests ?? []).OfType<LeakDownTest>().LastOrDefault() is not { } test)
        {
            return [];
        }
        var found = new List<LeakDownTaken>();
        foreach (var cylinder in (test.Readings ?? []).Where(LeakDownEntry.HasFigure).GroupBy(r => r.Cylinder).OrderBy(g => g.Key))
        {
            var figures = cylinder
                .GroupBy(r => (r.At, r.Held, Supply: r.Supply ?? test.Supply, r.LeakPercent))
                // What stands now is the version nothing came after; of one that is gone, the fullest that was written.
                .Select(g => g.FirstOrDefault(r => r.SupersededBy is null) ?? g.Last())
                .OrderBy(r => r.At).ToList();
            var counts = figures.LastOrDefault(r => r.SupersededBy is null);
            for (var i = 0; i < figures.Count && (figures.Count > 1 || counts is null); i++)
            {
                var r = figures[i];
                // An undo puts an earlier figure back: whatever came after that one was taken back.
                var takenBack = !ReferenceEquals(r, counts) && (counts is null || r.At > counts.At);
                found.Add(new LeakDownTaken(r, LeakDownEntry.LostPercent(r, test), ReferenceEquals(r, counts) || takenBack ? null : figures[i + 1].At, takenBack, OilHistory.IsOverOil(r, test)));
            }
        }
        return found;
    }
}
