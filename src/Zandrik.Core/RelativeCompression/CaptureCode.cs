namespace Zandrik.Core.RelativeCompression;

/// <summary>Why a capture is refused or taken with care. The words stand in the open format and never change.</summary>
public enum CaptureCode
{
    /// <summary>The starter does not crank in it.</summary>
    NoCranking,

    /// <summary>Under two whole settled cycles.</summary>
    TooShort,

    /// <summary>The engine fired and ran.</summary>
    EngineStarted,

    /// <summary>The starter was engaged more than once.</summary>
    MultipleBursts,

    /// <summary>The clamp sat the wrong way round.</summary>
    ClampReversed,

    /// <summary>The clamp was not at zero, or drifted.</summary>
    ClampNotZeroed,

    /// <summary>The instrument's range was too small.</summary>
    Clipped,

    /// <summary>Speed fell steadily with the battery.</summary>
    BatterySag,

    /// <summary>Speed or the cycles among themselves were uneven.</summary>
    UnsteadyCranking,

    /// <summary>No sync was promised: slots only.</summary>
    NoSync,

    /// <summary>Sync was promised and none found.</summary>
    SyncMissing,

    /// <summary>Two candidates for the sync cylinder.</summary>
    SyncAmbiguous,

    /// <summary>Events too many or too few were left out.</summary>
    SyncIrregular,

    /// <summary>Rows that could not be read were bridged.</summary>
    BadRows,

    /// <summary>The file ends in the middle.</summary>
    TruncatedFile,

    /// <summary>There is no time in the file.</summary>
    NoTimeColumn,

    /// <summary>The instrument's steps are coarse against the humps.</summary>
    LowResolution,

    /// <summary>Few samples for each compression.</summary>
    LowSampleRate,

    /// <summary>The trace is not like that of such an engine.</summary>
    PoorFit,

    /// <summary>The file is not a capture that can be read.</summary>
    Unreadable,
}

/// <summary>A remark about a capture, or the reason why it is refused.</summary>
/// <param name="Code">What it is.</param>
/// <param name="Says">In plain words, with what to do.</param>
public sealed record CaptureRemark(CaptureCode Code, string Says);
