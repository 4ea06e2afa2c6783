using System.Collections.Concurrent;
using System.Globalization;
using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Threading.Channels;
using Microsoft.AspNetCore.Http.HttpResults;
using Npgsql;
using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>
/// Passes changes on jobs on to the pages that show them: one connection listens to the database, every open
/// page has a stream. A page that was cut off for a while asks for its bench anew, so a missed change is not lost;
/// and a page says with its stream how much had been heard when it was written, so that nothing is missed in between.
/// </summary>
public sealed partial class LiveJobs(LiveChanges changes, ILogger<LiveJobs> log) : BackgroundService
{
    private static readonly TimeSpan StillHere = TimeSpan.FromSeconds(20);

    // A stream ends after a while and is opened again by the browser: who may look is asked again then.
    private static readonly TimeSpan LongestStream = TimeSpan.FromMinutes(10);

    private readonly ConcurrentDictionary<Channel<long>, (int Shop, int Job)> listeners = new();

    // The latest changes, the n-th at n modulo their number; null for one that may be about any job.
    private readonly (int Shop, int Job)?[] latest = new (int, int)?[256];

    // Another copy of the server, or this one before a restart, has counted otherwise.
    private readonly string copy = Guid.NewGuid().ToString("N")[..8];

    private long heard;

    /// <summary>How much this copy of the server has heard so far, as a page that is being written passes it to its stream.</summary>
    public string Mark
    {
        get
        {
            lock (latest)
            {
                return string.Create(CultureInfo.InvariantCulture, $"{copy}-{heard}");
            }
        }
    }

    /// <summary>Address of the stream of a job, for a page that is written within this request.</summary>
    /// <param name="context">The request; it holds the mark from before anything was read.</param>
    /// <param name="job">The job's number.</param>
    public static string AddressOf(HttpContext context, int job) => $"/jobs/{job}/live?since={context.Items[typeof(LiveJobs)]}";

    // True when a job may have changed after a page was begun that bears this mark.
    private bool HasChanged((int Shop, int Job) about, string since)
    {
        var parts = since.Split('-');
        if (parts.Length != 2 || parts[0] != copy || !long.TryParse(parts[1], NumberStyles.None, CultureInfo.InvariantCulture, out var from))
        {
            return true;
        }
        lock (latest)
        {
            if (heard - from > latest.Length)
            {
                return true;
            }
            for (var n = from; n < heard; n++)
            {
                if (latest[n % latest.Length] is not { } changed || changed == about)
                {
                    return true;
                }
            }
            return false;
        }
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                // Whatever happened while nobody listened: everybody looks again.
                await changes.ListenAsync(() => Tell(null, 0), change => Tell((change.Shop, change.Job), change.Row), stoppingToken);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (NpgsqlException broken)
            {
                ListeningBroke(log, broken.Message);
                await Task.Delay(TimeSpan.FromSeconds(1), stoppingToken).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            }
        }
    }

    private void Tell((int Shop, int Job)? about, long row)
    {
        lock (latest)
        {
            latest[heard++ % latest.Length] = about;
        }
        foreach (var (channel, of) in listeners)
        {
            if (about is null || about == of)
            {
                channel.Writer.TryWrite(row);
            }
        }
    }

    /// <summary>Maps the stream of a job's changes: <c>GET /jobs/{number}/live</c>, with <c>since</c> the mark of the page that asks.</summary>
    public static void Map(WebApplication app) =>
        app.MapGet("/jobs/{number:int}/live", async Task<Results<ServerSentEventsResult<string>, NotFound>> (
            int number, string? since, HttpContext http, JobStore jobs, LiveJobs live, IHostApplicationLifetime host, CancellationToken cancel) =>
        {
            var who = (ShopPerson)http.Items[typeof(ShopPerson)]!;
            return await jobs.ExistsAsync(who, number, cancel)
                ? TypedResults.ServerSentEvents(live.StreamAsync((who.ShopId, number), since, host.ApplicationStopping, cancel))
                : TypedResults.NotFound();
        }).RequireAuthorization().ExcludeFromDescription();

    private async IAsyncEnumerable<SseItem<string>> StreamAsync(
        (int Shop, int Job) about, string? since, CancellationToken stopping, [EnumeratorCancellation] CancellationToken cancel)
    {
        var channel = Channel.CreateBounded<long>(new BoundedChannelOptions(64) { FullMode = BoundedChannelFullMode.DropOldest });
        listeners[channel] = about;
        using var end = CancellationTokenSource.CreateLinkedTokenSource(stopping, cancel);
        end.CancelAfter(LongestStream);
        try
        {
            yield return new SseItem<string>("", "ready");
            if (since is not null && HasChanged(about, since))
            {
                yield return new SseItem<string>("0", "change");
            }
            while (!end.IsCancellationRequested)
            {
                var row = await NextAsync(channel.Reader, end.Token);
                if (row is { } r)
                {
                    yield return new SseItem<string>(r.ToString(CultureInfo.InvariantCulture), "change");
                }
                else if (!end.IsCancellationRequested)
                {
                    // So that a dead line shows itself at either end.
                    yield return new SseItem<string>("", "still");
                }
            }
        }
        finally
        {
            listeners.TryRemove(channel, out _);
        }
    }

    // The next change; null when there was none for a while, or the stream is to end.
    private static async Task<long?> NextAsync(ChannelReader<long> reader, CancellationToken end)
    {
        using var wait = CancellationTokenSource.CreateLinkedTokenSource(end);
        wait.CancelAfter(StillHere);
        try
        {
            return await reader.ReadAsync(wait.Token);
        }
        catch (OperationCanceledException)
        {
            return null;
        }
    }

    [LoggerMessage(LogLevel.Warning, "Changes on jobs are not heard for the moment: {Reason}")]
    private static partial void ListeningBroke(ILogger log, string reason);
}
