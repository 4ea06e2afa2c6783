namespace Zandrik.Web.Front;

/// <summary>
/// Draws photos anew, two at a time and of large ones only one: a small file can unpack to a picture that fills the
/// memory, and eight of them at once must not.
/// </summary>
public sealed class PhotoDesk : IDisposable
{
    // A picture of more points is large: unpacked, turned and made smaller it takes a hundred megabytes and more.
    private const long LargePoints = 8_000_000;

    private readonly SemaphoreSlim places = new(2);
    private readonly SemaphoreSlim large = new(1);

    /// <summary>Reads a photo that was sent; waits for its turn.</summary>
    /// <param name="file">The file, at most <see cref="PlugPicture.LargestFile"/>.</param>
    /// <param name="cancel">Cancels the waiting.</param>
    /// <returns>The picture, or what is wrong with the file: exactly one of the two.</returns>
    public async Task<(PlugPicture? Picture, string? Problem)> ReadAsync(IFormFile file, CancellationToken cancel)
    {
        using var sent = new MemoryStream(checked((int)file.Length));
        await file.CopyToAsync(sent, cancel);
        var bytes = sent.ToArray();
        return PlugPicture.Points(bytes) > LargePoints
            ? await InTurnAsync(large, () => InTurnAsync(places, () => Task.Run(() => PlugPicture.Read(bytes), cancel), cancel), cancel)
            : await InTurnAsync(places, () => Task.Run(() => PlugPicture.Read(bytes), cancel), cancel);
    }

    private static async Task<T> InTurnAsync<T>(SemaphoreSlim turn, Func<Task<T>> work, CancellationToken cancel)
    {
        await turn.WaitAsync(cancel);
        try
        {
            return await work();
        }
        finally
        {
            turn.Release();
        }
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        places.Dispose();
        large.Dispose();
    }
}
