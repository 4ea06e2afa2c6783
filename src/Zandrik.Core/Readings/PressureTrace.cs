using System.Buffers.Binary;

namespace Zandrik.Core.Readings;

/// <summary>What a gauge held while a reading was taken, as an instrument wrote it down, evenly in time.</summary>
/// <param name="IntervalS">Time between two figures, s.</param>
/// <param name="Pa">The figures, Pa over the air outside; at least one.</param>
public sealed record PressureTrace(double IntervalS, IReadOnlyList<float> Pa)
{
    /// <summary>Most figures that are kept.</summary>
    public const int Longest = 20_000;

    private const int Head = 12;

    // "ZPT" and the version of what follows.
    private static ReadOnlySpan<byte> Mark => "ZPT1"u8;

    /// <summary>How long it took, s.</summary>
    public double Seconds => IntervalS * (Pa.Count - 1);

    /// <summary>The trace as it is kept: mark, interval as a 64-bit float, figures as 32-bit floats, the lowest byte first.</summary>
    /// <returns>The bytes.</returns>
    public byte[] Pack()
    {
        var bytes = new byte[Head + sizeof(float) * Pa.Count];
        Mark.CopyTo(bytes);
        BinaryPrimitives.WriteDoubleLittleEndian(bytes.AsSpan(Mark.Length), IntervalS);
        for (var i = 0; i < Pa.Count; i++)
        {
            BinaryPrimitives.WriteSingleLittleEndian(bytes.AsSpan(Head + sizeof(float) * i), Pa[i]);
        }
        return bytes;
    }

    /// <summary>Reads a trace that was kept.</summary>
    /// <param name="bytes">As <see cref="Pack"/> wrote them.</param>
    /// <returns>The trace; null for bytes that are none.</returns>
    public static PressureTrace? Unpack(ReadOnlySpan<byte> bytes)
    {
        if (bytes.Length < Head + sizeof(float) || !bytes.StartsWith(Mark) || (bytes.Length - Head) % sizeof(float) != 0 || bytes.Length > Head + sizeof(float) * Longest)
        {
            return null;
        }
        var interval = BinaryPrimitives.ReadDoubleLittleEndian(bytes[Mark.Length..]);
        var figures = new float[(bytes.Length - Head) / sizeof(float)];
        for (var i = 0; i < figures.Length; i++)
        {
            figures[i] = BinaryPrimitives.ReadSingleLittleEndian(bytes[(Head + sizeof(float) * i)..]);
            if (!float.IsFinite(figures[i]))
            {
                return null;
            }
        }
        return interval > 0 && double.IsFinite(interval) ? new(interval, figures) : null;
    }
}
