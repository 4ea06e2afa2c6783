namespace Zandrik.Core.Compression;

/// <summary>Whether limits that are absolute pressures can be held against a test at all.</summary>
public enum AbsoluteLimits
{
    /// <summary>They apply.</summary>
    Apply,

    /// <summary>The engine was cold: shown, but they make no cylinder low.</summary>
    Indicative,

    /// <summary>A slip in the test shifts every reading: withheld.</summary>
    Withheld,
}

/// <summary>The test against the maker's minimum.</summary>
/// <param name="MinimumPa">The minimum, Pa.</param>
/// <param name="LowestPa">The lowest reading, Pa.</param>
/// <param name="Under">Cylinders under the minimum, in order of their numbers; exactly on it is not under it.</param>
/// <param name="Limits">Whether the minimum applies to this test.</param>
public sealed record MinimumFinding(double MinimumPa, double LowestPa, IReadOnlyList<int> Under, AbsoluteLimits Limits);
