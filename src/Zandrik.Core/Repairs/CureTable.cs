namespace Zandrik.Core.Repairs;

/// <summary>How likely what is done meets what is needed. Rules of the trade, no unit; docs/deciding.md has the table with its reasons.</summary>
/// <param name="ByClearance">How likely leaking or hardly opening valves of this engine are put right by setting their clearance, 0 to 1; 0 where they cannot be set.</param>
/// <param name="ByFreeing">How likely worn or stuck rings of this engine come free by soaking and running, 0 to 1.</param>
/// <param name="Banks">Banks of the engine.</param>
public sealed record CureTable(double ByClearance, double ByFreeing, int Banks)
{
    /// <summary>What a leaking valve with solid lifters has of it, and rings of an engine that stood unused, and of any other.</summary>
    public const double ClearanceOfValves = 0.35, FreedAfterStanding = 0.3, FreedOtherwise = 0.05;

    /// <summary>How likely rings and hone in every bank put wear right: where the bores still allow it.</summary>
    public const double WearInFrame = 0.75;

    /// <summary>How likely an option meets one need.</summary>
    /// <param name="option">What is done.</param>
    /// <param name="need">A single need.</param>
    /// <returns>0 to 1; 0 where it does nothing for it.</returns>
    public double Of(RepairOption option, RepairNeeds need)
    {
        if (need == RepairNeeds.Wear && option.Works.Count(w => w.Repair == Repair.BottomEnd) is var banks and > 0 && banks == Banks)
        {
            return WearInFrame;
        }
        double best = 0;
        foreach (var work in option.Works)
        {
            best = Math.Max(best, Of(work, need));
        }
        return best;
    }

    /// <summary>What can be seen with this much off, and so is mended on the way: heads show valves, gasket and bores; the engine out shows all of it.</summary>
    /// <param name="access">What is off.</param>
    /// <param name="banks">Banks of the engine.</param>
    /// <returns>The needs that cannot stay hidden.</returns>
    public static RepairNeeds Seen(Access access, int banks)
    {
        var seen = RepairNeeds.None;
        for (var b = 0; b < banks; b++)
        {
            if (access.HasHead(b))
            {
                seen |= RepairNeeds.TopEnd(b) | RepairNeeds.Gasket(b) | RepairNeeds.BottomEnd(b) | RepairNeeds.Wear | RepairNeeds.Deposits;
            }
        }
        return access.HasFlag(Access.FrontCover) ? seen | RepairNeeds.Timing : seen;
    }

    private double Of(RepairWork work, RepairNeeds need)
    {
        if (need == RepairNeeds.Run)
        {
            // Whatever is repaired is run and tested again afterwards.
            return work.Repair == Repair.RunAndRetest ? 0.9 : work.Repair == Repair.Leave ? 0 : 0.8;
        }
        if (need == RepairNeeds.Deposits)
        {
            return work.Repair switch { Repair.CleanDeposits => 0.85, Repair.Gasket or Repair.TopEnd or Repair.BottomEnd => 0.95, Repair.Overhaul or Repair.Exchange => 0.98, _ => 0 };
        }
        if (need == RepairNeeds.Timing)
        {
            // A head comes off with its cam drive, and goes back to the marks; bent valves stay possible where only the drive was set.
            return work.Repair switch { Repair.SetTiming => 0.85, Repair.TopEnd or Repair.BottomEnd => 0.9, Repair.Gasket => 0.85, Repair.Overhaul or Repair.Exchange => 0.98, _ => 0 };
        }
        if (need == RepairNeeds.Exhaust)
        {
            return work.Repair == Repair.ClearExhaust ? 0.95 : 0;
        }
        if (need == RepairNeeds.Cooling)
        {
            return work.Repair == Repair.SealCooling ? 0.85 : 0;
        }
        if (need == RepairNeeds.Wear)
        {
            return work.Repair switch { Repair.Overhaul => 0.97, Repair.Exchange => 0.96, _ => 0 };
        }
        var needed = need.Work();
        var sameBank = work.IsOfBank && work.Bank == needed.Bank;
        return (work.Repair, needed.Repair) switch
        {
            (Repair.Overhaul, _) => 0.98,
            (Repair.Exchange, _) => 0.96,
            (Repair.AdjustValves, Repair.TopEnd) => ByClearance,
            (Repair.FreeRings, Repair.BottomEnd) => ByFreeing,
            (Repair.TopEnd, Repair.TopEnd) when sameBank => 0.96,
            (Repair.TopEnd, Repair.Gasket) when sameBank => 0.93,
            (Repair.Gasket, Repair.Gasket) when sameBank => 0.95,
            (Repair.BottomEnd, Repair.Gasket) when sameBank => 0.93,
            (Repair.BottomEnd, Repair.BottomEnd) when sameBank => 0.95,
            _ => 0,
        };
    }
}
