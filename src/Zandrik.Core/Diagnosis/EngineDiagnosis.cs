using System.Globalization;
using Zandrik.Core.Compression;
using Zandrik.Core.Conditions;
using Zandrik.Core.Engines;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Repairs;
using Zandrik.Core.Safety;
using Zandrik.Core.Units;

namespace Zandrik.Core.Diagnosis;

/// <summary>What is said of the engine as a whole.</summary>
public enum EngineState
{
    /// <summary>Nothing found.</summary>
    Sound,

    /// <summary>To be watched.</summary>
    Watch,

    /// <summary>Something is wrong with it.</summary>
    Faulty,

    /// <summary>Too little, or too doubtful, to say.</summary>
    Inconclusive,
}

/// <summary>One line for or against a suspect.</summary>
/// <param name="Finding">Its word.</param>
/// <param name="Says">What was read, in plain words.</param>
/// <param name="WeightDb">Its weight, decibans: ten times the common logarithm of the factor on the odds.</param>
/// <param name="Test">Place of the test in the record, from 0; absent for none.</param>
public sealed record EvidenceLine(string Finding, string Says, double WeightDb, int? Test = null);

/// <summary>A suspect of a cylinder.</summary>
/// <param name="Fault">The fault.</param>
/// <param name="Probability">How likely, 0 to 1.</param>
/// <param name="With">The neighbour, for a gasket between two cylinders.</param>
public sealed record CylinderSuspect(Fault Fault, double Probability, int? With = null)
{
    /// <summary>The ledger: from the base rate to <see cref="Probability"/>, line by line; empty where it was not asked for.</summary>
    public IReadOnlyList<EvidenceLine> Evidence { get; init; } = [];
}

/// <summary>A cause of the engine.</summary>
/// <param name="Fault">The cause.</param>
/// <param name="Probability">How likely, 0 to 1.</param>
/// <param name="Bank">The bank, from 1, for the timing of one bank.</param>
public sealed record EngineSuspect(Fault Fault, double Probability, int? Bank = null)
{
    /// <summary>The cause in a few words, with its bank.</summary>
    public string Says => FaultWords.OfEngine(Fault) + (Bank is { } bank ? string.Create(CultureInfo.InvariantCulture, $" of bank {bank}") : "");

    /// <summary>True for a cause that is likely enough to be named; false where nothing of the whole engine leads.</summary>
    public bool IsNamed => Fault != Fault.None && Probability > FaultWords.Said;
}

/// <summary>One cylinder.</summary>
/// <param name="Cylinder">Its number.</param>
/// <param name="State">Its state: describes the readings, suspects explain them.</param>
/// <param name="Says">One plain sentence.</param>
/// <param name="Suspects">Most likely first; sums to 1, less at most 0.008 for those left out.</param>
/// <param name="AlsoLikely">A second fault of the same cylinder, where air was heard in two places.</param>
public sealed record CylinderDiagnosis(int Cylinder, CylinderState State, string Says, IReadOnlyList<CylinderSuspect> Suspects, IReadOnlyList<Fault> AlsoLikely)
{
    /// <summary>Probability of a fault; a gasket to either neighbour together.</summary>
    /// <returns>0 to 1; 0 for a fault that was not considered.</returns>
    public double Of(Fault fault) => Suspects.Where(s => s.Fault == fault).Sum(s => s.Probability);

    /// <summary>The leading suspect.</summary>
    public CylinderSuspect Leading => Suspects[0];

    /// <summary>A suspect in a few words. Of a cylinder that reads low nobody says that it is sound: what it may have is nothing of its own, when wear all round, timing or the test explains it.</summary>
    /// <param name="suspect">One of the suspects.</param>
    /// <returns>The words, lower case.</returns>
    public string NameOf(CylinderSuspect suspect) => suspect.Fault == Fault.Sound && State is CylinderState.Low or CylinderState.Dead ? FaultWords.NothingOfItsOwn : FaultWords.Of(suspect.Fault, suspect.With, Cylinder);
}

/// <summary>
/// From all readings of a job to suspects: which cylinders seal, where each bad one leaks, how sure, and why. docs/diagnosis.md has the method, docs/likelihood-table.md its numbers.
/// </summary>
public sealed class EngineDiagnosis
{
    // The least likely are left out as long as all of them together are under this; nothing is made up for them, so that a ledger adds up to the figure that is shown.
    private const double MostLeftOut = 0.008;

    private readonly JobEvidence job;
    private readonly Posterior posterior;

    private EngineDiagnosis(JobEvidence job, bool ledger, JobSafety safety, RepairBook book, IReadOnlyDictionary<Repair, string>? struck, bool byBits = false)
    {
        this.job = job;
        Safety = safety;
        using var read = new NodeLikelihoods(job);
        posterior = Inference.Of(read, EvidenceStage.CombustionGas);
        Validity = [.. job.Validity, .. AfterInference()];
        var lines = ledger ? new Ledger(read, posterior) : null;
        Suspects = [.. Shown(posterior.Engine.OrderByDescending(e => e.Value).ThenBy(e => e.Key.Fault).ThenBy(e => e.Key.Bank).Select(e => new EngineSuspect(e.Key.Fault, e.Value, e.Key.Bank + 1)), s => s.Probability)];
        Cylinders = [.. job.Cylinders.Select((c, i) => Cylinder(c, i, lines))];
        State = Whole();
        Headline = Sentence();
        Decision = RepairDecision.Of(read, book, safety.Liquid.IsLocked, struck);
        (Next, AfterReassembly) = NextTests.Of(read, this, posterior, safety, Decision, byBits);
        Actions = RepairActions.Of(job, this);
    }

    /// <summary>What is best done with what is known, option by option.</summary>
    public RepairDecision Decision { get; }

    /// <summary>What is worth measuring next, best first, three at most.</summary>
    public IReadOnlyList<NextTest> Next { get; }

    /// <summary>What could be measured once the plugs are back in; nothing where that keeps no test from being offered.</summary>
    public IReadOnlyList<NextTest> AfterReassembly { get; }

    /// <summary>What is locked on the job, and what is not offered.</summary>
    public JobSafety Safety { get; }

    /// <summary>What to do, least invasive first.</summary>
    public IReadOnlyList<ActionAdvice> Actions { get; }

    /// <summary>What is said of the engine.</summary>
    public EngineState State { get; }

    /// <summary>One plain sentence.</summary>
    public string Headline { get; }

    /// <summary>The cylinder that <see cref="Headline"/> is about; absent where it is about the whole engine.</summary>
    public CylinderDiagnosis? HeadlineCylinder => job.AnythingMeasured ? StandOut(out _).FirstOrDefault() : null;

    /// <summary>Causes of the engine, most likely first; sums to 1, less at most 0.008 for those left out.</summary>
    public IReadOnlyList<EngineSuspect> Suspects { get; }

    /// <summary>Cylinders 1 to N.</summary>
    public IReadOnlyList<CylinderDiagnosis> Cylinders { get; }

    /// <summary>What the way of testing did to the numbers.</summary>
    public IReadOnlyList<ValidityNote> Validity { get; }

    /// <summary>Methods of spread on the dry test; empty with fewer than two readings.</summary>
    public IReadOnlyList<SpreadFinding> Spread => job.Dry?.Spread ?? [];

    /// <summary>Everything it stands on.</summary>
    internal JobEvidence Evidence => job;

    /// <summary>The unit in which pressures of <see cref="Spread"/> are given: the one that was asked for, else the dry test's.</summary>
    public PressureUnit SpreadUnit => job.Shown ?? RecordRules.UnitOf(job.Tests.DryTest?.Unit, job.Engine);

    /// <summary>Diagnoses a job.</summary>
    /// <param name="record">A record whose engine passes <see cref="EngineRules"/>.</param>
    /// <param name="ledger">True to have the ledger of each suspect; it takes twice as long.</param>
    /// <param name="safety">What is locked and what is not offered; absent for what the record alone says.</param>
    /// <param name="shown">The unit of the figures in its sentences; absent for each test's own.</param>
    /// <param name="book">What repairs cost; absent for the rules.</param>
    /// <returns>Suspects with their probabilities, states, next tests and actions; of an empty record base rates.</returns>
    public static EngineDiagnosis Of(TestRecord record, bool ledger = true, JobSafety? safety = null, PressureUnit? shown = null, RepairBook? book = null) =>
        Of(JudgedTests.Of(record, shown), safety ?? JobSafety.Of(record), ledger, book);

    /// <summary>Diagnoses tests that are judged already.</summary>
    /// <param name="tests">The tests of the job.</param>
    /// <param name="safety">What is locked and what is not offered.</param>
    /// <param name="ledger">True to have the ledger of each suspect; it takes twice as long.</param>
    /// <param name="book">What repairs cost; absent for the rules.</param>
    /// <param name="struck">What the shop does not do on this engine, with its reasons; absent for nothing.</param>
    /// <returns>The same as for the record the tests are of.</returns>
    public static EngineDiagnosis Of(JudgedTests tests, JobSafety safety, bool ledger = true, RepairBook? book = null, IReadOnlyDictionary<Repair, string>? struck = null) =>
        new(JobEvidence.Of(tests), ledger, safety, book ?? RepairBook.For(tests.Record.Engine), struck);

    /// <summary>A job, with what to measure next by bits a minute instead of by what it saves: what a study holds the other against.</summary>
    internal static EngineDiagnosis ByBits(TestRecord record) =>
        new(JobEvidence.Of(JudgedTests.Of(record)), ledger: false, JobSafety.Of(record), RepairBook.For(record.Engine), null, byBits: true);

    private static IEnumerable<T> Shown<T>(IEnumerable<T> best, Func<T, double> probability)
    {
        double sum = 0;
        foreach (var one in best)
        {
            if (sum >= 1 - MostLeftOut)
            {
                yield break;
            }
            sum += probability(one);
            yield return one;
        }
    }

    private double Cause(Fault fault) => Suspects.Where(s => s.Fault == fault).Sum(s => s.Probability);

    private IEnumerable<ValidityNote> AfterInference()
    {
        // Nothing else that says it seals: then nothing contradicts the loss. Readings that lie apart are already asked for again.
        var off = job.Cylinders.Select((c, i) => (c, i)).Where(x => x.c.Leak is { LnRatio: not null, LossPercent: >= 60 } && (x.c.LnDry is not null || x.c.Relative is not null)
            && job.LeakDown?.Cylinders[x.i].Disagrees != true
            && posterior.Of(x.i, Fault.Sound) + posterior.Of(x.i, Fault.TestError) + posterior.Of(x.i, Fault.IntakeNotOpening) + posterior.Of(x.i, Fault.ExhaustNotOpening) > 0.6).Select(x => x.c.Cylinder).ToList();
        if (off.Count > 0)
        {
            yield return new ValidityNote(ValidityCode.LeakDownOffTdc, Severity.Caution, "Much lost, yet everything else says it seals: set top dead centre exactly and read again.", off);
        }
    }

    private CylinderDiagnosis Cylinder(CylinderEvidence c, int index, Ledger? ledger)
    {
        var bank = job.Banks.First(b => b.Contains(index));
        var place = Array.IndexOf(bank, index);
        var found = new List<(CylinderSuspect Suspect, int Answer)>();
        for (var f = 0; f < Posterior.Answers; f++)
        {
            var p = posterior.Cylinders[index][f];
            // The ends of a bank have no neighbour on one side.
            if ((f != Posterior.Front || place > 0) && (f != Posterior.Behind || place < bank.Length - 1))
            {
                int? with = f == Posterior.Front ? bank[place - 1] + 1 : f == Posterior.Behind ? bank[place + 1] + 1 : null;
                found.Add((new CylinderSuspect(f < FaultOdds.Local.Count ? FaultOdds.Local[f] : Fault.GasketAdjacent, p, with), f));
            }
        }
        IReadOnlyList<CylinderSuspect> suspects = [.. Shown(found.OrderByDescending(s => s.Suspect.Probability).ThenBy(s => s.Suspect.Fault), s => s.Suspect.Probability)
            .Select(s => ledger is null ? s.Suspect : s.Suspect with { Evidence = ledger.Lines(index, s.Answer) })];
        var state = StateOf(c, index);
        return new CylinderDiagnosis(c.Cylinder, state, Says(c, state, suspects), suspects, AlsoLikely(c, suspects[0].Fault));
    }

    private CylinderState StateOf(CylinderEvidence c, int index)
    {
        var dry = job.Dry?.Cylinders[c.Cylinder - 1] is { State: not CylinderState.Untested, InQuestion: false } read ? read : null;
        if (dry is null && c.Relative is null && c.Leak?.LnRatio is null && c.LnIdle is null && c.LnSnap is null)
        {
            return CylinderState.Untested;
        }
        // By the limit that the job is judged by, as the starter current itself is.
        var current = c.Relative is not { } ran ? CylinderState.Sound : RelativeAnalysis.Verdict(ran.Percent, ran.ErrorPercent, CaptureQuestion.LimitOf(job.Record.JudgeBy)) switch
        {
            RelativeVerdict.Dead => CylinderState.Dead,
            RelativeVerdict.Low => CylinderState.Low,
            RelativeVerdict.Borderline => CylinderState.Watch,
            _ => CylinderState.Sound,
        };
        var state = dry?.State ?? current;
        if (posterior.Of(index, Fault.Carbon) > 0.5 && state is CylinderState.Sound or CylinderState.Watch)
        {
            state = CylinderState.High;
        }
        if (state is CylinderState.Sound && dry is not null && current != CylinderState.Sound)
        {
            state = CylinderState.Watch;
        }
        var sound = posterior.Of(index, Fault.Sound);
        CylinderState Worse(CylinderState than) => state is CylinderState.Dead or CylinderState.Low || (state == than) ? state : than;
        var leak = job.LeakDown?.Cylinders[c.Cylinder - 1] is { Counts: true } counted ? counted : null;
        if (leak is not null)
        {
            state = leak.State == LeakState.Bad ? Worse(sound < 0.5 ? CylinderState.Low : CylinderState.Watch)
                : (leak.State == LeakState.Watch && sound < 0.9) || leak.StandsOut ? Worse(CylinderState.Watch) : state;
        }
        if (state == CylinderState.Sound && (sound < 0.8 || posterior.Of(index, Fault.IntakeNotOpening) + posterior.Of(index, Fault.ExhaustNotOpening) > 0.8))
        {
            state = CylinderState.Watch;
        }
        var odd = job.Dry?.Validity.FirstOrDefault(v => v.Code == ValidityCode.DoesNotRepeat)?.Cylinders.Contains(c.Cylinder) == true;
        return odd && leak is null && state is CylinderState.Low or CylinderState.Dead ? CylinderState.Watch : state;
    }

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

    /// <summary>True where fewer cylinders were measured than say anything of an engine: half of them, and two of those that it has.</summary>
    internal bool IsTooLittleMeasured => Cylinders.Count(c => c.State != CylinderState.Untested) < Math.Min(Cylinders.Count, Math.Max(2, (Cylinders.Count + 1) / 2));

    /// <summary>True where signs of coolant going somewhere are not answered yet, with nothing known of them by themselves.</summary>
    internal bool CoolantIsOpen => Cause(Fault.GasketCoolant) + Cause(Fault.CoolantPathElsewhere) > 0.2;

    private EngineState Whole()
    {
        if (!job.AnythingMeasured && Cause(Fault.GasketCoolant) <= 0.6 && Cause(Fault.CoolantPathElsewhere) <= 0.6)
        {
            return EngineState.Inconclusive;
        }
        bool IsOwn(CylinderDiagnosis c) => c.State is CylinderState.Low or CylinderState.Dead && c.Of(Fault.Sound) + c.Of(Fault.TestError) < 0.5;
        var own = Cylinders.Where(IsOwn).ToList();
        if (Cause(Fault.GasketCoolant) > (job.Gas == CombustionGasResult.Positive ? 0.5 : 0.6) || Cause(Fault.CoolantPathElsewhere) > 0.6)
        {
            return EngineState.Faulty;
        }
        if (IsTooLittleMeasured && !own.Exists(c => job.Cylinders[c.Cylinder - 1].Leak?.LnRatio is not null))
        {
            return EngineState.Inconclusive;
        }
        if (Cylinders.Any(c => c.Leading is { Fault: not (Fault.Sound or Fault.TestError or Fault.Carbon), Probability: > 0.8 }))
        {
            return EngineState.Faulty;
        }
        if (Cause(Fault.TestError) > 0.5 && own.Count == 0 && !job.LevelIsGood)
        {
            return EngineState.Inconclusive;
        }
        var n = Cylinders.Count;
        var dry = job.Cylinders.Count(c => c.LnDry is not null);
        bool All(Func<CylinderEvidence, bool> has) => job.Cylinders.All(has);
        var throughOther = All(c => c.Relative is not null) || All(c => c.Leak?.LnRatio is not null) || All(c => c.LnIdle is not null || c.LnSnap is not null);
        if (2 * dry < n && !throughOther && !own.Exists(c => job.Cylinders[c.Cylinder - 1].Leak?.LnRatio is not null))
        {
            return EngineState.Inconclusive;
        }
        if (job.IsTooLowToStart)
        {
            return EngineState.Faulty;
        }
        var minimumFailed = job.Dry?.Cylinders.Any(c => c.UnderMinimum) == true;
        var anyLow = Cylinders.Any(c => c.State is CylinderState.Low or CylinderState.Dead);
        var leading = Suspects[0];
        if (own.Count > 0 || (leading.Fault == Fault.ExhaustRestriction && leading.Probability > 0.6) || (leading.Fault == Fault.CamTiming && Cause(Fault.CamTiming) > 0.75))
        {
            return EngineState.Faulty;
        }
        if (leading.Fault == Fault.GeneralWear && leading.Probability > 0.75)
        {
            return !anyLow && leading.Probability < 0.8 ? EngineState.Watch : EngineState.Faulty;
        }
        if (leading is { Fault: Fault.Carbon, Probability: > 0.6 } or { Fault: Fault.OilControl, Probability: > 0.5 })
        {
            return EngineState.Watch;
        }
        var doubtful = Validity.Any(v => v.Code is ValidityCode.DoesNotRepeat || (v.Code == ValidityCode.FallsWithOrder && v.Severity != Severity.Note));
        if (doubtful || Cylinders.Any(c => c.Of(Fault.TestError) > 0.4))
        {
            return EngineState.Inconclusive;
        }
        if (Cause(Fault.GeneralWear) + Cause(Fault.CamTiming) + Cause(Fault.TestError) > 0.5 && !job.LevelIsGood)
        {
            return minimumFailed && Cause(Fault.TestError) < 0.3 ? EngineState.Faulty : EngineState.Watch;
        }
        if (anyLow)
        {
            // What reads low, is likely sound all the same and is not explained by a cause of the engine accuses nobody.
            var low = Cylinders.Where(c => c.State is CylinderState.Low or CylinderState.Dead).ToList();
            return low.Exists(c => c.Of(Fault.Sound) <= FaultWords.Said || OfTheEngine(c.Cylinder, c.State) is not null) ? EngineState.Faulty
                : low.TrueForAll(c => IsReadOtherwise(c.Cylinder)) ? EngineState.Watch : EngineState.Inconclusive;
        }
        return CoolantIsOpen || Cylinders.Any(c => c.State is CylinderState.Watch or CylinderState.High) ? EngineState.Watch
            : EngineState.Sound;
    }

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
