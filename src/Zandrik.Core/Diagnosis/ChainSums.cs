using System.Numerics.Tensors;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

internal sealed partial class Inference
{
    /// <summary>
    /// The chains of all banks at every level under every state of the engine: ln of their sums, with a leak to the coolant among the faults and without; and what each cylinder has of them. Sums are
    /// worked out once, and shared out only where they weigh anything.
    /// </summary>
    private sealed class ChainSums : IDisposable
    {
        private static readonly int Faults = FaultOdds.Local.Count;

        // What is kept of a cylinder at a level: likelihoods of its pairs of webs, then the sum of each fault of its own, then the scale that was taken off.
        private static readonly int Kept = BankChain.Pairs + Faults + 1;

        private readonly Inference of;
        private readonly BankChain[] banks;
        private readonly double[][][] other;
        private readonly int[] variants;
        private readonly Row plain = new(new(Fault.None), 1, 0, 1, 0);
        private readonly double[] gains;
        private readonly int levels;
        private readonly double[] sums;
        private readonly int[] places;
        private readonly int[] dryPlaces;
        private readonly RentedRows kept;
        private readonly RentedRows dry;

        public ChainSums(Inference of)
        {
            this.of = of;
            var job = of.job;
            banks = [.. job.Banks.Select(b => new BankChain(b.Length, of.webPrior))];
            variants = [.. job.Cylinders.Select(c => of.TellsApart(c) ? of.states.Count : 1)];
            other = [.. job.Cylinders.Select((c, i) => of.Other(c, variants[i]).Select(like => Weighted(like, of.odds[i])).ToArray())];
            gains = [.. of.states.Select((_, s) => Gain(s))];
            // Every level, and every level with a bank of its own shift.
            levels = of.levels.Length * (job.Banks.Count > 1 ? BankShifts.Length + 1 : 1);
            sums = new double[2 * banks.Length * of.states.Count * levels];
            Array.Fill(sums, double.NaN);
            places = new int[job.Cylinders.Count * of.states.Count * levels];
            Array.Fill(places, -1);
            dryPlaces = new int[job.Cylinders.Count * levels];
            Array.Fill(dryPlaces, -1);
            kept = new RentedRows(Kept, of.levels.Length * variants.Sum());
            dry = new RentedRows(of.nodes.Nodes.Length, of.levels.Length * job.Cylinders.Count);
        }

        public void Dispose()
        {
            kept.Dispose();
            dry.Dispose();
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

        /// <summary>ln of the most a row can come to at a level: no node of a cylinder gains more by a state of the engine than the one that gains most.</summary>
        public double AtMost(Row row, int level) => row.State == 0 ? double.PositiveInfinity : Total(plain, level, withCoolant: true) + gains[row.State];

        // ln of what a state of the engine gains at most, over all cylinders.
        private double Gain(int state)
        {
            Span<double> ratio = stackalloc double[of.nodes.Nodes.Length];
            double all = 0;
            for (var i = 0; i < other.Length; i++)
            {
                if (state < variants[i])
                {
                    TensorPrimitives.Divide(other[i][state], other[i][0], ratio);
                    all += Math.Log(TensorPrimitives.Max<double>(ratio));
                }
            }
            return all;
        }

        /// <summary>Adds to each answer of each cylinder what a term gives it: so much of the chain with a leak to the coolant, so much of the one without.</summary>
        public void ShareOut(int state, int? shifted, int shift, int level, double with, double without, double[][] masses)
        {
            Span<(double Whole, double Front, double Behind)> shares = stackalloc (double, double, double)[EngineRules.MostCylinders];
            Span<int> starts = stackalloc int[EngineRules.MostCylinders];
            Span<double> whole = stackalloc double[EngineRules.MostCylinders];
            var coolant = Posterior.IndexOf(Fault.GasketCoolant);
            for (var b = 0; b < banks.Length; b++)
            {
                var bank = of.job.Banks[b];
                var at = LevelOf(b, shifted, shift, level);
                foreach (var keepCoolant in (ReadOnlySpan<bool>)[true, false])
                {
                    var weight = keepCoolant ? with : without;
                    Place(bank, state, at, keepCoolant, starts, whole);
                    banks[b].Sum(kept.All, starts, whole);
                    banks[b].Shares(kept.All, starts, whole, shares);
                    for (var j = 0; j < bank.Length; j++)
                    {
                        var faults = kept.All.AsSpan(starts[j] + BankChain.Pairs, Faults);
                        double all = 1e-300;
                        for (var f = 0; f < Faults; f++)
                        {
                            all += keepCoolant || f != coolant ? faults[f] : 0;
                        }
                        var into = masses[bank[j]];
                        for (var f = 0; f < Faults; f++)
                        {
                            into[f] += keepCoolant || f != coolant ? weight * shares[j].Whole * faults[f] / all : 0;
                        }
                        into[Posterior.Front] += weight * shares[j].Front;
                        into[Posterior.Behind] += weight * shares[j].Behind;
                    }
                }
            }
        }

        private double[] Weighted(double[] like, double[] odds)
        {
            var nodes = of.nodes;
            for (var f = 0; f < Faults; f++)
            {
                for (var k = nodes.OfFault[f].From; k < nodes.OfFault[f].To; k++)
                {
                    like[k] *= nodes.Weight[k] * odds[f];
                }
            }
            for (var k = nodes.Local; k < like.Length; k++)
            {
                like[k] *= nodes.Weight[k];
            }
            return like;
        }

        // The level of a bank: the engine's, or that with a shift of its own.
        private int LevelOf(int bank, int? shifted, int shift, int level) => level + (bank == shifted ? shift * of.levels.Length : 0);

        private double Ln(int level) => of.levels[level % of.levels.Length] + (level < of.levels.Length ? 0 : BankShifts[level / of.levels.Length - 1]);

        private double SumOf(int b, int state, int level, bool withCoolant)
        {
            ref var found = ref sums[((b * of.states.Count + state) * levels + level) * 2 + (withCoolant ? 0 : 1)];
            if (double.IsNaN(found))
            {
                Span<int> starts = stackalloc int[EngineRules.MostCylinders];
                Span<double> whole = stackalloc double[EngineRules.MostCylinders];
                found = Place(of.job.Banks[b], state, level, withCoolant, starts, whole) + banks[b].Sum(kept.All, starts, whole);
            }
            return found;
        }

        // Where a bank's cylinders are kept, what each comes to with both webs whole, and ln of the scale that was taken off.
        private double Place(int[] bank, int state, int level, bool keepCoolant, Span<int> starts, Span<double> whole)
        {
            var coolant = BankChain.Pairs + Posterior.IndexOf(Fault.GasketCoolant);
            double scale = 0;
            for (var j = 0; j < bank.Length; j++)
            {
                var start = starts[j] = Cylinder(bank[j], Math.Min(state, variants[bank[j]] - 1), level);
                whole[j] = Math.Max(0, kept.All[start] - (keepCoolant ? 0 : kept.All[start + coolant]));
                scale += kept.All[start + Kept - 1];
            }
            return scale;
        }

        private int Cylinder(int index, int variant, int level)
        {
            ref var place = ref places[(index * of.states.Count + variant) * levels + level];
            if (place >= 0)
            {
                return place;
            }
            place = kept.Next();
            var nodes = of.nodes;
            var like = other[index][variant];
            var into = kept.All.AsSpan(place, Kept);
            var at = Dry(index, level);
            ReadOnlySpan<double> read = dry.All.AsSpan(at, like.Length);
            Span<double> both = stackalloc double[like.Length];
            TensorPrimitives.Multiply(like, read, both);
            double all = 0;
            for (var f = 0; f < Faults; f++)
            {
                all += into[BankChain.Pairs + f] = TensorPrimitives.Sum<double>(both[nodes.OfFault[f].From..nodes.OfFault[f].To]);
            }
            both[nodes.Local..].CopyTo(into);
            into[0] = all;
            var most = Math.Max(1e-300, TensorPrimitives.Max<double>(into[..BankChain.Pairs]));
            TensorPrimitives.Multiply(into[..(Kept - 1)], 1 / most, into[..(Kept - 1)]);
            into[Kept - 1] = Math.Log(most);
            return place;
        }

        // The dry reading of a cylinder at a level: the same under every state of the engine.
        private int Dry(int index, int level)
        {
            ref var place = ref dryPlaces[index * levels + level];
            if (place < 0)
            {
                place = dry.Next();
                var c = of.job.Cylinders[index];
                var like = dry.All.AsSpan(place, of.nodes.Nodes.Length);
                like.Fill(1);
                if (c.LnDry is { } ln && of.Has(EvidenceStage.Dry))
                {
                    of.job.Curves.Dry(c.DrySpread).Multiply(Math.Max(SeverityNodes.LowestDry, ln - Ln(level)), like);
                }
            }
            return place;
        }
    }

    // Rows of one length in a borrowed array that grows.
    private sealed class RentedRows(int length, int rows) : IDisposable
    {
        private int used;

        public double[] All { get; private set; } = System.Buffers.ArrayPool<double>.Shared.Rent(length * rows);

        /// <summary>Where the next row starts.</summary>
        public int Next()
        {
            if ((used + 1) * length > All.Length)
            {
                var more = System.Buffers.ArrayPool<double>.Shared.Rent(2 * All.Length);
                All.AsSpan().CopyTo(more);
                Dispose();
                All = more;
            }
            return used++ * length;
        }

        public void Dispose() => System.Buffers.ArrayPool<double>.Shared.Return(All);
    }
}
