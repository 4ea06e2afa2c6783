using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;

namespace Zandrik.Core.RelativeCompression;

/// <summary>
/// A capture made small in one pass, whatever its length: even blocks of samples with mean, lowest and highest, so that no spike and no
/// sync event is lost. Blocks are merged in pairs when there are too many; memory stays bounded.
/// </summary>
public sealed class StarterTrace
{
    /// <summary>Most blocks kept.</summary>
    public const int MostBlocks = 1 << 20;

    private readonly Channel current = new(judged: true);
    private readonly Channel? sync;
    private readonly Channel? battery;
    private readonly double intervalS;
    private long samplesPerBlock = 1;

    /// <summary>A trace that is still empty.</summary>
    /// <param name="intervalS">Time between samples, s; 0 when it is only known at the end (<see cref="WithInterval"/>).</param>
    /// <param name="withSync">True when there is a sync channel.</param>
    /// <param name="withBattery">True when there is a voltage channel.</param>
    public StarterTrace(double intervalS, bool withSync, bool withBattery)
    {
        this.intervalS = intervalS;
        sync = withSync ? new Channel(judged: false) : null;
        battery = withBattery ? new Channel(judged: false) : null;
    }

    private StarterTrace(StarterTrace other, double intervalS)
    {
        (current, sync, battery, samplesPerBlock, Samples, this.intervalS) = (other.current, other.sync, other.battery, other.samplesPerBlock, other.Samples, intervalS);
        Bridged = other.Bridged;
    }

    /// <summary>Number of samples so far.</summary>
    public long Samples { get; private set; }

    /// <summary>Samples that were missing or not numbers and were bridged.</summary>
    public long Bridged { get; private set; }

    /// <summary>Samples a second.</summary>
    public double SampleRateHz => intervalS > 0 ? 1 / intervalS : 0;

    /// <summary>Time of the whole capture, s.</summary>
    public double DurationS => Samples * intervalS;

    /// <summary>Number of blocks.</summary>
    public int Blocks => current.Count;

    /// <summary>Time of one block, s.</summary>
    public double BlockSeconds => samplesPerBlock * intervalS;

    /// <summary>Current: mean of each block, A.</summary>
    public ReadOnlySpan<float> Mean => current.Means;

    /// <summary>Current: lowest of each block, A.</summary>
    public ReadOnlySpan<float> Lowest => current.Lows;

    /// <summary>Current: highest of each block, A.</summary>
    public ReadOnlySpan<float> Highest => current.Highs;

    /// <summary>True when there is a sync channel.</summary>
    public bool HasSync => sync is not null;

    /// <summary>Sync: lowest of each block.</summary>
    public ReadOnlySpan<float> SyncLowest => sync is null ? [] : sync.Lows;

    /// <summary>Sync: highest of each block.</summary>
    public ReadOnlySpan<float> SyncHighest => sync is null ? [] : sync.Highs;

    /// <summary>Battery: mean of each block, V; empty without that channel.</summary>
    public ReadOnlySpan<float> Battery => battery is null ? [] : battery.Means;

    /// <summary>The current's highest and lowest sample and how many samples stand exactly there.</summary>
    public (double Highest, long AtHighest, double Lowest, long AtLowest) Extremes => (current.Max, current.AtMax, current.Min, current.AtMin);

    /// <summary>Smallest step between two samples of the current, A: the instrument's resolution, or its noise where that is finer; 0 when it never changes.</summary>
    public double SmallestStep => double.IsInfinity(current.Step) ? 0 : current.Step;

    /// <summary>The same trace with the interval that was found at the end.</summary>
    /// <returns>The trace; its samples are shared.</returns>
    public StarterTrace WithInterval(double seconds) => new(this, seconds);

    /// <summary>Adds samples. NaN and infinite ones are bridged by a straight line within what is added at once and held level beyond it, so that nothing after them shifts in time.</summary>
    /// <param name="amps">Current, A.</param>
    /// <param name="syncs">Sync channel, as many; empty without one.</param>
    /// <param name="volts">Battery, as many; empty without one.</param>
    public void Add(ReadOnlySpan<double> amps, ReadOnlySpan<double> syncs = default, ReadOnlySpan<double> volts = default)
    {
        Samples += amps.Length;
        var at = 0;
        while (at < amps.Length)
        {
            // The channels go in step, so that all have merged their blocks alike.
            var take = Math.Min(amps.Length - at, (int)Math.Min(int.MaxValue, current.Left(samplesPerBlock)));
            Bridged += current.Add(amps.Slice(at, take), samplesPerBlock);
            sync?.Add(syncs.Slice(at, take), samplesPerBlock);
            battery?.Add(volts.Slice(at, take), samplesPerBlock);
            at += take;
            if (current.Count == MostBlocks)
            {
                current.Halve();
                sync?.Halve();
                battery?.Halve();
                samplesPerBlock *= 2;
            }
        }
    }

    /// <summary>Closes the trace with its last, shorter block.</summary>
    public void Finish()
    {
        current.Finish();
        sync?.Finish();
        battery?.Finish();
    }

    // What the instrument's range and steps are is only asked of the current.
    private sealed class Channel(bool judged)
    {
        // Looked at together: a gap costs as many samples taken one by one.
        private const int StretchSamples = 1024;

        private float[] means = new float[1024], lows = new float[1024], highs = new float[1024];
        private double sum, low = double.PositiveInfinity, high = double.NegativeInfinity, last = double.NaN;
        private long inBlock, stepsSeen;

        public int Count { get; private set; }

        public double Max { get; private set; } = double.NegativeInfinity;

        public double Min { get; private set; } = double.PositiveInfinity;

        public long AtMax { get; private set; }

        public long AtMin { get; private set; }

        public double Step { get; private set; } = double.PositiveInfinity;

        public ReadOnlySpan<float> Means => means.AsSpan(0, Count);

        public ReadOnlySpan<float> Lows => lows.AsSpan(0, Count);

        public ReadOnlySpan<float> Highs => highs.AsSpan(0, Count);

        // Samples until the blocks are full.
        public long Left(long perBlock) => Math.Max(1, (MostBlocks - Count) * perBlock - inBlock);

        public long Add(ReadOnlySpan<double> values, long perBlock)
        {
            long bridged = 0;
            var i = 0;
            while (i < values.Length)
            {
                // Whole blocks as long as every sample is a number; a stretch where one is not goes sample by sample.
                var stretch = (int)Math.Min((values.Length - i) / perBlock, Math.Max(1, StretchSamples / perBlock));
                if (inBlock == 0 && stretch > 0 && Blocks(values.Slice(i, stretch * (int)perBlock), (int)perBlock))
                {
                    i += stretch * (int)perBlock;
                    continue;
                }
                var end = inBlock == 0 ? Math.Min(values.Length, i + (int)Math.Min(values.Length, Math.Max(1, stretch) * perBlock)) : i + 1;
                while (i < end)
                {
                    i = Samples(values, i, perBlock, ref bridged);
                }
            }
            return bridged;
        }

        // Samples of one block at most, or a gap as long as it is; answers the next.
        private int Samples(ReadOnlySpan<double> values, int i, long perBlock, ref long bridged)
        {
            // As far as the block goes and the numbers are numbers, in one plain loop.
            var take = (int)Math.Min(values.Length - i, perBlock - inBlock);
            var whole = Run(values.Slice(i, take));
            i += whole;
            if (inBlock >= perBlock)
            {
                Close();
            }
            if (whole == take)
            {
                return i;
            }
            var end = i;
            while (end < values.Length && !double.IsFinite(values[end]))
            {
                end++;
            }
            bridged += end - i;
            var to = end < values.Length ? values[end] : double.IsFinite(last) ? last : 0;
            var from = double.IsFinite(last) ? last : to;
            for (var (k, n) = (1, end - i); k <= n; k++)
            {
                Plain(from + (to - from) * k / (n + 1), perBlock);
            }
            return end;
        }

        // Whole blocks at once; false, with nothing taken, where a sample is no number: the sum tells.
        private bool Blocks(ReadOnlySpan<double> run, int perBlock)
        {
            var blocks = run.Length / perBlock;
            Room(blocks);
            var mean = means.AsSpan(Count, blocks);
            var lowest = lows.AsSpan(Count, blocks);
            var highest = highs.AsSpan(Count, blocks);
            var (all, least, most) = (0.0, double.PositiveInfinity, double.NegativeInfinity);
            for (var k = 0; k < blocks; k++)
            {
                var (s, l, h) = Block(run.Slice(k * perBlock, perBlock));
                (mean[k], lowest[k], highest[k]) = ((float)(s / perBlock), (float)l, (float)h);
                all += s;
                least = l < least ? l : least;
                most = h > most ? h : most;
            }
            if (!double.IsFinite(all))
            {
                return false;
            }
            if (judged && (most >= Max || least <= Min))
            {
                Extremes(run);
            }
            Steps(run);
            Count += blocks;
            last = run[^1];
            return true;
        }

        // Sum, lowest and highest of a block, four samples at a time.
        [MethodImpl(MethodImplOptions.AggressiveInlining)]
        private static (double Sum, double Lowest, double Highest) Block(ReadOnlySpan<double> run)
        {
            var (s, l, h) = (run[0], run[0], run[0]);
            var i = 1;
            if (run.Length >= 8)
            {
                var four = MemoryMarshal.Cast<double, Vector256<double>>(run);
                var (sums, lows4, highs4) = (four[0], four[0], four[0]);
                for (var k = 1; k < four.Length; k++)
                {
                    var v = four[k];
                    sums += v;
                    lows4 = Vector256.Min(lows4, v);
                    highs4 = Vector256.Max(highs4, v);
                }
                s = Vector256.Sum(sums);
                var (low2, high2) = (Vector128.Min(lows4.GetLower(), lows4.GetUpper()), Vector128.Max(highs4.GetLower(), highs4.GetUpper()));
                (l, h) = (Math.Min(low2[0], low2[1]), Math.Max(high2[0], high2[1]));
                i = 4 * four.Length;
            }
            for (; i < run.Length; i++)
            {
                s += run[i];
                l = run[i] < l ? run[i] : l;
                h = run[i] > h ? run[i] : h;
            }
            return (s, l, h);
        }

        // Takes samples into the block up to the first that is no number; answers how many.
        private int Run(ReadOnlySpan<double> values)
        {
            var (s, l, h) = (sum, low, high);
            var i = 0;
            for (; i < values.Length; i++)
            {
                var value = values[i];
                if (!double.IsFinite(value))
                {
                    break;
                }
                s += value;
                l = value < l ? value : l;
                h = value > h ? value : h;
            }
            (sum, low, high) = (s, l, h);
            var run = values[..i];
            inBlock += i;
            if (judged && (h >= Max || l <= Min))
            {
                Extremes(run);
            }
            Steps(run);
            if (i > 0)
            {
                last = run[^1];
            }
            return i;
        }

        private void Extremes(ReadOnlySpan<double> run)
        {
            foreach (var value in run)
            {
                if (value >= Max)
                {
                    (AtMax, Max) = (value > Max ? 1 : AtMax + 1, value);
                }
                if (value <= Min)
                {
                    (AtMin, Min) = (value < Min ? 1 : AtMin + 1, value);
                }
            }
        }

        // The instrument's resolution shows in the first few hundred thousand samples, or never.
        private void Steps(ReadOnlySpan<double> run)
        {
            if (!judged || stepsSeen > 400_000)
            {
                return;
            }
            stepsSeen += run.Length;
            var before = last;
            foreach (var value in run)
            {
                var step = Math.Abs(value - before);
                if (step < Step && step > 1e-9 * Math.Abs(value))
                {
                    Step = step;
                }
                before = value;
            }
        }

        public void Finish()
        {
            if (inBlock > 0)
            {
                Close();
            }
        }

        public void Halve()
        {
            for (var i = 0; i < Count / 2; i++)
            {
                means[i] = (means[2 * i] + means[2 * i + 1]) / 2;
                lows[i] = Math.Min(lows[2 * i], lows[2 * i + 1]);
                highs[i] = Math.Max(highs[2 * i], highs[2 * i + 1]);
            }
            Count /= 2;
        }

        private void Plain(double value, long perBlock)
        {
            sum += value;
            low = Math.Min(low, value);
            high = Math.Max(high, value);
            if (++inBlock >= perBlock)
            {
                Close();
            }
        }

        private void Close()
        {
            Room(1);
            (means[Count], lows[Count], highs[Count]) = ((float)(sum / inBlock), (float)low, (float)high);
            Count++;
            (sum, low, high, inBlock) = (0, double.PositiveInfinity, double.NegativeInfinity, 0);
        }

        private void Room(int blocks)
        {
            if (Count + blocks > means.Length)
            {
                var length = Math.Max(means.Length * 2, Count + blocks);
                Array.Resize(ref means, length);
                Array.Resize(ref lows, length);
                Array.Resize(ref highs, length);
            }
        }
    }
}
