using Zandrik.Core.Compression;
using Zandrik.Core.Conditions;
using Zandrik.Core.Engines;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Physics;
using Zandrik.Core.Planning;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;
using Zandrik.Core.Running;
using Zandrik.Core.Safety;

namespace Zandrik.Core.Diagnosis;

/// <summary>A test that is worth doing next.</summary>
/// <param name="Kind">Which.</param>
/// <param name="Cylinders">The cylinders; empty for the engine.</param>
/// <param name="Minutes">About how long, with what is set up already counted.</param>
/// <param name="GainBits">What it is expected to tell: bits of information about the faults.</param>
/// <param name="Why">Why.</param>
/// <param name="SavesMinutes">What it saves on average, minutes of work, its own minutes taken off; absent for what comes first by a rule of order.</param>
public sealed record NextTest(StepKind Kind, IReadOnlyList<int> Cylinders, double Minutes, double GainBits, string Why, double? SavesMinutes = null);

/// <summary>
/// What to measure next: what contradicts the result is read again first; the rest by what it saves (<see cref="RepairDecision"/>), under the rules of order and safety. Exact, over cells of the
/// outcome: <see cref="TestOutcomes"/>. Each rule is one line of the list in docs/diagnosis.md, section 6.
/// </summary>
internal sealed class NextTests
{
    private const int MostOffers = 3;

    // So many cylinders are weighed together; of more, each by itself.
    private const int MostTogether = 4;

    // A reading that cannot be is taken so often; of two that lie apart a third decides.
    private const int MostTries = 2;

    // What tells less than this, bits, is not worth setting up.
    private const double LeastBits = 0.06;

    // What saves less is not said to save anything, minutes.
    private const double LeastSaid = 1;

    // Half of what the others read, ln.
    private const double LnFarGone = -0.69;

    // A cylinder is asked about below this; and its repair is settled from here on.
    private const double OddBelow = 0.93, Settled = 0.95;

    // Two cylinders show worn rings where all are worn, by air and by oil; and seldom where the level has another reason.
    private const double WearLeaks = 0.85, OthersLeak = 0.1, WearTakesOil = 0.8, OthersTakeOil = 0.12;

    // The test fluid, where exhaust gas goes into the coolant and where it does not.
    private const double GasShows = 0.85, GasShowsAnyway = 0.04;

    internal static readonly Observation[] BadRunning = [Observation.Misfire, Observation.MisfireCold, Observation.MisfireWarm, Observation.LowPower, Observation.RoughIdle];

    private readonly NodeLikelihoods read;
    private readonly JobEvidence job;
    private readonly EngineDiagnosis said;
    private readonly Posterior posterior;
    private readonly JobSafety safety;
    private readonly RepairDecision decision;
    private readonly double[]?[] weights;
    private readonly double size, restriction, doubt;
    private readonly Dictionary<(PossibleTest, int), (double Bits, double Saves)> known = [];
    private readonly List<(NextTest Test, Order Order, double Saves)> offers = [];
    private readonly List<(NextTest Test, double Saves)> waiting = [];
    private readonly HashSet<int> oiled;
    private readonly List<int> odd, open;
    private readonly bool dryTest;

    // For a study only: what tells most a minute, as long as it tells anything.
    private readonly bool byBits;

    // What comes before everything that is ranked, and in which order.
    private enum Order
    {
        // The air is connected: a figure that cannot be is read again at once.
        AgainUnderAir,

        // The gauge is in hand: a figure that does not hold is read again at once.
        AgainDry,

        // All again, with the way of testing put right.
        PutRight,

        // The cylinders that were not read yet.
        Missing,

        // One running reading has nothing to be held against.
        OthersRunning,

        Ranked,

        // Nothing is opened on compression alone, even where no test would change what is done.
        BeforeOpening,
    }

    private NextTests(NodeLikelihoods read, EngineDiagnosis said, Posterior posterior, JobSafety safety, RepairDecision decision, bool byBits)
    {
        (this.read, job, this.said, this.posterior, this.safety, this.decision, this.byBits) = (read, read.Job, said, posterior, safety, decision, byBits);
        weights = new double[job.Cylinders.Count][];
        var swept = CylinderVolume.SweptCc(job.Engine);
        size = swept / 500 ?? (job.Diesel ? 1.25 : 1);
        restriction = LeakFlow.RestrictionAreaMm2(LeakFlow.StandardRestrictionMm(swept));
        // Oil left in a cylinder spoils what is read dry there.
        oiled = [.. safety.Oil.HoldOil.Select(c => c - 1)];
        odd = [.. All.Where(i => said.Cylinders[i].State is CylinderState.Low or CylinderState.Dead or CylinderState.Watch || (said.Cylinders[i].State != CylinderState.Untested && AsksOfSound && posterior.Of(i, Fault.Sound) < OddBelow)).OrderByDescending(Entropy)];
        // Two suspects of one repair are not worth telling apart, and a repair that is settled needs no test.
        open = [.. odd.Where(i => TestOutcomes.SurestRepair(posterior.Cylinders[i]) < Settled)];
        dryTest = job.Dry is not null && job.Cylinders.Any(c => c.LnDry is not null);
        doubt = EngineDoubt();
    }

    // Without a complaint what is within every limit is left alone, once every cylinder was read: nobody opens an engine for what it does not show.
    private bool AsksOfSound => !string.IsNullOrWhiteSpace(job.Record.Complaint) || job.Seen.Any(s => s is not (Observation.PrePurchase or Observation.AfterRebuild or Observation.HeadOffBefore)) || job.Cylinders.Any(c => c.LnDry is null);

    private IEnumerable<int> All => Enumerable.Range(0, job.Cylinders.Count);

    /// <summary>The offers, best first, three at most; and those that wait for the plugs to be back in. What is locked is in neither.</summary>
    public static (IReadOnlyList<NextTest> Now, IReadOnlyList<NextTest> AfterReassembly) Of(NodeLikelihoods read, EngineDiagnosis said, Posterior posterior, JobSafety safety, RepairDecision decision, bool byBits = false) =>
        new NextTests(read, said, posterior, safety, decision, byBits).Rank();

    private (IReadOnlyList<NextTest> Now, IReadOnlyList<NextTest> AfterReassembly) Rank()
    {
        LeakDownAgain();
        DryAgain();
        PutRight();
        Missing();
        RelativeFirst();
        LeakDown();
        BeforeOpening();
        LocateCoolant();
        WearOrTest();
        Wet();
        Running();
        CombustionGas();
        Plugs();
        Valves();
        var ranked = offers.OrderBy(o => o.Order).ThenByDescending(o => byBits ? o.Test.GainBits / o.Test.Minutes : o.Saves).ThenByDescending(o => o.Test.GainBits).Select(o => o.Test).DistinctBy(t => t.Kind).ToList();
        // A look at a plug tells something of the cylinder and decides nothing: it does not come before the leak-down that does.
        if (ranked.FindIndex(t => t.Kind == StepKind.Plugs) is var plugs and >= 0 && ranked.FindIndex(t => t.Kind == StepKind.LeakDown) is var leak && leak > plugs)
        {
            (ranked[plugs], ranked[leak]) = (ranked[leak], ranked[plugs]);
        }
        return ([.. ranked.Take(MostOffers)], [.. waiting.OrderByDescending(t => t.Saves).ThenByDescending(t => t.Test.GainBits).Select(t => t.Test).DistinctBy(t => t.Kind)]);
    }

    // What is saved before its own minutes are taken off; no test is worth more than to know everything.
    private void Offer(StepKind kind, IReadOnlyCollection<int> cylinders, double minutes, double bits, double saves, string why, Order order = Order.Ranked, Func<RepairOption?>? otherwise = null)
    {
        var waits = !safety.Offers(kind);
        var net = Math.Min(saves, decision.Perfect) - minutes;
        // Before anything is read every test has to begin somewhere.
        if (order == Order.Ranked && (bits < LeastBits || (net <= 0 && job.AnythingMeasured && !byBits)))
        {
            return;
        }
        double? saved = order == Order.Ranked && net >= LeastSaid ? Math.Round(net) : null;
        var instead = saved is null ? null : otherwise?.Invoke();
        var test = new NextTest(kind, [.. cylinders.Select(i => i + 1)], minutes, Math.Round(bits, 3), saved is null ? why : $"{why} Saves about {RepairWords.Time(net)} on average{(instead is null ? "" : $": it decides between {RepairWords.Doing(decision.Cheapest, job.Banks.Count)} and {RepairWords.Doing(instead, job.Banks.Count)}")}.", saved);
        if (!waits)
        {
            offers.Add((test, order, net));
        }
        else if (safety.WaitsForPlugs(kind))
        {
            waiting.Add((test, net));
        }
    }

    private void Offer(StepKind kind, IReadOnlyCollection<int> cylinders, double minutes, PossibleTest test, string why, Order order = Order.Ranked)
    {
        if (cylinders.Count > 0)
        {
            var told = cylinders.Select(i => Told(test, i)).ToList();
            var together = cylinders.Count is > 1 and <= MostTogether && order == Order.Ranked ? decision.Saves([.. cylinders.Select(i => (i, Shows(test, i)))]) : 0;
            Offer(kind, cylinders, minutes, told.Sum(t => t.Bits), Math.Max(together, told.Sum(t => t.Saves)), why, order, () => decision.Instead(cylinders.First(), Shows(test, cylinders.First())));
        }
    }

    private List<int> NotUsed => [.. All.Where(i => job.LeakDown?.Cylinders[i].State == LeakState.NotUsed)];

    private void LeakDownAgain()
    {
        // Read again alike it is not asked for for ever: then somebody has to find out what is wrong with it.
        // One that was set aside with its reason is no try.
        bool Enough(int i, int tries) => job.LeakDown!.Cylinders[i].Taken.Count(t => t.Reading.NotUsed is null) >= tries;
        var invalid = NotUsed.Where(i => !Enough(i, MostTries)).ToList();
        // What it was doubted for is what is looked at, in the order in which it is likeliest.
        var doubts = invalid.Select(i => job.LeakDown!.Cylinders[i].Doubt).ToHashSet();
        var look = doubts.All(d => d == LeakDoubt.LossAgainstDry) ? "zero the tester, check the adapter, take the valve core out of the hose" : "set top dead centre, stroke and hose right";
        Offer(StepKind.LeakDown, invalid, StepMinutes.LeakDownAgain(invalid.Count), PossibleTest.LeakDown, $"That reading cannot be: {look}, and read it again.", Order.AgainUnderAir);
        // Two figures that lie far apart are no figure yet: nothing else is worth as much as a third.
        var apart = All.Where(i => job.LeakDown?.Cylinders[i].Disagrees == true && !Enough(i, MostTries + 1)).ToList();
        Offer(StepKind.LeakDown, apart, StepMinutes.LeakDownAgain(apart.Count), PossibleTest.LeakDown, "Its readings lie far apart: prove top dead centre on compression and read it again before anything is opened.", Order.AgainUnderAir);
    }

    // A battery that tires: one that is read again is read lower still.
    private bool Falls => job.Validity.Any(v => v.Code == ValidityCode.FallsWithOrder && v.Severity != Severity.Note);

    private void DryAgain()
    {
        var readings = job.Tests.DryTest?.Readings ?? [];
        bool Repeated(int index) => readings.Any(r => r.Cylinder == index + 1 && r.IsRepeated());
        IReadOnlyList<int> Noted(ValidityCode code) => [.. job.Dry?.Validity.FirstOrDefault(v => v.Code == code)?.Cylinders.Select(c => c - 1) ?? []];
        var unsteady = Noted(ValidityCode.DoesNotRepeat).Where(i => readings.FirstOrDefault(r => r.Cylinder == i + 1 && r.Counts())?.Repeats?.Count < MostTries).ToList();
        // What two tests agree on, and what was read over oil, is not read again.
        bool Agreed(int i) => job.Cylinders[i] is { Relative.Ln: < -0.1 } || (job.Cylinders[i].Leak?.LnRatio is not null && !NotUsed.Contains(i) && posterior.Of(i, Fault.TestError) < 0.25);
        var shortly = Noted(ValidityCode.PulsesUnequal).Where(i => !Repeated(i) && !oiled.Contains(i)).ToList();
        Offer(StepKind.Dry, shortly, StepMinutes.DryAgain(shortly.Count), PossibleTest.Repeat, "Fewer compressions than the others. Repeat with the same count: it takes minutes.", Order.AgainDry);
        if (Falls)
        {
            return;
        }
        var again = odd.Where(i => job.Cylinders[i].LnDry is not null && !oiled.Contains(i) && (unsteady.Contains(i) || (!Repeated(i) && !Agreed(i) && posterior.Of(i, Fault.Sound) < 0.7))).ToList();
        Offer(StepKind.Dry, again, StepMinutes.DryAgain(again.Count), PossibleTest.Repeat, "Read again before anything is condemned: a reading that does not repeat is not a reading.",
            again.Any(i => unsteady.Contains(i) || posterior.Of(i, Fault.TestError) > 0.25) ? Order.AgainDry : Order.Ranked);
        // The only one that was not read twice is the lowest one.
        if (All.MinBy(i => job.Cylinders[i].LnDry ?? double.MaxValue) is var lowest && job.Cylinders[lowest].LnDry is not null && !oiled.Contains(lowest) && All.All(i => i == lowest || Repeated(i)) && job.Cylinders.Count > 2 && !Repeated(lowest) && !Agreed(lowest)
            && job.ReferenceLn - job.Cylinders[lowest].LnDry > 0.05)
        {
            Offer(StepKind.Dry, [lowest], StepMinutes.DryAgain(1), PossibleTest.Repeat, "Every other cylinder was repeated. Repeat this one the same way: it takes minutes.", Order.AgainDry);
        }
    }

    private void PutRight()
    {
        if (!dryTest || oiled.Count > 0)
        {
            return;
        }
        var n = job.Cylinders.Count;
        if (job.Slip is not null && !(job.LevelIsGood && odd.Count == 0 && !Falls))
        {
            Offer(StepKind.Dry, [.. All], StepMinutes.DryPutRight(n), Math.Max(doubt, odd.Sum(i => Told(PossibleTest.Repeat, i).Bits)), 1, "Put the test right first: throttle, battery, needle, count. Then all cylinders again.", Order.PutRight);
        }
        // Cold on purpose where the complaint is only there when it is cold, or coolant may cool it through a gasket.
        else if (job.Everywhere.Shift < -0.05 && (odd.Count > 0 || !job.LevelIsGood) && job.LeakDown is null && !job.Seen.Contains(Observation.MisfireCold) && !said.CoolantIsOpen && !IsFarGone)
        {
            Offer(StepKind.Dry, [.. All], StepMinutes.WarmUp + StepMinutes.DryPutRight(n), Math.Max(doubt, odd.Sum(i => Told(PossibleTest.Repeat, i).Bits)), 1, "Cold figures compare only with cold ones: warm it up, then all cylinders again.", Order.PutRight);
        }
    }

    // No cold takes more than half of a cylinder; and an engine that far gone is not run warm for a figure.
    private bool IsFarGone => odd.Any(i => job.Cylinders[i].LnDry - job.ReferenceLn < LnFarGone);

    private void Missing()
    {
        var missing = All.Where(i => job.Cylinders[i].LnDry is null && !oiled.Contains(i) && job.Dry?.Cylinders[i].InQuestion != true).ToList();
        Offer(StepKind.Dry, missing, dryTest ? StepMinutes.DryAgain(missing.Count) : StepMinutes.DryPlugsIn(missing.Count), PossibleTest.Dry,
            dryTest ? "The cylinders that are not read yet." : "A gauge in every cylinder tells most to begin with.", dryTest || GaugeFirst ? Order.Missing : Order.Ranked);
    }

    // What was found uneven, or lost by one, is read by a gauge before more is put to it: the plugs come out for either.
    private bool GaugeFirst => job.Tests.Relative is not null || job.Cylinders.Any(c => c.Leak is not null);

    private void RelativeFirst()
    {
        if (!dryTest && job.Tests.Relative is null && job.Cylinders.Count > 1 && job.LeakDown is null)
        {
            var told = All.Select(i => Told(PossibleTest.Dry, i)).ToList();
            Offer(StepKind.Relative, [], StepMinutes.Relative, 0.8 * told.Sum(t => t.Bits), 0.8 * told.Sum(t => t.Saves), "No plug out: finds an uneven cylinder in minutes.");
        }
    }

    private bool IsConnected => job.LeakDown is not null;

    private List<int> Unheard => [.. open.Where(i => job.Cylinders[i].Leak?.LnRatio is null && !NotUsed.Contains(i)).Take(4)];

    private void LeakDown()
    {
        var unheard = Unheard;
        foreach (var count in (ReadOnlySpan<int>)[1, 2, 4])
        {
            var which = unheard.Take(count).ToList();
            if (count == 1 || unheard.Count >= Math.Min(count, 3))
            {
                Offer(StepKind.LeakDown, which, StepMinutes.LeakDown(which.Count, IsConnected), PossibleTest.LeakDown, "How much is lost, and where it is heard.");
            }
        }
    }

    private void BeforeOpening()
    {
        if (decision.Best.Option.Works.Any(w => w.IsOfBank || w.Repair == Repair.Overhaul) && job.Cylinders.All(c => c.Leak?.LnRatio is null) && Unheard.Count > 0)
        {
            var worst = Unheard.FindIndex(i => said.Cylinders[i].State is CylinderState.Low or CylinderState.Dead) is var low and >= 0 ? Unheard[low] : Unheard[0];
            if (Told(PossibleTest.LeakDown, worst).Bits >= LeastBits)
            {
                Offer(StepKind.LeakDown, [worst], StepMinutes.LeakDown(1, IsConnected), PossibleTest.LeakDown, "Before anything is opened: where the air of the worst one goes.", Order.BeforeOpening);
            }
        }
    }

    // Gas in the coolant, and no cylinder that it comes from: air in each, until it is found.
    private void LocateCoolant()
    {
        if (job.Gas != CombustionGasResult.Positive || All.Any(i => posterior.Of(i, Fault.GasketCoolant) > 0.5))
        {
            return;
        }
        var rest = All.Where(i => job.Cylinders[i].Leak?.LnRatio is null && !NotUsed.Contains(i)).OrderByDescending(i => posterior.Of(i, Fault.GasketCoolant)).ToList();
        if (rest.Count > 0)
        {
            Offer(StepKind.LeakDown, rest, StepMinutes.LeakDown(rest.Count, IsConnected), Math.Max(LeastBits, rest.Sum(i => Told(PossibleTest.LeakDown, i).Bits)), decision.Perfect,
                "Gas in the coolant. First pressure-test the cooling system and look into each cylinder with a camera; then put air in each cylinder and watch for bubbles.");
        }
    }

    // What set the level of all: oil and air tell wear from timing and from the way of testing.
    private void WearOrTest()
    {
        if (doubt <= 0 || !dryTest || job.LevelIsGood || said.State == EngineState.Sound)
        {
            return;
        }
        var unread = All.Where(i => job.Cylinders[i].Leak?.LnRatio is null && !NotUsed.Contains(i)).Take(2).ToList();
        if (unread.Count > 0 && job.Cylinders.Count(c => c.Leak?.LnRatio is not null) < 2)
        {
            Offer(StepKind.LeakDown, unread, StepMinutes.LeakDown(unread.Count, IsConnected), 0.5 * doubt, decision.Saves((needs, _) => needs.Has(RepairNeeds.Wear) ? WearLeaks : OthersLeak), "Worn rings leak, wrong timing or a test error does not: two cylinders tell.");
        }
        var dry = All.Where(i => job.Cylinders[i] is { LnDry: not null, LnWet: null } && (safety.WetComesFirst || job.Cylinders[i].Leak?.LnRatio is not null)).Take(2).ToList();
        if (dry.Count > 0 && job.Cylinders.Count(c => c.LnWet is not null) < 2)
        {
            Offer(StepKind.Wet, dry, StepMinutes.Wet(dry.Count), 0.5 * doubt, decision.Saves((needs, _) => needs.Has(RepairNeeds.Wear) ? WearTakesOil : OthersTakeOil), "Oil raises compression where rings are worn, not where timing or the test is wrong. Two cylinders are enough.");
        }
    }

    private void Wet()
    {
        var wettable = open.Where(i => job.Cylinders[i] is { LnDry: not null, LnWet: null } && (safety.WetComesFirst || job.Cylinders[i].Leak?.LnRatio is not null) && !NotUsed.Contains(i)).ToList();
        Offer(StepKind.Wet, wettable, StepMinutes.Wet(wettable.Count), PossibleTest.Wet, "Oil brings back what rings let by, and nothing of a valve.");
    }

    private void Running()
    {
        if (job.Diesel || job.Engine.Throttle == ThrottleControl.None || posterior.Of(Fault.GasketCoolant) > 0.4)
        {
            return;
        }
        // A cylinder that leaks runs low whatever it breathes; one that holds its air and pumps little is worth running. What the step would refuse is not offered.
        bool MayRun(int i) => job.Cylinders[i] is { LnIdle: null, LnSnap: null } && posterior.Of(i, Fault.GasketCoolant) <= 0.3 && RunningRules.ForbidsCylinder(job.Dry, i + 1, job.LeakDown) is null
            && (said.Cylinders[i].State is not (CylinderState.Dead or CylinderState.Low) || RunningRules.HoldsItsAir(job.LeakDown, i + 1));
        if (job.RunningAlone)
        {
            var others = All.Where(MayRun).ToList();
            Offer(StepKind.Running, others, StepMinutes.Running(others.Count, begun: true), PossibleTest.Running, "One running figure has nothing to compare with. Measure the others first.", Order.OthersRunning);
            return;
        }
        // What a cylinder that does not seal explains needs no look at how the others breathe.
        if (All.Any(i => said.Cylinders[i].State is CylinderState.Low or CylinderState.Dead && posterior.Of(i, Fault.Sound) + posterior.Of(i, Fault.TestError) + posterior.Of(i, Fault.ShortStroke)
            + posterior.Of(i, Fault.IntakeNotOpening) + posterior.Of(i, Fault.ExhaustNotOpening) < 0.2 && job.Cylinders[i].Leak?.LnRatio is not null))
        {
            return;
        }
        var unexplained = odd.Count == 0 && dryTest && job.Cylinders.All(c => c.LnDry is not null) && job.Seen.Overlaps(BadRunning);
        var which = (unexplained ? All : open).Where(MayRun).ToList();
        // One figure has nothing to be held against: the soundest other one is run beside it.
        if (which.Count == 1 && job.RanCylinders == 0 && All.Where(i => i != which[0] && said.Cylinders[i].State != CylinderState.Untested && MayRun(i)).OrderByDescending(i => posterior.Of(i, Fault.Sound)).Take(1).ToList() is [var beside])
        {
            which.Add(beside);
        }
        Offer(StepKind.Running, which, StepMinutes.Running(which.Count, job.RanCylinders > 0), PossibleTest.Running, "Everything may seal and still not breathe: idle and snap tell.");
    }

    private void CombustionGas()
    {
        var coolant = posterior.Of(Fault.GasketCoolant);
        if (coolant > 0.06 && job.Gas is null)
        {
            var bits = TestOutcomes.Information([coolant, 1 - coolant], [GasShows, 1 - GasShows, GasShowsAnyway, 1 - GasShowsAnyway]);
            var saves = decision.Saves((needs, set) => Enumerable.Range(0, job.Banks.Count).Any(b => needs.Has(RepairNeeds.Gasket(Math.Min(b, RepairNeeds.MostBanks - 1))))
                ? GasShowsAnyway + (GasShows - GasShowsAnyway) * decision.CoolantOf(set) : GasShowsAnyway);
            Offer(StepKind.CombustionGas, [], StepMinutes.CombustionGas, bits, saves, "A gasket can leak to the coolant with every cylinder reading well." + (safety.GasWithoutStart ? " " + TestPlan.WithoutStart : ""));
        }
    }

    private void Plugs()
    {
        // A glow plug says little of its cylinder.
        var unread = job.Diesel || !dryTest ? [] : open.Where(i => job.Cylinders[i].Plug.Count == 0 && job.Cylinders[i].Leak?.LnRatio is null).ToList();
        Offer(StepKind.Plugs, unread, StepMinutes.Plugs(unread.Count), PossibleTest.Plug, "The plugs are out: each says something of its cylinder.");
    }

    private void Valves()
    {
        // Somebody looked already, and said that they cannot be set.
        if ((job.Record.Tests ?? []).OfType<ValveClearanceCheck>().Any(t => t.Adjustable == false))
        {
            return;
        }
        bool Breathes(int i) => posterior.Of(i, Fault.IntakeNotOpening) + posterior.Of(i, Fault.ExhaustNotOpening) > 0.25;
        var valves = odd.Where(i => job.Cylinders[i].Clearances.Count == 0 && (job.Cylinders[i].Leak?.LnRatio is not null || job.Cylinders[i].LnIdle is not null || job.Cylinders[i].LnSnap is not null)
            && (Breathes(i) || (said.Cylinders[i].Leading.Fault is Fault.IntakeValve or Fault.ExhaustValve && open.Contains(i)))).ToList();
        if (valves.Count > 0)
        {
            // It tells no valve from another, but lift tells one that hardly opens; and a clearance that is off may be all that has to be set.
            Offer(StepKind.ValveClearance, valves, StepMinutes.ValveClearance(valves.Count), valves.Sum(i => 0.08 * Entropy(i)) + LeastBits,
                valves.Sum(i => Math.Max(decision.SavesByClearance(i), Breathes(i) ? decision.Saves(i, Lift) : 0)), "Clearance and lift, cover off: cheap to mend before a head comes off.");
        }
    }

    private double Entropy(int index) => TestOutcomes.Entropy(posterior.Cylinders[index]);

    // Wear, timing or the test against no whole-engine cause: bits of that split, where it is a question at all.
    private double EngineDoubt()
    {
        double[] split = [posterior.Of(Fault.None), posterior.Of(Fault.GeneralWear), posterior.Of(Fault.CamTiming), posterior.Of(Fault.TestError)];
        var all = split.Sum();
        return all > 0 && (all - split[0]) / all > 0.15 && split.Max() / all < Settled && job.Dry is not null ? 0.55 * TestOutcomes.Entropy([.. split.Select(p => p / all)]) : 0;
    }

    // What lift against the neighbours shows: a valve that hardly opens, and little else.
    private static readonly double[] Lift = [.. Enumerable.Range(0, Posterior.Answers).SelectMany(f => f < FaultOdds.Local.Count && FaultOdds.Local[f] is Fault.IntakeNotOpening or Fault.ExhaustNotOpening ? new[] { 0.9, 0.1 } : [0.03, 0.97])];

    // Over the answers of a cylinder: each one's severities weighed by what was read so far.
    private (double Bits, double Saves) Told(PossibleTest test, int index)
    {
        if (!known.TryGetValue((test, index), out var told))
        {
            var shows = Shows(test, index);
            known[(test, index)] = told = (TestOutcomes.Information(posterior.Cylinders[index], shows), decision.Saves(index, shows));
        }
        return told;
    }

    private double[] Shows(PossibleTest test, int index) => job.Table.Curves.Outcomes.Shows(test, size, restriction, weights[index] ??= Weights(index));

    // How well each severity predicted what was read at a cylinder, on an engine that has nothing as a whole and stands at its reference.
    private double[] Weights(int index)
    {
        var nodes = job.Table.Curves.Outcomes.Nodes;
        var found = new double[nodes.Length];
        for (var k = 0; k < found.Length; k++)
        {
            found[k] = nodes[k].Weight;
        }
        foreach (var finding in (ReadOnlySpan<int>)[read.Dry(index, read.NearestLevel(job.ReferenceLn ?? job.ExpectedLn)), read.Relative(index), read.LeakDown(index, 0, aged: false, heard: true), read.Wet(index, (0, 0)), read.Running(index, new(0, 0))])
        {
            var like = read[finding];
            for (var k = 0; k < found.Length; k++)
            {
                found[k] *= like[nodes[k].Node];
            }
        }
        return found;
    }
}
