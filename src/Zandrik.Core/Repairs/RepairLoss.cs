namespace Zandrik.Core.Repairs;

/// <summary>
/// What an option costs where an engine needs this or that: the work itself, what is found on the way in and mended with the access that is paid, the comeback where what was done does not meet what was
/// needed, and the harm of running on. In minutes of work that cost as much. docs/deciding.md, section 2.
/// </summary>
public sealed class RepairLoss
{
    private readonly RepairBook book;
    private readonly CureTable cures;
    // Ignition and fuel gone through for a fault that is in the engine.
    private const double SearchMinutes = 180;

    private readonly double comeback, onTheWay, search;
    private readonly HashSet<Repair> struck;
    private readonly Dictionary<(int Needs, Access Open), double> right = [];

    // Of the option asked for last, as one is asked for with every set after the other: what it takes, what is seen with it, and what is found then.
    private RepairOption? last;
    private (double Minutes, RepairNeeds Seen) opened;
    private readonly Dictionary<int, (RepairOption Done, double Minutes)> found = [];

    /// <summary>Of an engine.</summary>
    /// <param name="book">What everything costs.</param>
    /// <param name="cures">How likely it helps.</param>
    /// <param name="runsBadly">True where it is here because it runs badly: left alone, the reason is looked for where it is not.</param>
    /// <param name="struck">What the shop does not do: found on the way in, it goes elsewhere, as a comeback does.</param>
    public RepairLoss(RepairBook book, CureTable cures, bool runsBadly = false, IEnumerable<Repair>? struck = null)
    {
        (this.book, this.cures) = (book, cures);
        this.struck = [.. struck ?? []];
        search = runsBadly ? SearchMinutes : 0;
        comeback = RepairBook.ComebackMinutes + RepairBook.ComebackDays * book.DayMinutes;
        onTheWay = RepairBook.FoundOnTheWayMinutes + RepairBook.FoundOnTheWayDays * book.DayMinutes;
    }

    /// <summary>The cheapest that meets a set of needs, with what is off already not paid again.</summary>
    /// <param name="needs">The needs.</param>
    /// <param name="open">What is off already.</param>
    /// <returns>Minutes, 0 for no need.</returns>
    public double Right(RepairNeeds needs, Access open = Access.None)
    {
        if (needs.IsNone)
        {
            return 0;
        }
        if (!right.TryGetValue((needs.Bits, open), out var found))
        {
            var meeting = RepairOption.Meeting(needs);
            found = book.Whole(book.Cost(meeting.Works, open)).Mean;
            // What is not of the engine itself comes on top of an exchange too.
            var outside = RepairOption.Meeting(new(needs.Bits & (RepairNeeds.Exhaust | RepairNeeds.Cooling).Bits)).Works;
            found = Math.Min(found, book.Whole(book.Cost([new(Repair.Overhaul), .. outside], open)).Mean);
            found = Math.Min(found, book.Whole(book.Cost([new(Repair.Exchange), .. outside], open)).Mean);
            if (needs.Has(RepairNeeds.Wear))
            {
                // Rings and hone in every bank, in the frame: where the bores still allow it.
                IEnumerable<RepairWork> inFrame = [.. Enumerable.Range(0, book.Banks.Count).Select(b => new RepairWork(Repair.BottomEnd, b)), .. outside];
                found = Math.Min(found, book.Whole(book.Cost(inFrame, open)).Mean + (1 - CureTable.WearInFrame) * (comeback + found));
            }
            right[(needs.Bits, open)] = found;
        }
        return found;
    }

    /// <summary>What an option comes to where the engine needs a set.</summary>
    /// <param name="option">What is done.</param>
    /// <param name="needs">What is needed.</param>
    /// <returns>Expected minutes, 0 or more, and how likely it is put right at once, 0 to 1.</returns>
    public (double Minutes, double Cured) Of(RepairOption option, RepairNeeds needs)
    {
        if (option.IsLeave)
        {
            return (Left(needs), needs.IsNone ? 1 : 0);
        }
        if (!ReferenceEquals(option, last))
        {
            var heads = option.Works.Where(w => w.IsOfBank).Aggregate(Access.None, (all, w) => all | AccessLevels.HeadOff(w.Bank));
            (last, opened) = (option, (book.Whole(book.Cost(option.Works)).Mean, CureTable.Seen(heads, book.Banks.Count)));
            found.Clear();
        }
        // With a head off everybody sees what is wrong behind it, and does that instead of what was planned.
        var seen = new RepairNeeds(needs.Bits & opened.Seen.Bits);
        var (done, minutes) = opened.Seen.IsNone ? (option, opened.Minutes) : Found(option, seen);
        Span<(int Need, double Cured)> each = stackalloc (int, double)[32];
        var count = 0;
        for (var left = needs.Bits; left != 0; left &= left - 1)
        {
            var need = new RepairNeeds(left & -left);
            each[count++] = (need.Bits, cures.Of(done, need));
        }
        // Every way in which some of it was met and some not: what was not comes back.
        double back = 0, all = 1;
        for (var way = 0; way < 1 << count; way++)
        {
            double p = 1;
            var missed = 0;
            for (var k = 0; k < count && p > 0; k++)
            {
                var misses = (way >> k & 1) == 1;
                p *= misses ? 1 - each[k].Cured : each[k].Cured;
                missed |= misses ? each[k].Need : 0;
            }
            if (way == 0)
            {
                all = p;
            }
            else if (p > 0)
            {
                back += p * (comeback + Right(new(missed)));
            }
        }
        return (minutes + back, all);
    }

    // What is done with the heads of an option off and this much of the needs seen behind them, and what that takes.
    private (RepairOption Done, double Minutes) Found(RepairOption option, RepairNeeds seen)
    {
        if (!found.TryGetValue(seen.Bits, out var known))
        {
            IReadOnlyList<RepairWork> needed = [.. RepairOption.Meeting(seen).Works.Where(w => !struck.Contains(w.Repair))];
            // What has nothing to do with the heads is done as planned; a head that came off for nothing has its gasket renewed.
            // Rings and hone in every bank were planned, and the bores are worn as expected: that is done.
            var asPlanned = seen.Has(RepairNeeds.Wear) && cures.Of(option, RepairNeeds.Wear) > 0;
            needed = asPlanned ? [.. option.Works.Union(RepairOption.Meeting(new(seen.Bits & ~RepairNeeds.Wear.Bits)).Works)] : needed;
            var works = needed.Concat(option.Works.Where(w => !w.IsOfBank && !needed.Contains(w)))
                .Concat(option.Works.Where(w => w.IsOfBank && !needed.Any(n => n.IsOfBank && n.Bank == w.Bank)).Select(w => new RepairWork(Repair.Gasket, w.Bank)).Distinct()).ToList();
            var done = new RepairOption(works);
            var heads = option.Works.Where(w => w.IsOfBank).Aggregate(Access.None, (all, w) => all | AccessLevels.HeadOff(w.Bank));
            var exactly = book.Whole(book.Cost(works)).Mean;
            // An engine that is worn out, with its heads off already.
            var minutes = seen.Has(RepairNeeds.Wear) && !asPlanned ? book.Minutes(heads).Mean + book.Whole(book.Cost(option.Works.Where(w => !w.IsOfBank))).Mean + Right(seen, heads) : exactly;
            found[seen.Bits] = known = (done, minutes + (needed.Any(n => !option.Works.Contains(n)) ? onTheWay : 0)
                + option.Works.Where(w => !works.Contains(w)).Sum(w => RepairBook.PlannedForNothingMinutes + RepairBook.SentBackShare * book.Cost(w).Parts.Mean));
        }
        return known;
    }

    private static bool IsGasket(RepairNeeds need) => need.Work().Repair == Repair.Gasket;

    // Run on: what is asked for later in any case, and what gets worse meanwhile. Sources: docs/deciding.md.
    private double Left(RepairNeeds needs)
    {
        if (needs.IsNone)
        {
            return 0;
        }
        double asked = 1, harm = 0;
        foreach (var need in needs.Each())
        {
            // Wear and deposits alone are lived with as often as not.
            asked = need == RepairNeeds.Wear || need == RepairNeeds.Deposits ? asked * 0.5 : asked * 0;
            harm += need == RepairNeeds.Wear ? 0.05 * Right(RepairNeeds.Wear)
                : need == RepairNeeds.Timing ? 0.5 * Right(RepairNeeds.TopEnd(0))
                : need == RepairNeeds.Run || need == RepairNeeds.Deposits || need == RepairNeeds.Exhaust ? 0.1 * Right(need)
                : IsGasket(need) ? 0.5 * Right(need) : 0.25 * Right(need);
        }
        return (1 - asked) * (comeback + search + Right(needs)) + harm;
    }
}
