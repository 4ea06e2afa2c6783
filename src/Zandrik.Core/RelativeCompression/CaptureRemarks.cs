using System.Globalization;

namespace Zandrik.Core.RelativeCompression;

/// <summary>What is said of a capture and of how it was taken, and why one is refused: each with what to do in the next.</summary>
internal static class CaptureRemarks
{
    /// <summary>Nothing cranks.</summary>
    public static CaptureRemark NoCranking => new(CaptureCode.NoCranking,
        "The starter does not crank in this capture: the current hardly moves, or moves without rhythm. Check that the clamp is round one battery cable only, that its range and channel are right, and capture again.");

    /// <summary>The trace is not that of the engine it is said to be.</summary>
    public static CaptureRemark NoSuchEngine(int cylinders) => new(CaptureCode.PoorFit,
        Text($"This is not how an engine of {cylinders} cylinders in this firing order draws current, so nothing can be said of its cylinders. Check the number of cylinders and the firing order, that the clamp is round the starter's cable only and nothing else draws on it, and capture again, longer."));

    /// <summary>Not two whole cycles settled.</summary>
    public static CaptureRemark TooShort(CrankingPart part)
    {
        if (part.EngineStarted)
        {
            return new(CaptureCode.EngineStarted, "The engine fired before two whole cycles were settled. Disable fuel or ignition as the maker says, check that it cannot start, and capture again.");
        }
        var seconds = (part.To - part.From) * part.StepS;
        return new(CaptureCode.TooShort, Text($"Only {Math.Max(0, seconds):0.0} s of settled cranking: less than {CycleSearch.FewestCycles} whole cycles (four turns of the crank). Hold the starter for four to five seconds and capture again."));
    }

    /// <summary>What the clamp and the instrument did.</summary>
    public static List<CaptureRemark> Clamp(StarterTrace trace, CrankingPart part, CaptureQuestion question)
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

    /// <summary>What the sync channel said; answers whether it names the cylinders.</summary>
    public static bool Sync(CaptureQuestion question, StarterTrace trace, CycleFit found, List<CaptureRemark> warnings)
    {
        if (question.Sync == SyncKind.None || !trace.HasSync)
        {
            warnings.Add(new(CaptureCode.NoSync, "Without a sync channel only the order of the humps is known, not which cylinder each is."));
            return false;
        }
        var sync = found.Sync!;
        if (sync.Ambiguous)
        {
            warnings.Add(new(CaptureCode.SyncAmbiguous, "The sparks of both strokes are alike: the sync cylinder is one of two, a turn apart. Use a signal that comes once a cycle, or disable one cylinder and see which hump goes."));
            return false;
        }
        if (sync.Contradicts)
        {
            warnings.Add(new(CaptureCode.SyncMissing, Text($"The sync events come evenly, but every {sync.Apart:0.00} cycles of an engine of {question.Cylinders} cylinders: check the number of cylinders and the firing order, or what the lead is on. No cylinder is called low.")));
            return false;
        }
        if (sync.Phase is null)
        {
            warnings.Add(new(CaptureCode.SyncMissing, sync.Found == 0
                ? "No events were found on the sync channel. Check the lead and its range; the humps are given without cylinders."
                : "The events on the sync channel do not keep step with the crank. Check the lead; the humps are given without cylinders."));
            return false;
        }
        if (sync.IsIrregular)
        {
            warnings.Add(new(CaptureCode.SyncIrregular, Text($"{sync.Agreeing} of {sync.Found} sync events agree, {sync.Expected} were expected; the others were left out.")));
        }
        return true;
    }

    /// <summary>Whether the crank turned steadily; the errors grow where it did not.</summary>
    public static void Steady(StarterTrace trace, CrankingPart part, CycleFit found, IReadOnlyList<SpeedPoint> speed, List<CaptureRemark> warnings, double[] errors)
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
            var volts = CaptureCourse.Battery(trace, part) is { } b ? Text($", the battery at {b.LowestV:0.0} V") : "";
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

    /// <summary>Whether the instrument saw enough.</summary>
    public static void Resolution(StarterTrace trace, CrankingPart part, CycleFit found, int n, List<CaptureRemark> warnings)
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

    /// <summary>Figures as they are written on every machine.</summary>
    public static string Text(FormattableString text) => text.ToString(CultureInfo.InvariantCulture);
}
