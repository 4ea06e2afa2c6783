using Zandrik.Core.AirPaths;
using Zandrik.Core.Simulation;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>
/// The sliders of the what-if: areas on a scale where each step is the same factor, from a hundredth of a square millimetre to fifty, 0 for none. Whatever is sent is brought into its range: a slider has no
/// wrong place.
/// </summary>
public sealed class AirSliders
{
    /// <summary>Places of a slider.</summary>
    public const int Most = 400;

    private const double LeastMm2 = 0.01, MostMm2 = 50;

    /// <summary>The least and the most area of a slider, mm², as the page's script is told them.</summary>
    public static string Range => string.Create(System.Globalization.CultureInfo.InvariantCulture, $"{LeastMm2} {MostMm2}");

    public int? Rings { get; set; }

    public int? Crown { get; set; }

    public int? Intake { get; set; }

    public int? Exhaust { get; set; }

    public int? Coolant { get; set; }

    /// <summary>To the neighbour nearer the front.</summary>
    public int? Before { get; set; }

    /// <summary>To the neighbour nearer the back.</summary>
    public int? Behind { get; set; }

    /// <summary>Percent open while cranking.</summary>
    public int? Throttle { get; set; }

    /// <summary>Percent of what a good battery gives.</summary>
    public int? Battery { get; set; }

    public bool Cold { get; set; }

    public int? Compressions { get; set; }

    /// <summary>True when somebody moved one.</summary>
    public bool IsSet => Rings is not null || Intake is not null || Exhaust is not null;

    /// <summary>The area of a place on a slider, mm².</summary>
    public static double Mm2(int place) => place <= 0 ? 0 : LeastMm2 * Math.Pow(MostMm2 / LeastMm2, Math.Min(place, Most) / (double)Most);

    /// <summary>The place nearest to an area.</summary>
    public static int PlaceOf(double mm2) => mm2 < LeastMm2 ? 0 : Math.Clamp((int)Math.Round(Most * Math.Log(mm2 / LeastMm2) / Math.Log(MostMm2 / LeastMm2)), 0, Most);

    /// <summary>Sliders at what was fitted.</summary>
    public static AirSliders Of(WhatIf fitted, IReadOnlyList<int> beside)
    {
        int At(LeakPlace path) => PlaceOf(fitted.Mm2.GetValueOrDefault(path));
        int? To(int i) => i < beside.Count ? PlaceOf(fitted.ToNeighbours.GetValueOrDefault(beside[i])) : null;
        return new() { Rings = At(LeakPlace.Rings), Crown = At(LeakPlace.Crown), Intake = At(LeakPlace.Intake), Exhaust = At(LeakPlace.Exhaust), Coolant = At(LeakPlace.Coolant), Before = To(0), Behind = To(1), Throttle = 100, Battery = 100, Compressions = fitted.Compressions };
    }

    /// <summary>The cylinder as it is set.</summary>
    public WhatIf Of(IReadOnlyList<int> beside) => new()
    {
        Mm2 = new Dictionary<LeakPlace, double>
        {
            [LeakPlace.Rings] = Mm2(Rings ?? 0), [LeakPlace.Crown] = Mm2(Crown ?? 0), [LeakPlace.Intake] = Mm2(Intake ?? 0), [LeakPlace.Exhaust] = Mm2(Exhaust ?? 0), [LeakPlace.Coolant] = Mm2(Coolant ?? 0),
        },
        ToNeighbours = beside.Select((n, i) => (n, Mm2: Mm2((i == 0 ? Before : Behind) ?? 0))).Where(n => n.Mm2 > 0).ToDictionary(n => n.n, n => n.Mm2),
        Throttle = Math.Clamp(Throttle ?? 100, 0, 100) / 100.0, WeakBattery = 1 - Math.Clamp(Battery ?? 100, 0, 100) / 100.0, Cold = Cold, Compressions = Math.Clamp(Compressions ?? 8, 1, 12),
    };
}
