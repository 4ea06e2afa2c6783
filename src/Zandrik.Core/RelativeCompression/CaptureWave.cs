using System.Buffers.Binary;

namespace Zandrik.Core.RelativeCompression;

/// <summary>The head of a WAV file.</summary>
/// <param name="Channels">Channels, 1 to 32.</param>
/// <param name="Rate">Samples a second.</param>
/// <param name="Bits">Bits of a sample: 8, 16, 24, 32, or 64 for floating point.</param>
/// <param name="Float">True for floating point.</param>
/// <param name="DataAt">Where the samples begin.</param>
/// <param name="DataBytes">How many bytes they say they are; beyond the file for a capture that was cut, or long.MaxValue where the file does not say.</param>
internal sealed record WaveHead(int Channels, int Rate, int Bits, bool Float, int DataAt, long DataBytes)
{
    /// <summary>True for the first bytes of such a file.</summary>
    public static bool IsWave(ReadOnlySpan<byte> head) => head.Length >= 12 && head[..4].SequenceEqual("RIFF"u8) && head[8..12].SequenceEqual("WAVE"u8);

    /// <summary>Reads it, or says what is wrong.</summary>
    public static (WaveHead? Head, string? Problem) Read(ReadOnlySpan<byte> bytes)
    {
        (int Channels, int Rate, int Bits, bool Float)? format = null;
        var at = 12;
        while (at + 8 <= bytes.Length)
        {
            var size = BinaryPrimitives.ReadUInt32LittleEndian(bytes[(at + 4)..]);
            var chunk = bytes[at..(at + 4)];
            if (chunk.SequenceEqual("fmt "u8) && size >= 16 && at + 8 + 16 <= bytes.Length)
            {
                var body = bytes[(at + 8)..];
                var code = BinaryPrimitives.ReadUInt16LittleEndian(body);
                // The extensible form has the real code in its sub-format.
                code = code == 0xFFFE && size >= 40 && body.Length >= 26 ? BinaryPrimitives.ReadUInt16LittleEndian(body[24..]) : code;
                var (channels, rate, bits) = (BinaryPrimitives.ReadUInt16LittleEndian(body[2..]), BinaryPrimitives.ReadInt32LittleEndian(body[4..]), BinaryPrimitives.ReadUInt16LittleEndian(body[14..]));
                if (code is not (1 or 3) || (code == 1 && bits is not (8 or 16 or 24 or 32)) || (code == 3 && bits is not (32 or 64)))
                {
                    return (null, "This WAV is compressed. Save it as PCM (8 to 32 bit) or floating point.");
                }
                if (channels is 0 or > CaptureLayout.MostColumns || rate < 50)
                {
                    return (null, "The head of this WAV names no channels or no sample rate.");
                }
                format = (channels, rate, bits, code == 3);
            }
            else if (chunk.SequenceEqual("data"u8))
            {
                return format is { } f ? (new WaveHead(f.Channels, f.Rate, f.Bits, f.Float, at + 8, size is 0 or uint.MaxValue ? long.MaxValue : size), null) : (null, "The head of this WAV has no format before its samples.");
            }
            if (size > int.MaxValue - 1024 || at + 8 + (long)size > int.MaxValue)
            {
                break;
            }
            at += 8 + (int)size + (int)(size & 1);
        }
        return (null, "There are no samples in this WAV.");
    }
}

/// <summary>Samples of a WAV file turned into a trace as they arrive; full scale is 1.</summary>
internal sealed class CaptureWave(WaveHead head, CaptureLayout layout) : ICaptureSink
{
    private const int Batch = 4096;

    private readonly StarterTrace trace = new(1.0 / head.Rate, layout.SyncColumn is not null, layout.BatteryColumn is not null);
    private readonly double[] amps = new double[Batch];
    private readonly double[] syncs = new double[Batch];
    private readonly double[] volts = new double[Batch];
    private readonly byte[] frame = new byte[head.Channels * head.Bits / 8];
    private int inFrame;
    private long skip = head.DataAt;
    private long left = head.DataBytes;
    private int filled;

    public bool IsHopeless => false;

    public void Feed(ReadOnlyMemory<byte> piece)
    {
        var bytes = piece.Span;
        if (skip > 0)
        {
            var pass = (int)Math.Min(skip, bytes.Length);
            skip -= pass;
            bytes = bytes[pass..];
        }
        bytes = bytes[..(int)Math.Min(bytes.Length, left)];
        left -= bytes.Length;
        while (!bytes.IsEmpty)
        {
            if (inFrame == 0 && bytes.Length >= frame.Length)
            {
                One(bytes[..frame.Length]);
                bytes = bytes[frame.Length..];
                continue;
            }
            var take = Math.Min(bytes.Length, frame.Length - inFrame);
            bytes[..take].CopyTo(frame.AsSpan(inFrame));
            inFrame += take;
            bytes = bytes[take..];
            if (inFrame == frame.Length)
            {
                inFrame = 0;
                One(frame);
            }
        }
    }

    public CaptureReading Finish()
    {
        Flush();
        if (trace.Samples == 0)
        {
            return new CaptureReading { Problem = new(CaptureCode.Unreadable, "There are no samples in this WAV.") };
        }
        trace.Finish();
        return new CaptureReading
        {
            Trace = trace,
            Remarks = inFrame > 0 || (left > 0 && head.DataBytes != long.MaxValue) ? [new(CaptureCode.TruncatedFile, "The file is shorter than its head says; what is there is used.")] : [],
        };
    }

    private void One(ReadOnlySpan<byte> bytes)
    {
        amps[filled] = Sample(bytes, layout.CurrentColumn) * layout.AmpsPerUnit;
        syncs[filled] = layout.SyncColumn is { } s ? Sample(bytes, s) : 0;
        volts[filled] = layout.BatteryColumn is { } b ? Sample(bytes, b) * layout.VoltsPerUnit : 0;
        if (++filled == Batch)
        {
            Flush();
        }
    }

    private double Sample(ReadOnlySpan<byte> bytes, int channel)
    {
        if (channel < 0 || channel >= head.Channels)
        {
            return double.NaN;
        }
        var at = bytes[(channel * head.Bits / 8)..];
        return (head.Bits, head.Float) switch
        {
            (8, _) => (at[0] - 128) / 128.0,
            (16, _) => BinaryPrimitives.ReadInt16LittleEndian(at) / 32768.0,
            (24, _) => ((at[0] | (at[1] << 8) | (at[2] << 16)) << 8 >> 8) / 8388608.0,
            (32, true) => BinaryPrimitives.ReadSingleLittleEndian(at),
            (32, _) => BinaryPrimitives.ReadInt32LittleEndian(at) / 2147483648.0,
            _ => BinaryPrimitives.ReadDoubleLittleEndian(at),
        };
    }

    private void Flush()
    {
        trace.Add(amps.AsSpan(0, filled), syncs.AsSpan(0, layout.SyncColumn is null ? 0 : filled), volts.AsSpan(0, layout.BatteryColumn is null ? 0 : filled));
        filled = 0;
    }
}
