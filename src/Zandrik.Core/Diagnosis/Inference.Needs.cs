using System.Numerics.Tensors;
using Zandrik.Core.Repairs;

namespace Zandrik.Core.Diagnosis;

// From the same sum: which repairs are needed.
internal sealed partial class Inference
{
    // Terms that together weigh less than this of the whole are not shared out over sets of repairs, which costs more; nor is one that by itself weighs less than that.
    private const double NegligibleNeeds = 2e-3, NegligibleNeed = 1e-6;

    // A set of repairs that is needed more seldom is left out: all of them together are needed on no engine in a million.
    private const double NegligibleSet = 1e-10;

    /// <summary>What causes need at a place of the sum: so much of the chain with a leak to the coolant among the faults of a cylinder, so much of the one without.</summary>
    private readonly record struct NeedWeight(int Needs, double With, double Without);

    /// <summary>A set of repairs together with each answer of each cylinder, bank after bank.</summary>
    private readonly record struct SetAnswers(int Needs, double[] Masses);

    // Where on the sum: a state of the engine, a level, and a bank that is shifted alone.
    private readonly record struct Place(int State, int? Shifted, int Shift, int Level);

    // The heaviest places of the sum, with a leak to the coolant among the faults of a cylinder or without, and what causes there need; until next to nothing is left: what is left differs from them by little
    // and weighs less.
    private List<(Place At, bool WithCoolant, List<NeedWeight> Needs)> Places(ChainSums sums)
    {
        var (coolant, elsewhere) = CoolantOdds();
        var (terms, highest) = Terms(sums);
        var places = new Dictionary<Place, List<NeedWeight>>();
        foreach (var (r, level, law) in terms)
        {
            var row = rows[r];
            var with = Math.Exp(law + sums.Total(row, level, withCoolant: true) - highest);
            if (with < NegligibleNeed)
            {
                continue;
            }
            var without = Math.Min(with, Math.Exp(law + sums.Total(row, level, withCoolant: false) - highest));
            var at = new Place(row.State, row.Bank, row.BankShift, level);
            if (!places.TryGetValue(at, out var of))
            {
                places[at] = of = [];
            }
            var needs = RepairOdds.OfCause(row.Cause.Fault);
            void Add(RepairNeeds more, double w, double wo)
            {
                var bits = (needs | more).Bits;
                var known = of.FindIndex(n => n.Needs == bits);
                if (known >= 0)
                {
                    of[known] = new(bits, of[known].With + w, of[known].Without + wo);
                }
                else
                {
                    of.Add(new(bits, w, wo));
                }
            }
            Add(RepairNeeds.None, coolant * with, without * (1 - coolant));
            Add(RepairNeeds.Cooling, 0, without * FaultOdds.CoolantElsewhere * elsewhere);
            for (var b = 0; b < Math.Min(job.Banks.Count, RepairNeeds.MostBanks); b++)
            {
                Add(RepairNeeds.Gasket(b), 0, without * FaultOdds.CoolantNotLocated * coolant / Math.Min(job.Banks.Count, RepairNeeds.MostBanks));
            }
        }
        var heaviest = places.SelectMany(p => (IEnumerable<(Place At, bool WithCoolant, List<NeedWeight> Needs, double Weight)>)[(p.Key, true, p.Value, p.Value.Sum(v => Math.Abs(v.With))), (p.Key, false, p.Value, p.Value.Sum(v => Math.Abs(v.Without)))])
            .OrderByDescending(p => p.Weight).ToList();
        var remains = heaviest.Sum(p => p.Weight);
        // Where coolant is likely the one is more than there is, and the other takes it off again: what both leave counts.
        var enough = NegligibleNeeds * places.Sum(p => p.Value.Sum(v => v.With + v.Without));
        return [.. heaviest.TakeWhile(p =>
        {
            var more = remains >= enough;
            remains -= p.Weight;
            return more;
        }).Select(p => (p.At, p.WithCoolant, p.Needs))];
    }

    // The sets of repairs: the terms of the sum, each shared out over the sets its chains can need. First how likely each is; then, for as many as are asked for, that together with each answer of each cylinder.
    private RepairOdds Needs(int detailed, RepairOdds? before)
    {
        var sums = Chains();
        var places = Places(sums);
        var byCause = new Dictionary<int, double[]>();
        foreach (var (at, withCoolant, needs) in places)
        {
            sums.AddSets(at, withCoolant, needs, byCause);
        }
        var masses = ChainSums.Sets(byCause);
        // What the difference of two sums leaves below nothing is rounding.
        var all = masses.Values.Sum(m => Math.Max(0, m)) + 1e-300;
        var believed = before is null ? 1 : 1 - Doubt;
        var odds = masses.ToDictionary(m => m.Key, m => Math.Max(0, m.Value) / all * believed);
        foreach (var (needs, p) in before?.Sets ?? [])
        {
            odds[needs.Bits] = odds.GetValueOrDefault(needs.Bits) + Doubt * p;
        }
        (RepairNeeds Needs, double P)[] sets = [.. odds.Where(o => o.Value > NegligibleSet).OrderByDescending(o => o.Value).Select(o => (new RepairNeeds(o.Key), o.Value))];
        var answers = sets.Take(detailed).Select(s => new SetAnswers(s.Needs.Bits, new double[job.Cylinders.Count * Posterior.Answers])).ToArray();
        var likely = sets.Take(detailed).ToDictionary(s => s.Needs.Bits, s => s.P);
        foreach (var (at, withCoolant, needs) in places)
        {
            sums.AddAnswers(at, withCoolant, needs, answers);
        }
        return new(sets, answers.ToDictionary(a => a.Needs, a =>
        {
            var of = sums.ByNumber(a.Masses);
            TensorPrimitives.Max(of, 0, of);
            TensorPrimitives.Multiply(of, believed / all, of);
            for (var i = 0; before is not null && i < job.Cylinders.Count; i++)
            {
                var to = of.AsSpan(i * Posterior.Answers, Posterior.Answers);
                TensorPrimitives.MultiplyAdd(before.With(new(a.Needs), i), Doubt, to, to);
            }
            // Rare ways to a set were left out here, and what is rounded: of a cylinder the answers share out what the set comes to.
            for (var i = 0; i < job.Cylinders.Count; i++)
            {
                var to = of.AsSpan(i * Posterior.Answers, Posterior.Answers);
                TensorPrimitives.Multiply(to, likely[a.Needs] / (TensorPrimitives.Sum<double>(to) + 1e-300), to);
            }
            return of;
        }), job.Cylinders.Count);
    }
}
