using System.Globalization;

namespace Zandrik.Core.Units;

/// <summary>
/// A gauge pressure as it was read: the figure and the unit it was read in. It is never rewritten into
/// another unit, only shown in one, so switching units to and fro cannot make it drift.
/// </summary>
/// <param name="Value">The figure, in <paramref name="Unit"/>; finite.</param>
/// <param name="Unit">The unit on the gauge.</param>
public readonly record struct GaugePressure(double Value, PressureUnit Unit)
{
    /// <summary>A pressure as it is read off a gauge: rounded to what a gauge in that unit shows (<see cref="PressureUnits.Decimals"/>).</summary>
    /// <param name="pressurePa">The pressure, Pa gauge; finite.</param>
    /// <param name="unit">The unit on the gauge.</param>
    /// <returns>The reading.</returns>
    public static GaugePressure ReadOff(double pressurePa, PressureUnit unit) => new(Math.Round(pressurePa / unit.Pascals(), unit.Decimals(), MidpointRounding.AwayFromZero), unit);

    /// <summary>The pressure in Pa, gauge.</summary>
    public double Pascals => Value * Unit.Pascals();

    /// <summary>The pressure in another unit, unrounded; exactly <see cref="Value"/> in its own.</summary>
    /// <returns>The figure in that unit, gauge.</returns>
    public double In(PressureUnit unit) => unit == Unit ? Value : Pascals / unit.Pascals();

    /// <summary>
    /// The figure for people, without the unit: in its own unit as it was read, else rounded to what a
    /// gauge in that unit shows (<see cref="PressureUnits.Decimals"/>). Nobody reads a gauge to more than
    /// three decimals: a figure that has more was converted once, and is rounded too. The decimal mark is
    /// that of the current culture, as everywhere in figures for people: the server sets it to the shop's.
    /// </summary>
    /// <returns>The figure, without the unit.</returns>
    public string Text(PressureUnit unit) => unit == Unit && Math.Abs(Value - Math.Round(Value, 3)) < 1e-9
        ? Value.ToString(unit.Decimals() == 0 ? "0.###" : "0.0##", CultureInfo.CurrentCulture)
        : Figure(Pascals, unit);

    /// <summary>A pressure given in Pa as a figure for people, rounded to what a gauge in that unit shows.</summary>
    /// <returns>The figure, without the unit.</returns>
    public static string Figure(double pressurePa, PressureUnit unit) =>
        ReadOff(pressurePa, unit).Value.ToString(unit.Decimals() == 0 ? "0" : "0.0", CultureInfo.CurrentCulture);
}
