using Zandrik.Core.Records;

namespace Zandrik.Core.Plugs;

/// <summary>What a sign on a plug is called at the bench, and what it points to (shop practice). A sign is a hint, never a verdict.</summary>
/// <param name="Name">What it is called.</param>
/// <param name="PointsTo">What it points to, in a few words.</param>
public readonly record struct PlugSignMeaning(string Name, string PointsTo)
{
    /// <summary>The meaning of a sign.</summary>
    /// <returns>What it is called and what it points to; every sign has one.</returns>
    public static PlugSignMeaning Of(PlugSign sign) => sign switch
    {
        PlugSign.Normal => new("normal", "dry and tan"),
        PlugSign.OilWet => new("oil-wet", "rings, stem seals or guides"),
        PlugSign.FuelWet => new("fuel-wet", "no spark, flooded, or it does not compress"),
        PlugSign.CoolantWet => new("coolant-wet", "coolant gets in: no running test, look for liquid"),
        PlugSign.WetUnknown => new("wet, liquid unknown", "counts as liquid until you say what it is: nothing is cranked with plugs in"),
        PlugSign.CoolantCleaned => new("washed clean (coolant)", "coolant burns in it"),
        PlugSign.DrySoot => new("dry soot", "rich, or weak ignition"),
        PlugSign.Flashover => new("flashover track", "the spark ran down outside"),
        _ => new("broken", "porcelain missing: where is the rest?"),
    };

    /// <summary>What keeps signs from standing together on one plug; absent when nothing does.</summary>
    /// <returns>One sentence; null when they go together.</returns>
    public static string? Contradiction(IReadOnlyCollection<PlugSign> signs) =>
        signs.Contains(PlugSign.Normal) && signs.Count > 1 ? "Normal goes with no other sign: take one of them away." : null;
}
