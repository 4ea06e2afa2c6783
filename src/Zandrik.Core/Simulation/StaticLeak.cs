using Zandrik.Core.Physics;

namespace Zandrik.Core.Simulation;

/// <summary>Where the air of a leak-down test goes.</summary>
public enum LeakPlace
{
    /// <summary>Past the rings, into the crankcase.</summary>
    Rings,

    /// <summary>Through the crown, into the crankcase.</summary>
    Crown,

    /// <summary>Through the intake valve.</summary>
    Intake,

    /// <summary>Through the exhaust valve.</summary>
    Exhaust,

    /// <summary>Into the coolant.</summary>
    Coolant,

    /// <summary>Into a neighbour.</summary>
    Neighbour,
}

/// <summary>How the air is put on.</summary>
public sealed record StaticTest
{
    /// <summary>The cylinder, from 1.</summary>
    public required int Cylinder { get; init; }

    /// <summary>Supply, Pa over the air outside.</summary>
    public double SupplyPa { get; init; } = LeakFlow.StandardSupplyPa;

    /// <summary>Diameter of the tester's restriction, mm; absent for the usual one of the engine.</summary>
    public double? RestrictionMm { get; init; }

    /// <summary>How far the crank is off the cylinder's firing top dead centre, degrees either way.</summary>
    public double OffDeg { get; init; }

    /// <summary>True where the check valve was left in the hose: no air gets in.</summary>
    public bool CheckValveLeftIn { get; init; }

    /// <summary>True where something holds the crank against the pressure.</summary>
    public bool CrankHeld { get; init; }

    /// <summary>True for a cold engine, whose rings let by more.</summary>
    public bool Cold { get; init; }

    /// <summary>Oil put into the cylinder before, m³.</summary>
    public double OilM3 { get; init; }

    /// <summary>Air outside, Pa absolute.</summary>
    public double AmbientPa { get; init; } = Barometer.StandardPa;

    /// <summary>Air temperature, K.</summary>
    public double AmbientK { get; init; } = 293;
}

/// <summary>
/// A leak-down test of one cylinder, from its leak areas alone: what goes through the restriction goes out by the leaks. Speed,
/// temperature and the size of the cylinder do not matter. Section 6 of docs/simulation.md.
/// </summary>
public readonly record struct StaticLeak
{
    /// <summary>Without a moving film of oil rings let by more than while they pump.</summary>
    public const double RingsStandingStill = 1.3;

    /// <summary>How much fainter rings are heard, dB: the crankcase is baffled.</summary>
    public const double CrankcaseDb = -12;

    /// <summary>Loss, percent of the supply, 0 to 100.</summary>
    public double Percent { get; private init; }

    /// <summary>Air that goes through, kg/s.</summary>
    public double FlowKgS { get; private init; }

    /// <summary>True where the crank turned away: the cylinder is at the bottom with a valve open.</summary>
    public bool TurnedAway { get; private init; }

    private double Rings { get; init; }

    private double Crown { get; init; }

    private double Intake { get; init; }

    private double Exhaust { get; init; }

    private double Coolant { get; init; }

    private double Neighbour { get; init; }

    /// <summary>Which share of the air goes by a place.</summary>
    /// <returns>0 to 1; all together 1, or 0 where no air gets in.</returns>
    public double Share(LeakPlace place)
    {
        var sum = Sum;
        return sum > 0 && FlowKgS > 0 ? place switch { LeakPlace.Rings => Rings, LeakPlace.Crown => Crown, LeakPlace.Intake => Intake, LeakPlace.Exhaust => Exhaust, LeakPlace.Coolant => Coolant, _ => Neighbour } / sum : 0;
    }

    // Where a fault's leak depends on the pressure, how many times over it lets by at the pressure that it leaves itself. One that opens at a pressure it cannot hold stays at that pressure.
    private static double FaultUnderAir(MotoredConstants constants, double sound, double fault, double restriction, StaticTest test)
    {
        if (fault <= 0)
        {
            return 1;
        }
        double Factor(double heldPa) => heldPa < constants.LeakOpensPa ? 0 : 1 + constants.LeakGrowthPerBar * heldPa * 1e-5;
        var (low, high) = (0.0, test.SupplyPa);
        for (var i = 0; i < 50; i++)
        {
            var held = (low + high) / 2;
            var percent = LeakFlow.Percent((sound + Factor(held) * fault) / restriction, test.SupplyPa, test.AmbientPa);
            (low, high) = test.SupplyPa * (1 - percent / 100) > held ? (held, high) : (low, held);
        }
        return Math.Abs(low - constants.LeakOpensPa) > 1 ? Factor(low)
            : Math.Max(0, (LeakFlow.AreaRatio(100 * (1 - low / test.SupplyPa), test.SupplyPa, test.AmbientPa) * restriction - sound) / fault);
    }

    private double Sum => Rings + Crown + Intake + Exhaust + Coolant + Neighbour;

    /// <summary>How loud a place is, dB over 0.1 g/s: faint under 6, clear to 16, strong above; under 0 nothing is heard.</summary>
    /// <returns>dB; negative infinity where no air goes.</returns>
    public double LevelDb(LeakPlace place) => 20 * Math.Log10(Share(place) * FlowKgS / 1e-4) + (place == LeakPlace.Rings ? CrankcaseDb : 0);

    /// <summary>The torque on the crank for each radian off top dead centre, N·m: what has to be held.</summary>
    /// <param name="engine">The engine.</param>
    /// <param name="heldPa">Pressure in the cylinder over the air outside, Pa.</param>
    /// <returns>N·m/rad, 0 or more.</returns>
    public static double HoldingNmPerRad(SimulatedEngine engine, double heldPa)
    {
        var r = engine.StrokeM / 2;
        return heldPa * Math.PI / 4 * engine.BoreM * engine.BoreM * r * (1 + r / engine.RodM);
    }

    /// <summary>Tests a cylinder.</summary>
    /// <param name="engine">The engine.</param>
    /// <param name="test">How the air is put on.</param>
    /// <returns>The loss, and where it goes.</returns>
    public static StaticLeak Of(EngineUnderTest engine, StaticTest test)
    {
        var e = engine.Engine;
        var c = engine.Condition.GetValueOrDefault(test.Cylinder) ?? new CylinderCondition();
        var wash = test.OilM3 > 0 ? Math.Min(c.WashFactor, 1 + 0.1 * (c.WashFactor - 1)) : c.WashFactor;
        var rings = RingsStandingStill * wash * (test.Cold ? 1.6 : 1) * MotoredLanes.OilLeaves(test.OilM3, e.BoreM);
        var web = engine.Condition.Where(k => k.Value.GasketTo is { } to && (k.Key == test.Cylinder || to == test.Cylinder)).Sum(k => k.Value.GasketM2);
        // Rings, crown and seats let by so many times as much; a burnt gasket does not move.
        StaticLeak With(double fault) => new()
        {
            Rings = rings * (e.RingLeakM2 * c.RingFactor + fault * c.RingM2), Crown = fault * c.CrownM2, Intake = e.ValveLeakM2 * c.ValveFactor + fault * c.IntakeValveM2,
            Exhaust = e.ValveLeakM2 * c.ValveFactor + fault * c.ExhaustValveM2, Coolant = c.CoolantM2, Neighbour = web,
        };
        var restriction = LeakFlow.RestrictionAreaMm2(test.RestrictionMm ?? e.OrificeMm) * 1e-6;
        var leak = With(e.Constants.LeaksDepend ? FaultUnderAir(e.Constants, With(0).Sum, With(1).Sum - With(0).Sum, restriction, test) : 1);
        if (test.CheckValveLeftIn)
        {
            return leak;
        }
        StaticLeak At(StaticLeak l)
        {
            var percent = LeakFlow.Percent(l.Sum / restriction, test.SupplyPa, test.AmbientPa);
            var (supply, held) = (test.SupplyPa + test.AmbientPa, test.SupplyPa * (1 - percent / 100) + test.AmbientPa);
            return l with { Percent = percent, FlowKgS = CylinderGas.Flow(restriction, supply, test.AmbientK, held, test.AmbientK) };
        }
        if (test.OffDeg == 0)
        {
            return At(leak);
        }
        var (intake, exhaust) = e.Timing.Lifts(test.OffDeg);
        var off = At(leak with { Intake = leak.Intake + 0.9 * e.IntakeAreaM2 * intake, Exhaust = leak.Exhaust + 0.9 * e.ExhaustAreaM2 * exhaust });
        // What the starter overcomes before anything moves is a third more than what it drags.
        var torque = HoldingNmPerRad(e, test.SupplyPa * (1 - off.Percent / 100)) * Math.Abs(Math.Sin(test.OffDeg * Math.PI / 180));
        if (test.CrankHeld || torque < 1.3 * e.FrictionNm)
        {
            return off;
        }
        // At the bottom of its stroke a valve stands open; which one depends on the way it went.
        var (bottomIntake, bottomExhaust) = e.Timing.Lifts(test.OffDeg > 0 ? 180 : -180);
        return At(leak with { Intake = leak.Intake + 0.9 * e.IntakeAreaM2 * bottomIntake, Exhaust = leak.Exhaust + 0.9 * e.ExhaustAreaM2 * bottomExhaust }) with { TurnedAway = true };
    }
}
