using System.Globalization;
using Zandrik.Core.Engines;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Compression;

/// <summary>One cylinder read with two gauges.</summary>
/// <param name="Cylinder">The cylinder.</param>
/// <param name="One">With the gauge that is checked.</param>
/// <param name="Other">With the other.</param>
/// <param name="Percent">How much the checked one reads over the other, percent of the other, each corrected by its last check where it has one.</param>
public sealed record GaugePair(int Cylinder, GaugePressure One, GaugePressure Other, double Percent);

/// <summary>
/// Two dry tests of one engine with two gauges, held against each other on the cylinders both have read. It says which
/// gauge reads high, and judges no cylinder.
/// </summary>
public sealed record GaugeComparison
{
    /// <summary>Two gauges that agree within this share, percent, are as good as one: workshop gauges are no better.</summary>
    public const double AgreePercent = 3;

    /// <summary>What the shop calls the gauge that is checked.</summary>
    public required string One { get; init; }

    /// <summary>What it calls the other.</summary>
    public required string Other { get; init; }

    /// <summary>The cylinders both have read, in order; at least one.</summary>
    public required IReadOnlyList<GaugePair> Pairs { get; init; }

    /// <summary>True where a gauge's last check changed a reading: the differences are what is left after that.</summary>
    public required bool IsCorrected { get; init; }

    /// <summary>The mean of the differences, percent.</summary>
    public double MeanPercent => Pairs.Average(p => p.Percent);

    /// <summary>What it says, in one sentence.</summary>
    public string Says
    {
        get
        {
            var on = Pairs.Count == 1 ? $"cylinder {Pairs[0].Cylinder}" : $"cylinders {CylinderList.Sentence([.. Pairs.Select(p => p.Cylinder)])}";
            var corrected = IsCorrected ? ", corrected by the last check" : "";
            return Math.Abs(MeanPercent) <= AgreePercent
                ? $"{One} and {Other} agree on {on}{corrected}."
                : $"{One} reads {Math.Abs(MeanPercent).ToString("0", CultureInfo.CurrentCulture)} % {(MeanPercent > 0 ? "over" : "under")} {Other} on {on}{corrected}: find out which is right before anything is judged by either.";
        }
    }

    /// <summary>A test held against the latest other one of the job that was done with another gauge.</summary>
    /// <param name="test">The test whose gauge is checked.</param>
    /// <param name="tests">The dry tests of the job, oldest first.</param>
    /// <param name="engine">The engine.</param>
    /// <returns>Absent where a gauge is not named, or no cylinder was read with both.</returns>
    public static GaugeComparison? Of(DryCompressionTest test, IEnumerable<DryCompressionTest> tests, EngineSheet engine)
    {
        if (test.Tester?.Label is not { } one)
        {
            return null;
        }
        var mine = DryReading.Of(test, engine).ToDictionary(r => r.Cylinder);
        foreach (var other in tests.Reverse().Where(t => !ReferenceEquals(t, test) && t.Tester?.Label is { } label && label != one))
        {
            var pairs = DryReading.Of(other, engine).Where(r => r.Value.Pascals > 0 && mine.ContainsKey(r.Cylinder)).OrderBy(r => r.Cylinder)
                .Select(r => new GaugePair(r.Cylinder, mine[r.Cylinder].Value, r.Value, 100 * (mine[r.Cylinder].PressurePa / r.PressurePa - 1))).ToList();
            if (pairs.Count > 0)
            {
                return new GaugeComparison { One = one, Other = other.Tester!.Label!, Pairs = pairs, IsCorrected = pairs.Exists(p => mine[p.Cylinder].IsGaugeCorrected) || DryReading.Of(other, engine).Any(r => r.IsGaugeCorrected) };
            }
        }
        return null;
    }
}
