namespace Zandrik.Core.Repairs;

/// <summary>A shop's own figure for a repair or a level of access, in place of the rule.</summary>
/// <param name="What">The word of a repair (<c>top-end</c>) or of a level of access (<c>access-head</c>).</param>
/// <param name="Minutes">Minutes of work, or for a level there and back; absent for the rule's.</param>
/// <param name="Parts">Parts, in the shop's currency; absent for the rule's.</param>
/// <param name="Machining">Machining by others, in the shop's currency; absent for the rule's.</param>
/// <param name="Days">Days the vehicle waits; absent for the rule's.</param>
public sealed record RepairFigure(string What, Estimate? Minutes = null, Estimate? Parts = null, Estimate? Machining = null, Estimate? Days = null);

/// <summary>What a repair takes beside its access.</summary>
/// <param name="Minutes">Minutes of work.</param>
/// <param name="Parts">Parts, in minutes of work that cost as much.</param>
/// <param name="Machining">Machining by others, likewise.</param>
/// <param name="Days">Days the vehicle waits.</param>
public readonly record struct RepairCost(Estimate Minutes, Estimate Parts, Estimate Machining, Estimate Days)
{
    /// <summary>Both together; waiting overlaps, so the longer wait counts.</summary>
    public static RepairCost operator +(RepairCost a, RepairCost b) =>
        new(a.Minutes + b.Minutes, a.Parts + b.Parts, a.Machining + b.Machining, new(Math.Max(a.Days.Low, b.Days.Low), Math.Max(a.Days.Likely, b.Days.Likely), Math.Max(a.Days.High, b.Days.High)));
}
