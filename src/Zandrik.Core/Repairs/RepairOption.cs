namespace Zandrik.Core.Repairs;

/// <summary>Something that can be done as a whole: one piece of work or several together.</summary>
/// <param name="Works">The works; empty to leave the engine as it is.</param>
public sealed record RepairOption(IReadOnlyList<RepairWork> Works)
{
    /// <summary>Run on and watch.</summary>
    public static RepairOption Leave { get; } = new([]);

    /// <summary>One piece of work.</summary>
    /// <returns>The option.</returns>
    public static RepairOption Of(Repair repair, int bank = 0) => new([new(repair, bank)]);

    /// <summary>What exactly meets a set of needs, each by its own work. A head that is off for valves has its gasket renewed with it.</summary>
    /// <returns>The option; to leave it for no need.</returns>
    public static RepairOption Meeting(RepairNeeds needs)
    {
        var works = needs.Each().Select(n => n.Work()).ToList();
        works.RemoveAll(w => w.Repair == Repair.Gasket && works.Exists(o => o.Bank == w.Bank && o.Repair is Repair.TopEnd or Repair.BottomEnd));
        return new(works.Exists(w => w.Repair == Repair.Overhaul) ? [.. works.Where(w => !w.IsOfBank && w.Repair is not (Repair.SetTiming or Repair.CleanDeposits or Repair.RunAndRetest))] : works);
    }

    /// <summary>True where the engine is left as it is.</summary>
    public bool IsLeave => Works.Count == 0;

    /// <summary>True for an option with a work of this kind in it.</summary>
    /// <returns>True for any bank.</returns>
    public bool Has(Repair repair) => Works.Any(w => w.Repair == repair);

    /// <inheritdoc/>
    public bool Equals(RepairOption? other) => other is not null && Works.SequenceEqual(other.Works);

    /// <inheritdoc/>
    public override int GetHashCode() => Works.Aggregate(0, HashCode.Combine);
}
