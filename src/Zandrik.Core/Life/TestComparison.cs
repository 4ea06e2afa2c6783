using System.Globalization;
using MathNet.Numerics.Distributions;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;

namespace Zandrik.Core.Life;

/// <summary>One cylinder in two tests.</summary>
/// <param name="Cylinder">The cylinder.</param>
/// <param name="First">In the first test: Pa gauge, or percent lost.</param>
/// <param name="Second">In the second: Pa gauge, or percent lost.</param>
/// <param name="Difference">Second against first: percent of the first for pressures, percent points for leak-down.</param>
/// <param name="Noise">How much two such tests of an unchanged cylinder may differ, percent, or percent points: in one of twenty engines any cylinder does.</param>
/// <param name="IsMore">True where the difference is more than gauges and days explain; what a cold engine reads less by rule is taken off first.</param>
/// <param name="Own">Its difference without what all cylinders have in common: percent, or points; absent where fewer than three were read in both.</param>
/// <param name="OwnNoise">How much that may be by chance, percent, or percent points: gauge and day are the same for all cylinders and are not in it.</param>
public sealed record ComparedCylinder(int Cylinder, double First, double Second, double Difference, double Noise, bool IsMore, double? Own, double OwnNoise)
{
    /// <summary>True where it changed otherwise than the others by more than a gauge explains.</summary>
    public bool IsOwnMore => Own is { } own && Math.Abs(own) > OwnNoise;
}

/// <summary>Two tests of a kind side by side: last year and now, before and after oil or a repair, hot and cold, gauge against gauge.</summary>
/// <param name="First">The first.</param>
/// <param name="Second">The second.</param>
/// <param name="Cylinders">Those read in both, in order; empty where <paramref name="Problem"/> says why.</param>
/// <param name="Says">What it comes to, in one sentence.</param>
/// <param name="Notes">What makes them less comparable.</param>
/// <param name="Problem">Why they cannot be compared; absent where they can.</param>
public sealed record TestComparison(LifeTest First, LifeTest Second, IReadOnlyList<ComparedCylinder> Cylinders, string Says, IReadOnlyList<string> Notes, string? Problem)
{
    /// <summary>In so many engines that did not change any cylinder is called changed, 0 to 1.</summary>
    public const double FalseAlarm = 0.05;

    /// <summary>What a leak-down figure repeats to, percent points: 2 and a tenth of what is lost. Rule of thumb.</summary>
    public const double LeakPoints = 2, LeakShare = 0.1;

    // Tests of one hour stand on the same battery and the same warm engine.
    private static readonly TimeSpan SameDay = TimeSpan.FromHours(12);

    /// <summary>Compares.</summary>
    /// <param name="first">The first test.</param>
    /// <param name="second">The second.</param>
    /// <returns>
    /// The comparison. The noise is that of two readings, of gauges that were not checked where they are not the same one, of two days, and of warm against cold; of all cylinders together one crosses it
    /// by chance in 5 % of engines (Šidák).
    /// </returns>
    public static TestComparison Of(LifeTest first, LifeTest second)
    {
        var problem = first.Id == second.Id ? "That is the same test twice: pick another." : first.IsPressure != second.IsPressure ? "A pressure and a leak-down have nothing in common: pick two of a kind." : null;
        var both = problem is null ? first.Values.Keys.Where(c => second.Values.ContainsKey(c) && !(first.IsPressure && (first.Values[c] <= 0 || second.Values[c] <= 0))).Order().ToList() : [];
        if (problem is not null || both.Count == 0)
        {
            return new(first, second, [], "These two cannot be compared.", [], problem ?? "No cylinder was read in both.");
        }
        var notes = new List<string>();
        var (shared, shift) = Common(first, second, notes);
        var errors = Normal.InvCDF(0, 1, 1 - (1 - Math.Pow(1 - FalseAlarm, 1.0 / both.Count)) / 2);
        // In logarithms for pressures, as all their noise is a share; in points for leak-down.
        double Value(LifeTest t, int c) => first.IsPressure ? Math.Log(t.Values[c]) : t.Values[c];
        double Spread(int c) => first.IsPressure ? Math.Sqrt(2) * WearTrend.ReadingSpread : Math.Sqrt(Square(LeakPoints + LeakShare * first.Values[c]) + Square(LeakPoints + LeakShare * second.Values[c]));
        double Shown(double difference) => first.IsPressure ? 100 * (Math.Exp(difference) - 1) : difference;
        var mean = both.Average(c => Value(second, c) - Value(first, c));
        List<ComparedCylinder> cylinders = [.. both.Select(c =>
        {
            var difference = Value(second, c) - Value(first, c);
            var spread = Spread(c);
            var noise = errors * Math.Sqrt(spread * spread + shared * shared);
            return new ComparedCylinder(c, first.Values[c], second.Values[c], Shown(difference), Shown(noise), Math.Abs(difference - shift) > noise, both.Count < 3 ? null : Shown(difference - mean),
                Shown(errors * spread * Math.Sqrt(1 - 1.0 / both.Count)));
        })];
        return new(first, second, cylinders, Sentence(cylinders, first.IsPressure, shift == 0 ? "the gauges" : "gauges and a cold engine"), notes, null);
    }

    // The spread that all cylinders share, and what is expected to differ.
    private static (double Spread, double Shift) Common(LifeTest first, LifeTest second, List<string> notes)
    {
        var spread = 0.0;
        var shift = 0.0;
        if (!first.IsPressure)
        {
            if (first.Gauge != second.Gauge || first.Gauge is null)
            {
                notes.Add("Not the same leak-down tester, or nobody said which: their figures differ by how they are built.");
            }
            return (0, 0);
        }
        if (first.Gauge is null || first.Gauge != second.Gauge)
        {
            foreach (var test in new[] { first, second }.Where(t => !t.IsByCheck))
            {
                spread += Square(WearTrend.GaugeSpread);
                notes.Add(test.Gauge is { } gauge ? $"{gauge} was not checked against a reference: it may read 3 % off." : "Nobody said which gauge: it may read 3 % off.");
            }
        }
        if ((second.At - first.At).Duration() > SameDay)
        {
            spread += 2 * Square(WearTrend.DaySpread);
        }
        if (first.Temperature is null || second.Temperature is null)
        {
            notes.Add("Nobody said whether the engine was warm each time.");
        }
        else if (first.Temperature != second.Temperature)
        {
            spread += Square(WearTrend.ColdSpread);
            shift = second.Temperature == EngineTemperature.Cold ? WearTrend.ColdLess : -WearTrend.ColdLess;
            notes.Add("One is of a warm engine, one of a cold: a cold one reads about 7 % less by rule, and is no measure of wear.");
        }
        foreach (var test in new[] { first, second }.Where(t => t.Kind == TestKind.Dry && t.LeftOut is not null))
        {
            notes.Add($"One of them does not count for wear: {test.LeftOut}.");
        }
        if (first.Kind != second.Kind)
        {
            notes.Add("One is dry, one with oil: oil seals rings and fills room, so a few percent more are no finding.");
        }
        return (Math.Sqrt(spread), shift);
    }

    private static string Sentence(List<ComparedCylinder> cylinders, bool pressure, string what)
    {
        var more = cylinders.Where(c => c.IsMore).ToList();
        var unit = pressure ? "%" : "points";
        var mean = cylinders.Average(c => c.Difference);
        var all = $"On average {(mean >= 0 ? "+" : "−")}{Math.Abs(mean).ToString("0.0", CultureInfo.CurrentCulture)} {unit}.";
        var own = cylinders.Where(c => c.IsOwnMore && !(cylinders.Count == more.Count && !c.IsMore)).ToList();
        var first = more.Count == 0 ? $"No cylinder differs by more than {what} can explain." : more.Count == cylinders.Count ? $"All cylinders differ by more than {what} can explain." : $"{Named(more)} {(more.Count == 1 ? "differs" : "differ")} by more than {what} can explain.";
        var against = own.Count == 0 || own.Count == cylinders.Count ? "" : $" Against the others {Named(own).ToLowerInvariant()} changed by more than a gauge can explain.";
        return $"{first}{against} {all}";
    }

    private static string Named(List<ComparedCylinder> of) => $"{(of.Count == 1 ? "Cylinder" : "Cylinders")} {CylinderList.Sentence([.. of.Select(c => c.Cylinder)])}";

    private static double Square(double x) => x * x;
}
