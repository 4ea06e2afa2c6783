namespace Zandrik.Core.RelativeCompression;

/// <summary>The sync channel of the settled part as excursions from its moving middle, in steps fine enough for any event; worked out once, whatever cycle is tried on it.</summary>
internal sealed class SyncChannel
{
    // A quarter of a millisecond is a third of a crank degree: finer only costs time. Extremes lose no event.
    private const double FinestS = 0.00025;

    private readonly int from;
    private readonly int each;
    private readonly int blocksEach;
    private readonly double blockSeconds;
    private readonly double[] up;
    private readonly double[] down;

    /// <summary>Takes the channel of a capture's settled part.</summary>
    public SyncChannel(StarterTrace trace, CrankingPart part)
    {
        (blocksEach, blockSeconds, from) = (part.BlocksEach, trace.BlockSeconds, part.From * part.BlocksEach);
        each = Math.Max(1, (int)(FinestS / blockSeconds));
        var n = (Math.Min(trace.Blocks, part.To * blocksEach) - from) / each;
        var (low, high, middle) = (new double[n], new double[n], new double[n]);
        for (var i = 0; i < n; i++)
        {
            (low[i], high[i]) = (double.PositiveInfinity, double.NegativeInfinity);
            for (var j = from + i * each; j < from + (i + 1) * each; j++)
            {
                low[i] = Math.Min(low[i], trace.SyncLowest[j]);
                high[i] = Math.Max(high[i], trace.SyncHighest[j]);
            }
            middle[i] = (low[i] + high[i]) / 2;
        }
        // Battery voltage moves under an injector's dips.
        var stride = Math.Max(1, n / 400);
        var around = new double[n / stride + 1];
        // Of so many steps a part tells the middle as well.
        var every = Math.Max(1, stride / 8);
        Span<double> some = stackalloc double[8 * stride / every + 1];
        for (var i = 0; i < around.Length; i++)
        {
            var count = 0;
            for (var j = Math.Max(0, (i - 4) * stride); j < Math.Min(n, (i + 4) * stride); j += every)
            {
                some[count++] = middle[j];
            }
            around[i] = Smoothing.Quantile(some[..count], 0.5);
        }
        (up, down) = (new double[n], new double[n]);
        for (var i = 0; i < n; i++)
        {
            up[i] = high[i] - around[i / stride];
            down[i] = around[i / stride] - low[i];
        }
    }

    /// <summary>How far each step stands out, on the side on which events of this kind do.</summary>
    public double[] Excursion(SyncKind kind) => up.Length > 0 && (kind == SyncKind.Injector || down.Max() > up.Max()) ? down : up;

    /// <summary>Where a step's middle lies among the samples of the settled part.</summary>
    public double SampleOf(int step) => (step + 0.5) * each / blocksEach - 0.5;

    /// <summary>Its time, s from the start of the capture.</summary>
    public double TimeOf(int step) => (from + (step + 0.5) * each) * blockSeconds;
}
