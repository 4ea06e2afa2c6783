using Zandrik.Core.Records;

namespace Zandrik.Core.Repairs;

/// <summary>What the owner's side of a decision is: all of it may be absent.</summary>
public sealed record DecisionInputs
{
    /// <summary>Longest text of <see cref="Wishes"/>, characters.</summary>
    public const int LongestWishes = 400;

    /// <summary>The largest sum that is taken for one, in any currency.</summary>
    public const double MostMoney = 1e9;

    /// <summary>Nothing known.</summary>
    public static DecisionInputs None { get; } = new();

    /// <summary>What the vehicle is worth, in the shop's currency.</summary>
    public double? Worth { get; init; }

    /// <summary>What a day without it costs its owner, in the shop's currency.</summary>
    public double? DayRate { get; init; }

    /// <summary>How far it goes in a year, km.</summary>
    public double? KmAYear { get; init; }

    /// <summary>How long it must still last, years (unit: a).</summary>
    public double? YearsToLast { get; init; }

    /// <summary>What the owner wishes, in their words.</summary>
    public string? Wishes { get; init; }

    /// <summary>What is wrong with them, field by field.</summary>
    /// <returns>Problems; empty for none.</returns>
    public IReadOnlyList<FieldProblem> Problems()
    {
        var found = new List<FieldProblem>();
        void Within(string field, double? value, double least, double most, string says)
        {
            if (value is { } v && !(v >= least && v <= most))
            {
                found.Add(new FieldProblem("/" + field, says));
            }
        }
        Within("worth", Worth, 0, MostMoney, "Write what the vehicle is worth, 0 or more, or leave it empty.");
        Within("dayRate", DayRate, 0, MostMoney, "Write what a day without it costs, 0 or more, or leave it empty.");
        Within("kmAYear", KmAYear, 0, 1_000_000, "Write kilometres a year, 0 to 1 000 000, or leave it empty.");
        Within("yearsToLast", YearsToLast, 0, 50, "Write years, 0 to 50, or leave it empty.");
        if (Wishes?.Length > LongestWishes)
        {
            found.Add(new FieldProblem("/wishes", $"Shorten this to {LongestWishes} characters."));
        }
        return found;
    }
}
