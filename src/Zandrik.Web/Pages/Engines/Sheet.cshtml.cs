using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Engines;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Engines;

/// <summary>One engine sheet. Saving writes a new version; jobs keep the one they were opened with.</summary>
public sealed class SheetModel(Visitor visitor, SheetStore sheets, TimeProvider clock) : PageModel
{
    private readonly Dictionary<string, string> problems = [];

    /// <summary>What stands in the fields, by column of the sheet's file.</summary>
    [BindProperty]
    public Dictionary<string, string?> Cells { get; set; } = [];

    [BindProperty]
    public List<string> Features { get; set; } = [];

    [BindProperty]
    public List<SourceForm> Sources { get; set; } = [];

    public ShopPerson Who => visitor.Person;

    public SheetVersion? Version { get; private set; }

    public IReadOnlyDictionary<string, string> Problems => problems;

    public string? Problem(string field) => problems.GetValueOrDefault(field);

    public string? Cell(string column) => Cells.GetValueOrDefault(column);

    public async Task<IActionResult> OnGetAsync(int? id, int? version, CancellationToken cancel)
    {
        if (id is null)
        {
            Cells["unit"] = Who.Unit;
            Sources = SourceForm.Of([]);
            return Who.MayManage ? Page() : StatusCode(StatusCodes.Status403Forbidden);
        }
        Version = version is { } v ? await sheets.VersionAsync(Who, v, cancel) : await sheets.FindAsync(Who, id.Value, cancel);
        if (Version is null || Version.SheetId != id)
        {
            return NotFound();
        }
        Cells = SheetFile.Cells(Version.Document).ToDictionary(c => c.Key, c => (string?)c.Value);
        Cells["access"] = Cells["access"]?.Replace("; ", "\n", StringComparison.Ordinal);
        Features = [.. (Cells["features"] ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries)];
        Sources = SourceForm.Of(Version.Document.Workshop.Sources);
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(int? id, CancellationToken cancel)
    {
        if (!Who.MayManage)
        {
            return StatusCode(StatusCodes.Status403Forbidden);
        }
        if (id is { } known)
        {
            Version = await sheets.FindAsync(Who, known, cancel);
            if (Version is null)
            {
                return NotFound();
            }
        }
        Cells["features"] = string.Join(' ', Features);
        var (engine, workshop) = SheetFile.Nodes(c => c == "sources" ? null : Cell(c));
        var sources = new JsonArray();
        foreach (var s in Sources.Where(s => !string.IsNullOrWhiteSpace(s.Source)))
        {
            var source = new JsonObject { ["figure"] = s.Figure, ["source"] = s.Source!.Trim() };
            if (!string.IsNullOrWhiteSpace(s.CheckedBy))
            {
                source["checkedBy"] = s.CheckedBy.Trim();
            }
            if (!string.IsNullOrWhiteSpace(s.CheckedOn))
            {
                source["checkedOn"] = s.CheckedOn;
            }
            sources.Add(source);
        }
        if (sources.Count > 0)
        {
            workshop["sources"] = sources;
        }
        // What a sheet brought along that no field shows stays with it.
        if (Version?.Document.Engine.Unknown is { } unknown)
        {
            foreach (var (name, value) in unknown)
            {
                engine.TryAdd(name, JsonNode.Parse(value.GetRawText()));
            }
        }
        var row = SheetFile.Row(1, engine, workshop);
        foreach (var problem in row.Problems)
        {
            var colon = problem.IndexOf(':', StringComparison.Ordinal);
            problems.TryAdd(problem[..colon].Split('/', '[', '.')[0], problem[(colon + 1)..].Trim());
        }
        if (row.Sheet is { } sheet && await sheets.SaveAsync(Who, id, sheet, clock.GetUtcNow(), cancel) is null)
        {
            problems["name"] = "Another sheet has that name: add what tells them apart.";
        }
        if (problems.Count > 0)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }
        return Redirect("/engines");
    }

    public async Task<IActionResult> OnPostRetireAsync(int id, bool back, CancellationToken cancel)
    {
        if (!Who.MayManage)
        {
            return StatusCode(StatusCodes.Status403Forbidden);
        }
        await sheets.RetireAsync(Who, id, back ? null : clock.GetUtcNow(), cancel);
        return Redirect("/engines");
    }
}

/// <summary>Where a figure comes from, as it is typed.</summary>
public sealed class SourceForm
{
    public string Figure { get; set; } = "";
    public string? Source { get; set; }
    public string? CheckedBy { get; set; }
    public string? CheckedOn { get; set; }

    public static List<SourceForm> Of(IReadOnlyList<FigureSource> sources) =>
        [.. FigureSource.Figures.Select(f => sources.FirstOrDefault(s => s.Figure == f.Figure) is { } s
            ? new SourceForm { Figure = f.Figure, Source = s.Source, CheckedBy = s.CheckedBy, CheckedOn = s.CheckedOn?.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture) }
            : new SourceForm { Figure = f.Figure })];
}
