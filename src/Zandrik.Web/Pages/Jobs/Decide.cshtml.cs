using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Deciding;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>What is done about an engine: options side by side, one chosen by a person and kept with its reason; what the owner's side is; what repairs take, put right by the shop.</summary>
public sealed class DecideModel(Visitor visitor, WorkspaceStore workspaces, StepStore steps, DecisionStore decisions, RepairStore repairs, TimeProvider clock) : StepPage(visitor, workspaces, steps, clock)
{
    protected override string Step => "decide";

    protected override string Part => "_Decide";

    /// <summary>The options as things stand.</summary>
    public DecisionSheet Sheet { get; private set; } = null!;

    /// <summary>How costs are written.</summary>
    public CostText Cost => new(Sheet.Book.Rate, Workspace.Shop.Currency);

    /// <summary>The decisions so far, the latest first.</summary>
    public IReadOnlyList<DecisionLine> Versions { get; private set; } = [];

    /// <summary>The latest decision, whole; absent while nothing is decided.</summary>
    public KeptDecision? Latest { get; private set; }

    /// <summary>The owner's addresses.</summary>
    public IReadOnlyList<OwnerLink> Links { get; private set; } = [];

    /// <summary>An address that was just made: it is shown once.</summary>
    [TempData]
    public string? NewLink { get; set; }

    /// <summary>What was done on this job, the earliest first.</summary>
    public IReadOnlyList<KeptRepair> Repairs { get; private set; } = [];

    /// <summary>What somebody typed of what was done, or the entry that is put right.</summary>
    public RepairForm DoneForm { get; private set; } = new();

    /// <summary>The entry that is to be put right; absent for none.</summary>
    [BindProperty(SupportsGet = true)]
    public long? Fix { get; set; }

    /// <summary>What can have been done, with its words: what was chosen first.</summary>
    public IReadOnlyList<(string Word, string Title)> CanBeDone { get; private set; } = [];

    /// <summary>What somebody typed of the owner's side; as it is kept where nothing was.</summary>
    public InputsForm Inputs { get; private set; } = new();

    /// <summary>What somebody typed of a figure, and which; absent for none.</summary>
    public FigureForm? Figure { get; private set; }

    public TypedFields Fields { get; } = new();

    /// <summary>The word of the option whose choice was refused, with the reason typed.</summary>
    public (string Word, string? Reason)? Refused { get; private set; }

    /// <summary>What can be put right: the repairs of the likely options, and what has to come off for them.</summary>
    public IReadOnlyList<(string What, string Name, RepairCost Now)> Figures { get; private set; } = [];

    /// <summary>True where the readings changed since the latest decision, so that another option may be the cheapest now.</summary>
    public bool OtherIsBest => Latest is { } latest && Sheet.Options.First(o => o.IsBest).Word != latest.Line.Best;

    /// <summary>Keeps what is known of the owner's side.</summary>
    public async Task<IActionResult> OnPostInputsAsync(InputsForm form, string? entry, CancellationToken cancel)
    {
        var inputs = form.Read(Fields);
        Inputs = form;
        if (Fields.Problems.Count > 0)
        {
            return await RefuseAsync(Fields.Problems.Count == 1 ? Fields.Problems.First().Value : "Some fields need another look.", Fields.Problems.First().Key, cancel);
        }
        Inputs = new();
        return await AnswerAsync(await decisions.KnowAsync(Who, Number, inputs, Key(entry, inputs.ToString()), Clock.GetUtcNow(), cancel), "Saved. The options are weighed with it.", cancel);
    }

    /// <summary>Chooses an option.</summary>
    public async Task<IActionResult> OnPostChooseAsync(string? option, string? reason, int seen, string? entry, CancellationToken cancel)
    {
        if (reason?.Length > DecisionStore.LongestReason)
        {
            Refused = (option ?? "", reason);
            return await RefuseAsync($"Say it in {DecisionStore.LongestReason} letters or fewer.", "reason", cancel);
        }
        var answer = await decisions.ChooseAsync(Who, Number, option ?? "", reason, seen, Key(entry, $"{option}|{reason}|{seen}"), Clock.GetUtcNow(), cancel);
        if (answer.Refused is not null)
        {
            Refused = (option ?? "", reason);
            return await RefuseAsync(answer.Refused, "reason", cancel);
        }
        return await AnswerAsync(answer, "Decided. It stands as a version; the owner's page is made from it.", cancel);
    }

    /// <summary>Writes down what was done; a closed job takes it too.</summary>
    public async Task<IActionResult> OnPostDoneAsync(RepairForm form, string? entry, CancellationToken cancel)
    {
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        var today = ShopText.Today(Clock, Who);
        var read = form.Read(Fields, Engine.Cylinders, today);
        DoneForm = form;
        if (read is not { } typed)
        {
            return await RefuseAsync(Fields.Problems.First().Value, Fields.Problems.First().Key, cancel);
        }
        // A day that is over is written down at its noon: before or after a test of that day nobody said. Today it is now.
        var at = typed.Day is { } day && day < today ? ShopText.Midnight(day, Who).AddHours(12) : Clock.GetUtcNow();
        var answer = await repairs.NoteAsync(Who, Number, typed.Done, at, form.Replaces, Key(entry, $"{typed.Done}|{form.Cylinders}|{typed.Day}|{form.Replaces}"), Clock.GetUtcNow(), cancel);
        (DoneForm, Fix) = answer.Refused is null ? (new(), null) : (DoneForm, Fix);
        return await AnswerAsync(answer, "Saved. It is in the engine’s history.", cancel);
    }

    /// <summary>Takes back what was written down as done.</summary>
    public async Task<IActionResult> OnPostUndoneAsync(long repair, CancellationToken cancel) =>
        await repairs.WithdrawAsync(Who, Number, repair, Clock.GetUtcNow(), cancel) ? await AfterAsync("Removed. It stays on record, withdrawn.", cancel) : NotFound();

    /// <summary>Puts a figure right, for the sheet or for every engine; empty goes back to the rule.</summary>
    public async Task<IActionResult> OnPostFigureAsync(FigureForm form, CancellationToken cancel)
    {
        if (!Who.MayManage)
        {
            return StatusCode(StatusCodes.Status403Forbidden);
        }
        var figure = form.Read(Fields);
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        if (Fields.Problems.Count > 0 || figure is null || !Figures.Any(f => f.What == figure.What))
        {
            Figure = form;
            return await RefuseAsync(Fields.Problems.Count > 0 ? Fields.Problems.First().Value : "There is no such repair on this page any more.", Fields.Problems.FirstOrDefault().Key, cancel);
        }
        var sheet = form.EveryEngine ? null : Workspace.Knowledge.Sheet;
        await decisions.LearnAsync(Who, p => p.With(new KeptFigure(sheet, figure)), Clock.GetUtcNow(), cancel);
        return await AfterAsync(figure is { Minutes: null, Parts: null, Machining: null, Days: null } ? "Back to the rule." : sheet is null ? "Saved for every engine of the shop." : "Saved for every engine of this sheet.", cancel);
    }

    /// <summary>Strikes a repair out on an engine family.</summary>
    public async Task<IActionResult> OnPostStrikeAsync(string? family, string? repair, string? says, CancellationToken cancel)
    {
        if (!Who.MayManage)
        {
            return StatusCode(StatusCodes.Status403Forbidden);
        }
        var name = Fields.Text(family, "family", 80);
        var why = Fields.Text(says, "says", 200);
        if (name is null || why is null || Fields.Word<Repair>(repair, "repair") is not { } what || what == Repair.Leave)
        {
            return await RefuseAsync(Fields.Problems.Count > 0 ? Fields.Problems.First().Value : name is null ? "Say for which engines: text that stands in their names." : why is null ? "Say why: the reason stands beside it." : "Choose a repair.", name is null ? "family" : "says", cancel);
        }
        await decisions.LearnAsync(Who, p => p.With(new RepairStrike(name, what, why)), Clock.GetUtcNow(), cancel);
        return await AfterAsync("Struck out, with its reason.", cancel);
    }

    /// <summary>Takes a strike back.</summary>
    public async Task<IActionResult> OnPostUnstrikeAsync(string? family, string? repair, CancellationToken cancel)
    {
        if (!Who.MayManage)
        {
            return StatusCode(StatusCodes.Status403Forbidden);
        }
        if (Fields.Word<Repair>(repair, "repair") is not { } what)
        {
            return NotFound();
        }
        await decisions.LearnAsync(Who, p => p.Without(family ?? "", what), Clock.GetUtcNow(), cancel);
        return await AfterAsync("Allowed again.", cancel);
    }

    /// <summary>Makes an address for the owner.</summary>
    public async Task<IActionResult> OnPostLinkAsync(int version, CancellationToken cancel)
    {
        if (await decisions.MakeLinkAsync(Who, Number, version, Clock.GetUtcNow(), cancel) is not { } secret)
        {
            return NotFound();
        }
        NewLink = $"{Request.Scheme}://{Request.Host}/o/{secret}";
        DoneBefore = "The owner's link is made. It is shown this once.";
        return Redirect(Address + "#links-title");
    }

    /// <summary>Ends an address.</summary>
    public async Task<IActionResult> OnPostRevokeAsync(long link, CancellationToken cancel) =>
        await decisions.RevokeAsync(Who, Number, link, Clock.GetUtcNow(), cancel) ? await AfterAsync("Revoked: the link opens nothing any more.", cancel) : NotFound();

    protected override async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return false;
        }
        Sheet = DecisionSheet.Of(Assessment);
        Versions = await decisions.ListAsync(Who, Number, cancel);
        Latest = Versions.Count > 0 ? await decisions.FindAsync(Who, Number, Versions[0].Version, cancel) : null;
        Links = Latest is null ? [] : await decisions.LinksAsync(Who, Number, cancel);
        Repairs = await repairs.ListAsync(Who, Number, cancel);
        DoneForm = DoneForm.Option is not null ? DoneForm : Repairs.FirstOrDefault(r => r.Id == Fix) is { } wrong ? RepairForm.Of(wrong, Who) : new RepairForm { Option = Latest?.Line.Chosen };
        CanBeDone =
        [
            .. new[] { Latest?.Line.Chosen, DoneForm.Option }.OfType<string>().Concat(Sheet.Options.Where(o => !o.Option.IsLeave).Select(o => o.Word)).Concat(Enum.GetValues<Repair>().Where(r => r != Repair.Leave).Select(r => RepairWords.Word(RepairOption.Of(r))))
                .Distinct().Where(w => RepairWords.Parse(w) is { IsLeave: false }).Select(w => (w, RepairWords.Title(RepairWords.Parse(w)!, Sheet.Book.Banks.Count))).DistinctBy(w => w.Item2),
        ];
        Inputs = Inputs.IsTyped ? Inputs : InputsForm.Of(Assessment.Policy.Inputs);
        var works = Sheet.Options.Where(o => o.IsLikely).SelectMany(o => o.Option.Works).Select(w => w.Repair).Distinct().Order().ToList();
        var access = Sheet.Options.Where(o => o.IsLikely).SelectMany(o => o.Option.Works).Aggregate(Access.None, (all, w) => all | AccessLevels.Of(w, Sheet.Book.Banks.Count));
        Figures =
        [
            .. works.Select(r => (RecordWords.Of(r), RepairWords.Title(RepairOption.Of(r), 1), Sheet.Book.Cost(new RepairWork(r)))),
            .. AccessNames.Where(a => access.HasFlag(a.Level)).Select(a => (a.What, a.Name, new RepairCost(Sheet.Book.Minutes(a.Level), default, default, default))),
        ];
        return true;
    }

    private static readonly (Access Level, string What, string Name)[] AccessNames =
    [
        (Access.Plugs, "access-plugs", "Plugs, there and back"), (Access.Cover, "access-cover", "Valve cover, one bank"), (Access.Intake, "access-intake", "Intake"), (Access.FrontCover, "access-front-cover", "Front cover"),
        (Access.Head, "access-head", "Head, one bank"), (Access.Sump, "access-sump", "Sump"), (Access.EngineOut, "access-engine-out", "Engine out and in"),
    ];
}
