using Zandrik.Core.Repairs;

namespace Zandrik.Core.Deciding;

/// <summary>An option as it is shown to whoever decides. Minutes of work that cost as much, where nothing else is said.</summary>
public sealed record DecisionOption
{
    /// <summary>Its word in addresses and documents.</summary>
    public required string Word { get; init; }

    /// <summary>What it is called.</summary>
    public required string Title { get; init; }

    /// <summary>What it is, for the owner.</summary>
    public required string Plain { get; init; }

    /// <summary>What is done, in a sentence or two.</summary>
    public required string Does { get; init; }

    /// <summary>Minutes of work, access there and back among them.</summary>
    public required Estimate Minutes { get; init; }

    /// <summary>Parts.</summary>
    public required Estimate Parts { get; init; }

    /// <summary>Machining by others.</summary>
    public required Estimate Machining { get; init; }

    /// <summary>Days without the vehicle.</summary>
    public required Estimate Days { get; init; }

    /// <summary>Work, parts and machining together; the owner's days are not in it.</summary>
    public Estimate Total => Minutes + Parts + Machining;

    /// <summary>What it comes to on average, minutes: comebacks, what is found on the way and the owner's days among it.</summary>
    public required double Expected { get; init; }

    /// <summary>How likely the engine is right afterwards, 0 to 1; for leaving it, how likely nothing is wrong.</summary>
    public required double Cured { get; init; }

    /// <summary>Why it stands where it stands.</summary>
    public required string Why { get; init; }

    /// <summary>What nobody knows until it is open.</summary>
    public IReadOnlyList<string> Unknown { get; init; } = [];

    /// <summary>What is measured then; limits are the maker's.</summary>
    public IReadOnlyList<string> Measure { get; init; } = [];

    /// <summary>How far it is good for, a rule of thumb, with the owner's years where those are known; absent for what buys nothing by itself.</summary>
    public string? Buys { get; init; }

    /// <summary>What waiting with it costs.</summary>
    public string? Waiting { get; init; }

    /// <summary>What else to think of: the worth of the vehicle, the years it must last.</summary>
    public IReadOnlyList<string> Notes { get; init; } = [];

    /// <summary>Why the shop does not do it; absent where it does.</summary>
    public string? Struck { get; init; }

    /// <summary>True for the cheapest on average.</summary>
    public bool IsBest { get; init; }

    /// <summary>True for one that somebody may well choose: it meets something that may be needed. The others are shown folded.</summary>
    public bool IsLikely { get; init; }

    /// <summary>The works, for whoever changes their figures.</summary>
    public required RepairOption Option { get; init; }
}
