using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Checks;
using Zandrik.Core.Compression;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Safety;
using Zandrik.Storage;
using Zandrik.Web.Drawings;
using Zandrik.Web.Front;
using Zandrik.Web.Pages.Jobs;

namespace Zandrik.Web.Pages;

/// <summary>Bays: the open jobs as the shop floor sees them, by how far they are.</summary>
public sealed class IndexModel(Visitor visitor, JobStore jobs, VerdictStore verdicts, PeopleStore people, TimeProvider clock) : PageModel
{
    private const int JobsOnAPage = 24;

    /// <summary>Only jobs opened by this person.</summary>
    [BindProperty(SupportsGet = true)]
    public int? By { get; set; }

    /// <summary>The last job of the page before.</summary>
    [BindProperty(SupportsGet = true)]
    public int? After { get; set; }

    public ShopPerson Who => visitor.Person;

    public IReadOnlyList<Colleague> People { get; private set; } = [];

    public IReadOnlyList<Bay> Bays { get; private set; } = [];

    public bool More { get; private set; }

    public async Task OnGetAsync(CancellationToken cancel)
    {
        var page = await jobs.ListAsync(Who, new JobFilter { Open = true, OpenedBy = By, After = After }, JobsOnAPage, cancel);
        More = page.More;
        var signed = await verdicts.StandingAsync(Who, [.. page.Jobs.Select(j => j.Number)], cancel);
        Bays = [.. page.Jobs.Select(j => Bay.Of(j, signed.GetValueOrDefault(j.Number)))];
        People = await people.ListAsync(Who, clock.GetUtcNow(), cancel);
    }
}

/// <summary>How far a job is.</summary>
public enum BayState
{
    /// <summary>Something was found, or all is measured: somebody has to say what next.</summary>
    ToDecide,

    /// <summary>Some cylinders are measured.</summary>
    BeingMeasured,

    /// <summary>Nothing is measured yet.</summary>
    Waiting,

    /// <summary>Its verdict is signed: what is left is the repair, and closing it.</summary>
    Signed,
}

/// <summary>One job on the board.</summary>
/// <param name="Job">The job.</param>
/// <param name="Judged">What its latest dry test says.</param>
/// <param name="Picture">Its cylinders.</param>
/// <param name="Verdict">The verdict that was signed and stands; absent for none.</param>
public sealed record Bay(Job Job, DryJudgement Judged, ColumnsPicture Picture, VerdictLine? Verdict)
{
    /// <summary>What all tests say, where only others than the dry one have been done; absent else.</summary>
    public EngineDiagnosis? Otherwise { get; init; }

    public BayState State => Verdict is not null ? BayState.Signed : Otherwise is not null ? BayState.BeingMeasured : Judged.Measured == 0 && Judged.Questions.Count == 0 ? BayState.Waiting
        : Judged.Measured < Judged.Cylinders.Count ? BayState.BeingMeasured
        : BayState.ToDecide;

    public static string Title(BayState state) => state switch
    {
        BayState.ToDecide => "Measured: to decide",
        BayState.Signed => "Signed: to repair and close",
        BayState.BeingMeasured => "Being measured",
        _ => "Waiting for the first reading",
    };

    /// <summary>What the board says of the job: what was signed, else what the dry test says.</summary>
    public string Headline => Verdict?.Headline ?? Otherwise?.Headline ?? Judged.Headline;

    /// <summary>What it needs next.</summary>
    public string Next => Verdict is { } v ? $"signed by {v.By}" : $"next: {(Otherwise?.Next is { Count: > 0 } next ? JudgementLinks.NameOf(next[0].Kind) : Judged.WaitsFor)}";

    /// <summary>How the headline is coloured.</summary>
    public CylinderState Worst => Otherwise?.Cylinders.Max(c => c.State) ?? Judged.Worst;

    public static Bay Of(Job job, VerdictLine? verdict)
    {
        var test = job.LatestDry.Test ?? new DryCompressionTest { Unit = job.Unit };
        var judged = DryJudgement.Of(job.Record.Engine, test, job.Record.JudgeBy, job.Unit);
        var only = judged is { Measured: 0, Questions.Count: 0 } && (job.Record.Tests ?? []).Any(t => t is not (DryCompressionTest or WetCompressionTest) && (RecordRules.ReadingsOf(t) > 0 || SupportingCheck.KindOf(t) is not null));
        return new Bay(job, judged, DryPicture.Of(job.Record.Engine, test, judged, job.Unit), verdict)
        {
            Otherwise = only ? EngineDiagnosis.Of(job.Record, ledger: false, JobSafety.Of(job.Record, []), job.Unit) : null,
        };
    }
}
