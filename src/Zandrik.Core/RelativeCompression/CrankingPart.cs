namespace Zandrik.Core.RelativeCompression;

/// <summary>
/// The stretch of a capture in which the starter cranks at its settled current, brought to a working rate, to the clamp's zero and to the right sign. Steps 2 to 7 of
/// section 3 of docs/relative-compression.md.
/// </summary>
internal sealed class CrankingPart
{
    // Above this the working rate only costs time: a compression takes tens of milliseconds.
    private const double WorkingHz = 1500;

    private CrankingPart(double[] amps, double stepS) => (Amps, StepS) = (amps, stepS);

    /// <summary>Current over the whole capture at the working rate, A from the clamp's zero.</summary>
    public double[] Amps { get; }

    /// <summary>Time between them, s.</summary>
    public double StepS { get; }

    /// <summary>Blocks of the trace that make one of them.</summary>
    public int BlocksEach { get; private init; } = 1;

    /// <summary>First of the settled part.</summary>
    public int From { get; set; }

    /// <summary>One past the last of it.</summary>
    public int To { get; set; }

    /// <summary>Where the starter was engaged.</summary>
    public int Engaged { get; private set; }

    /// <summary>How many times it was engaged.</summary>
    public int Bursts { get; private set; }

    /// <summary>Which of them is used, from 1.</summary>
    public int Used { get; private set; }

    /// <summary>True when the clamp's zero could be seen.</summary>
    public bool ZeroKnown { get; private set; }

    /// <summary>How far the clamp was off zero at its start, A; 0 where it could not be seen.</summary>
    public double OffsetA { get; private set; }

    /// <summary>How much its zero wandered from before to after, A.</summary>
    public double DriftA { get; private set; }

    /// <summary>True when it was turned round.</summary>
    public bool Reversed { get; private set; }

    /// <summary>Noise where the clamp is quiet, A.</summary>
    public double NoiseA { get; private set; }

    /// <summary>Settled level of the current, A.</summary>
    public double LevelA { get; private set; }

    /// <summary>The inrush peak, A; absent when the capture begins later or it is clipped.</summary>
    public double? InrushA { get; private set; }

    /// <summary>True when the engine fired and overran the starter.</summary>
    public bool EngineStarted { get; private set; }

    /// <summary>Share of the settled blocks that stand at the end of the instrument's range.</summary>
    public double ClippedShare { get; private set; }

    /// <summary>True when the inrush stands at the end of the instrument's range.</summary>
    public bool InrushClipped { get; private set; }

    /// <summary>Finds it; absent when nothing in the capture is cranking.</summary>
    public static CrankingPart? Find(StarterTrace trace, bool scaleKnown)
    {
        var each = Math.Max(1, (int)Math.Floor(1 / (trace.BlockSeconds * WorkingHz)));
        var amps = new double[trace.Blocks / each];
        for (var i = 0; i < amps.Length; i++)
        {
            double sum = 0;
            foreach (var mean in trace.Mean.Slice(i * each, each))
            {
                sum += mean;
            }
            amps[i] = sum / each;
        }
        var part = new CrankingPart(amps, each * trace.BlockSeconds) { BlocksEach = each };
        return amps.Length >= 8 && part.Zero() && part.Engage(scaleKnown) && part.Settle(trace) ? part : null;
    }

    private int Count(double seconds) => Math.Max(1, (int)Math.Round(seconds / StepS));

    // The clamp's zero from what is quiet before and after, and the sign of what is between.
    private bool Zero()
    {
        var smooth = Smoothing.Boxcar(Amps, Count(0.03));
        var span = Smoothing.Quantile(smooth, 1) - Smoothing.Quantile(smooth, 0);
        if (span <= 0 || !double.IsFinite(span))
        {
            return false;
        }
        var before = Quiet(smooth, span, forward: true);
        var after = Quiet(smooth, span, forward: false);
        ZeroKnown = before is not null || after is not null;
        var (left, right) = (before ?? after ?? (0, 0), after ?? before ?? (0, 0));
        OffsetA = left.Level;
        DriftA = right.Level - left.Level;
        var slope = right.Middle > left.Middle ? DriftA / (right.Middle - left.Middle) : 0;
        for (var i = 0; i < Amps.Length; i++)
        {
            Amps[i] -= left.Level + slope * (i - left.Middle);
        }
        smooth = Smoothing.Boxcar(Amps, Count(0.1));
        var largest = smooth.Max(Math.Abs);
        var active = smooth.Where(a => Math.Abs(a) > 0.2 * largest).ToArray();
        Reversed = Smoothing.Quantile(active, 0.5) < 0;
        if (Reversed)
        {
            for (var i = 0; i < Amps.Length; i++)
            {
                Amps[i] = -Amps[i];
            }
        }
        return true;
    }

    // A stretch at one end of the capture that hardly moves, before the current leaves it for good.
    private (double Level, double Middle)? Quiet(double[] smooth, double span, bool forward)
    {
        int At(int i) => forward ? i : smooth.Length - 1 - i;
        var first = Math.Min(smooth.Length, Count(0.02));
        double level = 0;
        for (var i = 0; i < first; i++)
        {
            level += Amps[At(i)] / first;
        }
        var length = first;
        while (length < smooth.Length && Math.Abs(smooth[At(length)] - level) < 0.06 * span)
        {
            length++;
        }
        // The starter comes and goes within milliseconds; what drifts away slowly is the inrush dying down into an even settled current.
        var soon = At(Math.Min(smooth.Length - 1, length + Count(0.06)));
        if (Math.Abs(smooth[soon] - level) < 0.14 * span)
        {
            return null;
        }
        length -= Count(0.03);
        if (length < Math.Max(4, Count(0.02)) || length >= smooth.Length - Count(0.1))
        {
            return null;
        }
        var quiet = Enumerable.Range(0, length).Select(i => Amps[At(i)]).ToArray();
        var middle = Smoothing.Quantile(quiet, 0.5);
        NoiseA = 1.48 * Smoothing.Quantile([.. quiet.Select(q => Math.Abs(q - middle))], 0.5);
        return (Smoothing.Quantile(quiet, 0.5), At(length / 2));
    }

    // Where the starter turns: above a share of its own settled level, dips of a missing hump bridged.
    private bool Engage(bool scaleKnown)
    {
        var smooth = Smoothing.Boxcar(Amps, Count(0.12));
        var high = Smoothing.Quantile(smooth, 0.98);
        var working = smooth.Where(a => a > 0.15 * high).ToArray();
        LevelA = Smoothing.Quantile(working, 0.5);
        const double LeastAmps = 15;
        if (working.Length == 0 || LevelA <= 0 || (scaleKnown && ZeroKnown && LevelA < LeastAmps) || (ZeroKnown && LevelA < 8 * NoiseA))
        {
            return false;
        }
        var bursts = new List<(int From, int To)>();
        var bridge = Count(0.3);
        for (var i = 0; i < smooth.Length; i++)
        {
            if (ZeroKnown && smooth[i] < 0.3 * LevelA)
            {
                continue;
            }
            if (bursts.Count > 0 && i - bursts[^1].To <= bridge)
            {
                bursts[^1] = (bursts[^1].From, i + 1);
            }
            else
            {
                bursts.Add((i, i + 1));
            }
        }
        bursts.RemoveAll(b => b.To - b.From < Count(0.25));
        if (bursts.Count == 0)
        {
            return false;
        }
        Bursts = bursts.Count;
        Used = 1 + bursts.IndexOf(bursts.MaxBy(b => b.To - b.From));
        (From, To) = bursts[Used - 1];
        Engaged = From;
        return true;
    }

    // Without the inrush at the front, without the release and whatever a firing engine makes of it at the end.
    private bool Settle(StarterTrace trace)
    {
        var end = To;
        while (end > From && Amps[end - 1] < 0.4 * LevelA)
        {
            end--;
        }
        var slow = Smoothing.Boxcar(Amps.AsSpan(From, end - From), Count(0.4));
        var level = Smoothing.Quantile(slow, 0.5);
        // A settled starter never falls to under half of itself while it turns a dead engine.
        var cut = slow.Length;
        var gone = 0;
        for (var i = Count(0.5); i < slow.Length; i++)
        {
            gone = slow[i] < 0.55 * level ? gone + 1 : 0;
            if (gone >= Count(0.1))
            {
                (cut, EngineStarted) = (i - gone - Count(0.2), true);
                break;
            }
        }
        if (!EngineStarted && To + Count(0.2) < Amps.Length)
        {
            var plateau = Smoothing.Quantile(Amps.AsSpan(Math.Min(Amps.Length - 2, To + Count(0.05)), Math.Max(1, Math.Min(Count(0.25), Amps.Length - To - Count(0.05)))), 0.5);
            EngineStarted = ZeroKnown && plateau > 0.08 * LevelA;
        }
        // The inrush is left out also where the capture begins in it.
        var skip = ZeroKnown && From > Count(0.02) ? Count(0.35) : 0;
        while (skip < slow.Length / 3 && slow[skip] > 1.06 * level)
        {
            skip++;
        }
        var begin = From + skip;
        if (ZeroKnown && From > Count(0.02))
        {
            Peak(trace);
        }
        To = Math.Max(begin, Math.Min(end - Count(0.05), From + cut));
        From = begin;
        Clipping(trace);
        return To > From;
    }

    private void Peak(StarterTrace trace)
    {
        var first = Math.Max(0, From - Count(0.15)) * BlocksEach;
        var last = Math.Min(trace.Blocks, (From + Count(0.25)) * BlocksEach);
        var zero = OffsetA + DriftA * From / Amps.Length;
        double peak = 0;
        for (var i = first; i < last; i++)
        {
            peak = Math.Max(peak, Reversed ? zero - trace.Lowest[i] : trace.Highest[i] - zero);
        }
        InrushA = peak;
    }

    private void Clipping(StarterTrace trace)
    {
        var (highest, atHighest, lowest, atLowest) = trace.Extremes;
        var (end, at) = Reversed ? (lowest, atLowest) : (highest, atHighest);
        // Samples at one and the same extreme for longer than an inrush peak stays within one step of the instrument.
        if (at * trace.BlockSeconds * trace.Blocks / trace.Samples < 0.008)
        {
            return;
        }
        var edge = (float)end;
        var clipped = 0;
        for (var i = From * BlocksEach; i < To * BlocksEach; i++)
        {
            clipped += (Reversed ? trace.Lowest[i] <= edge : trace.Highest[i] >= edge) ? 1 : 0;
        }
        ClippedShare = (double)clipped / Math.Max(1, (To - From) * BlocksEach);
        InrushClipped = ClippedShare < 0.03 && InrushA is not null;
        if (InrushClipped)
        {
            ClippedShare = 0;
            InrushA = null;
        }
    }
}
