using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>A paper form typed in at one go. Nothing is kept while a row needs another look; sent again after a failure, nothing comes twice.</summary>
public sealed class TypeInModel(Visitor visitor, WorkspaceStore workspaces, DryTestStore tests, TimeProvider clock) : JobPage(visitor, workspaces)
{
    protected override string Step => "dry";

    [BindProperty]
    public List<PaperRow> Rows { get; set; } = [];

    [BindProperty]
    public string Once { get; set; } = Guid.NewGuid().ToString("N");

    public TypedFields Fields { get; } = new();

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return NotFound();
        }
        Rows = [.. Enumerable.Range(1, Job.Record.Engine.Cylinders).Select(c => new PaperRow { Cylinder = c })];
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(string? unit, CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return NotFound();
        }
        var typedIn = RecordWords.Parse(unit, Job.Unit);
        var entries = new List<(PadEntry Entry, string Key)>();
        var counts = new List<(int Cylinder, int Pulses)>();
        foreach (var row in Rows.Where(r => r.Cylinder >= 1 && r.Cylinder <= Job.Record.Engine.Cylinders))
        {
            void Pressure(string? typed, PadEntryKind kind)
            {
                if (string.IsNullOrWhiteSpace(typed))
                {
                    return;
                }
                var read = PressureEntry.Read(typed, typedIn);
                if (read.Pressure is { } pressure)
                {
                    entries.Add((new PadEntry(row.Cylinder, kind, pressure), $"{Once}|{row.Cylinder}|{kind}|{pressure.Value:R}"));
                }
                else
                {
                    Fields.Add($"row-{row.Cylinder}", read.Problem!);
                }
            }
            Pressure(row.Dry, PadEntryKind.Reading);
            if (!string.IsNullOrWhiteSpace(row.Again) && string.IsNullOrWhiteSpace(row.Dry))
            {
                Fields.Add($"row-{row.Cylinder}", "There is a second reading without a first.");
            }
            Pressure(row.Again, PadEntryKind.Repeat);
            Pressure(row.FirstPulse, PadEntryKind.FirstPulse);
            if (Fields.Whole(row.Count, $"row-{row.Cylinder}", 1, 100) is { } count)
            {
                counts.Add((row.Cylinder, count));
            }
        }
        if (Fields.Problems.Count == 0 && entries.Count == 0)
        {
            Fields.Add("row-1", "Type at least one reading.");
        }
        if (Fields.Problems.Count > 0)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }
        // Every entry has its key: sent again after a failure in the middle, the rest is added and nothing twice.
        long? test = null;
        var now = clock.GetUtcNow();
        foreach (var (entry, key) in entries)
        {
            var answer = await tests.EnterAsync(Who, Number, test, entry, EntryKey.Of(key), now, cancel: cancel);
            if (answer.Refused is { } why)
            {
                Fields.Add("row-1", why);
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                return Page();
            }
            test = answer.Test;
        }
        foreach (var (cylinder, pulses) in counts)
        {
            test = (await tests.DescribeAsync(Who, Number, test, cylinder, new ReadingDetails { Pulses = pulses }, EntryKey.Of($"{Once}|{cylinder}|count|{pulses}"), now, typedIn, cancel)).Test;
        }
        return Redirect($"/jobs/{Number}/dry");
    }
}

/// <summary>One cylinder of a paper form, as it is typed.</summary>
public sealed class PaperRow
{
    public int Cylinder { get; set; }
    public string? Dry { get; set; }
    public string? FirstPulse { get; set; }
    public string? Again { get; set; }
    public string? Count { get; set; }
}
