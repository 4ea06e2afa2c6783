namespace Zandrik.Core.RelativeCompression;

/// <summary>
/// Relative compression from a capture of the starter's current, as docs/relative-compression.md describes it: the settled part, its cycle, its phase, the cylinders' shares of the load
/// torque, and how sure each is.
/// </summary>
public static class RelativeAnalysis
{
    // Beyond this the estimates were off by many points over the varied captures; most sound fits leave a tenth of it.
    private const double MaxResidual = 0.008;

    // Beyond this the figures say nothing of the cylinders.
    private const double NoSuchEngine = 0.03;

    // With two cylinders the crank turns so unevenly that less of a misfit goes with larger errors.
    private const double MaxResidualOfTwo = 0.0025;

    // Share of the ripple that does not repeat from cycle to cycle: beyond, the cycle found was seldom the right one over the varied captures.
    private const double MostScatter = 0.5;

    /// <summary>Points along the mean cycle.</summary>
    public const int CyclePoints = 240;

    /// <summary>Below this a cylinder has no compression, percent of the best: a rule of thumb.</summary>
    public const double DeadPercent = 40;

    /// <summary>Analyses a capture.</summary>
    /// <param name="trace">The capture, finished.</param>
    /// <param name="question">The engine; without <see cref="CaptureQuestion.Problem"/>.</param>
    /// <returns>What each slot pumps, or why nothing can be said.</returns>
    public static RelativeAnswer Of(StarterTrace trace, CaptureQuestion question)
    {
        var answer = new RelativeAnswer { SampleRateHz = trace.SampleRateHz, DurationS = trace.DurationS };
        if (CrankingPart.Find(trace, question.ScaleKnown) is not { } part)
        {
            return answer with { Refused = CaptureRemarks.NoCranking };
        }
        var warnings = CaptureRemarks.Clamp(trace, part, question);
        answer = answer with { ZeroA = part.OffsetA, Reversed = part.Reversed, InrushAmps = question.ScaleKnown && part.ZeroKnown ? part.InrushA : null };
        if (part.ClippedShare > 0.2)
        {
            return answer with { Refused = new(CaptureCode.Clipped, "The instrument's range cuts the humps off, so their height is unknown. Choose a larger range, or the clamp's coarser scale, and capture again."), Warnings = warnings };
        }
        var best = CycleSearch.Best(trace, part, question);
        if (best is null)
        {
            return answer with { Refused = CaptureRemarks.TooShort(part), Warnings = warnings };
        }
        // What hardly repeats from cycle to cycle is no cranking engine, whatever it is.
        return best.Orders.TrueScatter > MostScatter ? answer with { Refused = CaptureRemarks.NoCranking, Warnings = warnings }
            : best.Residual > NoSuchEngine ? answer with { Refused = CaptureRemarks.NoSuchEngine(question.Cylinders), Warnings = warnings }
            : Answer(answer, trace, part, question, best, warnings);
    }

    private static RelativeAnswer Answer(RelativeAnswer answer, StarterTrace trace, CrankingPart part, CaptureQuestion question, CycleFit found, List<CaptureRemark> warnings)
    {
        var n = question.Cylinders;
        var (cylinders, at) = question.Slots();
        var synchronised = CaptureRemarks.Sync(question, trace, found, warnings);
        var (relative, errors) = RelativeError.Of(found, n);
        var confidence = Confidence.High;
        // The residual is of the mean cycle: what the model of such an engine does not explain.
        if (found.Residual > (n == 2 ? MaxResidualOfTwo : MaxResidual) || found.NextTotal - found.Total < 0.015 || found.Orders.TrueScatter > 0.35)
        {
            confidence = Confidence.Low;
            warnings.Add(new(CaptureCode.PoorFit, found.NextTotal - found.Total < 0.015
                ? "Two cranking speeds explain this trace almost equally well. Capture again, longer, with a sync lead on cylinder 1."
                : "The trace is not like that of such an engine: check the number of cylinders and the firing order, the clamp, and that nothing else draws on this cable. No cylinder is called low."));
        }
        if (found.Sync?.Contradicts == true)
        {
            confidence = Confidence.Low;
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
        var speed = CaptureCourse.Speed(found.Theta, part);
        CaptureRemarks.Steady(trace, part, found, speed, warnings, errors);
        CaptureRemarks.Resolution(trace, part, found, n, warnings);
        if (found.Expected is { } expected && Math.Abs(found.Point.Phase - expected) > Math.Min(0.3 / n, 0.05) && synchronised)
        {
            warnings.Add(new(CaptureCode.PoorFit, CaptureRemarks.Text($"The compressions stand {Math.Abs(found.Point.Phase - expected) * 720:0}° away from where the sync event puts them: check the sync angle and the firing order.")));
        }
        var (mean, each) = CaptureCourse.Fold(part, found, part.Amps.AsSpan(part.From, found.Theta.Length));
        var humps = CaptureCourse.Humps(mean, found.Point.Phase - found.Theta[0], at, question.IsEven);
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
                warnings.Add(new(CaptureCode.SyncMissing, CaptureRemarks.Text($"No hump stands out as cylinder {open} without its plug: check that it was out, and nothing else.")));
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
            Battery = CaptureCourse.Battery(trace, part),
            Confidence = confidence,
            Unexplained = found.Residual,
            Warnings = warnings,
            MeanCycle = mean,
            EachCycle = each,
            Speed = speed,
            Marks = CaptureCourse.Marks(found, part, at),
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
    /// <returns>What is said; borderline where the error leaves it open.</returns>
    public static RelativeVerdict Verdict(double relative, double error, double limit, Confidence confidence = Confidence.High) => (relative, confidence) switch
    {
        _ when relative - error >= limit => RelativeVerdict.Even,
        (_, Confidence.Low) => RelativeVerdict.Borderline,
        _ when relative + error < DeadPercent => RelativeVerdict.Dead,
        _ when relative + 2 * error < limit => RelativeVerdict.Low,
        _ => RelativeVerdict.Borderline,
    };
}
