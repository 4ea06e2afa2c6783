using Zandrik.Core.Records;

namespace Zandrik.Core.Life;

/// <summary>The figure of an odometer that does not fit those of the same vehicle's other jobs: less than an earlier one, more than a later one, or hours where they are a distance.</summary>
/// <param name="Other">The job whose figure it does not fit: the nearest before it, else the nearest after.</param>
/// <param name="IsOtherUnit">True where one of both counts hours and the other a distance.</param>
/// <param name="Doubted">The jobs whose figures are not used for that reason; may have the typed one among them.</param>
public sealed record OdometerConflict(Visit Other, bool IsOtherUnit, IReadOnlyList<Visit> Doubted)
{
    /// <summary>What a figure does not fit.</summary>
    /// <param name="others">The vehicle's other jobs, in any order.</param>
    /// <param name="typed">The job whose figure was typed.</param>
    /// <returns>Absent where it fits, where there is none, and where only figures are against it that were not used before either.</returns>
    public static OdometerConflict? Of(IReadOnlyCollection<Visit> others, Visit typed)
    {
        if (typed.Odometer is not { } odometer)
        {
            return null;
        }
        static bool IsDoubted(RunAt a) => a.Doubt is RunDoubt.Backwards or RunDoubt.OtherUnit;
        var before = DistanceRun.Of(others).At.Where(IsDoubted).Select(a => a.Visit.Job).ToHashSet();
        var doubted = DistanceRun.Of([.. others, typed]).At.Where(a => IsDoubted(a) && !before.Contains(a.Visit.Job)).Select(a => a.Visit).ToList();
        if (doubted.Count == 0)
        {
            return null;
        }
        var ordered = others.Where(o => o.Odometer is not null).OrderBy(o => o.At).ThenBy(o => o.Job).ToList();
        // Figures of an odometer that was changed before, or is changed later, say nothing of this one.
        var from = ordered.LastOrDefault(o => o.IsReplaced && o.At <= typed.At)?.At ?? DateTimeOffset.MinValue;
        var until = ordered.FirstOrDefault(o => o.IsReplaced && o.At > typed.At)?.At ?? DateTimeOffset.MaxValue;
        bool IsOfOtherKind(Visit o) => (o.Odometer!.Unit == DistanceUnit.H) != (odometer.Unit == DistanceUnit.H);
        bool IsAgainst(Visit o) => !IsOfOtherKind(o) && o.At >= from && o.At < until && (o.At <= typed.At ? Counted(o.Odometer!) > Counted(odometer) : Counted(o.Odometer!) < Counted(odometer));
        var other = ordered.LastOrDefault(o => o.At <= typed.At && IsAgainst(o)) ?? ordered.FirstOrDefault(IsAgainst);
        return other is not null ? new(other, false, doubted) : ordered.LastOrDefault(IsOfOtherKind) is { } unlike ? new(unlike, true, doubted) : null;
    }

    private static double Counted(Odometer odometer) => odometer.Unit == DistanceUnit.Mi ? odometer.Value * DistanceRun.KmPerMile : odometer.Value;
}
