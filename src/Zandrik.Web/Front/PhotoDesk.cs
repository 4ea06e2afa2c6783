namespace Zandrik.Web.Front;

/// <summary>
/// Draws photos anew, two at a time: a small file can unpack to a picture that fills the memory, and eight of them at
/// once must not.
/// </summary>
public sealed class PhotoDesk : IDisposable
{
    private readonly SemaphoreSlim places = new(2);

    /// <summary>Reads a photo that was sent; waits for its turn.</summary>
    /// <param name="file">The file, at most <see cref="PlugPicture.LargestFile"/>.</param>
    /// <param name="cancel">Cancels the waiting.</param>
    /// <returns>The picture, or what is wrong with the file: exactly one of the two.</returns>
    public async Task<(PlugPicture? Picture, string? Problem)> ReadAsync(IFormFile file, CancellationToken cancel)
    {
        await places.WaitAsync(cancel);
        try
        {
            using var bytes = new MemoryStream(checked((int)file.Length));
            await file.CopyToAsync(bytes, cancel);
            return await Task.Run(() => PlugPicture.Read(bytes.ToArray()), cancel);
        }
        finally
        {
            places.Release();
        }
    }

    /// <inheritdoc/>
    public void Dispose() => places.Dispose();
}
