using Zandrik.Core.Repairs;

namespace Zandrik.Core.Life;

/// <summary>Work that was done on an engine, and what it really took.</summary>
public sealed record RepairDone
{
    /// <summary>Most minutes of one repair, min: a thousand hours.</summary>
    public const double MostMinutes = 60_000;

    /// <summary>Longest remark, characters, no unit.</summary>
    public const int LongestRemark = 500;

    /// <summary>The word of what was done (<see cref="RepairWords.Word"/>).</summary>
    public required string Option { get; init; }

    /// <summary>The cylinders it touched; empty for all.</summary>
    public IReadOnlyList<int> Cylinders { get; init; } = [];

    /// <summary>Minutes of work it took; absent where nobody counted.</summary>
    public double? Minutes { get; init; }

    /// <summary>Whether it put the engine right; absent while nobody knows.</summary>
    public bool? WasRight { get; init; }

    /// <summary>What else is to say; absent for nothing.</summary>
    public string? Says { get; init; }

    /// <summary>What was done, as a heading begins with it.</summary>
    /// <param name="banks">Banks of the engine.</param>
    /// <returns>The words; the word itself where this version does not know it.</returns>
    public string Title(int banks) => RepairWords.Parse(Option) is { } option ? RepairWords.Title(option, banks) : Option;
}

/// <summary>A repair that was done, beside what had been planned.</summary>
/// <param name="Done">What was done.</param>
/// <param name="Planned">Minutes planned for it when it was decided; absent where nothing was, or something else.</param>
public sealed record RepairOutcome(RepairDone Done, Estimate? Planned);

/// <summary>How a repair went, over all of its kind in a shop.</summary>
/// <param name="Option">The word of the repair, its bank left out.</param>
/// <param name="Title">What it is called.</param>
/// <param name="Times">How often it was done.</param>
/// <param name="Right">How often it put the engine right.</param>
/// <param name="Wrong">How often it did not.</param>
/// <param name="Counted">How often its minutes were both planned and counted.</param>
/// <param name="PlannedMinutes">Minutes planned for those, on average; absent for none.</param>
/// <param name="TakenMinutes">Minutes they took, on average; absent for none.</param>
/// <param name="Within">How often it took no less than the low and no more than the high figure.</param>
public sealed record RepairLine(string Option, string Title, int Times, int Right, int Wrong, int Counted, double? PlannedMinutes, double? TakenMinutes, int Within)
{
    /// <summary>From so many on, a shop's own figure is worth putting in place of the rule's.</summary>
    public const int Enough = 5;

    /// <summary>What it took against what was planned, no unit: 1.2 is a fifth more. Absent for none.</summary>
    public double? Ratio => PlannedMinutes is > 0 and var planned && TakenMinutes is { } taken ? taken / planned : null;

    /// <summary>Sums repairs up, the most frequent first.</summary>
    /// <param name="outcomes">What was done.</param>
    /// <returns>A line for each kind; empty for none. Several works done at once are a kind of their own.</returns>
    public static IReadOnlyList<RepairLine> Of(IEnumerable<RepairOutcome> outcomes) => [.. outcomes.GroupBy(o => WithoutBank(o.Done.Option)).Select(kind =>
    {
        var counted = kind.Where(o => o is { Planned: not null, Done.Minutes: not null }).ToList();
        return new RepairLine(kind.Key, new RepairDone { Option = kind.Key }.Title(1), kind.Count(), kind.Count(o => o.Done.WasRight == true), kind.Count(o => o.Done.WasRight == false), counted.Count,
            counted.Count == 0 ? null : counted.Average(o => o.Planned!.Value.Mean), counted.Count == 0 ? null : counted.Average(o => o.Done.Minutes!.Value),
            counted.Count(o => o.Done.Minutes >= o.Planned!.Value.Low && o.Done.Minutes <= o.Planned.Value.High));
    }).OrderByDescending(l => l.Times).ThenBy(l => l.Option, StringComparer.Ordinal)];

    private static string WithoutBank(string word) => RepairWords.Parse(word) is { } option ? RepairWords.Word(new([.. option.Works.Select(w => w with { Bank = 0 }).Distinct()])) : word;
}
