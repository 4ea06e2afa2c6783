using System.Buffers.Text;
using System.Numerics;
using System.Runtime.CompilerServices;

namespace Zandrik.Core.RelativeCompression;

/// <summary>Numbers straight from the bytes of a file, without strings in between.</summary>
internal static class NumberText
{
    private static readonly double[] Powers = [.. Enumerable.Range(0, 23).Select(i => Math.Pow(10, i))];

    /// <summary>
    /// Reads a number; surrounding spaces and quotes are passed over. NaN for an empty cell, a word, an overload mark (OL, inf, ---): there is no sample then. True when it
    /// was a number or one of those marks, false for anything else.
    /// </summary>
    public static bool Read(ReadOnlySpan<byte> text, bool decimalComma, out double value)
    {
        value = double.NaN;
        text = Trim(text);
        if (text.IsEmpty)
        {
            return true;
        }
        var i = 0;
        var negative = text[0] == '-';
        if (negative || text[0] == '+')
        {
            i++;
        }
        long mantissa = 0;
        var (digits, scale) = (0, 0);
        var mark = decimalComma ? (byte)',' : (byte)'.';
        var seen = false;
        for (; i < text.Length; i++)
        {
            var digit = (uint)(text[i] - '0');
            if (digit <= 9)
            {
                // Digits past the eighteenth do not fit and change nothing that is shown.
                if (digits < 18)
                {
                    mantissa = mantissa * 10 + digit;
                    digits += mantissa > 0 ? 1 : 0;
                    scale -= seen ? 1 : 0;
                }
                else
                {
                    scale += seen ? 0 : 1;
                }
            }
            else if (text[i] == mark && !seen)
            {
                seen = true;
            }
            else
            {
                break;
            }
        }
        var any = i > (seen ? 1 : 0) + (text[0] is (byte)'-' or (byte)'+' ? 1 : 0);
        if (!any)
        {
            return Mark(text);
        }
        if (i < text.Length)
        {
            if ((text[i] | 0x20) != 'e' || !Utf8Parser.TryParse(text[(i + 1)..], out int exponent, out var used) || used != text.Length - i - 1)
            {
                return Mark(text);
            }
            scale += Math.Clamp(exponent, -400, 400);
        }
        double number = mantissa;
        number = scale switch
        {
            0 => number,
            < 0 and > -23 => number / Powers[-scale],
            > 0 and < 23 => number * Powers[scale],
            _ => number * Math.Pow(10, scale),
        };
        // Instruments write impossible numbers where they are overloaded.
        value = Math.Abs(number) < 1e30 ? (negative ? -number : number) : double.NaN;
        return true;
    }

    /// <summary>How many bytes beyond a number or a cell must be there to be looked at eight at a time.</summary>
    public const int Ahead = 40;

    /// <summary>Reads a plain number (sign, digits, decimal mark; up to 18 digits) that ends before something else; false where it is not plain, with the place left anywhere.</summary>
    /// <param name="first">The first of bytes that end with something that is no digit: so no place beyond them is ever looked at.</param>
    /// <param name="at">Where it begins; afterwards where it ends.</param>
    /// <param name="mark">The decimal mark.</param>
    /// <param name="ahead">True where <see cref="Ahead"/> bytes more are there.</param>
    /// <param name="value">The number.</param>
    public static bool ReadPlain(ref byte first, ref int at, byte mark, bool ahead, out double value)
    {
        var i = at;
        var negative = Unsafe.Add(ref first, i) == '-';
        if (negative)
        {
            i++;
        }
        long mantissa = 0;
        var from = i;
        uint digit;
        while ((digit = (uint)(Unsafe.Add(ref first, i) - '0')) <= 9)
        {
            mantissa = mantissa * 10 + digit;
            i++;
        }
        var digits = i - from;
        var places = 0;
        if (Unsafe.Add(ref first, i) == mark)
        {
            from = ++i;
            if (ahead && digits < 10)
            {
                i += Eight(ref Unsafe.Add(ref first, i), ref mantissa);
            }
            while ((digit = (uint)(Unsafe.Add(ref first, i) - '0')) <= 9)
            {
                mantissa = mantissa * 10 + digit;
                i++;
            }
            places = i - from;
            digits += places;
        }
        at = i;
        var number = places == 0 ? mantissa : mantissa / Powers[Math.Min(places, 22)];
        value = negative ? -number : number;
        return digits is > 0 and <= 18;
    }

    /// <summary>Passes over a cell: to the delimiter or to an end of line.</summary>
    /// <param name="first">As for <see cref="ReadPlain"/>, with an end of line at the end.</param>
    /// <param name="at">Where it begins; afterwards where it ends.</param>
    /// <param name="delimiter">What stands between cells.</param>
    /// <param name="ahead">True where <see cref="Ahead"/> bytes more are there.</param>
    public static void Skip(ref byte first, ref int at, byte delimiter, bool ahead)
    {
        var to = at + (ahead ? Ahead - sizeof(ulong) : 0);
        while (at < to)
        {
            var bytes = Unsafe.ReadUnaligned<ulong>(ref Unsafe.Add(ref first, at));
            var other = bytes ^ Ones * delimiter;
            // The lowest mark of each is right, whatever it borrows from those above.
            var ends = (((other - Ones) & ~other) | ((bytes - Ones * ('\r' + 1)) & ~bytes)) & Tops;
            if (ends != 0)
            {
                at += BitOperations.TrailingZeroCount(ends) / 8;
                return;
            }
            at += sizeof(ulong);
        }
        byte skipped;
        while ((skipped = Unsafe.Add(ref first, at)) != delimiter && skipped > '\r')
        {
            at++;
        }
    }

    private const ulong Ones = 0x0101010101010101, Tops = 0x8080808080808080;

    // Up to eight digits at once, lowest byte first; answers how many there are.
    private static int Eight(ref byte first, ref long mantissa)
    {
        var bytes = Unsafe.ReadUnaligned<ulong>(ref first);
        // A top bit in each byte that is no digit; the lowest is right, whatever is carried above it.
        var others = ((bytes + Ones * (0x7F - '9')) | (bytes - Ones * '0') | bytes) & Tops;
        var count = others == 0 ? sizeof(ulong) : BitOperations.TrailingZeroCount(others) / 8;
        if (count == 0)
        {
            return 0;
        }
        // The digits to the top, nothing before them.
        mantissa = mantissa * Wholes[count] + OfDigits((bytes << (8 * (sizeof(ulong) - count))) & (Ones * 0x0F));
        return count;
    }

    /// <summary>The number of eight digits, 0 to 9 each, the first in the lowest byte: pairs, fours and all eight at once.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public static uint OfDigits(ulong digits)
    {
        digits = (digits * 10) + (digits >> 8);
        return (uint)((((digits & 0x000000FF000000FF) * 0x000F424000000064) + (((digits >> 16) & 0x000000FF000000FF) * 0x0000271000000001)) >> 32);
    }

    private static ReadOnlySpan<long> Wholes => [1, 10, 100, 1_000, 10_000, 100_000, 1_000_000, 10_000_000, 100_000_000];

    private static ReadOnlySpan<byte> Trim(ReadOnlySpan<byte> text)
    {
        var (from, to) = (0, text.Length);
        while (from < to && text[from] is (byte)' ' or (byte)'"' or (byte)'\r' or (byte)'\t' or 0xA0)
        {
            from++;
        }
        while (to > from && text[to - 1] is (byte)' ' or (byte)'"' or (byte)'\r' or (byte)'\t' or 0xA0)
        {
            to--;
        }
        return text[from..to];
    }

    // What instruments write when there is no number.
    private static bool Mark(ReadOnlySpan<byte> text)
    {
        if (text.Length > 12)
        {
            return false;
        }
        Span<char> lower = stackalloc char[text.Length];
        for (var i = 0; i < text.Length; i++)
        {
            lower[i] = char.ToLowerInvariant((char)text[i]);
        }
        ReadOnlySpan<char> word = lower.TrimStart("+-").TrimEnd('.');
        return word.IsEmpty || word is "nan" or "inf" or "infinity" or "ol" or "o.l" or "over" or "overload" or "overrange" or "clip" or "n/a" or "na" or "null" or "1.#inf" or "1.#qnan" or "1.#ind"
            || word.Trim("*#-?").IsEmpty || text.SequenceEqual("\u221e"u8) || text.SequenceEqual("-\u221e"u8);
    }
}
