using Zandrik.Core.Conditions;
using Zandrik.Core.Engines;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

// What the leak-down says of each cylinder: how much is lost, and where it was heard.
public sealed partial class JobEvidence
{
    private void ReadLeakDown(List<ValidityNote> notes)
    {
        LeakDown = judged.LeakDown;
        if (LeakDown is null)
        {
            return;
        }
        notes.AddRange(LeakDown.Validity);
        var swept = CylinderVolume.SweptCc(Engine);
        var size = swept / 500 ?? (Diesel ? 1.25 : 1);
        var restriction = LeakFlow.RestrictionAreaMm2(LeakDown.RestrictionMm);
        var unnoted = LeakDown.Cylinders.Count(f => f is { Counts: true, Percent: not null }) >= 3 ? 0.4 * 0.15 : 0.15;
        foreach (var f in LeakDown.Cylinders)
        {
            var heard = Heard(f);
            if (!(f.Counts && f.Percent is not null) && heard.All(h => h is null))
            {
                continue;
            }
            var counts = f is { Counts: true, Percent: not null };
            // A zero that stands was confirmed: half a percent.
            var loss = counts ? Math.Clamp(f.Percent!.Value, 0.5, 99.6) : 20;
            var supply = f.Supply?.Pascals is { } s and > 0 ? s : LeakFlow.StandardSupplyPa;
            double Ln(double percent) => Math.Log(LeakFlow.AreaRatio(percent, supply));
            var needle = (Ln(Math.Min(99.6, loss + 2.5)) - Ln(Math.Max(0.4, loss - 2.5))) / 2;
            if (!counts && f.Doubt is not null)
            {
                continue;
            }
            // The needle, the size of cylinder and restriction that nobody noted, oil, and readings of one cylinder that lie apart. What nobody noted
            // is the same for every cylinder: read three and more, and the most of it is known from them.
            double With(double spread) => Math.Sqrt(spread * spread + (swept is null ? unnoted * unnoted : 0) + (LeakDown.RestrictionAssumed ? unnoted * unnoted : 0) + needle * needle + (f.AfterOil ? 0.2 * 0.2 : 0))
                + (f.Disagrees ? LikelihoodTable.LeakDisagreesSpread : 0);
            Cylinders[f.Cylinder - 1].Leak = new LeakEvidence
            {
                LnRatio = counts ? Ln(loss) : null, LnRatioRead = Ln(loss), LossPercent = loss, RestrictionMm2 = restriction, Size = size, Oiled = f.AfterOil, FlowGramsPerS = LeakEvidence.Flow(restriction, supply, loss), Heard = heard,
                LnRatioWithOil = counts && f.WithOilPercent is { } oiled ? Ln(Math.Clamp(oiled, 0.5, 99.6)) : null, Agreeing = counts && !f.Disagrees ? f.Taken.Count(t => t.Reading.NotUsed is null && t.AfterOil == f.AfterOil && t.Percent is >= 0 && Math.Abs(t.Percent.Value - f.Percent!.Value) <= LeakDownJudgement.MostApart) : 1,
                Spread = With(LikelihoodTable.LeakSpread), SpreadOfSound = With(LikelihoodTable.LeakSpreadOfSound), PumpsWell = PumpsWell(Cylinders[f.Cylinder - 1]),
            };
            if (f.Disagrees)
            {
                Cylinders[f.Cylinder - 1].TestErrorFactor *= 8;
            }
        }
        var off = Cylinders.Select(c => c.Leak).OfType<LeakEvidence>().Where(l => l.LnRatio is not null && !l.IsHeardElsewhere).Select(l => l.LnRatio!.Value - LikelihoodTable.SoundLnRatio(size, restriction)).Order().ToList();
        var ears = Cylinders.Select(c => c.Leak).OfType<LeakEvidence>().Where(l => l.LnRatio is not null && l.LossPercent < LikelihoodTable.HoldsPercent).Select(LikelihoodTable.EarOffDb).OfType<double>().Order().ToList();
        if (ears.Count > 0)
        {
            var ear = Math.Clamp(0.7 * Median(ears), -LikelihoodTable.EarMostDb, LikelihoodTable.EarMostDb);
            foreach (var c in Cylinders)
            {
                c.Leak = c.Leak is { } leak ? leak with { EarDb = ear, EarSpreadDb = LikelihoodTable.EarLearntDb } : null;
            }
        }
        LeakOffset = off.Count >= 3 ? Math.Clamp(0.6 * Median(off.Take((off.Count + 1) / 2)), -0.5, 0.35) : 0;
    }

    private double PumpsWell(CylinderEvidence c)
    {
        double Of(double ln) => Math.Clamp((0.11 - (1 - Math.Exp(ln))) / 0.06, 0, 1);
        var dry = c.LnDry is { } d && ReferenceLn is { } reference ? Of(d - reference) : (double?)null;
        var relative = c.Relative is { } r ? Of(r.Ln) : (double?)null;
        return dry is null && relative is null ? LikelihoodTable.PumpsUnknown : Math.Max(dry ?? 0, relative ?? 0);
    }

    // Places in the order of the table: what came round by the manifold is one strength less, another hole than a neighbour's counts as intake, one strength less.
    private int?[] Heard(LeakDownFinding f)
    {
        var heard = new int?[LeakEvidence.Places];
        if (!f.Air.Listened)
        {
            return heard;
        }
        var neighbours = Neighbours.Of(Engine, f.Cylinder);
        int Strength(ListeningPlace at, int? cylinder = null) => f.Air.At(at, cylinder) is { } s ? (int)s + 1 : 0;
        var round = f.Air.Places.Where(p => p.At == ListeningPlace.OtherPlugHole).Select(p => (int)p.Strength).DefaultIfEmpty(0).Max();
        int? Place(int strength) => strength > 0 || f.Air.ListenedEverywhere ? strength : null;
        heard[LeakEvidence.Intake] = Place(Math.Max(Strength(ListeningPlace.Intake), round));
        heard[LeakEvidence.Exhaust] = Place(Strength(ListeningPlace.Exhaust));
        heard[LeakEvidence.Crankcase] = Place(Strength(ListeningPlace.OilFiller));
        heard[LeakEvidence.Coolant] = Place(Strength(ListeningPlace.Coolant));
        int? Side(int? neighbour)
        {
            if (neighbour is not { } n)
            {
                return null;
            }
            var strength = Strength(ListeningPlace.AdjacentPlugHole, n);
            // A record without the neighbour's number means either.
            strength = Math.Max(strength, Strength(ListeningPlace.AdjacentPlugHole));
            return Place(f.Air.ThroughManifold.Contains(n) ? Math.Max(0, strength - 1) : strength);
        }
        heard[LeakEvidence.Front] = Side(neighbours.Before);
        heard[LeakEvidence.Behind] = Side(neighbours.Behind);
        return heard;
    }
}
