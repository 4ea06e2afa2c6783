using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Import;

/// <summary>What was imported, and the ways to import more.</summary>
[ForemanOnly]
public sealed class IndexModel(Visitor visitor, ImportStore imports, TimeProvider clock) : PageModel
{
    // As many names as stay readable in a sentence.
    private const int MostNamed = 8;

    [TempData]
    public string? Done { get; set; }

    public ShopPerson Who => visitor.Person;

    public IReadOnlyList<ImportLine> Lines { get; private set; } = [];

    /// <summary>What an import brought, in words.</summary>
    public static string What(ImportLine line)
    {
        var things = line.Kind switch { "vehicles" => ("vehicle", "vehicles"), "sheets" => ("engine sheet", "engine sheets"), "sample" => ("sample job", "sample jobs"), _ => ("old job", "old jobs") };
        var brought = line.Added == 1 ? $"1 {things.Item1}" : $"{line.Added} {things.Item2}";
        return line.Changed == 0 ? brought : line.Added == 0 ? $"{line.Changed} {(line.Changed == 1 ? things.Item1 : things.Item2)} changed" : $"{brought}, {line.Changed} changed";
    }

    public async Task OnGetAsync(CancellationToken cancel) => Lines = await imports.ListAsync(Who, cancel);

    public async Task<IActionResult> OnPostUndoAsync(int id, CancellationToken cancel)
    {
        var undo = await imports.UndoAsync(Who, id, clock.GetUtcNow(), cancel);
        Done = undo is null ? "That import was undone before." : undo.Kept.Count == 0 ? "Import undone."
            : $"Import undone. These stay, because they were changed or used since: {string.Join("; ", undo.Kept.Take(MostNamed))}{(undo.Kept.Count > MostNamed ? $" and {undo.Kept.Count - MostNamed} more" : "")}.";
        return Redirect("/import");
    }
}
