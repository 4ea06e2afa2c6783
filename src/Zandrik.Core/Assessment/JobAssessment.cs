using System.Globalization;
using Zandrik.Core.AirPaths;
using Zandrik.Core.Checks;
using Zandrik.Core.Compression;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Planning;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;
using Zandrik.Core.Safety;

namespace Zandrik.Core.Assessment;

/// <summary>How far a job is, for a board of jobs.</summary>
public enum JobStage
{
    /// <summary>All is measured: somebody has to say what next.</summary>
    ToDecide,

    /// <summary>Something is measured, not all.</summary>
    BeingMeasured,

    /// <summary>Nothing is measured yet.</summary>
    Waiting,

    /// <summary>Its verdict is signed: what is left is the repair, and closing it.</summary>
    Signed,
}

/// <summary>
/// One job, judged: the only place where that is done. Which test of each kind counts, what each says, what can hurt
/// somebody, what is wrong and how surely, what is next, and how far everything is. Pages, papers, the API and signed
/// verdicts are given it and decide nothing themselves. It has no clock: the same job says the same whenever it is
/// looked at, so it may be kept for as long as nothing changes. Unchangeable; several may ask at once. What nobody asks
/// for is not worked out.
/// </summary>
public sealed class JobAssessment
{
    private readonly Lazy<EngineDiagnosis> diagnosis;
    private readonly Lazy<JobSafety> safety;
    private readonly Lazy<IReadOnlyList<PlanStep>> plan;
    private readonly Lazy<JobEvidence> evidence;
    private readonly Lazy<AirFit?> air;
    private readonly Lazy<RepairBook> book;

    private JobAssessment(TestRecord record, JobPolicy policy, JobProgress progress)
    {
        (Policy, Progress) = (policy, progress);
        Tests = JudgedTests.Of(record, progress.Shown);
        safety = new(() => JobSafety.Of(Record, progress.Events, progress.IsClosed, policy.Shop));
        book = new(() => RepairBook.For(Record.Engine, progress.Workshop?.AccessMinutes, policy.Repairs.For(policy.Sheet), policy.Shop.LabourRate ?? Record.JudgeBy?.LabourRate, policy.Inputs.DayRate));
        diagnosis = new(() => EngineDiagnosis.Of(Tests, Safety, ledger: true, Book, policy.Repairs.StruckOn(Record.Engine)));
        evidence = new(() => JobEvidence.Of(Tests));
        air = new(() => CanSayWhereAirGoes ? AirFit.Of(evidence.Value) : null);
        plan = new(() => TestPlan.For(Record, progress.Workshop, policy.Shop, Safety));
    }

    /// <summary>The job, with what was read over oil marked.</summary>
    public TestRecord Record => Tests.Record;

    /// <summary>By what it is judged.</summary>
    public JobPolicy Policy { get; }

    /// <summary>What was done on it beside the readings.</summary>
    public JobProgress Progress { get; }

    /// <summary>Its tests, each judged once: those that count, and any other.</summary>
    public JudgedTests Tests { get; }

    /// <summary>What can hurt somebody, and so what is locked and what is not offered.</summary>
    public JobSafety Safety => safety.Value;

    /// <summary>What repairs cost on this engine in this shop.</summary>
    public RepairBook Book => book.Value;

    /// <summary>What all readings together say, with the ledger of each suspect.</summary>
    public EngineDiagnosis Diagnosis => diagnosis.Value;

    /// <summary>True where readings of two kinds of test say where the air goes.</summary>
    public bool CanSayWhereAirGoes => AirFit.CanFit(evidence.Value);

    /// <summary>The leak areas that explain the readings; absent where those are of one kind of test.</summary>
    public AirFit? Air => air.Value;

    /// <summary>True where dry readings stand on a preparation of which nothing was ticked, and nothing noted of throttle, battery and temperature.</summary>
    public bool IsUnprepared => Tests.DryTest is { Conditions: null or { Throttle: null, Battery: null, EngineTemperature: null } } && StepProgress.IsUntouched(Progress, JobSafety.PrepareList);

    /// <summary>What everybody has to know who reads a judgement while a dry test is begun anew that does not count yet; absent where none is.</summary>
    public string? BegunAnewSays => LatestDryTest.BegunAnew(Record) is > 0 and var read
        ? string.Create(CultureInfo.InvariantCulture, $"The dry test begun last has {read} of {Record.Engine.Cylinders} cylinders so far. The one before it is judged until this one has half as many.") : null;

    /// <summary>What is said of the engine.</summary>
    public EngineState State => Diagnosis.State;

    /// <summary>The state of each cylinder, from 1 on.</summary>
    public IReadOnlyList<CylinderState> States => [.. Diagnosis.Cylinders.Select(c => c.State)];

    /// <summary>The worst of <see cref="States"/>.</summary>
    public CylinderState Worst => Diagnosis.Cylinders.Max(c => c.State);

    /// <summary>What is said of the job in one sentence: what was signed, else what Zandrik says (<see cref="EngineDiagnosis.Headline"/>).</summary>
    public string Headline => Progress.Signed?.Headline ?? Diagnosis.Headline;

    /// <summary>What is done next, best first; empty when no further test is worth its minutes.</summary>
    public IReadOnlyList<NextStep> Next => NextStep.Of(Diagnosis, InHand);

    // The cylinders without a reading of a dry test that somebody is in the middle of: begun, and nothing read since. A
    // record that comes alone has nobody at the engine. Where oil was left nothing is read dry.
    private IReadOnlyList<int> InHand
    {
        get
        {
            if (Progress.Events is null || StepProgress.BeingDone(Record) is not { Role: null } test || !ReferenceEquals((Record.Tests ?? []).LastOrDefault(t => RecordRules.ReadingsOf(t) > 0), test))
            {
                return [];
            }
            var read = (test.Readings ?? []).Where(r => r.Counts()).Select(r => r.Cylinder).ToHashSet();
            return read.Count == 0 ? [] : [.. Enumerable.Range(1, Record.Engine.Cylinders).Where(c => !read.Contains(c) && !Safety.Oil.HoldOil.Contains(c))];
        }
    }

    /// <summary>The cylinder that is least likely sound of those that were measured; absent where none was.</summary>
    public CylinderDiagnosis? LeastSound => Diagnosis.Cylinders.Where(c => c.State != CylinderState.Untested).MinBy(c => c.Of(Fault.Sound));

    /// <summary>The cylinders that the tests after the dry one are asked about: those that are not sound dry, worst first; empty where nothing was read dry.</summary>
    public IReadOnlyList<int> Asked => Tests.Dry is { } dry ? [.. dry.InDoubt.OrderByDescending(c => c.State).Select(c => c.Cylinder)] : [];

    /// <summary>Which tests, in which order and why.</summary>
    public IReadOnlyList<PlanStep> Plan => plan.Value;

    /// <summary>How far it is.</summary>
    public JobStage Stage
    {
        get
        {
            if (Progress.Signed is not null)
            {
                return JobStage.Signed;
            }
            var dry = StepProgress.BeingDone(Record) is { } test ? Tests.Of(test) : null;
            return dry is { Measured: > 0 } or { Questions.Count: > 0 } ? dry.Measured < dry.Cylinders.Count ? JobStage.BeingMeasured : JobStage.ToDecide
                : (Record.Tests ?? []).Any(t => RecordRules.ReadingsOf(t) > 0 || SupportingCheck.KindOf(t) is not null) ? JobStage.BeingMeasured
                : JobStage.Waiting;
        }
    }

    /// <summary>Judges a job.</summary>
    /// <param name="record">A record that passes <see cref="RecordRules"/>.</param>
    /// <param name="policy">By what it is judged; absent for the trade's defaults.</param>
    /// <param name="progress">What was done on it beside the readings; absent for a record that comes alone.</param>
    /// <returns>The job, judged; the same for the same three whenever it is asked. Nothing is worked out before it is looked at.</returns>
    public static JobAssessment Of(TestRecord record, JobPolicy? policy = null, JobProgress? progress = null) =>
        new(record, policy ?? JobPolicy.Usual, progress ?? new JobProgress());

    /// <summary>How far a step is.</summary>
    /// <param name="kind">The step.</param>
    /// <returns>How much of it is done, of how much, and whether it is over.</returns>
    public StepProgress StepOf(StepKind kind) => StepProgress.For(kind, Tests, Progress, Safety);

    /// <summary>Time spent so far, by the word of the step.</summary>
    public IReadOnlyDictionary<StepKind, TimeSpan> Spent => StepProgress.Spent(Record, Progress);

    /// <summary>What has to be put back.</summary>
    public IReadOnlyList<RefitLine> Refit => StepProgress.RefitOf(Record, Progress);

    /// <summary>Minutes of the plan's steps that are still to be done, about: those done in any case, and those that wait for what the readings show.</summary>
    public (int Sure, int IfNeeded) MinutesLeft => TestPlan.Minutes([.. Plan.Where(p => !StepOf(p.Kind).IsOver)]);
}
