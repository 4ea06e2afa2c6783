using System.Globalization;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>One line for or against a suspect.</summary>
/// <param name="Finding">Its word.</param>
/// <param name="Says">What was read, in plain words.</param>
/// <param name="WeightDb">Its weight, decibans: ten times the common logarithm of the factor on the odds.</param>
/// <param name="Test">Place of the test in the record, from 0; absent for none.</param>
public sealed record EvidenceLine(string Finding, string Says, double WeightDb, int? Test = null);

/// <summary>A suspect of a cylinder.</summary>
/// <param name="Fault">The fault.</param>
/// <param name="Probability">How likely, 0 to 1.</param>
/// <param name="With">The neighbour, for a gasket between two cylinders.</param>
public sealed record CylinderSuspect(Fault Fault, double Probability, int? With = null)
{
    /// <summary>The ledger: from the base rate to <see cref="Probability"/>, line by line; empty where it was not asked for.</summary>
    public IReadOnlyList<EvidenceLine> Evidence { get; init; } = [];
}

/// <summary>A cause of the engine.</summary>
/// <param name="Fault">The cause.</param>
/// <param name="Probability">How likely, 0 to 1.</param>
/// <param name="Bank">The bank, from 1, for the timing of one bank.</param>
public sealed record EngineSuspect(Fault Fault, double Probability, int? Bank = null)
{
    /// <summary>The cause in a few words, with its bank.</summary>
    public string Says => FaultWords.OfEngine(Fault) + (Bank is { } bank ? string.Create(CultureInfo.InvariantCulture, $" of bank {bank}") : "");

    /// <summary>True for a cause that is likely enough to be named; false where nothing of the whole engine leads.</summary>
    public bool IsNamed => Fault != Fault.None && Probability > FaultWords.Said;
}

/// <summary>One cylinder.</summary>
/// <param name="Cylinder">Its number.</param>
/// <param name="State">Its state: describes the readings, suspects explain them.</param>
/// <param name="Says">One plain sentence.</param>
/// <param name="Suspects">Most likely first; sums to 1, less at most 0.008 for those left out.</param>
/// <param name="AlsoLikely">A second fault of the same cylinder, where air was heard in two places.</param>
public sealed record CylinderDiagnosis(int Cylinder, CylinderState State, string Says, IReadOnlyList<CylinderSuspect> Suspects, IReadOnlyList<Fault> AlsoLikely)
{
    /// <summary>Probability of a fault; a gasket to either neighbour together.</summary>
    /// <returns>0 to 1; 0 for a fault that was not considered.</returns>
    public double Of(Fault fault) => Suspects.Where(s => s.Fault == fault).Sum(s => s.Probability);

    /// <summary>The leading suspect.</summary>
    public CylinderSuspect Leading => Suspects[0];

    /// <summary>A suspect in a few words. Of a cylinder that reads low nobody says that it is sound: what it may have is nothing of its own, when wear all round, timing or the test explains it.</summary>
    /// <param name="suspect">One of the suspects.</param>
    /// <returns>The words, lower case.</returns>
    public string NameOf(CylinderSuspect suspect) => suspect.Fault == Fault.Sound && State is CylinderState.Low or CylinderState.Dead ? FaultWords.NothingOfItsOwn : FaultWords.Of(suspect.Fault, suspect.With, Cylinder);
}
