using Zandrik.Core.Records;
using Zandrik.Core.Repairs;

namespace Zandrik.Core.Diagnosis;

/// <summary>
/// How likely the engine needs each set of repairs, and each set together with each answer of each cylinder: from the same sum as the suspects, exactly, over the chains. Two suspects of one gasket are
/// one need here, and a valve and rings in one engine are two.
/// </summary>
internal sealed class RepairOdds((RepairNeeds Needs, double Probability)[] sets, Dictionary<int, double[]> joint, int cylinders)
{
    private readonly Dictionary<int, double> known = [];

    /// <summary>Number of cylinders.</summary>
    public int Cylinders => cylinders;

    /// <summary>Each set with its probability, most likely first; sums to 1.</summary>
    public IReadOnlyList<(RepairNeeds Needs, double Probability)> Sets => sets;

    /// <summary>How likely a set is needed together with each answer (<see cref="Posterior"/>) of a cylinder by index; nothing for a set that this is not known of.</summary>
    public ReadOnlySpan<double> With(RepairNeeds needs, int cylinder) => joint.TryGetValue(needs.Bits, out var of) ? of.AsSpan(cylinder * Posterior.Answers, Posterior.Answers) : new double[Posterior.Answers];

    /// <summary>How likely a need, or all of several together, is among what is needed.</summary>
    public double Of(RepairNeeds need)
    {
        if (!known.TryGetValue(need.Bits, out var found))
        {
            foreach (var (needs, p) in sets)
            {
                found += needs.Has(need) ? p : 0;
            }
            known[need.Bits] = found;
        }
        return found;
    }

    /// <summary>What a cause of the whole engine needs.</summary>
    public static RepairNeeds OfCause(Fault cause) => cause switch
    {
        Fault.GeneralWear => RepairNeeds.Wear,
        Fault.FuelWashed => RepairNeeds.Run,
        Fault.CamTiming => RepairNeeds.Timing,
        Fault.Carbon => RepairNeeds.Deposits,
        Fault.ExhaustRestriction => RepairNeeds.Exhaust,
        Fault.CoolantPathElsewhere => RepairNeeds.Cooling,
        _ => RepairNeeds.None,
    };
}
