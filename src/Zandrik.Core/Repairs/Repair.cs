namespace Zandrik.Core.Repairs;

/// <summary>What can be done about an engine, least invasive first.</summary>
public enum Repair
{
    /// <summary>Nothing: run on and watch.</summary>
    Leave,

    /// <summary>Run it, clear it, test again.</summary>
    RunAndRetest,

    /// <summary>Valve clearances set, tested again.</summary>
    AdjustValves,

    /// <summary>Stuck rings soaked, run and tested again.</summary>
    FreeRings,

    /// <summary>Coolers, cap, hoses, heated intake.</summary>
    SealCooling,

    /// <summary>The exhaust freed.</summary>
    ClearExhaust,

    /// <summary>Deposits taken off.</summary>
    CleanDeposits,

    /// <summary>Cams to their marks.</summary>
    SetTiming,

    /// <summary>Head of one bank off: gasket, both faces measured.</summary>
    Gasket,

    /// <summary>Head of one bank off: valves, seats, guides, lobes.</summary>
    TopEnd,

    /// <summary>Head and sump off: rings and hone, piston, rod of one bank.</summary>
    BottomEnd,

    /// <summary>Engine out, everything inside.</summary>
    Overhaul,

    /// <summary>Another engine.</summary>
    Exchange,
}

/// <summary>A piece of work.</summary>
/// <param name="Repair">What is done.</param>
/// <param name="Bank">The bank, from 0, where a head comes off; 0 for what is not of one bank.</param>
public readonly record struct RepairWork(Repair Repair, int Bank = 0)
{
    /// <summary>True for work behind the head of one bank.</summary>
    public bool IsOfBank => Repair is Repair.Gasket or Repair.TopEnd or Repair.BottomEnd;
}
