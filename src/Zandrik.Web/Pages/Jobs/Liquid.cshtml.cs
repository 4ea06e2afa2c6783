using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Safety;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The way out of the lock that liquid in a cylinder puts on everything that cranks with plugs in or starts the engine.</summary>
public sealed class LiquidModel(Visitor visitor, WorkspaceStore workspaces, StepStore steps, TimeProvider clock) : StepPage(visitor, workspaces, steps, clock)
{
    protected override string Step => "liquid";

    protected override string Part => "_Liquid";

    /// <summary>A line of the way, ticked or taken back.</summary>
    /// <param name="item">The word of the line.</param>
    /// <param name="done">False to take it back.</param>
    /// <param name="signs">The signs that were on the screen: the last line answers these and no others.</param>
    /// <param name="entry">Made once for each tick.</param>
    /// <param name="at">When it was ticked, where it waited.</param>
    /// <param name="cancel">Cancels the request.</param>
    public async Task<IActionResult> OnPostTickAsync(string? item, bool done, string? signs, string? entry, string? at, CancellationToken cancel)
    {
        var e = new LiquidEvent(item ?? "", item == LiquidGuard.Dried ? signs : null, done);
        return await AnswerAsync(await Steps.DoAsync(Who, Number, StepStore.Liquid, e.Item, e.Way, e.Done, Key(entry, $"{e}"), TypedAt.Of(at, Clock), s => s.Safety.Liquid.Refuses(e), cancel),
            !done ? "Undone." : item == LiquidGuard.Dried ? "Done: the engine may be cranked and started again." : "Done.", cancel);
    }

    protected override Task<bool> FindAsync(CancellationToken cancel) => LoadAsync(cancel);
}
