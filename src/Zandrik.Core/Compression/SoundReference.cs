using Zandrik.Core.Readings;

namespace Zandrik.Core.Compression;

/// <summary>
/// What the sound cylinders of this engine give today: the median of the better half, so that neither a
/// weak cylinder drags it down nor a lone high one pushes it up. A lone best one that the maker's figure covers is no
/// outlier: it is the one that still reads as it should.
/// </summary>
/// <param name="Pa">The reference, Pa; absent with a single reading and no nominal figure.</param>
/// <param name="LeavesOutHighest">True when one high cylinder was left out of it.</param>
internal readonly record struct SoundReference(double? Pa, bool LeavesOutHighest)
{
    // A lone high cylinder: over 1.07 × the second, while the rest agree within 6 %.
    private const double LoneHigh = 1.07;
    private const double RestAgrees = 1.06;

    /// <param name="sortedPa">The readings, highest first, Pa.</param>
    /// <param name="nominalPa">The maker's nominal: the reference of a single reading, and what a lone high one has to exceed to be left out.</param>
    internal static SoundReference Of(ReadOnlySpan<double> sortedPa, double? nominalPa)
    {
        switch (sortedPa.Length)
        {
            case 0:
                return new SoundReference(null, false);
            case 1:
                return new SoundReference(nominalPa, false);
            case 2:
                return new SoundReference(sortedPa[0], false);
        }
        var high = Limit.IsBeyond(sortedPa[0], LoneHigh * sortedPa[1])
            && !Limit.IsBeyond(sortedPa[1], RestAgrees * sortedPa[^1]);
        if (high && nominalPa is { } nominal && !Limit.IsBeyond(sortedPa[0], nominal))
        {
            return new SoundReference(sortedPa[0], false);
        }
        var rest = high ? sortedPa[1..] : sortedPa;
        var upper = (rest.Length + 1) / 2;
        var middle = upper / 2;
        return new SoundReference(upper % 2 == 1 ? rest[middle] : (rest[middle - 1] + rest[middle]) / 2, high);
    }
}
