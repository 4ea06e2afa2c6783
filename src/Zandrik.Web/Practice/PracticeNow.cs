using Zandrik.Core.Practice;
using Zandrik.Core.Records;
using Zandrik.Storage;

namespace Zandrik.Web.Practice;

/// <summary>How a run of the practice bench stands.</summary>
/// <param name="Run">The run.</param>
/// <param name="Exercise">What it is a run of.</param>
/// <param name="Workspace">The job it is done on.</param>
/// <param name="Done">What was done, oldest first.</param>
public sealed record PracticeNow(PracticeRun Run, PracticeCase Exercise, Workspace Workspace, IReadOnlyList<PracticeDone> Done)
{
    /// <summary>Lines of the preparation that are ticked, each with the way it was done.</summary>
    public IReadOnlyDictionary<PreparationItem, string?> Prepared => field ??= Workspace.JobState.Ticked(TickStore.Prepare)
        .Select(t => (Known: RecordWords.TryParse<PreparationItem>(t.Key, out var item), Item: item, t.Value.Way)).Where(t => t.Known).ToDictionary(t => t.Item, t => t.Way);

    /// <summary>How the engine stands.</summary>
    public PracticeStand Stand => field ??= PracticeStand.Of(Prepared, Done.Any(d => d.Act == PracticeAct.SecondGauge));

    /// <summary>Minutes of work so far.</summary>
    public double Minutes => PracticeClock.Minutes(Exercise.Cylinders, Prepared, Done);

    /// <summary>True where the crank stands a turn away from the compression it was set to.</summary>
    public bool IsOnWrongStroke => Exercise.StartsOnExhaust ^ (Count(PracticeAct.TurnRound) % 2 == 1);

    /// <summary>How often something was done.</summary>
    /// <param name="act">What.</param>
    /// <param name="cylinder">At which cylinder; absent for any.</param>
    public int Count(PracticeAct act, int? cylinder = null) => Done.Count(d => d.Act == act && (cylinder is null || d.Cylinder == cylinder));
}

/// <summary>What came of an act.</summary>
/// <param name="Says">What is said of it.</param>
public sealed record PracticeAnswer(string Says)
{
    /// <summary>There is no such run.</summary>
    public static PracticeAnswer Missing { get; } = new("") { IsMissing = true };

    /// <summary>True where there is no such run, or no such act.</summary>
    public bool IsMissing { get; init; }

    /// <summary>True where nothing was done.</summary>
    public bool IsRefused { get; init; }

    /// <summary>The page to look at next; absent for the one it was done from.</summary>
    public string? Go { get; init; }

    /// <summary>What the gauge did; absent where none was used.</summary>
    public PracticeGaugeReading? Gauge { get; init; }

    /// <summary>How loud it is where somebody listens; absent where nobody did.</summary>
    public PracticeSound? Sound { get; init; }

    /// <summary>Refused, and why.</summary>
    /// <param name="why">Why, with what to do.</param>
    public static PracticeAnswer Refuse(string why) => new(why) { IsRefused = true };
}
