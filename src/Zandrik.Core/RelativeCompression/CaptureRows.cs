namespace Zandrik.Core.RelativeCompression;

/// <summary>
/// Rows of numbers turned into a <see cref="StarterTrace"/> as their bytes arrive, whatever their cuts: bounded memory, one pass. Lines that are whole are read in two halves at once, and the
/// trace grows while the next piece is read. Section 8 of docs/relative-compression.md.
/// </summary>
internal sealed class CaptureRows : ICaptureSink
{
    // A row of 32 columns of 24 characters is under a kilobyte.
    private const int LongestLine = 16 * 1024;

    // Empty lines and remarks beside rows: a gigabyte of them would keep a core busy for a minute.
    private const long MostLinesWithoutRow = 1_000_000;

    // Less than this is read faster by one than shared by two.
    private const int WorthSharing = 64 * 1024;

    private readonly CaptureLayout layout;
    private readonly StarterTrace trace;
    private readonly byte[] carry = new byte[LongestLine];
    private readonly List<double> intervals = [];
    private readonly int[] roleOf;

    // Two sets in turn: one is filled while the other goes into the trace.
    private readonly RowBatch[][] sets;
    private int turn;
    private Task merging = Task.CompletedTask;
    private int carried;
    private bool overlong;
    private bool afterReturn;
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
        roleOf = new int[new[] { layout.CurrentColumn, layout.TimeColumn ?? 0, layout.SyncColumn ?? 0, layout.BatteryColumn ?? 0 }.Max() + 1];
        Mark(layout.TimeColumn, RowBatch.Time);
        Mark(layout.BatteryColumn, RowBatch.Battery);
        Mark(layout.SyncColumn, RowBatch.Sync);
        Mark(layout.CurrentColumn, RowBatch.Current);
        sets = [[new(layout, roleOf), new(layout, roleOf), new(layout, roleOf)], [new(layout, roleOf), new(layout, roleOf), new(layout, roleOf)]];

        void Mark(int? column, int role)
        {
            if (column is { } c and >= 0)
            {
                roleOf[c] = role;
            }
        }
    }

    public bool IsHopeless { get; private set; }

    public void Feed(ReadOnlyMemory<byte> bytes)
    {
        var set = sets[turn];
        turn = 1 - turn;
        // Where the head ends is only known when all before it is counted.
        if (line < layout.HeaderLines || rows == 0)
        {
            merging.Wait();
        }
        var first = bytes.Span.IndexOf((byte)'\n');
        var last = bytes.Span.LastIndexOf((byte)'\n');
        if (last <= first || line < layout.HeaderLines)
        {
            Any(bytes.Span, set[0]);
        }
        else
        {
            Any(bytes.Span[..(first + 1)], set[0]);
            Whole(bytes[(first + 1)..(last + 1)], set[1], set[2]);
            Any(bytes.Span[(last + 1)..], set[2]);
        }
        merging.Wait();
        IsHopeless = line - rows > MostLinesWithoutRow;
        merging = Task.Run(() =>
        {
            foreach (var batch in set)
            {
                Merge(batch);
            }
        });
    }

    public CaptureReading Finish()
    {
        merging.Wait();
        var remarks = new List<CaptureRemark>();
        if (carried > 0)
        {
            // Without an end of line the last row may be cut anywhere.
            var last = carry.AsSpan(0, carried);
            if (last.Count((byte)layout.Delimiter) >= roleOf.Length - 1)
            {
                sets[0][0].Line(last, overlong, line < layout.HeaderLines);
                Merge(sets[0][0]);
            }
            else
            {
                remarks.Add(new(CaptureCode.TruncatedFile, "The file ends in the middle of a row; that row was left out."));
            }
        }
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

    // Whole lines, the first half by another core while this one reads the second.
    private static void Whole(ReadOnlyMemory<byte> lines, RowBatch left, RowBatch right)
    {
        var half = lines.Length < WorthSharing ? -1 : lines.Span[..(lines.Length / 2)].LastIndexOf((byte)'\n');
        if (half < 0)
        {
            left.Whole(lines.Span);
            return;
        }
        var other = Task.Run(() => left.Whole(lines.Span[..(half + 1)]));
        right.Whole(lines.Span[(half + 1)..]);
        other.Wait();
    }

    // Piece by piece, whatever its line ends and however it is cut.
    private void Any(ReadOnlySpan<byte> bytes, RowBatch into)
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
            var header = line + into.Lines < layout.HeaderLines;
            if (carried > 0)
            {
                Carry(bytes[..end]);
                into.Line(carry.AsSpan(0, carried), overlong, header);
                (carried, overlong) = (0, false);
            }
            else
            {
                into.Line(bytes[..end], false, header);
            }
            afterReturn = bytes[end] == '\r';
            bytes = bytes[(end + 1)..];
        }
    }

    private void Carry(ReadOnlySpan<byte> bytes)
    {
        var room = Math.Min(bytes.Length, carry.Length - carried);
        bytes[..room].CopyTo(carry.AsSpan(carried));
        carried += room;
        overlong |= room < bytes.Length;
    }

    private void Merge(RowBatch batch)
    {
        if (badRows == 0 && batch.Bad > 0)
        {
            (firstBadLine, firstBad) = (line + batch.FirstBadLine, batch.FirstBad);
        }
        badRows += batch.Bad;
        foreach (var (row, time) in batch.Times)
        {
            TimeAt(rows + row, time);
        }
        line += batch.Lines;
        rows += batch.Count;
        trace.Add(batch.Amps, batch.Syncs, batch.Volts);
        batch.Clear();
    }

    private void TimeAt(long row, double time)
    {
        if (double.IsFinite(lastTime))
        {
            var step = (time - lastTime) / (row - lastTimeRow);
            timeFalls |= step < 0;
            if (intervals.Count < 1 << 16)
            {
                intervals.Add(step);
            }
        }
        (lastTime, lastTimeRow) = (time, row);
    }
}

/// <summary>Takes the bytes of a capture in pieces.</summary>
internal interface ICaptureSink
{
    /// <summary>True once so much of it was no capture that the rest is not worth reading.</summary>
    public bool IsHopeless { get; }

    /// <summary>The next bytes; they may change when this returns.</summary>
    public void Feed(ReadOnlyMemory<byte> bytes);

    /// <summary>No more bytes.</summary>
    public CaptureReading Finish();
}
