using Zandrik.Core.Engines;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Simulation;

/// <summary>
/// A simulated engine for any sheet. What the sheet says is taken; what it does not say follows by the rules of section 5 of docs/simulation.md from its fuel
/// and the size of its cylinders, scaled from the invented engines. It is an engine such as this one may be, not this one.
/// </summary>
public static class SheetEngine
{
    // Of the inline four and the V8 diesel, from which others are scaled: litres of the whole engine, and bores.
    private const double FourL = 2.0, FourBoreMm = 84, EightBoreMm = 92;

    // Beyond this a diesel has two batteries in series.
    private const double TruckL = 7;

    // Where the ratio is sought for which a sound cylinder reads what the maker says.
    private const double LeastRatio = 6, MostRatio = 24;

    /// <summary>An engine as a sheet describes it.</summary>
    /// <param name="sheet">The sheet; one that passes <see cref="EngineRules"/>.</param>
    /// <returns>The engine: cranked warm with the throttle open a sound cylinder reads the maker's nominal figure, where the sheet has one and no compression ratio.</returns>
    public static SimulatedEngine Of(EngineSheet sheet)
    {
        var diesel = sheet.Fuel == Fuel.Diesel;
        var n = sheet.Cylinders;
        var (boreMm, strokeMm) = Cylinder(sheet, diesel);
        var swept = Math.PI / 4 * boreMm * boreMm * strokeMm * 1e-9;
        var litres = swept * n * 1000;
        var size = swept / 0.5e-3;
        var truck = diesel && litres > TruckL;
        double Grown(double power) => Math.Pow(litres / FourL, power);
        // A starter has to get one cylinder over its top, however few there are.
        var starterL = Math.Max(litres, (diesel ? 6 : 3) * swept * 1000);
        double Started(double power) => Math.Pow(starterL / FourL, power);
        var valves = diesel ? Square(boreMm / EightBoreMm) : Square(boreMm / FourBoreMm);
        var throttle = (diesel ? 500 : 700) * litres;
        var order = sheet.FiringOrder ?? [.. Enumerable.Range(1, n)];
        var volt = truck ? 25.2 : 12.6;
        var engine = new SimulatedEngine
        {
            Name = sheet.Name ?? "engine of a sheet", Fuel = diesel ? Fuel.Diesel : sheet.Fuel ?? Fuel.Petrol,
            BoreM = boreMm / 1000, StrokeM = strokeMm / 1000, RodM = 1.6 * strokeMm / 1000,
            CompressionRatio = sheet.CompressionRatio ?? (diesel ? 18 : 10),
            Timing = diesel ? new ValveTiming(12, 50, 50, 12) : new ValveTiming(8, 64, 48, 12),
            IntakeAreaM2 = (diesel ? 520 : 480) * valves * 1e-6, ExhaustAreaM2 = (diesel ? 430 : 390) * valves * 1e-6,
            FiringOrder = order, FiringAngles = sheet.FiringAngles is { } angles && angles.Count == n ? angles : null,
            // Bigger engines have bigger starters: about as fast, with more current.
            InertiaKgM2 = 0.5 * Started(1.3), FrictionNm = 18 * Grown(0.7), DragNms = 0.25 * Grown(0.95),
            BatteryV = volt, BatteryOhm = 0.005 * Started(-1) * (truck ? 4 : 1), MotorOhm = 0.010 * Started(-1) * (truck ? 4 : 1),
            MotorConstantVs = 0.385 * Started(0.5) * (truck ? 1.5 : 1), IdleCurrentA = 30 * Started(0.5) * (truck ? 0.7 : 1),
            RingLeakM2 = 0.27e-6 * Math.Pow(size, 0.45), ValveLeakM2 = 0.035e-6 * Math.Pow(size, 0.45),
            ManifoldM3 = litres / 1000, ThrottleM2 = throttle * 1e-6, IdleThrottleM2 = (diesel ? throttle : 9.25 * litres) * 1e-6,
            SnapRpm = diesel ? null : 1800, OrificeMm = LeakFlow.StandardRestrictionMm(swept * 1e6),
            Webs = [.. CylinderLayout.Of(sheet).Banks.SelectMany(b => b.Zip(b.Skip(1)))],
        };
        return sheet.CompressionRatio is null && sheet.Spec is { Nominal: > 0 and var nominal } spec
            ? ReadingNominal(engine, nominal * (spec.Unit ?? PressureUnit.Psi).Pascals()) : engine;
    }

    // Bore and stroke as the sheet has them, or from the displacement; diesels a little longer than they are wide.
    private static (double BoreMm, double StrokeMm) Cylinder(EngineSheet sheet, bool diesel)
    {
        var longer = diesel ? 1.1 : 1.03;
        var cc = sheet.DisplacementCc is { } all ? all / sheet.Cylinders : diesel ? 600 : 500;
        return (sheet.BoreMm, sheet.StrokeMm) switch
        {
            ({ } bore, { } stroke) => (bore, stroke),
            ({ } bore, null) => (bore, sheet.DisplacementCc is null ? longer * bore : cc * 1000 / (Math.PI / 4 * bore * bore)),
            (null, { } stroke) => (sheet.DisplacementCc is null ? stroke / longer : Math.Sqrt(cc * 1000 / (Math.PI / 4 * stroke)), stroke),
            _ => (Math.Cbrt(cc * 1000 / (Math.PI / 4 * longer)), longer * Math.Cbrt(cc * 1000 / (Math.PI / 4 * longer))),
        };
    }

    // The ratio at which the model reads the maker's figure, by halving; at an end of the range where none does.
    private static SimulatedEngine ReadingNominal(SimulatedEngine engine, double nominalPa)
    {
        var (low, high) = (LeastRatio, MostRatio);
        // Four at a time, as many as are turned side by side: the range shrinks to a fifth each round.
        for (var round = 0; round < 5; round++)
        {
            double[] ratios = [.. Enumerable.Range(1, 4).Select(k => low + (high - low) * k / 5)];
            var read = GaugeRun.Of([.. ratios.Select(r => (new EngineUnderTest(engine with { CompressionRatio = r }), new GaugeTest { Cylinder = engine.FiringOrder[0], Pulses = 10, How = new Cranking { StepDeg = 1, Seconds = 30 } }))]);
            var below = read.Count(r => r.FinalPa < nominalPa);
            (low, high) = (below == 0 ? low : ratios[below - 1], below == 4 ? high : ratios[below]);
        }
        return engine with { CompressionRatio = (low + high) / 2 };
    }

    private static double Square(double x) => x * x;
}
