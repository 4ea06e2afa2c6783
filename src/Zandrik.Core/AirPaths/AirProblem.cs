using Zandrik.Core.Diagnosis;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.AirPaths;

/// <summary>
/// The readings of a job as equations of leak areas. Unknown are, for the job, the sound level, how far the tester's restriction, the ear and the running figures are off; for each cylinder the logarithms
/// of what rings and each valve let by as in a sound one, a shift of its pressure that is no leak, and what is added at a place that is thought open; and the area of each web that is thought burnt. Every
/// reading gives its distance from what these predict, in standard deviations.
/// </summary>
internal sealed class AirProblem
{
    public const int Globals = 6, Level = 0, Tester = 1, Ear = 2, IdleOff = 3, SnapOff = 4, RelativeOff = 5;
    public const int Each = 9, Rings = 0, Intake = 1, Exhaust = 2, Shift = 3, MoreRings = 4, Crown = 5, MoreIntake = 6, MoreExhaust = 7, Coolant = 8;

    /// <summary>Distances that each cylinder gives: dry, relative, wet, loss, six places, idle, snap.</summary>
    public const int Distances = 12;

    // Seats as the model's engines have them; rings a tenth more, as old as most are.
    private const double SeatsShare = 0.035, RingsMm2 = 0.30;
    private static readonly double[] Middles = [0, 3.5, 11, 15];

    private readonly JobEvidence job;
    private readonly double oilLeft, soundGain;

    public AirProblem(JobEvidence job, EngineResponse response)
    {
        (this.job, Response) = (job, response);
        (oilLeft, soundGain) = (job.Nodes.OilLeft, job.Nodes.SoundGain);
        Webs = [.. CylinderLayout.Of(job.Engine).Banks.SelectMany(b => b.Zip(b.Skip(1))).Select(w => (w.First - 1, w.Second - 1))];
        Count = Globals + Each * job.Cylinders.Count + Webs.Count;
        (Mean, Spread, Start) = (new double[Count], new double[Count], new double[Count]);
        var leaks = job.Cylinders.Select(c => c.Leak).OfType<LeakEvidence>().ToList();
        Set(Level, job.ExpectedLn + job.Everywhere.Shift + (job.Slip?.Shift ?? 0), Math.Sqrt(job.ExpectedSpread * job.ExpectedSpread + job.Everywhere.Spread * job.Everywhere.Spread + Square(job.Slip?.Spread ?? 0.04)));
        Start[Level] = job.ReferenceLn ?? Mean[Level];
        Set(Tester, 0, job.LeakDown?.RestrictionAssumed == true ? 0.15 : 0.06);
        Set(Ear, leaks.Select(l => l.EarDb).DefaultIfEmpty(0).First(), leaks.Select(l => l.EarSpreadDb).DefaultIfEmpty(8).First());
        Set(IdleOff, 0, job.RunningAlone ? 0.25 : 0.12);
        Set(SnapOff, 0, job.RunningAlone ? 0.25 : 0.12);
        Set(RelativeOff, 0, 0.02);
        var usual = Math.Pow(response.Size, 0.45);
        for (var c = 0; c < job.Cylinders.Count; c++)
        {
            var at = At(c, 0);
            Set(at + Rings, Math.Log(RingsMm2 * usual), 0.36);
            Set(at + Intake, Math.Log(SeatsShare * usual), 0.45);
            Set(at + Exhaust, Math.Log(SeatsShare * usual), 0.45);
            Set(at + Shift, 0, 0.014);
            Set(at + MoreRings, Math.Log(1.6 * response.Size), 0.9);
            Set(at + Crown, Math.Log(11 * response.Size), 0.7);
            Set(at + MoreIntake, Math.Log(1.8 * response.Size), 1.1);
            Set(at + MoreExhaust, Math.Log(1.8 * response.Size), 1.1);
            Set(at + Coolant, Math.Log(0.55 * response.Size), 0.9);
        }
        for (var w = 0; w < Webs.Count; w++)
        {
            Set(Web(w), Math.Log(2.3 * response.Size), 0.9);
        }
    }

    /// <summary>What leaks make of readings.</summary>
    public EngineResponse Response { get; }

    /// <summary>Neighbours with a web between them, as indices.</summary>
    public IReadOnlyList<(int First, int Second)> Webs { get; }

    /// <summary>Cylinders.</summary>
    public int Cylinders => job.Cylinders.Count;

    /// <summary>Unknowns in all, thought of or not.</summary>
    public int Count { get; }

    /// <summary>What each unknown is before any reading, and its standard deviation.</summary>
    public double[] Mean { get; }

    /// <summary>See <see cref="Mean"/>.</summary>
    public double[] Spread { get; }

    /// <summary>Where the search begins.</summary>
    public double[] Start { get; }

    /// <summary>Spread of a shift of pressure that is no leak, where one is thought of.</summary>
    public const double ShiftOtherwise = 0.35;

    public static int At(int cylinder, int what) => Globals + Each * cylinder + what;

    public int Web(int web) => Globals + Each * Cylinders + web;

    /// <summary>The areas of a cylinder, mm²: rings, crown, intake, exhaust, coolant, front, behind.</summary>
    public void Areas(int c, double[] x, bool[] open, Span<double> into)
    {
        double Of(int at) => open[at] ? Math.Exp(x[at]) : 0;
        var first = At(c, 0);
        into[0] = Math.Exp(x[first + Rings]) + Of(first + MoreRings);
        into[1] = Of(first + Crown);
        into[2] = Math.Exp(x[first + Intake]) + Of(first + MoreIntake);
        into[3] = Math.Exp(x[first + Exhaust]) + Of(first + MoreExhaust);
        into[4] = Of(first + Coolant);
        into[5] = into[6] = 0;
        for (var w = 0; w < Webs.Count; w++)
        {
            if (open[Web(w)])
            {
                into[6] += Webs[w].First == c ? Math.Exp(x[Web(w)]) : 0;
                into[5] += Webs[w].Second == c ? Math.Exp(x[Web(w)]) : 0;
            }
        }
    }

    /// <summary>Distances of a cylinder's readings from what is predicted, in standard deviations; 0 where nothing was read.</summary>
    public void Residuals(int c, double[] x, bool[] open, Span<double> into)
    {
        into.Clear();
        var (e, first) = (job.Cylinders[c], At(c, 0));
        Span<double> areas = stackalloc double[7];
        Areas(c, x, open, areas);
        var more = areas[0] + areas[1] + areas[2] + areas[3] + areas[4] + areas[5] + areas[6] - Response.SoundMm2;
        var shift = x[first + Shift];
        var dry = Response.Dry(more) + shift;
        if (e.LnDry is { } lnDry)
        {
            into[0] = (lnDry - Math.Max(SeverityNodes.LowestDry, dry) - x[Level]) / With(Dryly(e), dry);
        }
        if (e.Relative is { } relative)
        {
            into[1] = (relative.Ln - Math.Max(SeverityNodes.LowestDry, dry) - x[RelativeOff]) / With(Relatively(relative), dry);
        }
        if (e.LnWet is { } lnWet)
        {
            var gain = WetGain(areas, more);
            into[2] = (lnWet - gain) / Wetly(e, gain);
        }
        if (e.Leak is { } leak)
        {
            var oiled = leak.Oiled ? oilLeft : 1;
            areas[0] *= StaticLeak.RingsStandingStill * oiled;
            double all = 0;
            foreach (var a in areas)
            {
                all += a;
            }
            if (leak.LnRatio is not null)
            {
                into[3] = (leak.LnRatioRead - Math.Log(all / leak.RestrictionMm2) - x[Tester]) / Leakly(leak);
            }
            var flow = 20 * Math.Log10(Math.Max(leak.FlowGramsPerS, 1e-6) / 0.1) + x[Ear];
            for (var p = 0; p < LeakEvidence.Places; p++)
            {
                if (leak.Heard[p] is { } strength)
                {
                    into[4 + p] = HeardOff(strength, p == LeakEvidence.Crankcase ? Crankcase(areas, all, flow) : Level20(areas[PlaceOf(p)] / all) + flow);
                }
            }
        }
        if (e.LnIdle is { } lnIdle)
        {
            var idle = Response.Idle(more);
            into[10] = (lnIdle - idle - shift - x[IdleOff]) / With(0.06, idle);
        }
        if (e.LnSnap is { } lnSnap)
        {
            var snap = Response.Snap(more);
            into[11] = (lnSnap - snap - shift - x[SnapOff]) / With(0.05, snap);
        }
    }

    /// <summary>Every reading of a cylinder beside what is predicted.</summary>
    public IEnumerable<FittedReading> Compared(int c, double[] x, bool[] open)
    {
        var e = job.Cylinders[c];
        var off = new double[Distances];
        Residuals(c, x, open, off);
        var areas = new double[7];
        Areas(c, x, open, areas);
        var more = areas.Sum() - Response.SoundMm2;
        var dry = Math.Max(SeverityNodes.LowestDry, Response.Dry(more) + x[At(c, Shift)]);
        FittedReading Beside(StepKind kind, FittedKind what, double measured, double expected, int place) => new(kind, c + 1, what, measured, expected, off[place]);
        if (e.LnDry is { } lnDry)
        {
            yield return Beside(StepKind.Dry, FittedKind.Dry, Math.Exp(lnDry), Math.Exp(x[Level] + dry), 0);
            if (e.LnWet is { } lnWet)
            {
                yield return Beside(StepKind.Wet, FittedKind.Wet, Math.Exp(lnDry + lnWet), Math.Exp(lnDry + WetGain(areas, more)), 2);
            }
        }
        if (e.Leak is { LnRatio: not null } leak)
        {
            var ratio = (areas.Sum() + areas[0] * (StaticLeak.RingsStandingStill * (leak.Oiled ? oilLeft : 1) - 1)) / leak.RestrictionMm2 * Math.Exp(x[Tester]);
            yield return Beside(StepKind.LeakDown, FittedKind.Loss, leak.LossPercent, Physics.LeakFlow.Percent(ratio, Physics.LeakFlow.StandardSupplyPa), 3);
        }
        if (e.Relative is { } relative)
        {
            yield return Beside(StepKind.Relative, FittedKind.Relative, 100 * Math.Exp(relative.Ln), 100 * Math.Exp(dry + x[RelativeOff]), 1);
        }
        if (e.LnIdle is { } idle)
        {
            yield return Beside(StepKind.Running, FittedKind.Idle, Math.Exp(idle - x[IdleOff]), Math.Exp(Response.Idle(more) + x[At(c, Shift)]), 10);
        }
        if (e.LnSnap is { } snap)
        {
            yield return Beside(StepKind.Running, FittedKind.Snap, Math.Exp(snap - x[SnapOff]), Math.Exp(Response.Snap(more) + x[At(c, Shift)]), 11);
        }
    }

    // What oil brings: it closes a share of what goes past the rings.
    private double WetGain(ReadOnlySpan<double> areas, double more) => soundGain + Math.Max(SeverityNodes.LowestDry, Response.Dry(more - (1 - oilLeft) * areas[0])) - Math.Max(SeverityNodes.LowestDry, Response.Dry(more))
        - SoundRingsGain;

    // The sound gain has in it what oil does to a sound cylinder's rings.
    private double SoundRingsGain => Response.Dry(-(1 - oilLeft) * RingsMm2 * Math.Pow(Response.Size, 0.45));

    // This engine is like its sheet, not of it: what a leak costs is off by so much of itself.
    private static double With(double spread, double lost) => Math.Sqrt(spread * spread + Square(ResponseOff * Math.Min(0, lost)));

    private const double ResponseOff = 0.08;

    private static double Dryly(CylinderEvidence e) => Math.Max(0.02, 0.85 * e.DrySpread);

    private static double Relatively(RelativeEvidence r) => Math.Max(0.03, r.ErrorPercent / 100);

    private static double Wetly(CylinderEvidence e, double gain) => 0.035 + 0.08 * Math.Clamp(gain, 0, 1) + (e.NearlyDead ? 0.1 : 0);

    // The needle, and what the model's areas are off by in any case.
    private static double Leakly(LeakEvidence leak) => Math.Sqrt(Math.Max(0, leak.Spread * leak.Spread - LikelihoodTable.LeakSpread * LikelihoodTable.LeakSpread) + 0.08 * 0.08);

    // In the order of a leak-down's places: intake, exhaust, crankcase, coolant, front, behind.
    private static int PlaceOf(int place) => place switch { LeakEvidence.Intake => 2, LeakEvidence.Exhaust => 3, LeakEvidence.Coolant => 4, LeakEvidence.Front => 5, _ => 6 };

    private static double Crankcase(ReadOnlySpan<double> areas, double all, double flow) => Math.Max(Level20(areas[0] / all) + StaticLeak.CrankcaseDb, Level20(areas[1] / all)) + flow;

    private static double Level20(double share) => 20 * Math.Log10(Math.Max(share, 1e-4));

    // An ear orders: nothing is under the least, strong over the last, between them the middle. What is far off is a blunder and pulls no harder.
    private static double HeardOff(int strength, double db)
    {
        var off = strength switch { 0 => Math.Max(0, db - Middles[0]), 3 => Math.Min(0, db - Middles[3]), _ => db - Middles[strength] } / (strength is 0 or 3 ? 5 : 5.5);
        return off / Math.Sqrt(1 + off * off / 20);
    }

    private void Set(int at, double mean, double spread) => (Mean[at], Spread[at], Start[at]) = (mean, spread, mean);

    private static double Square(double x) => x * x;
}
