using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Verdicts;

/// <summary>What can hurt whoever does what a verdict advises. Rules of the trade; the maker's procedure comes first.</summary>
public static class OpeningCautions
{
    /// <summary>The cautions for what is to be done, each once.</summary>
    /// <param name="engine">The engine.</param>
    /// <param name="actions">What is advised.</param>
    /// <returns>The cautions in working order; empty where nothing is opened.</returns>
    public static IReadOnlyList<string> For(EngineSheet engine, IEnumerable<RepairAction> actions)
    {
        var found = new List<string>();
        var todo = actions.ToHashSet();
        bool Any(params RepairAction[] some) => todo.Overlaps(some);
        if (Any(RepairAction.AdjustValves, RepairAction.InspectTopEnd, RepairAction.CheckTiming, RepairAction.HeadOff, RepairAction.Overhaul, RepairAction.ExchangeEngine, RepairAction.FreeRings))
        {
            found.Add("Key out and starter disabled before a hand or a bar goes on the crank; the bar off before anything turns it.");
        }
        if (Any(RepairAction.HeadOff, RepairAction.CheckCooling, RepairAction.Overhaul, RepairAction.ExchangeEngine))
        {
            found.Add("Coolant is opened only cold.");
        }
        if (Any(RepairAction.HeadOff, RepairAction.Overhaul, RepairAction.ExchangeEngine, RepairAction.RunClearRetest))
        {
            found.Add(engine.Fuel switch
            {
                Fuel.Diesel => "Fuel lines and rail stay closed while they can hold pressure: a jet goes through skin. Release it by the maker's procedure.",
                Fuel.Lpg or Fuel.Cng => "Gas tank valve shut, the line run empty, ventilated; the gas side is for whoever is licensed for it.",
                _ => "Fuel pressure released before a line is opened; no flame and no spark near it.",
            });
        }
        if (Any(RepairAction.CheckExhaust, RepairAction.RunClearRetest))
        {
            found.Add("Exhaust hot and poisonous: extraction on, parking brake set, wheels chocked.");
        }
        if (Any(RepairAction.HeadOff, RepairAction.Overhaul, RepairAction.ExchangeEngine))
        {
            found.Add("Heads and engines are lifted with gear that is rated for them; nobody under the load.");
        }
        if (engine.IsHybrid && todo.Any(a => a is not (RepairAction.None or RepairAction.Watch)))
        {
            found.Add("On a hybrid the high-voltage side is for the maker's procedure and whoever is licensed for it: the engine may start by itself.");
        }
        found.Add("The maker's service information and local rules come first; a licensed technician decides.");
        return found;
    }
}
