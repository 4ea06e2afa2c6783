using System.Runtime.Intrinsics;
using Zandrik.Core.Physics;
using static Zandrik.Core.Physics.LaneMath;
using Lanes = System.Runtime.Intrinsics.Vector256<double>;

namespace Zandrik.Core.Simulation;

/// <summary>One engine in one lane: what it is, what is wrong with it, and how it is turned.</summary>
internal sealed record MotoredSetup
{
    public required SimulatedEngine Engine { get; init; }

    public required IReadOnlyDictionary<int, CylinderCondition> Condition { get; init; }

    public required Cranking How { get; init; }

    /// <summary>The cylinder with the gauge; it stands first in the lane.</summary>
    public int Tested { get; init; } = 1;

    /// <summary>Where the crank stands at first, rad; absent for the start angle from the tested cylinder's firing top dead centre.</summary>
    public double? StartRad { get; init; }

    /// <summary>The gauge; absent for none.</summary>
    public GaugeKit? Kit { get; init; }

    /// <summary>True with all other plugs out: the tested cylinder is alone with the crank.</summary>
    public bool PlugsOut { get; init; }

    /// <summary>Oil in the tested cylinder, m³.</summary>
    public double OilM3 { get; init; }

    /// <summary>Opening of the throttle at the start and once it is opened, m².</summary>
    public double ThrottleM2 { get; init; }

    /// <summary>The speed that is given from outside, rad/s; absent where the starter turns it.</summary>
    public SpeedCourse? Speed { get; init; }

    /// <summary>True for an engine that runs: hotter walls, an exhaust under pressure.</summary>
    public bool Running { get; init; }
}

/// <summary>A speed and a throttle that are given: at idle, and with a snap of the throttle.</summary>
/// <param name="FromRadS">Speed until <paramref name="RisesS"/>.</param>
/// <param name="ToRadS">Speed from <paramref name="RisenS"/> on.</param>
/// <param name="RisesS">When it begins to rise.</param>
/// <param name="RisenS">When it has risen.</param>
/// <param name="SnapM2">Throttle opening of the snap; 0 for no snap.</param>
internal readonly record struct SpeedCourse(double FromRadS, double ToRadS, double RisesS, double RisenS, double SnapM2)
{
    public const double SnapAtS = 1.6, SnapOpenS = 0.1, SnapShutS = 2.02;

    public static SpeedCourse Even(double rpm) => new(rpm * Math.PI / 30, rpm * Math.PI / 30, 0, 1, 0);
}

/// <summary>
/// Four engines side by side, one in each lane, stepped along their cranks together: the equations and the order of sections 2 and 3 of
/// docs/simulation.md. They do not touch each other, and each has a step of its own; they only have the same number of cylinders to integrate.
/// Nothing is allocated while they turn.
/// </summary>
internal sealed class MotoredLanes
{
    /// <summary>Engines that fit side by side.</summary>
    public const int Width = 4;

    private const double R = 287.05;
    private const double Cycle = 4 * Math.PI;
    private const double Choked = LeakFlow.CriticalRatio;

    // ψ at a ratio of 0.998, from which it falls straight to 0 at 1.
    private static readonly double NearlyEqual = 1 / (1 - 0.998) * LeakFlow.Factor(0.998);

    private readonly int n;
    private readonly bool prescribed, kitAtTip, kitAtHead, leaksDepend, hot;

    // Of the engine.
    private readonly Lanes ap, r, l, bore, strokeOverPi, stepRad, longest;
    private readonly Lanes emf0, sag, motor, idleA, efficiency, circuit, batteryOhm, inductance, inertia, friction, drag, wobble, wobbleOrder, series, nominalA;
    private readonly Lanes pa, ta, wall, manifoldK, exhaustPa, crankcasePa, manifoldM3, heat, throttle0, fromRadS, toRadS, risesS, risenS, snapM2;
    private readonly Lanes rootTa, rootWall, rootManifold;
    private readonly Lanes growth, opens;

    // Of each cylinder.
    private readonly Lanes[] offset, clearance, ring, intakeLeak, exhaustLeak, coolant, hole, ringAdded, intakeAdded, exhaustAdded, intakeMax, exhaustMax, intakeCut, exhaustCut;
    private readonly Lanes[] volume, lever, pressure, temperature, mass, flowKg, flowJ, nextVolume, root;
    private readonly Lanes intakeFrom, intakeSpan, exhaustFrom, exhaustSpan;
    private readonly (int A, int B, Lanes Area)[] gaskets;

    // Of the gauge.
    private readonly Lanes checkM2, opensPa, hoseM2, hoseM3, headM3;
    private Lanes gaugeKg, hoseKg;

    private Lanes manifoldKg, omega;

    /// <summary>Sets up as many as there are; lanes that are left over turn the last of them once more.</summary>
    public MotoredLanes(ReadOnlySpan<MotoredSetup> setups)
    {
        var all = new MotoredSetup[Width];
        for (var k = 0; k < Width; k++)
        {
            all[k] = setups[Math.Min(k, setups.Length - 1)];
        }
        n = all[0].PlugsOut ? 1 : all[0].Engine.Cylinders;
        if (all.Any(s => (s.PlugsOut ? 1 : s.Engine.Cylinders) != n || s.Speed is null != all[0].Speed is null))
        {
            throw new ArgumentException("Engines side by side have as many cylinders to integrate, and are turned alike.", nameof(setups));
        }
        Lanes Each(Func<MotoredSetup, double> of) => Vector256.Create(of(all[0]), of(all[1]), of(all[2]), of(all[3]));
        prescribed = all[0].Speed is not null;
        hot = all.Any(s => s.Running || s.Engine.Constants.CrankcasePa != 0);
        leaksDepend = all.Any(s => s.Engine.Constants.LeaksDepend);
        kitAtTip = all.Any(s => s.Kit is { CheckValveInHead: false });
        kitAtHead = all.Any(s => s.Kit is { CheckValveInHead: true });

        (ap, r, l) = (Each(s => Math.PI / 4 * s.Engine.BoreM * s.Engine.BoreM), Each(s => s.Engine.StrokeM / 2), Each(s => s.Engine.RodM));
        (bore, strokeOverPi) = (Each(s => s.Engine.BoreM), Each(s => s.Engine.StrokeM / Math.PI));
        (stepRad, longest) = (Each(s => s.How.StepDeg * Math.PI / 180), Each(s => 0.8e-3 * s.How.StepDeg));
        emf0 = Each(s => s.Engine.BatteryV - 0.9 * s.How.WeakBattery * s.Engine.BatteryV / 12.6);
        sag = Each(s => s.How.SagVPerS);
        (motor, idleA, efficiency) = (Each(s => s.Engine.MotorConstantVs), Each(s => s.Engine.IdleCurrentA), Each(s => s.Engine.Efficiency));
        batteryOhm = Each(BatteryOhm);
        circuit = Each(s => BatteryOhm(s) + s.Engine.MotorOhm + 0.002);
        (inductance, inertia) = (Each(s => s.Engine.InductanceH), Each(s => s.Engine.InertiaKgM2));
        friction = Each(s => s.Engine.FrictionNm * s.How.Friction * (s.How.Cold ? 1.9 : 1));
        drag = Each(s => s.Engine.DragNms * s.How.Friction * (s.How.Cold ? 1.5 : 1));
        (wobble, wobbleOrder) = (Each(s => s.How.CycleTorqueNm), Each(s => s.How.CycleTorqueOrder / 2.0));
        (series, nominalA) = (Each(s => s.Engine.Constants.SeriesShare), Each(s => s.Engine.Constants.SeriesNominalA));
        (pa, ta) = (Each(s => s.How.AmbientPa), Each(s => s.How.AmbientK));
        wall = Each(s => s.Running ? 385 : s.How.Cold ? s.How.AmbientK : 350);
        manifoldK = Each(s => s.How.AmbientK + (s.Running ? 30 : s.How.Cold ? 0 : 25));
        exhaustPa = Each(s => s.How.AmbientPa + (s.Running ? 2000 : 0));
        crankcasePa = Each(s => s.How.AmbientPa + s.Engine.Constants.CrankcasePa);
        manifoldM3 = Each(s => s.Engine.ManifoldM3);
        heat = Each(s => s.Engine.Constants.WallHeat * 130);
        throttle0 = Each(s => s.ThrottleM2);
        (fromRadS, toRadS) = (Each(s => s.Speed?.FromRadS ?? 0), Each(s => s.Speed?.ToRadS ?? 0));
        (risesS, risenS, snapM2) = (Each(s => s.Speed?.RisesS ?? 0), Each(s => s.Speed?.RisenS ?? 1), Each(s => s.Speed?.SnapM2 ?? 0));
        Lanes Root(Lanes k) => All(0.68473) / Vector256.Sqrt(All(R) * k);
        (rootTa, rootWall, rootManifold) = (Root(ta), Root(wall), Root(manifoldK));
        (growth, opens) = (Each(s => s.Engine.Constants.LeakGrowthPerBar * 1e-5), Each(s => s.Engine.Constants.LeakOpensPa));

        Lanes[] Row() => new Lanes[n];
        (offset, clearance, ring, intakeLeak, exhaustLeak, coolant, hole) = (Row(), Row(), Row(), Row(), Row(), Row(), Row());
        (ringAdded, intakeAdded, exhaustAdded, intakeMax, exhaustMax, intakeCut, exhaustCut) = (Row(), Row(), Row(), Row(), Row(), Row(), Row());
        (volume, lever, pressure, temperature, mass, flowKg, flowJ, nextVolume, root) = (Row(), Row(), Row(), Row(), Row(), Row(), Row(), Row(), Row());
        for (var i = 0; i < n; i++)
        {
            int Number(MotoredSetup s) => (s.Tested - 1 + i) % s.Engine.Cylinders + 1;
            CylinderCondition Of(MotoredSetup s) => s.Condition.GetValueOrDefault(Number(s)) ?? Whole;
            double Oil(MotoredSetup s) => i == 0 ? s.OilM3 : 0;
            double Rings(MotoredSetup s, double area) => area * (Oil(s) > 0 ? Math.Min(Of(s).WashFactor, 1 + 0.1 * (Of(s).WashFactor - 1)) : Of(s).WashFactor)
                * (s.How.Cold ? 1.6 : 1) * OilLeaves(Oil(s), s.Engine.BoreM);
            offset[i] = Each(s => s.Engine.OffsetsRad()[Number(s) - 1]);
            clearance[i] = Each(s => s.Engine.ClearanceM3 + Of(s).VolumeM3 - 0.06 * Oil(s) + (i == 0 ? s.Kit?.AddsM3 ?? 0 : 0));
            ring[i] = Each(s => Rings(s, s.Engine.RingLeakM2 * Of(s).RingFactor));
            ringAdded[i] = Each(s => Rings(s, Of(s).RingM2) + Of(s).CrownM2);
            intakeLeak[i] = Each(s => s.Engine.ValveLeakM2 * Of(s).ValveFactor);
            intakeAdded[i] = Each(s => Of(s).IntakeValveM2);
            exhaustLeak[i] = Each(s => s.Engine.ValveLeakM2 * Of(s).ValveFactor);
            exhaustAdded[i] = Each(s => Of(s).ExhaustValveM2);
            coolant[i] = Each(s => Of(s).CoolantM2);
            // Behind a burnt web with its plug out there is the air outside.
            hole[i] = Each(s => s.PlugsOut ? GasketsOf(s, Number(s)) : 0);
            if (!leaksDepend)
            {
                (ring[i], intakeLeak[i], exhaustLeak[i]) = (ring[i] + ringAdded[i], intakeLeak[i] + intakeAdded[i], exhaustLeak[i] + exhaustAdded[i]);
            }
            (intakeMax[i], exhaustMax[i]) = (Each(s => s.Engine.IntakeAreaM2), Each(s => s.Engine.ExhaustAreaM2));
            (intakeCut[i], exhaustCut[i]) = (Each(s => 1 - Of(s).IntakeLift), Each(s => 1 - Of(s).ExhaustLift));
        }
        static double Rad(double degrees) => degrees * Math.PI / 180;
        intakeFrom = Each(s => Rad(360 - s.Engine.Timing.IntakeOpens + s.Engine.Timing.CamShift));
        intakeSpan = Each(s => 1 / Rad(180 + s.Engine.Timing.IntakeOpens + s.Engine.Timing.IntakeCloses));
        exhaustFrom = Each(s => Rad(180 - s.Engine.Timing.ExhaustOpens + s.Engine.Timing.CamShift));
        exhaustSpan = Each(s => 1 / Rad(180 + s.Engine.Timing.ExhaustOpens + s.Engine.Timing.ExhaustCloses));
        gaskets = n == 1 ? [] : Gaskets(all, Each);
        anyCoolant = coolant.Any(c => c != Lanes.Zero);
        anyHole = hole.Any(c => c != Lanes.Zero);

        checkM2 = Each(s => s.Kit?.CheckValveM2 ?? 0);
        opensPa = Each(s => s.Kit?.OpensPa ?? 0);
        hoseM2 = Each(s => s.Kit is { CheckValveInHead: true } k ? k.HoseAreaM2 : 0);
        hoseM3 = Each(s => s.Kit?.HoseM3 ?? 1e-6);
        // Behind a valve in the tip there is the hose and the head; behind one in the head only that.
        headM3 = Each(s => s.Kit is { } k ? k.HeadM3 + (k.CheckValveInHead ? 0 : k.HoseM3) : 1e-6);
        TipM2 = Each(s => s.Kit is { CheckValveInHead: false } k ? k.CheckValveM2 : 0);

        TimeS = Lanes.Zero;
        CrankRad = Each(s => s.StartRad ?? s.Engine.OffsetsRad()[s.Tested - 1] + Rad(s.How.StartDeg));
        for (var i = 0; i < n; i++)
        {
            var (sin, cos) = SinCos(CrankRad - offset[i]);
            (volume[i], lever[i]) = Geometry(i, sin, cos);
            (pressure[i], temperature[i]) = (pa, (wall + ta) * All(0.5));
            mass[i] = pressure[i] * volume[i] / (All(R) * temperature[i]);
        }
        manifoldKg = pa * manifoldM3 / (All(R) * manifoldK);
        (gaugeKg, hoseKg) = (pa * headM3 / (All(R) * ta), pa * hoseM3 / (All(R) * ta));
        omega = prescribed ? fromRadS : Lanes.Zero;
        Turned = Wrap(CrankRad - offset[0]);
    }

    private readonly bool anyCoolant, anyHole;

    private static readonly CylinderCondition Whole = new();

    private Lanes TipM2 { get; }

    /// <summary>Time since the start, s.</summary>
    public Lanes TimeS { get; private set; }

    /// <summary>Crank angle from the first firing top dead centre of the order, rad.</summary>
    public Lanes CrankRad { get; private set; }

    /// <summary>Starter current, A.</summary>
    public Lanes CurrentA { get; private set; }

    /// <summary>Voltage at the battery, V.</summary>
    public Lanes BatteryV { get; private set; }

    /// <summary>Angle of the first cylinder from its firing top dead centre, 0 to under 4π.</summary>
    public Lanes Turned { get; private set; }

    /// <summary>What the gauge holds, Pa absolute.</summary>
    public Lanes GaugePa => gaugeKg * All(R) * ta / headM3;

    /// <summary>Pressure of the air outside, Pa absolute.</summary>
    public Lanes OutsidePa => pa;

    /// <summary>Pressure in the manifold, Pa absolute.</summary>
    public Lanes ManifoldPa => manifoldKg * All(R) * manifoldK / manifoldM3;

    /// <summary>Pressures in the cylinders, the tested one first, Pa absolute.</summary>
    public ReadOnlySpan<Lanes> PressurePa => pressure;

    /// <summary>Angles of cylinder i from its firing top dead centre, 0 to under 4π.</summary>
    public Lanes TurnedOf(int i) => Wrap(CrankRad - offset[i]);

    /// <summary>Air in the cylinders, the manifold and the gauge, kg.</summary>
    public Lanes AirKg
    {
        get
        {
            var sum = manifoldKg + gaugeKg + (kitAtHead ? hoseKg : Lanes.Zero);
            foreach (var m in mass)
            {
                sum += m;
            }
            return sum;
        }
    }

    /// <summary>Air that came in from outside less what went out since the start, kg; counted only where <see cref="CountAir"/> is set.</summary>
    public Lanes CameInKg { get; private set; }

    /// <summary>Counts <see cref="CameInKg"/>.</summary>
    public bool CountAir { get; init; }


    /// <summary>How much of a ring leak is left with oil on the rings.</summary>
    /// <param name="oilM3">The oil, m³.</param>
    /// <param name="boreM">Bore, m.</param>
    public static double OilLeaves(double oilM3, double boreM) => oilM3 > 0 ? 0.48 + 0.52 * Exp(-oilM3 * 1e6 * 86 / (5 * boreM * 1000)) : 1;

    private static double BatteryOhm(MotoredSetup s) => s.Engine.BatteryOhm * (s.How.Cold ? 1.25 : 1) * (1 + 2.5 * s.How.WeakBattery);

    private static double GasketsOf(MotoredSetup s, int cylinder) =>
        s.Condition.Sum(c => c.Value.GasketTo is { } to && (c.Key == cylinder || to == cylinder) ? c.Value.GasketM2 : 0);

    private static (int, int, Lanes)[] Gaskets(MotoredSetup[] all, Func<Func<MotoredSetup, double>, Lanes> each)
    {
        var found = new List<(int, int, Lanes)>();
        int Place(MotoredSetup s, int cylinder) => (cylinder - s.Tested + s.Engine.Cylinders) % s.Engine.Cylinders;
        var pairs = all.SelectMany(s => s.Condition.Where(c => c.Value.GasketTo is not null && c.Value.GasketM2 > 0).Select(c => (Place(s, c.Key), Place(s, c.Value.GasketTo!.Value)))).Distinct();
        foreach (var (a, b) in pairs)
        {
            found.Add((a, b, each(s => s.Condition.Sum(c => c.Value.GasketTo is { } to && Place(s, c.Key) == a && Place(s, to) == b ? c.Value.GasketM2 : 0))));
        }
        return [.. found];
    }

    private (Lanes Volume, Lanes Lever) Geometry(int i, Lanes sin, Lanes cos)
    {
        var rs = r * sin;
        var across = Vector256.Sqrt(l * l - rs * rs);
        return (clearance[i] + ap * (r + l - r * cos - across), ap * (rs + rs * r * cos / across));
    }

    private static Lanes Wrap(Lanes rad) => rad - All(Cycle) * Vector256.Floor(rad * All(1 / Cycle));

    private static Lanes HeatCapacity(Lanes k) => Vector256.Max(All(700), All(718) + All(0.17) * (k - All(300)));

    // Flow into the cylinder for each square metre: p and its 0.68473/√(RT) on both sides.
    private static Lanes Flux(Lanes outside, Lanes rootOutside, Lanes inside, Lanes rootInside)
    {
        var inward = Vector256.GreaterThanOrEqual(outside, inside);
        var high = Vector256.Max(outside, inside);
        var ratio = Vector256.Min(outside, inside) / high;
        var z = Vector256.Max((ratio - All(Choked)) * All(1 / (1 - Choked)), Lanes.Zero);
        var factor = Vector256.Sqrt(Vector256.Max(All(1) - z * z, Lanes.Zero));
        factor = Vector256.ConditionalSelect(Vector256.GreaterThan(ratio, All(0.998)), (All(1) - ratio) * All(NearlyEqual), factor);
        var flux = high * factor * Vector256.ConditionalSelect(inward, rootOutside, rootInside);
        return Vector256.ConditionalSelect(inward, flux, -flux);
    }

    /// <summary>One step of each lane.</summary>
    /// <returns>How long it was in each, s.</returns>
    public Lanes Step()
    {
        // The torque of the pressures as they are, the current, the speed, the angle.
        var speed = Vector256.Abs(omega);
        var dt = Vector256.Min(stepRad / Vector256.Max(speed, All(1e-9)), longest);
        Lanes after;
        if (prescribed)
        {
            var part = Vector256.Min(Vector256.Max((TimeS + dt - risesS) / (risenS - risesS), Lanes.Zero), All(1));
            after = fromRadS + (toRadS - fromRadS) * part;
        }
        else
        {
            var push = Lanes.Zero;
            for (var i = 0; i < n; i++)
            {
                push += (pressure[i] - pa) * lever[i];
            }
            var emf = emf0 - sag * TimeS;
            // Wound in series: the field follows the current and saturates.
            var constant = motor;
            if (series != Lanes.Zero)
            {
                var of = CurrentA / nominalA;
                constant = motor * (All(1) - series + series * All(2) * of / (All(1) + of));
            }
            CurrentA = Vector256.Max((CurrentA + dt / inductance * (emf - constant * omega)) / (All(1) + dt * circuit / inductance), Lanes.Zero);
            BatteryV = emf - CurrentA * batteryOhm;
            var starter = Vector256.Max(efficiency * constant * (CurrentA - idleA), Lanes.Zero);
            var slip = omega * All(1 / 0.3);
            var side = Vector256.GreaterThanAll(slip, All(18)) ? All(1) : Tanh(slip);
            var resist = (friction + drag * speed) * side;
            if (wobble != Lanes.Zero)
            {
                resist -= wobble * SinCos(wobbleOrder * CrankRad).Sin;
            }
            after = omega + dt / inertia * (starter + push - resist);
        }
        var next = CrankRad + dt * (omega + after) * All(0.5);
        var middle = (CrankRad + next) * All(0.5);
        var pistonSpeed = strokeOverPi * Vector256.Abs(after) + All(1.4);

        var manifoldPa = ManifoldPa;
        var drawn = Lanes.Zero;
        for (var i = 0; i < n; i++)
        {
            // Half the change of volume.
            var (sin, cos) = SinCos(next - offset[i]);
            (nextVolume[i], lever[i]) = Geometry(i, sin, cos);
            var half = (volume[i] + nextVolume[i]) * All(0.5);
            var t = temperature[i];
            t *= PowNearOne(volume[i] / half, All(R) / HeatCapacity(t));
            var p = mass[i] * All(R) * t / half;
            (volume[i], temperature[i], pressure[i]) = (half, t, p);
            root[i] = All(0.68473) / Vector256.Sqrt(All(R) * t);
        }
        for (var i = 0; i < n; i++)
        {
            Leak(i, dt, middle, manifoldPa, ref drawn);
        }
        foreach (var (a, b, area) in gaskets)
        {
            LeakAcross(a, b, area, dt);
        }
        if (kitAtTip)
        {
            FillAtTip(dt);
        }
        if (kitAtHead)
        {
            FillThroughHose(dt);
        }
        for (var i = 0; i < n; i++)
        {
            Finish(i, dt, pistonSpeed);
        }

        // The manifold: no further than the air outside.
        var opening = throttle0;
        if (prescribed && snapM2 != Lanes.Zero)
        {
            var open = Vector256.GreaterThan(snapM2, Lanes.Zero) & Vector256.LessThan(TimeS, All(SpeedCourse.SnapShutS));
            var part = Vector256.Min(Vector256.Max((TimeS - All(SpeedCourse.SnapAtS)) * All(1 / SpeedCourse.SnapOpenS), Lanes.Zero), All(1));
            opening = Vector256.ConditionalSelect(open, throttle0 + (snapM2 - throttle0) * part, throttle0);
        }
        var flow = opening * Flux(pa, rootTa, manifoldPa, rootManifold) * dt;
        var most = (pa - manifoldPa) * manifoldM3 / (All(R) * manifoldK);
        flow = Vector256.ConditionalSelect(Vector256.GreaterThanOrEqual(most, Lanes.Zero), Vector256.Min(Vector256.Max(flow, Lanes.Zero), most), Vector256.Max(Vector256.Min(flow, Lanes.Zero), most));
        manifoldKg += flow - drawn;
        if (CountAir)
        {
            CameInKg += flow;
        }
        (CrankRad, omega) = (next, after);
        TimeS += dt;
        Turned = Wrap(next - offset[0]);
        return dt;
    }

    private void Leak(int i, Lanes dt, Lanes middle, Lanes manifoldPa, ref Lanes drawn)
    {
        var (p, t, m, v) = (pressure[i], temperature[i], mass[i], volume[i]);
        var cp = HeatCapacity(t) + All(R);
        var least = All(-0.4) * m;
        var at = Wrap(middle - offset[i]);
        var (kg, j) = (Lanes.Zero, Lanes.Zero);
        var (rings, intake, exhaust) = (ring[i], intakeLeak[i], exhaustLeak[i]);
        if (leaksDepend)
        {
            var over = p - pa;
            var factor = Vector256.ConditionalSelect(Vector256.GreaterThanOrEqual(over, opens), All(1) + growth * Vector256.Max(over, Lanes.Zero), Lanes.Zero);
            (rings, intake, exhaust) = (rings + factor * ringAdded[i], intake + factor * intakeAdded[i], exhaust + factor * exhaustAdded[i]);
        }
        var toManifold = Flux(manifoldPa, rootManifold, p, root[i]);
        var toOutside = Flux(pa, rootWall, p, root[i]);
        var (toExhaust, toCrankcase) = hot ? (Flux(exhaustPa, rootWall, p, root[i]), Flux(crankcasePa, rootWall, p, root[i])) : (toOutside, toOutside);

        var flow = Through(intake, intakeMax[i], intakeCut[i], SinSquaredOfHalfTurn((at - intakeFrom) * intakeSpan), toManifold, manifoldPa, manifoldK, p, t, v, least, cp, dt);
        drawn += flow;
        kg += flow;
        j += flow * cp * Vector256.ConditionalSelect(Vector256.GreaterThan(flow, Lanes.Zero), manifoldK, t);
        // Both events lie inside one cycle, however far the cam is shifted.
        flow = Through(exhaust, exhaustMax[i], exhaustCut[i], SinSquaredOfHalfTurn((at - exhaustFrom) * exhaustSpan), toExhaust, exhaustPa, wall, p, t, v, least, cp, dt);
        var outside = flow;
        kg += flow;
        j += flow * cp * Vector256.ConditionalSelect(Vector256.GreaterThan(flow, Lanes.Zero), wall, t);
        flow = Vector256.Max(rings * toCrankcase * dt, least);
        outside += flow;
        kg += flow;
        j += flow * cp * Vector256.ConditionalSelect(Vector256.GreaterThan(flow, Lanes.Zero), wall, t);
        if (anyCoolant)
        {
            flow = Vector256.Max(coolant[i] * Vector256.Min(toOutside, Lanes.Zero) * dt, least);
            outside += flow;
            kg += flow;
            j += flow * cp * t;
        }
        if (anyHole)
        {
            flow = Vector256.Max(hole[i] * toOutside * dt, All(-0.3) * m);
            outside += flow;
            kg += flow;
            j += flow * cp * Vector256.ConditionalSelect(Vector256.GreaterThan(flow, Lanes.Zero), wall, t);
        }
        if (CountAir)
        {
            CameInKg += outside;
        }
        (flowKg[i], flowJ[i]) = (kg, j);
    }

    // Through a valve: its leak, and what it stands open; through an open one the pressures may become equal within a step, but not cross.
    private static Lanes Through(Lanes leak, Lanes wide, Lanes cut, Lanes lift, Lanes flux, Lanes outside, Lanes outsideK, Lanes p, Lanes t, Lanes v, Lanes least, Lanes cp, Lanes dt)
    {
        var open = wide * Vector256.Max(lift - cut, Lanes.Zero);
        var flow = (leak + open) * flux * dt;
        var isOpen = Vector256.GreaterThan(open, Lanes.Zero);
        if (isOpen.AsInt64() != Vector256<long>.Zero)
        {
            var up = Vector256.ConditionalSelect(Vector256.GreaterThan(flow, Lanes.Zero), outsideK, t);
            // γ = cp/cv.
            var most = Vector256.Abs(outside - p) * v * (cp - All(R)) / (cp * All(R) * up);
            flow = Vector256.ConditionalSelect(isOpen, Vector256.Min(Vector256.Max(flow, -most), most), flow);
        }
        return Vector256.Max(flow, least);
    }

    private void LeakAcross(int a, int b, Lanes area, Lanes dt)
    {
        var flow = area * Flux(pressure[b], root[b], pressure[a], root[a]) * dt;
        flow = Vector256.Min(Vector256.Max(flow, All(-0.3) * mass[a]), All(0.3) * mass[b]);
        var up = Vector256.ConditionalSelect(Vector256.GreaterThan(flow, Lanes.Zero), temperature[b], temperature[a]);
        var carried = flow * (HeatCapacity(up) + All(R)) * up;
        flowKg[a] += flow;
        flowJ[a] += carried;
        flowKg[b] -= flow;
        flowJ[b] -= carried;
    }

    // The check valve in the tip of the hose: one way, and only over what opens it.
    private void FillAtTip(Lanes dt)
    {
        var held = GaugePa + opensPa;
        var flow = Vector256.Min(TipM2 * Vector256.Max(-Flux(held, rootTa, pressure[0], root[0]), Lanes.Zero) * dt, All(0.3) * mass[0]);
        gaugeKg += flow;
        flowKg[0] -= flow;
        flowJ[0] -= flow * (HeatCapacity(temperature[0]) + All(R)) * temperature[0];
    }

    // The check valve in the gauge's head: the hose breathes with the cylinder.
    private void FillThroughHose(Lanes dt)
    {
        var (p, t) = (pressure[0], temperature[0]);
        var cp = HeatCapacity(t) + All(R);
        var hosePa = hoseKg * All(R) * ta / hoseM3;
        var flow = hoseM2 * Flux(hosePa, rootTa, p, root[0]) * dt;
        var up = Vector256.ConditionalSelect(Vector256.GreaterThan(flow, Lanes.Zero), ta, t);
        // Until both have one pressure.
        var most = Vector256.Abs(hosePa - p) / (cp / (cp - All(R)) * All(R) * up / volume[0] + All(R) * ta / hoseM3);
        flow = Vector256.Min(Vector256.Max(flow, -most), most);
        flow = Vector256.Max(flow, All(-0.3) * mass[0]);
        hoseKg -= flow;
        flowKg[0] += flow;
        flowJ[0] += flow * cp * up;
        hosePa = hoseKg * All(R) * ta / hoseM3;
        var gaugePa = GaugePa;
        var isHead = Vector256.GreaterThan(hoseM2, Lanes.Zero);
        var on = checkM2 * Vector256.Max(-Flux(gaugePa + opensPa, rootTa, hosePa, rootTa), Lanes.Zero) * dt;
        on = Vector256.Min(on, Vector256.Max((hosePa - gaugePa) * headM3 / (All(2 * R) * ta), Lanes.Zero));
        on = Vector256.ConditionalSelect(isHead, on, Lanes.Zero);
        gaugeKg += on;
        hoseKg -= on;
    }

    // Books the flows, lets heat through the walls and takes the other half of the change of volume.
    private void Finish(int i, Lanes dt, Lanes pistonSpeed)
    {
        var (t, v) = (temperature[i], volume[i]);
        var cv = HeatCapacity(t);
        var m = mass[i] + flowKg[i];
        t = Vector256.Max((mass[i] * cv * t + flowJ[i]) / (m * cv), All(150));
        // h = C·(S·p)^0.8·T^−0.4·V^−0.06 with p = m·R·T/V: two logarithms do.
        var x = pistonSpeed * m * All(R * 1e-5);
        var h = heat * Exp(All(0.4) * Log(x * x * t) - All(0.86) * Log(v));
        var area = All(2) * ap + All(4) * Vector256.Max(v - clearance[i], Lanes.Zero) / bore;
        t = wall + (t - wall) * Exp(-h * area * dt / (m * cv));
        t *= PowNearOne(v / nextVolume[i], All(R) / cv);
        (volume[i], temperature[i], mass[i]) = (nextVolume[i], t, m);
        pressure[i] = m * All(R) * t / nextVolume[i];
    }
}
