using System.Globalization;
using Zandrik.Core.Checks;
using Zandrik.Core.Life;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>What an engine's life comes to, as the shop reads it.</summary>
public static class LifeText
{
    private const int MostYears = 20;

    /// <summary>A distance or hours, to two figures: nobody knows a forecast better.</summary>
    /// <param name="run">Kilometres or hours.</param>
    /// <param name="unit">What the engine's odometers count in.</param>
    public static string About(double run, DistanceUnit unit)
    {
        var shown = In(run, unit);
        var step = shown < 1000 ? 10 : Math.Pow(10, Math.Floor(Math.Log10(shown)) - 1);
        return ShopText.Odometer(new Odometer { Value = Math.Round(shown / step) * step, Unit = unit });
    }

    /// <summary>A distance or hours, to the last one.</summary>
    /// <param name="run">Kilometres or hours.</param>
    /// <param name="unit">What the engine's odometers count in.</param>
    public static string Exact(double run, DistanceUnit unit) => ShopText.Odometer(new Odometer { Value = Math.Round(In(run, unit)), Unit = unit });

    /// <summary>Kilometres or hours in what the odometers count in.</summary>
    public static double In(double run, DistanceUnit unit) => unit == DistanceUnit.Mi ? run / DistanceRun.KmPerMile : run;

    /// <summary>What wear is counted in.</summary>
    public static string Step(DistanceUnit unit) => unit switch { DistanceUnit.H => "40\u202Fh", DistanceUnit.Mi => "1000\u202Fmi", _ => "1000\u202Fkm" };

    /// <summary>Wear of a step of the trend (1000 km or 40 h) in that of <see cref="Step"/>.</summary>
    public static double PerStep(double share, DistanceUnit unit) => unit == DistanceUnit.Mi ? share * DistanceRun.KmPerMile : share;

    /// <summary>A share with its sign, in percent.</summary>
    public static string Signed(double share, string format = "0") => $"{(share < 0 ? "−" : "+")}{Math.Abs(100 * share).ToString(format, CultureInfo.CurrentCulture)} %";

    /// <summary>Why an engine is tested again when it is.</summary>
    public static string Why(RetestWhy why) => why switch
    {
        RetestWhy.Time => "shop’s rule, time since the last test",
        RetestWhy.Run => "shop’s rule, distance or hours since the last test",
        RetestWhy.Wear => "by then 1 in 10 such engines is under the minimum",
        RetestWhy.MayBeUnder => "it may already be under the minimum",
        RetestWhy.IsUnder => "under the minimum: decide on a repair, a retest won’t help",
        RetestWhy.Repaired => "repaired since the last test",
        RetestWhy.Gone => "no longer in the shop’s care",
        _ => "no dry test yet",
    };

    /// <summary>The lowest cylinder of the latest test, in one sentence.</summary>
    public static string Stands(EngineLife life, PressureUnit unit, ShopPerson who)
    {
        if (life.LatestDry is not { Worst: { } worst } test)
        {
            return "No usable dry test yet.";
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
        var usual = (-100 * PerStep(WearTrend.UsualPerStep, life.Run.Unit)).ToString("0.0#", CultureInfo.CurrentCulture);
        var (change, spread) = (100 * PerStep(fastest.PerStep, life.Run.Unit), 100 * PerStep(fastest.PerStepSpread, life.Run.Unit));
        var says = $"{Math.Abs(change).ToString("0.00", CultureInfo.CurrentCulture)} ± {spread.ToString("0.00", CultureInfo.CurrentCulture)} % in {Step(life.Run.Unit)}";
        return life.Trend!.Cylinders.Max(c => c.Readings) < 2 ? $"One test cannot show wear: {usual} % in {Step(life.Run.Unit)} is assumed until there is a second."
            : change < 0 ? $"Cylinder {fastest.Cylinder} falls fastest: {says}. Usual is {usual} %." : $"No cylinder is falling. Usual is {usual} % in {Step(life.Run.Unit)}.";
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
            return $"{ShopText.Percent(forecast.Under(0))} % likely that the lowest cylinder is already under the minimum.";
        }
        var (soon, median, late) = (forecast.Until(0.1), forecast.Until(0.5), forecast.Until(0.9));
        // Nobody knows an engine further ahead than that.
        bool IsFar(double? run) => run is null || run > MostYears * life.Run.AYear;
        string Far(double? run) => IsFar(run) ? $"more than {MostYears} years away" : About(run!.Value, life.Run.Unit);
        string By(double? run) => run is { } r && life.Run.After(last.At, r) is { Year: < 2200 } day ? $" ({ShopText.Day(day, who)})" : "";
        return IsFar(soon) ? $"At this rate it does not reach the minimum within {MostYears} years."
            : IsFar(median) ? $"At this rate it more likely than not stays above the minimum for {MostYears} years; in 1 case in 10 it reaches it after {Far(soon)}{By(soon)}."
            : $"The lowest cylinder reaches the minimum after about {Far(median)} more{By(median)}; in 4 cases in 5 between {Far(soon)} and {Far(late)}.";
    }

    /// <summary>When it is tested again, in one sentence.</summary>
    public static string Again(Retest retest, ShopPerson who, DateTimeOffset now) => retest switch
    {
        { Due: null } => $"No retest due: {Why(retest.Why)}.",
        { Why: RetestWhy.Repaired or RetestWhy.MayBeUnder } => $"Retest it now: {Why(retest.Why)}.",
        { Due: { } due } => $"Retest {(due <= now ? "due since" : "by")} {ShopText.Day(due, who)}: {Why(retest.Why)}.",
    };

    /// <summary>How far it runs in a year, and where that is from.</summary>
    public static string AYear(DistanceRun run) => $"{About(run.AYear, run.Unit)} a year, {(run.IsByRule ? "assumed until its odometer shows it" : "by its odometer")}{(run.HasNoOdometer ? "; placed by date, no odometer was entered" : "")}";

    /// <summary>A kind of test in the history.</summary>
    public static string Kind(LifeTest test) => test.Kind switch
    {
        TestKind.Dry => "Dry",
        TestKind.Wet => "Wet",
        TestKind.LeakDown => "Leak-down",
        TestKind.Running => "Running, at idle",
        TestKind.Relative => "Relative",
        _ => SupportingCheck.All.First(c => c.Kind == test.Step).Name,
    };

    /// <summary>What the figures of a test are in, with the comma before it; empty for a small check.</summary>
    public static string In(LifeTest test, PressureUnit unit) => test.IsPressure ? $", {unit.Symbol()}" : test.Kind switch { TestKind.LeakDown => ", % lost", TestKind.Relative => ", % of the best", _ => "" };

    /// <summary>A figure of a test without its unit.</summary>
    public static string Figure(LifeTest test, int cylinder, PressureUnit unit) =>
        test.Values.TryGetValue(cylinder, out var value) ? test.IsPressure ? GaugePressure.Figure(value, unit) : value.ToString("0.#", CultureInfo.CurrentCulture) : "";
}
