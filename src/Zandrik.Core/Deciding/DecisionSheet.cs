using System.Globalization;
using Zandrik.Core.Assessment;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Repairs;

namespace Zandrik.Core.Deciding;

/// <summary>
/// What can be done about an engine, side by side: each option with what it takes, what it comes to on average, how likely it helps, and what stays unknown. Made of the same sum that ranks the tests, so
/// that the two cannot contradict each other.
/// </summary>
public sealed record DecisionSheet
{
    // An option is put in front where something it meets is needed at least so often; or where it is the cheapest.
    private const double MayBeNeeded = 0.05;

    // What waiting does is said of what is at least so likely needed.
    private const double WaitsFor = 0.3;

    // From this share of the vehicle's worth on the owner is told.
    private const double MuchOfWorth = 0.5;

    // What lies less apart comes to the same, minutes.
    private const double LeastSaid = 1;

    /// <summary>The options: those that fit, the cheapest on average first; those of them that are struck out; what hardly fits.</summary>
    public required IReadOnlyList<DecisionOption> Options { get; init; }

    /// <summary>What is best, in one sentence.</summary>
    public required string Headline { get; init; }

    /// <summary>What to measure before anything is decided; that no test would change it where that is so.</summary>
    public required string Before { get; init; }

    /// <summary>The test of <see cref="Before"/>; absent where none is worth its minutes.</summary>
    public NextStep? Test { get; init; }

    /// <summary>What repairs cost on the engine.</summary>
    public required RepairBook Book { get; init; }

    /// <summary>True where running on is not among them, whatever it costs.</summary>
    public bool MustNotRunOn { get; init; }

    /// <summary>The option that somebody chooses by its word; absent for none of them.</summary>
    /// <returns>The option.</returns>
    public DecisionOption? Of(string? word) => Options.FirstOrDefault(o => o.Word == word);

    /// <summary>Makes it.</summary>
    /// <param name="job">The job, judged.</param>
    /// <returns>The sheet; of a job on which nothing is measured too, from what is common.</returns>
    public static DecisionSheet Of(JobAssessment job)
    {
        var decision = job.Diagnosis.Decision;
        var inputs = job.Policy.Inputs;
        var banks = decision.Book.Banks.Count;
        var best = decision.Best;
        var runnerUp = decision.Options.Skip(1).FirstOrDefault();
        List<DecisionOption> options =
        [
            .. decision.Options.Select(o => Option(o, null)),
            .. decision.Struck.Select(s => Option(s.Option, s.Says)),
        ];
        // What is likely stands in front in its order; what nobody would do here is folded behind it.
        options = [.. options.Where(o => o.Struck is null && o.IsLikely), .. options.Where(o => o.Struck is not null && o.IsLikely), .. options.Where(o => !o.IsLikely)];
        var test = job.Next.FirstOrDefault(n => !n.IsSafety && n.SavesMinutes is not null) ?? job.Next.FirstOrDefault(n => !n.IsSafety);
        // What is cheapest on average opens nothing by itself: not while a test is asked for, and not where the judgement opens nothing.
        var opens = best.Option.Works.Any(w => w.IsOfBank || w.Repair is Repair.Overhaul or Repair.Exchange);
        var tooEarly = opens && (test is not null || !job.Diagnosis.Actions.Any(a => a.Action >= RepairAction.InspectTopEnd));
        return new()
        {
            Options = options, Book = decision.Book, Test = test, MustNotRunOn = decision.MustNotRunOn,
            Headline = best.Option.IsLeave && best.Cured > FaultWords.Said && decision.Needed[0].Needs.IsNone ? "Nothing has to be opened, as far as it was measured"
                : tooEarly ? $"Too early to open anything. Cheapest on average so far: {RepairWords.Doing(best.Option, banks)}"
                : $"Cheapest on average: {RepairWords.Doing(best.Option, banks)}",
            Before = test is { SavesMinutes: { } saves } ? $"Before you decide: one more test saves about {RepairWords.Time(saves)} on average."
                : test is not null ? "Before you decide: a test comes first by the rules of the trade." : "No further test would change what is best.",
        };

        DecisionOption Option(RatedOption o, string? struck)
        {
            var works = o.Option.Works;
            var isBest = ReferenceEquals(o, best);
            var total = o.Cost.Minutes + o.Cost.Parts + o.Cost.Machining;
            var km = works.Count == 0 ? 0 : works.Max(w => RepairText.Km(w.Repair));
            var likely = isBest || o.Option.IsLeave || works.All(w => Needs(decision, w) > MayBeNeeded) || (works.All(w => w.Repair is Repair.Overhaul or Repair.Exchange) && decision.Of(RepairNeeds.Wear) > MayBeNeeded);
            return new()
            {
                Word = RepairWords.Word(o.Option), Title = RepairWords.Title(o.Option, banks), Plain = RepairWords.Plain(o.Option), Does = works.Count == 0 ? RepairText.Does(Repair.Leave) : string.Join(" ", works.Select(w => RepairText.Does(w.Repair)).Distinct()),
                Minutes = o.Cost.Minutes, Parts = o.Cost.Parts, Machining = o.Cost.Machining, Days = o.Cost.Days, Expected = o.Expected, Cured = o.Cured,
                Why = struck is not null ? $"This shop does not do it: {struck}" : Why(o, isBest),
                Unknown = [.. works.SelectMany(w => RepairText.Unknown(w.Repair)).Distinct()], Measure = [.. works.SelectMany(w => RepairText.Measure(w.Repair)).Distinct()],
                Buys = km == 0 ? null : Buys(km), Waiting = o.Option.IsLeave ? RepairText.Waiting(Worst()) : null,
                Notes = [.. Notes(total.Likely, km)], Struck = struck, IsBest = isBest, IsLikely = likely, Option = o.Option,
            };
        }

        string Why(RatedOption o, bool isBest)
        {
            var percent = FaultWords.Percent(o.Cured);
            if (isBest)
            {
                return runnerUp is null ? "The only one." : runnerUp.Expected - o.Expected < LeastSaid ? "On average it comes to as much as the next."
                    : $"On average {RepairWords.Time(runnerUp.Expected - o.Expected)} of work cheaper than the next.";
            }
            var dearer = o.Expected - best.Expected < LeastSaid ? "On average it comes to as much" : $"On average {RepairWords.Time(o.Expected - best.Expected)} of work dearer";
            return o.Option.IsLeave ? $"{dearer}: what is wrong stays wrong, and costs more later."
                : o.Cured < 0.5 ? $"{dearer}: right afterwards in only {percent} of such cases; in the others the right repair comes on top."
                : o.Cured > best.Cured + 0.05 ? $"{dearer}, but surer: right afterwards in {percent} of such cases."
                : $"{dearer}: it does more than is likely needed.";
        }

        string Buys(double km)
        {
            var distance = km.ToString("#,0", CultureInfo.InvariantCulture).Replace(',', ' ');
            return inputs.KmAYear is > 0 and var year ? string.Create(CultureInfo.InvariantCulture, $"About {distance} km by rule of thumb: {km / year:0.#} years at {year:0} km a year.") : $"About {distance} km by rule of thumb.";
        }

        IEnumerable<string> Notes(double likelyMinutes, double km)
        {
            if (inputs.Worth is > 0 and var worth && decision.Book.Money(likelyMinutes) is { } money && money > MuchOfWorth * worth)
            {
                yield return string.Create(CultureInfo.InvariantCulture, $"{100 * money / worth:0} % of what the vehicle is worth.");
            }
            if (km > 0 && inputs is { KmAYear: > 0 and var year, YearsToLast: { } years } && km / year < years)
            {
                yield return string.Create(CultureInfo.InvariantCulture, $"By rule of thumb shorter than the {years:0.#} years it must last.");
            }
        }

        // What gets worse first of what may well be needed.
        RepairNeeds Worst() => decision.Needed.SelectMany(s => s.Needs.Each()).Distinct().Where(n => decision.Of(n) > WaitsFor).OrderByDescending(n => decision.Of(n)).FirstOrDefault();
    }

    private static double Needs(RepairDecision decision, RepairWork work) => Enumerable.Range(0, 6 + 3 * RepairNeeds.MostBanks).Select(bit => new RepairNeeds(1 << bit)).Where(n => Meets(work, n.Work())).Sum(decision.Of);

    private static bool Meets(RepairWork work, RepairWork needed) => (work.Repair, needed.Repair) switch
    {
        (Repair.AdjustValves, Repair.TopEnd) or (Repair.FreeRings, Repair.BottomEnd) => true,
        (Repair.Overhaul or Repair.Exchange, Repair.Overhaul or Repair.BottomEnd) => true,
        (Repair.BottomEnd, Repair.Overhaul) => true,
        _ => work == needed,
    };
}
