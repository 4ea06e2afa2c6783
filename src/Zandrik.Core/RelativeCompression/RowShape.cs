using System.Numerics;
using System.Runtime.CompilerServices;
using System.Runtime.Intrinsics;

namespace Zandrik.Core.RelativeCompression;

/// <summary>
/// How a row of plain numbers is written: which bytes are digits, and what the others are. An instrument writes row after row in the same few shapes, so one comparison of the whole row tells
/// where each number stands, and none of its bytes has to be asked what it is.
/// </summary>
internal sealed class RowShape
{
    /// <summary>Most bytes of a row, its end of line counted; longer ones have no shape.</summary>
    public const int Longest = 64;

    /// <summary>How many bytes from where a row begins must be there: a number that begins at its last byte is still picked out of sixteen.</summary>
    public const int Ahead = Longest + 16;

    private readonly Vector512<byte> pattern;
    private readonly ulong row;
    private readonly Cell[] cells;

    private RowShape(Vector512<byte> pattern, ulong row, Cell[] cells) => (this.pattern, this.row, this.cells) = (pattern, row, cells);

    /// <summary>The shape of no row: digits are all alike in a pattern, and not like this.</summary>
    public static RowShape OfNone { get; } = new(Vector512.Create((byte)'9'), ulong.MaxValue, []);

    /// <summary>Where the number of one role stands.</summary>
    public ref readonly Cell this[int role] => ref cells[role];

    /// <summary>The shape of a row; null where a number that is wanted is not plain, or wider than 16 bytes with sign and decimal mark.</summary>
    /// <param name="line">The row with its LF.</param>
    /// <param name="layout">What stands between its cells, and its decimal mark.</param>
    /// <param name="roleOf">What each column holds, up to the last that is needed.</param>
    public static RowShape? Of(ReadOnlySpan<byte> line, CaptureLayout layout, ReadOnlySpan<int> roleOf)
    {
        if (line.Length > Longest)
        {
            return null;
        }
        var cells = new Cell[RowBatch.Battery + 1];
        var at = 0;
        foreach (var role in roleOf)
        {
            var width = line[at..].IndexOfAny((byte)layout.Delimiter, (byte)'\n', (byte)'\r');
            if (role > 0)
            {
                if (Cell.Of(line.Slice(at, width), at, layout.DecimalComma ? (byte)',' : (byte)'.') is not { } cell)
                {
                    return null;
                }
                cells[role] = cell;
            }
            at += width + 1;
        }
        Span<byte> bytes = stackalloc byte[Longest];
        line.CopyTo(bytes);
        return new RowShape(DigitsBlank(Vector512.Create<byte>(bytes), out _), ulong.MaxValue >> (Longest - line.Length), cells);
    }

    /// <summary>True where a row of this shape begins.</summary>
    /// <param name="bytes">The bytes there, with all digits alike (<see cref="DigitsBlank"/>).</param>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public bool Fits(Vector512<byte> bytes) => (~Vector512.Equals(bytes, pattern).ExtractMostSignificantBits() & row) == 0;

    /// <summary>Bytes with every digit turned into the same one.</summary>
    /// <param name="bytes">The bytes.</param>
    /// <param name="others">A bit for each that is no digit.</param>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public static Vector512<byte> DigitsBlank(Vector512<byte> bytes, out ulong others)
    {
        var zero = Vector512.Create((byte)'0');
        var digits = Vector512.LessThanOrEqual(bytes - zero, Vector512.Create((byte)9));
        others = ~digits.ExtractMostSignificantBits();
        return Vector512.ConditionalSelect(digits, zero, bytes);
    }

    /// <summary>A number of a row: where its digits stand, and how much too great they are without the decimal mark.</summary>
    /// <param name="At">Its first byte, from the beginning of the row.</param>
    /// <param name="Pick">Which of its bytes are digits, the last one last; nothing before the first.</param>
    /// <param name="Over">What the digits are divided by; below zero for a number with a minus.</param>
    /// <param name="Long">True where there are more than eight digits.</param>
    internal readonly record struct Cell(int At, Vector128<byte> Pick, double Over, bool Long)
    {
        /// <summary>Where the digits of a plain number stand (sign, digits, decimal mark); null where it is none, or too wide.</summary>
        public static Cell? Of(ReadOnlySpan<byte> number, int at, byte mark)
        {
            Span<byte> pick = stackalloc byte[Vector128<byte>.Count];
            if (number.Length > pick.Length)
            {
                return null;
            }
            pick.Fill(0xFF);
            var (to, over) = (pick.Length, 1.0);
            var marked = false;
            for (var i = number.Length - 1; i >= 0; i--)
            {
                if (char.IsAsciiDigit((char)number[i]))
                {
                    pick[--to] = (byte)i;
                }
                else if (number[i] == mark && !marked)
                {
                    (marked, over) = (true, Math.Pow(10, pick.Length - to));
                }
                else if (number[i] != '-' || i > 0)
                {
                    return null;
                }
            }
            var digits = pick.Length - to;
            return digits == 0 ? null : new Cell(at, Vector128.Create<byte>(pick), number[0] == '-' ? -over : over, digits > sizeof(ulong));
        }

        /// <summary>The number that stands there in a row of this shape.</summary>
        [MethodImpl(MethodImplOptions.AggressiveInlining)]
        public double Read(ref readonly byte line)
        {
            var digits = (Vector128.ShuffleNative(Vector128.LoadUnsafe(in line, (uint)At), Pick) & Vector128.Create((byte)0x0F)).AsUInt64();
            var mantissa = (long)NumberText.OfDigits(digits.GetElement(1));
            if (Long)
            {
                mantissa += NumberText.OfDigits(digits.GetElement(0)) * 100_000_000L;
            }
            return mantissa / Over;
        }
    }
}

/// <summary>The shapes that rows have had, each at a place that follows from where its digits stand.</summary>
internal sealed class RowShapes
{
    // Two signs in two channels are four; one digit more or less before the decimal mark doubles them.
    private const int PlaceBits = 6;

    // Where every row has another shape, learning them is wasted: so many at once, and one for each so many rows that had one.
    private const int AtOnce = 64, RowsForOne = 32;

    private readonly RowShape[] shapes = [.. Enumerable.Repeat(RowShape.OfNone, 1 << PlaceBits)];
    private long learnt;
    private long fitted;

    /// <summary>The shape at a place.</summary>
    public RowShape this[int place] => shapes[place];

    /// <summary>At which place the shape stands of the row that begins here; -1 where it is none of those known.</summary>
    /// <param name="bytes">The bytes there.</param>
    /// <param name="length">How long the row is with its LF; one more than there are bytes where they hold no LF.</param>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public int Find(Vector512<byte> bytes, out int length)
    {
        var pattern = RowShape.DigitsBlank(bytes, out var others);
        var ends = Vector512.Equals(bytes, Vector512.Create((byte)'\n')).ExtractMostSignificantBits();
        length = BitOperations.TrailingZeroCount(ends) + 1;
        var place = Place(others & (ends ^ (ends - 1)));
        return shapes[place].Fits(pattern) ? place : -1;
    }

    /// <summary>Counts rows that had a shape.</summary>
    public void Fitted(long rows) => fitted += rows;

    /// <summary>Takes up the shape of a row, if it has one and learning has been worth while; another one at its place is forgotten.</summary>
    /// <param name="line">The row with its LF.</param>
    /// <param name="layout">What stands between its cells, and its decimal mark.</param>
    /// <param name="roleOf">What each column holds, up to the last that is needed.</param>
    public void Learn(ReadOnlySpan<byte> line, CaptureLayout layout, ReadOnlySpan<int> roleOf)
    {
        if (learnt > AtOnce + fitted / RowsForOne || RowShape.Of(line, layout, roleOf) is not { } shape)
        {
            return;
        }
        learnt++;
        ulong others = 0;
        for (var i = 0; i < line.Length; i++)
        {
            others |= char.IsAsciiDigit((char)line[i]) ? 0 : 1UL << i;
        }
        shapes[Place(others)] = shape;
    }

    // Multiplied by a number without pattern, the highest bits depend on all the others.
    private static int Place(ulong others) => (int)((others * 0x9E3779B97F4A7C15) >> (64 - PlaceBits));
}
