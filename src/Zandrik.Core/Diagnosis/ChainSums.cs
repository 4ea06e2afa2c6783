using System.Numerics.Tensors;
using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

internal sealed partial class Inference
{
    /// <summary>
    /// The chains of all banks at every level under every state of the engine: ln of their sums, with a leak to the coolant among the faults and without; and what each cylinder has of them. Sums are
    /// worked out once, and shared out only where they weigh anything.
    /// </summary>
    private sealed partial class ChainSums : IDisposable
    {
        private static readonly int Faults = FaultOdds.Local.Count;

        // What is kept of a cylinder at a level: likelihoods of its pairs of webs, then the sum of each fault of its own.
        private static readonly int Kept = BankChain.Pairs + Faults;

        private static readonly int Coolant = Posterior.IndexOf(Fault.GasketCoolant);

        private readonly Inference of;
        private readonly BankChain[] banks;
        private readonly int[] variants;
        private readonly int[] other;
        private readonly double[] gains;
        private readonly double[] sums;
        private readonly double[] most;
        private readonly int[] places;
        private readonly RentedRows kept;
        private readonly RentedRows weighted;
        private readonly int levels;

        // How many cylinders stand in the banks before each.
        private readonly int[] firsts;

        public ChainSums(Inference of)
        {
            this.of = of;
            var job = of.job;
            var all = of.states.Count;
            banks = [.. job.Banks.Select(b => new BankChain(b.Length, of.webPrior))];
            variants = [.. job.Cylinders.Select(c => of.TellsApart(c) ? all : 1)];
            levels = of.levels.Length * (job.Banks.Count > 1 ? NodeLikelihoods.BankShifts.Length + 1 : 1);
            kept = new RentedRows(Kept, of.levels.Length * variants.Sum());
            weighted = new RentedRows(of.nodes.Nodes.Length, variants.Sum());
            other = new int[job.Cylinders.Count * all];
            for (var i = 0; i < job.Cylinders.Count; i++)
            {
                for (var s = 0; s < variants[i]; s++)
                {
                    other[i * all + s] = weighted.Next();
                    of.Weigh(i, of.states[s], weighted.Row(other[i * all + s]));
                }
            }
            firsts = [.. job.Banks.Select((_, b) => job.Banks.Take(b).Sum(before => before.Length))];
            gains = Gains();
            // Every level, and every level with a bank of its own shift.
            sums = new double[2 * banks.Length * all * levels];
            Array.Fill(sums, double.NaN);
            most = new double[banks.Length * all];
            Array.Fill(most, double.NaN);
            places = new int[job.Cylinders.Count * all * levels];
            Array.Fill(places, -1);
        }

        public void Dispose()
        {
            kept.Dispose();
            weighted.Dispose();
        }

        /// <summary>ln of what all banks come to under a row at a level, with a leak to the coolant among the faults or without.</summary>
        public double Total(Row row, int level, bool withCoolant)
        {
            double all = 0;
            for (var b = 0; b < banks.Length; b++)
            {
                all += SumOf(b, row.State, LevelOf(b, row.Bank, row.BankShift, level), withCoolant);
            }
            return all;
        }

        /// <summary>
        /// ln of the most a row can come to at a level: no node of a cylinder gains more by a state of the engine than the one that gains most, and no bank fits better than if every node predicted its
        /// dry readings exactly.
        /// </summary>
        public double AtMost(Row row, int level)
        {
            if (row.State == 0 && row.Bank is null)
            {
                return double.PositiveInfinity;
            }
            double atAll = 0, here = gains[row.State];
            for (var b = 0; b < banks.Length; b++)
            {
                atAll += Most(b, row.State);
                here += b == row.Bank ? Most(b, 0) : SumOf(b, 0, level, withCoolant: true);
            }
            return Math.Min(atAll, here);
        }

        // ln of what each state of the engine gains at most, over all cylinders.
        private double[] Gains()
        {
            var found = new double[of.states.Count];
            Span<double> inverse = stackalloc double[of.nodes.Nodes.Length], ratio = stackalloc double[of.nodes.Nodes.Length];
            for (var i = 0; i < variants.Length; i++)
            {
                // Fillers weigh nothing: 0 / 0 is not asked for.
                TensorPrimitives.Add(Other(i, 0), 1e-300, inverse);
                TensorPrimitives.Divide(1, inverse, inverse);
                for (var s = 1; s < variants[i]; s++)
                {
                    TensorPrimitives.Multiply(Other(i, s), inverse, ratio);
                    found[s] += Math.Log(TensorPrimitives.Max<double>(ratio));
                }
            }
            return found;
        }

        private ReadOnlySpan<double> Other(int index, int variant) => weighted.Row(other[index * of.states.Count + variant]);

        /// <summary>Adds to each answer of each cylinder what a term gives it: so much of the chain with a leak to the coolant, so much of the one without.</summary>
        public void ShareOut(int state, int? shifted, int shift, int level, double with, double without, double[][] masses)
        {
            Span<(double Whole, double Front, double Behind)> shares = stackalloc (double, double, double)[EngineRules.MostCylinders];
            Span<int> starts = stackalloc int[EngineRules.MostCylinders];
            Span<double> whole = stackalloc double[EngineRules.MostCylinders];
            for (var b = 0; b < banks.Length; b++)
            {
                var bank = of.job.Banks[b];
                FindStarts(bank, state, LevelOf(b, shifted, shift, level), starts);
                foreach (var keepCoolant in (ReadOnlySpan<bool>)[true, false])
                {
                    var weight = keepCoolant ? with : without;
                    Whole(starts[..bank.Length], keepCoolant, whole);
                    banks[b].Sum(kept.All, starts, whole);
                    banks[b].Shares(kept.All, starts, whole, shares);
                    for (var j = 0; j < bank.Length; j++)
                    {
                        var into = masses[bank[j]];
                        var faults = kept.All.AsSpan(starts[j] + BankChain.Pairs, Faults);
                        var each = weight * shares[j].Whole / (whole[j] + 1e-300);
                        for (var f = 0; f < Faults; f++)
                        {
                            into[f] += keepCoolant || f != Coolant ? each * faults[f] : 0;
                        }
                        into[Posterior.Front] += weight * shares[j].Front;
                        into[Posterior.Behind] += weight * shares[j].Behind;
                    }
                }
            }
        }

        // The level of a bank: the engine's, or that with a shift of its own.
        private int LevelOf(int bank, int? shifted, int shift, int level) => level + (bank == shifted ? shift * of.levels.Length : 0);

        private double SumOf(int b, int state, int level, bool withCoolant)
        {
            ref var found = ref sums[((b * of.states.Count + state) * levels + level) * 2 + (withCoolant ? 0 : 1)];
            if (double.IsNaN(found))
            {
                Span<int> starts = stackalloc int[EngineRules.MostCylinders];
                FindStarts(of.job.Banks[b], state, level, starts);
                found = Sum(b, starts, withCoolant);
            }
            return found;
        }

        private double Sum(int b, ReadOnlySpan<int> starts, bool withCoolant)
        {
            Span<double> whole = stackalloc double[EngineRules.MostCylinders];
            Whole(starts[..of.job.Banks[b].Length], withCoolant, whole);
            return banks[b].Sum(kept.All, starts, whole);
        }

        // ln of the most a bank comes to at any level under a state of the engine.
        private double Most(int b, int state)
        {
            ref var found = ref most[b * of.states.Count + state];
            if (double.IsNaN(found))
            {
                var bank = of.job.Banks[b];
                Span<int> starts = stackalloc int[EngineRules.MostCylinders];
                for (var j = 0; j < bank.Length; j++)
                {
                    starts[j] = kept.Next();
                    Keep(Other(bank[j], Math.Min(state, variants[bank[j]] - 1)), of.Has(EvidenceStage.Dry) ? of.read.DryAtMost(bank[j]) : of.read[NodeLikelihoods.Unread], starts[j]);
                }
                found = Sum(b, starts, withCoolant: true);
            }
            return found;
        }

        // Where a bank's cylinders are kept.
        private void FindStarts(int[] bank, int state, int level, Span<int> starts)
        {
            for (var j = 0; j < bank.Length; j++)
            {
                starts[j] = Cylinder(bank[j], Math.Min(state, variants[bank[j]] - 1), level);
            }
        }

        // What each comes to with both webs whole.
        private void Whole(ReadOnlySpan<int> starts, bool keepCoolant, Span<double> whole)
        {
            for (var j = 0; j < starts.Length; j++)
            {
                whole[j] = Math.Max(0, kept.All[starts[j]] - (keepCoolant ? 0 : kept.All[starts[j] + BankChain.Pairs + Coolant]));
            }
        }

        private int Cylinder(int index, int variant, int level)
        {
            var read = of.Has(EvidenceStage.Dry) ? of.read.Dry(index, level) : NodeLikelihoods.Unread;
            // What was not read is the same at every level.
            ref var place = ref places[(index * of.states.Count + variant) * levels + (read == NodeLikelihoods.Unread ? 0 : level)];
            if (place < 0)
            {
                place = kept.Next();
                Keep(Other(index, variant), of.read[read], place);
            }
            return place;
        }

        private void Keep(ReadOnlySpan<double> like, ReadOnlySpan<double> read, int place)
        {
            var into = kept.Row(place);
            var nodes = of.nodes;
            double all = 0;
            for (var f = 0; f < Faults; f++)
            {
                var (from, to) = nodes.OfFault[f];
                all += into[BankChain.Pairs + f] = TensorPrimitives.Dot(like[from..to], read[from..to]);
            }
            TensorPrimitives.Multiply(like[nodes.Local..], read[nodes.Local..], into);
            into[0] = all;
        }
    }
}
