using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>A cause of the whole engine.</summary>
/// <param name="Fault">The cause.</param>
/// <param name="Bank">The bank, from 0, where it is the timing of one bank only.</param>
public readonly record struct EngineCause(Fault Fault, int? Bank = null);

/// <summary>How likely everything is after some of the evidence.</summary>
/// <param name="Cylinders">For each cylinder by index: each fault of <see cref="FaultOdds.Local"/>, then the burnt web in front and the one behind; sums to 1.</param>
/// <param name="Engine">Each cause of the engine; sums to 1.</param>
public sealed record Posterior(double[][] Cylinders, IReadOnlyDictionary<EngineCause, double> Engine)
{
    /// <summary>Index of the burnt web in front.</summary>
    public static int Front { get; } = FaultOdds.Local.Count;

    /// <summary>Index of the burnt web behind.</summary>
    public static int Behind { get; } = FaultOdds.Local.Count + 1;

    /// <summary>Number of answers for a cylinder.</summary>
    public static int Answers { get; } = FaultOdds.Local.Count + 2;

    /// <summary>Probability of a fault in a cylinder; of a gasket to either neighbour for <see cref="Fault.GasketAdjacent"/>.</summary>
    /// <param name="index">The cylinder's index.</param>
    /// <param name="fault">The fault.</param>
    /// <returns>0 to 1.</returns>
    public double Of(int index, Fault fault) => fault == Fault.GasketAdjacent ? Cylinders[index][Front] + Cylinders[index][Behind] : Cylinders[index][IndexOf(fault)];

    /// <summary>Probability of a cause of the engine, of any bank.</summary>
    /// <returns>0 to 1.</returns>
    public double Of(Fault cause) => Engine.Where(e => e.Key.Fault == cause).Sum(e => e.Value);

    internal static int IndexOf(Fault fault)
    {
        for (var i = 0; i < FaultOdds.Local.Count; i++)
        {
            if (FaultOdds.Local[i] == fault)
            {
                return i;
            }
        }
        throw new ArgumentOutOfRangeException(nameof(fault), fault, "This is no fault of a single cylinder.");
    }
}
