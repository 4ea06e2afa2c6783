using System.Buffers.Binary;

namespace Zandrik.Core.RelativeCompression;

/// <summary>
/// A capture as it is drawn: even steps of time, each with the lowest and the highest current in it, so that no spike vanishes however far it is looked at from. The current is turned the
/// right way round and set to zero as the analysis did.
/// </summary>
/// <param name="StepS">Time of one step, s.</param>
/// <param name="Lowest">Lowest current of each step, A.</param>
/// <param name="Highest">Highest current of each step, A.</param>
/// <param name="SyncLowest">Lowest of the sync channel, V; empty without one.</param>
/// <param name="SyncHighest">Highest of the sync channel, V; empty without one.</param>
public sealed record CapturePicture(double StepS, float[] Lowest, float[] Highest, float[] SyncLowest, float[] SyncHighest)
{
    /// <summary>Most steps that are kept for looking at.</summary>
    public const int MostSteps = 1 << 17;

    private const int HeadBytes = 40;
    private const int Levels = ushort.MaxValue;

    /// <summary>The whole time, s.</summary>
    public double DurationS => StepS * Lowest.Length;

    /// <summary>Makes it.</summary>
    /// <param name="trace">The capture, finished.</param>
    /// <param name="answer">What was found of it: which way round the clamp sat, and its zero.</param>
    /// <param name="mostSteps">Most steps, 1 or more.</param>
    /// <returns>The picture, of as many steps at most.</returns>
    public static CapturePicture Of(StarterTrace trace, RelativeAnswer answer, int mostSteps = MostSteps)
    {
        var per = Math.Max(1, (trace.Blocks + mostSteps - 1) / mostSteps);
        var (low, high) = Gather(trace.Lowest, trace.Highest, per);
        for (var i = 0; i < low.Length; i++)
        {
            var (l, h) = (low[i] - (float)answer.ZeroA, high[i] - (float)answer.ZeroA);
            (low[i], high[i]) = answer.Reversed ? (-h, -l) : (l, h);
        }
        var (syncLow, syncHigh) = Gather(trace.SyncLowest, trace.SyncHighest, per);
        return new CapturePicture(trace.BlockSeconds * per, low, high, syncLow, syncHigh);
    }

    /// <summary>The same with at most so many steps.</summary>
    /// <returns>The picture itself where it has no more.</returns>
    public CapturePicture Reduced(int mostSteps)
    {
        var per = (Lowest.Length + mostSteps - 1) / mostSteps;
        if (per <= 1)
        {
            return this;
        }
        var (low, high) = Gather(Lowest, Highest, per);
        var (syncLow, syncHigh) = Gather(SyncLowest, SyncHighest, per);
        return new CapturePicture(StepS * per, low, high, syncLow, syncHigh);
    }

    /// <summary>
    /// Packs it for keeping and for the browser. Little-endian: number of steps (int32), number of sync steps (int32), step (float64, s), then for current and sync each the value of level 0
    /// and the value of one level (float32), 8 bytes of nothing; then pairs of levels, lowest and highest (uint16), of the current and of the sync.
    /// </summary>
    /// <returns>The bytes; as many for each step, whatever the trace.</returns>
    public byte[] Pack()
    {
        var bytes = new byte[HeadBytes + 4 * (Lowest.Length + SyncLowest.Length)];
        var span = bytes.AsSpan();
        BinaryPrimitives.WriteInt32LittleEndian(span, Lowest.Length);
        BinaryPrimitives.WriteInt32LittleEndian(span[4..], SyncLowest.Length);
        BinaryPrimitives.WriteDoubleLittleEndian(span[8..], StepS);
        Write(span[16..], span[HeadBytes..], Lowest, Highest);
        Write(span[24..], span[(HeadBytes + 4 * Lowest.Length)..], SyncLowest, SyncHighest);
        return bytes;
    }

    /// <summary>Reads what <see cref="Pack"/> made; values come back to within half a level of 65 535.</summary>
    /// <returns>The picture.</returns>
    public static CapturePicture Unpack(ReadOnlySpan<byte> bytes)
    {
        var (n, syncs) = (BinaryPrimitives.ReadInt32LittleEndian(bytes), BinaryPrimitives.ReadInt32LittleEndian(bytes[4..]));
        var (low, high) = Read(bytes[16..], bytes[HeadBytes..], n);
        var (syncLow, syncHigh) = Read(bytes[24..], bytes[(HeadBytes + 4 * n)..], syncs);
        return new CapturePicture(BinaryPrimitives.ReadDoubleLittleEndian(bytes[8..]), low, high, syncLow, syncHigh);
    }

    private static void Write(Span<byte> head, Span<byte> to, float[] low, float[] high)
    {
        var floor = low.Length > 0 ? low.Min() : 0;
        var level = low.Length > 0 ? Math.Max((high.Max() - floor) / Levels, float.Epsilon) : 1;
        BinaryPrimitives.WriteSingleLittleEndian(head, floor);
        BinaryPrimitives.WriteSingleLittleEndian(head[4..], level);
        ushort Level(float value) => (ushort)Math.Clamp(MathF.Round((value - floor) / level), 0, Levels);
        for (var i = 0; i < low.Length; i++)
        {
            BinaryPrimitives.WriteUInt16LittleEndian(to[(4 * i)..], Level(low[i]));
            BinaryPrimitives.WriteUInt16LittleEndian(to[(4 * i + 2)..], Level(high[i]));
        }
    }

    private static (float[] Low, float[] High) Read(ReadOnlySpan<byte> head, ReadOnlySpan<byte> from, int n)
    {
        var (floor, level) = (BinaryPrimitives.ReadSingleLittleEndian(head), BinaryPrimitives.ReadSingleLittleEndian(head[4..]));
        var (low, high) = (new float[n], new float[n]);
        for (var i = 0; i < n; i++)
        {
            low[i] = floor + level * BinaryPrimitives.ReadUInt16LittleEndian(from[(4 * i)..]);
            high[i] = floor + level * BinaryPrimitives.ReadUInt16LittleEndian(from[(4 * i + 2)..]);
        }
        return (low, high);
    }

    private static (float[] Low, float[] High) Gather(ReadOnlySpan<float> lows, ReadOnlySpan<float> highs, int per)
    {
        var n = (lows.Length + per - 1) / per;
        var (low, high) = (new float[n], new float[n]);
        for (var i = 0; i < n; i++)
        {
            var (from, to) = (i * per, Math.Min(lows.Length, (i + 1) * per));
            (low[i], high[i]) = (lows[from], highs[from]);
            for (var k = from + 1; k < to; k++)
            {
                low[i] = Math.Min(low[i], lows[k]);
                high[i] = Math.Max(high[i], highs[k]);
            }
        }
        return (low, high);
    }
}
