using Zandrik.Core.Compression;
using Zandrik.Core.Conditions;
using Zandrik.Core.Engines;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Physics;
using Zandrik.Core.Planning;
using Zandrik.Core.Records;
using Zandrik.Core.Safety;

namespace Zandrik.Core.Diagnosis;

/// <summary>A test that is worth doing next.</summary>
/// <param name="Kind">Which.</param>
/// <param name="Cylinders">The cylinders; empty for the engine.</param>
/// <param name="Minutes">About how long, with what is set up already counted.</param>
/// <param name="GainBits">What it is expected to tell: bits of information about the faults.</param>
/// <param name="Why">Why.</param>
public sealed record NextTest(StepKind Kind, IReadOnlyList<int> Cylinders, double Minutes, double GainBits, string Why);

/// <summary>
/// What to measure next: information per minute, under the hard rules of order and safety. The information is exact, over cells of the outcome: <see cref="TestOutcomes"/>. Section 6 of docs/diagnosis.md.
/// </summary>
internal sealed class NextTests
{
    private const double LeastBits = 0.06;
    private const int MostOffers = 3;
    private const double OddBelow = 0.93;

    private readonly NodeLikelihoods read;
    private readonly JobEvidence job;
    private readonly EngineDiagnosis said;
    private readonly Posterior posterior;
    private readonly double[]?[] weights;
    private readonly double size, restriction;
    private readonly Dictionary<(PossibleTest, int), double> known = [];
    private readonly JobSafety safety;

    private NextTests(NodeLikelihoods read, EngineDiagnosis said, Posterior posterior, JobSafety safety)
    {
        (this.read, job, this.said, this.posterior, this.safety) = (read, read.Job, said, posterior, safety);
        weights = new double[job.Cylinders.Count][];
        var swept = CylinderVolume.SweptCc(job.Engine);
        size = swept / 500 ?? (job.Diesel ? 1.25 : 1);
        restriction = LeakFlow.RestrictionAreaMm2(LeakFlow.StandardRestrictionMm(swept));
    }

    /// <summary>The offers, best first, three at most; and those that wait for the plugs to be back in. What is locked is in neither.</summary>
    public static (IReadOnlyList<NextTest> Now, IReadOnlyList<NextTest> AfterReassembly) Of(NodeLikelihoods read, EngineDiagnosis said, Posterior posterior, JobSafety safety) =>
        new NextTests(read, said, posterior, safety).Rank();

    private (IReadOnlyList<NextTest> Now, IReadOnlyList<NextTest> AfterReassembly) Rank()
    {
        var offers = new List<(NextTest Test, bool First)>();
        var waiting = new List<NextTest>();
        // Oil left in a cylinder spoils what is read dry there.
        var oiled = safety.Oil.HoldOil.Select(c => c - 1).ToHashSet();
        var engine = job.Engine;
        var n = job.Cylinders.Count;
        bool Code(ValidityCode code) => job.Validity.Any(v => v.Code == code && v.Severity != Severity.Note);
        var odd = Enumerable.Range(0, n).Where(i => said.Cylinders[i].State is CylinderState.Low or CylinderState.Dead or CylinderState.Watch || (said.Cylinders[i].State != CylinderState.Untested && posterior.Of(i, Fault.Sound) < OddBelow))
            .OrderByDescending(Entropy).ToList();
        var missing = Enumerable.Range(0, n).Where(i => job.Cylinders[i].LnDry is null && !oiled.Contains(i)).ToList();
        var dryTest = job.Dry is not null && job.Cylinders.Any(c => c.LnDry is not null);

        void Offer(StepKind kind, IEnumerable<int> cylinders, double minutes, double bits, string why, bool first = false)
        {
            if (!first && bits < LeastBits)
            {
                return;
            }
            var test = new NextTest(kind, [.. cylinders.Select(i => i + 1)], minutes, Math.Round(bits, 3), why);
            if (safety.Offers(kind))
            {
                offers.Add((test, first));
            }
            else if (safety.WaitsForPlugs(kind))
            {
                waiting.Add(test);
            }
        }
        double Each(IEnumerable<int> cylinders, PossibleTest test) => cylinders.Sum(i => Bits(test, i));
        var doubt = EngineDoubt();

        if (missing.Count > 0)
        {
            var few = n - missing.Count < Math.Min(n, 3) || 2 * missing.Count > n;
            Offer(StepKind.Dry, missing, dryTest ? StepMinutes.Dry(missing.Count) : StepMinutes.DryPlugsIn(missing.Count), Each(missing, PossibleTest.Dry), dryTest ? "The cylinders that are not read yet." : "A gauge in every cylinder tells most to begin with.", first: few && dryTest);
        }
        if (job.Slip is not null && dryTest && oiled.Count == 0)
        {
            Offer(StepKind.Dry, Enumerable.Range(0, n), StepMinutes.DryPutRight(n), Math.Max(doubt, Each(odd, PossibleTest.Repeat)), "Put the slip right first: throttle, battery, needle, count. Then all cylinders again.", first: true);
        }
        var invalid = Enumerable.Range(0, n).Where(i => job.LeakDown?.Cylinders[i].State == LeakState.NotUsed).ToList();
        if (invalid.Count > 0)
        {
            Offer(StepKind.LeakDown, invalid, StepMinutes.LeakDownAgain(invalid.Count), Each(invalid, PossibleTest.LeakDown), "That reading cannot be: set top dead centre, stroke and hose right and read it again.", first: true);
        }
        // Two leak-down figures that lie far apart are no figure yet: nothing else is worth as much as a third.
        var apart = Enumerable.Range(0, n).Where(i => job.LeakDown?.Cylinders[i].Disagrees == true).ToList();
        if (apart.Count > 0)
        {
            Offer(StepKind.LeakDown, apart, StepMinutes.LeakDownAgain(apart.Count), Each(apart, PossibleTest.LeakDown), "Its readings lie far apart: prove top dead centre on compression and read it again before anything is opened.", first: true);
        }
        var unsteady = job.Dry?.Validity.FirstOrDefault(v => v.Code == ValidityCode.DoesNotRepeat)?.Cylinders.Select(c => c - 1).ToList() ?? [];
        var suspectSlip = odd.Where(i => job.Cylinders[i].LnDry is not null && posterior.Of(i, Fault.Sound) < 0.7 && !oiled.Contains(i) && (unsteady.Contains(i) || !Repeated(i))).ToList();
        if (suspectSlip.Count > 0 && !Code(ValidityCode.FallsWithOrder))
        {
            Offer(StepKind.Dry, suspectSlip, StepMinutes.DryAgain(suspectSlip.Count), Each(suspectSlip, PossibleTest.Repeat) + (doubt > 0 ? 0.5 * doubt : 0), "Read again before anything is condemned: a reading that does not repeat is not a reading.",
                first: suspectSlip.Any(i => unsteady.Contains(i) || posterior.Of(i, Fault.TestError) > 0.25));
        }
        var unheard = odd.Where(i => job.Cylinders[i].Leak?.LnRatio is null && !invalid.Contains(i)).Take(4).ToList();
        foreach (var count in (ReadOnlySpan<int>)[1, 2, 4])
        {
            var which = unheard.Take(count).ToList();
            if (which.Count > 0 && (count == 1 || unheard.Count >= Math.Min(count, 3)))
            {
                Offer(StepKind.LeakDown, which, StepMinutes.LeakDown(which.Count, job.LeakDown is not null), Each(which, PossibleTest.LeakDown), "How much is lost, and where it is heard.");
            }
        }
        if (doubt > 0 && unheard.Count == 0 && dryTest)
        {
            var two = Enumerable.Range(0, n).Where(i => job.Cylinders[i].Leak?.LnRatio is null).Take(2).ToList();
            if (two.Count > 0)
            {
                Offer(StepKind.LeakDown, two, StepMinutes.LeakDown(two.Count, job.LeakDown is not null), 0.5 * doubt, "Worn rings leak, wrong timing or a slip does not: two cylinders tell.");
            }
        }
        var wettable = odd.Where(i => job.Cylinders[i] is { LnDry: not null, LnWet: null } && (safety.WetComesFirst || job.Cylinders[i].Leak?.LnRatio is not null) && !invalid.Contains(i)).ToList();
        if (wettable.Count > 0)
        {
            Offer(StepKind.Wet, wettable, StepMinutes.Wet(wettable.Count), Each(wettable, PossibleTest.Wet), "Oil brings back what rings let by, and nothing of a valve.");
        }
        // What a cylinder that does not seal explains needs no look at how the others breathe.
        var explained = said.Cylinders.Any(c => c.State is CylinderState.Low or CylinderState.Dead && c.Leading is { Fault: not (Fault.Sound or Fault.TestError), Probability: > 0.8 });
        var mayRun = !explained && !job.Diesel && engine.Throttle != ThrottleControl.None && posterior.Of(Fault.GasketCoolant) <= 0.4;
        if (mayRun)
        {
            var complains = job.Seen.Overlaps([Observation.Misfire, Observation.MisfireCold, Observation.MisfireWarm, Observation.LowPower, Observation.RoughIdle]);
            var seal = odd.Count == 0 && dryTest && missing.Count == 0;
            var which = (seal && complains ? Enumerable.Range(0, n).OrderByDescending(Entropy).Take(4) : odd)
                .Where(i => job.Cylinders[i] is { LnIdle: null, LnSnap: null } && said.Cylinders[i].State is not (CylinderState.Dead or CylinderState.Low) && posterior.Of(i, Fault.GasketCoolant) <= 0.3).ToList();
            if (which.Count > 0)
            {
                Offer(StepKind.Running, which, StepMinutes.Running(which.Count, job.RanCylinders > 0), Each(which, PossibleTest.Running), "Everything may seal and still not breathe: idle and snap tell.");
            }
        }
        if (!dryTest && job.Cylinders.All(c => c.Relative is null) && n > 1)
        {
            Offer(StepKind.Relative, [], StepMinutes.Relative, Each(Enumerable.Range(0, n), PossibleTest.Dry) * 0.8, "No plug out: finds an uneven cylinder in minutes.");
        }
        var coolant = posterior.Of(Fault.GasketCoolant);
        if (coolant > 0.06 && job.Gas is null)
        {
            Offer(StepKind.CombustionGas, [], StepMinutes.CombustionGas, TestOutcomes.Information([coolant, 1 - coolant], [0.85, 0.15, 0.04, 0.96]),
                "A gasket can leak to the coolant with every cylinder reading well." + (safety.GasWithoutStart ? " " + TestPlan.WithoutStart : ""));
        }
        var unread = odd.Where(i => job.Cylinders[i].Plug.Count == 0).ToList();
        if (dryTest && unread.Count > 0)
        {
            Offer(StepKind.Plugs, unread, StepMinutes.Plugs(unread.Count), Each(unread, PossibleTest.Plug), "The plugs are out: each says something of its cylinder.");
        }
        // Somebody looked already, and said that they cannot be set.
        var looked = (job.Record.Tests ?? []).OfType<ValveClearanceCheck>().Any(t => t.Adjustable == false);
        var valves = odd.Where(i => said.Cylinders[i].Leading.Fault is Fault.IntakeValve or Fault.ExhaustValve or Fault.IntakeNotOpening or Fault.ExhaustNotOpening
            && (job.Cylinders[i].Leak?.LnRatio is not null || job.Cylinders[i].LnIdle is not null) && job.Cylinders[i].Clearances.Count == 0 && !looked).ToList();
        if (valves.Count > 0)
        {
            Offer(StepKind.ValveClearance, valves, StepMinutes.ValveClearance(valves.Count), valves.Sum(i => 0.25 * Entropy(i)), "Clearance and lift, cover off: cheap to mend before a head comes off.");
        }
        return ([.. offers.OrderByDescending(o => o.First).ThenByDescending(o => o.Test.GainBits / o.Test.Minutes).DistinctBy(o => o.Test.Kind).Take(MostOffers).Select(o => o.Test)],
            [.. waiting.OrderByDescending(t => t.GainBits / t.Minutes).DistinctBy(t => t.Kind)]);
    }

    private bool Repeated(int index) => job.Tests.DryTest?.Readings?.Any(r => r.Cylinder == index + 1 && r.IsRepeated()) == true;

    private double Entropy(int index) => TestOutcomes.Entropy(posterior.Cylinders[index]);

    // Wear, timing or the test against nothing engine-wide: bits of that split, where it is a question at all.
    private double EngineDoubt()
    {
        double[] split = [posterior.Of(Fault.None), posterior.Of(Fault.GeneralWear), posterior.Of(Fault.CamTiming), posterior.Of(Fault.TestError)];
        var all = split.Sum();
        return all > 0 && (all - split[0]) / all > 0.15 && job.Dry is not null ? 0.55 * TestOutcomes.Entropy([.. split.Select(p => p / all)]) : 0;
    }

    // Over the answers of a cylinder: each one's severities weighed by what was read so far.
    private double Bits(PossibleTest test, int index)
    {
        if (!known.TryGetValue((test, index), out var bits))
        {
            known[(test, index)] = bits = job.Table.Curves.Outcomes.Bits(test, size, restriction, weights[index] ??= Weights(index), posterior.Cylinders[index]);
        }
        return bits;
    }

    // How well each severity predicted what was read at a cylinder, on an engine that has nothing as a whole and stands at its reference.
    private double[] Weights(int index)
    {
        var nodes = job.Table.Curves.Outcomes.Nodes;
        var found = new double[nodes.Length];
        for (var k = 0; k < found.Length; k++)
        {
            found[k] = nodes[k].Weight;
        }
        foreach (var finding in (ReadOnlySpan<int>)[read.Dry(index, read.NearestLevel(job.ReferenceLn ?? job.ExpectedLn)), read.Relative(index), read.LeakDown(index, 0, aged: false, heard: true), read.Wet(index, (0, 0)), read.Running(index, (0, 0, null))])
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
