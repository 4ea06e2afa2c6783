namespace Zandrik.Core.Repairs;

/// <summary>What has to be off before work can begin. Levels nest: a head is behind its cover and the intake.</summary>
[Flags]
public enum Access
{
    /// <summary>Nothing.</summary>
    None = 0,

    /// <summary>The plugs.</summary>
    Plugs = 1,

    /// <summary>The intake manifold.</summary>
    Intake = 2,

    /// <summary>The front cover, over the drive of the cams.</summary>
    FrontCover = 4,

    /// <summary>The sump.</summary>
    Sump = 8,

    /// <summary>The engine itself.</summary>
    EngineOut = 16,

    /// <summary>The cover of the first bank; those of the others follow.</summary>
    Cover = 32,

    /// <summary>The head of the first bank; those of the others follow.</summary>
    Head = 32 << RepairNeeds.MostBanks,
}

/// <summary>Levels of access.</summary>
public static class AccessLevels
{
    /// <summary>The cover of a bank, from 0.</summary>
    /// <returns>The level.</returns>
    public static Access Cover(int bank) => (Access)((int)Access.Cover << bank);

    /// <summary>The head of a bank, from 0, with what stands before it.</summary>
    /// <returns>The levels.</returns>
    public static Access HeadOff(int bank) => (Access)((int)Access.Head << bank) | Cover(bank) | Access.Intake | Access.Plugs;

    /// <summary>True where the head of a bank, from 0, is among them.</summary>
    /// <returns>True where it is off.</returns>
    public static bool HasHead(this Access access, int bank) => access.HasFlag((Access)((int)Access.Head << bank));

    /// <summary>What a piece of work needs off.</summary>
    /// <param name="work">The work.</param>
    /// <param name="banks">Banks of the engine, 1 to 4.</param>
    /// <returns>All levels that come off.</returns>
    public static Access Of(RepairWork work, int banks)
    {
        Access Every(Func<int, Access> of) => Enumerable.Range(0, banks).Aggregate(Access.None, (all, b) => all | of(b));
        return work.Repair switch
        {
            Repair.RunAndRetest or Repair.FreeRings => Access.Plugs,
            Repair.AdjustValves => Every(Cover),
            Repair.CleanDeposits => Access.Intake,
            Repair.SetTiming => Access.FrontCover,
            Repair.Gasket or Repair.TopEnd => HeadOff(work.Bank),
            Repair.BottomEnd => HeadOff(work.Bank) | Access.Sump,
            Repair.Overhaul => Access.EngineOut | Access.Sump | Access.FrontCover | Every(HeadOff),
            Repair.Exchange => Access.EngineOut,
            _ => Access.None,
        };
    }
}
