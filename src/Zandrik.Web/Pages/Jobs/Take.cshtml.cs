using System.Text.Json;
using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Practice;
using Zandrik.Core.Records;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Instruments;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>Takes a reading from an instrument: which one, a needle that moves, what is wrong where something is, and the way back to typing.</summary>
public sealed class TakeModel(Visitor visitor, WorkspaceStore workspaces, InstrumentStore instruments, TakeDesk desk) : JobPage(visitor, workspaces)
{
    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web);

    [BindProperty(SupportsGet = true)]
    public string? Kind { get; set; }

    [BindProperty(SupportsGet = true)]
    public int? Cylinder { get; set; }

    protected override string Step => TakeDesk.StepOf(Of);

    public TakeKind Of => RecordWords.Parse(Kind, TakeKind.Dry);

    public int At => Cylinder is { } c && c >= 1 && c <= Job.Record.Engine.Cylinders ? c : 1;

    /// <summary>Instruments that read this; the one that answered last is the one in somebody's hand.</summary>
    public IReadOnlyList<KeptInstrument> Instruments { get; private set; } = [];

    /// <summary>Why nothing is read now.</summary>
    public string? Refused { get; private set; }

    /// <summary>The page to go back to, where it is typed.</summary>
    public string Back => $"/jobs/{Number}/{Step}?cylinder={At}";

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if ((Kind is not null && !RecordWords.TryParse<TakeKind>(Kind, out _)) || !await LoadAsync(cancel))
        {
            return NotFound();
        }
        Instruments = [.. (await instruments.ListAsync(Who, cancel)).Where(i => i.RetiredAt is null && i.Is == TakeDesk.KindOf(Of)).OrderByDescending(i => i.SeenAt ?? DateTimeOffset.MinValue)];
        Refused = MayWrite ? TakeDesk.Refuses(Workspace, new TakeWanted(Number, Of, At, 0, 0, false, default)) : Safety.ForbidsWriting ?? "You are signed in as a viewer: readings are a technician's.";
        return Page();
    }

    /// <summary>What somebody reads on this job, as it happens.</summary>
    public async Task<IActionResult> OnGetWatchAsync([FromServices] IHostApplicationLifetime host, CancellationToken cancel)
    {
        using var end = CancellationTokenSource.CreateLinkedTokenSource(cancel, host.ApplicationStopping);
        await StreamAsync(desk.WatchAsync(Who, Number, end.Token), end.Token);
        return new EmptyResult();
    }

    /// <summary>Takes the reading. The answer is the stream of what happens; whoever hangs up stops it.</summary>
    public async Task<IActionResult> OnPostAsync([FromServices] IHostApplicationLifetime host, int instrument, string? compressions, bool simulate, string? entry, CancellationToken cancel)
    {
        var fields = new TypedFields();
        var count = fields.Whole(compressions, "compressions", 1, 40) ?? PracticeBench.UsualCompressions;
        using var end = CancellationTokenSource.CreateLinkedTokenSource(cancel, host.ApplicationStopping);
        var wanted = new TakeWanted(Number, Of, Cylinder ?? 1, instrument, count, simulate, EntryKey.Of($"{entry ?? Guid.NewGuid().ToString("N")}|take|{Kind}|{Cylinder}"));
        await StreamAsync(fields.Problem("compressions") is { } problem ? Once(new TakeEvent("refused", problem)) : desk.TakeAsync(Who, wanted, end.Token), end.Token);
        return new EmptyResult();
    }

    private static async IAsyncEnumerable<TakeEvent> Once(TakeEvent said)
    {
        await Task.CompletedTask;
        yield return said;
    }

    private async Task StreamAsync(IAsyncEnumerable<TakeEvent> events, CancellationToken cancel)
    {
        Response.ContentType = "text/event-stream";
        Response.Headers.CacheControl = "no-store";
        // A proxy in between must not wait for more of it.
        Response.Headers["X-Accel-Buffering"] = "no";
        try
        {
            await foreach (var happened in events)
            {
                await Response.WriteAsync($"data: {JsonSerializer.Serialize(happened, Json)}\n\n", cancel);
                await Response.Body.FlushAsync(cancel);
            }
        }
        catch (OperationCanceledException) when (cancel.IsCancellationRequested)
        {
            // Whoever listened is gone, or the server ends.
        }
    }
}
