using System.Globalization;
using Zandrik.Storage;

namespace Zandrik.Web.Help;

/// <summary>A stop of the tour: a page, a part of it, and what to see there.</summary>
/// <param name="Page">The page: an address, with the job in it where it is of one.</param>
/// <param name="Part">What is shown there, as a selector; empty for the whole page.</param>
/// <param name="Title">What it is.</param>
/// <param name="Says">What to see.</param>
public sealed record TourStop(string Page, string Part, string Title, string Says);

/// <summary>Two minutes through a job that is there to be looked at: the sample of a new shop, or its like among the demo data.</summary>
public static class Tour
{
    /// <summary>The stops, some ten seconds each.</summary>
    public static IReadOnlyList<TourStop> Stops { get; } =
    [
        new("/", ".bay-group", "Bays", "Every open job, by how far it is: what it looks like, what is wrong, what comes next."),
        new("/jobs/{0}/plan", ".plan", "Plan", "A job opens on its plan: what to do on this engine, in which order, with minutes and tools. One button starts it."),
        new("/jobs/{0}/prepare", "#step .middle, #step", "Prepare", "What has to be so before a reading counts. One tap says that all of it is done; what is not done is taken into account."),
        new("/jobs/{0}/dry", ".pad", "The pad", "Type a reading, press Enter: it is saved and the pad goes on. Without a network it waits on the tablet."),
        new("/jobs/{0}/dry", ".columns-part, .picture, svg.columns", "Cylinders as they sit", "The engine from above. The fuller a column, the higher the reading; texture, mark and word say the state. Here 2 and 3 are low, side by side."),
        new("/jobs/{0}/leak-down", "#step", "Leak-down", "The ring says which cylinder comes next, how far to turn and which way. Nothing is offered that could hurt somebody at the crank."),
        new("/jobs/{0}/judgement", "#step .middle", "Judgement", "All readings together: who is suspected, how sure that is, why, and which test tells the most for its minutes."),
        new("/jobs/{0}/verdict", "#step .middle", "Verdict", "Agree or say something else, and sign. It stays as it was, whatever changes later."),
        new("/jobs/{0}/owner", ".owner", "For the owner", "The same in plain words on one page, to print or send. That is the tour: open the first job of your own."),
    ];

    /// <summary>The job of the tour; absent where the shop has neither the sample nor the demo data.</summary>
    public static Task<int?> JobAsync(ImportStore imports, ShopPerson who, CancellationToken cancel) => imports.TourJobAsync(who, $"demo {Front.Preparation.SampleFile}", cancel);

    /// <summary>The address of a stop.</summary>
    /// <param name="stop">Its number, from 1.</param>
    /// <param name="job">The job of the tour.</param>
    public static string Address(int stop, int job) => $"{string.Format(CultureInfo.InvariantCulture, Stops[stop - 1].Page, job)}?tour={stop.ToString(CultureInfo.InvariantCulture)}&tour-job={job.ToString(CultureInfo.InvariantCulture)}";
}
