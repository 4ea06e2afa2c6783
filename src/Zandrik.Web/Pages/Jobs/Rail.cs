using Zandrik.Core.Checks;
using Zandrik.Core.Compression;
using Zandrik.Core.Planning;
using Zandrik.Core.Records;
using Zandrik.Storage;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The job's steps in the order of its plan, how far each is, and how long it takes.</summary>
/// <param name="Job">The job's number.</param>
/// <param name="Steps">The steps.</param>
/// <param name="SpentMinutes">Minutes spent so far.</param>
/// <param name="LeftMinutes">Minutes of the plan's steps that are still to be done, about.</param>
/// <param name="IfNeededMinutes">Minutes of those that wait for what the readings show, about.</param>
public sealed record Rail(int Job, IReadOnlyList<RailStep> Steps, int SpentMinutes, int LeftMinutes, int IfNeededMinutes)
{
    /// <summary>Nothing to show yet.</summary>
    public static readonly Rail Empty = new(0, [], 0, 0, 0);

    /// <summary>The cylinder under air, which every page of the job says; absent while the air is off.</summary>
    public int? AirOnAt { get; init; }

    public static Rail Of(Workspace found, ShopPerson who, string current)
    {
        var record = found.Job.Record;
        var tests = record.Tests ?? [];
        var engine = record.Engine;
        var (prepared, refitted) = (found.JobState.Ticked(TickStore.Prepare), found.JobState.Ticked(TickStore.Refit));
        var lines = PreparationList.For(engine, found.Workshop);
        var plan = TestPlan.For(record, found.Workshop, who.Settings, found.JobState.Safety);
        var liquid = found.JobState.Safety.Liquid;
        var steps = new List<RailStep>
        {
            new("intake", "Intake", $"/jobs/{found.Job.Number}/intake", "", true, current == "intake"),
            new("plan", "Plan", $"/jobs/{found.Job.Number}/plan", "", false, current == "plan"),
        };
        void Step(string word, string name, string page, int done, int all, bool? over = null)
        {
            if (steps.All(s => s.Word != word))
            {
                steps.Add(new RailStep(word, name, $"/jobs/{found.Job.Number}/{page}", all > 0 ? $"{done}/{all}" : "", over ?? (all > 0 && done >= all), word == current));
            }
        }
        var (dry, asked) = Dry(found.Job);
        foreach (var kind in Kinds(plan, tests, current))
        {
            switch (kind)
            {
                case TestPlan.Liquid:
                    Step(kind, "Liquid out", kind, liquid.Lines.Count(l => liquid.IsTicked(l.Word)), liquid.Lines.Count, over: false);
                    break;
                case "relative-compression":
                    var relative = tests.OfType<RelativeCompressionTest>().LastOrDefault();
                    Step(kind, "Starter current", kind, relative?.Readings?.Count ?? 0, relative?.Readings is null ? 0 : engine.Cylinders, relative is not null);
                    break;
                case "prepare":
                    Step("prepare", "Prepare", "prepare", lines.Count(l => prepared.ContainsKey(RecordWords.Of(l.Item))), lines.Count);
                    break;
                case "plug-inspection":
                    Step("plugs", "Plugs", "plugs", tests.OfType<PlugInspection>().SelectMany(t => t.Readings ?? []).Select(r => r.Cylinder).Distinct().Count(), engine.Cylinders);
                    break;
                case "compression-dry":
                    Step("dry", "Dry", "dry", dry, engine.Cylinders);
                    break;
                case "leak-down":
                    var leak = Read(tests.OfType<LeakDownTest>().SelectMany(t => t.Readings ?? []).Where(r => r.Held is not null || r.LeakPercent is not null));
                    Step("leak-down", "Leak-down", "leak-down", leak.Count, engine.Cylinders, leak.Count > 0 && asked.All(leak.Contains));
                    break;
                case "compression-wet":
                    var wet = Read(tests.OfType<WetCompressionTest>().SelectMany(t => t.Readings ?? []).Where(r => r.Counts()));
                    Step("wet", "Wet", "wet", wet.Count, engine.Cylinders, wet.Count > 0 && asked.All(wet.Contains));
                    break;
                case "compression-running":
                    var running = Read(tests.OfType<RunningCompressionTest>().SelectMany(t => t.Readings ?? []).Where(r => r is { Idle: not null, Snap: not null }));
                    Step("running", "Running", "running", running.Count, engine.Cylinders);
                    break;
                default:
                    if (SupportingCheck.Of(kind) is { Short: { } name })
                    {
                        Step(kind, name, $"checks/{kind}", 0, 0, tests.Any(t => SupportingCheck.KindOf(t) == kind));
                    }
                    break;
            }
        }
        steps.Add(new RailStep("checks", "Other checks", $"/jobs/{found.Job.Number}/checks", "", false, current == "checks"));
        steps.Add(new RailStep("judgement", "Judgement", $"/jobs/{found.Job.Number}/judgement", "", false, current == "judgement"));
        steps.Add(new RailStep("verdict", "Verdict", $"/jobs/{found.Job.Number}/verdict", "", found.Verdict is { Stands: true }, current == "verdict"));
        var refit = RefitOf(found);
        Step("refit", "Reassembly", "refit", refit.Count(l => refitted.ContainsKey(l.Word)), refit.Count);
        var spent = JobClock.Spent(Moments(found));
        var open = plan.Where(p => steps.FirstOrDefault(s => s.Word == WordOf(p.Kind)) is not { Done: true }).ToList();
        var (left, ifNeeded) = TestPlan.Minutes(open);
        return new Rail(found.Job.Number,
            [.. (liquid is { IsLocked: false, Signs.Count: > 0 } ? steps.Append(new RailStep(TestPlan.Liquid, "Liquid out", $"/jobs/{found.Job.Number}/{TestPlan.Liquid}", "", true, current == TestPlan.Liquid)) : steps).Select(s => s with { Minutes = (int)Math.Round(spent.GetValueOrDefault(s.Word).TotalMinutes) })],
            (int)Math.Round(spent.Values.Sum(t => t.TotalMinutes)), left, ifNeeded)
        {
            AirOnAt = found.JobState.Safety.AirOnAt,
        };
    }

    /// <summary>What has to be put back on a job.</summary>
    public static IReadOnlyList<RefitLine> RefitOf(Workspace found)
    {
        var done = found.JobState.Ticked(TickStore.Prepare).Values.Select(t => (Known: RecordWords.TryParse<PreparationItem>(t.Item, out var item), item, t.Way)).Where(t => t.Known).ToDictionary(t => t.item, t => t.Way);
        return RefitList.For(found.Job.Record, done, found.Workshop?.Access ?? []);
    }

    // The steps of the plan in its order; what was done beside it comes after.
    private static IEnumerable<string> Kinds(IReadOnlyList<PlanStep> plan, IReadOnlyList<TestEntry> tests, string current)
    {
        foreach (var step in plan)
        {
            yield return step.Kind;
        }
        foreach (var kind in tests.Select(KindOf).OfType<string>().Append(current switch { "running" => "compression-running", "wet" => "compression-wet", _ => current }))
        {
            yield return kind;
        }
    }

    private static string? KindOf(TestEntry test) => test switch
    {
        WetCompressionTest => "compression-wet",
        RunningCompressionTest => "compression-running",
        RelativeCompressionTest => "relative-compression",
        _ => SupportingCheck.KindOf(test),
    };

    private static HashSet<int> Read(IEnumerable<CylinderReading> readings) => [.. readings.Where(r => r.SupersededBy is null).Select(r => r.Cylinder)];

    // How many are read dry, and which of them the other tests are asked about.
    private static (int Read, IReadOnlyList<int> Asked) Dry(Job job)
    {
        var latest = job.LatestDry.Test;
        var judged = LatestDryTest.Judged(job.Record, job.Unit);
        return ((latest?.Readings ?? []).Count(r => r.Counts()),
            judged is null ? [] : [.. judged.InDoubt.Select(c => c.Cylinder)]);
    }

    private static IEnumerable<StepMoment> Moments(Workspace found)
    {
        foreach (var e in found.Events)
        {
            yield return new StepMoment(e.List switch { StepStore.Leak or StepStore.Crank => "leak-down", StepStore.Oil => "wet", StepStore.Liquid => TestPlan.Liquid, StepStore.Relative => "relative-compression", _ => e.List }, e.At);
        }
        foreach (var test in found.Job.Record.Tests ?? [])
        {
            var (step, readings) = test switch
            {
                DryCompressionTest t => ("dry", t.Readings ?? []),
                WetCompressionTest t => ("wet", t.Readings ?? []),
                LeakDownTest t => ("leak-down", (IReadOnlyList<CylinderReading>?)t.Readings ?? []),
                RunningCompressionTest t => ("running", (IReadOnlyList<CylinderReading>?)t.Readings ?? []),
                PlugInspection t => ("plugs", (IReadOnlyList<CylinderReading>?)t.Readings ?? []),
                _ => (KindOf(test) ?? "", (IReadOnlyList<CylinderReading>)[]),
            };
            foreach (var at in readings.Select(r => r.At).Append(test.At).OfType<DateTimeOffset>())
            {
                yield return new StepMoment(step, at);
            }
        }
    }

    private static string WordOf(string kind) => kind switch
    {
        "plug-inspection" => "plugs",
        "compression-dry" => "dry",
        "compression-wet" => "wet",
        "compression-running" => "running",
        _ => kind,
    };
}

/// <summary>One step of the rail.</summary>
/// <param name="Word">Its word.</param>
/// <param name="Name">What it is called.</param>
/// <param name="Address">Where it is.</param>
/// <param name="Count">How far it is, as in 4/6; empty for nothing to count.</param>
/// <param name="Done">True when nothing is left of it.</param>
/// <param name="Current">True for the step that is shown.</param>
/// <param name="Minutes">Minutes spent on it so far.</param>
public sealed record RailStep(string Word, string Name, string Address, string Count, bool Done, bool Current, int Minutes = 0);
