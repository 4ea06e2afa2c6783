using System.Text;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Engines;

/// <summary>Engine sheets from a file: first what would change, row by row; kept only when that is confirmed.</summary>
[ForemanOnly]
public sealed class ImportModel(Visitor visitor, SheetStore sheets, TimeProvider clock) : PageModel
{
    /// <summary>Largest file taken, characters.</summary>
    public const int LargestFile = 2_000_000;

    public string? Text { get; private set; }

    public string? Problem { get; private set; }

    public IReadOnlyList<SheetRow>? Rows { get; private set; }

    public IReadOnlyDictionary<int, SheetChange> Changes { get; private set; } = new Dictionary<int, SheetChange>();

    public int Good => Rows?.Count(r => r.Sheet is not null) ?? 0;

    [TempData]
    public string? Done { get; set; }

    public async Task<IActionResult> OnPostAsync(IFormFile? file, string? text, CancellationToken cancel)
    {
        if (file is { Length: > 0 })
        {
            if (file.Length > LargestFile)
            {
                return Bad("The file is larger than 2 MB. Split it.");
            }
            using var reader = new StreamReader(file.OpenReadStream(), new UTF8Encoding(false, throwOnInvalidBytes: false));
            text = await reader.ReadToEndAsync(cancel);
        }
        Text = text;
        return await ReadAsync(cancel) ? Page() : Bad(Problem!);
    }

    public async Task<IActionResult> OnPostKeepAsync(string? text, CancellationToken cancel)
    {
        Text = text;
        if (!await ReadAsync(cancel))
        {
            return Bad(Problem!);
        }
        var (added, changed, same) = await sheets.ImportAsync(visitor.Person, [.. Rows!.Where(r => r.Sheet is not null).Select(r => r.Sheet!)], clock.GetUtcNow(), cancel);
        Done = $"{added} new, {changed} changed, {same} as they were{(Good < Rows!.Count ? $"; {Rows.Count - Good} rows left out" : "")}.";
        return Redirect("/engines");
    }

    private async Task<bool> ReadAsync(CancellationToken cancel)
    {
        if (string.IsNullOrWhiteSpace(Text) || Text.Length > LargestFile)
        {
            Problem = string.IsNullOrWhiteSpace(Text) ? "Choose a file, or paste its text." : "That is more than 2 MB. Split it.";
            return false;
        }
        if (!JsonGate.IsText(Text))
        {
            Problem = "This file has characters that are no text: save it as UTF-8 and choose it again.";
            return false;
        }
        (Rows, Problem) = SheetFile.Read(Text);
        if (Rows is null)
        {
            return false;
        }
        // A name that comes twice would write over itself.
        var seen = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        Rows = [.. Rows.Select(r => r.Sheet is null || seen.Add(r.Name) ? r : r with { Sheet = null, Problems = ["name: an engine of this name stands in the file before."] })];
        var good = Rows.Where(r => r.Sheet is not null).ToList();
        var changes = await sheets.PreviewAsync(visitor.Person, [.. good.Select(r => r.Sheet!)], cancel);
        Changes = good.Zip(changes).ToDictionary(c => c.First.Row, c => c.Second);
        return true;
    }

    private PageResult Bad(string says)
    {
        Problem = says;
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return Page();
    }
}
