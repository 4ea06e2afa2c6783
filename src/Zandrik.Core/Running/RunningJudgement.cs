using System.Globalization;
using MathNet.Numerics.Statistics;
using Zandrik.Core.Compression;
using Zandrik.Core.Conditions;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Running;

/// <summary>What running figures say of a cylinder's breathing.</summary>
public enum Breathing
{
    /// <summary>No figure that counts.</summary>
    Unknown,

    /// <summary>The figure is the trapped cranking peak: kept out.</summary>
    Trapped,

    /// <summary>Idle and snap as the others'.</summary>
    Normal,

    /// <summary>Idle well above the others: the burnt charge cannot get out.</summary>
    CannotExhale,

    /// <summary>Snap well below the others: air cannot get in.</summary>
    CannotInhale,
}

/// <summary>One cylinder, running.</summary>
public sealed record RunningFinding
{
    /// <summary>The cylinder.</summary>
    public required int Cylinder { get; init; }

    /// <summary>Pressure at idle, as read; absent when not read.</summary>
    public GaugePressure? Idle { get; init; }

    /// <summary>Pressure after the snap, as read; absent when not read.</summary>
    public GaugePressure? Snap { get; init; }

    /// <summary>Idle over the median of the other cylinders; absent without others; a ratio.</summary>
    public double? IdleToOthers { get; init; }

    /// <summary>Snap over the median of the other cylinders; absent without others; a ratio.</summary>
    public double? SnapToOthers { get; init; }

    /// <summary>Idle over its own dry reading; absent without one; a ratio.</summary>
    public double? IdleToDry { get; init; }

    /// <summary>Snap over its own dry reading; absent without one; a ratio.</summary>
    public double? SnapToDry { get; init; }

    /// <summary>True where the cylinder has no dry reading of its own: a leak is not excluded, and what is said here is provisional.</summary>
    public bool IsProvisional { get; init; }

    /// <summary>Pressure at held full throttle, as read; judged by nothing.</summary>
    public GaugePressure? HeldThrottle { get; init; }

    /// <summary>The spark that was seen.</summary>
    public SparkSeen? Spark { get; init; }

    /// <summary>What it says.</summary>
    public Breathing Breathing { get; init; }

    /// <summary>One short sentence.</summary>
    public string Says { get; init; } = "";
}

/// <summary>
/// Everything a running and snap test says. A cylinder is held against the other cylinders first; the rules of the
/// trade against its own dry reading (idle about half, snap at least 80 percent) come second.
/// </summary>
public sealed record RunningJudgement
{
    /// <summary>Idle readings further apart than this share of the higher one still hold the cranking peak.</summary>
    public const double IdleAgrees = 0.07;

    /// <summary>An idle this near its own dry reading is the trapped cranking peak, unless it was released.</summary>
    public const double PeakShare = 0.90;

    // How far from the others is a finding: a worn exhaust lobe lifts idle by a third and more, a worn intake lobe
    // takes a quarter and more off the snap, in the engine model; readings of sound cylinders scatter by 6 percent.
    private const double IdleWellAbove = 1.20, SnapWellBelow = 0.85;

    // Against the own dry reading, where there are no others, or all are alike. Rules of the trade.
    private const double IdleHigh = 0.70, SnapLow = 0.70;

    /// <summary>One plain sentence.</summary>
    public required string Headline { get; init; }

    /// <summary>Cylinders 1 to N, in order.</summary>
    public required IReadOnlyList<RunningFinding> Cylinders { get; init; }

    /// <summary>What the way of testing did to the numbers.</summary>
    public required IReadOnlyList<ValidityNote> Validity { get; init; }

    /// <summary>Whether two idle readings agree, so that the cranking peak is out of the gauge.</summary>
    /// <param name="idle">The idle readings so far, oldest first.</param>
    /// <returns>False with fewer than two readings.</returns>
    public static bool Agree(IReadOnlyList<double> idle) =>
        idle.Count >= 2 && Math.Abs(idle[^1] - idle[^2]) <= IdleAgrees * Math.Max(idle[^1], idle[^2]) + 1e-9;

    /// <summary>Judges a running test.</summary>
    /// <param name="record">The whole job.</param>
    /// <param name="test">The test; it may be empty.</param>
    /// <param name="shown">The unit of the figures in the sentences; absent for the test's own.</param>
    /// <returns>What each cylinder breathes; of an empty test that it waits.</returns>
    public static RunningJudgement Of(TestRecord record, RunningCompressionTest test, PressureUnit? shown = null) =>
        Of(record, test, LatestDryTest.Judged(record, shown), shown);

    /// <summary>Judges a running test beside a dry one that is judged already.</summary>
    internal static RunningJudgement Of(TestRecord record, RunningCompressionTest test, DryJudgement? dry, PressureUnit? shown)
    {
        var engine = record.Engine;
        var unit = RecordRules.UnitOf(test.Unit, engine);
        double? DryOf(int c) => dry?.Cylinders[c - 1] is { State: not CylinderState.Untested, InQuestion: false, Value: { } v } && v.Pascals > 0 ? v.Pascals : null;

        var readings = (test.Readings ?? []).Where(r => r.SupersededBy is null).GroupBy(r => r.Cylinder).ToDictionary(g => g.Key, g => g.Last());
        bool Trapped(RunningReading r) => (r.Idle is { } i && r.Purged != true && DryOf(r.Cylinder) is { } d && i * unit.Pascals() >= PeakShare * d - 1e-6)
            || (r.IdleReadings is { Count: > 1 } list && !Agree(list));
        var valid = readings.Values.Where(r => !Trapped(r)).ToList();
        double? Median(IEnumerable<double?> values)
        {
            var read = values.OfType<double>().ToList();
            return read.Count == 0 ? null : read.Median();
        }

        var findings = Enumerable.Range(1, engine.Cylinders).Select(c =>
        {
            if (!readings.TryGetValue(c, out var r) || r is { Idle: null, Snap: null, HeldThrottle: null, Spark: null })
            {
                return new RunningFinding { Cylinder = c, Says = "" };
            }
            var own = DryOf(c);
            double? Share(double? value, double? of) => value is { } v && of is > 0 ? v / of : null;
            var f = new RunningFinding
            {
                Cylinder = c,
                Idle = r.Idle is { } i ? new GaugePressure(i, unit) : null,
                Snap = r.Snap is { } s ? new GaugePressure(s, unit) : null,
                IdleToDry = Share(r.Idle * unit.Pascals(), own),
                SnapToDry = Share(r.Snap * unit.Pascals(), own),
                IsProvisional = RunningRules.IsProvisional(dry, c),
                HeldThrottle = r.HeldThrottle is { } h ? new GaugePressure(h, unit) : null,
                Spark = r.Spark,
            };
            if (Trapped(r))
            {
                return f with { Breathing = Breathing.Trapped, Says = "Not used: the gauge still holds the cranking peak. Press the relief while it runs until two idle readings agree, then read." };
            }
            f = f with
            {
                IdleToOthers = Share(r.Idle, Median(valid.Where(o => o.Cylinder != c).Select(o => o.Idle))),
                SnapToOthers = Share(r.Snap, Median(valid.Where(o => o.Cylinder != c).Select(o => o.Snap))),
            };
            var judged = Judge(f);
            return judged.IsProvisional && judged.Breathing != Breathing.Unknown ? judged with { Says = judged.Says + " Provisional: no dry reading, so a leak is not ruled out." } : judged;
        }).ToList();

        var notes = new List<ValidityNote>();
        var trapped = findings.Where(f => f.Breathing == Breathing.Trapped).Select(f => f.Cylinder).ToList();
        if (trapped.Count > 0)
        {
            notes.Add(new ValidityNote(ValidityCode.TrappedPeak, Severity.Invalid, "The gauge still held the cranking peak: press the relief once it runs, and again, until two idle readings agree.", trapped));
        }
        var engineWide = AllAlike(findings, engine.Cylinders);
        return new RunningJudgement { Headline = engineWide ?? HeadlineOf(findings), Cylinders = findings, Validity = notes };
    }

    private static RunningFinding Judge(RunningFinding f)
    {
        string Of(double? share, string what) => share is { } s ? $"{(100 * s).ToString("0", CultureInfo.CurrentCulture)} % of {what}" : "";
        var exhale = f.IdleToOthers >= IdleWellAbove || (f.IdleToOthers is null && f.IdleToDry >= IdleHigh);
        var inhale = f.SnapToOthers <= SnapWellBelow || (f.SnapToOthers is null && f.SnapToDry <= SnapLow);
        if (exhale)
        {
            return f with { Breathing = Breathing.CannotExhale, Says = $"Idle is {(f.IdleToOthers is not null ? Of(f.IdleToOthers, "the others'") : Of(f.IdleToDry, "its dry reading"))}: the burnt charge cannot get out. Exhaust valve not opening, worn lobe." };
        }
        if (inhale)
        {
            return f with { Breathing = Breathing.CannotInhale, Says = $"Snap is {(f.SnapToOthers is not null ? Of(f.SnapToOthers, "the others'") : Of(f.SnapToDry, "its dry reading"))}: air cannot get in. Intake valve hardly opening, or the port carboned." };
        }
        if (f.Idle is null || f.Snap is null)
        {
            return f with { Breathing = Breathing.Unknown, Says = f.Idle is null ? "Idle not read yet." : "Snap not read yet." };
        }
        return f with { Breathing = Breathing.Normal, Says = f.IdleToOthers is null ? "In the usual range; measure another to compare." : "As the others." };
    }

    // With every cylinder alike no cylinder stands out: the cause is one they share.
    private static string? AllAlike(List<RunningFinding> findings, int cylinders)
    {
        var read = findings.Where(f => f.Breathing is not (Breathing.Unknown or Breathing.Trapped) && f.IdleToDry is not null && f.SnapToDry is not null).ToList();
        if (read.Count < Math.Max(2, cylinders / 2.0) || read.Any(f => f.Breathing != Breathing.Normal))
        {
            return null;
        }
        return read.All(f => f.IdleToDry >= IdleHigh) ? "All cylinders idle high alike: look for a blocked exhaust."
            : read.All(f => f.SnapToDry <= SnapLow) ? "All cylinders snap low alike: look at the air path, filter to throttle."
            : null;
    }

    private static string HeadlineOf(List<RunningFinding> findings)
    {
        List<int> With(Breathing b) => [.. findings.Where(f => f.Breathing == b).Select(f => f.Cylinder)];
        var (exhale, inhale, normal, trapped) = (With(Breathing.CannotExhale), With(Breathing.CannotInhale), With(Breathing.Normal), With(Breathing.Trapped));
        return exhale.Count > 0 ? $"Cylinder {CylinderList.Sentence(exhale)} cannot get the burnt charge out: exhaust side."
            : inhale.Count > 0 ? $"Cylinder {CylinderList.Sentence(inhale)} cannot get air in: intake side."
            : trapped.Count > 0 ? $"Cylinder {CylinderList.Sentence(trapped)}: the cranking peak was still in the gauge."
            : normal.Count == findings.Count ? "Every cylinder breathes: look away from the mechanics."
            : normal.Count > 0 ? $"Cylinder {CylinderList.Sentence(normal)} breathes as it should so far."
            : "No running reading yet.";
    }
}
