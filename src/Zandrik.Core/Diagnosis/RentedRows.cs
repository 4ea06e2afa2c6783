using System.Buffers;

namespace Zandrik.Core.Diagnosis;

/// <summary>Rows of one length in a borrowed array that grows.</summary>
internal sealed class RentedRows(int length, int rows) : IDisposable
{
    private int used;

    /// <summary>All of them; borrowed anew when it grows.</summary>
    public double[] All { get; private set; } = ArrayPool<double>.Shared.Rent(length * rows);

    /// <summary>The row that starts at a place.</summary>
    public Span<double> Row(int start) => All.AsSpan(start, length);

    /// <summary>Where the next row starts.</summary>
    public int Next()
    {
        if ((used + 1) * length > All.Length)
        {
            var more = ArrayPool<double>.Shared.Rent(2 * All.Length);
            All.AsSpan().CopyTo(more);
            Dispose();
            All = more;
        }
        return used++ * length;
    }

    public void Dispose() => ArrayPool<double>.Shared.Return(All);
}
