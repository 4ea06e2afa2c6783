using Zandrik.Core.Records;

namespace Zandrik.Core.LeakDown;

/// <summary>One time the gauges of a leak-down were read at a cylinder, with everything that was noted under that figure.</summary>
/// <param name="Reading">The reading as it stood last.</param>
/// <param name="Percent">Loss, percent of the supply; absent where it cannot be worked out.</param>
/// <param name="ReplacedAt">When the next figure of this cylinder was taken; absent for the one that counts.</param>
/// <param name="TakenBack">True for a figure that was taken back with nothing in its place.</param>
public sealed record LeakDownTaken(LeakDownReading Reading, double? Percent, DateTimeOffset? ReplacedAt, bool TakenBack)
{
    /// <summary>True for the one the judgement uses.</summary>
    public bool Counts => ReplacedAt is null && !TakenBack;

    /// <summary>True when test oil was known to be in the cylinder.</summary>
    public bool AfterOil => Reading.Conditions?.OilBefore == true;

    /// <summary>
    /// Every figure of a test that was read more than once or taken back, by cylinder and in the order they were taken: what was
    /// heard under a figure belongs to it and makes no line of its own. Empty when nothing was read twice.
    /// </summary>
    /// <param name="test">The test with the readings that were superseded; a plain one gives nothing.</param>
    public static IReadOnlyList<LeakDownTaken> All(LeakDownTest test)
    {
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
                found.Add(new LeakDownTaken(r, Loss(r, test), ReferenceEquals(r, counts) || takenBack ? null : figures[i + 1].At, takenBack));
            }
        }
        return found;
    }

    private static double? Loss(LeakDownReading r, LeakDownTest test) =>
        r.LeakPercent ?? ((r.Supply ?? test.Supply) is > 0 and { } supply && r.Held is { } held ? (supply - held) / supply * 100 : null);
}
