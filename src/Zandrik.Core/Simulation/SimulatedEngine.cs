using Zandrik.Core.Physics;
using Zandrik.Core.Records;

namespace Zandrik.Core.Simulation;

/// <summary>
/// An invented engine with its starter and battery, as the cranking model needs it: everything of section 4 of the
/// model in docs/simulation.md, in SI units. No figure here is a real maker's.
/// </summary>
public sealed record SimulatedEngine
{
    /// <summary>What it is called.</summary>
    public required string Name { get; init; }

    /// <summary>What it burns.</summary>
    public required Fuel Fuel { get; init; }

    /// <summary>Bore, m.</summary>
    public required double BoreM { get; init; }

    /// <summary>Stroke, m.</summary>
    public required double StrokeM { get; init; }

    /// <summary>Length of the connecting rod, m.</summary>
    public required double RodM { get; init; }

    /// <summary>Compression ratio, to 1.</summary>
    public required double CompressionRatio { get; init; }

    /// <summary>Seat-to-seat timing of the valves.</summary>
    public required ValveTiming Timing { get; init; }

    /// <summary>Largest effective area of the open intake valves of a cylinder, m².</summary>
    public required double IntakeAreaM2 { get; init; }

    /// <summary>Largest effective area of the open exhaust valves of a cylinder, m².</summary>
    public required double ExhaustAreaM2 { get; init; }

    /// <summary>Cylinder numbers in the order they fire.</summary>
    public required IReadOnlyList<int> FiringOrder { get; init; }

    /// <summary>Firing angles along the order, degrees from the first; absent for even firing.</summary>
    public IReadOnlyList<double>? FiringAngles { get; init; }

    /// <summary>Inertia at the crank with the geared armature, kg·m².</summary>
    public required double InertiaKgM2 { get; init; }

    /// <summary>Dry friction at the crank, N·m.</summary>
    public required double FrictionNm { get; init; }

    /// <summary>Friction that grows with speed, N·m·s/rad.</summary>
    public required double DragNms { get; init; }

    /// <summary>Battery voltage at no load, V.</summary>
    public required double BatteryV { get; init; }

    /// <summary>Resistance of the battery, Ω.</summary>
    public required double BatteryOhm { get; init; }

    /// <summary>Resistance of the starter, Ω; 2 mΩ of cable come on top.</summary>
    public required double MotorOhm { get; init; }

    /// <summary>Motor constant referred to the crank, V·s/rad.</summary>
    public required double MotorConstantVs { get; init; }

    /// <summary>No-load current of the starter, A.</summary>
    public required double IdleCurrentA { get; init; }

    /// <summary>Share of the motor's torque that arrives at the crank.</summary>
    public double Efficiency { get; init; } = 0.85;

    /// <summary>Ring leak of a sound cylinder, m².</summary>
    public required double RingLeakM2 { get; init; }

    /// <summary>Leak of each valve of a sound cylinder, m².</summary>
    public required double ValveLeakM2 { get; init; }

    /// <summary>Volume of the intake manifold, m³.</summary>
    public required double ManifoldM3 { get; init; }

    /// <summary>Throttle opening while cranking, m².</summary>
    public required double ThrottleM2 { get; init; }

    /// <summary>Throttle opening at idle, and left shut while cranking, m²; an engine without a throttle has the same as open.</summary>
    public required double IdleThrottleM2 { get; init; }

    /// <summary>Speed at idle, rpm.</summary>
    public double IdleRpm { get; init; } = 700;

    /// <summary>Speed that a snap of the throttle reaches, rpm; absent for one that is not snapped.</summary>
    public double? SnapRpm { get; init; }

    /// <summary>Restriction of the leak-down tester that is usual for it, mm.</summary>
    public double OrificeMm { get; init; } = 1.0;

    /// <summary>Neighbours with a web of the head gasket between them.</summary>
    public IReadOnlyList<(int First, int Second)> Webs { get; init; } = [];

    /// <summary>What the model takes for granted.</summary>
    public MotoredConstants Constants { get; init; } = MotoredConstants.Usual;

    /// <summary>True for a diesel.</summary>
    public bool IsDiesel => Fuel == Fuel.Diesel;

    /// <summary>Number of cylinders.</summary>
    public int Cylinders => FiringOrder.Count;

    /// <summary>Swept volume of one cylinder, m³.</summary>
    public double SweptM3 => Math.PI / 4 * BoreM * BoreM * StrokeM;

    /// <summary>Volume above the piston at top dead centre, m³.</summary>
    public double ClearanceM3 => SweptM3 / (CompressionRatio - 1);

    /// <summary>How much larger than half a litre a cylinder is: leaks of faults scale with it.</summary>
    public double Size => SweptM3 / 0.5e-3;

    /// <summary>Inductance of the circuit, H.</summary>
    public double InductanceH => 60e-6 * BatteryV / 12.6;

    /// <summary>Firing angle of each cylinder by number (index 0 is cylinder 1), radians.</summary>
    /// <returns>Radians, 0 to under 4π, one for each cylinder.</returns>
    public double[] OffsetsRad()
    {
        var offsets = new double[Cylinders];
        for (var k = 0; k < Cylinders; k++)
        {
            offsets[FiringOrder[k] - 1] = (FiringAngles?[k] ?? 720.0 * k / Cylinders) * Math.PI / 180;
        }
        return offsets;
    }

    /// <summary>Small inline three, petrol.</summary>
    public static SimulatedEngine InlineThree { get; } = Make("1.2 inline three", Fuel.Petrol, 77, 86, 139, 9.8, new ValveTiming(-2, 62, 44, 8), 360, 300, [1, 3, 2],
        0.36, 13, 0.20, 12.6, 5.5, 12, 0.375, 25, 0.24, 0.03, 1.3, 900, 12.3, [(1, 2), (2, 3)], idleRpm: 750);

    /// <summary>Inline four, petrol.</summary>
    public static SimulatedEngine InlineFour { get; } = Make("2.0 inline four", Fuel.Petrol, 84, 90, 145, 10.2, new ValveTiming(8, 66, 48, 12), 480, 390, [1, 3, 4, 2],
        0.50, 18, 0.25, 12.6, 5, 10, 0.385, 30, 0.27, 0.035, 2.0, 1400, 18.5, [(1, 2), (2, 3), (3, 4)]);

    /// <summary>Flat four, petrol.</summary>
    public static SimulatedEngine FlatFour { get; } = Make("2.2 flat four", Fuel.Petrol, 94, 79, 131, 9.5, new ValveTiming(5, 62, 50, 10), 520, 420, [1, 3, 2, 4],
        0.55, 20, 0.25, 12.6, 5, 10, 0.39, 30, 0.29, 0.035, 2.2, 1500, 20.5, [(1, 3), (2, 4)]);

    /// <summary>V6, petrol: the inline four's cylinder, six times.</summary>
    public static SimulatedEngine VSix { get; } = Make("3.0 V6", Fuel.Petrol, 84, 90, 145, 10.0, new ValveTiming(8, 66, 48, 12), 480, 390, [1, 2, 3, 4, 5, 6],
        0.70, 24, 0.32, 12.6, 4, 8, 0.42, 35, 0.27, 0.035, 3.0, 2000, 27.7, [(1, 3), (3, 5), (2, 4), (4, 6)]);

    /// <summary>V8, diesel.</summary>
    public static SimulatedEngine VEightDiesel { get; } = Make("5.0 V8 diesel", Fuel.Diesel, 92, 94, 154, 19.0, new ValveTiming(12, 50, 50, 12), 520, 430, [1, 2, 7, 8, 4, 5, 6, 3],
        1.8, 30, 0.6, 12.6, 2, 4.5, 0.58, 50, 0.26, 0.035, 5, 2500, 2500, [(1, 3), (3, 5), (5, 7), (2, 4), (4, 6), (6, 8)]);

    /// <summary>Inline six of a truck, diesel.</summary>
    public static SimulatedEngine InlineSixTruck { get; } = Make("9.5 inline six, truck diesel", Fuel.Diesel, 120, 140, 228, 18.0, new ValveTiming(10, 50, 50, 10), 950, 800, [1, 5, 3, 6, 2, 4],
        5.0, 70, 1.4, 25.2, 5, 10, 1.18, 50, 0.45, 0.06, 10, 5000, 5000, [(1, 2), (2, 3), (3, 4), (4, 5), (5, 6)], idleRpm: 650, orificeMm: 1.5);

    /// <summary>All of them, small ones first.</summary>
    public static IReadOnlyList<SimulatedEngine> All { get; } = [InlineThree, InlineFour, FlatFour, VSix, VEightDiesel, InlineSixTruck];

    private static SimulatedEngine Make(string name, Fuel fuel, double boreMm, double strokeMm, double rodMm, double ratio, ValveTiming timing, double intakeMm2, double exhaustMm2,
        IReadOnlyList<int> order, double inertia, double friction, double drag, double volt, double batteryMilliOhm, double motorMilliOhm, double constant, double idleCurrent,
        double ringMm2, double valveMm2, double manifoldL, double throttleMm2, double idleMm2, IReadOnlyList<(int, int)> webs, double idleRpm = 700, double orificeMm = 1) => new()
        {
            Name = name, Fuel = fuel, BoreM = boreMm / 1000, StrokeM = strokeMm / 1000, RodM = rodMm / 1000, CompressionRatio = ratio, Timing = timing,
            IntakeAreaM2 = intakeMm2 * 1e-6, ExhaustAreaM2 = exhaustMm2 * 1e-6, FiringOrder = order, InertiaKgM2 = inertia, FrictionNm = friction, DragNms = drag,
            BatteryV = volt, BatteryOhm = batteryMilliOhm / 1000, MotorOhm = motorMilliOhm / 1000, MotorConstantVs = constant, IdleCurrentA = idleCurrent,
            RingLeakM2 = ringMm2 * 1e-6, ValveLeakM2 = valveMm2 * 1e-6, ManifoldM3 = manifoldL / 1000, ThrottleM2 = throttleMm2 * 1e-6,
            IdleThrottleM2 = idleMm2 * 1e-6, IdleRpm = idleRpm, SnapRpm = fuel == Fuel.Diesel ? null : 1800, OrificeMm = orificeMm, Webs = webs,
        };
}
