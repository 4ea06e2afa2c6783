namespace Zandrik.Core.Records;

/// <summary>One thing that has to be so before something is done.</summary>
/// <param name="Fact">A fact; with a bar between several one is enough, an exclamation mark before one means that it must not be so.</param>
/// <param name="Says">What to do where it is not so, one sentence.</param>
public sealed record GuardNeed(string Fact, string Says);

/// <summary>
/// A rule of a guard in words that a tablet can go by while no server answers: what has to be so before something is
/// done, and what is so afterwards. The guard itself decides again when the entry arrives.
/// </summary>
/// <param name="Needs">What has to be so; all of it.</param>
/// <param name="Makes">What is so afterwards, in this order; a minus before what is not so any more.</param>
public sealed record GuardRule(IReadOnlyList<GuardNeed> Needs, IReadOnlyList<string> Makes)
{
    /// <summary>Why it is refused; absent when it may be done.</summary>
    /// <param name="facts">What is so.</param>
    /// <returns>The sentence of the first need that is not met; null when all are.</returns>
    public string? Refuses(IReadOnlySet<string> facts) => Needs.FirstOrDefault(n => !Holds(n.Fact, facts))?.Says;

    /// <summary>What is so after it was done.</summary>
    /// <param name="facts">What was so.</param>
    /// <returns>A new set.</returns>
    public IReadOnlySet<string> After(IReadOnlySet<string> facts)
    {
        var after = new HashSet<string>(facts);
        foreach (var made in Makes)
        {
            _ = made[0] == '-' ? after.Remove(made[1..]) : after.Add(made);
        }
        return after;
    }

    /// <summary>The opposite of one fact.</summary>
    /// <param name="fact">One fact, or what must not be so.</param>
    /// <returns>What must not be so, or the fact.</returns>
    public static string Not(string fact) => fact[0] == '!' ? fact[1..] : "!" + fact;

    /// <summary>Whether a need is met.</summary>
    /// <param name="fact">As in <see cref="GuardNeed.Fact"/>.</param>
    /// <param name="facts">What is so.</param>
    /// <returns>True when it is.</returns>
    public static bool Holds(string fact, IReadOnlySet<string> facts) =>
        fact.Split('|').Any(f => f[0] == '!' ? !facts.Contains(f[1..]) : facts.Contains(f));
}
