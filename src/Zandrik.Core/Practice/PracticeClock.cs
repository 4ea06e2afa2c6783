using Zandrik.Core.Planning;
using Zandrik.Core.Records;

namespace Zandrik.Core.Practice;

/// <summary>
/// What an exercise costs in minutes of work: by the one table of the plan (<see cref="StepMinutes"/>), whatever the
/// trainee's watch says. Nobody waits for an engine to get warm on the bench; it costs the quarter of an hour all the same.
/// </summary>
public static class PracticeClock
{
    private const double EachLine = 1, Feel = 1, Round = 1, Look = 2, Second = 3;

    /// <summary>Minutes of what was done.</summary>
    /// <param name="cylinders">Cylinders of the engine.</param>
    /// <param name="prepared">Lines of the preparation that are ticked, each with the way it was done.</param>
    /// <param name="done">What was done, in any order.</param>
    /// <returns>Minutes, from 0.</returns>
    public static double Minutes(int cylinders, IReadOnlyDictionary<PreparationItem, string?> prepared, IReadOnlyList<PracticeDone> done)
    {
        int Count(PracticeAct act) => done.Count(d => d.Act == act);
        double Set(int count, int once, int each) => count == 0 ? 0 : once + each * count;
        var (dry, wet, leak) = (Count(PracticeAct.Dry), Count(PracticeAct.Wet), Count(PracticeAct.LeakDown));
        var running = done.Where(d => d.Act == PracticeAct.Running).Select(d => d.Cylinder).Distinct().Count();
        var plugsOut = prepared.TryGetValue(PreparationItem.Plugs, out var way) && way != "one-at-a-time";
        return prepared.Keys.Count(k => k is not (PreparationItem.Warm or PreparationItem.Plugs)) * EachLine
            + (prepared.GetValueOrDefault(PreparationItem.Warm) == "warm" ? StepMinutes.WarmUp : 0)
            + (plugsOut ? StepMinutes.EachPlug * cylinders : 0)
            + Set(dry, StepMinutes.Dry(0), StepMinutes.Dry(1) - StepMinutes.Dry(0)) + Set(wet, StepMinutes.Wet(0), StepMinutes.Wet(1) - StepMinutes.Wet(0))
            + Set(leak, StepMinutes.LeakDown(0), StepMinutes.LeakDown(1) - StepMinutes.LeakDown(0)) + Set(running, StepMinutes.Running(0), StepMinutes.Running(1) - StepMinutes.Running(0))
            + StepMinutes.Relative * Count(PracticeAct.Relative) + Feel * Count(PracticeAct.FeelStroke) + Round * Count(PracticeAct.TurnRound) + Look * Count(PracticeAct.LookOver) + Second * Count(PracticeAct.SecondGauge)
            + done.Where(d => d.Act == PracticeAct.Check).Sum(d => OfCheck(d.Check));
    }

    private static double OfCheck(string? word) => RecordWords.TryParse<StepKind>(word, out var kind) ? kind switch
    {
        StepKind.Fluids => StepMinutes.Fluids,
        StepKind.CrankSound => StepMinutes.CrankSound,
        StepKind.CombustionGas => StepMinutes.CombustionGas,
        StepKind.BlowBy => StepMinutes.BlowBy,
        _ => 0,
    } : 0;
}
