using Zandrik.Core.Records;

namespace Zandrik.Core.Shops;

/// <summary>What a person of a shop may do.</summary>
public enum ShopRole
{
    /// <summary>Opens jobs, takes readings.</summary>
    Technician,

    /// <summary>That, and looks after people, settings, testers and sheets.</summary>
    Foreman,

    /// <summary>Looks at everything, changes nothing.</summary>
    Viewer,
}

/// <summary>How a shop writes numbers.</summary>
public enum NumberStyle
{
    /// <summary>14.1 and 131 200.</summary>
    Point,

    /// <summary>14,1 and 131 200.</summary>
    Comma,
}

/// <summary>How a shop writes a day.</summary>
public enum DateStyle
{
    /// <summary>2026-03-02.</summary>
    YearFirst,

    /// <summary>2 Mar 2026.</summary>
    DayMonthName,

    /// <summary>02.03.2026.</summary>
    DayFirst,

    /// <summary>03/02/2026.</summary>
    MonthFirst,
}

/// <summary>When the wet test is done. Oil left behind makes rings leak less in the leak-down that follows.</summary>
public enum WetMethod
{
    /// <summary>Leak-down first where both are wanted: the default.</summary>
    LeakDownFirst,

    /// <summary>Wet first; the leak-down is marked as after oil.</summary>
    WetFirst,

    /// <summary>No wet test in this shop.</summary>
    Never,
}

/// <summary>
/// A shop's own settings. Everything absent has the default of the trade. A job takes the settings for
/// judging along when it is opened, so that changing them later never rewrites an old verdict.
/// </summary>
public sealed record ShopSettings
{
    /// <summary>How numbers are written.</summary>
    public NumberStyle Numbers { get; init; }

    /// <summary>How days are written.</summary>
    public DateStyle Dates { get; init; }

    /// <summary>Methods, limits and altitude, as they travel with a record; absent when nothing was set.</summary>
    public JudgeBy? JudgeBy { get; init; }

    /// <summary>Air pressure at the shop, kPa absolute, noted on each new test; absent when not known.</summary>
    public double? BarometricKPa { get; init; }

    /// <summary>When the wet test is done.</summary>
    public WetMethod Wet { get; init; }

    /// <summary>What a squirt of the shop's oil can gives, ml; absent for <see cref="OilMeasure.UsualSquirtMl"/>.</summary>
    public double? SquirtMl { get; init; }

    /// <summary>What the shop's bottle cap holds, ml; absent for <see cref="OilMeasure.UsualCapMl"/>.</summary>
    public double? CapMl { get; init; }

    /// <summary>What the shop's spoon holds, ml; absent for <see cref="OilMeasure.UsualSpoonMl"/>.</summary>
    public double? SpoonMl { get; init; }

    /// <summary>Price of an hour's work in <see cref="Currency"/>; absent when not set.</summary>
    public double? LabourRate { get; init; }

    /// <summary>The currency, as the shop writes it.</summary>
    public string? Currency { get; init; }

    /// <summary>What this shop does, or does not do, on an engine family.</summary>
    public IReadOnlyList<HouseRule> HouseRules { get; init; } = [];

    /// <summary>The rules that hold for an engine: those whose family stands in its name, whatever the case.</summary>
    /// <returns>The rules in the shop's order; empty for an engine without a name.</returns>
    public IReadOnlyList<HouseRule> RulesFor(EngineSheet engine) => engine.Name is not { } name
        ? []
        : [.. HouseRules.Where(r => name.Contains(r.Family, StringComparison.OrdinalIgnoreCase))];
}

/// <summary>A house rule.</summary>
/// <param name="Family">Text that stands in the names of the engines it is for.</param>
/// <param name="Says">The rule, in the shop's words.</param>
public sealed record HouseRule(string Family, string Says);
