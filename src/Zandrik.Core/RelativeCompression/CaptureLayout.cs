namespace Zandrik.Core.RelativeCompression;

/// <summary>What a column of a capture holds.</summary>
public enum ColumnRole
{
    /// <summary>Nothing that is needed.</summary>
    Ignored,

    /// <summary>Time.</summary>
    Time,

    /// <summary>Starter current, as amperes or as the voltage of a clamp.</summary>
    Current,

    /// <summary>Events of a cylinder.</summary>
    Sync,

    /// <summary>Battery voltage.</summary>
    Battery,
}

/// <summary>The kinds of files a capture comes in.</summary>
public enum CaptureKind
{
    /// <summary>Rows of numbers.</summary>
    Text,

    /// <summary>Sound: PCM or floating point.</summary>
    Wav,
}

/// <summary>How a capture is read: guessed from its first rows, shown, corrected, and remembered for the clamp it came from.</summary>
public sealed record CaptureLayout
{
    /// <summary>Most columns (or WAV channels) looked at.</summary>
    public const int MostColumns = 32;

    /// <summary>The kind of file.</summary>
    public CaptureKind Kind { get; init; }

    /// <summary>What stands between columns: comma, semicolon or tab.</summary>
    public char Delimiter { get; init; } = ',';

    /// <summary>True when the decimal mark is a comma.</summary>
    public bool DecimalComma { get; init; }

    /// <summary>Lines before the first row of numbers.</summary>
    public int HeaderLines { get; init; }

    /// <summary>The column of time, from 0; absent when there is none.</summary>
    public int? TimeColumn { get; init; }

    /// <summary>Seconds in one unit of the time column.</summary>
    public double TimeUnitS { get; init; } = 1;

    /// <summary>Time between samples, s, where there is no time column; absent when nobody knows.</summary>
    public double? IntervalS { get; init; }

    /// <summary>The column of the current, from 0.</summary>
    public int CurrentColumn { get; init; }

    /// <summary>Amperes for one unit of the current's column: 1000 for volts of a clamp of 1 mV/A.</summary>
    public double AmpsPerUnit { get; init; } = 1;

    /// <summary>False when that is only a guess.</summary>
    public bool ScaleKnown { get; init; } = true;

    /// <summary>The column of sync events; absent without.</summary>
    public int? SyncColumn { get; init; }

    /// <summary>The column of the battery's voltage; absent without.</summary>
    public int? BatteryColumn { get; init; }

    /// <summary>Volts in one unit of the battery's column.</summary>
    public double VoltsPerUnit { get; init; } = 1;
}

/// <summary>A column as it is found in the first rows.</summary>
/// <param name="Index">Its place, from 0.</param>
/// <param name="Name">Its name; empty without a header.</param>
/// <param name="Unit">Its unit as written; empty without.</param>
/// <param name="Role">What it is taken for.</param>
/// <param name="First">Its first values as written.</param>
public sealed record CaptureColumn(int Index, string Name, string Unit, ColumnRole Role, IReadOnlyList<string> First);

/// <summary>What the first rows of a file show.</summary>
public sealed record CaptureInspection
{
    /// <summary>Why it cannot be read; absent when it can.</summary>
    public CaptureRemark? Problem { get; init; }

    /// <summary>How it would be read.</summary>
    public CaptureLayout Layout { get; init; } = new();

    /// <summary>Its columns.</summary>
    public IReadOnlyList<CaptureColumn> Columns { get; init; } = [];

    /// <summary>Kind, separation, names and units of the columns as one text: files of one shape are read alike.</summary>
    public string Shape => $"{Layout.Kind}{Layout.Delimiter}{(Layout.DecimalComma ? ',' : '.')}{string.Join('|', Columns.Select(c => $"{c.Name}[{c.Unit}]"))}";

    /// <summary>This file read as another of the same shape was: the same columns, scales and units; where its rows begin, and its own sampling interval, are its own.</summary>
    /// <returns>The layout to read it with.</returns>
    public CaptureLayout LikeBefore(CaptureLayout before) => before with { HeaderLines = Layout.HeaderLines, IntervalS = Layout.IntervalS ?? before.IntervalS };
}

/// <summary>A capture that was read.</summary>
public sealed record CaptureReading
{
    /// <summary>Why it could not be; absent when it could.</summary>
    public CaptureRemark? Problem { get; init; }

    /// <summary>The capture, made small; absent with a problem.</summary>
    public StarterTrace? Trace { get; init; }

    /// <summary>What was odd about the file.</summary>
    public IReadOnlyList<CaptureRemark> Remarks { get; init; } = [];
}
