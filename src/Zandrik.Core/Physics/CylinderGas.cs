
namespace Zandrik.Core.Physics;

/// <summary>
/// The air in one cylinder, stepped along the crank: half a step of volume, every flow at the volume half way, wall heat, the other half. Equations and order of section 2 and 3 of
/// docs/simulation.md; SI units.
/// </summary>
internal sealed class CylinderGas
{
    private const double R = 287.05;

    // C_h of the model times 130: it also stands for crevices, so it is no pure heat coefficient.
    private const double HeatFactor = 2.2 * 130;

    private double flowKg;
    private double flowJ;

    public double VolumeM3 { get; private set; }

    public double PressurePa { get; private set; }

    public double TemperatureK { get; private set; }

    public double MassKg { get; private set; }

    /// <summary>Fills the cylinder.</summary>
    public void Start(double volumeM3, double pressurePa, double temperatureK) =>
        (VolumeM3, PressurePa, TemperatureK, MassKg) = (volumeM3, pressurePa, temperatureK, pressurePa * volumeM3 / (R * temperatureK));

    /// <summary>First half of a step's change of volume.</summary>
    public void GoHalfWay(double volumeAtEndM3)
    {
        var half = (VolumeM3 + volumeAtEndM3) / 2;
        TemperatureK *= Power(VolumeM3 / half, R / Cv(TemperatureK));
        (VolumeM3, PressurePa) = (half, MassKg * R * TemperatureK / half);
        (flowKg, flowJ) = (0, 0);
    }

    /// <summary>Flow through an opening to a space; answers the mass that came in, kg.</summary>
    /// <param name="areaM2">Effective area.</param>
    /// <param name="outsidePa">Pressure there.</param>
    /// <param name="outsideK">Temperature of what comes from there.</param>
    /// <param name="dt">The step, s.</param>
    /// <param name="open">True for an open valve, through which the pressures may become equal within the step but not cross.</param>
    public double Exchange(double areaM2, double outsidePa, double outsideK, double dt, bool open)
    {
        var flow = Flow(areaM2, outsidePa, outsideK, PressurePa, TemperatureK) * dt;
        var up = flow > 0 ? outsideK : TemperatureK;
        if (open)
        {
            var most = Math.Abs(outsidePa - PressurePa) * VolumeM3 / ((1 + R / Cv(TemperatureK)) * R * up);
            flow = Math.Clamp(flow, -most, most);
        }
        flow = Math.Max(flow, -0.4 * MassKg);
        flowKg += flow;
        flowJ += flow * (Cv(TemperatureK) + R) * up;
        return flow;
    }

    /// <summary>Flow through a gasket to a neighbour, booked on both sides.</summary>
    public void ExchangeWith(CylinderGas other, double areaM2, double dt)
    {
        var flow = Flow(areaM2, other.PressurePa, other.TemperatureK, PressurePa, TemperatureK) * dt;
        flow = Math.Clamp(flow, -0.3 * MassKg, 0.3 * other.MassKg);
        var heat = flow * (Cv(TemperatureK) + R) * (flow > 0 ? other.TemperatureK : TemperatureK);
        flowKg += flow;
        flowJ += heat;
        other.flowKg -= flow;
        other.flowJ -= heat;
    }

    /// <summary>Books the flows, lets heat through the walls and takes the other half of the change of volume.</summary>
    public void Finish(double volumeAtEndM3, double wallK, double pistonMPerS, double pistonM2, double boreM, double clearanceM3, double dt)
    {
        var cv = Cv(TemperatureK);
        var energy = MassKg * cv * TemperatureK + flowJ;
        MassKg += flowKg;
        TemperatureK = Math.Max(150, energy / (MassKg * cv));
        var p = MassKg * R * TemperatureK / VolumeM3;
        var h = HeatFactor * Power((pistonMPerS + 1.4) * p * 1e-5, 0.8) * Power(TemperatureK, -0.4) * Power(VolumeM3, -0.06);
        var area = 2 * pistonM2 + 4 * Math.Max(VolumeM3 - clearanceM3, 0) / boreM;
        TemperatureK = wallK + (TemperatureK - wallK) * Math.Exp(-h * area * dt / (MassKg * cv));
        TemperatureK *= Power(VolumeM3 / volumeAtEndM3, R / cv);
        (VolumeM3, PressurePa) = (volumeAtEndM3, MassKg * R * TemperatureK / volumeAtEndM3);
    }

    /// <summary>Volume of a cylinder, m³, at an angle from its firing top dead centre.</summary>
    /// <param name="phi">The angle, rad.</param>
    /// <param name="clearanceM3">Volume at top dead centre.</param>
    /// <param name="pistonM2">Area of the piston.</param>
    /// <param name="r">Half the stroke, m.</param>
    /// <param name="l">Length of the rod, m.</param>
    public static double Volume(double phi, double clearanceM3, double pistonM2, double r, double l)
    {
        var s = r * Math.Sin(phi);
        return clearanceM3 + pistonM2 * (r + l - r * Math.Cos(phi) - Math.Sqrt(l * l - s * s));
    }

    /// <summary>How far the piston goes per radian of the crank, m.</summary>
    public static double Lever(double phi, double r, double l)
    {
        var (sin, cos) = Math.SinCos(phi);
        return r * sin + r * r * sin * cos / Math.Sqrt(l * l - r * r * sin * sin);
    }

    /// <summary>Heat capacity of air at constant volume, J/(kg·K).</summary>
    public static double Cv(double k) => Math.Max(700, 718 + 0.17 * (k - 300));

    /// <summary>Mass flow through an orifice from the first space to the second, kg/s; negative the other way.</summary>
    public static double Flow(double areaM2, double p1, double t1, double p2, double t2)
    {
        if (areaM2 <= 0)
        {
            return 0;
        }
        return p1 >= p2 ? 0.68473 * areaM2 * p1 / Math.Sqrt(R * t1) * LeakFlow.Factor(p2 / p1) : -0.68473 * areaM2 * p2 / Math.Sqrt(R * t2) * LeakFlow.Factor(p1 / p2);
    }

    /// <summary>Mass of air in a space, kg.</summary>
    public static double Mass(double pa, double m3, double k) => pa * m3 / (R * k);

    /// <summary>Pressure of a mass of air in a space, Pa.</summary>
    public static double Pressure(double kg, double m3, double k) => kg * R * k / m3;

    private static double Power(double x, double y) => Math.Exp(y * Math.Log(x));
}
