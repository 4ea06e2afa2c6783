using System.Numerics.Tensors;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;

namespace Zandrik.Core.Diagnosis;

/// <summary>An option with what it comes to.</summary>
/// <param name="Option">What is done.</param>
/// <param name="Expected">What it comes to on average, comebacks and what is found on the way among it: minutes of work that cost as much.</param>
/// <param name="Cured">How likely it puts the engine right at once, 0 to 1; for leaving it, how likely nothing is wrong.</param>
/// <param name="Cost">What it takes itself: minutes with access, parts, machining, days.</param>
public sealed record RatedOption(RepairOption Option, double Expected, double Cured, RepairCost Cost);

/// <summary>
/// What is best done with what is known, and what a test would save: one sum for the order of tests and for the page that decides, so that they cannot contradict each other. docs/deciding.md has the method.
/// </summary>
public sealed class RepairDecision
{
    // Sets of repairs rarer than this decide nothing, and options that nobody would think of are not weighed.
    private const double Rare = 3e-4, Thinkable = 0.01;
    private const int SetsAsOptions = 4;

    /// <summary>How many sets of repairs are weighed: together with every answer of every cylinder.</summary>
    internal const int MostSets = 40;

    // Coolant in a cylinder, and timing that jumped, are never run on with.
    private const double NeverRunOn = 0.1, TimingNeverRunOn = 0.25;

    private readonly RepairOdds odds;
    private readonly (RepairNeeds Needs, double Probability)[] sets;
    private readonly double[] loss;
    private readonly double[] joint;
    private readonly RepairOption[] options;
    private readonly double[] expected;
    private readonly CureTable cures;
    private readonly RepairBook book;
    private readonly bool runsBadly;
    private readonly IReadOnlyDictionary<Repair, string> struck;

    private RepairDecision(JobEvidence job, RepairOdds odds, RepairBook book, bool locked, IReadOnlyDictionary<Repair, string> struck)
    {
        (this.odds, this.book, this.struck) = (odds, book, struck);
        runsBadly = job.Seen.Overlaps(NextTests.BadRunning);
        cures = Cures(job, odds);
        sets = [.. odds.Sets.Take(MostSets).Where(s => s.Probability > Rare)];
        var all = sets.Sum(s => s.Probability);
        sets = [.. sets.Select(s => (s.Needs, s.Probability / all))];
        // Of what is weighed: in one cylinder or another, as far as sets tell them apart.
        MustNotRunOn = locked || CoolantInside / all > NeverRunOn || odds.Of(RepairNeeds.Timing) > TimingNeverRunOn;
        var thought = Thought(job).ToList();
        bool IsStruck(RepairOption o) => o.Works.Any(w => struck.ContainsKey(w.Repair));
        options = [.. thought.Where(o => !IsStruck(o))];
        options = options.Length > 0 ? options : [RepairOption.Leave];
        loss = Losses(cures, options, out var cured);
        expected = [.. options.Select((_, a) => Sum(a, loss))];
        joint = new double[sets.Length * odds.Cylinders * Posterior.Answers];
        for (var m = 0; m < sets.Length; m++)
        {
            for (var i = 0; i < odds.Cylinders; i++)
            {
                var with = odds.With(sets[m].Needs, i);
                for (var f = 0; f < Posterior.Answers; f++)
                {
                    joint[(m * odds.Cylinders + i) * Posterior.Answers + f] = with[f] / all;
                }
            }
        }
        // What is forbidden is still weighed for what a test would save, as it may not be after it; it is never offered.
        Options = [.. options.Select((o, a) => new RatedOption(o, expected[a], Sum(a, cured), book.Cost(o.Works))).Where(o => !o.Option.IsLeave || !MustNotRunOn).OrderBy(o => o.Expected).ThenBy(o => o.Option.Works.Count)];
        RepairOption[] away = [.. thought.Where(IsStruck)];
        var (lossAway, curedAway) = (Losses(cures, away, out var curedThere, asIfDone: true), curedThere);
        Struck = [.. away.Select((o, a) => (new RatedOption(o, Sum(a, lossAway), Sum(a, curedAway), book.Cost(o.Works)), struck[o.Works.First(w => struck.ContainsKey(w.Repair)).Repair]))];
        Perfect = expected.Min() - Enumerable.Range(0, sets.Length).Sum(m => sets[m].Probability * Enumerable.Range(0, options.Length).Min(a => loss[a * sets.Length + m]));
    }

    /// <summary>Every option that is thought of, the cheapest on average first.</summary>
    public IReadOnlyList<RatedOption> Options { get; }

    /// <summary>What the shop does not do on this engine, with its reason: weighed, and never chosen.</summary>
    public IReadOnlyList<(RatedOption Option, string Says)> Struck { get; }

    /// <summary>The cheapest on average.</summary>
    public RatedOption Best => Options[0];

    /// <summary>The cheapest on average with what is forbidden until more is known among it: what tests are weighed against.</summary>
    internal RepairOption Cheapest => options[Array.IndexOf(expected, expected.Min())];

    /// <summary>Sets of repairs that may be needed with their probabilities, most likely first; they sum to 1.</summary>
    public IReadOnlyList<(RepairNeeds Needs, double Probability)> Needed => sets;

    /// <summary>True where running on is not offered at any price: coolant may be in a cylinder, liquid, or the timing jumped.</summary>
    public bool MustNotRunOn { get; }

    /// <summary>What everything costs.</summary>
    public RepairBook Book => book;

    /// <summary>What knowing everything would save, minutes of work: no test is worth more.</summary>
    public double Perfect { get; }

    /// <summary>The repair that is likeliest needed, with its probability: nothing among them.</summary>
    public (RepairNeeds Needs, double Probability) Leading => sets[0];

    /// <summary>How likely a single need is among what is needed, 0 to 1.</summary>
    /// <returns>0 to 1.</returns>
    public double Of(RepairNeeds need) => odds.Of(need);

    /// <summary>Decides.</summary>
    internal static RepairDecision Of(JobEvidence job, RepairOdds odds, RepairBook book, bool locked, IReadOnlyDictionary<Repair, string>? struck = null) =>
        new(job, odds, book, locked, struck ?? new Dictionary<Repair, string>());

    /// <summary>What reading a cylinder would save, minutes of work, its own minutes not taken off: 0 or more.</summary>
    /// <param name="cylinder">The cylinder by index.</param>
    /// <param name="outcomes">The probability of each cell of the outcome under each answer, answer after answer.</param>
    internal double Saves(int cylinder, ReadOnlySpan<double> outcomes)
    {
        var cells = outcomes.Length / Posterior.Answers;
        var costs = Costs(cylinder, outcomes);
        double after = 0;
        for (var j = 0; j < cells; j++)
        {
            var best = double.PositiveInfinity;
            for (var a = 0; a < options.Length; a++)
            {
                best = Math.Min(best, costs[a * cells + j]);
            }
            after += best;
        }
        return Math.Max(0, TensorPrimitives.Min<double>(expected) - after);
    }

    // What each option comes to in each cell of an outcome, times how likely that cell is; option after option.
    private double[] Costs(int cylinder, ReadOnlySpan<double> outcomes)
    {
        var cells = outcomes.Length / Posterior.Answers;
        var found = new double[options.Length * cells];
        Span<double> byAnswer = stackalloc double[Posterior.Answers];
        for (var a = 0; a < options.Length; a++)
        {
            byAnswer.Clear();
            for (var m = 0; m < sets.Length; m++)
            {
                TensorPrimitives.MultiplyAdd(Joint(m, cylinder), loss[a * sets.Length + m], byAnswer, byAnswer);
            }
            Over(byAnswer, outcomes, found.AsSpan(a * cells, cells));
        }
        return found;
    }

    // Answers with their weights, over the cells of an outcome.
    private static void Over(ReadOnlySpan<double> answers, ReadOnlySpan<double> outcomes, Span<double> found)
    {
        for (var f = 0; f < answers.Length; f++)
        {
            TensorPrimitives.MultiplyAdd(outcomes.Slice(f * found.Length, found.Length), answers[f], found, found);
        }
    }

    private ReadOnlySpan<double> Joint(int set, int cylinder) => joint.AsSpan((set * odds.Cylinders + cylinder) * Posterior.Answers, Posterior.Answers);

    /// <summary>
    /// What reading several cylinders together would save: none of them alone may change what is done where all of them do. Each outcome is taken only for the repair it speaks for most, so that this is no more
    /// than it saves; and cylinders know of each other through what the engine needs.
    /// </summary>
    /// <param name="cylinders">Up to four cylinders by index, with what each would show under each answer (<see cref="TestOutcomes.Shows"/>).</param>
    internal double Saves(IReadOnlyList<(int Cylinder, double[] Shows)> cylinders)
    {
        var speaks = cylinders.Select(c => SpeaksFor(c.Cylinder, c.Shows)).ToList();
        var ways = 1;
        foreach (var s in speaks)
        {
            ways *= s.Length / sets.Length;
        }
        Span<double> weight = stackalloc double[sets.Length];
        double after = 0;
        for (var way = 0; way < ways; way++)
        {
            for (var m = 0; m < sets.Length; m++)
            {
                weight[m] = sets[m].Probability;
            }
            var left = way;
            foreach (var s in speaks)
            {
                var kinds = s.Length / sets.Length;
                for (var m = 0; m < sets.Length; m++)
                {
                    weight[m] *= s[m * kinds + left % kinds];
                }
                left /= kinds;
            }
            var best = double.PositiveInfinity;
            for (var a = 0; a < options.Length; a++)
            {
                best = Math.Min(best, TensorPrimitives.Dot<double>(weight, loss.AsSpan(a * sets.Length, sets.Length)));
            }
            after += best;
        }
        return Math.Max(0, expected.Min() - after);
    }

    // The chance, where each set is needed, that a cylinder's outcome speaks for each kind of repair.
    private double[] SpeaksFor(int cylinder, double[] shows)
    {
        var cells = shows.Length / Posterior.Answers;
        Span<double> before = stackalloc double[RepairKinds.Count], at = stackalloc double[RepairKinds.Count];
        before.Clear();
        var answers = new double[Posterior.Answers];
        for (var m = 0; m < sets.Length; m++)
        {
            TensorPrimitives.Add(answers, Joint(m, cylinder), answers);
        }
        for (var f = 0; f < answers.Length; f++)
        {
            before[TestOutcomes.KindOf(f)] += answers[f];
        }
        // By set: how likely it is together with each cell.
        var of = new double[sets.Length * cells];
        for (var m = 0; m < sets.Length; m++)
        {
            Over(Joint(m, cylinder), shows, of.AsSpan(m * cells, cells));
        }
        var found = new double[sets.Length * RepairKinds.Count];
        for (var j = 0; j < cells; j++)
        {
            at.Clear();
            for (var f = 0; f < answers.Length; f++)
            {
                at[TestOutcomes.KindOf(f)] += answers[f] * shows[f * cells + j];
            }
            for (var k = 0; k < at.Length; k++)
            {
                // Halfway between what is likeliest now and what gained most: one that leads already would hide what speaks against it.
                at[k] = before[k] > 0 ? at[k] / Math.Sqrt(before[k]) : 0;
            }
            var kind = TensorPrimitives.IndexOfMax<double>(at);
            for (var m = 0; m < sets.Length; m++)
            {
                found[m * RepairKinds.Count + kind] += of[m * cells + j] / sets[m].Probability;
            }
        }
        return found;
    }

    /// <summary>What is done instead of the cheapest where a reading of a cylinder says so: the likeliest such; absent where hardly anything else would be.</summary>
    internal RepairOption? Instead(int cylinder, ReadOnlySpan<double> outcomes)
    {
        const double seldom = 0.03;
        var cells = outcomes.Length / Posterior.Answers;
        var costs = Costs(cylinder, outcomes);
        Span<double> answers = stackalloc double[Posterior.Answers];
        answers.Clear();
        for (var m = 0; m < sets.Length; m++)
        {
            TensorPrimitives.Add(answers, Joint(m, cylinder), answers);
        }
        Span<double> likely = stackalloc double[cells], chosen = stackalloc double[options.Length];
        likely.Clear();
        chosen.Clear();
        Over(answers, outcomes, likely);
        for (var j = 0; j < cells; j++)
        {
            var best = 0;
            for (var a = 1; a < options.Length; a++)
            {
                best = costs[a * cells + j] < costs[best * cells + j] ? a : best;
            }
            chosen[best] += likely[j];
        }
        chosen[TensorPrimitives.IndexOfMin<double>(expected)] = 0;
        var most = TensorPrimitives.IndexOfMax<double>(chosen);
        return chosen[most] > seldom ? options[most] : null;
    }

    /// <summary>What a test of the whole engine with two outcomes would save.</summary>
    /// <param name="shows">The probability of the first outcome where a set is needed; its place among <see cref="Needed"/>.</param>
    internal double Saves(Func<RepairNeeds, int, double> shows) => Saves(shows, loss, loss);

    /// <summary>What looking at clearances of a cylinder would save, where they can be set: what is found then decides whether setting them helps.</summary>
    /// <param name="cylinder">The cylinder by index.</param>
    internal double SavesByClearance(int cylinder)
    {
        if (cures.ByClearance == 0)
        {
            return 0;
        }
        // Out of its limits where a valve suffers from it; seldom where none does.
        const double foundThen = 0.9, foundAnyway = 0.06;
        double Shows(RepairNeeds _, int m)
        {
            var with = Joint(m, cylinder);
            var valves = with[ExhaustValve] + with[IntakeValve] + with[IntakeNotOpening] + with[ExhaustNotOpening];
            return foundAnyway + (foundThen - foundAnyway) * Math.Min(1, valves / sets[m].Probability) * cures.ByClearance;
        }
        return Saves(Shows, Losses(cures with { ByClearance = 0.85 }, options, out _), Losses(cures with { ByClearance = 0.06 }, options, out _));
    }

    /// <summary>How likely coolant is among the reasons of a set that needs a gasket: what no burnt web explains.</summary>
    internal double CoolantOf(int set)
    {
        double webs = 0;
        for (var i = 0; i < odds.Cylinders; i++)
        {
            webs += joint[(set * odds.Cylinders + i) * Posterior.Answers + Posterior.Front];
        }
        return Math.Clamp(1 - webs / sets[set].Probability, 0, 1);
    }

    private static readonly int IntakeValve = Posterior.IndexOf(Fault.IntakeValve), ExhaustValve = Posterior.IndexOf(Fault.ExhaustValve), IntakeNotOpening = Posterior.IndexOf(Fault.IntakeNotOpening),
        ExhaustNotOpening = Posterior.IndexOf(Fault.ExhaustNotOpening), Coolant = Posterior.IndexOf(Fault.GasketCoolant), Rings = Posterior.IndexOf(Fault.Rings), Piston = Posterior.IndexOf(Fault.Piston), ShortStroke = Posterior.IndexOf(Fault.ShortStroke);

    private double CoolantInside => sets.Sum(s => Enumerable.Range(0, odds.Cylinders).Select(i => odds.With(s.Needs, i)[Coolant]).DefaultIfEmpty(0).Max());

    private double Saves(Func<RepairNeeds, int, double> shows, double[] lossThen, double[] lossElse)
    {
        double then = double.PositiveInfinity, otherwise = double.PositiveInfinity;
        for (var a = 0; a < options.Length; a++)
        {
            double x = 0, y = 0;
            for (var m = 0; m < sets.Length; m++)
            {
                var p = shows(sets[m].Needs, m);
                x += sets[m].Probability * p * lossThen[a * sets.Length + m];
                y += sets[m].Probability * (1 - p) * lossElse[a * sets.Length + m];
            }
            (then, otherwise) = (Math.Min(then, x), Math.Min(otherwise, y));
        }
        return Math.Max(0, expected.Min() - then - otherwise);
    }

    private double Sum(int option, double[] of)
    {
        double all = 0;
        for (var m = 0; m < sets.Length; m++)
        {
            all += sets[m].Probability * of[option * sets.Length + m];
        }
        return all;
    }

    private double[] Losses(CureTable with, RepairOption[] of, out double[] cured, bool asIfDone = false)
    {
        var losses = new RepairLoss(book, with, runsBadly, asIfDone ? [] : struck.Keys);
        var found = new double[of.Length * sets.Length];
        cured = new double[found.Length];
        for (var a = 0; a < of.Length; a++)
        {
            for (var m = 0; m < sets.Length; m++)
            {
                (found[a * sets.Length + m], cured[a * sets.Length + m]) = losses.Of(of[a], sets[m].Needs);
            }
        }
        return found;
    }

    // What could be done about what may be needed: each piece of work by itself, the likeliest sets met exactly, everything, another engine; and nothing, where nothing forbids it.
    private IEnumerable<RepairOption> Thought(JobEvidence job)
    {
        bool May(RepairNeeds need) => odds.Of(need) > Thinkable;
        var banks = book.Banks.Count;
        IEnumerable<RepairOption> All()
        {
            yield return RepairOption.Leave;
            foreach (var need in new[] { RepairNeeds.Run, RepairNeeds.Cooling, RepairNeeds.Exhaust, RepairNeeds.Deposits, RepairNeeds.Timing }.Where(May))
            {
                yield return RepairOption.Meeting(need);
            }
            if (cures.ByClearance > 0 && Enumerable.Range(0, banks).Any(b => May(RepairNeeds.TopEnd(b))))
            {
                yield return RepairOption.Of(Repair.AdjustValves);
            }
            if (Enumerable.Range(0, banks).Any(b => May(RepairNeeds.BottomEnd(b))) && cures.ByFreeing > CureTable.FreedOtherwise / 2)
            {
                yield return RepairOption.Of(Repair.FreeRings);
            }
            for (var b = 0; b < banks; b++)
            {
                foreach (var need in new[] { RepairNeeds.Gasket(b), RepairNeeds.TopEnd(b), RepairNeeds.BottomEnd(b) }.Where(May))
                {
                    yield return RepairOption.Meeting(need);
                }
            }
            if (May(RepairNeeds.Wear))
            {
                yield return new([.. Enumerable.Range(0, banks).Select(b => new RepairWork(Repair.BottomEnd, b))]);
            }
            foreach (var (needs, _) in sets.Take(SetsAsOptions).Where(s => !s.Needs.IsNone))
            {
                yield return RepairOption.Meeting(needs);
            }
            if (!sets[0].Needs.IsNone || sets[0].Probability < 0.97)
            {
                yield return RepairOption.Of(Repair.Overhaul);
                yield return RepairOption.Of(Repair.Exchange);
            }
        }
        var found = All().Distinct().ToList();
        return found.Count > 0 ? found : [RepairOption.Of(Repair.Exchange)];
    }

    // What of the valves can be set, and of the rings come free: by what is suspected of them.
    private static CureTable Cures(JobEvidence job, RepairOdds odds)
    {
        double leaking = 1e-9, opening = 1e-9, rings = 1e-9, solid = 1e-9;
        foreach (var (needs, _) in odds.Sets.Take(MostSets))
        {
            for (var i = 0; i < odds.Cylinders; i++)
            {
                var with = odds.With(needs, i);
                leaking += with[IntakeValve] + with[ExhaustValve];
                opening += with[IntakeNotOpening] + with[ExhaustNotOpening];
                rings += with[Rings];
                solid += with[Piston] + with[ShortStroke];
            }
        }
        // A lobe or follower that is worn is not set; clearance alone keeps few valves shut.
        const double opened = 0.2;
        var set = job.ValvesAreFixed ? 0 : (CureTable.ClearanceOfValves * leaking + opened * opening) / (leaking + opening);
        return new(set, (job.Seen.Contains(Observation.StoodLong) ? CureTable.FreedAfterStanding : CureTable.FreedOtherwise) * rings / (rings + solid), Math.Min(job.Banks.Count, RepairNeeds.MostBanks));
    }
}
