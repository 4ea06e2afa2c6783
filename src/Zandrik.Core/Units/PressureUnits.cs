using UnitsNet;

namespace Zandrik.Core.Units;

/// <summary>
/// The one place where pressure units are turned into each other. Factors come from UnitsNet; they are
/// kept as plain numbers because a judgement converts dozens of readings at every keystroke.
/// </summary>
public static class PressureUnits
{
    private static readonly double[] PascalsPerUnit =
    [
        Pressure.FromPoundsForcePerSquareInch(1).Pascals,
        Pressure.FromBars(1).Pascals,
        Pressure.FromKilopascals(1).Pascals,
        Pressure.FromKilogramsForcePerSquareCentimeter(1).Pascals,
    ];

    /// <summary>Every unit, in the order a switch goes through them.</summary>
    public static IReadOnlyList<PressureUnit> All { get; } = Enum.GetValues<PressureUnit>();

    /// <summary>Pascals in one of the unit.</summary>
    /// <returns>Pa, above 0.</returns>
    public static double Pascals(this PressureUnit unit) => PascalsPerUnit[(int)unit];

    /// <summary>The unit as it is printed on a gauge.</summary>
    /// <returns>The symbol, as it is printed.</returns>
    public static string Symbol(this PressureUnit unit) => unit switch
    {
        PressureUnit.Psi => "psi",
        PressureUnit.Bar => "bar",
        PressureUnit.KPa => "kPa",
        _ => "kgf/cm²",
    };

    /// <summary>Decimals a converted reading is shown with: as fine as a workshop gauge can be read.</summary>
    /// <returns>0 or 1.</returns>
    public static int Decimals(this PressureUnit unit) => unit is PressureUnit.Psi or PressureUnit.KPa ? 0 : 1;

    /// <summary>The unit after this one when a technician cycles through them.</summary>
    /// <returns>The unit; the first after the last.</returns>
    public static PressureUnit Next(this PressureUnit unit) => All[((int)unit + 1) % All.Count];
}
