using Zandrik.Storage;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>What stands over every page of a job: which it is, what is complained of, and what leads away from it.</summary>
/// <param name="Job">The job.</param>
/// <param name="Who">Who is looking.</param>
public sealed record JobHead(Job Job, ShopPerson Who)
{
    /// <summary>Where the job is.</summary>
    public string Address => $"/jobs/{Job.Number}";

    /// <summary>The part of an address behind the job, as in <c>dry</c>; empty for another page.</summary>
    public string Part(string path) => path.StartsWith(Address + "/", StringComparison.Ordinal) ? path[(Address.Length + 1)..] : "";

    /// <summary>The step, for the heading of the page; empty for a page that is none.</summary>
    /// <param name="title">The title of the page: the step before a dot, then the job's.</param>
    public string Step(string? title) => title is not null && title.EndsWith($" · {Job.Title}", StringComparison.Ordinal) ? title[..^(Job.Title.Length + 3)] : "";
}
