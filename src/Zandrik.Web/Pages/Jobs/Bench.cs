using System.Globalization;
using Microsoft.AspNetCore.Html;
using Zandrik.Core.Compression;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Engines;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Safety;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Drawings;
using Zandrik.Web.Front;
using Zandrik.Web.Practice;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>
/// Everything the workspace of a dry test shows: the part of the page that is swapped with every reading.
/// </summary>
public sealed record Bench
{
    public required ShopPerson Who { get; init; }

    public required Job Job { get; init; }

    /// <summary>What all readings say together.</summary>
    public JudgementCard Card => field ??= new(JobState);

    /// <summary>The job with everything done at its steps.</summary>
    public required JobState JobState { get; init; }

    /// <summary>What can hurt somebody here, and so what is locked.</summary>
    public JobSafety Safety => JobState.Safety;

    /// <summary>True where this person may write on this job as it is.</summary>
    public bool MayWrite => Who.MayMeasure && !Safety.IsClosed;

    /// <summary>The gauge of the practice bench, in the place of the pad.</summary>
    public GaugePanel Panel => new(Job.Number, $"Gauge · cylinder {Cylinder}", Cylinder, Job.Record.Engine, Unit, "dry", ReadingOf(Cylinder)?.Counts() == true ? $"Crank cylinder {Cylinder} again" : $"Crank cylinder {Cylinder}", $"{Address}?cylinder={Cylinder}")
    {
        AsksCompressions = true, Kept = Kept(Cylinder), Pascals = ReadingOf(Cylinder)?.PressurePa(TestUnit) ?? 0,
    };

    /// <summary>Why nothing is typed on the pad; absent where it may be.</summary>
    public string? Locked => Safety.ForbidsWriting ?? Safety.ForbidsUnderAir;

    /// <summary>Row of the test; absent until the first reading or condition starts it.</summary>
    public long? TestId { get; init; }

    public required DryCompressionTest Test { get; init; }

    public required DryJudgement Judged { get; init; }

    /// <summary>The cylinder the pad stands on.</summary>
    public required int Cylinder { get; init; }

    /// <summary>What the next figure is meant as.</summary>
    public PadEntryKind Kind { get; init; }

    /// <summary>What was typed and not taken; shown again with its message.</summary>
    public string? Typed { get; init; }

    /// <summary>The message by the pad's field.</summary>
    public string? Problem { get; init; }

    /// <summary>The shop's testers, for the choice of the gauge.</summary>
    public IReadOnlyList<KeptTester> Testers { get; init; } = [];

    /// <summary>The job's steps.</summary>
    public Rail Rail { get; init; } = Rail.Empty;

    /// <summary>True once a line of the preparation was ticked.</summary>
    public bool PreparationBegun { get; init; }

    /// <summary>What the shop knows of the engine; absent for nothing.</summary>
    public WorkshopSheet? Workshop { get; init; }

    /// <summary>Lines of the preparation that were not ticked when the cylinder at the pad was read.</summary>
    public IReadOnlyList<PreparationItem> Unticked => DryReading.Of(Test, Job.Record.Engine).FirstOrDefault(r => r.Cylinder == Cylinder)?.NotPrepared ?? [];

    /// <summary>The day it is in the shop.</summary>
    public DateOnly Today { get; init; }

    /// <summary>Details that were typed and not taken; shown again with <see cref="DetailsProblem"/>.</summary>
    public DetailsForm? Details { get; init; }

    /// <summary>The message by the details.</summary>
    public string? DetailsProblem { get; init; }

    /// <summary>A barometer that was typed and not taken.</summary>
    public string? BarometerTyped { get; init; }

    /// <summary>The message by the barometer.</summary>
    public string? BarometerProblem { get; init; }

    /// <summary>A count that was typed and not taken.</summary>
    public string? CountTyped { get; init; }

    /// <summary>The message by the count.</summary>
    public string? CountProblem { get; init; }

    /// <summary>An order that was typed and not taken.</summary>
    public string? OrderTyped { get; init; }

    /// <summary>The message by the order.</summary>
    public string? OrderProblem { get; init; }

    /// <summary>What just happened, for people who cannot see it.</summary>
    public string? Done { get; init; }

    public PressureUnit Unit => Job.Unit;

    private IReadOnlyDictionary<int, KeptReading> Rows => TestId is { } t && Job.Rows.TryGetValue(t, out var rows) ? rows : new Dictionary<int, KeptReading>();

    /// <summary>The row of a cylinder's reading as it is kept; absent for none.</summary>
    public KeptReading? Kept(int cylinder) => Rows.GetValueOrDefault(cylinder);

    /// <summary>The row of a cylinder as it is shown, 0 for none: goes along with an entry, so that it never hides what was not seen.</summary>
    public long Seen(int cylinder) => Rows.GetValueOrDefault(cylinder)?.Id ?? 0;

    /// <summary>The same for every cylinder, from 1, as the pad's script reads it.</summary>
    public string SeenRows => string.Join(' ', Judged.Cylinders.Select(c => Seen(c.Cylinder).ToString(CultureInfo.InvariantCulture)));

    /// <summary>The most an engine of this fuel reads, in each unit, as the pad's script reads it: more is asked about before it is saved.</summary>
    public string Most => string.Join(' ', PressureUnits.All.Select(u => string.Create(CultureInfo.InvariantCulture, $"{RecordWords.Of(u)}={JudgingRules.For(Job.Record.Engine).HighestPossiblePa / u.Pascals():0.##}")));

    /// <summary>Cylinders that have a reading, as the pad's script reads them.</summary>
    public string MeasuredCylinders => string.Join(' ', Judged.Cylinders.Where(c => ReadingOf(c.Cylinder)?.Counts() == true).Select(c => c.Cylinder));

    /// <summary>Readings that two people took without seeing each other's, by cylinder.</summary>
    public IReadOnlyList<(int Cylinder, ConflictingReading Conflicting)> Choices =>
        [.. Rows.Where(r => r.Value.Conflicting is not null).OrderBy(r => r.Key).Select(r => (r.Key, r.Value.Conflicting!))];

    public string Address => $"/jobs/{Job.Number}/dry";

    /// <summary>Address that a form of the bench posts to.</summary>
    public string To(string handler) => $"{Address}?handler={handler}";

    /// <summary>Fields of every form of the bench: which test, which cylinder.</summary>
    public IHtmlContent Which => new HtmlString((TestId is { } t ? $"<input type=\"hidden\" name=\"test\" value=\"{t}\">" : "") + $"<input type=\"hidden\" name=\"cylinder\" value=\"{Cylinder}\">");

    /// <summary>What the pad's main button keeps: a reading, or what was asked for.</summary>
    public PadEntryKind Arming => Kind is PadEntryKind.Repeat or PadEntryKind.FirstPulse ? Kind : PadEntryKind.Reading;

    /// <summary>True when what is judged is not what was read: by the gauge's check, or at sea level.</summary>
    public bool IsCorrected => Judged.Cylinders.Any(c => c.IsCorrected(Unit));

    /// <summary>Address of the bench with the pad on a cylinder of this test.</summary>
    public string At(int cylinder) => $"{Address}?{(TestId is { } t ? $"test={t}&" : "")}cylinder={cylinder}";

    /// <summary>The reading of a cylinder; absent when it has none.</summary>
    public CompressionReading? ReadingOf(int cylinder) =>
        Test.Readings?.FirstOrDefault(r => r.Cylinder == cylinder && r.SupersededBy is null);

    /// <summary>Every reading of a cylinder, struck out or not: the one that stands first, then its repeats in the order they were taken.</summary>
    public IReadOnlyList<TakenReading> TakenAt(int cylinder) => ReadingOf(cylinder) is { } reading ? TakenReading.All(reading, TestUnit) : [];

    /// <summary>What was typed to strike a reading out and not taken.</summary>
    public string? StrikeProblem { get; init; }

    /// <summary>A figure of the test in the test's own unit.</summary>
    public GaugePressure Read(double value) => new(value, TestUnit);

    /// <summary>The order in which the cylinders are tested.</summary>
    public IReadOnlyList<int> Order => Test.TestOrder ?? [.. Enumerable.Range(1, Judged.Cylinders.Count)];

    /// <summary>The gauge of the test in the shop's list; absent when none is noted or it is not the shop's.</summary>
    public KeptTester? Gauge => Testers.FirstOrDefault(t => t.Tester.Label == Test.Tester?.Label);

    /// <summary>Readings that were taken with another gauge than the one noted now.</summary>
    public IReadOnlyList<int> WithAnotherGauge => Test.Tester?.Label is not { } label ? []
        : [.. (Test.Readings ?? []).Where(r => r.Value is not null && r.Tester?.Label is { } own && own != label).Select(r => r.Cylinder).Order()];

    /// <summary>The test before this one on the same engine, drawn as a ghost; absent when there is none.</summary>
    public DryJudgement? Ghost { get; init; }

    /// <summary>When the ghost was measured.</summary>
    public DateTimeOffset? GhostAt { get; init; }

    /// <summary>This test's gauge held against the one of another test, on the cylinders both have read; absent where there is no such test.</summary>
    public GaugeComparison? Gauges => GaugeComparison.Of(Test, Job.DryTests.Select(t => t.Test), Job.Record.Engine);

    /// <summary>What tells a test from the others of the job: when, cold or warm, with which gauge, and what for.</summary>
    public string NameOf(DryCompressionTest test) => string.Join(" · ", new[]
    {
        test.At is { } at ? ShopText.Time(at, Who) : null,
        test.Conditions?.EngineTemperature is { } warm ? RecordWords.Of(warm) : null,
        test.Tester?.Label,
        test.Role is null ? null : "gauge check",
    }.OfType<string>());

    /// <summary>The latest cold and the latest warm test of the job that were done with one gauge, where there is one of each: whole tests are compared, never readings of two gauges.</summary>
    public (DryCompressionTest Cold, DryCompressionTest Warm)? ColdAndWarm
    {
        get
        {
            var tests = Job.DryTests.Select(t => t.Test).Where(t => t.Role is null && t.Readings?.Any(r => r.Counts()) == true).ToList();
            foreach (var warm in tests.Where(t => t.Conditions?.EngineTemperature == EngineTemperature.Warm).Reverse())
            {
                if (tests.LastOrDefault(t => t.Conditions?.EngineTemperature == EngineTemperature.Cold && t.Tester?.Label == warm.Tester?.Label) is { } cold)
                {
                    return (cold, warm);
                }
            }
            return null;
        }
    }

    public PressureUnit TestUnit => RecordRules.UnitOf(Test.Unit, Job.Record.Engine);

    /// <summary>A cylinder's reading in a test, as it was read; absent when it has none.</summary>
    public static GaugePressure? Figure(DryCompressionTest test, EngineSheet engine, int cylinder) =>
        test.Readings?.FirstOrDefault(r => r.Cylinder == cylinder && r.SupersededBy is null)?.ReadAs(RecordRules.UnitOf(test.Unit, engine));

    public CylinderFinding Selected => Judged.Cylinders[Cylinder - 1];

    public ColumnsPicture Picture => DryPicture.Of(Job.Record.Engine, Test, Judged, Unit, Cylinder, At, Ghost);

    /// <summary>Puts the bench together.</summary>
    /// <param name="who">Who is looking.</param>
    /// <param name="standing">The job as it stands.</param>
    /// <param name="test">Row of the dry test; absent for the latest.</param>
    /// <param name="cylinder">The cylinder for the pad; absent for the first without a reading.</param>
    /// <returns>The bench; absent when the job has no such test.</returns>
    public static Bench? Of(ShopPerson who, JobState standing, long? test, int? cylinder)
    {
        var job = standing.Job;
        var tests = job.DryTests;
        var chosen = test is null ? job.LatestDry : tests.FirstOrDefault(t => t.Id == test);
        if (test is not null && chosen.Test is null)
        {
            return null;
        }
        var dry = chosen.Test ?? new DryCompressionTest { Unit = job.Unit };
        var bench = new Bench
        {
            Who = who,
            Job = job,
            JobState = standing,
            TestId = chosen.Test is null ? null : chosen.Id,
            Test = dry,
            Judged = standing.Assessment.Tests.Of(dry),
            Cylinder = 1,
        };
        var before = tests.TakeWhile(t => t.Id != bench.TestId).LastOrDefault(t => t.Test.Readings?.Any(r => r.Counts()) == true).Test;
        if (before is not null && bench.TestId is not null)
        {
            bench = bench with { Ghost = standing.Assessment.Tests.Of(before), GhostAt = before.At };
        }
        var cylinders = job.Record.Engine.Cylinders;
        return bench with { Cylinder = cylinder is { } c && c >= 1 && c <= cylinders ? c : bench.NextAfter(0) ?? bench.Order[0] };
    }

    /// <summary>This bench with the last dry test of an earlier job behind it, where that was of the same engine.</summary>
    /// <param name="earlier">The earlier job.</param>
    /// <param name="judged">Its tests, judged.</param>
    public Bench WithGhostOf(Job earlier, JudgedTests judged) =>
        judged.DryTest is { } test && EngineRules.MayBeOne(Job.Record.Engine, earlier.Record.Engine) ? this with { Ghost = judged.Dry, GhostAt = test.At ?? earlier.OpenedAt } : this;

    /// <summary>The next cylinder without a reading after one, going round; absent when all have one.</summary>
    public int? NextAfter(int cylinder)
    {
        var order = Order;
        var from = order.ToList().IndexOf(cylinder);
        for (var step = 1; step <= order.Count; step++)
        {
            var c = order[(from + step) % order.Count];
            if (ReadingOf(c)?.Counts() != true)
            {
                return c;
            }
        }
        return null;
    }
}
