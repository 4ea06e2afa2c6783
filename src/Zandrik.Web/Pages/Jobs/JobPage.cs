using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Assessment;
using Zandrik.Core.Engines;
using Zandrik.Core.Planning;
using Zandrik.Core.Safety;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>What every page of a job shows around its own part: the job, its rail, and who is looking.</summary>
public abstract class JobPage(Visitor visitor, WorkspaceStore workspaces) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int Number { get; set; }

    public ShopPerson Who => visitor.Person;

    public Workspace Workspace { get; private set; } = null!;

    public Job Job => Workspace.Job;

    public WorkshopSheet? Workshop => Workspace.Workshop;

    public Rail Rail { get; private set; } = null!;

    /// <summary>What all readings say together.</summary>
    public JudgementCard Card => card ??= new(Workspace.JobState);

    /// <summary>The job, judged: everything the page says of it comes from here.</summary>
    public JobAssessment Assessment => Workspace.Assessment;

    /// <summary>What can hurt somebody here, and so what is locked.</summary>
    public JobSafety Safety => Assessment.Safety;

    /// <summary>True where this person may write on this job as it is: a viewer may not, and a closed job takes nothing.</summary>
    public bool MayWrite => Who.MayMeasure && !Safety.IsClosed;

    private JudgementCard? card;

    public IReadOnlyDictionary<string, Tick> Prepared => Workspace.JobState.Ticked(TickStore.Prepare);

    public IReadOnlyDictionary<string, Tick> Refitted => Workspace.JobState.Ticked(TickStore.Refit);

    /// <summary>What has to be put back.</summary>
    protected IReadOnlyList<RefitLine> Refit => Workspace.Assessment.Refit;

    protected abstract string Step { get; }

    protected WorkspaceStore Workspaces => workspaces;

    /// <summary>False when the shop has no such job.</summary>
    protected async Task<bool> LoadAsync(CancellationToken cancel)
    {
        if (await workspaces.FindAsync(Who, Number, visitor.StampOf(Number), cancel) is not { } found)
        {
            return false;
        }
        (Workspace, card) = (found, null);
        Rail = Rail.Of(found, Step);
        return true;
    }
}
