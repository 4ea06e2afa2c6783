using System.IO.Compression;
using System.Text;

namespace Zandrik.Core.RelativeCompression;

/// <summary>
/// Captures as files: rows of numbers in any common shape, or WAV, either of them gzipped. What is read is a stream; nothing is kept but the trace. What cannot be read is an answer
/// (<see cref="CaptureCode.Unreadable"/>), never an exception.
/// </summary>
public static class CaptureFile
{
    /// <summary>Bytes looked at for a guess.</summary>
    public const int HeadBytes = 64 * 1024;

    /// <summary>Most bytes a gzipped capture may unfold to: beyond it is no capture.</summary>
    public const long MostUnfolded = 1L << 30;

    private const int Piece = 1024 * 1024;

    /// <summary>Looks at the beginning of a file and guesses how it is read.</summary>
    /// <param name="file">Its bytes from the beginning; not closed.</param>
    /// <param name="written">What stands between columns and whether the decimal mark is a comma, where somebody knows better; absent to guess that too.</param>
    /// <param name="cancel">Stops it.</param>
    /// <returns>Layout and columns, or what is wrong with the file; never fails on its bytes.</returns>
    public static async Task<CaptureInspection> InspectAsync(Stream file, (char Delimiter, bool DecimalComma)? written = null, CancellationToken cancel = default)
    {
        try
        {
            await using var plain = await UnfoldAsync(file, cancel);
            var head = new byte[HeadBytes];
            var length = await plain.ReadAtLeastAsync(head, HeadBytes, throwOnEndOfStream: false, cancel);
            var bytes = head.AsSpan(0, length);
            return WaveHead.IsWave(bytes) ? CaptureInspector.Wave(bytes) : CaptureInspector.Text(bytes, written);
        }
        catch (InvalidDataException)
        {
            return new CaptureInspection { Problem = Broken };
        }
    }

    /// <summary>Reads a file.</summary>
    /// <param name="file">Its bytes from the beginning; not closed.</param>
    /// <param name="layout">How it is read.</param>
    /// <param name="progress">Told the unfolded bytes read so far; absent for nobody.</param>
    /// <param name="cancel">Stops it.</param>
    /// <returns>The trace, or what is wrong with the file; never fails on its bytes.</returns>
    public static Task<CaptureReading> ReadAsync(Stream file, CaptureLayout layout, IProgress<long>? progress = null, CancellationToken cancel = default) => ReadAsync(file, layout, progress, MostUnfolded, cancel);

    internal static async Task<CaptureReading> ReadAsync(Stream file, CaptureLayout layout, IProgress<long>? progress, long mostUnfolded, CancellationToken cancel)
    {
        if (new[] { layout.CurrentColumn, layout.TimeColumn ?? 0, layout.SyncColumn ?? 0, layout.BatteryColumn ?? 0 }.Any(c => c is < 0 or >= CaptureLayout.MostColumns))
        {
            return new CaptureReading { Problem = new(CaptureCode.Unreadable, FormattableString.Invariant($"Columns are counted from 0 to {CaptureLayout.MostColumns - 1}.")) };
        }
        var truncated = false;
        ICaptureSink? sink = null;
        var buffer = new byte[Piece];
        var next = new byte[Piece];
        long read = 0;
        await using var plain = await UnfoldAsync(file, cancel);
        try
        {
            var length = await plain.ReadAtLeastAsync(buffer, 4096, throwOnEndOfStream: false, cancel);
            var wave = WaveHead.IsWave(buffer.AsSpan(0, length));
            if (wave)
            {
                var (head, problem) = WaveHead.Read(buffer.AsSpan(0, length));
                if (head is null)
                {
                    return new CaptureReading { Problem = new(CaptureCode.Unreadable, problem!) };
                }
                sink = new CaptureWave(head, layout);
            }
            else
            {
                sink = new CaptureRows(layout);
            }
            var from = !wave && buffer.AsSpan(0, length).StartsWith("\uFEFF"u8) ? 3 : 0;
            while (length > 0)
            {
                // The next piece is fetched while this one is read.
                var fetching = plain.ReadAsync(next, cancel).AsTask();
                sink.Feed(buffer.AsMemory(from, length - from));
                from = 0;
                read += length;
                progress?.Report(read);
                length = 0;
                length = await fetching;
                (buffer, next) = (next, buffer);
                if (read > mostUnfolded)
                {
                    return new CaptureReading { Problem = new(CaptureCode.Unreadable, FormattableString.Invariant($"This file unfolds to more than {mostUnfolded >> 20} MiB: that is no capture. Cut it to the seconds of cranking.")) };
                }
                if (sink.IsHopeless)
                {
                    return new CaptureReading { Problem = new(CaptureCode.Unreadable, "More than a million lines of this file hold no numbers: that is no capture. Save the capture again as a table.") };
                }
            }
        }
        catch (InvalidDataException)
        {
            if (sink is null)
            {
                return new CaptureReading { Problem = Broken };
            }
            truncated = true;
        }
        var reading = sink.Finish();
        return truncated ? reading with { Remarks = [.. reading.Remarks, new(CaptureCode.TruncatedFile, "The compressed file ends in the middle; what could be unfolded is used.")] } : reading;
    }

    private static CaptureRemark Broken => new(CaptureCode.Unreadable, "The compressed file is broken from its beginning. Send it again.");

    // Gzip and UTF-16 are told by their first bytes; both are unfolded as they are read.
    private static async Task<Stream> UnfoldAsync(Stream file, CancellationToken cancel)
    {
        var (plain, start) = await PeekAsync(file, cancel);
        if (start is [0x1F, 0x8B, ..])
        {
            (plain, start) = await PeekAsync(new GZipStream(plain, CompressionMode.Decompress), cancel);
        }
        return start switch
        {
            [0xFF, 0xFE, ..] => Encoding.CreateTranscodingStream(plain, Encoding.Unicode, Encoding.UTF8),
            [0xFE, 0xFF, ..] => Encoding.CreateTranscodingStream(plain, Encoding.BigEndianUnicode, Encoding.UTF8),
            _ => plain,
        };
    }

    private static async Task<(Stream Whole, byte[] Start)> PeekAsync(Stream stream, CancellationToken cancel)
    {
        var start = new byte[2];
        var length = await stream.ReadAtLeastAsync(start, 2, throwOnEndOfStream: false, cancel);
        return (new Rejoined(start.AsMemory(0, length), stream), start[..length]);
    }

    // What was looked at, and then the rest.
    private sealed class Rejoined(ReadOnlyMemory<byte> start, Stream rest) : Stream
    {
        private ReadOnlyMemory<byte> left = start;

        public override bool CanRead => true;

        public override bool CanSeek => false;

        public override bool CanWrite => false;

        public override long Length => throw new NotSupportedException();

        public override long Position { get => throw new NotSupportedException(); set => throw new NotSupportedException(); }

        public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

        public override int Read(Span<byte> buffer)
        {
            if (left.IsEmpty)
            {
                return rest.Read(buffer);
            }
            var take = Math.Min(buffer.Length, left.Length);
            left.Span[..take].CopyTo(buffer);
            left = left[take..];
            return take;
        }

        public override ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default) =>
            left.IsEmpty ? rest.ReadAsync(buffer, cancellationToken) : ValueTask.FromResult(Read(buffer.Span));

        public override Task<int> ReadAsync(byte[] buffer, int offset, int count, CancellationToken cancellationToken) =>
            ReadAsync(buffer.AsMemory(offset, count), cancellationToken).AsTask();

        public override void Flush()
        {
        }

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();

        public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
    }
}
