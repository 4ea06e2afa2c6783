using System.Numerics.Tensors;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>
/// One sum holds the whole method: for every engine-wide cause, for every level a sound cylinder of this engine may have, for every fault and severity of every cylinder, how well it would
/// have predicted all the readings. Sections 3 and 4.2 of docs/diagnosis.md.
/// </summary>
internal sealed class Inference
{
    private const double LevelStep = 0.022;
    private const int MostLevels = 60;

    // Nothing is ever certain.
    private const double Doubt = 0.008;

    private static readonly double[] WearAreas = [0.3, 0.6, 1.1, 2.0, 3.3], WearShares = [0.15, 0.22, 0.26, 0.22, 0.15];
    private static readonly double[] WashAreas = [0.3, 0.8, 1.5], WashShares = [0.3, 0.4, 0.3];
    private static readonly double[] CamShifts = [-0.05, -0.12, -0.22, -0.38, 0.06], CamShares = [0.25, 0.35, 0.25, 0.10, 0.05];
    private static readonly double[] BankShifts = [-0.08, -0.15, -0.27], BankShares = [0.35, 0.40, 0.25];
    private static readonly double[] CarbonShifts = [0.06, 0.10, 0.15], CarbonShares = [0.4, 0.4, 0.2];

    private readonly JobEvidence job;
    private readonly EvidenceStage upTo;
    private readonly NodeTable nodes;
    private readonly double[][] odds;
    private readonly double webPrior;
    private readonly double[] levels;
    private readonly List<EngineState> states = [];
    private readonly Dictionary<(Speaks, Fault), double> shifts = [];

    // What all cylinders have more in a state of the engine.
    private sealed record EngineState(double Rings, (double Gain, double Spread) Wet, (double Idle, double Snap, double? Spread) Running, bool Aged);

    // One row of the causes: its share of the prior, its law for the level, its state, and a bank that is shifted alone, by a place of BankShifts from 1.
    private sealed record Row(EngineCause Cause, double Weight, double Mean, double Spread, int State, int? Bank = null, int BankShift = 0);

    private Inference(JobEvidence job, EvidenceStage upTo)
    {
        (this.job, this.upTo) = (job, upTo);
        nodes = job.Table;
        odds = [.. job.Cylinders.Select(Odds)];
        webPrior = Math.Min(FaultOdds.MostWebBefore, FaultOdds.Of(Fault.GasketAdjacent, job.Diesel) * Shift(Speaks.Webs));
        levels = Levels();
    }

    /// <summary>How likely everything is, with the evidence up to a stage.</summary>
    public static Posterior Of(JobEvidence job, EvidenceStage upTo)
    {
        var found = new Inference(job, upTo).Sum();
        if (upTo < EvidenceStage.Dry)
        {
            return found;
        }
        var before = job.BeforeReadings ??= new Inference(job, EvidenceStage.Observations).Sum();
        double Mixed(double p, double rate) => (1 - Doubt) * p + Doubt * rate;
        return new Posterior([.. found.Cylinders.Zip(before.Cylinders, (p, b) => p.Zip(b, Mixed).ToArray())], found.Engine.ToDictionary(e => e.Key, e => Mixed(e.Value, before.Engine.GetValueOrDefault(e.Key))));
    }

    private bool Has(EvidenceStage stage) => upTo >= stage;

    private static double Factor(double db) => Math.Pow(10, db / 10);

    private double Shift(Speaks what, Fault fault = Fault.None)
    {
        if (!Has(EvidenceStage.Observations) || job.Seen.Count == 0)
        {
            return 1;
        }
        if (!shifts.TryGetValue((what, fault), out var shift))
        {
            shifts[(what, fault)] = shift = Factor(ObservationWeights.Of(job.Seen, job.Engine, what, fault));
        }
        return shift;
    }

    private double[] Odds(CylinderEvidence c)
    {
        var found = new double[FaultOdds.Local.Count];
        for (var f = 0; f < found.Length; f++)
        {
            var fault = FaultOdds.Local[f];
            var shifted = FaultOdds.Of(fault, job.Diesel) * Shift(Speaks.Cylinder, fault);
            shifted = fault == Fault.Sound ? shifted * (Has(EvidenceStage.Observations) ? Factor(-job.RuledOut) : 1) : Math.Min(FaultOdds.MostBefore, shifted);
            if (Has(EvidenceStage.Dry))
            {
                shifted *= fault switch { Fault.TestError => c.TestErrorFactor, Fault.FuelWashed when job.FuelOn => 3, _ => 1 };
            }
            if (Has(EvidenceStage.PlugsAndClearance))
            {
                shifted *= Factor(c.Plug.Sum(s => LikelihoodTable.Plug(s, fault)) + c.Clearances.Sum(v => LikelihoodTable.Clearance(v, fault)));
            }
            found[f] = shifted;
        }
        return found;
    }

    private double[] Levels()
    {
        var dry = Has(EvidenceStage.Dry) ? job.Cylinders.Where(c => c.LnDry is not null).Select(c => c.LnDry!.Value).ToList() : [];
        var expected = job.ExpectedLn + job.Everywhere.Shift;
        if (dry.Count == 0)
        {
            return [expected];
        }
        var highest = dry.Max();
        var from = Math.Max(highest - 0.20, Math.Min(highest - 0.12, expected));
        var to = dry.Count < 3 ? Math.Max(highest + 0.06, expected + 0.08) : highest + 0.06;
        var count = Math.Clamp((int)Math.Ceiling((to - from) / LevelStep) + 1, 2, MostLevels);
        return [.. Enumerable.Range(0, count).Select(i => from + (to - from) * i / (count - 1))];
    }

    private List<Row> Rows()
    {
        var slip = Has(EvidenceStage.Dry) ? job.Slip : null;
        var (everywhere, everySpread) = job.Everywhere;
        var mean = job.ExpectedLn + everywhere;
        var spread = Math.Sqrt(job.ExpectedSpread * job.ExpectedSpread + everySpread * everySpread + Math.Pow(slip is null ? 0.035 : 0.065, 2));
        var withSlip = mean + (slip?.Shift ?? 0);
        var slipSpread = slip is { } s ? Math.Sqrt(spread * spread + s.Spread * s.Spread) : spread;
        var rows = new List<Row>();
        double Prior(Fault cause)
        {
            var db = cause switch { Fault.GeneralWear => job.Gauges.Wear, Fault.CamTiming => job.Gauges.Cam, _ => 0 };
            return FaultOdds.OfCause(cause, job.Diesel, slip is not null) * Shift(Speaks.Engine, cause) * (Has(EvidenceStage.Observations) ? Factor(db) : 1);
        }
        // States of the engine that no reading can tell apart are one.
        var (leaks, oiled, ran) = (Has(EvidenceStage.LeakDownAmount) && job.Cylinders.Any(c => c.Leak is not null), Has(EvidenceStage.Wet) && job.Cylinders.Any(c => c.LnWet is not null),
            Has(EvidenceStage.Running) && job.RanCylinders > 0);
        int State(EngineState asked)
        {
            var told = new EngineState(leaks ? asked.Rings : 0, oiled ? asked.Wet : (0, 0), ran ? asked.Running : (0, 0, null), leaks && asked.Aged);
            var known = states.IndexOf(told);
            if (known < 0)
            {
                states.Add(told);
                known = states.Count - 1;
            }
            return known;
        }
        State(new(0, (0, 0), (0, 0, null), Aged: false));
        rows.Add(new(new(Fault.None), Prior(Fault.None), mean - 0.01, spread, 0));
        rows.Add(slip is { } recorded
            ? new(new(Fault.TestError), Prior(Fault.TestError), mean + recorded.Shift, Math.Sqrt(spread * spread + recorded.Spread * recorded.Spread), 0)
            : new(new(Fault.TestError), Prior(Fault.TestError), mean - 0.15, Math.Sqrt(spread * spread + 0.08 * 0.08), 0));
        if (Has(EvidenceStage.Observations) && (job.Seen.Contains(Observation.OilUse) || job.Seen.Contains(Observation.BlueSmoke)))
        {
            rows.Add(new(new(Fault.OilControl), job.Seen.Contains(Observation.OilUse) ? FaultOdds.OilControlWhereUsed : FaultOdds.OilControlWhereBlue, mean - 0.01, spread, 0));
        }
        var loss = job.Nodes.Loss;
        for (var i = 0; i < WearAreas.Length; i++)
        {
            var worn = State(new(WearAreas[i], (loss * WearAreas[i] * (1 - job.Nodes.OilLeft), 0.04), (0, 0, null), Aged: true));
            rows.Add(new(new(Fault.GeneralWear), Prior(Fault.GeneralWear) * WearShares[i], withSlip - loss * WearAreas[i], slipSpread, worn));
        }
        for (var i = 0; i < WashAreas.Length; i++)
        {
            var washed = State(new(WashAreas[i], (0.95 * loss * WashAreas[i], 0.02), (0, 0, null), Aged: true));
            rows.Add(new(new(Fault.FuelWashed), Prior(Fault.FuelWashed) * WashShares[i], withSlip - loss * WashAreas[i], slipSpread, washed));
        }
        // Without a running test nothing tells a restricted exhaust.
        var restricted = !job.Diesel && job.Engine.Throttle != ThrottleControl.None ? State(new(0, (0, 0), (0.40, -0.12, 0.18), Aged: false)) : 0;
        rows.Add(new(new(Fault.ExhaustRestriction), Prior(Fault.ExhaustRestriction), withSlip - 0.01, slipSpread, restricted));
        var cam = Prior(Fault.CamTiming);
        for (var i = 0; i < CamShifts.Length; i++)
        {
            rows.Add(new(new(Fault.CamTiming), cam * CamShares[i], withSlip + CamShifts[i], slipSpread, 0));
        }
        if (job.Banks.Count >= 2)
        {
            for (var b = 0; b < job.Banks.Count; b++)
            {
                for (var i = 0; i < BankShifts.Length; i++)
                {
                    rows.Add(new(new(Fault.CamTiming, b), cam / 2 / job.Banks.Count * BankShares[i], withSlip, slipSpread, 0, b, i + 1));
                }
            }
        }
        for (var i = 0; i < CarbonShifts.Length; i++)
        {
            rows.Add(new(new(Fault.Carbon), Prior(Fault.Carbon) * CarbonShares[i], withSlip + CarbonShifts[i], slipSpread, 0));
        }
        return rows;
    }

    // A term that weighs less than this of the whole is not shared out.
    private const double Negligible = 1e-7;

    private static readonly double LnNegligible = Math.Log(Negligible);

    private Posterior Sum()
    {
        var rows = Rows();
        var (gasC, gasE) = Has(EvidenceStage.CombustionGas) ? LikelihoodTable.Gas(job.Gas, job.Engine.Features?.Contains(EngineFeature.EgrCooler) == true) : (0, 0);
        var (coolant, elsewhere) = (Shift(Speaks.Coolant) * Factor(gasC), Shift(Speaks.CoolantElsewhere) * Factor(gasE));
        using var chains = new ChainSums(this);
        // Several causes share a level and a state: what they weigh together is what is shared out.
        var engine = new Dictionary<EngineCause, double>();
        var terms = new List<(Row Row, int Level, double Law)>(rows.Count * levels.Length);
        double highest = double.NegativeInfinity;
        foreach (var row in rows)
        {
            for (var level = 0; level < levels.Length; level++)
            {
                var off = (levels[level] - row.Mean) / row.Spread;
                var law = Math.Log(row.Weight) + (levels.Length == 1 ? 0 : -off * off / 2 - Math.Log(row.Spread));
                // What cannot come near the best so far is not summed: the first row is of the engine without a cause, at every level.
                if (law + chains.AtMost(row, level) < highest + LnNegligible)
                {
                    continue;
                }
                terms.Add((row, level, law));
                highest = Math.Max(highest, law + chains.Total(row, level, withCoolant: true));
            }
        }
        var masses = job.Cylinders.Select(_ => new double[Posterior.Answers]).ToArray();
        void Add(EngineCause cause, double mass) => engine[cause] = engine.GetValueOrDefault(cause) + mass;
        foreach (var (row, level, law) in terms)
        {
            var with = Math.Exp(law + chains.Total(row, level, withCoolant: true) - highest);
            if (with < Negligible)
            {
                continue;
            }
            var without = Math.Min(with, Math.Exp(law + chains.Total(row, level, withCoolant: false) - highest));
            var located = coolant * (with - without);
            var (hidden, away) = (FaultOdds.CoolantNotLocated * coolant * without, FaultOdds.CoolantElsewhere * elsewhere * without);
            Add(row.Cause, without);
            Add(new(Fault.GasketCoolant), located + hidden);
            Add(new(Fault.CoolantPathElsewhere), away);
            // Given that coolant goes somewhere in a cylinder: all that is, less what has none of it.
            chains.ShareOut(row, level, coolant * with, without * (1 + FaultOdds.CoolantNotLocated * coolant + FaultOdds.CoolantElsewhere * elsewhere) - coolant * without, masses);
        }
        foreach (var cylinder in masses)
        {
            Normalise(cylinder);
        }
        var all = engine.Values.Sum();
        return new Posterior(masses, engine.ToDictionary(e => e.Key, e => e.Value / all));
    }

    private static void Normalise(double[] masses)
    {
        double sum = 1e-300;
        for (var i = 0; i < masses.Length; i++)
        {
            masses[i] = Math.Max(0, masses[i]);
            sum += masses[i];
        }
        for (var i = 0; i < masses.Length; i++)
        {
            masses[i] /= sum;
        }
    }

    // Everything but dry, under each of the first states: likelihood of each node. What only some of them speak of is worked out once for the others.
    private double[][] Other(CylinderEvidence c, int variants)
    {
        var runs = new Dictionary<(double, double, double?), double[]>();
        var found = new double[variants][];
        for (var s = 0; s < variants; s++)
        {
            var state = states[s];
            if (!runs.TryGetValue(state.Running, out var run))
            {
                runs[state.Running] = run = Running(c, state);
            }
            var like = found[s] = [.. run];
            if (c.Leak is { } leak && Has(EvidenceStage.LeakDownAmount))
            {
                // How an engine and a tester are off as a whole says nothing where age is what is asked about.
                leak = leak with { LnRatio = leak.LnRatio - (state.Aged ? 0 : job.LeakOffset), Heard = Has(EvidenceStage.LeakDownHeard) ? leak.Heard : new int?[LeakEvidence.Places] };
                LikelihoodTable.LeakDown(nodes, job.Curves.Paths(leak, state.Rings), leak, like);
            }
            if (c.LnWet is { } wet && Has(EvidenceStage.Wet))
            {
                job.Curves.Wet(state.Wet, c.NearlyDead).Multiply(wet, like);
            }
        }
        return found;
    }

    // Relative compression, and running with what a state of the engine gives.
    private double[] Running(CylinderEvidence c, EngineState state)
    {
        var like = new double[nodes.Nodes.Length];
        Array.Fill(like, 1);
        if (c.Relative is { } relative && Has(EvidenceStage.Relative))
        {
            job.Curves.Relative(relative.ErrorPercent).Multiply(relative.Ln, like);
        }
        if (c.LnIdle is { } idle && Has(EvidenceStage.Running))
        {
            job.Curves.Idle(state.Running.Idle, state.Running.Spread).Multiply(idle, like);
        }
        if (c.LnSnap is { } snap && Has(EvidenceStage.Running))
        {
            job.Curves.Snap(state.Running.Snap, state.Running.Spread).Multiply(snap, like);
        }
        return like;
    }

    // Whether a cylinder's readings can tell two states apart.
    private bool TellsApart(CylinderEvidence c) => (c.Leak is not null && Has(EvidenceStage.LeakDownAmount)) || (c.LnWet is not null && Has(EvidenceStage.Wet)) || ((c.LnIdle ?? c.LnSnap) is not null && Has(EvidenceStage.Running));

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
                all += SumOf(b, row.State, LevelOf(b, row, level), withCoolant);
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
        public void ShareOut(Row row, int level, double with, double without, double[][] masses)
        {
            Span<(double Whole, double Front, double Behind)> shares = stackalloc (double, double, double)[EngineRules.MostCylinders];
            Span<int> starts = stackalloc int[EngineRules.MostCylinders];
            Span<double> whole = stackalloc double[EngineRules.MostCylinders];
            var coolant = Posterior.IndexOf(Fault.GasketCoolant);
            for (var b = 0; b < banks.Length; b++)
            {
                var bank = of.job.Banks[b];
                var at = LevelOf(b, row, level);
                foreach (var keepCoolant in (ReadOnlySpan<bool>)[true, false])
                {
                    var weight = keepCoolant ? with : without;
                    Place(bank, row.State, at, keepCoolant, starts, whole);
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
        private int LevelOf(int bank, Row row, int level) => level + (bank == row.Bank ? row.BankShift * of.levels.Length : 0);

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
