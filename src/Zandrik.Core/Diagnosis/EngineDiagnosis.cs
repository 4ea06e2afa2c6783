using Zandrik.Core.Compression;
using Zandrik.Core.Conditions;
using Zandrik.Core.Records;
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

/// <summary>
/// From all readings of a job to suspects: which cylinders seal, where each bad one leaks, how sure, and why. docs/diagnosis.md has the method, docs/likelihood-table.md its numbers.
/// </summary>
public sealed partial class EngineDiagnosis
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
        using var inference = Inference.Of(read);
        posterior = inference.Answers();
        Validity = [.. job.Validity, .. AfterInference()];
        var lines = ledger ? new Ledger(read, posterior) : null;
        Suspects = [.. Shown(posterior.Engine.OrderByDescending(e => e.Value).ThenBy(e => e.Key.Fault).ThenBy(e => e.Key.Bank).Select(e => new EngineSuspect(e.Key.Fault, e.Value, e.Key.Bank + 1)), s => s.Probability)];
        Cylinders = [.. job.Cylinders.Select((c, i) => Cylinder(c, i, lines))];
        State = Whole();
        Headline = Sentence();
        Decision = RepairDecision.Of(job, inference.Repairs(RepairDecision.MostSets), book, safety.Liquid.IsLocked, struck);
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
}
