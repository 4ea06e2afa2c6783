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
    private readonly IReadOnlyList<SeverityNode> nodes;
    private readonly int[] faultOf;
    private readonly SeverityNode[] webs;
    private readonly double[][] odds;
    private readonly double webPrior;
    private readonly double[] levels;
    private readonly List<EngineState> states = [];
    private readonly Dictionary<double, double[][]> dryAt = [];
    private readonly Dictionary<(Speaks, Fault), double> shifts = [];

    // What all cylinders have more in a state of the engine.
    private sealed record EngineState(double Rings, (double Gain, double Spread) Wet, (double Idle, double Snap, double? Spread) Running, bool Aged);

    // One row of the causes: its share of the prior, its law for the level, its state, and a bank that is shifted alone.
    private sealed record Row(EngineCause Cause, double Weight, double Mean, double Spread, int State, int? Bank = null, double BankShift = 0);

    private sealed record Chained(double[] Log, double[] LogWithout, double[][] Mass, double[][] MassWithout);

    private Inference(JobEvidence job, EvidenceStage upTo)
    {
        (this.job, this.upTo) = (job, upTo);
        nodes = SeverityNodes.Local(job.Nodes);
        faultOf = [.. nodes.Select(x => Posterior.IndexOf(x.Fault))];
        double[] areas = [0, .. SeverityNodes.WebAreas];
        webs = [.. areas.SelectMany(front => areas.Select(behind => SeverityNodes.Web(job.Nodes, front, behind)))];
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
        states.Add(new(0, (0, 0), (0, 0, null), Aged: false));
        rows.Add(new(new(Fault.None), Prior(Fault.None), mean - 0.01, spread, 0));
        rows.Add(slip is { } recorded
            ? new(new(Fault.TestError), Prior(Fault.TestError), mean + recorded.Shift, Math.Sqrt(spread * spread + recorded.Spread * recorded.Spread), 0)
            : new(new(Fault.TestError), Prior(Fault.TestError), mean - 0.15, Math.Sqrt(spread * spread + 0.08 * 0.08), 0));
        var loss = job.Nodes.Loss;
        for (var i = 0; i < WearAreas.Length; i++)
        {
            states.Add(new(WearAreas[i], (loss * WearAreas[i] * (1 - job.Nodes.OilLeft), 0.04), (0, 0, null), Aged: true));
            rows.Add(new(new(Fault.GeneralWear), Prior(Fault.GeneralWear) * WearShares[i], withSlip - loss * WearAreas[i], slipSpread, states.Count - 1));
        }
        for (var i = 0; i < WashAreas.Length; i++)
        {
            states.Add(new(WashAreas[i], (0.95 * loss * WashAreas[i], 0.02), (0, 0, null), Aged: true));
            rows.Add(new(new(Fault.FuelWashed), Prior(Fault.FuelWashed) * WashShares[i], withSlip - loss * WashAreas[i], slipSpread, states.Count - 1));
        }
        states.Add(new(0, (0, 0), (0.40, -0.12, 0.18), Aged: false));
        if (!job.Diesel && job.Engine.Throttle != ThrottleControl.None)
        {
            rows.Add(new(new(Fault.ExhaustRestriction), Prior(Fault.ExhaustRestriction), withSlip - 0.01, slipSpread, states.Count - 1));
        }
        else
        {
            // Without a running test nothing tells it.
            rows.Add(new(new(Fault.ExhaustRestriction), Prior(Fault.ExhaustRestriction), withSlip - 0.01, slipSpread, 0));
        }
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
                    rows.Add(new(new(Fault.CamTiming, b), cam / 2 / job.Banks.Count * BankShares[i], withSlip, slipSpread, 0, b, BankShifts[i]));
                }
            }
        }
        for (var i = 0; i < CarbonShifts.Length; i++)
        {
            rows.Add(new(new(Fault.Carbon), Prior(Fault.Carbon) * CarbonShares[i], withSlip + CarbonShifts[i], slipSpread, 0));
        }
        return rows;
    }

    private Posterior Sum()
    {
        var rows = Rows();
        var (gasC, gasE) = Has(EvidenceStage.CombustionGas) ? LikelihoodTable.Gas(job.Gas, job.Engine.Features?.Contains(EngineFeature.EgrCooler) == true) : (0, 0);
        var (coolant, elsewhere) = (Shift(Speaks.Coolant) * Factor(gasC), Shift(Speaks.CoolantElsewhere) * Factor(gasE));
        var other = states.Select(s => job.Cylinders.Select(c => Other(c, s)).ToArray()).ToArray();
        var chains = new Dictionary<(int State, int Level, double BankShift), Chained>();
        Chained At(int state, int level, double shift)
        {
            if (!chains.TryGetValue((state, level, shift), out var found))
            {
                chains[(state, level, shift)] = found = Chain(levels[level] + shift, other[state]);
            }
            return found;
        }
        var terms = new List<(Row Row, Chained Plain, Chained? Shifted, double Log)>();
        foreach (var row in rows)
        {
            for (var level = 0; level < levels.Length; level++)
            {
                var plain = At(row.State, level, 0);
                var shifted = row.Bank is null ? null : At(row.State, level, row.BankShift);
                var off = (levels[level] - row.Mean) / row.Spread;
                var law = levels.Length == 1 ? 0 : -off * off / 2 - Math.Log(row.Spread);
                terms.Add((row, plain, shifted, Math.Log(row.Weight) + law));
            }
        }
        double Total(Chained plain, Chained? shifted, int? bank, bool without)
        {
            double sum = 0;
            for (var b = 0; b < job.Banks.Count; b++)
            {
                var chain = b == bank ? shifted! : plain;
                sum += without ? chain.LogWithout[b] : chain.Log[b];
            }
            return sum;
        }
        var highest = terms.Max(t => t.Log + Total(t.Plain, t.Shifted, t.Row.Bank, without: false));
        var masses = job.Cylinders.Select(_ => new double[Posterior.Answers]).ToArray();
        var engine = new Dictionary<EngineCause, double>();
        void Add(EngineCause cause, double mass) => engine[cause] = engine.GetValueOrDefault(cause) + mass;
        foreach (var (row, plain, shifted, log) in terms)
        {
            var with = Math.Exp(log + Total(plain, shifted, row.Bank, without: false) - highest);
            var without = Math.Min(with, Math.Exp(log + Total(plain, shifted, row.Bank, without: true) - highest));
            var located = coolant * (with - without);
            var (hidden, away) = (FaultOdds.CoolantNotLocated * coolant * without, FaultOdds.CoolantElsewhere * elsewhere * without);
            Add(row.Cause, without);
            Add(new(Fault.GasketCoolant), located + hidden);
            Add(new(Fault.CoolantPathElsewhere), away);
            for (var b = 0; b < job.Banks.Count; b++)
            {
                var chain = b == row.Bank ? shifted! : plain;
                foreach (var i in job.Banks[b])
                {
                    for (var f = 0; f < Posterior.Answers; f++)
                    {
                        // Given that coolant goes somewhere in a cylinder: all that is, less what has none of it.
                        masses[i][f] += without * (1 + FaultOdds.CoolantNotLocated * coolant + FaultOdds.CoolantElsewhere * elsewhere) * chain.MassWithout[i][f]
                            + coolant * Math.Max(0, with * chain.Mass[i][f] - without * chain.MassWithout[i][f]);
                    }
                }
            }
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
        var sum = masses.Sum() + 1e-300;
        for (var i = 0; i < masses.Length; i++)
        {
            masses[i] /= sum;
        }
    }

    // Everything but dry: likelihood of each node, then of each pair of webs.
    private double[] Other(CylinderEvidence c, EngineState state)
    {
        var found = new double[nodes.Count + webs.Length];
        Array.Fill(found, 1);
        if (c.Leak is { } leak && Has(EvidenceStage.LeakDownAmount))
        {
            // How an engine and a tester are off as a whole says nothing where age is what is asked about.
            leak = leak with { LnRatio = leak.LnRatio - (state.Aged ? 0 : job.LeakOffset), Heard = Has(EvidenceStage.LeakDownHeard) ? leak.Heard : new int?[LeakEvidence.Places] };
            LikelihoodTable.LeakDown(nodes, leak, state.Rings, found.AsSpan(0, nodes.Count));
            for (var w = 0; w < webs.Length; w++)
            {
                found[nodes.Count + w] = LikelihoodTable.LeakDown(webs[w], leak, state.Rings);
            }
        }
        var (idleSpread, snapSpread) = LikelihoodTable.RunningSpread(job.RanCylinders, job.Diesel);
        for (var k = 0; k < found.Length; k++)
        {
            var node = k < nodes.Count ? nodes[k] : webs[k - nodes.Count];
            if (c.Relative is { } relative && Has(EvidenceStage.Relative))
            {
                found[k] *= LikelihoodTable.Relative(node, relative.Ln, relative.ErrorPercent);
            }
            if (c.LnWet is { } wet && Has(EvidenceStage.Wet))
            {
                found[k] *= LikelihoodTable.Wet(node, wet, state.Wet, job.OtherGauge, c.NearlyDead, job.Diesel);
            }
            if (c.LnIdle is { } idle && Has(EvidenceStage.Running))
            {
                found[k] *= LikelihoodTable.Running(node.Idle + state.Running.Idle, idle, state.Running.Spread ?? idleSpread);
            }
            if (c.LnSnap is { } snap && Has(EvidenceStage.Running))
            {
                found[k] *= LikelihoodTable.Running(node.Snap + state.Running.Snap, snap, state.Running.Spread ?? snapSpread);
            }
        }
        return found;
    }

    // All banks at one level: ln of their sums, with a leak to the coolant among the faults and without, and each cylinder's shares.
    private Chained Chain(double level, double[][] other)
    {
        var n = job.Cylinders.Count;
        var (log, logWithout) = (new double[job.Banks.Count], new double[job.Banks.Count]);
        var (mass, massWithout) = (new double[n][], new double[n][]);
        var coolant = Posterior.IndexOf(Fault.GasketCoolant);
        for (var b = 0; b < job.Banks.Count; b++)
        {
            var bank = job.Banks[b];
            var phi = bank.Select(_ => new double[BankChain.States * BankChain.States]).ToArray();
            var faults = new double[bank.Length][];
            double scaled = 0;
            for (var j = 0; j < bank.Length; j++)
            {
                var i = bank[j];
                faults[j] = Cylinder(i, level, other[i], phi[j]);
                var most = Math.Max(phi[j].Max(), 1e-300);
                scaled += Math.Log(most);
                for (var k = 0; k < phi[j].Length; k++)
                {
                    phi[j][k] /= most;
                }
            }
            var chain = new BankChain(bank.Length, webPrior);
            var shares = bank.Select(_ => new double[3]).ToArray();
            log[b] = scaled + chain.Sum(phi, shares);
            Share(mass, keepCoolant: true);
            for (var j = 0; j < bank.Length; j++)
            {
                var all = faults[j].Sum() + 1e-300;
                phi[j][0] *= Math.Max(0, 1 - faults[j][coolant] / all);
            }
            logWithout[b] = scaled + chain.Sum(phi, shares);
            Share(massWithout, keepCoolant: false);

            void Share(double[][] into, bool keepCoolant)
            {
                for (var j = 0; j < bank.Length; j++)
                {
                    var answers = new double[Posterior.Answers];
                    var all = faults[j].Sum() - (keepCoolant ? 0 : faults[j][coolant]) + 1e-300;
                    for (var f = 0; f < faults[j].Length; f++)
                    {
                        answers[f] = keepCoolant || f != coolant ? shares[j][0] * faults[j][f] / all : 0;
                    }
                    (answers[Posterior.Front], answers[Posterior.Behind]) = (shares[j][1], shares[j][2]);
                    into[bank[j]] = answers;
                }
            }
        }
        return new Chained(log, logWithout, mass, massWithout);
    }

    // One cylinder at one level: the sum of each fault of its own, and the likelihoods for the chain.
    private double[] Cylinder(int index, double level, double[] other, double[] phi)
    {
        var dry = DryAt(level)[index];
        var faults = new double[FaultOdds.Local.Count];
        for (var k = 0; k < nodes.Count; k++)
        {
            faults[faultOf[k]] += nodes[k].Weight * dry[k] * other[k] * odds[index][faultOf[k]];
        }
        for (var w = 1; w < webs.Length; w++)
        {
            phi[w] = dry[nodes.Count + w] * other[nodes.Count + w];
        }
        phi[0] = faults.Sum();
        return faults;
    }

    // Dry readings at a level, for each cylinder and node: the same under every cause.
    private double[][] DryAt(double level)
    {
        if (!dryAt.TryGetValue(level, out var found))
        {
            dryAt[level] = found = [.. job.Cylinders.Select(c =>
            {
                var like = new double[nodes.Count + webs.Length];
                Array.Fill(like, 1);
                if (c.LnDry is { } ln && Has(EvidenceStage.Dry))
                {
                    var dry = Math.Max(SeverityNodes.LowestDry, ln - level);
                    for (var k = 0; k < like.Length; k++)
                    {
                        like[k] = LikelihoodTable.Dry(k < nodes.Count ? nodes[k] : webs[k - nodes.Count], dry, c.DrySpread);
                    }
                }
                return like;
            })];
        }
        return found;
    }
}
