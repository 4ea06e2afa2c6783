using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>
/// How often each fault is what is found, before anything is read: odds against a sound cylinder, and weights against an engine without a cause of its own. Rules of the trade for engines that
/// come to a compression test, not for those that drive about.
/// </summary>
public static class FaultOdds
{
    /// <summary>The faults a single cylinder can have by itself, sound first. A burnt web to a neighbour is shared by two cylinders and not among them.</summary>
    public static IReadOnlyList<Fault> Local { get; } =
    [
        Fault.Sound, Fault.Rings, Fault.Piston, Fault.IntakeValve, Fault.ExhaustValve, Fault.GasketCoolant, Fault.IntakeNotOpening, Fault.ExhaustNotOpening, Fault.ShortStroke,
        Fault.FuelWashed, Fault.Carbon, Fault.TestError,
    ];

    /// <summary>Causes that belong to the whole engine and set its level.</summary>
    public static IReadOnlyList<Fault> Causes { get; } = [Fault.None, Fault.TestError, Fault.GeneralWear, Fault.FuelWashed, Fault.CamTiming, Fault.Carbon, Fault.ExhaustRestriction];

    /// <summary>No fault is believed beyond these odds before a reading, whatever was noticed.</summary>
    public const double MostBefore = 0.45;

    /// <summary>No web is believed burnt beyond this before a reading.</summary>
    public const double MostWebBefore = 0.2;

    /// <summary>A warped head burns a row: odds of both webs of one cylinder against two that have nothing to do with each other.</summary>
    public const double BothWebs = 12;

    /// <summary>Odds of a fault of one cylinder, or of one web for <see cref="Fault.GasketAdjacent"/>; sound is 1.</summary>
    /// <returns>Odds against sound, above 0; no unit.</returns>
    public static double Of(Fault fault, bool diesel) => fault switch
    {
        Fault.Sound => 1,
        Fault.Rings => diesel ? 0.050 : 0.040,
        Fault.Piston => diesel ? 0.012 : 0.006,
        Fault.IntakeValve => diesel ? 0.018 : 0.022,
        Fault.ExhaustValve => diesel ? 0.022 : 0.035,
        Fault.GasketCoolant => diesel ? 0.010 : 0.006,
        Fault.IntakeNotOpening => diesel ? 0.006 : 0.012,
        Fault.ExhaustNotOpening => diesel ? 0.004 : 0.009,
        Fault.ShortStroke => diesel ? 0.006 : 0.004,
        Fault.FuelWashed => diesel ? 0.004 : 0.007,
        Fault.Carbon => diesel ? 0.006 : 0.010,
        Fault.TestError => diesel ? 0.020 : 0.018,
        Fault.GasketAdjacent => diesel ? 0.016 : 0.012,
        _ => 0,
    };

    /// <summary>Weight of a cause of the whole engine; none is 1.</summary>
    /// <param name="cause">The cause.</param>
    /// <param name="diesel">True for a diesel.</param>
    /// <param name="slip">True when a slip of the test is recorded.</param>
    /// <returns>Weight against none, 0 or more; no unit.</returns>
    public static double OfCause(Fault cause, bool diesel, bool slip) => cause switch
    {
        Fault.None => 1,
        Fault.TestError => slip ? 1.5 : 0.06,
        Fault.GeneralWear => diesel ? 0.05 : 0.04,
        Fault.FuelWashed => 0.0012,
        Fault.CamTiming => diesel ? 0.012 : 0.020,
        Fault.Carbon => 0.012,
        Fault.ExhaustRestriction => diesel ? 0.008 : 0.010,
        _ => 0,
    };

    /// <summary>A leak to the coolant that no cylinder shows, against one that is found in a cylinder.</summary>
    public const double CoolantNotLocated = 0.03;

    /// <summary>Coolant lost by another way.</summary>
    public const double CoolantElsewhere = 0.02;

    /// <summary>Oil past its seals while the cylinders hold, against no cause at all: where oil is known to be used, and where only smoke was blue. Not thought of otherwise; worn rings lower the level, this does not.</summary>
    public const double OilControlWhereUsed = 1.5, OilControlWhereBlue = 0.5;
}
