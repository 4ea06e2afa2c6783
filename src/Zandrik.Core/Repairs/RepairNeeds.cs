namespace Zandrik.Core.Repairs;

/// <summary>
/// What an engine needs, whichever of its cylinders need it: two suspects of one gasket are one repair, a valve and rings are two. A set of bits: what is of the whole engine, then top end, gasket
/// and bottom end of each bank.
/// </summary>
/// <param name="Bits">The set; 0 for an engine that needs nothing.</param>
public readonly record struct RepairNeeds(int Bits)
{
    /// <summary>Banks that are told apart.</summary>
    public const int MostBanks = 4;

    private const int First = 6, PerBank = 3;

    /// <summary>Nothing: it is sound, or only the test was not.</summary>
    public static RepairNeeds None { get; }

    /// <summary>Fuel to be run out of a cylinder, or of all.</summary>
    public static RepairNeeds Run { get; } = new(1);

    /// <summary>Deposits to be taken off.</summary>
    public static RepairNeeds Deposits { get; } = new(2);

    /// <summary>Cams to be set right.</summary>
    public static RepairNeeds Timing { get; } = new(4);

    /// <summary>The exhaust to be freed.</summary>
    public static RepairNeeds Exhaust { get; } = new(8);

    /// <summary>Coolant that goes another way than through a cylinder.</summary>
    public static RepairNeeds Cooling { get; } = new(16);

    /// <summary>Wear of the whole engine.</summary>
    public static RepairNeeds Wear { get; } = new(32);

    /// <summary>Valves, seats, guides or lobes of a bank, from 0.</summary>
    /// <returns>The need.</returns>
    public static RepairNeeds TopEnd(int bank) => new(1 << (First + PerBank * bank));

    /// <summary>The gasket of a bank, from 0, or a crack.</summary>
    /// <returns>The need.</returns>
    public static RepairNeeds Gasket(int bank) => new(2 << (First + PerBank * bank));

    /// <summary>Rings, bore, piston or rod of a bank, from 0.</summary>
    /// <returns>The need.</returns>
    public static RepairNeeds BottomEnd(int bank) => new(4 << (First + PerBank * bank));

    /// <summary>True where nothing is needed.</summary>
    public bool IsNone => Bits == 0;

    /// <summary>True where all of another set are among these.</summary>
    /// <returns>True for the empty set.</returns>
    public bool Has(RepairNeeds need) => (Bits & need.Bits) == need.Bits;

    /// <summary>Both together.</summary>
    public static RepairNeeds operator |(RepairNeeds a, RepairNeeds b) => new(a.Bits | b.Bits);

    /// <summary>The needs one by one; lowest first.</summary>
    /// <returns>Sets of one.</returns>
    public IEnumerable<RepairNeeds> Each()
    {
        for (var left = Bits; left != 0; left &= left - 1)
        {
            yield return new(left & -left);
        }
    }

    /// <summary>The work a single need asks for; wear asks for an overhaul.</summary>
    /// <returns>The work.</returns>
    /// <exception cref="InvalidOperationException">The set has none or several.</exception>
    public RepairWork Work()
    {
        if (Bits == 0 || (Bits & (Bits - 1)) != 0)
        {
            throw new InvalidOperationException("Only a single need has a work of its own.");
        }
        var place = System.Numerics.BitOperations.TrailingZeroCount(Bits);
        return place switch
        {
            0 => new(Repair.RunAndRetest),
            1 => new(Repair.CleanDeposits),
            2 => new(Repair.SetTiming),
            3 => new(Repair.ClearExhaust),
            4 => new(Repair.SealCooling),
            5 => new(Repair.Overhaul),
            _ => new(((place - First) % PerBank) switch { 0 => Repair.TopEnd, 1 => Repair.Gasket, _ => Repair.BottomEnd }, (place - First) / PerBank),
        };
    }
}
