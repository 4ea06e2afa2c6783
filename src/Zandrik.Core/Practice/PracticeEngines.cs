using System.Collections.Concurrent;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;
using Zandrik.Core.Units;

namespace Zandrik.Core.Practice;

/// <summary>The engines of the practice bench: invented, with a maker's figures that are invented too.</summary>
public static class PracticeEngines
{
    private static readonly ConcurrentDictionary<string, SimulatedEngine> Models = [];

    /// <summary>Petrol engines, small ones first.</summary>
    public static IReadOnlyList<EngineSheet> Petrol { get; } =
    [
        new() { Name = "Fescue 1.2 inline three", Fuel = Fuel.Petrol, Cylinders = 3, Layout = CylinderArrangement.Inline, Banks = [[1, 2, 3]], FiringOrder = [1, 3, 2], DisplacementCc = 1198, BoreMm = 76, StrokeMm = 88,
            Throttle = ThrottleControl.ByWire, Gearbox = Gearbox.Manual, Lifters = Lifters.Hydraulic, Spec = Maker(192, 140, 25) },
        new() { Name = "Sedge 2.0 inline four", Fuel = Fuel.Petrol, Cylinders = 4, Layout = CylinderArrangement.Inline, Banks = [[1, 2, 3, 4]], FiringOrder = [1, 3, 4, 2], DisplacementCc = 1984, BoreMm = 84, StrokeMm = 89.5,
            Throttle = ThrottleControl.Cable, Gearbox = Gearbox.Manual, Lifters = Lifters.Hydraulic, Spec = Maker(200, 150, 25) },
        new() { Name = "Rill 2.2 flat four", Fuel = Fuel.Petrol, Cylinders = 4, Layout = CylinderArrangement.Flat, Banks = [[1, 3], [2, 4]], FiringOrder = [1, 3, 2, 4], DisplacementCc = 2193, BoreMm = 94, StrokeMm = 79,
            Throttle = ThrottleControl.Cable, Gearbox = Gearbox.Automatic, Lifters = Lifters.Hydraulic, Spec = Maker(188, 138, 25) },
        new() { Name = "Holm 3.0 V6", Fuel = Fuel.Petrol, Cylinders = 6, Layout = CylinderArrangement.V, Banks = [[1, 3, 5], [2, 4, 6]], FiringOrder = [1, 2, 3, 4, 5, 6], DisplacementCc = 2994, BoreMm = 85, StrokeMm = 88,
            Throttle = ThrottleControl.ByWire, Gearbox = Gearbox.Automatic, Lifters = Lifters.Hydraulic, Spec = Maker(198, 148, 28) },
        new() { Name = "Skerry 2.8 inline six", Fuel = Fuel.Petrol, Cylinders = 6, Layout = CylinderArrangement.Inline, Banks = [[1, 2, 3, 4, 5, 6]], FiringOrder = [1, 5, 3, 6, 2, 4], DisplacementCc = 2788, BoreMm = 85, StrokeMm = 82,
            Throttle = ThrottleControl.Cable, Gearbox = Gearbox.Manual, Lifters = Lifters.Solid, Spec = Maker(185, 138, 25) },
    ];

    /// <summary>Diesels.</summary>
    public static IReadOnlyList<EngineSheet> Diesel { get; } =
    [
        new() { Name = "Gorse 2.4 inline four diesel", Fuel = Fuel.Diesel, Cylinders = 4, Layout = CylinderArrangement.Inline, Banks = [[1, 2, 3, 4]], FiringOrder = [1, 3, 4, 2], DisplacementCc = 2398, BoreMm = 90, StrokeMm = 94.2,
            Throttle = ThrottleControl.None, Gearbox = Gearbox.Manual, Lifters = Lifters.Hydraulic, Spec = Maker(425, 320, 60) with { WetAllowed = false } },
        new() { Name = "Broch 6.6 inline six diesel", Fuel = Fuel.Diesel, Cylinders = 6, Layout = CylinderArrangement.Inline, Banks = [[1, 2, 3, 4, 5, 6]], FiringOrder = [1, 5, 3, 6, 2, 4], DisplacementCc = 6587, BoreMm = 108, StrokeMm = 119.8,
            Throttle = ThrottleControl.None, Gearbox = Gearbox.Manual, Lifters = Lifters.Solid, Spec = Maker(440, 330, 60) with { WetAllowed = false } },
    ];

    /// <summary>The engine a sheet describes, as the model turns it.</summary>
    /// <param name="sheet">One of these sheets.</param>
    /// <returns>The engine; worked out once.</returns>
    public static SimulatedEngine ModelOf(EngineSheet sheet) => Models.GetOrAdd(sheet.Name!, _ => SheetEngine.Of(sheet));

    private static EngineSpec Maker(double nominalPsi, double minimumPsi, double differencePsi) =>
        new() { Unit = PressureUnit.Psi, Nominal = nominalPsi, Minimum = minimumPsi, MaxDifference = differencePsi, MaxLeakPercent = 20, WetAllowed = true };
}
