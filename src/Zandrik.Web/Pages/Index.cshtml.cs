using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Assessment;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Storage;
using Zandrik.Web.Drawings;
using Zandrik.Web.Front;
using Zandrik.Web.Pages.Jobs;

namespace Zandrik.Web.Pages;

/// <summary>Bays: the open jobs as the shop floor sees them, by how far they are.</summary>
public sealed class IndexModel(Visitor visitor, WorkspaceStore workspaces) : PageModel
{
    /// <summary>Most jobs on a page.</summary>
    public const int JobsOnAPage = 24;

    /// <summary>Only jobs opened by this person.</summary>
    [BindProperty(SupportsGet = true)]
    public int? By { get; set; }

    /// <summary>The last job of the page before.</summary>
    [BindProperty(SupportsGet = true)]
    public int? After { get; set; }

    public ShopPerson Who => visitor.Person;

    public IReadOnlyList<PersonName> People { get; private set; } = [];

    public IReadOnlyList<Bay> Bays { get; private set; } = [];

    public bool More { get; private set; }

    /// <summary>The jobs that are shown: the open ones.</summary>
    /// <param name="by">Only those opened by this person; absent for everybody's.</param>
    /// <param name="after">The last job of the page before; absent for the first page.</param>
    public static JobFilter Showing(int? by, int? after) => new() { Open = true, OpenedBy = by, After = after };

    public async Task OnGetAsync(CancellationToken cancel)
    {
        // Which jobs, and what they stand at, was asked together with who is looking.
        var visit = visitor.Visit!;
        (People, More) = (visit.People, visit.Jobs.Count > JobsOnAPage);
        Bays = [.. (await workspaces.FindAsync(Who, [.. visit.Jobs.Take(JobsOnAPage)], cancel)).Select(w => new Bay(w))];
    }
}

/// <summary>One job on the board.</summary>
/// <param name="Workspace">The job.</param>
public sealed record Bay(Workspace Workspace)
{
    public Job Job => Workspace.Job;

    /// <summary>The job, judged.</summary>
    public JobAssessment Assessment => Workspace.Assessment;

    public JobStage Stage => Assessment.Stage;

    // The dry test that is being done; its glasses stand for the engine, coloured by what all readings say.
    private DryCompressionTest Test => StepProgress.BeingDone(Job.Record) ?? new DryCompressionTest { Unit = Job.Unit };

    /// <summary>How far the dry test is.</summary>
    public StepProgress Dry => Assessment.StepOf(StepKind.Dry);

    /// <summary>Its cylinders: figures of the dry test, states of everything together.</summary>
    public ColumnsPicture Picture => DryPicture.Of(Job.Record.Engine, Test, Assessment.Tests.Of(Test), Job.Unit, states: Assessment.States);

    /// <summary>What the board says of the job.</summary>
    public string Headline => Assessment.Headline;

    /// <summary>What it needs next.</summary>
    public string Next => Assessment.Progress.Signed is { } signed && Assessment.Next is not [{ IsSafety: true }, ..] ? $"signed by {signed.By}"
        : Assessment.Next is [var next, ..] ? $"next: {ShopText.LowerFirst(JudgementLinks.Short(next, Job.Record.Engine.Cylinders))}"
        : "no further test needed";

    /// <summary>How the headline is coloured.</summary>
    public CylinderState Worst => Assessment.Worst;

    public static string Title(JobStage stage) => stage switch
    {
        JobStage.ToDecide => "Measured: to decide",
        JobStage.Signed => "Signed: to repair and close",
        JobStage.BeingMeasured => "Being measured",
        _ => "Waiting for the first reading",
    };
}
