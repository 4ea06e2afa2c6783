using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.AirPaths;

/// <summary>A cylinder as somebody sets it, and how it would be tested.</summary>
public sealed record WhatIf
{
    /// <summary>What it lets by, mm²; places that are missing let nothing by.</summary>
    public required IReadOnlyDictionary<LeakPlace, double> Mm2 { get; init; }

    /// <summary>What it lets by to each neighbour, mm², by the neighbour's number.</summary>
    public IReadOnlyDictionary<int, double> ToNeighbours { get; init; } = new Dictionary<int, double>();

    /// <summary>Throttle while cranking: 1 wide open, 0 shut; a share without a unit.</summary>
    public double Throttle { get; init; } = 1;

    /// <summary>How weak the battery is: 0 good, 1 hardly turning; a share without a unit.</summary>
    public double WeakBattery { get; init; }

    /// <summary>True for a cold engine.</summary>
    public bool Cold { get; init; }

    /// <summary>Compressions, a count from 1 to 12.</summary>
    public int Compressions { get; init; } = 8;

    /// <summary>A cylinder as it was fitted, tested as it should be.</summary>
    /// <param name="cylinder">The cylinder.</param>
    /// <returns>With the areas of <see cref="FittedCylinder.AsShown"/>.</returns>
    public static WhatIf Of(FittedCylinder cylinder) => new()
    {
        Mm2 = cylinder.AsShown.Where(p => p.Path.Path != LeakPlace.Neighbour).ToDictionary(p => p.Path.Path, p => p.Mm2),
        ToNeighbours = cylinder.Paths.Where(p => p.Path == LeakPlace.Neighbour).ToDictionary(p => p.To!.Value, p => p.Mm2),
    };
}

/// <summary>What the model reads of a cylinder.</summary>
/// <param name="FirstPsi">After the first compression, psi.</param>
/// <param name="DryPsi">After the last, psi.</param>
/// <param name="WetPsi">The same with oil, psi.</param>
/// <param name="LossPercent">Leak-down, percent.</param>
/// <param name="IdlePsi">Running at idle, psi; absent for an engine without a throttle.</param>
/// <param name="SnapPsi">After a snap, psi; absent likewise.</param>
/// <param name="Rpm">Cranking speed, rpm.</param>
public sealed record WhatIfReadings(double FirstPsi, double DryPsi, double WetPsi, double LossPercent, double? IdlePsi, double? SnapPsi, double Rpm)
{
    private static readonly double PaPerPsi = Units.PressureUnits.Pascals(Units.PressureUnit.Psi);

    /// <summary>Turns the model with a cylinder as it is set; pressures at the level that the readings of the job have.</summary>
    /// <param name="fit">The fitted job.</param>
    /// <param name="engine">Its sheet.</param>
    /// <param name="cylinder">Which cylinder, from 1.</param>
    /// <param name="oilMl">Oil of the wet test, ml.</param>
    /// <param name="ways">How it may be; all are turned side by side.</param>
    /// <returns>The readings of each, in order.</returns>
    public static IReadOnlyList<WhatIfReadings> Of(AirFit fit, EngineSheet engine, int cylinder, double oilMl, params IReadOnlyList<WhatIf> ways)
    {
        var model = fit.Response.Engine;
        // The model's engine is like this one; what it makes sound is what this one's readings take for sound.
        var level = fit.SoundPsi * PaPerPsi / fit.Response.SoundPa;
        var engines = ways.Select(w => With(model, cylinder, w)).ToList();
        var gauge = GaugeRun.Of([.. ways.SelectMany((w, i) => new[] { 0, oilMl }.Select(oil => (engines[i], Test(w, cylinder, oil))))]);
        var running = model.SnapRpm is null || engine.Fuel == Fuel.Diesel || engine.Throttle == ThrottleControl.None ? null
            : RunningRun.Of([.. engines.Select(e => (e, new RunningTest { Cylinder = cylinder, How = new() { StepDeg = 3 }, WithRulesOfThumb = false }))]);
        double Psi(double pa) => pa * level / PaPerPsi;
        return [.. ways.Select((w, i) => new WhatIfReadings(Psi(gauge[2 * i].FirstPa), Psi(gauge[2 * i].FinalPa), Psi(gauge[2 * i + 1].FinalPa), StaticLeak.Of(engines[i], new StaticTest { Cylinder = cylinder, Cold = w.Cold }).Percent,
            running is { } r ? Psi(r[i].IdlePa) : null, running is { } s ? Psi(s[i].SnapPa) : null, gauge[2 * i].MeanRpm))];
    }

    private static GaugeTest Test(WhatIf w, int cylinder, double oilMl) =>
        new() { Cylinder = cylinder, OilM3 = oilMl * 1e-6, Pulses = Math.Clamp(w.Compressions, 1, 12), How = new() { StepDeg = 1, Seconds = 30, Cold = w.Cold, WeakBattery = Math.Clamp(w.WeakBattery, 0, 1) } };

    private static EngineUnderTest With(SimulatedEngine model, int cylinder, WhatIf w)
    {
        double M2(LeakPlace path) => w.Mm2.GetValueOrDefault(path) * 1e-6;
        var conditions = new Dictionary<int, CylinderCondition>
        {
            // All that it lets by is set: nothing of what is usual comes on top.
            [cylinder] = new() { RingFactor = 0, ValveFactor = 0, RingM2 = M2(LeakPlace.Rings), CrownM2 = M2(LeakPlace.Crown), IntakeValveM2 = M2(LeakPlace.Intake), ExhaustValveM2 = M2(LeakPlace.Exhaust), CoolantM2 = M2(LeakPlace.Coolant) },
        };
        foreach (var (neighbour, mm2) in w.ToNeighbours.Where(n => n.Value > 0))
        {
            var mine = model.Webs.Any(web => web.First == cylinder && web.Second == neighbour);
            var (owner, other) = mine ? (cylinder, neighbour) : (neighbour, cylinder);
            conditions[owner] = conditions.GetValueOrDefault(owner, new()) with { GasketM2 = mm2 * 1e-6, GasketTo = other };
        }
        var open = model.IsDiesel ? model.ThrottleM2 : model.IdleThrottleM2 * Math.Pow(model.ThrottleM2 / model.IdleThrottleM2, Math.Clamp(w.Throttle, 0, 1));
        return new(model with { ThrottleM2 = open }, conditions);
    }
}
