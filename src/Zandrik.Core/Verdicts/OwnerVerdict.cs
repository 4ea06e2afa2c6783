using Zandrik.Core.Diagnosis;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;

namespace Zandrik.Core.Verdicts;

/// <summary>What a verdict means, for the owner of the vehicle: no abbreviation, no part named that the answer does not name, and as sure as it is.</summary>
public static class OwnerVerdict
{
    /// <summary>A few plain sentences.</summary>
    /// <param name="answers">What is said of the engine and its cylinders.</param>
    /// <param name="overruled">True where the people of the shop say other than the program.</param>
    /// <param name="state">How the program judges the engine; only a sound one is told to have nothing.</param>
    /// <returns>The sentences; never empty.</returns>
    public static string Of(IReadOnlyList<VerdictAnswer> answers, bool overruled, EngineState state = EngineState.Sound)
    {
        var bad = answers.Where(a => !a.IsNothing).ToList();
        if (bad.Count == 0)
        {
            return answers.Count < 2 || (!overruled && state is EngineState.Inconclusive or EngineState.Faulty) ? "It is too early to say what that means."
                : !overruled && state == EngineState.Watch ? "No fault is certain; it should be measured again after some time." : "Nothing we measured points to a fault inside the engine.";
        }
        var says = new List<string>();
        var named = bad.Where(a => overruled || a.Probability > FaultWords.Said).ToList();
        // One gasket is one sentence, as sure as of the cylinder it is least sure of.
        double HowLikely(VerdictAnswer a) => a.Fault == Fault.GasketAdjacent ? named.Where(n => n.Fault == a.Fault).Min(n => n.Probability!.Value) : a.Probability!.Value;
        // What is apart from the cylinders comes after them.
        foreach (var group in named.GroupBy(a => (a.Fault, OfEngine: a.Cylinder is null, Sure: overruled ? "" : FaultWords.HowSure(HowLikely(a)))).OrderBy(g => g.Key.Fault == Fault.OilControl))
        {
            var cylinders = group.Select(a => a.Cylinder).OfType<int>().Order().ToList();
            var gasket = group.Key.Fault == Fault.GasketAdjacent;
            var where = cylinders.Count == 0 ? "" : $" {(gasket ? "between" : group.Key.Fault == Fault.GasketCoolant ? "at" : "in")} cylinder{(cylinders.Count > 1 ? "s" : "")} {CylinderList.Sentence(cylinders)}{(gasket && cylinders.Count == 1 ? " and its neighbour" : "")}";
            var who = overruled ? "Our technician's conclusion" : $"This {group.Key.Sure} means";
            says.Add($"{who}: {(group.Key.Fault == Fault.OilControl && bad.Exists(a => a.Cylinder is not null) ? "oil also gets past its seals, which is a matter apart from the cylinders" : Plain(group.Key.Fault))}{where}.");
        }
        var unsure = bad.Where(a => !overruled && a.Probability <= FaultWords.Said).Select(a => a.Cylinder).OfType<int>().Order().ToList();
        if (unsure.Count > 0)
        {
            says.Add($"Why cylinder{(unsure.Count > 1 ? "s" : "")} {CylinderList.Sentence(unsure)} {(unsure.Count > 1 ? "read" : "reads")} as {(unsure.Count > 1 ? "they do" : "it does")} cannot be said yet: more has to be measured before anything is opened.");
        }
        return says.Count > 0 ? string.Join(" ", says) : "What that means cannot be said yet: more has to be measured before anything is opened.";
    }

    private static string Plain(Fault fault) => fault switch
    {
        Fault.Rings => "the piston rings or the cylinder wall no longer seal",
        Fault.Piston => "the piston is holed or broken",
        Fault.IntakeValve => "an intake valve does not close tightly",
        Fault.ExhaustValve => "an exhaust valve does not close tightly",
        Fault.GasketAdjacent => "the head gasket is burnt through",
        Fault.GasketCoolant => "the head gasket or a crack lets gas into the cooling system",
        Fault.IntakeNotOpening => "too little air gets past an intake valve that hardly opens",
        Fault.ExhaustNotOpening => "an exhaust valve does not open, so burnt gas cannot leave",
        Fault.ShortStroke => "the piston does not come up as far as it should, as with a bent rod",
        Fault.FuelWashed => "fuel has washed the oil off the cylinder walls; this can pass after a run",
        Fault.Carbon => "deposits fill part of the room above the piston",
        Fault.TestError => "the way of testing explains these figures, so they have to be taken again before anything is decided",
        Fault.CoolantPathElsewhere => "coolant is lost by another way than through a cylinder",
        Fault.CamTiming => "the valves open and close at the wrong time",
        Fault.GeneralWear => "the engine is worn all round",
        Fault.ExhaustRestriction => "the exhaust is partly blocked",
        Fault.OilControl => "oil gets past its seals while the cylinders themselves hold",
        _ => "nothing",
    };
}
