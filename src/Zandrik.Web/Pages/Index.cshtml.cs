using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Storage;
using Zandrik.Web.Drawings;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages;

/// <summary>Bays: the jobs as the shop floor sees them.</summary>
public sealed class IndexModel(Visitor visitor, JobStore jobs) : PageModel
{
    private const int JobsOnAPage = 12;

    [BindProperty(SupportsGet = true)]
    public string? Show { get; set; }

    [BindProperty(SupportsGet = true, Name = "page")]
    public int PageNumber { get; set; } = 1;

    public bool OpenOnly => Show != "all";

    public ShopPerson Who { get; private set; } = null!;

    public IReadOnlyList<Bay> Bays { get; private set; } = [];

    public int Total { get; private set; }

    public int Pages => Math.Max(1, (Total + JobsOnAPage - 1) / JobsOnAPage);

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Who = visitor.Person;
        PageNumber = Math.Clamp(PageNumber, 1, 1_000_000);
        var page = await jobs.ListAsync(Who, OpenOnly, PageNumber, JobsOnAPage, cancel);
        Total = page.Total;
        Bays = [.. page.Jobs.Select(Bay.Of)];
    }
}

/// <summary>One job on the board.</summary>
/// <param name="Job">The job.</param>
/// <param name="Judged">What its latest dry test says.</param>
/// <param name="Picture">Its cylinders.</param>
public sealed record Bay(Job Job, DryJudgement Judged, ColumnsPicture Picture)
{
    public static Bay Of(Job job)
    {
        var test = job.DryTests is [.., var latest] ? latest.Test : new DryCompressionTest { Unit = job.Unit };
        var judged = DryJudgement.Of(job.Record.Engine, test, job.Record.JudgeBy, job.Unit);
        return new Bay(job, judged, DryPicture.Of(job.Record.Engine, test, judged, job.Unit));
    }
}
