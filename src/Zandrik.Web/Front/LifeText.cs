using System.Globalization;
using Zandrik.Core.Life;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>What an engine's life comes to, as the shop reads it.</summary>
public static class LifeText
{
    private const int MostYears = 20;

    /// <summary>A distance or hours, to three figures from a thousand on: nobody knows a forecast better.</summary>
    public static string About(double run, bool inHours)
    {
        var step = run < 1000 ? 10 : Math.Pow(10, Math.Floor(Math.Log10(run)) - 1);
        return Exact(Math.Round(run / step) * step, inHours);
    }

    /// <summary>A distance or hours, to the last kilometre or hour.</summary>
    public static string Exact(double run, bool inHours) => ShopText.Odometer(new Odometer { Value = Math.Round(run), Unit = inHours ? DistanceUnit.H : DistanceUnit.Km });

    /// <summary>What wear is counted in.</summary>
    public static string Step(bool inHours) => inHours ? "40\u202Fh" : "1000\u202Fkm";

    /// <summary>A share with its sign, in percent.</summary>
    public static string Signed(double share, string format = "0") => $"{(share < 0 ? "−" : "+")}{Math.Abs(100 * share).ToString(format, CultureInfo.CurrentCulture)} %";

    /// <summary>Why an engine is tested again when it is.</summary>
    public static string Why(RetestWhy why) => why switch
    {
        RetestWhy.Time => "the shop’s rule, time since the last test",
        RetestWhy.Run => "the shop’s rule, running since the last test",
        RetestWhy.Wear => "by then one of ten such engines is under the minimum",
        RetestWhy.MayBeUnder => "it may be under the minimum already",
        RetestWhy.IsUnder => "under the minimum: decide, a retest tells nothing new",
        RetestWhy.Repaired => "repaired since the last test",
        RetestWhy.Gone => "no longer in the shop’s care",
        _ => "no dry test yet",
    };

    /// <summary>The lowest cylinder of the latest test, in one sentence.</summary>
    public static string Stands(EngineLife life, PressureUnit unit, ShopPerson who)
    {
        if (life.LatestDry is not { Worst: { } worst } test)
        {
            return "No dry test of it counts yet.";
        }
        var margin = life.Margin is { } m ? m < 0 ? $", {(-100 * m).ToString("0", CultureInfo.CurrentCulture)} % under the maker’s minimum" : $", {(100 * m).ToString("0", CultureInfo.CurrentCulture)} % over the maker’s minimum" : ", no maker’s minimum known";
        return $"Lowest: cylinder {worst.Cylinder} at {GaugePressure.Figure(worst.Value, unit)} {unit.Symbol()}{margin} ({ShopText.Day(test.At, who)}{(test.Temperature == EngineTemperature.Cold ? ", cold: a cold engine reads less" : "")}).";
    }

    /// <summary>How it falls, in one sentence; absent without a trend.</summary>
    public static string? Falls(EngineLife life)
    {
        if (life.Fastest is not { } fastest)
        {
            return null;
        }
        var usual = (-100 * WearTrend.UsualPerStep).ToString("0.0", CultureInfo.CurrentCulture);
        var (change, spread) = (100 * fastest.PerStep, 100 * fastest.PerStepSpread);
        var says = $"{Math.Abs(change).ToString("0.00", CultureInfo.CurrentCulture)} ± {spread.ToString("0.00", CultureInfo.CurrentCulture)} % in {Step(life.Run.InHours)}";
        return life.Trend!.Cylinders.Max(c => c.Readings) < 2 ? $"One test says nothing of wear: {usual} % in {Step(life.Run.InHours)} is assumed until there is another."
            : change < 0 ? $"Cylinder {fastest.Cylinder} falls fastest: {says}. Usual is {usual} %." : $"No cylinder falls: at most {says} up. Usual is a fall of {usual} %.";
    }

    /// <summary>When it meets the minimum, in one sentence; absent without a forecast.</summary>
    public static string? Meets(EngineLife life, ShopPerson who)
    {
        if (life is not { Forecast: { } forecast, LatestDry: { } last })
        {
            return null;
        }
        if (forecast.Under(0) >= RetestRule.Chance)
        {
            return $"{ShopText.Percent(forecast.Under(0))} % that its lowest cylinder is under the minimum already.";
        }
        var (soon, median, late) = (forecast.Until(0.1), forecast.Until(0.5), forecast.Until(0.9));
        // Nobody knows an engine further ahead than that.
        bool IsFar(double? run) => run is null || run > MostYears * life.Run.AYear;
        string Far(double? run) => IsFar(run) ? $"more than {MostYears} years away" : About(run!.Value, life.Run.InHours);
        string By(double? run) => run is { } r && life.Run.After(last.At, r) is { Year: < 2200 } day ? $" ({ShopText.Day(day, who)})" : "";
        return IsFar(soon) ? $"At this rate it does not meet the minimum within {MostYears} years."
            : IsFar(median) ? $"At this rate it more likely than not keeps above the minimum for {MostYears} years; in one of ten cases it meets it after {Far(soon)}{By(soon)}."
            : $"The lowest meets the minimum after about {Far(median)} more{By(median)}; in four of five cases between {Far(soon)} and {Far(late)}.";
    }

    /// <summary>When it is tested again, in one sentence.</summary>
    public static string Again(Retest retest, ShopPerson who, DateTimeOffset now) =>
        retest.Due is { } due ? $"{(due <= now ? "Retest is due" : "Test it again")} {(due <= now ? "since" : "by")} {ShopText.Day(due, who)}: {Why(retest.Why)}." : $"No retest due: {Why(retest.Why)}.";

    /// <summary>How far it runs in a year, and where that is from.</summary>
    public static string AYear(DistanceRun run) => $"{About(run.AYear, run.InHours)} a year, {(run.IsByRule ? "assumed: its odometer does not tell yet" : "by its odometer")}{(run.HasNoOdometer ? "; placed by date alone, no odometer was noted" : "")}";

    /// <summary>A kind of test in the history.</summary>
    public static string Kind(TestKind kind) => kind switch { TestKind.Wet => "Wet", TestKind.LeakDown => "Leak-down", _ => "Dry" };

    /// <summary>A figure of a test without its unit.</summary>
    public static string Figure(LifeTest test, int cylinder, PressureUnit unit) =>
        test.Values.TryGetValue(cylinder, out var value) ? test.IsPressure ? GaugePressure.Figure(value, unit) : value.ToString("0.#", CultureInfo.CurrentCulture) : "";
}
