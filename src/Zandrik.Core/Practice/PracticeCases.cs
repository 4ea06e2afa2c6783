using System.Collections.Concurrent;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.Practice;

/// <summary>
/// The exercises. Each is drawn from its number alone, and each was looked over: <see cref="PracticeWay"/> finds a way of
/// ordinary tests to what is hidden in it, which a test holds for all of them.
/// </summary>
public static class PracticeCases
{
    private const int Themes = 8, Levels = 3, OfEach = 2;

    /// <summary>How many there are.</summary>
    public const int Count = Themes * Levels * OfEach;

    // Exercises that came out badly at the first draw (no test parted what was hidden) are drawn again.
    private static readonly Dictionary<int, int> Redrawn = [];

    private static readonly ConcurrentDictionary<int, PracticeCase> Drawn = [];

    // Fictional, as everything of the workshop: what comes in over a year.
    private static readonly string[] Vehicles =
        ["Kelp van", "Lamp boat", "Post trike", "Cove taxi", "Peat truck", "Bakery van", "Choir bus", "Reed mower", "Tide barrow", "Wharf crane", "Gull coupe", "Salt pickup", "Loom hatch", "Net hauler", "Dune estate", "Fog tender"];

    /// <summary>Every exercise, by number.</summary>
    public static IEnumerable<PracticeCase> All => Enumerable.Range(1, Count).Select(n => Find(n)!);

    /// <summary>An exercise by its number.</summary>
    /// <param name="number">The number, from 1.</param>
    /// <returns>The exercise; null where there is none of that number.</returns>
    public static PracticeCase? Find(int number) => number < 1 || number > Count ? null : Drawn.GetOrAdd(number, Draw);

    /// <summary>The theme of a number.</summary>
    /// <param name="number">From 1 to <see cref="Count"/>.</param>
    /// <returns>The theme.</returns>
    // Five and eight have no common divisor: numbers that follow each other are of different themes.
    public static PracticeTheme ThemeOf(int number) => (PracticeTheme)((number - 1) * 5 % Themes);

    /// <summary>The level of a number.</summary>
    /// <param name="number">From 1 to <see cref="Count"/>.</param>
    /// <returns>The level.</returns>
    public static PracticeLevel LevelOf(int number) => (PracticeLevel)((number - 1) / Themes % Levels);

    private static PracticeCase Draw(int number)
    {
        var draw = new SeededDraw(unchecked(number * 7919 + 104_729 * Redrawn.GetValueOrDefault(number)));
        var (level, theme) = (LevelOf(number), ThemeOf(number));
        var sheet = theme == PracticeTheme.Diesel ? PracticeEngines.Diesel[number / 8 % 2] : PracticeEngines.Petrol[(number + number / 8) % PracticeEngines.Petrol.Count];
        var model = PracticeEngines.ModelOf(sheet);
        var truths = TruthsOf(theme, level, number, model, draw);
        var age = level == PracticeLevel.Clear ? 0.05 : 0.15;
        var condition = new Dictionary<int, CylinderCondition>();
        for (var c = 1; c <= sheet.Cylinders; c++)
        {
            var built = EngineFamily.Built(model, draw);
            condition[c] = built with { RingM2 = model.Size * 1e-6 * Math.Max(0, age + 0.03 * draw.Normal()) };
        }
        foreach (var t in truths)
        {
            condition[t.Cylinder] = SimulatedFault.Of(model, t.Fault, t.Severity, condition[t.Cylinder], t.With);
        }
        var trap = theme != PracticeTheme.TestErrors ? PracticeTrap.None : (PracticeTrap)(1 + number / 8 % 4);
        var (complaint, seen) = Says(theme, level, truths, draw);
        return new PracticeCase
        {
            Number = number, Level = level, Theme = theme, Truths = truths, Trap = trap, TrapAt = trap == PracticeTrap.SealLeaks ? 1 + (int)draw.Even(0, sheet.Cylinders) : null,
            StartsOnExhaust = level != PracticeLevel.Clear && draw.Even() < 0.5, Engine = new EngineUnderTest(model, condition),
            Intake = new TestRecord
            {
                Vehicle = new Vehicle { Label = $"{Vehicles[(number * 7 + number / 16) % Vehicles.Length]} {number}", Odometer = new Odometer { Value = Math.Round(draw.Even(60, 240)) * 1000, Unit = DistanceUnit.Km } },
                Engine = sheet, Complaint = complaint, Observations = seen,
            },
        };
    }

    private static IReadOnlyList<PracticeTruth> TruthsOf(PracticeTheme theme, PracticeLevel level, int number, SimulatedEngine model, SeededDraw draw)
    {
        var severity = level switch { PracticeLevel.Clear => draw.Even(1.5, 2), PracticeLevel.Everyday => draw.Even(0.9, 1.4), _ => draw.Even(0.45, 0.8) };
        var c = 1 + (int)draw.Even(0, model.Cylinders);
        var second = number > Count / 2;
        PracticeTruth Web(double bad)
        {
            var web = draw.Pick(model.Webs);
            return new(web.First, Fault.GasketAdjacent, bad, web.Second);
        }
        return theme switch
        {
            PracticeTheme.OneCylinder => [new(c, second && level != PracticeLevel.Hard ? Fault.ShortStroke : Fault.Rings, severity)],
            PracticeTheme.Gasket => [second ? new(c, Fault.GasketCoolant, Math.Max(1, severity)) : Web(severity)],
            PracticeTheme.Valves => [level == PracticeLevel.Hard && second ? new(c, Fault.IntakeNotOpening, 1 + severity) : new(c, second ? Fault.IntakeValve : Fault.ExhaustValve, severity)],
            PracticeTheme.Diesel => [level switch { PracticeLevel.Clear => second ? new(c, Fault.ExhaustValve, severity) : new(c, Fault.Rings, severity), PracticeLevel.Everyday => second ? Web(severity) : new(c, Fault.IntakeValve, severity), _ => new(c, second ? Fault.Rings : Fault.ExhaustValve, 0.4 + severity) }],
            PracticeTheme.TwoFaults => Two(),
            PracticeTheme.CannotTell => [second ? new(c, Fault.FuelWashed, Math.Max(1, severity), null, Fault.Rings) : new(c, Fault.Rings, severity, null, Fault.FuelWashed)],
            _ => [],
        };

        IReadOnlyList<PracticeTruth> Two()
        {
            // Far enough apart that neither is taken for the other's neighbour.
            var other = 1 + (c - 1 + model.Cylinders / 2) % model.Cylinders;
            var bad = level == PracticeLevel.Hard ? severity + 0.3 : severity;
            return [new(c, second ? Fault.Rings : Fault.ExhaustValve, bad), new(other, second ? Fault.IntakeValve : Fault.Rings, bad)];
        }
    }

    // What the owner says. Of a hard one it is what owners say of anything.
    private static (string, IReadOnlyList<Observation>?) Says(PracticeTheme theme, PracticeLevel level, IReadOnlyList<PracticeTruth> truths, SeededDraw draw)
    {
        (string, IReadOnlyList<Observation>?) any = draw.Pick<(string, IReadOnlyList<Observation>?)>(
            [("Not as lively as it was.", [Observation.LowPower]), ("Runs unevenly when it stands at the pier.", [Observation.RoughIdle]), ("About to be bought: is the engine sound?", [Observation.PrePurchase]), ("Uses more fuel than last year.", [Observation.PoorEconomy])]);
        if (level == PracticeLevel.Hard || theme is PracticeTheme.NothingWrong or PracticeTheme.TestErrors)
        {
            return any;
        }
        return truths[0].Fault switch
        {
            _ when theme == PracticeTheme.CannotTell => ("Shakes; it smelled of fuel for a week.", [Observation.Misfire]),
            Fault.Rings or Fault.Piston => ("Shakes, and there is blue smoke behind it.", [Observation.Misfire, Observation.BlueSmoke]),
            Fault.ShortStroke => ("Shakes since it went through the ford.", [Observation.Misfire]),
            Fault.GasketAdjacent => ("Shakes at idle and has no pull.", [Observation.Misfire, Observation.LowPower]),
            Fault.GasketCoolant => ("Coolant goes, and nobody sees where.", [Observation.CoolantLoss]),
            _ => ("Shakes at idle.", [Observation.Misfire]),
        };
    }
}
