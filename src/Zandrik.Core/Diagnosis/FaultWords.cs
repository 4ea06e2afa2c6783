using System.Globalization;
using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>Faults as the trade says them.</summary>
public static class FaultWords
{
    /// <summary>From here on a fault is named; up to it there is not enough yet to say.</summary>
    public const double Said = 0.55;

    /// <summary>A fault with the neighbour of a gasket, where that is known.</summary>
    /// <returns>The words, lower case, with the other cylinder's number.</returns>
    public static string Of(Fault fault, int? with) => fault == Fault.GasketAdjacent && with is { } w ? string.Create(CultureInfo.InvariantCulture, $"gasket to cylinder {w}") : Of(fault);

    /// <summary>A fault of a cylinder or the engine in a few words.</summary>
    /// <returns>The words, lower case.</returns>
    public static string Of(Fault fault) => fault switch
    {
        Fault.Sound => "sound",
        Fault.Rings => "rings or bore",
        Fault.Piston => "a holed or broken piston",
        Fault.IntakeValve => "the intake valve",
        Fault.ExhaustValve => "the exhaust valve",
        Fault.GasketAdjacent => "the gasket to a neighbour",
        Fault.GasketCoolant => "gasket or crack to the coolant",
        Fault.IntakeNotOpening => "an intake valve that hardly opens",
        Fault.ExhaustNotOpening => "an exhaust valve that does not open",
        Fault.ShortStroke => "a short stroke, as of a bent rod",
        Fault.FuelWashed => "walls washed by fuel",
        Fault.Carbon => "deposits",
        Fault.TestError => "a slip in the test",
        Fault.None => "nothing engine-wide",
        Fault.CoolantPathElsewhere => "coolant lost by another way",
        Fault.CamTiming => "cam timing",
        Fault.GeneralWear => "general wear",
        Fault.ExhaustRestriction => "a restricted exhaust",
        _ => "oil past its seals",
    };

    /// <summary>How sure, in words, of a probability from 0 to 1.</summary>
    /// <returns>The words, lower case; "not enough yet" up to the probability from which a fault is named.</returns>
    public static string HowSure(double probability) => probability switch
    {
        > 0.95 => "almost certainly",
        > 0.8 => "very likely",
        > Said => "probably",
        _ => "not enough yet",
    };

    internal static string Percent(double p) => (100 * p).ToString("0", CultureInfo.InvariantCulture) + " %";
}
