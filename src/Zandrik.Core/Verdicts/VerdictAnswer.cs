using Zandrik.Core.Diagnosis;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;

namespace Zandrik.Core.Verdicts;

/// <summary>What somebody says is wrong, in a cylinder or the whole engine.</summary>
/// <param name="Cylinder">The cylinder; absent for the whole engine.</param>
/// <param name="Fault">The fault; <see cref="Fault.Sound"/> or <see cref="Fault.None"/> for none.</param>
/// <param name="With">The neighbour, for a gasket between two cylinders.</param>
/// <param name="Probability">How likely the program holds it, 0 to 1, a gasket to either neighbour together; absent for what people say.</param>
public sealed record VerdictAnswer(int? Cylinder, Fault Fault, int? With = null, double? Probability = null)
{
    /// <summary>The faults a cylinder can be said to have.</summary>
    public static IReadOnlyList<Fault> OfCylinder { get; } =
    [
        Fault.Sound, Fault.Rings, Fault.Piston, Fault.IntakeValve, Fault.ExhaustValve, Fault.GasketAdjacent, Fault.GasketCoolant, Fault.IntakeNotOpening, Fault.ExhaustNotOpening, Fault.ShortStroke, Fault.FuelWashed,
        Fault.Carbon, Fault.TestError,
    ];

    /// <summary>The causes an engine can be said to have.</summary>
    public static IReadOnlyList<Fault> OfEngine { get; } =
        [Fault.None, Fault.GasketCoolant, Fault.CoolantPathElsewhere, Fault.CamTiming, Fault.GeneralWear, Fault.FuelWashed, Fault.ExhaustRestriction, Fault.OilControl, Fault.Carbon, Fault.TestError];

    /// <summary>Everything that can be said of a cylinder, a gasket once for each of its neighbours; or of the whole engine.</summary>
    /// <param name="engine">The engine.</param>
    /// <param name="cylinder">The cylinder, from 1; absent for the engine. One that the engine does not have has no neighbours.</param>
    /// <returns>The answers in the order they are offered; an end cylinder has one gasket to a neighbour.</returns>
    public static IReadOnlyList<VerdictAnswer> Possible(EngineSheet engine, int? cylinder) => cylinder is not { } c ? [.. OfEngine.Select(f => new VerdictAnswer(null, f))]
        : [.. OfCylinder.SelectMany(f => f != Fault.GasketAdjacent ? [new VerdictAnswer(c, f)]
            : new[] { Neighbours.Of(engine, c).Before, Neighbours.Of(engine, c).Behind }.OfType<int>().Select(w => new VerdictAnswer(c, f, w)))];

    /// <summary>True where nothing is wrong.</summary>
    public bool IsNothing => Fault is Fault.Sound or Fault.None;

    /// <summary>The leading answers of a diagnosis: the engine's, then those of the cylinders that were measured.</summary>
    /// <returns>The answers; the engine's first.</returns>
    public static IReadOnlyList<VerdictAnswer> Of(EngineDiagnosis said) => Of(said.Suspects, said.Cylinders);

    /// <summary>The leading answers of a verdict.</summary>
    /// <returns>The answers; the engine's first.</returns>
    public static IReadOnlyList<VerdictAnswer> Of(VerdictSnapshot said) => Of(said.Suspects, said.Cylinders);

    /// <summary>True for the same fault; a gasket to one neighbour is not one to another, where both say which.</summary>
    /// <returns>True also where one of the two does not say which neighbour.</returns>
    public bool Agrees(VerdictAnswer other) => Fault == other.Fault && (With is null || other.With is null || With == other.With);

    private static IReadOnlyList<VerdictAnswer> Of(IReadOnlyList<EngineSuspect> engine, IReadOnlyList<CylinderDiagnosis> cylinders) =>
    [
        .. engine.Take(1).Select(s => new VerdictAnswer(null, s.Fault, null, s.Probability)),
        .. cylinders.Where(c => c.State != Compression.CylinderState.Untested).Select(c => new VerdictAnswer(c.Cylinder, c.Leading.Fault, c.Leading.With, c.Leading.Fault == Fault.GasketAdjacent ? c.Of(Fault.GasketAdjacent) : c.Leading.Probability)),
    ];
}
