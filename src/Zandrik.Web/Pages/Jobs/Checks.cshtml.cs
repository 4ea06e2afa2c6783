using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Checks;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The small checks beside the compression tests: one form each, at its step, with its safe order.</summary>
public sealed class ChecksModel(Visitor visitor, WorkspaceStore workspaces, StepStore steps, TimeProvider clock) : StepPage(visitor, workspaces, steps, clock)
{
    [BindProperty(SupportsGet = true)]
    public string? Kind { get; set; }

    protected override string Step => Kind ?? "checks";

    protected override string Part => "_Check";

    protected override string Here => CheckAddress;

    /// <summary>The address of the check that is shown.</summary>
    public string CheckAddress => $"/jobs/{Number}/checks/{Kind}";

    /// <summary>The check that is shown; absent for the list of all.</summary>
    public SupportingCheck? Check { get; private set; }

    public CheckForm Form { get; private set; } = new();

    public IReadOnlyDictionary<string, string> Problems { get; private set; } = new Dictionary<string, string>();

    /// <summary>Every check that was done, by kind, the latest of each.</summary>
    public IReadOnlyDictionary<StepKind, (long Id, TestEntry Test)> Kept { get; private set; } = new Dictionary<StepKind, (long, TestEntry)>();

    public (long Id, TestEntry Test)? Latest => Check is { } c && Kept.TryGetValue(c.Kind, out var kept) ? kept : null;

    /// <summary>Why this check is not done as things stand; absent when it may be.</summary>
    public string? Locked => Check is null ? null : SupportingCheck.Locked(Check.Kind, Safety);

    /// <summary>How the check is done, as things stand.</summary>
    public IReadOnlyList<string> SafeOrder => Check is null ? [] : Check.OrderFor(Safety);

    public string? FieldProblem(string field) => Problems.GetValueOrDefault(field);

    public async Task<IActionResult> OnPostAsync(CheckForm form, string? entry, string? at, CancellationToken cancel)
    {
        if (!await FindAsync(cancel) || Check is null)
        {
            return NotFound();
        }
        var fields = new TypedFields();
        if (form.Read(Check.Kind, Engine, fields) is not { } test)
        {
            (Typed, Problems) = (form, fields.Problems);
            return await RefuseAsync(fields.Problems.Count == 1 ? fields.Problems.Values.First() : "Some fields need another look.", fields.Problems.Keys.First(), cancel);
        }
        var before = Latest;
        var kind = Check.Kind;
        var answer = await Steps.AddTestAsync(Who, Number, test, before?.Id, string.IsNullOrEmpty(entry) ? Guid.NewGuid() : EntryKey.Of($"{entry}|{RecordWords.Of(kind)}"), TypedAt.Of(at, Clock), s => SupportingCheck.Locked(kind, s.Safety), cancel);
        if (answer.Refused is not null)
        {
            Typed = form;
        }
        return await AnswerAsync(new StepAnswer(answer.Test is not null || answer.Refused is not null, answer.Refused), before is null ? "Saved." : "Saved; what stood before stays on record.", cancel);
    }

    public async Task<IActionResult> OnPostBackAsync(CancellationToken cancel)
    {
        if (!await FindAsync(cancel) || Latest is not { } latest)
        {
            return NotFound();
        }
        return await AnswerAsync(await Steps.WithdrawAsync(Who, Number, latest.Id, Clock.GetUtcNow(), cancel), "Deleted; it stays on record.", cancel);
    }

    /// <summary>What was typed and not taken; absent for what is kept.</summary>
    private CheckForm? Typed { get; set; }

    protected override async Task<bool> FindAsync(CancellationToken cancel)
    {
        Check = RecordWords.TryParse<StepKind>(Kind, out var kind) ? SupportingCheck.Of(kind) : null;
        if ((Kind is not null && Check is null) || !await LoadAsync(cancel))
        {
            return false;
        }
        Kept = (Job.Record.Tests ?? []).Zip(Job.TestIds, (test, id) => (Kind: SupportingCheck.KindOf(test), id, test)).Where(t => t.Kind is not null)
            .GroupBy(t => t.Kind!.Value).ToDictionary(g => g.Key, g => (g.Last().id, g.Last().test));
        if (Check is not null)
        {
            Form = Typed ?? CheckForm.Of(Latest?.Test, Engine, Check.Kind == StepKind.Vacuum ? PressureUnit.KPa : Job.Unit);
        }
        return true;
    }
}
