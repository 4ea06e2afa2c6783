using System.Globalization;
using Zandrik.Core.Repairs;

namespace Zandrik.Web.Front;

/// <summary>What something costs, as the shop reads it: in its currency where it has a rate, else in hours of work that cost as much.</summary>
/// <param name="Rate">The price of an hour; absent for none.</param>
/// <param name="Currency">Its currency; absent where nobody said.</param>
public sealed record CostText(double? Rate, string? Currency)
{
    // Nobody estimates a repair to more figures than three.
    private const int Figures = 3;

    /// <summary>True where costs are in money.</summary>
    public bool IsMoney => Rate is > 0;

    /// <summary>A cost.</summary>
    /// <param name="minutes">Minutes of work that cost as much.</param>
    public string Of(double minutes) => IsMoney ? $"{Figure(minutes)}\u202F{Currency}".TrimEnd('\u202F') : RepairWords.Time(minutes);

    /// <summary>The same from low to high.</summary>
    /// <param name="minutes">Minutes of work that cost as much.</param>
    public string Range(Estimate minutes) => minutes.High <= 0 ? "–" : IsMoney ? $"{Figure(minutes.Low)} – {Figure(minutes.High)}\u202F{Currency}".TrimEnd('\u202F') : $"{RepairWords.Time(minutes.Low)} – {RepairWords.Time(minutes.High)}";

    /// <summary>Time from low to high.</summary>
    public static string Hours(Estimate minutes) => minutes.High <= 0 ? "–" : $"{RepairWords.Time(minutes.Low)} – {RepairWords.Time(minutes.High)}";

    /// <summary>Days from low to high; a dash for none.</summary>
    public static string Days(Estimate days) => days.High <= 0 ? "–" : $"{days.Low.ToString("0.#", CultureInfo.CurrentCulture)} – {days.High.ToString("0.#", CultureInfo.CurrentCulture)}";

    private string Figure(double minutes)
    {
        var money = minutes * Rate!.Value / 60;
        var step = money < 1 ? 0.01 : Math.Pow(10, Math.Max(0, Math.Floor(Math.Log10(money)) - Figures + 1));
        return (Math.Round(money / step) * step).ToString("#,0.##", Thin);
    }

    private static NumberFormatInfo Thin => new() { NumberGroupSeparator = "\u202F", NumberDecimalSeparator = CultureInfo.CurrentCulture.NumberFormat.NumberDecimalSeparator };
}
