namespace Zandrik.Core.Life;

/// <summary>When an engine is tested again at the latest, whatever its trend says.</summary>
/// <param name="Months">Months after the last test; above 0.</param>
/// <param name="Km">Kilometres (km) after it; above 0.</param>
/// <param name="Hours">Hours (h) after it, for an engine with an hour meter; above 0.</param>
public sealed record RetestRule(int Months, double Km, double Hours)
{
    /// <summary>A year, 20 000 km, or the 800 h that wear as much.</summary>
    public static RetestRule Usual { get; } = new(12, 20_000, 800);

    /// <summary>The chance to be under the minimum at which an engine is tested again, 0 to 1.</summary>
    public const double Chance = 0.1;
}

/// <summary>Why an engine is tested again when it is.</summary>
public enum RetestWhy
{
    /// <summary>It never had a dry test that counts.</summary>
    NeverTested,

    /// <summary>Time since the last test.</summary>
    Time,

    /// <summary>Distance or hours since the last test.</summary>
    Run,

    /// <summary>By then one of ten such engines is under the minimum.</summary>
    Wear,

    /// <summary>It may be under the minimum already.</summary>
    MayBeUnder,

    /// <summary>It more likely is under the minimum than not: it is decided on, not tested again.</summary>
    IsUnder,

    /// <summary>Something was repaired since the last test.</summary>
    Repaired,

    /// <summary>It has left the shop's care.</summary>
    Gone,
}

/// <summary>When an engine is tested again.</summary>
/// <param name="Due">When; absent where nothing is due.</param>
/// <param name="Why">Why then.</param>
public sealed record Retest(DateTimeOffset? Due, RetestWhy Why)
{
    /// <summary>When an engine is due.</summary>
    /// <param name="last">Its last dry test that counts; absent for none.</param>
    /// <param name="run">How far it has run.</param>
    /// <param name="forecast">When it meets the minimum; absent where nobody knows the minimum.</param>
    /// <param name="repaired">When something was last repaired; absent for never.</param>
    /// <param name="rule">The shop's rule.</param>
    /// <returns>The earliest of what holds.</returns>
    public static Retest Of(LifeTest? last, DistanceRun run, WearForecast? forecast, DateTimeOffset? repaired, RetestRule rule)
    {
        if (last is null)
        {
            return new(repaired, repaired is null ? RetestWhy.NeverTested : RetestWhy.Repaired);
        }
        if (repaired > last.At)
        {
            return new(repaired, RetestWhy.Repaired);
        }
        if (forecast?.Under(0) >= RetestRule.Chance)
        {
            return forecast.Under(0) >= 0.5 ? new(null, RetestWhy.IsUnder) : new(last.At, RetestWhy.MayBeUnder);
        }
        var due = new Retest(last.At.AddMonths(rule.Months), RetestWhy.Time);
        Earlier(run.InHours ? rule.Hours : rule.Km, RetestWhy.Run);
        Earlier(forecast?.Until(RetestRule.Chance), RetestWhy.Wear);
        return due;

        void Earlier(double? further, RetestWhy why)
        {
            if (further is { } more && run.After(last.At, more) is { } then && then < due.Due)
            {
                due = new(then, why);
            }
        }
    }
}
