using System.Globalization;

namespace Zandrik.Core.Units;

/// <summary>What came of a typed reading: a pressure, or what is wrong with it.</summary>
/// <param name="Pressure">The reading; absent when there is a problem.</param>
/// <param name="Problem">What to do about it, one sentence; absent when there is a reading.</param>
public readonly record struct PressureEntry(GaugePressure? Pressure, string? Problem)
{
    /// <summary>No gauge for this work reads more, bar: the limit of a reading that can be one.</summary>
    public const double HighestBar = 100;

    /// <summary>Whether a figure could be a reading at all: 0 to <see cref="HighestBar"/>.</summary>
    /// <returns>False for a figure below 0, above full scale, or none at all.</returns>
    public static bool IsPossible(double value, PressureUnit unit) =>
        double.IsFinite(value) && value >= 0 && value * unit.Pascals() <= HighestBar * PressureUnit.Bar.Pascals();

    /// <summary>
    /// Reads what a technician typed. A point or a comma separates decimals; blanks around are ignored.
    /// Zero is a reading (a dead cylinder), blank is not.
    /// </summary>
    /// <returns>The pressure, or one sentence that says what to do: exactly one of the two.</returns>
    public static PressureEntry Read(string? typed, PressureUnit unit)
    {
        var text = typed?.Trim() ?? "";
        if (text.Length == 0)
        {
            return Bad("Type the reading first. A cylinder that moves nothing is 0.");
        }
        if (text.Split([' ', '-', '–', '/'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries) is { Length: 2 } two && two.All(t => t.All(c => char.IsAsciiDigit(c) || c is '.' or ',')))
        {
            // A needle between two marks, or two readings in one line: never guessed.
            return Bad($"{two[0]} or {two[1]}? Type the one that counts.");
        }
        if (text.Length > 12
            || !double.TryParse(text.Replace(',', '.'), NumberStyles.AllowDecimalPoint | NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var value)
            || !double.IsFinite(value))
        {
            return Bad($"That is not a number. Type the gauge reading in {unit.Symbol()}, as in {GaugePressure.Figure(165 * PressureUnit.Psi.Pascals(), unit)}.");
        }
        if (value < 0)
        {
            return Bad("A compression reading cannot be below zero. If the needle rests below zero, set the gauge first.");
        }
        return IsPossible(value, unit)
            ? new PressureEntry(new GaugePressure(value, unit), null)
            : Bad($"Over {GaugePressure.Figure(HighestBar * PressureUnit.Bar.Pascals(), unit)} {unit.Symbol()} (100 bar) no cylinder reads. Check the figure, or switch the unit.");
    }

    private static PressureEntry Bad(string says) => new(null, says);
}
