namespace Zandrik.Core.Diagnosis;

/// <summary>The curves of the likelihood table for one job.</summary>
internal sealed class JobCurves(JobEvidence job)
{
    private readonly TableCurves of = job.Table.Curves;
    private readonly (double Idle, double Snap) running = job.RunningAlone ? LikelihoodTable.RunningSpreadAlone : LikelihoodTable.RunningSpread(job.RanCylinders, job.Diesel);

    public FindingCurve Dry(double spread) => of.Dry.Of(spread);

    public FindingCurve Relative(double errorPercent) => of.Relative.Of(errorPercent);

    public FindingCurve Wet((double Gain, double Spread) more, bool nearlyDead) => of.Wet.Of((more.Gain, more.Spread, job.OtherGauge, nearlyDead, job.Diesel));

    public FindingCurve Idle(double more, double? spread) => of.Running.Of((false, more, spread ?? running.Idle));

    public FindingCurve Snap(double more, double? spread) => of.Running.Of((true, more, spread ?? running.Snap));

    public LeakPaths Paths(LeakEvidence leak, double moreRings) => of.Paths.Of((leak.Size, leak.RestrictionMm2, leak.Oiled, moreRings));
}

/// <summary>Curves over the nodes of a setting, each made once: a job is judged again with every reading, and most of its curves are those of the reading before.</summary>
internal sealed class TableCurves(NodeTable table)
{
    // A few jobs' worth: every state of the engine asks for a curve of its own, over dry and oiled cylinders and each tester.
    private const int Most = 128;

    /// <summary>What tests may show.</summary>
    public TestOutcomes Outcomes => field ??= new TestOutcomes(table, table.Setting.Diesel);

    public BoundedCache<double, FindingCurve> Dry { get; } = new(Most, spread => LikelihoodTable.Dry(table, spread));

    public BoundedCache<double, FindingCurve> Relative { get; } = new(Most, error => LikelihoodTable.Relative(table, error));

    public BoundedCache<(double Gain, double Spread, bool OtherGauge, bool NearlyDead, bool Diesel), FindingCurve> Wet { get; } =
        new(Most, w => LikelihoodTable.Wet(table, (w.Gain, w.Spread), w.OtherGauge, w.NearlyDead, w.Diesel));

    public BoundedCache<(bool Snap, double More, double Spread), FindingCurve> Running { get; } = new(Most, r => LikelihoodTable.Running(table, r.Snap, r.More, r.Spread));

    public BoundedCache<(double Size, double Restriction, bool Oiled, double MoreRings), LeakPaths> Paths { get; } = new(Most, p => new LeakPaths(table, p.Size, p.Restriction, p.Oiled, p.MoreRings));
}
