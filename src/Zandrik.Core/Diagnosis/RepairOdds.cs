using System.Numerics.Tensors;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;

namespace Zandrik.Core.Diagnosis;

/// <summary>
/// How likely the engine needs each set of repairs, and each set together with each answer of each cylinder: from the same sum as the suspects, exactly, over the chains. Two suspects of one gasket are
/// one need here, and a valve and rings in one engine are two.
/// </summary>
internal sealed class RepairOdds
{
    private readonly Dictionary<int, double[]> joint;

    private RepairOdds(Dictionary<int, double[]> joint, int cylinders)
    {
        this.joint = joint;
        Cylinders = cylinders;
        Sets = [.. joint.Select(j => (new RepairNeeds(j.Key), Of(j.Value))).OrderByDescending(s => s.Item2)];
    }

    /// <summary>Number of cylinders.</summary>
    public int Cylinders { get; }

    /// <summary>Each set with its probability, most likely first; sums to 1.</summary>
    public IReadOnlyList<(RepairNeeds Needs, double Probability)> Sets { get; }

    /// <summary>How likely a set is needed together with each answer (<see cref="Posterior"/>) of a cylinder by index.</summary>
    public ReadOnlySpan<double> With(RepairNeeds needs, int cylinder) => joint.TryGetValue(needs.Bits, out var of) ? of.AsSpan(cylinder * Posterior.Answers, Posterior.Answers) : new double[Posterior.Answers];

    /// <summary>How likely a single need is among what is needed.</summary>
    public double Of(RepairNeeds need) => Sets.Where(s => s.Needs.Has(need)).Sum(s => s.Probability);

    /// <summary>Makes it from masses, cylinder after cylinder, of each set.</summary>
    public static RepairOdds Of(Dictionary<int, double[]> masses, int cylinders)
    {
        var all = 1e-300 + masses.Values.Sum(Of);
        foreach (var mass in masses.Values)
        {
            TensorPrimitives.Divide(mass, all, mass);
        }
        return new(masses, cylinders);
    }

    /// <summary>Mixed with what was thought before any reading.</summary>
    public RepairOdds MixedWith(RepairOdds before, double doubt)
    {
        var mixed = joint.ToDictionary(j => j.Key, j => j.Value.Select(p => p * (1 - doubt)).ToArray());
        foreach (var (needs, of) in before.joint)
        {
            if (!mixed.TryGetValue(needs, out var into))
            {
                mixed[needs] = into = new double[of.Length];
            }
            TensorPrimitives.MultiplyAdd(of, doubt, into, into);
        }
        return new(mixed, Cylinders);
    }

    private static double Of(double[] mass) => TensorPrimitives.Sum<double>(mass.AsSpan(0, Posterior.Answers));

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
