using Zandrik.Core.Records;

namespace Zandrik.Core.Life;

/// <summary>A job on an engine, as far as its distance goes.</summary>
/// <param name="Job">The job's number.</param>
/// <param name="At">When.</param>
/// <param name="Vehicle">The vehicle it sat in; absent where nobody said.</param>
/// <param name="Odometer">What its odometer or hour meter said; absent where nobody wrote it down.</param>
/// <param name="IsReplaced">True where somebody said that the odometer or hour meter was changed since the job before.</param>
public sealed record Visit(int Job, DateTimeOffset At, int? Vehicle, Odometer? Odometer, bool IsReplaced = false);

/// <summary>Why the figure of an odometer is not used.</summary>
public enum RunDoubt
{
    /// <summary>It is used.</summary>
    None,

    /// <summary>There is none.</summary>
    NotSaid,

    /// <summary>It is less than an earlier one of the same vehicle, and nobody said that the odometer was changed.</summary>
    Backwards,

    /// <summary>Hours where the others are a distance, or a distance where the others are hours.</summary>
    OtherUnit,
}

/// <summary>How far an engine had run at a job.</summary>
/// <param name="Visit">The job.</param>
/// <param name="Run">Kilometres (km), or hours (h) for an engine with an hour meter.</param>
/// <param name="Doubt">Why its own figure is not used; then <paramref name="Run"/> is by the date.</param>
public sealed record RunAt(Visit Visit, double Run, RunDoubt Doubt);

/// <summary>
/// How far an engine had run at each of its jobs, through swaps, changed odometers, slips of the pen and jobs where nobody looked. What its odometers say is used where they agree with one another;
/// the rest is placed by the date, and said.
/// </summary>
public sealed class DistanceRun
{
    /// <summary>What an engine runs in a year where nothing says how far: km, or h for one with an hour meter. Rules of thumb.</summary>
    public const double UsualKm = 15_000, UsualHours = 500;

    /// <summary>Kilometres (km) of a mile.</summary>
    public const double KmPerMile = 1.609344;

    // A year of an engine is known from a quarter of one on, and is neither nothing nor more than anybody drives.
    private const double ShortestYears = 0.25, LeastOfUsual = 0.02, MostOfUsual = 20;

    private readonly List<(DateTimeOffset At, double Run)> known;

    private DistanceRun(bool inHours, double aYear, bool isByRule, List<(DateTimeOffset, double)> known, bool hasNoOdometer)
    {
        (InHours, AYear, IsByRule, this.known, HasNoOdometer) = (inHours, aYear, isByRule, known, hasNoOdometer);
    }

    /// <summary>True where the engine is counted in hours.</summary>
    public bool InHours { get; }

    /// <summary>What its odometers count in, as most of them do: distances are shown in it. Figures here are km or h all the same.</summary>
    public DistanceUnit Unit { get; private init; }

    /// <summary>What it runs in a year, km or h.</summary>
    public double AYear { get; }

    /// <summary>True where <see cref="AYear"/> is the rule of thumb, or what somebody said of its owner, and not from its own odometer.</summary>
    public bool IsByRule { get; }

    /// <summary>True where no odometer says anything: then all is by the date, and the first job is the zero.</summary>
    public bool HasNoOdometer { get; }

    /// <summary>Its jobs, the earliest first.</summary>
    public IReadOnlyList<RunAt> At { get; private init; } = [];

    /// <summary>A thousand kilometres, or the forty hours that wear an engine as much, in what it is counted in: km or h.</summary>
    public double Step => StepOf(InHours);

    /// <summary>The same of any engine.</summary>
    /// <returns>1000 km or 40 h.</returns>
    public static double StepOf(bool inHours) => inHours ? 40 : 1000;

    /// <summary>How far the engine of these jobs had run at each.</summary>
    /// <param name="visits">Its jobs; in any order.</param>
    /// <param name="saidAYear">Kilometres a year its owner drives; absent where nobody said.</param>
    /// <returns>
    /// The distances. Hours or a distance, as most jobs have it; miles are counted in km. Among the figures of one odometer the longest row that never falls is used; across a swap or a changed odometer
    /// the engine goes on with what it runs in a year.
    /// </returns>
    public static DistanceRun Of(IReadOnlyCollection<Visit> visits, double? saidAYear = null)
    {
        var all = visits.OrderBy(v => v.At).ThenBy(v => v.Job).ToList();
        var inHours = all.Count(v => v.Odometer is { Unit: DistanceUnit.H }) > all.Count(v => v.Odometer is not null and not { Unit: DistanceUnit.H });
        var doubts = new Dictionary<Visit, RunDoubt>(ReferenceEqualityComparer.Instance);
        var odometers = new List<List<(Visit Visit, double Value)>>();
        Visit? before = null;
        foreach (var visit in all)
        {
            if (visit.Odometer is not { } odometer || (odometer.Unit == DistanceUnit.H) != inHours)
            {
                doubts[visit] = visit.Odometer is null ? RunDoubt.NotSaid : RunDoubt.OtherUnit;
                continue;
            }
            if (before is null || visit.IsReplaced || visit.Vehicle != before.Vehicle)
            {
                odometers.Add([]);
            }
            odometers[^1].Add((visit, odometer.Unit == DistanceUnit.Mi ? odometer.Value * KmPerMile : odometer.Value));
            before = visit;
        }
        for (var i = 0; i < odometers.Count; i++)
        {
            var rising = Rising(odometers[i]);
            foreach (var (visit, _) in odometers[i].Where(r => !rising.Contains(r)))
            {
                doubts[visit] = RunDoubt.Backwards;
            }
            odometers[i] = rising;
        }
        var usual = inHours ? UsualHours : UsualKm;
        var (run, years) = (odometers.Sum(o => o[^1].Value - o[0].Value), odometers.Sum(o => Years(o[0].Visit.At, o[^1].Visit.At)));
        var isByRule = years < ShortestYears;
        var aYear = isByRule ? !inHours && saidAYear is > 0 and var said ? said : usual : run / years;
        aYear = Math.Clamp(aYear, LeastOfUsual * usual, MostOfUsual * usual);
        var known = new List<(DateTimeOffset At, double Run)>();
        var figures = new Dictionary<Visit, double>(ReferenceEqualityComparer.Instance);
        foreach (var odometer in odometers)
        {
            var shift = known.Count == 0 ? 0 : known[^1].Run + aYear * Years(known[^1].At, odometer[0].Visit.At) - odometer[0].Value;
            foreach (var (visit, value) in odometer)
            {
                figures[visit] = value + shift;
                known.Add((visit.At, value + shift));
            }
        }
        var hasNone = known.Count == 0;
        if (hasNone && all.Count > 0)
        {
            known.Add((all[0].At, 0));
        }
        var placed = new DistanceRun(inHours, aYear, isByRule, known, hasNone);
        return new(inHours, aYear, isByRule, known, hasNone)
        {
            Unit = inHours ? DistanceUnit.H : all.Count(v => v.Odometer is { Unit: DistanceUnit.Mi }) > all.Count(v => v.Odometer is { Unit: DistanceUnit.Km }) ? DistanceUnit.Mi : DistanceUnit.Km,
            At = [.. all.Select(v => new RunAt(v, figures.TryGetValue(v, out var figure) ? figure : placed.On(v.At), doubts.GetValueOrDefault(v)))],
        };
    }

    /// <summary>How far it had run, or will have run, at a time: between two figures in a straight line, beyond them with what it runs in a year.</summary>
    /// <returns>Kilometres or hours; 0 or more.</returns>
    public double On(DateTimeOffset at)
    {
        if (known.Count == 0)
        {
            return 0;
        }
        var after = known.FindIndex(k => k.At > at);
        if (after == 0)
        {
            return Math.Max(0, known[0].Run - AYear * Years(at, known[0].At));
        }
        if (after < 0)
        {
            return known[^1].Run + AYear * Years(known[^1].At, at);
        }
        var (from, to) = (known[after - 1], known[after]);
        return from.Run + (to.Run - from.Run) * ((at - from.At) / (to.At - from.At));
    }

    /// <summary>When it will have run so far, from a time on at which it had run less.</summary>
    /// <param name="from">The time.</param>
    /// <param name="more">How much more, km or h; 0 or more.</param>
    /// <returns>The time; the latest there is for one beyond a hundred years.</returns>
    public DateTimeOffset? After(DateTimeOffset from, double more)
    {
        var years = more / AYear;
        return years > 100 ? null : from.AddDays(365.25 * years);
    }

    private static double Years(DateTimeOffset from, DateTimeOffset to) => (to - from).TotalDays / 365.25;

    // The longest row of figures that never falls; among those as long the one that ends last, for the odometer that is looked at now is the likelier right, and of those the one that climbs least.
    private static List<(Visit Visit, double Value)> Rising(List<(Visit Visit, double Value)> odometer)
    {
        var (length, previous) = (new int[odometer.Count], new int[odometer.Count]);
        var last = 0;
        for (var i = 0; i < odometer.Count; i++)
        {
            (length[i], previous[i]) = (1, -1);
            for (var j = 0; j < i; j++)
            {
                if (odometer[j].Value <= odometer[i].Value && (length[j] + 1 > length[i] || (length[j] + 1 == length[i] && odometer[j].Value >= odometer[previous[i]].Value)))
                {
                    (length[i], previous[i]) = (length[j] + 1, j);
                }
            }
            last = length[i] >= length[last] ? i : last;
        }
        var row = new List<(Visit, double)>();
        for (var i = last; i >= 0; i = previous[i])
        {
            row.Insert(0, odometer[i]);
        }
        return row;
    }
}
