using Zandrik.Core.Records;
using Zandrik.Core.Shops;

namespace Zandrik.Core.Compression;

/// <summary>Whether a wet test may be done on an engine, and how much it says there.</summary>
public static class WetRules
{
    /// <summary>Inclination from upright above which oil does not reach the whole ring, degrees.</summary>
    public const double SlantedDeg = 45;

    /// <summary>How long the oil is left to spread before the spin, s.</summary>
    public const int SoakSeconds = 60;

    /// <summary>Why no wet test is done on this engine in this shop; absent where it may be.</summary>
    /// <returns>One sentence that says why; null where it may be done.</returns>
    public static string? Forbids(EngineSheet engine, ShopSettings shop) =>
        shop.Wet == WetMethod.Never ? "This shop does no wet test."
        : engine.Spec?.WetAllowed == false ? "The sheet of this engine forbids a wet test."
        : engine.Fuel == Fuel.Diesel && engine.Spec?.WetAllowed != true ? "A diesel is tested wet only where its sheet allows it, and this one does not say so."
        : null;

    /// <summary>True where oil does not reach the whole ring, so that a gain says less: a flat or well slanted engine.</summary>
    /// <returns>False where the sheet says nothing of layout and slant.</returns>
    public static bool IsWeak(EngineSheet engine) => engine.Layout == CylinderArrangement.Flat || engine.InclinationDeg >= SlantedDeg;

    /// <summary>
    /// The cylinders worth oiling, worst first, each with its reason: those that are low, dead or under watch, and
    /// one sound one, which shows what oil alone does. None without a dry reading that counts.
    /// </summary>
    /// <returns>Cylinders with their reasons, worst first; empty without a dry reading that counts.</returns>
    public static IReadOnlyList<(int Cylinder, string Why)> Suggest(DryJudgement dry)
    {
        var odd = dry.InDoubt.OrderByDescending(c => c.State).ThenBy(c => c.LevelPa).Select(c => (c.Cylinder, c.Says)).ToList();
        if (odd.Count == 0)
        {
            return [];
        }
        var sound = dry.Cylinders.Where(c => c is { State: CylinderState.Sound, LevelPa: not null }).OrderByDescending(c => c.LevelPa).FirstOrDefault();
        return sound is null ? odd : [.. odd, (sound.Cylinder, "Sound: shows what oil does to a cylinder that needs none.")];
    }
}
