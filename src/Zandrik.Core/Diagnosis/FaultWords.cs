using System.Globalization;
using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>Faults as the trade says them.</summary>
public static class FaultWords
{
    /// <summary>From here on a fault is named; up to it nobody can tell yet.</summary>
    public const double Said = 0.55;

    /// <summary>What stands in a sentence where no fault is named yet.</summary>
    public const string NotEnough = "can't tell yet";

    /// <summary>What a cylinder that reads low has where something else than itself explains it.</summary>
    public const string NothingOfItsOwn = "no fault of its own";

    /// <summary>A cause of the whole engine: what is one cylinder's elsewhere is said of all of them.</summary>
    /// <returns>The words, lower case.</returns>
    public static string OfEngine(Fault cause) => cause == Fault.FuelWashed ? "fuel-washed cylinders" : Of(cause);

    /// <summary>A fault of a cylinder, with both cylinders of a gasket where they are known.</summary>
    /// <param name="fault">The fault.</param>
    /// <param name="with">The neighbour, for a gasket between two cylinders.</param>
    /// <param name="cylinder">The cylinder; absent where it is of the whole engine.</param>
    /// <returns>The words, lower case, with the numbers of both cylinders, the lower first.</returns>
    public static string Of(Fault fault, int? with, int? cylinder) => fault == Fault.GasketAdjacent && with is { } w && cylinder is { } c
        ? string.Create(CultureInfo.InvariantCulture, $"head gasket between {Math.Min(w, c)} and {Math.Max(w, c)}") : Of(fault);

    /// <summary>A fault of a cylinder or the engine in a few words.</summary>
    /// <returns>The words, lower case.</returns>
    public static string Of(Fault fault) => fault switch
    {
        Fault.Sound => "sound",
        Fault.Rings => "rings or bore",
        Fault.Piston => "a holed or broken piston",
        Fault.IntakeValve => "the intake valve",
        Fault.ExhaustValve => "the exhaust valve",
        Fault.GasketAdjacent => "the head gasket to a neighbour",
        Fault.GasketCoolant => "head gasket or crack to the coolant",
        Fault.IntakeNotOpening => "an intake valve that hardly opens",
        Fault.ExhaustNotOpening => "an exhaust valve that does not open",
        Fault.ShortStroke => "a bent rod",
        Fault.FuelWashed => "a fuel-washed cylinder",
        Fault.Carbon => "deposits",
        Fault.TestError => "a test error",
        Fault.None => "no whole-engine cause",
        Fault.CoolantPathElsewhere => "coolant lost by another way",
        Fault.CamTiming => "cam timing",
        Fault.GeneralWear => "general wear",
        Fault.ExhaustRestriction => "a restricted exhaust",
        _ => "oil past its seals",
    };

    /// <summary>How sure, in words, of a probability from 0 to 1.</summary>
    /// <returns>The words, lower case; "can't tell yet" up to the probability from which a fault is named.</returns>
    public static string HowSure(double probability) => probability switch
    {
        > 0.95 => "almost certainly",
        > 0.8 => "very likely",
        > Said => "probably",
        _ => NotEnough,
    };

    /// <summary>How strongly a piece of evidence speaks, and which way: up to 3 dB (two to one) weak, up to 10 dB (ten to one) clear, above that strong.</summary>
    /// <param name="weightDb">Its weight, decibans; 0 or more speaks for.</param>
    /// <returns>The words, lower case.</returns>
    public static string Strength(double weightDb) => $"{(Math.Abs(weightDb) < 3 ? "weak" : Math.Abs(weightDb) < 10 ? "clear" : "strong")} {(weightDb >= 0 ? "for" : "against")}";

    internal static string Percent(double p) => (100 * p).ToString("0", CultureInfo.InvariantCulture) + " %";
}
