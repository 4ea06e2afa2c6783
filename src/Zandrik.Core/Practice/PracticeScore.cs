using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;

namespace Zandrik.Core.Practice;

/// <summary>
/// What a call is worth, out of 100: the right place 40, the right repair 20, minutes against the good way 15, nothing
/// opened for nothing 15, no hazard 10. Whoever does one thing better never has fewer points for it.
/// </summary>
/// <param name="Place">Right place, 0 to 40.</param>
/// <param name="Repair">Right repair, 0 to 20.</param>
/// <param name="Minutes">Minutes against the good way, 0 to 15; as much of it as the place is right.</param>
/// <param name="Opened">Nothing opened for nothing, 0 or 15.</param>
/// <param name="Hazard">No hazard, 0 to 10.</param>
public sealed record PracticeScore(int Place, int Repair, int Minutes, int Opened, int Hazard)
{
    /// <summary>The most of each.</summary>
    public const int MostPlace = 40, MostRepair = 20, MostMinutes = 15, MostOpened = 15, MostHazard = 10;

    // Of the points of a place: a fault that is opened and mended alike, the right cylinder with another fault, a hedge where it could be told, one of two where it could not.
    private const double SameRepair = 0.6, RightCylinder = 0.35, Hedged = 0.7, OneOfTwo = 0.8, NoNeighbour = 0.8;

    // A wrong place costs this, and a hazard that.
    private const double WrongPlace = 8, EachHazard = 5;

    // As quick as this against the good way is full marks, as slow as that none.
    private const double Quick = 1.15, Slow = 2.5;

    /// <summary>All together, 0 to 100.</summary>
    public int Total => Place + Repair + Minutes + Opened + Hazard;

    /// <summary>Scores a call.</summary>
    /// <param name="exercise">The exercise.</param>
    /// <param name="call">The call.</param>
    /// <param name="minutes">Minutes of work, from 0.</param>
    /// <param name="goodMinutes">Minutes of the good way, above 0.</param>
    /// <param name="hazards">How often somebody could have been hurt.</param>
    /// <returns>The points.</returns>
    public static PracticeScore Of(PracticeCase exercise, PracticeCall call, double minutes, double goodMinutes, int hazards)
    {
        var place = PlaceShare(exercise, call);
        var repairs = Done(call);
        var quick = Math.Clamp((Slow * goodMinutes - minutes) / ((Slow - Quick) * goodMinutes), 0, 1);
        var opened = repairs.Any(r => Opens(r) && !Needed(exercise).Any(n => Covers(r, n) > 0));
        return new(
            (int)Math.Round(MostPlace * place),
            (int)Math.Round(MostRepair * RepairShare(exercise, repairs)),
            (int)Math.Round(MostMinutes * quick * place),
            opened ? 0 : MostOpened,
            (int)Math.Max(0, MostHazard - EachHazard * hazards));
    }

    /// <summary>What really has to be done. Where rings cannot be told from a wall that fuel has washed it is run and read again first: nothing is opened before that.</summary>
    /// <param name="exercise">The exercise.</param>
    /// <returns>The repairs; to leave it for a sound engine.</returns>
    public static IReadOnlyList<Repair> Needed(PracticeCase exercise)
    {
        if (exercise.Truths.Count == 0)
        {
            return [Repairs.Repair.Leave];
        }
        Repair Of(Fault fault) => RepairKinds.Of(fault) switch
        {
            RepairKind.BottomEnd => Repairs.Repair.BottomEnd,
            RepairKind.Run => Repairs.Repair.RunAndRetest,
            RepairKind.TopEnd => Repairs.Repair.TopEnd,
            RepairKind.Gasket => Repairs.Repair.Gasket,
            RepairKind.Deposits => Repairs.Repair.CleanDeposits,
            _ => Repairs.Repair.Leave,
        };
        return [.. exercise.Truths.Select(t => t.Or is null ? Of(t.Fault) : Repairs.Repair.RunAndRetest).Distinct().Order()];
    }

    private static IReadOnlyList<Repair> Done(PracticeCall call) => call.Repairs.Where(r => r != Repairs.Repair.Leave).Distinct().ToList() is { Count: > 0 } some ? some : [Repairs.Repair.Leave];

    private static double RepairShare(PracticeCase exercise, IReadOnlyList<Repair> done) =>
        Needed(exercise).Sum(n => done.Max(d => Covers(d, n))) / Math.Max(Needed(exercise).Count, done.Count);

    // How much of a need a repair meets: what goes further than needed meets half of it, an overhaul a quarter.
    private static double Covers(Repair done, Repair need) => done == need ? 1 : (done, need) switch
    {
        (Repairs.Repair.TopEnd or Repairs.Repair.BottomEnd, Repairs.Repair.Gasket) or (Repairs.Repair.BottomEnd, Repairs.Repair.TopEnd) => 0.5,
        (Repairs.Repair.Overhaul or Repairs.Repair.Exchange, Repairs.Repair.Gasket or Repairs.Repair.TopEnd or Repairs.Repair.BottomEnd) => 0.25,
        _ => 0,
    };

    private static bool Opens(Repair repair) => repair is Repairs.Repair.SetTiming or Repairs.Repair.Gasket or Repairs.Repair.TopEnd or Repairs.Repair.BottomEnd or Repairs.Repair.Overhaul or Repairs.Repair.Exchange;

    private static double PlaceShare(PracticeCase exercise, PracticeCall call)
    {
        var testError = call.Suspects.Any(s => s.Fault == Fault.TestError);
        var accused = call.Suspects.Where(s => s.Fault != Fault.TestError).ToList();
        if (exercise.Truths.Count == 0)
        {
            return accused.Count > 0 ? Math.Max(0, 0.5 - accused.Count * WrongPlace / MostPlace) : exercise.Theme == PracticeTheme.TestErrors ? testError ? 1 : OneOfTwo : testError ? 0.5 : 1;
        }
        var right = exercise.Truths.Sum(t => accused.Select(s => Match(t, s)).DefaultIfEmpty(0).Max()) / exercise.Truths.Count;
        var wrong = accused.Count(s => exercise.Truths.All(t => Match(t, s) == 0)) + (testError ? 1 : 0);
        return Math.Max(0, right - wrong * WrongPlace / MostPlace);
    }

    private static double Match(PracticeTruth truth, PracticeSuspect said)
    {
        if (truth.Fault == Fault.GasketAdjacent && said.Fault == Fault.GasketAdjacent && said.Or is null)
        {
            var webs = new[] { truth.Cylinder, truth.With!.Value };
            return said.Cylinder is not { } at || !webs.Contains(at) ? 0 : said.With is not { } with ? NoNeighbour : webs.Contains(with) ? 1 : RightCylinder;
        }
        if (said.Cylinder != truth.Cylinder && !(truth.With is { } beside && said.Cylinder == beside))
        {
            return 0;
        }
        var right = said.Fault == truth.Fault || said.Or == truth.Fault;
        if (truth.Or is { } or)
        {
            var other = said.Fault == or || said.Or == or;
            return right && other ? 1 : (right || other) && said.Or is null ? OneOfTwo : right || other ? Hedged : RightCylinder;
        }
        return right ? said.Or is null ? 1 : Hedged : RepairKinds.Of(said.Fault) == RepairKinds.Of(truth.Fault) ? SameRepair : RightCylinder;
    }
}
