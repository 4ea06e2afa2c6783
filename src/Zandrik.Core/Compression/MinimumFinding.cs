using Zandrik.Core.Readings;

namespace Zandrik.Core.Compression;

/// <summary>The test against the maker's minimum.</summary>
/// <param name="MinimumPa">The minimum, Pa.</param>
/// <param name="LowestPa">The lowest reading, Pa.</param>
/// <param name="Under">Cylinders under the minimum, in order of their numbers; exactly on it is not under it.</param>
/// <param name="Limits">Whether the minimum applies to this test.</param>
public sealed record MinimumFinding(double MinimumPa, double LowestPa, IReadOnlyList<int> Under, AbsoluteLimits Limits);
