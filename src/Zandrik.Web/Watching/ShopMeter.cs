using System.Diagnostics.Metrics;
using Zandrik.Storage;
using Zandrik.Storage.Backups;
using Zandrik.Web.Front;

namespace Zandrik.Web.Watching;

/// <summary>What the server counts, for whoever watches it from outside. No token, link, name or reading is in it.</summary>
public sealed class ShopMeter : IDisposable
{
    private readonly Meter meter = new(Measures.Name);
    private readonly Counter<long> signInsFailed;
    private readonly Histogram<double> entries, waited;

    public ShopMeter(IConfiguration configuration, LiveJobs live, TimeProvider clock)
    {
        signInsFailed = meter.CreateCounter<long>("zandrik.sign_in.failures", "{try}", "Sign-ins that were refused.");
        meter.CreateObservableGauge("zandrik.live.streams", () => live.Streams, "{stream}", "Pages that are told of changes at once.");
        entries = meter.CreateHistogram<double>("zandrik.entry.duration", "s", "Entries on jobs: how long each took, and what came of it.");
        waited = meter.CreateHistogram<double>("zandrik.entry.waited", "s", "How long entries had waited on a tablet before they came; those that came at once are not counted.");
        if (configuration["ZANDRIK_BACKUPS"] is { Length: > 0 } folder)
        {
            meter.CreateObservableGauge("zandrik.backup.age", () => BackupShelf.List(folder) is [var newest, ..] ? [new Measurement<double>((clock.GetUtcNow() - newest.Made).TotalSeconds)] : Array.Empty<Measurement<double>>(), "s", "Age of the newest backup; absent while there is none.");
        }
    }

    /// <summary>A sign-in was refused.</summary>
    /// <param name="why">wrong, or wait.</param>
    public void SignInFailed(string why) => signInsFailed.Add(1, new KeyValuePair<string, object?>("why", why));

    /// <summary>An entry was answered.</summary>
    /// <param name="took">How long it took.</param>
    /// <param name="came">kept, refused, or failed.</param>
    /// <param name="typed">When it was typed, where it says so.</param>
    /// <param name="now">The time.</param>
    public void Entry(TimeSpan took, string came, DateTimeOffset? typed, DateTimeOffset now)
    {
        entries.Record(took.TotalSeconds, new KeyValuePair<string, object?>("came", came));
        if (typed is { } at && now - at > AtOnce)
        {
            waited.Record((now - at).TotalSeconds);
        }
    }

    // Clocks of tablets differ by seconds.
    private static readonly TimeSpan AtOnce = TimeSpan.FromSeconds(15);

    public void Dispose() => meter.Dispose();
}
