using System.Globalization;

namespace Zandrik.Core.RelativeCompression;

/// <summary>
/// Relative compression from a capture of the starter's current, as docs/relative-compression.md describes it: the settled part, its cycle, its phase, the cylinders' shares of the load
/// torque, and how sure each is.
/// </summary>
public static class RelativeAnalysis
{
    // Fewer settled cycles than this say nothing; more than this say nothing more.
    private const int FewestCycles = 2;
    private const int MostCycles = 60;

    // Torque of valve gear and pumps that goes round with the cycle looks like a difference and cannot be told from one, percent points.
    private const double Floor = 1.1;

    // How far a single height may be off, against the best: the reference is drawn that much from the highest to the better half.
    private const double Scatter = 0.012;

    // Beyond this the estimates were off by many points over the varied captures; most sound fits leave a tenth of it.
    private const double MostUnexplained = 0.008;

    // With two cylinders the crank turns so unevenly that less of a misfit goes with larger errors.
    private const double MostUnexplainedOfTwo = 0.0025;
    private const double ResidualError = 35;

    // How far one height is off for what the model misses, percent points for each root of the share.
    private const double HeightError = 20;

    /// <summary>Below this a cylinder hardly pumps, percent of the best: a rule of thumb.</summary>
    public const double DeadPercent = 40;

    /// <summary>Points along the mean cycle.</summary>
    public const int CyclePoints = 240;

    /// <summary>Analyses a capture.</summary>
    /// <param name="trace">The capture, finished.</param>
    /// <param name="question">The engine; without <see cref="CaptureQuestion.Problem"/>.</param>
    public static RelativeAnswer Of(StarterTrace trace, CaptureQuestion question)
    {
        var answer = new RelativeAnswer { SampleRateHz = trace.SampleRateHz, DurationS = trace.DurationS };
        if (CrankingPart.Find(trace, question.ScaleKnown) is not { } part)
        {
            return answer with { Refused = NoCranking };
        }
        var warnings = Clamp(trace, part, question);
        answer = answer with { ZeroA = part.OffsetA, Reversed = part.Reversed, InrushAmps = question.ScaleKnown && part.ZeroKnown ? part.InrushA : null };
        if (part.ClippedShare > 0.2)
        {
            return answer with { Refused = new(CaptureCode.Clipped, "The instrument's range cuts the humps off, so their height is unknown. Choose a larger range, or the clamp's coarser scale, and capture again."), Warnings = warnings };
        }
        var best = Best(trace, part, question);
        if (best is null)
        {
            return answer with { Refused = TooShort(part, question, warnings), Warnings = warnings };
        }
        // What hardly repeats from cycle to cycle is no cranking engine, whatever it is.
        return best.Orders.Scatter > 0.7 * (1 - 1.0 / best.Orders.Cycles.Count) ? answer with { Refused = NoCranking, Warnings = warnings } : Answer(answer, trace, part, question, best, warnings);
    }

    private static CaptureRemark NoCranking => new(CaptureCode.NoCranking,
        "The starter does not crank in this capture: the current hardly moves, or moves without rhythm. Check that the clamp is round one battery cable only, that its range and channel are right, and capture again.");

    private static CaptureRemark TooShort(CrankingPart part, CaptureQuestion question, List<CaptureRemark> warnings)
    {
        if (part.EngineStarted)
        {
            return new(CaptureCode.EngineStarted, "The engine fired before two whole cycles were settled. Disable fuel or ignition as the maker says, check that it cannot start, and capture again.");
        }
        var seconds = (part.To - part.From) * part.StepS;
        return new(CaptureCode.TooShort, Text($"Only {Math.Max(0, seconds):0.0} s of settled cranking: less than {FewestCycles} whole cycles (four turns of the crank). Hold the starter for four to five seconds and capture again."));
    }

    // The candidate cycle that leaves least unexplained.
    private static Found? Best(StarterTrace trace, CrankingPart part, CaptureQuestion question)
    {
        var amps = part.Amps.AsSpan(part.From, part.To - part.From);
        var (coarse, coarseS) = Coarse(amps, part.StepS);
        var candidates = CycleFrequency.Candidates(coarse, coarseS, question.Cylinders);
        var channel = trace.HasSync && question.Sync != SyncKind.None ? new SyncChannel(trace, part) : null;
        Found? best = null;
        double next = double.PositiveInfinity, tooShort = 0;
        // A wrong cycle is plain without asking which cylinder is weak; only what comes near is looked at closely.
        var quick = candidates.Select(c => (c.Hz, c.Score, Fit: Fit(channel, part, question, c.Hz, quick: true))).ToList();
        var least = quick.Min(q => q.Fit?.Total);
        var looked = new List<double>();
        foreach (var (hz, score, rough) in quick)
        {
            if ((part.To - part.From) * part.StepS * hz < FewestCycles)
            {
                tooShort = Math.Max(tooShort, score);
            }
            // Candidates that the phase brought to one and the same cycle are one.
            if (rough is null || looked.Exists(l => Math.Abs(l / rough.Orders.Hz - 1) < 0.01))
            {
                continue;
            }
            looked.Add(rough.Orders.Hz);
            if ((rough.Total > 2 * least + 0.1 ? rough : Fit(channel, part, question, hz, quick: false)) is not { } found)
            {
                continue;
            }
            found = found with { Total = found.Total + 0.02 * -Math.Log(score) + Implausible(found, question), Score = score };
            if (best is null || found.Total < best.Total)
            {
                if (best is not null && Math.Abs(best.Orders.Hz / found.Orders.Hz - 1) > 0.03)
                {
                    next = Math.Min(next, best.Total);
                }
                best = found;
            }
            else if (Math.Abs(found.Orders.Hz / best.Orders.Hz - 1) > 0.03)
            {
                next = Math.Min(next, found.Total);
            }
        }
        return best is null || best.Score < tooShort ? null : best with { NextTotal = next };
    }

    // An engine taken for one that turns twice as fast has every other cylinder dead, and a sync event in every other cycle.
    private static double Implausible(Found found, CaptureQuestion question)
    {
        var dead = found.Heights.Count(h => h < 0.08 * found.Heights.Max());
        var cost = 0.03 * Math.Max(0, dead - 1) + (dead >= 2 && 2 * dead >= found.Heights.Length ? 0.3 : 0);
        return cost + (question.Sync is SyncKind.EveryCycle or SyncKind.Injector && found.Sync is { } sync && sync.Agreeing < 0.7 * sync.Expected ? 0.1 : 0);
    }

    private sealed record Found(double[] Theta, CycleOrders Orders, CylinderFit Fit, FitPoint Point, double[] Heights, double Residual, double Cost, SyncEvents? Sync, double? Expected, double Total)
    {
        public double NextTotal { get; init; }

        public double Score { get; init; }

        public SyncKind Kind { get; init; }
    }

    private static Found? Fit(SyncChannel? channel, CrankingPart part, CaptureQuestion question, double hz, bool quick)
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
        if (orders < n || CycleOrders.Of(amps, tracks.Usual, tracks.More, stepS, orders) is not { } cycle || cycle.Cycles.Count < FewestCycles)
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
        Lazy<CompressionTemplate>[] template = [.. Enumerable.Range(0, question.Fuel == Records.Fuel.Diesel ? CompressionTemplate.WearsUnthrottled : CompressionTemplate.Wears).Select(w => new Lazy<CompressionTemplate>(() => new CompressionTemplate(question.Ratio, question.SweptM3, cycle.Hz * 120, orders, w)))];
        var fit = new CylinderFit(template, orders, at, cycle.Hz, expected, 0.02);
        var (point, heights, residual, cost) = fit.Search(cycle.Mean(), question.IsEven ? 1.0 / n : 1, quick);
        var total = 1 - (1 - cycle.Scatter) * (1 - residual);
        var theta = new double[length];
        for (var i = 0; i < length; i++)
        {
            theta[i] = tracks.Usual[i] + point.Uneven * (tracks.More[i] - tracks.Usual[i]);
        }
        return new Found(theta, cycle, fit, point, heights, residual, cost, sync, expected, total) { Kind = kind };
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

    private static RelativeAnswer Answer(RelativeAnswer answer, StarterTrace trace, CrankingPart part, CaptureQuestion question, Found found, List<CaptureRemark> warnings)
    {
        var n = question.Cylinders;
        var (cylinders, at) = question.Slots();
        var synchronised = SyncRemarks(question, trace, found, warnings);
        var (relative, errors) = Uncertain(found, n);
        var confidence = Confidence.High;
        // The residual is of the mean cycle: what the model of such an engine does not explain.
        if (found.Residual > (n == 2 ? MostUnexplainedOfTwo : MostUnexplained) || found.NextTotal - found.Total < 0.015 || found.Orders.Scatter > 0.5)
        {
            confidence = Confidence.Low;
            warnings.Add(new(CaptureCode.PoorFit, found.NextTotal - found.Total < 0.015
                ? "Two cranking speeds explain this trace almost equally well. Capture again, longer, with a sync lead on cylinder 1."
                : "The trace is not like that of such an engine: check the number of cylinders and the firing order, the clamp, and that nothing else draws on this cable. No cylinder is called low."));
        }
        if (part.ClippedShare > 0)
        {
            confidence = Confidence.Low;
            warnings.Add(new(CaptureCode.Clipped, "Some humps are cut off by the instrument's range. Choose a larger range and capture again."));
        }
        if (found.Orders.Cycles.Count < 4)
        {
            for (var i = 0; i < n; i++)
            {
                errors[i] *= 1.3;
            }
        }
        var speed = Speed(found.Theta, part);
        Steady(trace, part, found, speed, warnings, errors);
        Resolution(trace, part, found, n, warnings);
        if (found.Expected is { } expected && Math.Abs(found.Point.Phase - expected) > Math.Min(0.3 / n, 0.05) && synchronised)
        {
            warnings.Add(new(CaptureCode.PoorFit, Text($"The compressions stand {Math.Abs(found.Point.Phase - expected) * 720:0}° away from where the sync event puts them: check the sync angle and the firing order.")));
        }
        var (mean, each) = Fold(part, found, part.Amps.AsSpan(part.From, found.Theta.Length));
        var humps = Humps(mean, found.Point.Phase - found.Theta[0], at, question.IsEven);
        // Where humps stand apart, one that is plainly small and belongs to another cylinder than the one found weak speaks against the whole fit: before any verdict is given.
        if (n <= 4 && humps.Min() < 60 && relative.Min() > 75 && Array.IndexOf(relative, relative.Min()) != Array.IndexOf(humps, humps.Min()))
        {
            confidence = Confidence.Low;
        }
        var slots = new RelativeSlot[n];
        for (var i = 0; i < n; i++)
        {
            var where = found.Point.Phase + at[i] - found.Theta[0];
            slots[i] = new RelativeSlot(i + 1, synchronised ? cylinders[i] : null, relative[i], errors[i], Verdict(relative[i], errors[i], question.LimitPercent, confidence), humps[i], where - Math.Floor(where));
        }
        IReadOnlyList<RelativeSlot> named = slots;
        int? unplugged = null;
        if (!synchronised && question.Unplugged is { } open && confidence == Confidence.High)
        {
            if (SlotNames.ByUnplugged(slots, cylinders, open) is { } known)
            {
                (named, synchronised, unplugged) = (known, true, open);
                warnings.RemoveAll(w => w.Code is CaptureCode.NoSync or CaptureCode.SyncAmbiguous or CaptureCode.SyncMissing);
            }
            else
            {
                warnings.Add(new(CaptureCode.SyncMissing, Text($"No slot stands out as cylinder {open} without its plug: check that it was out, and nothing else.")));
            }
        }
        var zeroScale = question.ScaleKnown && part.ZeroKnown;
        double sum = 0;
        foreach (var a in part.Amps.AsSpan(part.From, found.Theta.Length))
        {
            sum += a / found.Theta.Length;
        }
        return answer with
        {
            CrankingRpm = found.Orders.Hz * 120,
            Cycles = found.Orders.Cycles.Count,
            Synchronised = synchronised,
            Sync = found.Kind,
            Slots = named,
            Unplugged = unplugged,
            MeanAmps = zeroScale ? sum : null,
            Battery = Battery(trace, part),
            Confidence = confidence,
            Unexplained = found.Residual,
            Warnings = warnings,
            MeanCycle = mean,
            EachCycle = each,
            Speed = speed,
            Marks = Marks(found, part, at),
            Events = [.. (found.Sync?.TimesS ?? []).Select(t => new TraceMark(t, 0))],
            Settled = (part.From * part.StepS, (part.From + found.Theta.Length) * part.StepS),
            Candidates = found.Sync?.Ambiguous == true && question.IsEven && n % 2 == 0 ? [cylinders, [.. cylinders.Skip(n / 2), .. cylinders.Take(n / 2)]] : [],
        };
    }

    /// <summary>What is said of a cylinder: low only when it is below the limit even with twice its standard error, and never with low confidence.</summary>
    /// <param name="relative">Percent of the best.</param>
    /// <param name="error">Standard error, percent points.</param>
    /// <param name="limit">The limit, percent of the best.</param>
    /// <param name="confidence">How sure the whole answer is.</param>
    public static RelativeVerdict Verdict(double relative, double error, double limit, Confidence confidence = Confidence.High) => (relative, confidence) switch
    {
        _ when relative - error >= limit => RelativeVerdict.Even,
        (_, Confidence.Low) => RelativeVerdict.Borderline,
        _ when relative + error < DeadPercent => RelativeVerdict.Dead,
        _ when relative + 2 * error < limit => RelativeVerdict.Low,
        _ => RelativeVerdict.Borderline,
    };

    // The estimate of the best point, and how much it moves among points that are nearly as good, and from cycle to cycle.
    private static (double[] Relative, double[] Errors) Uncertain(Found found, int n)
    {
        var mean = found.Orders.Mean();
        var weights = new List<double>();
        var estimates = new List<double[]>();
        var ways = Ways(found.Point, found.Heights);
        foreach (var tau in (ReadOnlySpan<double>)[0.7, 0.85, 1, 1.18, 1.4])
        {
            foreach (var way in ways)
            {
                foreach (var (shift, uneven) in (ReadOnlySpan<(double, double)>)[(-0.004, 0), (0, 0), (0.004, 0), (0, -0.4), (0, 0.4)])
                {
                    var point = way with { TauS = way.TauS * tau, Phase = way.Phase + shift, Uneven = way.Uneven + uneven };
                    var weight = Math.Exp(Math.Min(0, found.Cost - found.Fit.Cost(mean, point, 3)));
                    if (weight > 0.01)
                    {
                        weights.Add(weight);
                        estimates.Add(Relative(found.Fit.Solve(mean, point).Heights));
                    }
                }
            }
        }
        weights.Add(1);
        estimates.Add(Relative(found.Heights));
        var all = weights.Sum();
        var singles = found.Orders.Cycles.Select(c => Relative(found.Fit.Solve(c, found.Point, 2, found.Heights).Heights)).ToList();
        var misfit = n == 2 ? 3 * ResidualError : ResidualError;
        var (relative, errors, own) = (new double[n], new double[n], new double[n]);
        for (var i = 0; i < n; i++)
        {
            var middle = estimates[^1][i];
            var model = Math.Sqrt(Enumerable.Range(0, weights.Count).Sum(j => weights[j] * Math.Pow(estimates[j][i] - middle, 2)) / all);
            var values = singles.Select(s => s[i]).ToArray();
            var centre = Smoothing.Quantile(values, 0.5);
            var random = 1.48 * Smoothing.Quantile([.. values.Select(v => Math.Abs(v - centre))], 0.5) / Math.Sqrt(values.Length);
            relative[i] = middle;
            own[i] = Math.Sqrt(random * random + model * model + HeightError * HeightError * found.Residual);
            errors[i] = Math.Sqrt(random * random + model * model + Floor * Floor + misfit * misfit * found.Residual + Math.Pow(0.04 * (100 - middle), 2));
        }
        // Where single heights are less sure, the highest of them is less of a measure.
        return (Relative(found.Heights, Math.Max(Scatter, Smoothing.Quantile(own, 0.5) / 100)), errors);
    }

    // The losses as they were found, and each weak slot, and the two that look weakest among the others, with every other way of being weak.
    private static List<FitPoint> Ways(FitPoint found, double[] heights)
    {
        List<FitPoint> ways = [found];
        bool InGasket(int i) => found.Gasket is { } leak && (i == leak.First || i == leak.Second);
        var doubted = Enumerable.Range(0, heights.Length).Where(i => found.Losses[i] == PressureLoss.None && !InGasket(i)).OrderBy(i => heights[i]).Take(2).ToHashSet();
        for (var i = 0; i < heights.Length; i++)
        {
            foreach (var loss in Enum.GetValues<PressureLoss>())
            {
                if (loss != found.Losses[i] && (found.Losses[i] != PressureLoss.None || doubted.Contains(i)))
                {
                    var other = (PressureLoss[])found.Losses.Clone();
                    other[i] = loss;
                    ways.Add(found with { Losses = other });
                }
            }
        }
        if (found.Gasket is { } gasket)
        {
            ways.AddRange(Enumerable.Range(0, CompressionTemplate.GasketSizes).Where(s => Math.Abs(s - gasket.Size) == 1).Select(s => found with { Gasket = gasket with { Size = s } }));
        }
        return ways;
    }

    // Against the best cylinder: the highest, drawn towards the better half as far as one height scatters.
    private static double[] Relative(double[] heights, double scatter = Scatter)
    {
        var sorted = heights.OrderDescending().ToArray();
        var top = sorted.Take(Math.Max(1, (sorted.Length + 1) / 2)).ToArray();
        var mean = top.Average();
        var spread = top.Length > 1 ? top.Average(h => (h - mean) * (h - mean)) : 0;
        var noise = scatter * scatter * mean * mean;
        var reference = mean + (sorted[0] - mean) * (spread + noise > 0 ? spread / (spread + noise) : 1);
        return [.. heights.Select(h => reference > 0 ? Math.Min(100, 100 * h / reference) : 0)];
    }

    private static bool SyncRemarks(CaptureQuestion question, StarterTrace trace, Found found, List<CaptureRemark> warnings)
    {
        if (question.Sync == SyncKind.None || !trace.HasSync)
        {
            warnings.Add(new(CaptureCode.NoSync, "Without a sync channel only the order of the slots is known, not which cylinder each is."));
            return false;
        }
        var sync = found.Sync!;
        if (sync.Ambiguous)
        {
            warnings.Add(new(CaptureCode.SyncAmbiguous, "The sparks of both strokes are alike: the sync cylinder is one of two, a turn apart. Use a signal that comes once a cycle, or disable one cylinder and see which hump goes."));
            return false;
        }
        if (sync.Phase is null)
        {
            warnings.Add(new(CaptureCode.SyncMissing, sync.Found == 0
                ? "No events were found on the sync channel. Check the lead and its range; the slots are given without cylinders."
                : "The events on the sync channel do not keep step with the crank. Check the lead; the slots are given without cylinders."));
            return false;
        }
        if (sync.IsIrregular)
        {
            warnings.Add(new(CaptureCode.SyncIrregular, Text($"{sync.Agreeing} of {sync.Found} sync events agree, {sync.Expected} were expected; the others were left out.")));
        }
        return true;
    }

    private static List<CaptureRemark> Clamp(StarterTrace trace, CrankingPart part, CaptureQuestion question)
    {
        var warnings = new List<CaptureRemark>();
        var unit = question.ScaleKnown ? "A" : "units";
        if (part.Reversed)
        {
            warnings.Add(new(CaptureCode.ClampReversed, "The clamp sat the wrong way round; the current was turned over."));
        }
        var enough = question.ScaleKnown ? Math.Max(3, 0.02 * part.LevelA) : 0.02 * part.LevelA;
        if (part.ZeroKnown && Math.Abs(part.OffsetA) > enough)
        {
            warnings.Add(new(CaptureCode.ClampNotZeroed, Text($"The clamp was {Math.Abs(part.OffsetA):0.#} {unit} off zero; corrected. Zero it before the next capture.")));
        }
        else if (part.ZeroKnown && Math.Abs(part.DriftA) > enough)
        {
            warnings.Add(new(CaptureCode.ClampNotZeroed, Text($"The clamp's zero moved by {Math.Abs(part.DriftA):0.#} {unit} during the capture; corrected.")));
        }
        if (part.Bursts > 1)
        {
            warnings.Add(new(CaptureCode.MultipleBursts, Text($"The starter was engaged {part.Bursts} times; number {part.Used}, the longest, is used.")));
        }
        if (part.EngineStarted)
        {
            warnings.Add(new(CaptureCode.EngineStarted, "The engine fired and ran away from the starter; only what came before is used. Disable it as the maker says before the next capture."));
        }
        if (part.InrushClipped)
        {
            warnings.Add(new(CaptureCode.Clipped, "The inrush is beyond the instrument's range; the humps are not."));
        }
        if (trace.Bridged > 0)
        {
            warnings.Add(new(CaptureCode.BadRows, Text($"{trace.Bridged} of {trace.Samples} samples were missing or no number and were bridged.")));
        }
        return warnings;
    }

    private static void Steady(StarterTrace trace, CrankingPart part, Found found, IReadOnlyList<SpeedPoint> speed, List<CaptureRemark> warnings, double[] errors)
    {
        if (speed.Count < 2)
        {
            return;
        }
        var (first, last) = (speed[0].Rpm, speed[^1].Rpm);
        var range = speed.Max(s => s.Rpm) - speed.Min(s => s.Rpm);
        var mean = speed.Average(s => s.Rpm);
        var falls = first - last > 0.06 * mean && first - last > 0.6 * range;
        if (falls)
        {
            var volts = Battery(trace, part) is { } b ? Text($", the battery at {b.LowestV:0.0} V") : "";
            warnings.Add(new(CaptureCode.BatterySag, Text($"Cranking slowed from {first:0} to {last:0} rpm{volts}: charge the battery, or put a charger on, before testing on.")));
        }
        else if (range > 0.12 * mean || found.Orders.Scatter > 0.25)
        {
            warnings.Add(new(CaptureCode.UnsteadyCranking, range > 0.12 * mean
                ? Text($"Cranking speed varied between {speed.Min(s => s.Rpm):0} and {speed.Max(s => s.Rpm):0} rpm; the figures are less sure.")
                : "The cycles differ among themselves; the figures are less sure."));
            for (var i = 0; i < errors.Length; i++)
            {
                errors[i] *= 1.3;
            }
        }
    }

    private static void Resolution(StarterTrace trace, CrankingPart part, Found found, int n, List<CaptureRemark> warnings)
    {
        var perSlot = trace.SampleRateHz / (found.Orders.Hz * n);
        if (perSlot < 12)
        {
            warnings.Add(new(CaptureCode.LowSampleRate, Text($"Only {perSlot:0} samples for each compression. Sample at {found.Orders.Hz * n * 50:0} a second or more.")));
        }
        var swing = 2.8 * Math.Sqrt(found.Orders.Variance);
        if (trace.SmallestStep > 0 && swing / trace.SmallestStep < 12)
        {
            warnings.Add(new(CaptureCode.LowResolution, Text($"The instrument's steps are {trace.SmallestStep:0.#} A, the humps only {swing / trace.SmallestStep:0} of them. Choose a smaller range.")));
        }
    }

    private static List<SpeedPoint> Speed(double[] theta, CrankingPart part)
    {
        var speed = new List<SpeedPoint>();
        var from = 0;
        for (var c = 0.0; theta[0] + c + 1 <= theta[^1]; c += 0.5)
        {
            while (theta[from] < theta[0] + c)
            {
                from++;
            }
            var to = from;
            while (to < theta.Length - 1 && theta[to] < theta[0] + c + 1)
            {
                to++;
            }
            speed.Add(new SpeedPoint((part.From + (from + to) / 2.0) * part.StepS, 120 * (theta[to] - theta[from]) / ((to - from) * part.StepS)));
        }
        return speed;
    }

    private static BatterySag? Battery(StarterTrace trace, CrankingPart part)
    {
        if (trace.Battery.Length == 0)
        {
            return null;
        }
        var each = part.BlocksEach;
        var engaged = trace.Battery[(part.Engaged * each)..Math.Min(trace.Battery.Length, part.To * each)];
        var settled = trace.Battery[(part.From * each)..Math.Min(trace.Battery.Length, part.To * each)];
        double? rest = part.Engaged * part.StepS > 0.05 ? Smoothing.Quantile(ToDoubles(trace.Battery[..(part.Engaged * each / 2)]), 0.5) : null;
        double sum = 0;
        foreach (var v in settled)
        {
            sum += v / settled.Length;
        }
        return new BatterySag(rest, Smoothing.Quantile(ToDoubles(engaged), 0.002), sum);
    }

    private static double[] ToDoubles(ReadOnlySpan<float> values)
    {
        var doubles = new double[values.Length];
        for (var i = 0; i < doubles.Length; i++)
        {
            doubles[i] = values[i];
        }
        return doubles;
    }

    private static List<TraceMark> Marks(Found found, CrankingPart part, double[] at)
    {
        var marks = new List<TraceMark>();
        var theta = found.Theta;
        for (var i = 0; i < at.Length; i++)
        {
            var first = found.Point.Phase + at[i];
            first -= Math.Floor(first - theta[0]);
            var j = 0;
            for (var where = first; where < theta[^1]; where++)
            {
                while (theta[j + 1] < where)
                {
                    j++;
                }
                var share = (where - theta[j]) / (theta[j + 1] - theta[j]);
                marks.Add(new TraceMark((part.From + j + share) * part.StepS, i + 1));
            }
        }
        marks.Sort((a, b) => a.TimeS.CompareTo(b.TimeS));
        return marks;
    }

    // The mean cycle by middle values, and the single ones, over even angles.
    private static (float[] Mean, IReadOnlyList<IReadOnlyList<float>> Each) Fold(CrankingPart part, Found found, ReadOnlySpan<double> amps)
    {
        var theta = found.Theta;
        var level = Smoothing.CycleMean(amps, theta);
        var count = (int)Math.Floor(theta[^1] - theta[0]);
        var rows = new float[count][];
        var j = 0;
        for (var c = 0; c < count; c++)
        {
            rows[c] = new float[CyclePoints];
            for (var b = 0; b < CyclePoints; b++)
            {
                var where = theta[0] + c + (b + 0.5) / CyclePoints;
                while (theta[j + 1] < where)
                {
                    j++;
                }
                var share = (where - theta[j]) / (theta[j + 1] - theta[j]);
                rows[c][b] = (float)(amps[j] - level[j] + share * (amps[j + 1] - level[j + 1] - amps[j] + level[j]));
            }
        }
        var mean = new float[CyclePoints];
        for (var b = 0; b < CyclePoints; b++)
        {
            mean[b] = (float)Smoothing.Quantile([.. rows.Select(r => (double)r[b])], 0.5);
        }
        return (mean, rows);
    }

    // Plain hump heights: the highest about each top dead centre over the lowest on both sides.
    private static double[] Humps(float[] mean, double phase, double[] at, bool even)
    {
        var n = at.Length;
        var heights = new double[n];
        for (var i = 0; i < n; i++)
        {
            var gap = even ? 1.0 / n : Math.Min(Gap(at[(i + n - 1) % n], at[i]), Gap(at[i], at[(i + 1) % n]));
            float Extreme(double from, double to, bool highest)
            {
                var value = highest ? float.MinValue : float.MaxValue;
                for (var x = from; x <= to; x += 1.0 / CyclePoints)
                {
                    var where = phase + at[i] + x;
                    var b = (int)((where - Math.Floor(where)) * CyclePoints) % CyclePoints;
                    value = highest ? Math.Max(value, mean[b]) : Math.Min(value, mean[b]);
                }
                return value;
            }
            heights[i] = Extreme(-0.4 * gap, 0.5 * gap, true) - (Extreme(-gap, 0, false) + Extreme(0, gap, false)) / 2;
        }
        var top = heights.Max();
        return [.. heights.Select(h => top > 0 ? 100 * h / top : 0)];
    }

    private static double Gap(double from, double to) => to > from ? to - from : to - from + 1;

    private static string Text(FormattableString text) => text.ToString(CultureInfo.InvariantCulture);
}
