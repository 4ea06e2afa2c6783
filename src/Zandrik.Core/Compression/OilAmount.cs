using System.Globalization;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;

namespace Zandrik.Core.Compression;

/// <summary>
/// How much oil goes into a cylinder for a wet test. Rule of the trade: about 10 ml per half-litre cylinder, never
/// over a sixth of the volume above the piston at top dead centre; on a diesel at most 3 ml.
/// </summary>
/// <param name="Ml">How much, ml.</param>
/// <param name="Says">Where the figure comes from, one sentence.</param>
/// <param name="Most">The most that may go in, ml: a sixth of the clearance volume, 3 ml on a diesel; absent when neither is known.</param>
public sealed record OilAmount(double Ml, string Says, double? Most)
{
    private const double MlPerCc = 10.0 / 500, ShareOfClearance = 1.0 / 6, MostInADiesel = 3;

    /// <summary>
    /// The limit above which the gauge stays off until the cylinder was spun open and wiped out, ml: <see cref="Most"/>, or
    /// the usual amount where the room above the piston is not known.
    /// </summary>
    public double LimitMl => Most ?? Ml;

    /// <summary>A limit as it is shown, ml: rounded down, so that what is shown always fits.</summary>
    /// <returns>ml with one decimal at most; without the unit.</returns>
    public static string Shown(double ml) => (Math.Floor(ml * 10 + 1e-9) / 10).ToString("0.#", CultureInfo.CurrentCulture);

    /// <summary>The amount for an engine.</summary>
    /// <returns>Usual and largest amount, ml, above 0.</returns>
    public static OilAmount For(EngineSheet engine)
    {
        var swept = CylinderVolume.SweptCc(engine);
        var clearance = CylinderVolume.ClearanceCc(engine);
        double? most = clearance * ShareOfClearance;
        if (engine.Fuel == Fuel.Diesel)
        {
            most = Math.Min(most ?? MostInADiesel, MostInADiesel);
        }
        var wanted = (swept ?? 500) * MlPerCc;
        var ml = Math.Round(Math.Min(wanted, most ?? wanted) * 2, MidpointRounding.ToZero) / 2;
        string Figure(double x, string format = "0.#") => x.ToString(format, CultureInfo.CurrentCulture);
        var says = engine.Fuel == Fuel.Diesel
            ? $"A diesel has hardly any room above the piston: {Shown(most!.Value)} ml at most."
            : (swept, clearance) switch
            {
                (null, _) => "About 10 ml for a half-litre cylinder; the sheet gives no displacement, so that is assumed.",
                ({ } v, null) => $"About 10 ml for each half litre, so for {Figure(v, "0")} cm³. The sheet gives no ratio: never more than a sixth of the room above the piston.",
                ({ } v, { } room) => wanted > most
                    ? $"A sixth of the {Figure(room, "0")} cm³ above the piston, which is less than the usual 10 ml for each half litre."
                    : $"About 10 ml for each half litre, so for {Figure(v, "0")} cm³; at most {Shown(most!.Value)} ml, a sixth of the room above the piston.",
            };
        return new OilAmount(ml, says, most);
    }
}
