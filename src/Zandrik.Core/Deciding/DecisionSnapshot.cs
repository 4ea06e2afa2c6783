using Zandrik.Core.Repairs;

namespace Zandrik.Core.Deciding;

/// <summary>An option as it stood when somebody chose.</summary>
public sealed record DecidedOption
{
    /// <summary>Its word.</summary>
    public required string Word { get; init; }

    /// <summary>What it is called.</summary>
    public required string Title { get; init; }

    /// <summary>What it is, for the owner.</summary>
    public required string Plain { get; init; }

    /// <summary>What is done.</summary>
    public required string Does { get; init; }

    /// <summary>Minutes of work, access among them.</summary>
    public required Estimate Minutes { get; init; }

    /// <summary>Work, parts and machining together, in minutes of work that cost as much.</summary>
    public required Estimate Total { get; init; }

    /// <summary>Days without the vehicle.</summary>
    public required Estimate Days { get; init; }

    /// <summary>What it comes to on average, minutes of work that cost as much.</summary>
    public required double Expected { get; init; }

    /// <summary>How likely it puts the engine right at once, 0 to 1.</summary>
    public required double Cured { get; init; }

    /// <summary>What nobody knows until it is open.</summary>
    public IReadOnlyList<string> Unknown { get; init; } = [];

    /// <summary>What is measured then.</summary>
    public IReadOnlyList<string> Measure { get; init; } = [];

    /// <summary>How far it is good for; absent where it buys nothing by itself.</summary>
    public string? Buys { get; init; }

    /// <summary>What waiting costs; absent for nothing to say.</summary>
    public string? Waiting { get; init; }

    /// <summary>Why the shop does not do it; absent where it does.</summary>
    public string? Struck { get; init; }

    /// <summary>True for the cheapest on average.</summary>
    public bool IsBest { get; init; }

    /// <summary>True for one that somebody may well choose.</summary>
    public bool IsLikely { get; init; }
}

/// <summary>What was decided, with what it was chosen from: kept as it stood, whatever is measured or priced later.</summary>
/// <param name="Chosen">The word of the option that was chosen.</param>
/// <param name="Options">What it was chosen from.</param>
/// <param name="Finding">What the readings said then, in one sentence.</param>
/// <param name="Inputs">What was known of the owner's side.</param>
/// <param name="Rate">The price of an hour (h) then; absent where there was none.</param>
/// <param name="Currency">Its currency.</param>
public sealed record DecisionSnapshot(string Chosen, IReadOnlyList<DecidedOption> Options, string Finding, DecisionInputs Inputs, double? Rate, string? Currency)
{
    /// <summary>The option that was chosen.</summary>
    public DecidedOption Choice => Options.First(o => o.Word == Chosen);

    /// <summary>The cheapest on average of them.</summary>
    public DecidedOption Best => Options.First(o => o.IsBest);

    /// <summary>Minutes in money of then; absent without a rate.</summary>
    /// <returns>The money, in <see cref="Currency"/>.</returns>
    public double? Money(double minutes) => Rate * minutes / 60;

    /// <summary>The two or three that an owner is shown: the one that was chosen, the cheapest, and one to hold them against, none twice.</summary>
    public IReadOnlyList<DecidedOption> ForOwner => [.. Options.Where(o => o.Word == Chosen).Concat(Options.Where(o => o.IsBest)).Concat(Options.Where(o => o is { Struck: null, IsLikely: true })).DistinctBy(o => o.Word).Take(3)];

    /// <summary>What is decided from a sheet.</summary>
    /// <param name="sheet">The sheet that is looked at.</param>
    /// <param name="chosen">The word of the option; one of the sheet's.</param>
    /// <param name="finding">What the readings say.</param>
    /// <param name="inputs">What is known of the owner's side.</param>
    /// <param name="currency">The shop's currency.</param>
    /// <returns>The decision as it is kept.</returns>
    /// <exception cref="ArgumentException">The sheet has no such option.</exception>
    public static DecisionSnapshot Of(DecisionSheet sheet, string chosen, string finding, DecisionInputs inputs, string? currency) => sheet.Of(chosen) is null
        ? throw new ArgumentException($"There is no option {chosen}.", nameof(chosen))
        : new(chosen, [.. sheet.Options.Select(o => new DecidedOption
        {
            Word = o.Word, Title = o.Title, Plain = o.Plain, Does = o.Does, Minutes = o.Minutes, Total = o.Total, Days = o.Days, Expected = o.Expected, Cured = o.Cured, Unknown = o.Unknown, Measure = o.Measure,
            Buys = o.Buys, Waiting = o.Waiting, Struck = o.Struck, IsBest = o.IsBest, IsLikely = o.IsLikely,
        })], finding, inputs, sheet.Book.Rate, sheet.Book.Rate is null ? null : currency);
}
