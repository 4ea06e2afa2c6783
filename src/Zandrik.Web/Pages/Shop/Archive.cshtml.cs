using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.Net.Http.Headers;
using Zandrik.Storage;
using Zandrik.Storage.Archives;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Shop;

/// <summary>The shop's archive: every job as an open record, tables of jobs and readings, in one file to take along.</summary>
[ForemanOnly]
public sealed class ArchiveModel(Visitor visitor, ArchiveStore archives, ArchiveDesk desk, TimeProvider clock) : PageModel
{
    public ShopPerson Who => visitor.Person;

    public DateTimeOffset Now => clock.GetUtcNow();

    /// <summary>The archive that is there or is being made; absent for none.</summary>
    public ArchiveLine? Line { get; private set; }

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        Line = await archives.LatestAsync(Who, Now, cancel);
        return Request.IsHtmx() ? Partial("_Archive", this) : Page();
    }

    /// <summary>Begins it.</summary>
    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        await desk.BeginAsync(Who, cancel);
        return Redirect("/shop/archive");
    }

    /// <summary>The file; a download that broke off goes on where it was.</summary>
    public async Task<IActionResult> OnGetFileAsync(int id, CancellationToken cancel) =>
        await archives.LatestAsync(Who, Now, cancel) is { FinishedAt: { } finished } line && line.Id == id && await archives.OpenAsync(Who, id, cancel) is { } stream
            ? new FileStreamResult(stream, "application/zip")
            {
                FileDownloadName = $"zandrik-archive-{ShopText.LocalDay(line.At, Who):yyyy-MM-dd}.zip", LastModified = finished, EntityTag = new EntityTagHeaderValue($"\"archive-{line.Id}-{line.Bytes}\""), EnableRangeProcessing = true,
            }
            : NotFound();
}
