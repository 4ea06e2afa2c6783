using System.Globalization;
using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>Faults as the trade says them.</summary>
public static class FaultWords
{
    /// <summary>A fault of a cylinder or the engine in a few words.</summary>
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

    /// <summary>How sure, in words.</summary>
    public static string HowSure(double probability) => probability switch
    {
        > 0.95 => "almost certainly",
        > 0.8 => "very likely",
        > 0.55 => "probably",
        _ => "not enough yet",
    };

    internal static string Percent(double p) => (100 * p).ToString("0", CultureInfo.InvariantCulture) + " %";
}
