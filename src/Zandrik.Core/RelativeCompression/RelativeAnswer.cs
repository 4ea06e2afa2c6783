using Zandrik.Core.Records;

namespace Zandrik.Core.RelativeCompression;

/// <summary>What is said of one cylinder or slot.</summary>
public enum RelativeVerdict
{
    /// <summary>As good as the best, within what the limit allows, surely.</summary>
    Even,

    /// <summary>Neither surely above the limit nor surely below it: repeat the test.</summary>
    Borderline,

    /// <summary>Below the limit even with its uncertainty.</summary>
    Low,

    /// <summary>Hardly pumps.</summary>
    Dead,
}

/// <summary>How sure the whole answer is.</summary>
public enum Confidence
{
    /// <summary>The trace is like that of such an engine.</summary>
    High,

    /// <summary>Something speaks against it; no cylinder is called low.</summary>
    Low,
}

/// <summary>One cylinder, or one slot of the firing order where nothing tells the cylinder.</summary>
/// <param name="Slot">Its place along the firing order, from 1; 1 is the sync cylinder where there is one.</param>
/// <param name="Cylinder">The cylinder; absent without usable sync.</param>
/// <param name="RelativePercent">Estimated peak gauge pressure against the best cylinder, percent, 0 to 100.</param>
/// <param name="StandardErrorPercent">Standard error of that, percent points.</param>
/// <param name="Verdict">What is said of it.</param>
/// <param name="HumpPercent">Plain height of its hump against the highest, percent: what the eye sees, not what is judged. May be negative where humps overlap.</param>
/// <param name="AtCycle">Its top dead centre on the cycle that is drawn, cycles from its start (0 to under 1).</param>
public sealed record RelativeSlot(int Slot, int? Cylinder, double RelativePercent, double StandardErrorPercent, RelativeVerdict Verdict, double HumpPercent, double AtCycle);

/// <summary>A moment at which a slot passed its top dead centre, or a sync event stood.</summary>
/// <param name="TimeS">Seconds from the start of the capture.</param>
/// <param name="Slot">The slot; 0 for a sync event.</param>
public readonly record struct TraceMark(double TimeS, int Slot);

/// <summary>Cranking speed at a moment.</summary>
/// <param name="TimeS">Seconds from the start of the capture.</param>
/// <param name="Rpm">Crank speed, averaged over about a cycle.</param>
public readonly record struct SpeedPoint(double TimeS, double Rpm);

/// <summary>What a battery channel shows.</summary>
/// <param name="RestV">Before the starter is engaged; absent when that is not in the capture.</param>
/// <param name="LowestV">Lowest while cranking.</param>
/// <param name="CrankingV">Mean of the settled part.</param>
public sealed record BatterySag(double? RestV, double LowestV, double CrankingV);

/// <summary>
/// What a capture of the starter's current says: cylinders against the best of them, or why nothing can be said. Relative means against the best cylinder of this engine: an engine
/// worn evenly reads 100 % everywhere.
/// </summary>
public sealed record RelativeAnswer
{
    /// <summary>Why it cannot be judged; then there are no slots. Absent for an answer.</summary>
    public CaptureRemark? Refused { get; init; }

    /// <summary>Samples a second.</summary>
    public double SampleRateHz { get; init; }

    /// <summary>Length of the capture, s.</summary>
    public double DurationS { get; init; }

    /// <summary>Mean cranking speed of the settled part, rpm.</summary>
    public double CrankingRpm { get; init; }

    /// <summary>Whole settled cycles used.</summary>
    public int Cycles { get; init; }

    /// <summary>True when the slots are cylinders.</summary>
    public bool Synchronised { get; init; }

    /// <summary>What the sync channel was taken to carry.</summary>
    public SyncKind Sync { get; init; } = SyncKind.None;

    /// <summary>Slots along the firing order.</summary>
    public IReadOnlyList<RelativeSlot> Slots { get; init; } = [];

    /// <summary>Highest current as the starter was engaged, A; absent when not seen, clipped or without scale.</summary>
    public double? InrushAmps { get; init; }

    /// <summary>Mean settled current, A; absent when the clamp's zero or scale is unknown.</summary>
    public double? MeanAmps { get; init; }

    /// <summary>Battery voltage; absent without that channel.</summary>
    public BatterySag? Battery { get; init; }

    /// <summary>How sure it is.</summary>
    public Confidence Confidence { get; init; }

    /// <summary>Share of the ripple that the model does not explain, 0 to 1.</summary>
    public double Unexplained { get; init; }

    /// <summary>Remarks.</summary>
    public IReadOnlyList<CaptureRemark> Warnings { get; init; } = [];

    /// <summary>The mean cycle: current about its mean, A, at even angles from the start of the cycle.</summary>
    public IReadOnlyList<float> MeanCycle { get; init; } = [];

    /// <summary>The single cycles, each like <see cref="MeanCycle"/>.</summary>
    public IReadOnlyList<IReadOnlyList<float>> EachCycle { get; init; } = [];

    /// <summary>Top dead centres of the settled part.</summary>
    public IReadOnlyList<TraceMark> Marks { get; init; } = [];

    /// <summary>Sync events that were used.</summary>
    public IReadOnlyList<TraceMark> Events { get; init; } = [];

    /// <summary>Speed over the settled part.</summary>
    public IReadOnlyList<SpeedPoint> Speed { get; init; } = [];

    /// <summary>What was taken off the current for the clamp's zero, A.</summary>
    public double ZeroA { get; init; }

    /// <summary>True when the current was turned round.</summary>
    public bool Reversed { get; init; }

    /// <summary>The settled part, s from the start of the capture.</summary>
    public (double From, double To) Settled { get; init; }

    /// <summary>Both assignments where a waste spark leaves two: the cylinder of each slot, for either.</summary>
    public IReadOnlyList<IReadOnlyList<int>> Candidates { get; init; } = [];

    /// <summary>The cylinder whose plug was out, by which the others were told apart; absent for none.</summary>
    public int? Unplugged { get; init; }

    /// <summary>True for the slot of the cylinder whose plug was out: what it pumps says nothing.</summary>
    /// <returns>False where no plug was out.</returns>
    public bool IsUnplugged(RelativeSlot slot) => Unplugged is not null && slot.Cylinder == Unplugged;

    /// <summary>The answer as a test of the open record: a reading for each cylinder, or the slots where only those are known.</summary>
    /// <returns>The test; without readings where cylinders are not known.</returns>
    public RelativeCompressionTest ForRecord() => new()
    {
        Readings = !Synchronised ? null : [.. Slots.Where(s => !IsUnplugged(s)).OrderBy(s => s.Cylinder).Select(s => new RelativeReading
        {
            Cylinder = s.Cylinder!.Value, RelativePercent = Math.Round(s.RelativePercent, 1), StandardErrorPercent = Math.Round(s.StandardErrorPercent, 1),
        })],
        Slots = Synchronised || Slots.Count == 0 ? null : [.. Slots.OrderBy(s => s.Slot).Select(s => new RelativeSlotReading
        {
            Slot = s.Slot, RelativePercent = Math.Round(s.RelativePercent, 1), StandardErrorPercent = Math.Round(s.StandardErrorPercent, 1),
        })],
    };
}
