using System.Globalization;
using System.Text;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Engines;
using Zandrik.Core.Imports;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Web.Front;
using Zandrik.Web.Imports;

namespace Zandrik.Web.Pages.Import;

/// <summary>A table on its way in: its columns are matched, what each row would do is shown, and only then is it saved.</summary>
[ForemanOnly]
public sealed class TableModel(Visitor visitor, ImportDesk desk) : PageModel
{
    /// <summary>Largest table taken, characters.</summary>
    public const int LargestTable = 2_000_000;

    /// <summary>Most rows of a preview that are shown.</summary>
    public const int MostShown = 50;

    [BindProperty(SupportsGet = true)]
    public string What { get; set; } = "";

    /// <summary>Which column holds what, as it was chosen.</summary>
    [BindProperty]
    public Dictionary<string, string?>? Match { get; set; }

    /// <summary>Made with the preview: sent twice, it is imported once.</summary>
    [BindProperty]
    public Guid Entry { get; set; }

    [BindProperty]
    public bool Again { get; set; }

    /// <summary>The unit of pressures where a row names none, as a word.</summary>
    [BindProperty]
    public string? Unit { get; set; }

    [TempData]
    public string? Done { get; set; }

    public ImportSubject Subject => ImportSubject.All.First(s => s.Word == What);

    public string? Text { get; private set; }

    public string? Problem { get; private set; }

    public ImportTable? Table { get; private set; }

    public ImportPreview? Preview { get; private set; }

    public IReadOnlyList<PreviewRow> TakenRows => [.. Preview!.Rows.Where(r => r.IsTaken)];

    public IReadOnlyList<PreviewRow> LeftOut => [.. Preview!.Rows.Where(r => !r.IsTaken)];

    /// <summary>Columns of the table that nothing is read from.</summary>
    public IReadOnlyList<string> Unused => [.. Table!.Headers.Where((_, i) => !chosen.ContainsValue(i) && !beside.Contains(i))];

    private Dictionary<string, int> chosen = [];
    private HashSet<int> beside = [];

    public int? Chosen(string key) => chosen.TryGetValue(key, out var at) ? at : null;

    /// <summary>What stands in the column that was chosen, or what could stand in it.</summary>
    public string Sample(string key) => Chosen(key) is { } at
        ? string.Join(" · ", Table!.Rows.Select(r => r[at]).Where(c => c.Length > 0).Take(3).Select(c => c.Length > 24 ? c[..23] + "…" : c)) is { Length: > 0 } sample ? sample : "empty"
        : Subject.Columns.First(c => c.Key == key).Hint;

    public async Task<IActionResult> OnPostAsync(IFormFile? file, string? text, CancellationToken cancel)
    {
        if (file is { Length: > 0 })
        {
            if (file.Length > LargestTable)
            {
                return Bad("The file is larger than 2 MB. Split it.");
            }
            using var reader = new StreamReader(file.OpenReadStream(), new UTF8Encoding(false, throwOnInvalidBytes: false));
            text = await reader.ReadToEndAsync(cancel);
        }
        return await ReadAsync(text, null, cancel) ? Page() : Bad(Problem!);
    }

    public async Task<IActionResult> OnPostPreviewAsync(string? text, CancellationToken cancel) => await ReadAsync(text, Match, cancel) ? Page() : Bad(Problem!);

    public async Task<IActionResult> OnPostSaveAsync(string? text, CancellationToken cancel)
    {
        if (!await ReadAsync(text, Match, cancel))
        {
            return Bad(Problem!);
        }
        await Preview!.Save(Entry, cancel);
        var left = Preview.Rows.Count - Preview.Taken;
        Done = $"{Preview.Taken} of {Preview.Rows.Count} {(Preview.Rows.Count == 1 ? "row" : "rows")} imported{(left > 0 ? $", {left} left out" : "")}. Undo removes all of them again.";
        return Redirect("/import");
    }

    private async Task<bool> ReadAsync(string? text, Dictionary<string, string?>? picked, CancellationToken cancel)
    {
        Text = text;
        if (Entry == Guid.Empty)
        {
            Entry = Guid.NewGuid();
        }
        Unit = RecordWords.TryParse<PressureUnit>(Unit, out _) ? Unit : visitor.Person.Unit;
        // What was picked is shown as it is read here, not as it was sent.
        ModelState.Clear();
        Problem = string.IsNullOrWhiteSpace(text) ? "Choose a file, or paste a table." : text.Length > LargestTable ? "That is more than 2 MB. Split it."
            : !JsonGate.IsText(text) ? "This file has characters that are no text: save it as UTF-8 and choose it again." : null;
        if (Problem is not null)
        {
            return false;
        }
        if (What == "sheets" && text!.TrimStart('\uFEFF', ' ', '\r', '\n', '\t').StartsWith('{'))
        {
            (var rows, Problem) = SheetFile.Read(text);
            Preview = rows is null ? null : await desk.SheetsAsync(visitor.Person, SheetImport.Once(rows), cancel);
            return rows is not null;
        }
        (Table, Problem) = ImportTable.Read(text!);
        if (Table is null)
        {
            return false;
        }
        chosen = picked is { Count: > 0 } ? Picked(picked) : new Dictionary<string, int>(ColumnMatch.Guess(Subject.Columns, Table.Headers));
        beside = [.. What == "jobs" ? JobImport.Beside(Table, chosen) : []];
        Preview = await desk.PreviewAsync(visitor.Person, Subject, Table, chosen, new ImportChoices(RecordWords.Parse(Unit, PressureUnit.Psi), Again), cancel);
        return true;
    }

    private Dictionary<string, int> Picked(Dictionary<string, string?> picked) => Subject.Columns
        .Select(c => (c.Key, At: int.TryParse(picked.GetValueOrDefault(c.Key), NumberStyles.None, CultureInfo.InvariantCulture, out var at) && at < Table!.Headers.Count ? at : -1))
        .Where(c => c.At >= 0).ToDictionary(c => c.Key, c => c.At);

    private PageResult Bad(string says)
    {
        Problem = says;
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return Page();
    }
}
