using System.Collections.Concurrent;
using System.Globalization;
using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Threading.Channels;
using Npgsql;
using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>
/// Passes changes on jobs on to the pages that show them: one connection listens to the database, every browser has
/// one stream for all its tabs (<c>live.js</c>). A stream says how much had been heard when its page was written, or
/// before it broke off, and is told what came after: nothing is missed in between.
/// </summary>
public sealed partial class LiveJobs(LiveChanges changes, ILogger<LiveJobs> log) : BackgroundService
{
    private static readonly TimeSpan StillHere = TimeSpan.FromSeconds(20);

    // A stream ends after a while and is opened again by the browser: who may look is asked again then.
    private static readonly TimeSpan LongestStream = TimeSpan.FromMinutes(10);

    private readonly ConcurrentDictionary<Channel<Heard>, int> listeners = new();

    // A change as a stream tells it: its place in what was heard, the job (0 for any) and the row (0 for anything but a reading).
    private readonly record struct Heard(long Place, int Job, long Row);

    // The latest changes, the n-th at n modulo their number; null for one that may be about any job.
    private readonly (int Shop, int Job, long Row)?[] latest = new (int, int, long)?[256];

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
                return MarkAt(heard);
            }
        }
    }

    /// <summary>How much had been heard before anything of this page was read; it stands in the page and opens its stream.</summary>
    /// <param name="context">The request.</param>
    public static string MarkOf(HttpContext context) => $"{context.Items[typeof(LiveJobs)]}";

    private string MarkAt(long place) => string.Create(CultureInfo.InvariantCulture, $"{copy}-{place}");

    // What a shop's stream has to be told that was opened by a page with this mark; one that is not known here (another
    // copy of the server, a restart, too long ago) means that anything may have changed.
    private IReadOnlyList<Heard> Missed(int shop, string since)
    {
        var parts = since.Split('-');
        lock (latest)
        {
            if (parts.Length != 2 || parts[0] != copy || !long.TryParse(parts[1], NumberStyles.None, CultureInfo.InvariantCulture, out var from) || from > heard || heard - from > latest.Length)
            {
                return [new Heard(heard, 0, 0)];
            }
            var missed = new List<Heard>();
            for (var n = from; n < heard; n++)
            {
                if (latest[n % latest.Length] is not { } changed)
                {
                    missed.Add(new Heard(n + 1, 0, 0));
                }
                else if (changed.Shop == shop)
                {
                    missed.Add(new Heard(n + 1, changed.Job, changed.Row));
                }
            }
            return missed;
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

    /// <summary>How many pages are told of changes just now.</summary>
    public int Streams => listeners.Count;

    private void Tell((int Shop, int Job)? about, long row)
    {
        Heard told;
        lock (latest)
        {
            latest[heard++ % latest.Length] = about is { } a ? (a.Shop, a.Job, row) : null;
            told = new Heard(heard, about?.Job ?? 0, row);
        }
        foreach (var (channel, shop) in listeners)
        {
            if (about is null || about.Value.Shop == shop)
            {
                channel.Writer.TryWrite(told);
            }
        }
    }

    /// <summary>Maps the stream of a shop's changes: <c>GET /live</c>, with <c>since</c> the mark of the page that asks. Each event is a job and a row.</summary>
    public static void Map(WebApplication app) =>
        app.MapGet("/live", (string? since, HttpContext http, LiveJobs live, IHostApplicationLifetime host, CancellationToken cancel) =>
        {
            var who = ((Visit)http.Items[typeof(Visit)]!).Who;
            // Opened again by the browser: from where it broke off.
            var from = http.Request.Headers["Last-Event-ID"].ToString() is { Length: > 0 } last ? last : since;
            return TypedResults.ServerSentEvents(live.StreamAsync(who.ShopId, from, host.ApplicationStopping, cancel));
        }).RequireAuthorization().ExcludeFromDescription();

    private async IAsyncEnumerable<SseItem<string>> StreamAsync(int shop, string? since, CancellationToken stopping, [EnumeratorCancellation] CancellationToken cancel)
    {
        SseItem<string> Event(Heard h) => new(string.Create(CultureInfo.InvariantCulture, $"{h.Job} {h.Row}"), "change") { EventId = MarkAt(h.Place) };
        var channel = Channel.CreateBounded<Heard>(new BoundedChannelOptions(256) { FullMode = BoundedChannelFullMode.DropOldest });
        listeners[channel] = shop;
        using var end = CancellationTokenSource.CreateLinkedTokenSource(stopping, cancel);
        end.CancelAfter(LongestStream);
        try
        {
            yield return new SseItem<string>("", "ready");
            long told = 0;
            foreach (var missed in string.IsNullOrEmpty(since) ? [] : Missed(shop, since))
            {
                told = missed.Place;
                yield return Event(missed);
            }
            while (!end.IsCancellationRequested)
            {
                var next = await NextAsync(channel.Reader, end.Token);
                if (next is { } heardNow)
                {
                    // Heard while what was missed was told: once is enough.
                    if (heardNow.Place > told)
                    {
                        yield return Event(heardNow);
                    }
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
    private static async Task<Heard?> NextAsync(ChannelReader<Heard> reader, CancellationToken end)
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
