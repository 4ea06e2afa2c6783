using Zandrik.Core.Readings;
using Zandrik.Core.Records;

namespace Zandrik.Core.Life;

/// <summary>
/// The life of one engine: what every test of it read, over what it has run; its trend, when it meets the maker's minimum, and when it is tested again. It has no clock: the same tests always say the
/// same.
/// </summary>
public sealed class EngineLife
{
    // Nothing is drawn further ahead than this, years.
    private const double MostAhead = 5;

    private readonly Dictionary<int, RunAt> runs;

    private EngineLife(EngineSheet engine, DistanceRun run, IReadOnlyList<LifeTest> tests, IReadOnlyList<LifeRepair> repairs)
    {
        (Engine, Run, Tests, Repairs) = (engine, run, tests, repairs);
        runs = run.At.ToDictionary(r => r.Visit.Job);
    }

    /// <summary>The engine, as its latest job knows it.</summary>
    public EngineSheet Engine { get; }

    /// <summary>How far it has run.</summary>
    public DistanceRun Run { get; }

    /// <summary>Its tests that give a figure a cylinder, the earliest first.</summary>
    public IReadOnlyList<LifeTest> Tests { get; }

    /// <summary>What was done on it, the earliest first.</summary>
    public IReadOnlyList<LifeRepair> Repairs { get; }

    /// <summary>The trend; absent without a dry test that counts.</summary>
    public WearTrend? Trend { get; private init; }

    /// <summary>When the lowest cylinder meets the maker's minimum; absent without a trend or a minimum.</summary>
    public WearForecast? Forecast { get; private init; }

    /// <summary>When it is tested again.</summary>
    public Retest Retest { get; private init; } = new(null, RetestWhy.NeverTested);

    /// <summary>The maker's minimum, Pa gauge; absent where nobody knows it.</summary>
    public double? MinimumPa { get; private init; }

    /// <summary>The latest dry test that counts; absent for none.</summary>
    public LifeTest? LatestDry => Tests.LastOrDefault(t => t.Kind == TestKind.Dry && t.LeftOut is null);

    /// <summary>Cylinders that were not read since something was done on them.</summary>
    public IReadOnlyList<int> UnreadSinceRepair { get; private init; } = [];

    /// <summary>How far the lowest cylinder of the latest dry test is over the maker's minimum, share of it: −0.05 is 5 % under. Absent without either.</summary>
    public double? Margin => MinimumPa is { } minimum && LatestDry?.Worst is { } worst ? worst.Value / minimum - 1 : null;

    /// <summary>The cylinder that falls fastest, with its trend; absent without one.</summary>
    public CylinderTrend? Fastest => Trend?.Cylinders.MinBy(c => c.PerStep);

    /// <summary>How far the engine had run at a test, km or h.</summary>
    /// <returns>km or h, 0 for a job that is not among its own.</returns>
    public double RunOf(LifeTest test) => runs.TryGetValue(test.Job, out var at) ? at.Run : 0;

    /// <summary>Why the odometer of a job is not used.</summary>
    /// <returns>None where it is.</returns>
    public RunDoubt DoubtOf(int job) => runs.TryGetValue(job, out var at) ? at.Doubt : RunDoubt.NotSaid;

    /// <summary>The life of an engine.</summary>
    /// <param name="engine">The engine, as its latest job knows it.</param>
    /// <param name="visits">Its jobs.</param>
    /// <param name="tests">Its tests that give a figure a cylinder; in any order.</param>
    /// <param name="repairs">What was done on it; in any order.</param>
    /// <param name="rule">The shop's rule for testing again; absent for the usual one.</param>
    /// <param name="kmAYear">Kilometres a year its owner drives; absent where nobody said.</param>
    /// <param name="isGone">True for one that left the shop's care: nothing is due.</param>
    /// <returns>Its life; one without tests has no trend, and the rest says so.</returns>
    public static EngineLife Of(EngineSheet engine, IReadOnlyCollection<Visit> visits, IEnumerable<LifeTest> tests, IEnumerable<LifeRepair> repairs, RetestRule? rule = null, double? kmAYear = null, bool isGone = false)
    {
        var life = new EngineLife(engine, DistanceRun.Of(visits, kmAYear), [.. tests.OrderBy(t => t.At).ThenBy(t => t.Id)], [.. repairs.OrderBy(r => r.At)]);
        var counting = life.Tests.Where(t => t.Kind == TestKind.Dry && t.LeftOut is null).ToList();
        var readings = new List<TrendReading>();
        for (var t = 0; t < counting.Count; t++)
        {
            var test = counting[t];
            foreach (var (cylinder, pa) in test.Values)
            {
                // A cylinder that gives nothing is broken, not worn: no line goes through it.
                if (pa > 0 && !life.Repairs.Any(r => r.Touches(cylinder) && r.At >= test.At))
                {
                    readings.Add(new(t, cylinder, life.RunOf(test), pa, test.IsByCheck ? null : test.Gauge, !test.IsByCheck && test.Gauge is null, test.Temperature == EngineTemperature.Cold));
                }
            }
        }
        var trend = WearTrend.Of(readings, life.Run.Step);
        var minimum = JudgingRules.For(engine).MinimumPa;
        var forecast = trend is not null && minimum is > 0 and var floor ? WearForecast.Of(trend, floor, life.Run.AYear * MostAhead) : null;
        var last = counting.Count > 0 ? counting[^1] : null;
        return new(engine, life.Run, life.Tests, life.Repairs)
        {
            Trend = trend, Forecast = forecast, MinimumPa = minimum,
            Retest = isGone ? new(null, RetestWhy.Gone) : Retest.Of(last, life.Run, forecast, life.Repairs.Count > 0 ? life.Repairs[^1].At : null, rule ?? RetestRule.Usual),
            UnreadSinceRepair = [.. Enumerable.Range(1, engine.Cylinders).Where(c => life.Repairs.LastOrDefault(r => r.Touches(c)) is { } repair && !counting.Exists(t => t.At > repair.At && t.Values.ContainsKey(c)))],
        };
    }
}
