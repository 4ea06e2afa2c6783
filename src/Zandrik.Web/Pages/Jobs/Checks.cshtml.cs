using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Checks;
using Zandrik.Core.Records;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The small checks beside the compression tests: one form each, at its step, with its safe order.</summary>
public sealed class ChecksModel(Visitor visitor, WorkspaceStore workspaces, StepStore steps, TimeProvider clock) : JobPage(visitor, workspaces)
{
    [BindProperty(SupportsGet = true)]
    public string? Kind { get; set; }

    protected override string Step => Kind ?? "checks";

    /// <summary>The check that is shown; absent for the list of all.</summary>
    public SupportingCheck? Check { get; private set; }

    public CheckForm Form { get; private set; } = new();

    public IReadOnlyDictionary<string, string> Problems { get; private set; } = new Dictionary<string, string>();

    [TempData]
    public string? Done { get; set; }

    /// <summary>Every check that was done, by kind, the latest of each.</summary>
    public IReadOnlyDictionary<string, (long Id, TestEntry Test)> Kept { get; private set; } = new Dictionary<string, (long, TestEntry)>();

    public (long Id, TestEntry Test)? Latest => Check is { } c && Kept.TryGetValue(c.Kind, out var kept) ? kept : null;

    public EngineSheet Engine => Job.Record.Engine;

    public string? Problem(string field) => Problems.GetValueOrDefault(field);

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        if (Check is not null)
        {
            Form = CheckForm.Of(Latest?.Test, Engine, Check.Kind == "manifold-vacuum" ? PressureUnit.KPa : Job.Unit);
        }
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(CheckForm form, string? entry, CancellationToken cancel)
    {
        if (!await FindAsync(cancel) || Check is null)
        {
            return NotFound();
        }
        var fields = new TypedFields();
        if (form.Read(Check.Kind, Engine, fields) is not { } test)
        {
            (Form, Problems) = (form, fields.Problems);
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }
        await steps.AddTestAsync(Who, Number, test, Latest?.Id, string.IsNullOrEmpty(entry) ? Guid.NewGuid() : EntryKey.Of($"{entry}|{Check.Kind}"), clock.GetUtcNow(), cancel);
        Done = Latest is null ? "Kept." : "Kept; what stood before stays on record.";
        return Redirect($"/jobs/{Number}/checks/{Check.Kind}");
    }

    public async Task<IActionResult> OnPostBackAsync(CancellationToken cancel)
    {
        if (!await FindAsync(cancel) || Latest is not { } latest)
        {
            return NotFound();
        }
        await steps.WithdrawAsync(Who, Number, latest.Id, clock.GetUtcNow(), cancel);
        Done = "Taken back; it stays on record.";
        return Redirect($"/jobs/{Number}/checks/{Kind}");
    }

    private async Task<bool> FindAsync(CancellationToken cancel)
    {
        Check = SupportingCheck.Of(Kind);
        if ((Kind is not null && Check is null) || !await LoadAsync(cancel))
        {
            return false;
        }
        Kept = (Job.Record.Tests ?? []).Zip(Job.TestIds, (test, id) => (Kind: SupportingCheck.KindOf(test), id, test)).Where(t => t.Kind is not null)
            .GroupBy(t => t.Kind!).ToDictionary(g => g.Key, g => (g.Last().id, g.Last().test));
        return true;
    }
}
