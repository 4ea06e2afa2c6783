using System.Numerics.Tensors;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;

namespace Zandrik.Core.Diagnosis;

internal sealed partial class Inference
{
    private sealed partial class ChainSums
    {
        // What a cylinder's own faults need: top end, gasket, bottom end, a run, deposits; by bit.
        private const int OwnSets = 32, OwnBits = 5, GasketBit = 2, RunBit = 8, DepositsBit = 16;

        // A need that all cylinders of a bank together have more seldom is not asked for; and sets more seldom are left out.
        private const double RareNeed = 2e-4, RareSet = 5e-5, RareTerm = 1e-6;

        // Before any reading everything is possible, and next to none of it is believed afterwards.
        private const double RareSetBefore = 2e-3;

        // Where the needs of banks begin in a set of repairs, and how many of each bank there are.
        private static readonly int FirstOfBanks = System.Numerics.BitOperations.TrailingZeroCount(RepairNeeds.TopEnd(0).Bits), OfBanks = 3;

        // By fault: what it needs, by bit; nothing is 0.
        private static readonly int[] OwnNeeds = [.. FaultOdds.Local.Select(f => RepairKinds.Of(f) switch { RepairKind.TopEnd => 1, RepairKind.Gasket => GasketBit, RepairKind.BottomEnd => 4, RepairKind.Run => RunBit, RepairKind.Deposits => DepositsBit, _ => 0 })];

        // Without a leak to the coolant, then with it; set after set. Of nothing static in the other file of this class: which of them is first is the compiler's.
        private static readonly double[] Masks = [.. Enumerable.Range(0, 2 * OwnSets).SelectMany(s => FaultOdds.Local.Select((fault, f) => (OwnNeeds[f] & ~(s % OwnSets)) == 0 && (s >= OwnSets || fault != Fault.GasketCoolant) ? 1.0 : 0))];

        // Of each bank: how likely each set of its own needs is, and that together with each answer of its cylinders.
        private double[]? own, ownAnswers;

        // All that cylinders can need together, as a number: a run, deposits, then the three of each bank.
        private int Unions => 4 << OfBanks * Math.Min(banks.Length, RepairNeeds.MostBanks);

        private static int UnionOf(int set, int bank) => (set >> 3) | (set & 7) << 2 + OfBanks * Math.Min(bank, RepairNeeds.MostBanks - 1);

        private static int BitsOf(int union) => (union & 3) | union >> 2 << FirstOfBanks;

        /// <summary>Adds to the mass of each set of repairs what a place gives it.</summary>
        /// <param name="at">The place.</param>
        /// <param name="withCoolant">Whether a leak to the coolant is among the faults of a cylinder.</param>
        /// <param name="weights">What causes need there.</param>
        /// <param name="masses">By the needs of the causes: each set of needs of the cylinders, by number; <see cref="Sets"/> puts both together.</param>
        public void AddSets(Place at, bool withCoolant, List<NeedWeight> weights, Dictionary<int, double[]> masses)
        {
            var cylinders = new double[Unions];
            foreach (var (union, mass, _) in Together(at, withCoolant, answers: false))
            {
                cylinders[union] += mass;
            }
            foreach (var w in weights)
            {
                if (!masses.TryGetValue(w.Needs, out var into))
                {
                    masses[w.Needs] = into = new double[cylinders.Length];
                }
                TensorPrimitives.MultiplyAdd(cylinders, withCoolant ? w.With : w.Without, into, into);
            }
        }

        /// <summary>The mass of each set of repairs: what causes need and what cylinders need are one set.</summary>
        /// <param name="masses">As <see cref="AddSets"/> has it.</param>
        public static Dictionary<int, double> Sets(Dictionary<int, double[]> masses)
        {
            var found = new Dictionary<int, double>();
            foreach (var (needs, of) in masses)
            {
                for (var u = 0; u < of.Length; u++)
                {
                    if (of[u] != 0)
                    {
                        System.Runtime.InteropServices.CollectionsMarshal.GetValueRefOrAddDefault(found, needs | BitsOf(u), out _) += of[u];
                    }
                }
            }
            return found;
        }

        /// <summary>Adds to the mass of each set of repairs together with each answer of each cylinder what a place gives it.</summary>
        /// <param name="at">The place.</param>
        /// <param name="withCoolant">Whether a leak to the coolant is among the faults of a cylinder.</param>
        /// <param name="weights">What causes need there.</param>
        /// <param name="sets">The sets; others are left out.</param>
        public void AddAnswers(Place at, bool withCoolant, List<NeedWeight> weights, SetAnswers[] sets)
        {
            // By what the cylinders need: the sets that this makes with the needs of a cause, and how much of them.
            var makes = new List<(int Set, double Weight)>?[Unions];
            foreach (var w in weights)
            {
                if ((withCoolant ? w.With : w.Without) is not 0 and var weight)
                {
                    Makes(w.Needs, weight, sets, makes);
                }
            }
            foreach (var (union, mass, ways) in Together(at, withCoolant, answers: true))
            {
                foreach (var (set, weight) in makes[union] ?? [])
                {
                    if (mass * Math.Abs(weight) >= RareTerm)
                    {
                        Add(mass * weight, ways, sets[set].Masses);
                    }
                }
            }
        }

        // A cause and cylinders may need the same: of a set, cylinders need at least what the cause does not.
        private static void Makes(int needs, double weight, SetAnswers[] sets, List<(int Set, double Weight)>?[] makes)
        {
            for (var k = 0; k < sets.Length; k++)
            {
                if ((needs & ~sets[k].Needs) != 0 || (sets[k].Needs & ~needs & ~BitsOf(makes.Length - 1)) != 0)
                {
                    continue;
                }
                var both = needs & BitsOf(makes.Length - 1);
                for (var more = both; ; more = (more - 1) & both)
                {
                    var of = sets[k].Needs & ~needs | more;
                    (makes[(of & 3) | of >> FirstOfBanks << 2] ??= []).Add((k, weight));
                    if (more == 0)
                    {
                        break;
                    }
                }
            }
        }

        private void Add(double weight, UInt128 ways, double[] into)
        {
            var from = 0;
            for (var b = 0; b < banks.Length; b++)
            {
                var way = (int)(ways >> OwnBits * b) & (OwnSets - 1);
                var answers = Answers(b, way);
                var to = into.AsSpan(from, answers.Length);
                TensorPrimitives.MultiplyAdd(answers, weight / own![b * OwnSets + way], to, to);
                from += answers.Length;
            }
        }

        /// <summary>From bank after bank to cylinder after cylinder, as they are numbered.</summary>
        public double[] ByNumber(double[] byBank)
        {
            var found = new double[byBank.Length];
            var from = 0;
            foreach (var index in of.job.Banks.SelectMany(b => b))
            {
                byBank.AsSpan(from, Posterior.Answers).CopyTo(found.AsSpan(index * Posterior.Answers));
                from += Posterior.Answers;
            }
            return found;
        }

        // Banks do not know of each other under a state and a level: sets together are the product. With each what each bank brings to it, OwnBits a bank. Sets so rare that no decision hangs on them are left
        // out.
        private List<(int Union, double Mass, UInt128 Ways)> Together(Place at, bool keepCoolant, bool answers)
        {
            own ??= new double[banks.Length * OwnSets];
            ownAnswers ??= answers ? new double[OwnSets * of.job.Cylinders.Count * Posterior.Answers] : null;
            var rare = of.upTo <= EvidenceStage.Observations ? RareSetBefore : RareSet;
            List<(int Union, double Mass, UInt128 Ways)> joint = [(0, 1, 0)];
            for (var b = 0; b < banks.Length; b++)
            {
                OfBank(b, at.State, LevelOf(b, at.Shifted, at.Shift, at.Level), keepCoolant, answers);
                var more = new List<(int Union, double Mass, UInt128 Ways)>(OwnSets);
                for (var s = 0; s < OwnSets; s++)
                {
                    var mass = own[b * OwnSets + s];
                    if (mass < rare)
                    {
                        continue;
                    }
                    foreach (var (union, already, ways) in joint)
                    {
                        if (mass * already >= rare)
                        {
                            more.Add((union | UnionOf(s, b), mass * already, ways | (UInt128)s << OwnBits * b));
                        }
                    }
                }
                joint = more;
            }
            return joint;
        }

        // A set of a bank with each answer of its cylinders, one after the other.
        private Span<double> Answers(int b, int set)
        {
            var width = of.job.Banks[b].Length * Posterior.Answers;
            return ownAnswers.AsSpan(OwnSets * firsts[b] * Posterior.Answers + set * width, width);
        }

        // Of one bank: each set of its own needs, and where asked for that with each answer of its cylinders; nothing where a set needs what hardly any cylinder may need. By the sums over chains that may
        // need no more than a set, less those that need less.
        private void OfBank(int b, int state, int level, bool keepCoolant, bool answers)
        {
            var n = of.job.Banks[b].Length;
            Span<(double Whole, double Front, double Behind)> shares = stackalloc (double, double, double)[EngineRules.MostCylinders];
            Span<int> starts = stackalloc int[EngineRules.MostCylinders];
            Span<double> whole = stackalloc double[EngineRules.MostCylinders], atMost = stackalloc double[EngineRules.MostCylinders * OwnSets];
            FindStarts(of.job.Banks[b], state, level, starts);
            Whole(starts[..n], keepCoolant, whole);
            var full = banks[b].Sum(kept.All, starts, whole);
            banks[b].Shares(kept.All, starts, whole, shares);
            var asked = AskedFor(n, starts, whole, shares, keepCoolant);
            // With every web whole the chain is a product.
            var unburnt = (n - 1) * Math.Log(1 - of.webPrior) - full;
            for (var j = 0; j < n; j++)
            {
                AtMost(kept.All.AsSpan(starts[j] + BankChain.Pairs, Faults), keepCoolant, atMost.Slice(j * OwnSets, OwnSets));
                unburnt += Math.Log(whole[j] + 1e-300);
                TensorPrimitives.Divide(atMost.Slice(j * OwnSets, OwnSets), whole[j] + 1e-300, atMost.Slice(j * OwnSets, OwnSets));
            }
            var product = Math.Exp(unburnt);
            Span<double> all = stackalloc double[n];
            whole[..n].CopyTo(all);
            var masses = own.AsSpan(b * OwnSets, OwnSets);
            masses.Clear();
            for (var set = 0; set < OwnSets; set++)
            {
                if ((set & ~asked) != 0)
                {
                    continue;
                }
                var mass = product;
                for (var j = 0; j < n; j++)
                {
                    whole[j] = all[j] * atMost[j * OwnSets + set];
                    mass *= atMost[j * OwnSets + set];
                }
                var mayBurn = (set & GasketBit) != 0;
                masses[set] = mayBurn ? Math.Exp(banks[b].Sum(kept.All, starts, whole) - full) : mass;
                if (!answers)
                {
                    continue;
                }
                if (mayBurn)
                {
                    banks[b].Shares(kept.All, starts, whole, shares);
                }
                for (var j = 0; j < n; j++)
                {
                    var (sound, front, behind) = mayBurn ? shares[j] : (1, 0, 0);
                    var faults = kept.All.AsSpan(starts[j] + BankChain.Pairs, Faults);
                    var into = Answers(b, set).Slice(j * Posterior.Answers, Posterior.Answers);
                    var each = masses[set] * sound / (whole[j] + 1e-300);
                    TensorPrimitives.Multiply(faults, Allowed(set, keepCoolant), into[..Faults]);
                    TensorPrimitives.Multiply(into[..Faults], each, into[..Faults]);
                    into[Posterior.Front] = masses[set] * front;
                    into[Posterior.Behind] = masses[set] * behind;
                }
            }
            // Exactly a set: what needs no more than it, less what needs no more than a part of it.
            for (var bit = 1; bit < OwnSets; bit <<= 1)
            {
                for (var set = 0; set < OwnSets; set++)
                {
                    if ((set & bit) != 0 && (set & ~asked) == 0)
                    {
                        masses[set] -= masses[set ^ bit];
                        if (answers)
                        {
                            TensorPrimitives.Subtract(Answers(b, set), Answers(b, set ^ bit), Answers(b, set));
                        }
                    }
                }
            }
        }

        // What a cylinder comes to with both webs whole where it may need no more than each set.
        private static void AtMost(ReadOnlySpan<double> faults, bool keepCoolant, Span<double> found)
        {
            found.Clear();
            for (var f = 0; f < faults.Length; f++)
            {
                found[OwnNeeds[f]] += keepCoolant || f != Coolant ? faults[f] : 0;
            }
            for (var bit = 1; bit < OwnSets; bit <<= 1)
            {
                for (var set = 0; set < OwnSets; set++)
                {
                    found[set] += (set & bit) != 0 ? found[set ^ bit] : 0;
                }
            }
        }

        // The needs of a bank that any cylinder may have, by bit; what is rarer than all decisions is left out.
        private int AskedFor(int cylinders, ReadOnlySpan<int> starts, ReadOnlySpan<double> whole, ReadOnlySpan<(double Whole, double Front, double Behind)> shares, bool keepCoolant)
        {
            Span<double> need = stackalloc double[OwnSets];
            need.Clear();
            for (var j = 0; j < cylinders; j++)
            {
                var faults = kept.All.AsSpan(starts[j] + BankChain.Pairs, Faults);
                need[GasketBit] += shares[j].Front + shares[j].Behind;
                var each = shares[j].Whole / (whole[j] + 1e-300);
                for (var f = 0; f < Faults; f++)
                {
                    need[OwnNeeds[f]] += keepCoolant || f != Coolant ? each * faults[f] : 0;
                }
            }
            var asked = 0;
            for (var bit = 1; bit < OwnSets; bit <<= 1)
            {
                asked |= need[bit] > RareNeed ? bit : 0;
            }
            return asked;
        }

        // By fault: 1 where it needs no more than a set, else 0.
        private static ReadOnlySpan<double> Allowed(int set, bool keepCoolant) => Masks.AsSpan(((keepCoolant ? OwnSets : 0) + set) * Faults, Faults);
    }
}
