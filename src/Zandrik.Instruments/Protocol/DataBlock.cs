using System.Buffers.Binary;
using System.Globalization;
using System.Text;

namespace Zandrik.Instruments.Protocol;

/// <summary>A definite-length block: <c>#</c>, how many digits follow, how many bytes follow those, and the bytes: 32-bit floats, the lowest byte first.</summary>
public static class DataBlock
{
    /// <summary>Writes figures as a block.</summary>
    /// <param name="figures">The figures.</param>
    /// <returns>The block, without a line end.</returns>
    public static byte[] Write(IReadOnlyList<float> figures)
    {
        var count = (figures.Count * sizeof(float)).ToString(CultureInfo.InvariantCulture);
        var head = Encoding.ASCII.GetBytes($"#{count.Length}{count}");
        var block = new byte[head.Length + figures.Count * sizeof(float)];
        head.CopyTo(block, 0);
        for (var i = 0; i < figures.Count; i++)
        {
            BinaryPrimitives.WriteSingleLittleEndian(block.AsSpan(head.Length + i * sizeof(float)), figures[i]);
        }
        return block;
    }
}
