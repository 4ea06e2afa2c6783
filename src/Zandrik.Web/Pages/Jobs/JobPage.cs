using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Engines;
using Zandrik.Core.Planning;
using Zandrik.Core.Records;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>What every page of a job shows around its own part: the job, its rail, and who is looking.</summary>
public abstract class JobPage(Visitor visitor, JobStore jobs, TickStore ticks, SheetStore sheets) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int Number { get; set; }

    public ShopPerson Who => visitor.Person;

    public Job Job { get; private set; } = null!;

    public WorkshopSheet? Workshop { get; private set; }

    public Rail Rail { get; private set; } = null!;

    public IReadOnlyDictionary<string, Tick> Prepared { get; private set; } = new Dictionary<string, Tick>();

    public IReadOnlyDictionary<string, Tick> Refitted { get; private set; } = new Dictionary<string, Tick>();

    protected JobStore Jobs => jobs;

    protected TickStore Ticks => ticks;

    protected abstract string Step { get; }

    /// <summary>False when the shop has no such job.</summary>
    protected async Task<bool> LoadAsync(CancellationToken cancel)
    {
        if (await jobs.FindAsync(Who, Number, cancel) is not { } job)
        {
            return false;
        }
        Job = job;
        Workshop = job.SheetVersionId is { } version ? (await sheets.VersionAsync(Who, version, cancel))?.Document.Workshop : null;
        Prepared = await ticks.ListAsync(Who, Number, TickStore.Prepare, cancel);
        Refitted = await ticks.ListAsync(Who, Number, TickStore.Refit, cancel);
        Rail = Rail.Of(job, Step, Prepared, Refitted, Workshop);
        return true;
    }
}

/// <summary>The job's steps in working order, and how far each is.</summary>
/// <param name="Job">The job's number.</param>
/// <param name="Steps">The steps.</param>
public sealed record Rail(int Job, IReadOnlyList<RailStep> Steps)
{
    public static Rail Of(Job job, string current, IReadOnlyDictionary<string, Tick> prepared, IReadOnlyDictionary<string, Tick> refitted, WorkshopSheet? workshop)
    {
        var engine = job.Record.Engine;
        var lines = PreparationList.For(engine, workshop);
        var ticked = lines.Count(l => prepared.ContainsKey(RecordWords.Of(l.Item)));
        var plugs = (job.Record.Tests ?? []).OfType<PlugInspection>().SelectMany(t => t.Readings ?? []).Select(r => r.Cylinder).Distinct().Count();
        var dry = job.DryTests is [.., var latest] ? (latest.Test.Readings ?? []).Count(r => r.Value is not null) : 0;
        var refit = RefitOf(job, prepared, workshop);
        var back = refit.Count(l => refitted.ContainsKey(l.Word));
        RailStep Step(string word, string name, string page, int done, int all) => new(word, name, $"/jobs/{job.Number}/{page}", all > 0 ? $"{done}/{all}" : "", all > 0 && done >= all, word == current);
        return new Rail(job.Number,
        [
            new RailStep("intake", "Intake", $"/jobs/{job.Number}/intake", "", true, false),
            new RailStep("plan", "Plan", $"/jobs/{job.Number}/plan", "", false, current == "plan"),
            Step("prepare", "Prepare", "prepare", ticked, lines.Count),
            Step("plugs", "Plugs", "plugs", plugs, engine.Cylinders),
            Step("dry", "Dry", "dry", dry, engine.Cylinders),
            Step("refit", "Refit", "refit", back, refit.Count),
        ]);
    }

    /// <summary>What has to be put back on a job.</summary>
    public static IReadOnlyList<RefitLine> RefitOf(Job job, IReadOnlyDictionary<string, Tick> prepared, WorkshopSheet? workshop)
    {
        var done = prepared.Values.Select(t => (Known: RecordWords.TryParse<PreparationItem>(t.Item, out var item), item, t.Way)).Where(t => t.Known).ToDictionary(t => t.item, t => t.Way);
        return RefitList.For(job.Record, done, workshop?.Access ?? []);
    }
}

/// <summary>One step of the rail.</summary>
/// <param name="Word">Its word.</param>
/// <param name="Name">What it is called.</param>
/// <param name="Address">Where it is.</param>
/// <param name="Count">How far it is, as in 4/6; empty for nothing to count.</param>
/// <param name="Done">True when nothing is left of it.</param>
/// <param name="Current">True for the step that is shown.</param>
public sealed record RailStep(string Word, string Name, string Address, string Count, bool Done, bool Current);
