using Zandrik.Core.Compression;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;
using Zandrik.Core.Running;
using Zandrik.Core.Units;
using Zandrik.Storage;

namespace Zandrik.Web.Readings;

/// <summary>
/// Keeps what was read at a step, whichever way it came: typed by a person, taken from an instrument, or cranked on the
/// practice bench. The guards are the same for all three, asked in the transaction that writes.
/// </summary>
public sealed class ReadingDesk(StepStore steps)
{
    /// <summary>A wet reading.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="cylinder">The cylinder.</param>
    /// <param name="pressure">The figure.</param>
    /// <param name="correct">True for a slip of the finger put right: nothing is measured.</param>
    /// <param name="key">Made once for each entry.</param>
    /// <param name="at">When it was read.</param>
    /// <param name="source">The instrument that sent it; absent where a person read it.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task<StepAnswer> WetAsync(ShopPerson who, int job, int cylinder, GaugePressure pressure, bool correct, Guid key, DateTimeOffset at, ReadingSource? source, CancellationToken cancel) =>
        steps.KeepAsync<WetCompressionTest, CompressionReading>(who, job, cylinder, StartWet, (standing, test, before) =>
        {
            var has = before?.Value is not null;
            var why = WetRules.Forbids(standing.Job.Record.Engine, who.Settings) ?? (correct && has ? null : standing.Safety.ForbidsUnderAir ?? standing.Oil.RefusesReading(cylinder));
            if (why is not null)
            {
                return (null, why);
            }
            var keptIn = RecordRules.UnitOf(test.Unit, standing.Job.Record.Engine);
            return ((before ?? new CompressionReading { Cylinder = cylinder }) with
            {
                Value = pressure.In(keptIn),
                AsRead = pressure.Unit == keptIn ? null : new PressureAsRead { Value = pressure.Value, Unit = pressure.Unit },
                Tester = test.Tester,
                OilMl = correct && has ? before!.OilMl : standing.Oil.Ml(cylinder),
                At = at,
                By = who.Person,
            }, null);
        }, key, at, source, cancel);

    /// <summary>Both gauges of a leak-down, or its percent scale.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="cylinder">The cylinder.</param>
    /// <param name="read">The figures.</param>
    /// <param name="correct">True for a slip of the finger put right.</param>
    /// <param name="key">Made once for each entry.</param>
    /// <param name="at">When it was read.</param>
    /// <param name="source">The instrument that sent it; absent where a person read it.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task<StepAnswer> LeakDownAsync(ShopPerson who, int job, int cylinder, LeakFigures read, bool correct, Guid key, DateTimeOffset at, ReadingSource? source, CancellationToken cancel) =>
        steps.KeepOneOfAsync<LeakDownTest, LeakDownReading>(who, job, cylinder, j => StartLeakDown(who, j.Unit), (standing, readings) => LeakDownEntry.Which(readings, correct, standing.AirWentOnAt), (standing, test, before) =>
        {
            var has = LeakDownEntry.HasFigure(before);
            if (!(correct && has) && standing.Crank.RefusesReading(cylinder) is { } why)
            {
                return (null, why);
            }
            var keptIn = RecordRules.UnitOf(test.Unit, standing.Job.Record.Engine);
            double? In(double? value) => value is { } v ? new GaugePressure(v, read.Unit).In(keptIn) : null;
            var conditions = before?.Conditions ?? new TestConditions();
            // A slip of the finger is put right without measuring: how it was measured stays as it was.
            conditions = correct && has ? conditions : conditions with
            {
                OilBefore = standing.Oil.HoldOil.Contains(cylinder) ? true : standing.Oil.EverOiled ? false : null,
                NotPrepared = NotOpened(standing) is { Count: > 0 } shut ? shut : null,
            };
            return ((before ?? new LeakDownReading { Cylinder = cylinder }) with
            {
                Supply = In(read.Supply),
                Held = In(read.Held),
                LeakPercent = read.Percent,
                Confirmed = null,
                At = at,
                By = who.Person,
                Tester = test.Tester,
                Conditions = conditions == new TestConditions() ? null : conditions,
            }, null);
        }, key, at, source, cancel);

    /// <summary>What was heard, or confirmed, under air.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="cylinder">The cylinder.</param>
    /// <param name="change">The reading after it, from the reading so far and how things stand.</param>
    /// <param name="key">Made once for each entry.</param>
    /// <param name="at">When.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task<StepAnswer> ListenAsync(ShopPerson who, int job, int cylinder, Func<LeakDownReading, JobState, LeakDownReading> change, Guid key, DateTimeOffset at, CancellationToken cancel) =>
        steps.KeepAsync<LeakDownTest, LeakDownReading>(who, job, cylinder, j => StartLeakDown(who, j.Unit), (standing, _, before) =>
            // Air can only be heard while it is on; afterwards what was noted can be put right.
            before is null && standing.Crank.RefusesReading(cylinder) is { } why
                ? (null, why)
                : (change(before ?? new LeakDownReading { Cylinder = cylinder, At = at, By = who.Person }, standing), null), key, at, null, cancel);

    /// <summary>A reading on a running engine.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="cylinder">The cylinder.</param>
    /// <param name="pressure">The figure.</param>
    /// <param name="make">The reading with it, or why it is not taken: idle, snap or held throttle of <see cref="RunningEntry"/>.</param>
    /// <param name="key">Made once for each entry.</param>
    /// <param name="at">When it was read.</param>
    /// <param name="source">The instrument that sent it; absent where a person read it.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task<StepAnswer> RunningAsync(
        ShopPerson who, int job, int cylinder, GaugePressure pressure, Func<RunningReading, double, (RunningReading? Reading, string? Refused)> make, Guid key, DateTimeOffset at, ReadingSource? source, CancellationToken cancel) =>
        steps.KeepAsync<RunningCompressionTest, RunningReading>(who, job, cylinder, StartRunning, (standing, test, before) =>
        {
            var record = standing.Job.Record;
            var safe = standing.Ticked(StepStore.Running);
            if (RunningEntry.Refuses(record, standing.Safety, standing.Assessment.Tests.Dry, cylinder, safe.ContainsKey, standing.Assessment.Tests.LeakDown) is { } why)
            {
                return (null, why);
            }
            var (reading, refused) = make(before ?? new RunningReading { Cylinder = cylinder }, pressure.In(RecordRules.UnitOf(test.Unit, record.Engine)));
            return (reading is null ? null : reading with { Tester = test.Tester, At = at, By = who.Person, Provisional = RunningRules.IsProvisional(standing.Assessment.Tests.Dry, cylinder) ? true : null }, refused);
        }, key, at, source, cancel);

    /// <summary>A wet test as it is begun: the same way as the dry one, with the same gauge.</summary>
    /// <param name="job">The job.</param>
    public static WetCompressionTest StartWet(Job job) => CountingTests.Dry(job.Record) is { } dry
        ? new() { Unit = dry.Unit ?? job.Unit, Tester = dry.Tester, Conditions = dry.Conditions is { } how ? how with { OilBefore = null } : null }
        : new() { Unit = job.Unit };

    /// <summary>A leak-down as it is begun.</summary>
    /// <param name="who">The shop, whose barometer counts.</param>
    /// <param name="unit">The unit of its figures.</param>
    public static LeakDownTest StartLeakDown(ShopPerson who, PressureUnit unit) => new()
    {
        Unit = unit, Conditions = who.Settings.BarometricKPa is { } kPa ? new TestConditions { BarometricKPa = kPa } : null,
    };

    /// <summary>A running test as it is begun.</summary>
    /// <param name="job">The job.</param>
    public static RunningCompressionTest StartRunning(Job job) => new() { Unit = job.Unit, Tester = CountingTests.Dry(job.Record)?.Tester };

    /// <summary>Lines of the leak-down's own preparation that are not ticked.</summary>
    /// <param name="standing">How things stand.</param>
    public static IReadOnlyList<PreparationItem> NotOpened(JobState standing) =>
        LeakPreparation.NotOpened(standing.Job.Record.Engine, [.. standing.Ticked(StepStore.Leak).Keys]);
}

/// <summary>What a leak-down tester showed.</summary>
/// <param name="Supply">Supply; absent on a percent scale.</param>
/// <param name="Held">Held; absent on a percent scale.</param>
/// <param name="Percent">Loss, percent; absent with two gauges.</param>
/// <param name="Unit">The unit of supply and held.</param>
public sealed record LeakFigures(double? Supply, double? Held, double? Percent, PressureUnit Unit);
