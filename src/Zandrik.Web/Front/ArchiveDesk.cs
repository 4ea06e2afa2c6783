using Zandrik.Storage;
using Zandrik.Storage.Archives;

namespace Zandrik.Web.Front;

/// <summary>Makes archives beside the pages, one for each shop, until the server is stopped.</summary>
public sealed class ArchiveDesk(ArchiveStore store, TimeProvider clock, IHostApplicationLifetime life, ILogger<ArchiveDesk> log)
{
    /// <summary>Begins an archive; while one is being made nothing more happens.</summary>
    public async Task BeginAsync(ShopPerson who, CancellationToken cancel)
    {
        var (id, isNew) = await store.BeginAsync(who, clock.GetUtcNow(), cancel);
        if (isNew)
        {
            _ = Task.Run(() => MakeAsync(who, id), CancellationToken.None);
        }
    }

    private async Task MakeAsync(ShopPerson who, int id)
    {
        try
        {
            await new ArchiveBuilder(store, clock).MakeAsync(who, id, life.ApplicationStopping);
        }
        catch (Exception wrong) when (wrong is not OutOfMemoryException)
        {
            // The page sees that nothing is written any more and offers to begin again.
            Broke(log, wrong);
        }
    }

    private static readonly Action<ILogger, Exception?> Broke = LoggerMessage.Define(LogLevel.Error, new EventId(1, "ArchiveBroke"), "An archive broke off.");
}
