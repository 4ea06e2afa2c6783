using System.Collections.Concurrent;

namespace Zandrik.Core.RelativeCompression;

/// <summary>Finds the cycle of an engine in the settled current: of the frequencies that may be it, the one whose model leaves least unexplained.</summary>
internal static class CycleSearch
{
    /// <summary>Fewer settled cycles than this say nothing.</summary>
    public const int FewestCycles = 2;

    // More than this say nothing more.
    private const int MostCycles = 60;

    /// <summary>The candidate cycle that leaves least unexplained; absent when none does, or when the likelier one is too short.</summary>
    public static CycleFit? Best(StarterTrace trace, CrankingPart part, CaptureQuestion question)
    {
        var amps = part.Amps.AsSpan(part.From, part.To - part.From);
        var (coarse, coarseS) = Coarse(amps, part.StepS);
        var candidates = CycleFrequency.Candidates(coarse, coarseS, question.Cylinders);
        var channel = trace.HasSync && question.Sync != SyncKind.None ? new SyncChannel(trace, part) : null;
        var templates = new Templates(question);
        CycleFit? best = null;
        double next = double.PositiveInfinity, tooShort = 0;
        var settledS = (part.To - part.From) * part.StepS;
        // A wrong cycle is plain without asking which cylinder is weak; only what comes near is looked at closely.
        var quick = candidates.AsParallel().AsOrdered().Select(c => (c.Hz, c.Score, Fit: Fit(channel, part, question, templates, c.Hz, quick: true))).ToList();
        var least = quick.Min(q => q.Fit?.Total);
        var looked = new List<double>();
        void Consider(double hz, double score, CycleFit? rough)
        {
            if (settledS * hz < FewestCycles)
            {
                tooShort = Math.Max(tooShort, score);
            }
            // Candidates that the phase brought to one and the same cycle are one.
            if (rough is null || looked.Exists(l => Math.Abs(l / rough.Orders.Hz - 1) < 0.01))
            {
                return;
            }
            looked.Add(rough.Orders.Hz);
            if ((rough.Total > 2 * least + 0.1 ? rough : Fit(channel, part, question, templates, hz, quick: false)) is not { } found)
            {
                return;
            }
            found = found with { Total = found.Total + 0.02 * -Math.Log(score) + Implausible(found, question), Score = score };
            var another = best is not null && Math.Abs(best.Orders.Hz / found.Orders.Hz - 1) > 0.03;
            if (best is null || found.Total < best.Total)
            {
                next = another ? Math.Min(next, best!.Total) : next;
                best = found;
            }
            else if (another)
            {
                next = Math.Min(next, found.Total);
            }
        }
        foreach (var (hz, score, rough) in quick)
        {
            Consider(hz, score, rough);
        }
        if (best is not null && EveryOtherLow(best.Heights))
        {
            var half = best.Orders.Hz / 2;
            if (settledS * half < FewestCycles)
            {
                return null;
            }
            Consider(half, 0.1, Fit(channel, part, question, templates, half, quick: true));
        }
        return best is null || best.Score < tooShort ? null : best with { NextTotal = next };
    }

    // An engine taken for one that turns twice as fast has every other cylinder dead, and a sync event in every other cycle.
    private static double Implausible(CycleFit found, CaptureQuestion question)
    {
        var dead = found.Heights.Count(h => h < 0.08 * found.Heights.Max());
        var cost = 0.03 * Math.Max(0, dead - 1) + ((dead >= 2 && 2 * dead >= found.Heights.Length) || EveryOtherLow(found.Heights) ? 0.3 : 0);
        return cost + (question.Sync is SyncKind.EveryCycle or SyncKind.Injector && found.Sync is { } sync && sync.Agreeing < 0.7 * sync.Expected ? 0.1 : 0);
    }

    // Three or more that hardly pump with a sound one between any two; with four cylinders that may be a leaking gasket. Where they still pump it may be the timing of one bank of a V, whose banks fire in turn.
    private static bool EveryOtherLow(double[] heights)
    {
        if (heights.Length < 6 || heights.Length % 2 != 0)
        {
            return false;
        }
        var halves = heights.Index().GroupBy(h => h.Index % 2, h => h.Item).ToList();
        return halves.Min(h => h.Average()) < 0.25 * halves.Max(h => h.Average()) && halves.Min(h => h.Max()) < 0.35 * heights.Max();
    }

    private static CycleFit? Fit(SyncChannel? channel, CrankingPart part, CaptureQuestion question, Templates templates, double hz, bool quick)
    {
        var n = question.Cylinders;
        var length = Math.Min(part.To - part.From, (int)(MostCycles / hz / part.StepS));
        var whole = part.Amps.AsSpan(part.From, length);
        // A wrong cycle is as plain at a coarser rate.
        var (amps, stepS) = quick ? Coarse(whole, part.StepS) : (whole.ToArray(), part.StepS);
        if (CyclePhase.Track(amps, stepS, hz, n, Stall(part, whole)) is not { } tracks || tracks.Usual[^1] - tracks.Usual[0] < FewestCycles)
        {
            return null;
        }
        var orders = Math.Clamp((int)Math.Round(2.25 * n) + 4, 10, 40);
        orders = Math.Min(orders, (int)(0.4 / (hz * stepS)));
        if (orders < n || CycleOrders.Of(amps, tracks.Usual, tracks.More, stepS, orders, part.ZeroKnown) is not { } cycle || cycle.Cycles.Count < FewestCycles)
        {
            return null;
        }
        tracks = (Finer(tracks.Usual, length), Finer(tracks.More, length));
        var (_, at) = question.Slots();
        SyncEvents? sync = channel is not null ? SyncEvents.Of(channel, tracks.Usual, question.Sync) : null;
        var kind = sync is null ? SyncKind.None : question.Sync;
        if (question.SyncAssumed && kind == SyncKind.EveryCycle && sync!.Found > 1.6 * sync.Expected)
        {
            (kind, sync) = (SyncKind.WasteSpark, SyncEvents.Of(channel!, tracks.Usual, SyncKind.WasteSpark));
        }
        double? expected = sync?.Phase is { } phase ? phase + question.SyncAngleDeg / 720 : null;
        var fit = new CylinderFit(new SlotHeights(templates.Of(cycle.Hz, orders), orders, at, cycle.Hz, cycle.TrueScatter / cycle.Cycles.Count), expected);
        var (point, heights, residual, cost) = fit.Search(cycle.Mean(), question.IsEven ? 1.0 / n : 1, quick);
        var total = 1 - (1 - cycle.TrueScatter) * (1 - residual);
        var theta = new double[length];
        for (var i = 0; i < length; i++)
        {
            theta[i] = tracks.Usual[i] + point.Uneven * (tracks.More[i] - tracks.Usual[i]);
        }
        return new CycleFit(theta, cycle, fit, point, heights, residual, cost, sync, expected, total) { Kind = kind };
    }

    // Templates of an engine at nearly one speed are one: they are dear, and a candidate is looked at twice. Candidates looked at side by side only need that of a sound cylinder.
    private sealed class Templates(CaptureQuestion question)
    {
        private const double SpeedStep = 0.01;

        private readonly ConcurrentDictionary<(int Speed, int Orders), Lazy<CompressionTemplate>[]> known = [];

        public Lazy<CompressionTemplate>[] Of(double hz, int orders)
        {
            var wears = question.Fuel == Records.Fuel.Diesel ? CompressionTemplate.WearsUnthrottled : CompressionTemplate.Wears;
            return known.GetOrAdd(((int)Math.Round(Math.Log(hz) / SpeedStep), orders), at =>
                [.. Enumerable.Range(0, wears).Select(w => new Lazy<CompressionTemplate>(() => new CompressionTemplate(question.Ratio, question.SweptM3, 120 * Math.Exp(at.Speed * SpeedStep), orders, w)))]);
        }
    }

    // Means of a few samples each, at 500 a second or more: far above the highest order of any engine that is cranked.
    private static (double[] Amps, double StepS) Coarse(ReadOnlySpan<double> amps, double stepS)
    {
        var per = Math.Max(1, (int)(0.002 / stepS));
        if (per == 1)
        {
            return (amps.ToArray(), stepS);
        }
        var means = new double[amps.Length / per];
        for (var i = 0; i < means.Length; i++)
        {
            double sum = 0;
            foreach (var a in amps.Slice(i * per, per))
            {
                sum += a;
            }
            means[i] = sum / per;
        }
        return (means, stepS * per);
    }

    // A track of coarse steps, each standing for the middle of its samples, at every sample.
    private static double[] Finer(double[] track, int length)
    {
        var per = length / track.Length;
        if (per <= 1)
        {
            return track;
        }
        var fine = new double[length];
        for (var i = 0; i < length; i++)
        {
            var at = (i + 0.5) / per - 0.5;
            var k = Math.Clamp((int)Math.Floor(at), 0, track.Length - 2);
            fine[i] = track[k] + (at - k) * (track[k + 1] - track[k]);
        }
        return fine;
    }

    // Current at standstill over the settled mean: a little above the inrush peak; else what starters usually have.
    private static double Stall(CrankingPart part, ReadOnlySpan<double> amps)
    {
        double mean = 0;
        foreach (var a in amps)
        {
            mean += a / amps.Length;
        }
        if (part.ZeroKnown)
        {
            return part.InrushA is { } inrush && inrush > 2 * mean ? 1.13 * inrush - mean : 3.4 * mean;
        }
        // Without a zero the clamp is taken to have been zeroed, if that is possible at all.
        var ripple = Smoothing.Quantile(amps, 0.98) - Smoothing.Quantile(amps, 0.02);
        return mean > 0.5 * ripple ? 3.7 * mean : 4.5 * ripple;
    }
}
