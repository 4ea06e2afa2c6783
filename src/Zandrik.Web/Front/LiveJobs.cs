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
/// page has a stream. A page that was cut off for a while asks for its bench anew, so a missed change is not lost.
/// </summary>
public sealed partial class LiveJobs(LiveChanges changes, ILogger<LiveJobs> log) : BackgroundService
{
    private static readonly TimeSpan StillHere = TimeSpan.FromSeconds(20);

    // A stream ends after a while and is opened again by the browser: who may look is asked again then.
    private static readonly TimeSpan LongestStream = TimeSpan.FromMinutes(10);

    private readonly ConcurrentDictionary<Channel<long>, (int Shop, int Job)> listeners = new();

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
        foreach (var (channel, of) in listeners)
        {
            if (about is null || about == of)
            {
                channel.Writer.TryWrite(row);
            }
        }
    }

    /// <summary>Maps the stream of a job's changes: <c>GET /jobs/{number}/live</c>.</summary>
    public static void Map(WebApplication app) =>
        app.MapGet("/jobs/{number:int}/live", async Task<Results<ServerSentEventsResult<string>, NotFound>> (
            int number, HttpContext http, JobStore jobs, LiveJobs live, IHostApplicationLifetime host, CancellationToken cancel) =>
        {
            var who = (ShopPerson)http.Items[typeof(ShopPerson)]!;
            return await jobs.ExistsAsync(who, number, cancel)
                ? TypedResults.ServerSentEvents(live.StreamAsync((who.ShopId, number), host.ApplicationStopping, cancel))
                : TypedResults.NotFound();
        }).RequireAuthorization().ExcludeFromDescription();

    private async IAsyncEnumerable<SseItem<string>> StreamAsync(
        (int Shop, int Job) about, CancellationToken stopping, [EnumeratorCancellation] CancellationToken cancel)
    {
        var channel = Channel.CreateBounded<long>(new BoundedChannelOptions(64) { FullMode = BoundedChannelFullMode.DropOldest });
        listeners[channel] = about;
        using var end = CancellationTokenSource.CreateLinkedTokenSource(stopping, cancel);
        end.CancelAfter(LongestStream);
        try
        {
            yield return new SseItem<string>("", "ready");
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
