using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Verdicts;

/// <summary>One thing that was found when an engine was open, beside what had been said of it before.</summary>
/// <param name="Found">What was found.</param>
/// <param name="Program">What Zandrik had in front; absent where no verdict was signed before.</param>
/// <param name="People">What the people had signed; absent likewise.</param>
/// <param name="Given">How likely Zandrik had held what was found, 0 to 1; absent likewise.</param>
public sealed record Outcome(VerdictAnswer Found, VerdictAnswer? Program, VerdictAnswer? People, double? Given);

/// <summary>How often a fault was found, and how often it had been said.</summary>
/// <param name="Fault">What was found.</param>
/// <param name="OfEngine">True for a cause of the whole engine.</param>
/// <param name="Found">How often it was found with a verdict signed before.</param>
/// <param name="ProgramRight">How often Zandrik had it in front.</param>
/// <param name="PeopleRight">How often the people had signed it.</param>
/// <param name="MeanGiven">Mean of the probability Zandrik had given it.</param>
/// <param name="ProgramSaid">What Zandrik had in front, with how often, most often first.</param>
/// <param name="PeopleSaid">What the people had signed, likewise.</param>
public sealed record OutcomeLine(Fault Fault, bool OfEngine, int Found, int ProgramRight, int PeopleRight, double MeanGiven, IReadOnlyList<(Fault Said, int Times)> ProgramSaid, IReadOnlyList<(Fault Said, int Times)> PeopleSaid)
{
    /// <summary>From so many on, a shop's own rate is set beside the base rate.</summary>
    public const int Enough = 30;

    /// <summary>The share of this among all faults found in cylinders, 0 to 1; absent for too few of it, or for the engine.</summary>
    public double? OwnShare { get; init; }

    /// <summary>The share it has in the base rates: petrol and diesel as this shop has them.</summary>
    public double? BaseShare { get; init; }
}

/// <summary>
/// How often Zandrik and the people of a shop were right: what was found against what had been signed before the engine was open. A cylinder counts only when somebody wrote down what was found in
/// it. Base rates are set beside the shop's own, never changed by them.
/// </summary>
/// <param name="Lines">Fault by fault, cylinders first.</param>
/// <param name="Unsaid">How much was found without a verdict before it.</param>
public sealed record ShopOutcomes(IReadOnlyList<OutcomeLine> Lines, int Unsaid)
{
    /// <summary>Sums outcomes up.</summary>
    /// <param name="outcomes">What was found, with what was said.</param>
    /// <param name="dieselShare">The share of diesels among the engines of these outcomes, 0 to 1.</param>
    /// <returns>Counts and shares; zero of everything for none.</returns>
    public static ShopOutcomes Of(IReadOnlyCollection<Outcome> outcomes, double dieselShare = 0)
    {
        var said = outcomes.Where(o => o.Program is not null && o.People is not null).ToList();
        double Base(Fault fault) => dieselShare * FaultOdds.Of(fault, diesel: true) + (1 - dieselShare) * FaultOdds.Of(fault, diesel: false);
        var allBase = VerdictAnswer.OfCylinder.Where(IsFault).Sum(Base);
        var faults = said.Count(o => o.Found.Cylinder is not null && IsFault(o.Found.Fault));
        return new ShopOutcomes([.. said.GroupBy(o => (OfEngine: o.Found.Cylinder is null, o.Found.Fault)).OrderBy(g => g.Key.OfEngine).ThenByDescending(g => g.Count()).ThenBy(g => g.Key.Fault).Select(g =>
        {
            var own = !g.Key.OfEngine && IsFault(g.Key.Fault) && g.Count() >= OutcomeLine.Enough;
            return new OutcomeLine(g.Key.Fault, g.Key.OfEngine, g.Count(), g.Count(o => o.Program!.Agrees(o.Found)), g.Count(o => o.People!.Agrees(o.Found)), g.Average(o => o.Given ?? 0), Said(g.Select(o => o.Program!)), Said(g.Select(o => o.People!)))
            {
                OwnShare = own ? (double)g.Count() / faults : null,
                BaseShare = own ? Base(g.Key.Fault) / allBase : null,
            };
        })], outcomes.Count - said.Count);
    }

    private static bool IsFault(Fault fault) => fault is not (Fault.Sound or Fault.TestError);

    private static IReadOnlyList<(Fault, int)> Said(IEnumerable<VerdictAnswer> answers) =>
        [.. answers.GroupBy(a => a.Fault).OrderByDescending(g => g.Count()).ThenBy(g => g.Key).Select(g => (g.Key, g.Count()))];
}
