using Zandrik.Core.Compression;
using Zandrik.Core.Conditions;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Core.Diagnosis;

// The state of each cylinder, which describes its readings, and of the engine.
public sealed partial class EngineDiagnosis
{
    private CylinderState StateOf(CylinderEvidence c, int index)
    {
        var dry = job.Dry?.Cylinders[c.Cylinder - 1] is { State: not CylinderState.Untested, InQuestion: false } read ? read : null;
        if (dry is null && c.Relative is null && c.Leak?.LnRatio is null && c.LnIdle is null && c.LnSnap is null)
        {
            return CylinderState.Untested;
        }
        // By the limit that the job is judged by, as the starter current itself is.
        var current = c.Relative is not { } ran ? CylinderState.Sound : RelativeAnalysis.Verdict(ran.Percent, ran.ErrorPercent, CaptureQuestion.LimitOf(job.Record.JudgeBy)) switch
        {
            RelativeVerdict.Dead => CylinderState.Dead,
            RelativeVerdict.Low => CylinderState.Low,
            RelativeVerdict.Borderline => CylinderState.Watch,
            _ => CylinderState.Sound,
        };
        var state = dry?.State ?? current;
        if (posterior.Of(index, Fault.Carbon) > 0.5 && state is CylinderState.Sound or CylinderState.Watch)
        {
            state = CylinderState.High;
        }
        if (state is CylinderState.Sound && dry is not null && current != CylinderState.Sound)
        {
            state = CylinderState.Watch;
        }
        var sound = posterior.Of(index, Fault.Sound);
        CylinderState Worse(CylinderState than) => state is CylinderState.Dead or CylinderState.Low || (state == than) ? state : than;
        var leak = job.LeakDown?.Cylinders[c.Cylinder - 1] is { Counts: true } counted ? counted : null;
        if (leak is not null)
        {
            state = leak.State == LeakState.Bad ? Worse(sound < 0.5 ? CylinderState.Low : CylinderState.Watch)
                : (leak.State == LeakState.Watch && sound < 0.9) || leak.StandsOut ? Worse(CylinderState.Watch) : state;
        }
        if (state == CylinderState.Sound && (sound < 0.8 || posterior.Of(index, Fault.IntakeNotOpening) + posterior.Of(index, Fault.ExhaustNotOpening) > 0.8))
        {
            state = CylinderState.Watch;
        }
        var odd = job.Dry?.Validity.FirstOrDefault(v => v.Code == ValidityCode.DoesNotRepeat)?.Cylinders.Contains(c.Cylinder) == true;
        return odd && leak is null && state is CylinderState.Low or CylinderState.Dead ? CylinderState.Watch : state;
    }

    /// <summary>True where fewer cylinders were measured than say anything of an engine: half of them, and two of those that it has.</summary>
    internal bool IsTooLittleMeasured => Cylinders.Count(c => c.State != CylinderState.Untested) < Math.Min(Cylinders.Count, Math.Max(2, (Cylinders.Count + 1) / 2));

    /// <summary>True where signs of coolant going somewhere are not answered yet, with nothing known of them by themselves.</summary>
    internal bool CoolantIsOpen => Cause(Fault.GasketCoolant) + Cause(Fault.CoolantPathElsewhere) > 0.2;

    private EngineState Whole()
    {
        if (!job.AnythingMeasured && Cause(Fault.GasketCoolant) <= 0.6 && Cause(Fault.CoolantPathElsewhere) <= 0.6)
        {
            return EngineState.Inconclusive;
        }
        bool IsOwn(CylinderDiagnosis c) => c.State is CylinderState.Low or CylinderState.Dead && c.Of(Fault.Sound) + c.Of(Fault.TestError) < 0.5;
        var own = Cylinders.Where(IsOwn).ToList();
        if (Cause(Fault.GasketCoolant) > (job.Gas == CombustionGasResult.Positive ? 0.5 : 0.6) || Cause(Fault.CoolantPathElsewhere) > 0.6)
        {
            return EngineState.Faulty;
        }
        if (IsTooLittleMeasured && !own.Exists(c => job.Cylinders[c.Cylinder - 1].Leak?.LnRatio is not null))
        {
            return EngineState.Inconclusive;
        }
        if (Cylinders.Any(c => c.Leading is { Fault: not (Fault.Sound or Fault.TestError or Fault.Carbon), Probability: > 0.8 }))
        {
            return EngineState.Faulty;
        }
        if (Cause(Fault.TestError) > 0.5 && own.Count == 0 && !job.LevelIsGood)
        {
            return EngineState.Inconclusive;
        }
        var n = Cylinders.Count;
        var dry = job.Cylinders.Count(c => c.LnDry is not null);
        bool All(Func<CylinderEvidence, bool> has) => job.Cylinders.All(has);
        var throughOther = All(c => c.Relative is not null) || All(c => c.Leak?.LnRatio is not null) || All(c => c.LnIdle is not null || c.LnSnap is not null);
        if (2 * dry < n && !throughOther && !own.Exists(c => job.Cylinders[c.Cylinder - 1].Leak?.LnRatio is not null))
        {
            return EngineState.Inconclusive;
        }
        if (job.IsTooLowToStart)
        {
            return EngineState.Faulty;
        }
        var minimumFailed = job.Dry?.Cylinders.Any(c => c.UnderMinimum) == true;
        var anyLow = Cylinders.Any(c => c.State is CylinderState.Low or CylinderState.Dead);
        var leading = Suspects[0];
        if (own.Count > 0 || (leading.Fault == Fault.ExhaustRestriction && leading.Probability > 0.6) || (leading.Fault == Fault.CamTiming && Cause(Fault.CamTiming) > 0.75))
        {
            return EngineState.Faulty;
        }
        if (leading.Fault == Fault.GeneralWear && leading.Probability > 0.75)
        {
            return !anyLow && leading.Probability < 0.8 ? EngineState.Watch : EngineState.Faulty;
        }
        if (leading is { Fault: Fault.Carbon, Probability: > 0.6 } or { Fault: Fault.OilControl, Probability: > 0.5 })
        {
            return EngineState.Watch;
        }
        var doubtful = Validity.Any(v => v.Code is ValidityCode.DoesNotRepeat || (v.Code == ValidityCode.FallsWithOrder && v.Severity != Severity.Note));
        if (doubtful || Cylinders.Any(c => c.Of(Fault.TestError) > 0.4))
        {
            return EngineState.Inconclusive;
        }
        if (Cause(Fault.GeneralWear) + Cause(Fault.CamTiming) + Cause(Fault.TestError) > 0.5 && !job.LevelIsGood)
        {
            return minimumFailed && Cause(Fault.TestError) < 0.3 ? EngineState.Faulty : EngineState.Watch;
        }
        if (anyLow)
        {
            // What reads low, is likely sound all the same and is not explained by a cause of the engine accuses nobody.
            var low = Cylinders.Where(c => c.State is CylinderState.Low or CylinderState.Dead).ToList();
            return low.Exists(c => c.Of(Fault.Sound) <= FaultWords.Said || OfTheEngine(c.Cylinder, c.State) is not null) ? EngineState.Faulty
                : low.TrueForAll(c => IsReadOtherwise(c.Cylinder)) ? EngineState.Watch : EngineState.Inconclusive;
        }
        return CoolantIsOpen || Cylinders.Any(c => c.State is CylinderState.Watch or CylinderState.High) ? EngineState.Watch
            : EngineState.Sound;
    }
}
