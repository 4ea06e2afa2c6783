using System.Text;

namespace Zandrik.Core.RelativeCompression;

/// <summary>
/// Rows of numbers turned into a <see cref="StarterTrace"/> as their bytes arrive, whatever their cuts: constant memory, one pass. Section 8 of docs/relative-compression.md.
/// </summary>
internal sealed class CaptureRows : ICaptureSink
{
    // A row of 32 columns of 24 characters is under a kilobyte.
    private const int LongestLine = 16 * 1024;
    private const int Batch = 4096;

    // Time is looked at every so many rows: for the interval that is plenty, and a third of the parsing is saved.
    private const int TimeEvery = 16;

    private readonly CaptureLayout layout;
    private readonly StarterTrace trace;
    private readonly double[] amps = new double[Batch];
    private readonly double[] syncs;
    private readonly double[] volts;
    private readonly byte[] carry = new byte[LongestLine];
    private readonly List<double> intervals = [];
    private readonly int lastColumn;
    private readonly int[] roleOf;
    private int carried;
    private bool overlong;
    private bool afterReturn;
    private int filled;
    private long line;
    private long rows;
    private long badRows;
    private long firstBadLine;
    private string firstBad = "";
    private double lastTime = double.NaN;
    private long lastTimeRow;
    private bool timeFalls;

    public CaptureRows(CaptureLayout layout)
    {
        this.layout = layout;
        trace = new StarterTrace(0, layout.SyncColumn is not null, layout.BatteryColumn is not null);
        syncs = layout.SyncColumn is null ? [] : new double[Batch];
        volts = layout.BatteryColumn is null ? [] : new double[Batch];
        lastColumn = new[] { layout.CurrentColumn, layout.TimeColumn ?? 0, layout.SyncColumn ?? 0, layout.BatteryColumn ?? 0 }.Max();
        roleOf = new int[lastColumn + 1];
        Mark(layout.TimeColumn, 1);
        Mark(layout.BatteryColumn, 4);
        Mark(layout.SyncColumn, 3);
        Mark(layout.CurrentColumn, 2);

        void Mark(int? column, int role)
        {
            if (column is { } c and >= 0)
            {
                roleOf[c] = role;
            }
        }
    }

    public void Feed(ReadOnlySpan<byte> bytes)
    {
        // The lines that are whole go the short way; what is before and after them the long one.
        var first = bytes.IndexOf((byte)'\n');
        var last = bytes.LastIndexOf((byte)'\n');
        if (last <= first || line + 1 < layout.HeaderLines)
        {
            Any(bytes);
            return;
        }
        Any(bytes[..(first + 1)]);
        Whole(bytes[(first + 1)..(last + 1)]);
        Any(bytes[(last + 1)..]);
    }

    // Lines that end with LF, one after the other: plain numbers are read as the bytes go by, anything else is left to Line.
    private void Whole(ReadOnlySpan<byte> bytes)
    {
        var (delimiter, mark) = ((byte)layout.Delimiter, layout.DecimalComma ? (byte)',' : (byte)'.');
        var at = 0;
        while (at < bytes.Length)
        {
            var start = at;
            var wantTime = rows < 64 || rows % TimeEvery == 0;
            double amp = 0, sync = 0, volt = 0, time = double.NaN;
            var column = 0;
            var plain = line >= layout.HeaderLines;
            while (plain)
            {
                var role = roleOf[column];
                if (role > 1 || (role == 1 && wantTime))
                {
                    plain = NumberText.ReadPlain(bytes, ref at, mark, out var value);
                    switch (role)
                    {
                        case 1:
                            time = value;
                            break;
                        case 2:
                            amp = value * layout.AmpsPerUnit;
                            break;
                        case 3:
                            sync = value;
                            break;
                        default:
                            volt = value * layout.VoltsPerUnit;
                            break;
                    }
                }
                else
                {
                    while (bytes[at] != delimiter && bytes[at] > '\r')
                    {
                        at++;
                    }
                }
                var next = bytes[at];
                if (next == delimiter && column < lastColumn)
                {
                    (column, at) = (column + 1, at + 1);
                    continue;
                }
                plain &= column == lastColumn && (next == delimiter || next is (byte)'\n' or (byte)'\r');
                break;
            }
            if (!plain)
            {
                at = start + bytes[start..].IndexOf((byte)'\n');
                Line(bytes[start..at].TrimEnd((byte)'\r'), at - start > LongestLine);
                at++;
                continue;
            }
            line++;
            rows++;
            if (wantTime)
            {
                TimeAt(time);
            }
            Keep(amp, sync, volt);
            while (bytes[at] != '\n')
            {
                at++;
            }
            at++;
        }
    }

    // Piece by piece, whatever its line ends and however it is cut.
    private void Any(ReadOnlySpan<byte> bytes)
    {
        while (!bytes.IsEmpty)
        {
            // The LF of a CRLF ends no line of its own, also when the cut falls between them.
            if (afterReturn && bytes[0] == '\n')
            {
                afterReturn = false;
                bytes = bytes[1..];
                continue;
            }
            afterReturn = false;
            var end = bytes.IndexOfAny((byte)'\n', (byte)'\r');
            if (end < 0)
            {
                Carry(bytes);
                return;
            }
            if (carried > 0)
            {
                Carry(bytes[..end]);
                var whole = carry.AsSpan(0, carried);
                carried = 0;
                Line(whole, overlong);
                overlong = false;
            }
            else
            {
                Line(bytes[..end], false);
            }
            afterReturn = bytes[end] == '\r';
            bytes = bytes[(end + 1)..];
        }
    }

    public CaptureReading Finish()
    {
        var remarks = new List<CaptureRemark>();
        if (carried > 0)
        {
            // Without an end of line the last row may be cut anywhere.
            var last = carry.AsSpan(0, carried);
            if (last.Count((byte)layout.Delimiter) >= lastColumn)
            {
                Line(last, overlong);
            }
            else
            {
                remarks.Add(new(CaptureCode.TruncatedFile, "The file ends in the middle of a row; that row was left out."));
            }
        }
        Flush();
        if (rows == 0)
        {
            return Unreadable("There is no row of numbers in this file where they were expected. Check the columns and what stands between them.");
        }
        if (badRows > 0.2 * rows)
        {
            return Unreadable(FormattableString.Invariant($"Line {firstBadLine} is no row of numbers: \"{firstBad}\". {badRows} of {rows} rows are like that. Check the columns, the decimal mark and what stands between columns."));
        }
        if (badRows > 0)
        {
            remarks.Add(new(CaptureCode.BadRows, FormattableString.Invariant($"{badRows} of {rows} rows could not be read and were bridged, the first in line {firstBadLine}: \"{firstBad}\".")));
        }
        double interval;
        if (layout.TimeColumn is not null)
        {
            interval = (intervals.Count > 0 ? Smoothing.Quantile([.. intervals], 0.5) : 0) * layout.TimeUnitS;
            if (!(interval > 0))
            {
                return Unreadable(FormattableString.Invariant($"The time in column {layout.TimeColumn + 1} does not go on. Choose the column of time, or give the interval between samples."));
            }
            if (timeFalls)
            {
                remarks.Add(new(CaptureCode.BadRows, "Time jumps back in this file; the samples are taken as evenly spaced."));
            }
        }
        else if (layout.IntervalS is { } given and > 0)
        {
            interval = given;
            remarks.Add(new(CaptureCode.NoTimeColumn, FormattableString.Invariant($"There is no time in the file; {1 / given:0.###} samples a second are taken.")));
        }
        else
        {
            return new CaptureReading { Problem = new(CaptureCode.NoTimeColumn, "There is no time in this file. Give the interval between samples, or samples a second.") };
        }
        trace.Finish();
        return new CaptureReading { Trace = trace.WithInterval(interval), Remarks = remarks };
    }

    private static CaptureReading Unreadable(string says) => new() { Problem = new(CaptureCode.Unreadable, says) };

    private void Carry(ReadOnlySpan<byte> bytes)
    {
        var room = Math.Min(bytes.Length, carry.Length - carried);
        bytes[..room].CopyTo(carry.AsSpan(carried));
        carried += room;
        overlong |= room < bytes.Length;
    }

    private void Line(ReadOnlySpan<byte> text, bool tooLong)
    {
        line++;
        if (line <= layout.HeaderLines || text.IsEmpty || text[0] is (byte)'#' or (byte)'%' || text.StartsWith("//"u8) || text.IndexOfAnyExcept((byte)' ', (byte)'\t') < 0)
        {
            return;
        }
        rows++;
        var bad = tooLong;
        double amp = double.NaN, sync = double.NaN, volt = double.NaN, time = double.NaN;
        var column = 0;
        var delimiter = (byte)layout.Delimiter;
        var wantTime = rows <= 64 || rows % TimeEvery == 1;
        while (column <= lastColumn && !bad)
        {
            var end = text.IndexOf(delimiter);
            var cell = end < 0 ? text : text[..end];
            var role = roleOf[column];
            if (role > 1 || (role == 1 && wantTime))
            {
                bad = !NumberText.Read(cell, layout.DecimalComma, out var value);
                switch (role)
                {
                    case 1:
                        time = value;
                        break;
                    case 2:
                        amp = value * layout.AmpsPerUnit;
                        break;
                    case 3:
                        sync = value;
                        break;
                    default:
                        volt = value * layout.VoltsPerUnit;
                        break;
                }
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
            badRows++;
            if (badRows == 1)
            {
                firstBadLine = line;
                firstBad = Encoding.UTF8.GetString(text[..Math.Min(60, text.Length)]).Trim();
            }
            amp = bad ? double.NaN : amp;
        }
        TimeAt(time);
        Keep(amp, sync, volt);
    }

    private void TimeAt(double time)
    {
        if (!double.IsFinite(time))
        {
            return;
        }
        if (double.IsFinite(lastTime))
        {
            var step = (time - lastTime) / (rows - lastTimeRow);
            timeFalls |= step < 0;
            if (intervals.Count < 1 << 16)
            {
                intervals.Add(step);
            }
        }
        (lastTime, lastTimeRow) = (time, rows);
    }

    private void Keep(double amp, double sync, double volt)
    {
        amps[filled] = amp;
        if (syncs.Length > 0)
        {
            syncs[filled] = sync;
        }
        if (volts.Length > 0)
        {
            volts[filled] = volt;
        }
        if (++filled == Batch)
        {
            Flush();
        }
    }

    private void Flush()
    {
        trace.Add(amps.AsSpan(0, filled), syncs.AsSpan(0, syncs.Length > 0 ? filled : 0), volts.AsSpan(0, volts.Length > 0 ? filled : 0));
        filled = 0;
    }
}

/// <summary>Takes the bytes of a capture in pieces.</summary>
internal interface ICaptureSink
{
    /// <summary>The next bytes.</summary>
    public void Feed(ReadOnlySpan<byte> bytes);

    /// <summary>No more bytes.</summary>
    public CaptureReading Finish();
}
