using Zandrik.Core.Physics;
using Zandrik.Core.Records;

namespace Zandrik.Core.Simulation;

/// <summary>A fault of one cylinder at a severity, as the model turns it: section 7 of docs/simulation.md.</summary>
public static class SimulatedFault
{
    /// <summary>Faults of one cylinder that the model knows.</summary>
    public static IReadOnlyList<Fault> All { get; } =
    [
        Fault.Rings, Fault.Piston, Fault.IntakeValve, Fault.ExhaustValve, Fault.GasketAdjacent, Fault.GasketCoolant, Fault.IntakeNotOpening, Fault.ExhaustNotOpening, Fault.ShortStroke, Fault.Carbon,
        Fault.FuelWashed,
    ];

    // Mild, moderate and severe of each: areas in mm² and volumes in ml for half a litre, lifts, millimetres for a stroke of 90, factors.
    private static (double Mild, double Moderate, double Severe) Table(Fault fault) => fault switch
    {
        Fault.Rings => (0.5, 2, 5),
        Fault.Piston => (4, 9, 20),
        Fault.IntakeValve or Fault.ExhaustValve => (0.4, 2, 8),
        Fault.GasketAdjacent => (0.8, 2.5, 8),
        Fault.GasketCoolant => (0.15, 0.6, 2),
        Fault.IntakeNotOpening => (0.40, 0.30, 0.22),
        Fault.ExhaustNotOpening => (0.40, 0.25, 0.12),
        Fault.ShortStroke => (0.8, 1.8, 3.5),
        Fault.Carbon => (2, 4, 7),
        Fault.FuelWashed => (1.8, 3.5, 7),
        _ => throw new ArgumentOutOfRangeException(nameof(fault), fault, "The model does not know this fault of a cylinder."),
    };

    /// <summary>The figure of a fault at a severity, before it is scaled to the engine: along a curve where leaks are meant, straight otherwise.</summary>
    /// <param name="fault">One of <see cref="All"/>.</param>
    /// <param name="severity">0 mild, 1 moderate, 2 severe; in between and beyond as it comes.</param>
    /// <returns>mm², ml, mm, a lift or a factor; above 0.</returns>
    public static double Figure(Fault fault, double severity)
    {
        var (mild, moderate, severe) = Table(fault);
        var (from, to, part) = severity < 1 ? (mild, moderate, severity) : (moderate, severe, severity - 1);
        return IsStraight(fault) ? Math.Max(0.02, from + (to - from) * part) : from * LaneMath.Exp(part * LaneMath.Log(to / from));
    }

    /// <summary>A cylinder with a fault on top of how it was built.</summary>
    /// <param name="engine">The engine; leaks and volumes scale with its cylinders.</param>
    /// <param name="fault">One of <see cref="All"/>.</param>
    /// <param name="severity">0 mild, 1 moderate, 2 severe.</param>
    /// <param name="built">How it was built; absent for as meant.</param>
    /// <param name="neighbour">The neighbour behind a burnt web.</param>
    /// <returns>The cylinder.</returns>
    public static CylinderCondition Of(SimulatedEngine engine, Fault fault, double severity, CylinderCondition? built = null, int? neighbour = null) =>
        At(engine, fault, Figure(fault, severity), built, neighbour);

    /// <summary>The same from the figure itself.</summary>
    /// <param name="engine">The engine.</param>
    /// <param name="fault">One of <see cref="All"/>.</param>
    /// <param name="figure">As <see cref="Figure"/> gives it.</param>
    /// <param name="built">How it was built.</param>
    /// <param name="neighbour">The neighbour behind a burnt web.</param>
    /// <returns>The cylinder.</returns>
    /// <exception cref="ArgumentOutOfRangeException">The fault is not one of <see cref="All"/>.</exception>
    /// <exception cref="ArgumentNullException">A burnt web without the neighbour behind it.</exception>
    public static CylinderCondition At(SimulatedEngine engine, Fault fault, double figure, CylinderCondition? built = null, int? neighbour = null)
    {
        var c = built ?? new CylinderCondition();
        var area = figure * engine.Size * 1e-6;
        return fault switch
        {
            Fault.Rings => c with { RingM2 = c.RingM2 + area },
            Fault.Piston => c with { CrownM2 = c.CrownM2 + area },
            Fault.IntakeValve => c with { IntakeValveM2 = c.IntakeValveM2 + area },
            Fault.ExhaustValve => c with { ExhaustValveM2 = c.ExhaustValveM2 + area },
            Fault.GasketAdjacent => c with { GasketM2 = area, GasketTo = neighbour ?? throw new ArgumentNullException(nameof(neighbour), "A burnt web has a neighbour behind it.") },
            Fault.GasketCoolant => c with { CoolantM2 = c.CoolantM2 + area },
            Fault.IntakeNotOpening => c with { IntakeLift = figure },
            Fault.ExhaustNotOpening => c with { ExhaustLift = figure },
            Fault.ShortStroke => c with { VolumeM3 = c.VolumeM3 + Math.PI / 4 * engine.BoreM * engine.BoreM * figure * 1e-3 * engine.StrokeM / 0.090 },
            // Diesels have half the chamber to fill.
            Fault.Carbon => c with { VolumeM3 = c.VolumeM3 - figure * 1e-6 * engine.Size * (engine.IsDiesel ? 0.5 : 1) },
            Fault.FuelWashed => c with { WashFactor = c.WashFactor * figure },
            _ => throw new ArgumentOutOfRangeException(nameof(fault), fault, "The model does not know this fault of a cylinder."),
        };
    }

    private static bool IsStraight(Fault fault) => fault is Fault.IntakeNotOpening or Fault.ExhaustNotOpening or Fault.ShortStroke or Fault.Carbon;
}
