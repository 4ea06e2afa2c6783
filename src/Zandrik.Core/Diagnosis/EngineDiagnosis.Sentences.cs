using System.Globalization;
using Zandrik.Core.Compression;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Core.Diagnosis;

// What is said of each cylinder and of the engine, in one plain sentence.
public sealed partial class EngineDiagnosis
{
    // Air heard clear or strong at the place of another fault than the leading one.
    private static IReadOnlyList<Fault> AlsoLikely(CylinderEvidence c, Fault leading)
    {
        if (c.Leak is not { LnRatio: not null } leak || leading is Fault.Sound or Fault.TestError)
        {
            return [];
        }
        (int Place, Fault Fault)[] places =
        [
            (LeakEvidence.Intake, Fault.IntakeValve), (LeakEvidence.Exhaust, Fault.ExhaustValve), (LeakEvidence.Crankcase, Fault.Rings), (LeakEvidence.Coolant, Fault.GasketCoolant),
            (LeakEvidence.Front, Fault.GasketAdjacent), (LeakEvidence.Behind, Fault.GasketAdjacent),
        ];
        return [.. places.Where(p => leak.Heard[p.Place] >= 2 && p.Fault != leading && !(p.Fault == Fault.Rings && leading is Fault.Piston or Fault.FuelWashed)).Select(p => p.Fault).Distinct()];
    }

    // A gasket to the other side counts from here on.
    private const double OtherSide = 0.3;

    // The cylinders whose webs burnt in one row with that of a cylinder, each believed by both of its neighbours; lowest number first.
    private List<int> BurntRow(int cylinder)
    {
        var row = new List<int> { cylinder };
        for (var i = 0; i < row.Count; i++)
        {
            var at = row[i];
            row.AddRange(Cylinders[at - 1].Suspects.Where(s => s is { Fault: Fault.GasketAdjacent, With: not null, Probability: > OtherSide }).Select(s => s.With!.Value)
                .Where(n => !row.Contains(n) && Cylinders[n - 1].Of(Fault.GasketAdjacent) > FaultWords.Said && Cylinders[n - 1].Suspects.Any(s => s.Fault == Fault.GasketAdjacent && s.With == at && s.Probability > OtherSide)));
        }
        row.Sort();
        return row;
    }

    // A cause of the whole engine from which on a low cylinder needs none of its own.
    private const double ExplainsAll = FaultWords.Said;

    // What explains a cylinder that reads low and has no fault of its own: a cause of the engine, or every other test; absent where nothing does.
    private string? AsTheOthers(int cylinder, CylinderState state) => OfTheEngine(cylinder, state)
        ?? (state is CylinderState.Low or CylinderState.Dead && IsReadOtherwise(cylinder) ? $"Reads {StateWord(state)}, but every other test says it seals." : null);

    // What a cause of the engine makes of such a cylinder; absent where none does.
    private string? OfTheEngine(int cylinder, CylinderState state)
    {
        var bank = job.Banks.Index().First(b => b.Item.Contains(cylinder - 1)).Index + 1;
        var lowAllOver = job.Dry?.IsLowAllOver == true;
        if (state is not (CylinderState.Low or CylinderState.Dead) && !(lowAllOver && state == CylinderState.Watch))
        {
            return null;
        }
        return Suspects.Where(s => s.Fault == Fault.CamTiming && (s.Bank ?? bank) == bank).Sum(s => s.Probability) > ExplainsAll ? $"{Capital(StateWord(state))} by timing, not because it leaks."
            : Cause(Fault.GeneralWear) > ExplainsAll ? "Low like the others: general wear."
            : Cause(Fault.FuelWashed) > ExplainsAll ? "Low like the others: fuel-washed cylinders."
            : Cause(Fault.TestError) > ExplainsAll ? $"Reads {StateWord(state)}, but the test, not the cylinder, explains it."
            : lowAllOver ? "Low like the others; the cause is not known yet."
            : null;
    }

    /// <summary>True for a cylinder that reads low, is likely sound all the same, and has neither a cause of the engine nor another test to say so.</summary>
    internal bool IsUnexplained(CylinderDiagnosis c) => c.State is CylinderState.Low or CylinderState.Dead && c.Of(Fault.Sound) > FaultWords.Said && AsTheOthers(c.Cylinder, c.State) is null;

    // Another test than the gauge's has spoken of a cylinder.
    private bool IsReadOtherwise(int cylinder) => job.Cylinders[cylinder - 1] is { Leak.LnRatio: not null } or { Relative: not null } or { LnIdle: not null } or { LnSnap: not null };

    private static string Capital(string words) => char.ToUpperInvariant(words[0]) + words[1..];

    private string Says(CylinderEvidence c, CylinderState state, IReadOnlyList<CylinderSuspect> suspects)
    {
        var leading = suspects[0];
        if (state == CylinderState.Untested)
        {
            return "Nothing measured here yet.";
        }
        if (leading.Fault == Fault.Sound && leading.Probability > FaultWords.Said)
        {
            if (c.Relative is not null && c.LnDry is null && c.Leak is null && c.LnIdle is null && c.LnSnap is null && state == CylinderState.Sound)
            {
                return "As strong as the others on relative compression.";
            }
            if (job.LeakDown?.Cylinders[c.Cylinder - 1].Disagrees == true)
            {
                return "Can't tell yet: its leak-down readings lie far apart.";
            }
            if (AsTheOthers(c.Cylinder, state) is { } explained)
            {
                return explained;
            }
            if (state is CylinderState.Low or CylinderState.Dead)
            {
                return $"Reads {StateWord(state)}; why is not known yet.";
            }
            var seals = leading.Probability > 0.95 && state is CylinderState.Sound or CylinderState.High;
            return (IsAlone || seals ? Unproven(c, state) : null) ?? (seals ? "Seals." : $"{Sure(leading)} sound.");
        }
        // The gaskets to either side are one repair: sure of both together, though each by itself may not be.
        if (leading.Fault == Fault.GasketAdjacent && suspects.Where(s => s is { Fault: Fault.GasketAdjacent, With: not null }).ToList() is [var first, var other]
            && (other.Probability > OtherSide || leading.Probability <= FaultWords.Said) && first.Probability + other.Probability is > FaultWords.Said and var either)
        {
            var to = other.Probability > OtherSide ? $"between {CylinderList.Sentence([.. new[] { first.With!.Value, c.Cylinder, other.With!.Value }.Order()])}"
                : string.Create(CultureInfo.InvariantCulture, $"to cylinder {first.With} or {other.With}");
            return $"{Sure(leading with { Probability = either })} the head gasket {to}.";
        }
        if (leading.Probability <= FaultWords.Said)
        {
            return $"Can't tell yet: {string.Join(", or ", Open(c.Cylinder, suspects, state))}.";
        }
        return leading.Fault == Fault.TestError ? $"{Sure(leading)} {FaultWords.Of(leading.Fault)}: read it again before anything is opened." : $"{Sure(leading)} {Name(leading, c.Cylinder)}.";
    }

    // One reading of an engine of several cylinders.
    private bool IsAlone => job.Cylinders.Count > 1 && job.Cylinders.Count(c => c.LnDry is not null || c.Relative is not null) == 1;

    // What is said of a sound cylinder where only comparison speaks for it; absent where more does.
    private string? Unproven(CylinderEvidence c, CylinderState state) => !job.LevelIsUnproven || c.Leak?.LnRatio is not null ? null
        : job.Cylinders.Count == 1 ? "Nothing to compare it with." : IsAlone ? "Nothing to compare it with yet." : state == CylinderState.High ? "Higher than the others." : "As high as the others.";

    // The two that lead while none is said: a gasket to either side is one of them, and that a low cylinder is sound says no why.
    private static IEnumerable<string> Open(int cylinder, IReadOnlyList<CylinderSuspect> suspects, CylinderState state) => suspects
        .Where(s => s.Fault != Fault.Sound || state is not (CylinderState.Low or CylinderState.Dead))
        .GroupBy(s => s.Fault)
        .Select(g => (Probability: g.Sum(s => s.Probability), Name: g.Key == Fault.GasketAdjacent && g.Count() > 1
            ? $"the head gasket {string.Join(" or ", g.Select(s => s.With).OfType<int>().Order().Select(w => string.Create(CultureInfo.InvariantCulture, $"between {Math.Min(w, cylinder)} and {Math.Max(w, cylinder)}")))}" : Name(g.First(), cylinder)))
        .OrderByDescending(s => s.Probability).Take(2).Select(s => s.Name);

    private static string StateWord(CylinderState state) => state == CylinderState.Dead ? "dead" : "low";

    private static string Sure(CylinderSuspect s) => FaultWords.HowSure(s.Probability) is var words ? char.ToUpperInvariant(words[0]) + words[1..] : "";

    private static string Name(CylinderSuspect s, int cylinder) => (s.Fault == Fault.GasketAdjacent && s.With is not null ? "the " : "") + FaultWords.Of(s.Fault, s.With, cylinder);

    private string Sentence() => OfCylinders() + (job.IsTooLowToStart ? $" Compression is too low to {job.HowItStarts}." : "");

    // Cylinders that stand out for themselves, the worst first; and with them those that a cause of the whole engine explains: what it explains is said of the engine.
    private List<CylinderDiagnosis> StandOut(out List<CylinderDiagnosis> all)
    {
        all = Cylinders.Where(c => (c.State is CylinderState.Low or CylinderState.Dead or CylinderState.Watch or CylinderState.High && c.Leading.Fault != Fault.Sound) || (c.State is CylinderState.Low or CylinderState.Dead && c.Of(Fault.Sound) <= FaultWords.Said) || IsUnexplained(c) || c.Leading.Fault is not (Fault.Sound or Fault.TestError) && c.Leading.Probability > FaultWords.Said)
            .OrderByDescending(c => c.State is CylinderState.High ? CylinderState.Sound : c.State).ThenBy(c => c.Of(Fault.Sound)).ThenBy(c => c.Cylinder).ToList();
        return [.. all.Where(c => c.Leading is not { Fault: Fault.Sound, Probability: > FaultWords.Said } || AsTheOthers(c.Cylinder, c.State) is null)];
    }

    private string OfCylinders()
    {
        if (!job.AnythingMeasured)
        {
            var low = job.Tests.Relative is { } capture ? RelativeHeadline.LowSlots(capture, CaptureQuestion.LimitOf(job.Record.JudgeBy)) : 0;
            return low == 0 ? "Nothing measured yet: not enough to say."
                : low == 1 ? "One cylinder is low on relative compression; which one is not known yet." : $"{low.ToString(CultureInfo.InvariantCulture)} cylinders are low on relative compression; not known yet which ones.";
        }
        var engine = Suspects[0];
        var bad = StandOut(out var all);
        if (bad.Count > 0)
        {
            var worst = bad[0];
            var lead = worst.Leading;
            if (lead is { Fault: Fault.GasketAdjacent, With: not null } && worst.Of(Fault.GasketAdjacent) > FaultWords.Said && BurntRow(worst.Cylinder) is { Count: > 1 } row)
            {
                var rest = bad.Where(c => !row.Contains(c.Cylinder)).Select(c => c.Cylinder).Order().ToList();
                return $"Cylinders {CylinderList.Sentence(row)}: {FaultWords.HowSure(row.Min(c => Cylinders[c - 1].Of(Fault.GasketAdjacent)))} the head gasket between them{Also(rest)}.{Besides(engine)}";
            }
            var others = bad.Skip(1).Select(c => c.Cylinder).Order().ToList();
            var says = worst.Says[..^1];
            return $"Cylinder {worst.Cylinder.ToString(CultureInfo.InvariantCulture)}{(says.StartsWith(FaultWords.NotEnough, StringComparison.OrdinalIgnoreCase) ? "," : ":")} {char.ToLowerInvariant(says[0])}{says[1..]}{Also(others)}.{Besides(engine)}";
        }
        if (State == EngineState.Sound)
        {
            // Starter current compares; that an engine seals it cannot say.
            return job.Cylinders.All(c => c.LnDry is null && c.Leak?.LnRatio is null) && job.Cylinders.Any(c => c.Relative is not null)
                ? "Even on relative compression. A gauge shows whether all are equally worn."
                : job.LevelIsUnproven ? Cylinders.Count == 1 ? "No maker's figure and no other cylinder: nothing to compare the reading with." : "Even: no cylinder stands out. Without a maker's figure nobody can say whether all are high enough." : "Every cylinder seals, as far as it was measured.";
        }
        if (engine is { Fault: Fault.CamTiming, Probability: > ExplainsAll, Bank: { } late } && all.Count > 0)
        {
            return $"Cylinders {CylinderList.Sentence([.. all.Where(c => job.Banks[late - 1].Contains(c.Cylinder - 1)).Select(c => c.Cylinder).Order()])} are low by timing: {FaultWords.HowSure(engine.Probability)} cam timing of bank {late.ToString(CultureInfo.InvariantCulture)}.";
        }
        if (job.Dry is { IsLowAllOver: true } dry && engine.Fault is not (Fault.GasketCoolant or Fault.CoolantPathElsewhere))
        {
            var level = dry.Minimum?.Under.Count == dry.Measured ? "All cylinders are under the minimum" : "All cylinders are low";
            return engine is { Fault: not Fault.None, Probability: > FaultWords.Said } ? $"{level}: {FaultWords.HowSure(engine.Probability)} {FaultWords.OfEngine(engine.Fault)}."
                : $"{level}; can't tell why yet: {string.Join(", or ", Suspects.Where(s => s.Fault is Fault.TestError or Fault.GeneralWear or Fault.CamTiming or Fault.FuelWashed).Select(s => FaultWords.OfEngine(s.Fault)).Distinct().Take(2))}.";
        }
        if (engine is { Fault: Fault.TestError, Probability: > FaultWords.Said })
        {
            return "The way of testing explains these readings, not the engine: put the test right and measure again.";
        }
        if (engine.Fault != Fault.None)
        {
            var words = engine.Probability > FaultWords.Said ? $"{FaultWords.HowSure(engine.Probability)} {FaultWords.OfEngine(engine.Fault)}" : $"can't tell yet: {FaultWords.OfEngine(engine.Fault)}, or {FaultWords.OfEngine(Suspects.Count > 1 ? Suspects[1].Fault : Fault.None)}";
            return char.ToUpperInvariant(words[0]) + words[1..] + (engine.Bank is { } bank ? string.Create(CultureInfo.InvariantCulture, $" of bank {bank}") : "") + ".";
        }
        return State switch
        {
            EngineState.Inconclusive => "Can't tell yet.",
            _ when CoolantIsOpen => "Every cylinder seals so far. The signs of coolant are not explained yet.",
            _ => "No bad cylinder found; see what is to be watched.",
        };
    }

    // A cause of the whole engine beside a cylinder that stands out.
    private static string Besides(EngineSuspect engine) => engine is { Fault: Fault.GeneralWear or Fault.FuelWashed or Fault.CamTiming, Bank: null, Probability: > FaultWords.Said } ? $" Besides, {FaultWords.HowSure(engine.Probability)} {FaultWords.OfEngine(engine.Fault)}." : "";

    private static string Also(List<int> others) => others.Count > 0 ? $"; also {CylinderList.Sentence(others)}" : "";
}
