using System.Numerics;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;

namespace Zandrik.Core.Diagnosis;

/// <summary>
/// How likely the engine needs each set of repairs, and each set together with each answer of each cylinder: from the same sum as the suspects, exactly, over the chains. Two suspects of one gasket are
/// one need here, and a valve and rings in one engine are two.
/// </summary>
internal sealed class RepairOdds((RepairNeeds Needs, double Probability)[] sets, Dictionary<int, double[]> joint, int cylinders)
{
    // Of each need by itself: asked for often, and by several at once.
    private readonly double[] single = Singles(sets);

    /// <summary>Number of cylinders.</summary>
    public int Cylinders => cylinders;

    /// <summary>Each set with its probability, most likely first; sums to 1.</summary>
    public IReadOnlyList<(RepairNeeds Needs, double Probability)> Sets => sets;

    /// <summary>How likely a set is needed together with each answer (<see cref="Posterior"/>) of a cylinder by index; nothing for a set that this is not known of.</summary>
    public ReadOnlySpan<double> With(RepairNeeds needs, int cylinder) => joint.TryGetValue(needs.Bits, out var of) ? of.AsSpan(cylinder * Posterior.Answers, Posterior.Answers) : new double[Posterior.Answers];

    /// <summary>How likely a single need is among what is needed.</summary>
    public double Of(RepairNeeds need) => single[BitOperations.Log2((uint)need.Bits)];

    private static double[] Singles((RepairNeeds Needs, double Probability)[] sets)
    {
        var found = new double[32];
        foreach (var (needs, p) in sets)
        {
            for (var left = needs.Bits; left != 0; left &= left - 1)
            {
                found[BitOperations.TrailingZeroCount(left)] += p;
            }
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
