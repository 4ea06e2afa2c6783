using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using System.Text;

namespace Zandrik.Core.RelativeCompression;

/// <summary>Some rows of a capture as numbers, and what was wrong with them.</summary>
/// <param name="layout">How they are read.</param>
/// <param name="roleOf">What each column holds, up to the last that is needed.</param>
internal sealed class RowBatch(CaptureLayout layout, int[] roleOf)
{
    public const int Time = 1;
    public const int Current = 2;
    public const int Sync = 3;
    public const int Battery = 4;

    // Time is looked at every so many rows: for the interval that is plenty, and a third of the parsing is saved.
    private const int TimeEvery = 16;
    private const int AlwaysTime = 64;

    private const int RowsAtOnce = 256;

    private readonly int lastColumn = roleOf.Length - 1;
    private readonly RowShapes shapes = new();
    private double[] amps = new double[1024];
    private double[] syncs = layout.SyncColumn is null ? [] : new double[1024];
    private double[] volts = layout.BatteryColumn is null ? [] : new double[1024];

    public int Count { get; private set; }

    public long Lines { get; private set; }

    public long Bad { get; private set; }

    /// <summary>Line of the first bad row, counted in this batch from 1.</summary>
    public long FirstBadLine { get; private set; }

    public string FirstBad { get; private set; } = "";

    /// <summary>Rows of this batch whose time was read, and the time.</summary>
    public List<(int Row, double Time)> Times { get; } = [];

    public ReadOnlySpan<double> Amps => amps.AsSpan(0, Count);

    public ReadOnlySpan<double> Syncs => syncs.AsSpan(0, syncs.Length == 0 ? 0 : Count);

    public ReadOnlySpan<double> Volts => volts.AsSpan(0, volts.Length == 0 ? 0 : Count);

    private static bool WantsTime(int row) => row < AlwaysTime || row % TimeEvery == 0;

    public void Clear()
    {
        (Count, Lines, Bad) = (0, 0, 0);
        Times.Clear();
    }

    /// <summary>
    /// Lines that each end with LF, the last one too: rows of a known shape are read at once, other plain numbers as the bytes go by, anything else is left to <see cref="Line"/>.
    /// </summary>
    public void Whole(ReadOnlySpan<byte> bytes)
    {
        // The last LF stops every loop that looks ahead, so none needs to ask where the bytes end.
        var safe = BitConverter.IsLittleEndian ? bytes.Length - RowShape.Ahead : 0;
        var at = 0;
        while (at < bytes.Length)
        {
            at = Shaped(bytes, at, safe);
            if (at == bytes.Length)
            {
                break;
            }
            var start = at;
            if (Plain(bytes, ref at, at < safe))
            {
                if (at < safe)
                {
                    shapes.Learn(bytes[start..at], layout, roleOf);
                }
            }
            else
            {
                at = start + bytes[start..].IndexOf((byte)'\n');
                Line(bytes[start..at].TrimEnd((byte)'\r'), tooLong: false, header: false);
                at++;
            }
        }
    }

    // Rows of known shapes, as far as they go; answers where they end. First where rows begin and which shape they have, then their numbers: a processor that looks ahead sees more of either alone.
    private int Shaped(ReadOnlySpan<byte> bytes, int at, int safe)
    {
        Span<int> starts = stackalloc int[RowsAtOnce];
        Span<byte> which = stackalloc byte[RowsAtOnce];
        while (at < safe)
        {
            var rows = 0;
            while (at < safe && rows < RowsAtOnce)
            {
                var shape = shapes.Find(Vector512.LoadUnsafe(in Unsafe.Add(ref MemoryMarshal.GetReference(bytes), at)), out var length);
                if (shape < 0)
                {
                    safe = 0;
                    break;
                }
                (starts[rows], which[rows]) = (at, (byte)shape);
                rows++;
                at += length;
            }
            Numbers(bytes, starts[..rows], which[..rows]);
        }
        return at;
    }

    private void Numbers(ReadOnlySpan<byte> bytes, ReadOnlySpan<int> starts, ReadOnlySpan<byte> which)
    {
        while (Count + starts.Length > amps.Length)
        {
            Grow();
        }
        Column(bytes, starts, which, Current, layout.AmpsPerUnit, amps.AsSpan(Count));
        if (syncs.Length > 0)
        {
            Column(bytes, starts, which, Sync, 1, syncs.AsSpan(Count));
        }
        if (volts.Length > 0)
        {
            Column(bytes, starts, which, Battery, layout.VoltsPerUnit, volts.AsSpan(Count));
        }
        if (layout.TimeColumn is not null)
        {
            for (var i = 0; i < starts.Length; i++)
            {
                if (WantsTime(Count + i))
                {
                    Times.Add((Count + i, shapes[which[i]][Time].Read(in bytes[starts[i]])));
                }
            }
        }
        shapes.Fitted(starts.Length);
        Lines += starts.Length;
        Count += starts.Length;
    }

    private void Column(ReadOnlySpan<byte> bytes, ReadOnlySpan<int> starts, ReadOnlySpan<byte> which, int role, double perUnit, Span<double> into)
    {
        for (var i = 0; i < starts.Length; i++)
        {
            into[i] = shapes[which[i]][role].Read(in bytes[starts[i]]) * perUnit;
        }
    }

    // One row of plain numbers; false, with the place left anywhere, where it is none.
    private bool Plain(ReadOnlySpan<byte> bytes, ref int at, bool ahead)
    {
        ref var first = ref MemoryMarshal.GetReference(bytes);
        var (delimiter, mark) = ((byte)layout.Delimiter, layout.DecimalComma ? (byte)',' : (byte)'.');
        var wantsTime = WantsTime(Count);
        var row = new Samples(0, 0, 0, double.NaN);
        var column = 0;
        while (true)
        {
            var plain = true;
            var role = roleOf[column];
            if (role > Time || (role == Time && wantsTime))
            {
                plain = NumberText.ReadPlain(ref first, ref at, mark, ahead, out var value);
                row.Set(role, value, layout);
            }
            else
            {
                NumberText.Skip(ref first, ref at, delimiter, ahead);
            }
            var next = Unsafe.Add(ref first, at);
            if (plain && column == lastColumn && (next == delimiter || next is (byte)'\n' or (byte)'\r'))
            {
                break;
            }
            if (!plain || next != delimiter || column == lastColumn)
            {
                return false;
            }
            (column, at) = (column + 1, at + 1);
        }
        Lines++;
        Keep(row);
        while (Unsafe.Add(ref first, at++) != '\n')
        {
        }
        return true;
    }

    /// <summary>One line, whatever stands in it.</summary>
    /// <param name="text">The line without its end.</param>
    /// <param name="tooLong">True when it goes on beyond what is kept of a line.</param>
    /// <param name="header">True for a line of the head.</param>
    public void Line(ReadOnlySpan<byte> text, bool tooLong, bool header)
    {
        Lines++;
        if (header || text.IsEmpty || text[0] is (byte)'#' or (byte)'%' || text.StartsWith("//"u8) || text.IndexOfAnyExcept((byte)' ', (byte)'\t') < 0)
        {
            return;
        }
        var whole = text;
        var bad = tooLong;
        var row = new Samples(double.NaN, double.NaN, double.NaN, double.NaN);
        var column = 0;
        var wantsTime = WantsTime(Count);
        while (column <= lastColumn && !bad)
        {
            var end = text.IndexOf((byte)layout.Delimiter);
            var cell = end < 0 ? text : text[..end];
            var role = roleOf[column];
            if (role > Time || (role == Time && wantsTime))
            {
                bad = !NumberText.Read(cell, layout.DecimalComma, out var value);
                row.Set(role, value, layout);
            }
            column++;
            if (end < 0)
            {
                break;
            }
            text = text[(end + 1)..];
        }
        if (bad || column <= lastColumn)
        {
            if (Bad++ == 0)
            {
                FirstBadLine = Lines;
                FirstBad = Encoding.UTF8.GetString(whole[..Math.Min(60, whole.Length)]).Trim();
            }
            row.Amp = bad ? double.NaN : row.Amp;
        }
        Keep(row);
    }

    private void Keep(Samples row)
    {
        if (Count == amps.Length)
        {
            Grow();
        }
        if (double.IsFinite(row.Time))
        {
            Times.Add((Count, row.Time));
        }
        amps[Count] = row.Amp;
        if (syncs.Length > 0)
        {
            syncs[Count] = row.Sync;
        }
        if (volts.Length > 0)
        {
            volts[Count] = row.Volt;
        }
        Count++;
    }

    // What one row gave.
    private record struct Samples(double Amp, double Sync, double Volt, double Time)
    {
        public void Set(int role, double value, CaptureLayout layout)
        {
            switch (role)
            {
                case RowBatch.Time:
                    Time = value;
                    break;
                case Current:
                    Amp = value * layout.AmpsPerUnit;
                    break;
                case RowBatch.Sync:
                    Sync = value;
                    break;
                default:
                    Volt = value * layout.VoltsPerUnit;
                    break;
            }
        }
    }

    private void Grow()
    {
        Array.Resize(ref amps, amps.Length * 2);
        syncs = Grown(syncs);
        volts = Grown(volts);
    }

    private static double[] Grown(double[] values)
    {
        if (values.Length > 0)
        {
            Array.Resize(ref values, values.Length * 2);
        }
        return values;
    }
}
