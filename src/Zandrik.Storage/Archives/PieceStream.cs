namespace Zandrik.Storage.Archives;

/// <summary>Reads what is kept in pieces of <see cref="ArchiveStore.Piece"/> as one stream, from any place on; one piece is in memory at a time.</summary>
internal sealed class PieceStream(long length, Func<int, CancellationToken, Task<byte[]>> fetch) : Stream
{
    private byte[] piece = [];
    private int at = -1;

    /// <inheritdoc/>
    public override bool CanRead => true;

    /// <inheritdoc/>
    public override bool CanSeek => true;

    /// <inheritdoc/>
    public override bool CanWrite => false;

    /// <inheritdoc/>
    public override long Length => length;

    /// <inheritdoc/>
    public override long Position { get; set; }

    /// <inheritdoc/>
    public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
    {
        if (Position >= length || buffer.Length == 0)
        {
            return 0;
        }
        var n = (int)(Position / ArchiveStore.Piece);
        if (n != at)
        {
            (piece, at) = (await fetch(n, cancellationToken), n);
        }
        var from = (int)(Position - (long)n * ArchiveStore.Piece);
        var count = Math.Min(buffer.Length, piece.Length - from);
        piece.AsMemory(from, count).CopyTo(buffer);
        Position += count;
        return count;
    }

    /// <inheritdoc/>
    public override Task<int> ReadAsync(byte[] buffer, int offset, int count, CancellationToken cancellationToken) => ReadAsync(buffer.AsMemory(offset, count), cancellationToken).AsTask();

    /// <inheritdoc/>
    public override int Read(byte[] buffer, int offset, int count) => throw new NotSupportedException("Read it without waiting: the pieces come from the database.");

    /// <inheritdoc/>
    public override long Seek(long offset, SeekOrigin origin) => Position = origin switch
    {
        SeekOrigin.Begin => offset,
        SeekOrigin.Current => Position + offset,
        _ => length + offset,
    };

    /// <inheritdoc/>
    public override void Flush()
    {
    }

    /// <inheritdoc/>
    public override void SetLength(long value) => throw new NotSupportedException();

    /// <inheritdoc/>
    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
}
