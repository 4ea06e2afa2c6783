using Microsoft.AspNetCore.Mvc;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>A job on paper: a page to print, and the same as a PDF, both made of one sheet.</summary>
/// <typeparam name="T">The sheet.</typeparam>
public abstract class PrintedPage<T>(Visitor visitor, WorkspaceStore workspaces, VerdictStore verdicts) : JobPage(visitor, workspaces)
    where T : class
{
    public T Sheet { get; private set; } = null!;

    /// <summary>Makes the sheet of the job.</summary>
    /// <param name="signed">The verdict that stands; absent while none is signed.</param>
    protected abstract T Make(KeptVerdict? signed);

    /// <summary>The PDF of a sheet.</summary>
    protected abstract byte[] Pdf(T sheet);

    /// <summary>What the file's name says behind the job's number; empty for nothing.</summary>
    protected virtual string FileWord => "";

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) => await FindAsync(cancel) ? Page() : NotFound();

    public async Task<IActionResult> OnGetPdfAsync(CancellationToken cancel) =>
        await FindAsync(cancel) ? File(Pdf(Sheet), "application/pdf", $"zandrik-job-{Number:0000}{FileWord}.pdf") : NotFound();

    private async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return false;
        }
        Sheet = Make(Workspace.Verdict is { Stands: true } signed ? await verdicts.FindAsync(Who, Number, signed.Version, cancel) : null);
        return true;
    }
}
