using System.Numerics.Tensors;
using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>
/// One sum holds the whole method: for every engine-wide cause, for every level a sound cylinder of this engine may have, for every fault and severity of every cylinder, how well it would
/// have predicted all the readings. Sections 3 and 4.2 of docs/diagnosis.md.
/// </summary>
internal sealed partial class Inference : IDisposable
{
    // Nothing is ever certain.
    private const double Doubt = 0.008;

    // A term that weighs less than this of the whole is not shared out.
    private const double Negligible = 1e-7;

    private static readonly double LnNegligible = Math.Log(Negligible);

    private static readonly int TestError = Posterior.IndexOf(Fault.TestError), FuelWashed = Posterior.IndexOf(Fault.FuelWashed),
        Carbon = Posterior.IndexOf(Fault.Carbon), IntakeNotOpening = Posterior.IndexOf(Fault.IntakeNotOpening), ExhaustNotOpening = Posterior.IndexOf(Fault.ExhaustNotOpening);

    // What a first compression that jumps further than the others' says of a lobe, dB: charge that did not leave is pressed again. In the crank-angle model a worn exhaust lobe raises it by a fifth.
    private const double JumpOfExhaustDb = 5, JumpOfIntakeDb = 2;

    // How much of a ring leak that is the same all round oil seals: what the amount of oil says, or nearly all of it. Oil films differ between shops, and alike in every cylinder of a job.
    private const double SealsNearlyAll = 0.95, WearGainSpread = 0.05;
    private static readonly double[] OilShares = [0.6, 0.4];

    // Nothing left at all, or next to it: a share of the odds, ln of the level, and how wide.
    private const double NothingLeft = -1.6, NothingLeftSpread = 0.8, NothingLeftOfCam = 0.04, NothingLeftOfTest = 0.1;

    // An engine that does not start bears out that there is nothing left: no slip of a test keeps it from starting.
    private const double NothingLeftWhereNoStart = 4;

    // A cylinder that reads no more than the maker's nominal is seldom full of deposits, however low the others are.
    private const double CarbonUnderNominal = 0.15;

    // What a restricted exhaust does to idle and snap of every cylinder, ln, little to much; alike in all of them.
    private static readonly (double Idle, double Snap, double Share)[] Restrictions = [(0.28, -0.06, 0.3), (0.40, -0.12, 0.4), (0.52, -0.20, 0.3)];
    private const double RestrictionSpread = 0.10;

    // A lobe of one cylinder raises the idle of the others: they feed one manifold, and snap as they should. Odds against none; how much, ln, alike in all of them.
    private const double LobeRaisesIdle = 0.008, RaisedIdleSpread = 0.08;
    private static readonly double[] RaisedIdle = [0.2, 0.3, 0.42];

    private static readonly double[] WearAreas = [0.3, 0.6, 1.1, 2.0, 3.3, 5.0], WearShares = [0.14, 0.21, 0.25, 0.21, 0.14, 0.05];
    private static readonly double[] WashAreas = [0.3, 0.8, 1.5, 3.0], WashShares = [0.25, 0.35, 0.25, 0.15];
    private static readonly double[] CamShifts = [-0.05, -0.12, -0.22, -0.38, 0.06], CamShares = [0.25, 0.35, 0.25, 0.10, 0.05];
    private static readonly double[] CarbonShifts = [0.06, 0.10, 0.15], CarbonShares = [0.4, 0.4, 0.2];

    private readonly JobEvidence job;
    private readonly NodeLikelihoods read;
    private readonly EvidenceStage upTo;
    private readonly NodeTable nodes;
    private readonly double[][] odds;
    private readonly double webPrior;
    private readonly double[] levels;
    private readonly List<EngineState> states = [];
    private readonly List<Row> rows;
    private ChainSums? chains;

    // What all cylinders have more in a state of the engine.
    private sealed record EngineState(double Rings, (double Gain, double Spread) Wet, RunningMore Running, bool Aged);

    // One row of the causes: its share of the prior, its law for the level, its state, and a bank that is shifted alone, by a place of BankShifts from 1.
    private sealed record Row(EngineCause Cause, double Weight, double Mean, double Spread, int State, int? Bank = null, int BankShift = 0);

    private Inference(NodeLikelihoods read, EvidenceStage upTo)
    {
        (this.read, job, this.upTo) = (read, read.Job, upTo);
        nodes = job.Table;
        var ofAny = OddsOfAny();
        odds = [.. job.Cylinders.Select(c => Odds(c, ofAny))];
        webPrior = Math.Min(FaultOdds.MostWebBefore, FaultOdds.Of(Fault.GasketAdjacent, job.Diesel) * Shift(EvidenceTarget.Webs));
        levels = Has(EvidenceStage.Dry) ? read.Levels : [read.Expected];
        rows = Rows();
    }

    /// <summary>How likely everything is, with the evidence up to a stage.</summary>
    public static Posterior Of(NodeLikelihoods read, EvidenceStage upTo)
    {
        using var inference = new Inference(read, upTo);
        return inference.Answers();
    }

    /// <summary>All evidence.</summary>
    public static Inference Of(NodeLikelihoods read) => new(read, EvidenceStage.CombustionGas);

    /// <summary>How likely everything is.</summary>
    public Posterior Answers()
    {
        if (upTo <= EvidenceStage.Observations)
        {
            return Before().Posterior;
        }
        var found = Sum();
        using var noticed = new Inference(read, EvidenceStage.Observations);
        var before = noticed.Before().Posterior;
        double Mixed(double p, double rate) => (1 - Doubt) * p + Doubt * rate;
        return new Posterior([.. found.Cylinders.Zip(before.Cylinders, (p, b) => p.Zip(b, Mixed).ToArray())], found.Engine.ToDictionary(e => e.Key, e => Mixed(e.Value, before.Engine.GetValueOrDefault(e.Key))));
    }

    /// <summary>How likely each set of repairs is needed.</summary>
    /// <param name="detailed">How many of the likeliest are known together with each answer of each cylinder.</param>
    public RepairOdds Repairs(int detailed = int.MaxValue)
    {
        using var noticed = new Inference(read, EvidenceStage.Observations);
        return Needs(detailed, noticed.Before().Repairs);
    }

    public void Dispose() => chains?.Dispose();

    // Without a reading all cylinders are alike: odds, causes and which of them share a gasket are all there is.
    private BeforeReadings Before()
    {
        var (coolant, elsewhere) = CoolantOdds();
        double[] figures = [coolant, elsewhere, webPrior, .. odds[0], .. rows.SelectMany(r => new[] { (double)r.Cause.Fault, r.Cause.Bank ?? -1, r.Weight, r.State, r.BankShift }), .. job.Banks.SelectMany(b => b.Append(-1)).Select(c => (double)c)];
        return nodes.Before.Of(new(figures), () => new(Sum(), Needs(int.MaxValue, null)));
    }

    private bool Has(EvidenceStage stage) => upTo >= stage;

    private static double Factor(double db) => Math.Pow(10, db / 10);

    private double Shift(EvidenceTarget what, Fault fault = Fault.None) => Has(EvidenceStage.Observations) ? read.Shift(what, fault) : 1;

    // Before anything is known of a single cylinder: base odds, as far as what was noticed shifts them.
    private double[] OddsOfAny() => [.. FaultOdds.Local.Select(fault =>
    {
        var shifted = FaultOdds.Of(fault, job.Diesel) * Shift(EvidenceTarget.Cylinder, fault);
        return fault == Fault.Sound ? shifted * (Has(EvidenceStage.Observations) ? Factor(-job.RuledOut) : 1) : Math.Min(FaultOdds.MostBefore, shifted);
    })];

    private double[] Odds(CylinderEvidence c, double[] ofAny)
    {
        double[] found = [.. ofAny];
        if (Has(EvidenceStage.Dry))
        {
            found[TestError] *= c.TestErrorFactor;
            if (c.JumpsAtFirst)
            {
                found[ExhaustNotOpening] *= Factor(JumpOfExhaustDb);
                found[IntakeNotOpening] *= Factor(JumpOfIntakeDb);
            }
            found[FuelWashed] *= job.FuelOn ? 3 : 1;
            found[Carbon] *= job.Engine.Spec?.Nominal is not null && c.LnDry <= job.ExpectedLn ? CarbonUnderNominal : 1;
        }
        if (Has(EvidenceStage.PlugsAndClearance) && c.Plug.Count + c.Clearances.Count > 0)
        {
            for (var f = 0; f < found.Length; f++)
            {
                found[f] *= Factor(c.Plug.Sum(s => LikelihoodTable.Plug(s, FaultOdds.Local[f])) + c.Clearances.Sum(v => LikelihoodTable.Clearance(v, FaultOdds.Local[f])));
            }
        }
        return found;
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
            return FaultOdds.OfCause(cause, job.Diesel, slip is not null) * Shift(EvidenceTarget.Engine, cause) * (Has(EvidenceStage.Observations) ? Factor(db) : 1);
        }
        // States of the engine that no reading can tell apart are one.
        var (leaks, oiled, ran) = (Has(EvidenceStage.LeakDownAmount) && job.Cylinders.Any(c => c.Leak is not null), Has(EvidenceStage.Wet) && job.Cylinders.Any(c => c.LnWet is not null),
            Has(EvidenceStage.Running) && job.RanCylinders > 0);
        int State(EngineState asked)
        {
            var told = new EngineState(leaks ? asked.Rings : 0, oiled ? asked.Wet : (0, 0), ran ? asked.Running : new(0, 0), leaks && asked.Aged);
            var known = states.IndexOf(told);
            if (known < 0)
            {
                states.Add(told);
                known = states.Count - 1;
            }
            return known;
        }
        State(new(0, (0, 0), new(0, 0), Aged: false));
        rows.Add(new(new(Fault.None), Prior(Fault.None), mean - 0.01, spread, 0));
        rows.Add(slip is { } recorded
            ? new(new(Fault.TestError), Prior(Fault.TestError), mean + recorded.Shift, Math.Sqrt(spread * spread + recorded.Spread * recorded.Spread), 0)
            : new(new(Fault.TestError), Prior(Fault.TestError), mean - 0.15, Math.Sqrt(spread * spread + 0.08 * 0.08), 0));
        rows.Add(new(new(Fault.TestError), FaultOdds.OfCause(Fault.TestError, job.Diesel, slip: false) * NothingLeftOfTest, mean + NothingLeft, NothingLeftSpread, 0));
        if (Has(EvidenceStage.Observations) && (job.Seen.Contains(Observation.OilUse) || job.Seen.Contains(Observation.BlueSmoke)))
        {
            rows.Add(new(new(Fault.OilControl), job.Seen.Contains(Observation.OilUse) ? FaultOdds.OilControlWhereUsed : FaultOdds.OilControlWhereBlue, mean - 0.01, spread, 0));
        }
        var loss = job.Nodes.Loss;
        for (var i = 0; i < WearAreas.Length; i++)
        {
            for (var k = 0; k < (oiled ? OilShares.Length : 1); k++)
            {
                var sealedBy = k == 0 ? 1 - job.Nodes.OilLeft : SealsNearlyAll;
                var worn = State(new(WearAreas[i], (loss * WearAreas[i] * sealedBy, WearGainSpread), new(0, 0), Aged: true));
                rows.Add(new(new(Fault.GeneralWear), Prior(Fault.GeneralWear) * WearShares[i] * (oiled ? OilShares[k] : 1), withSlip - loss * WearAreas[i], slipSpread, worn));
            }
        }
        for (var i = 0; i < WashAreas.Length; i++)
        {
            var washed = State(new(WashAreas[i], (0.95 * loss * WashAreas[i], 0.05), new(0, 0), Aged: true));
            rows.Add(new(new(Fault.FuelWashed), Prior(Fault.FuelWashed) * WashShares[i], withSlip - loss * WashAreas[i], slipSpread, washed));
        }
        // Without a running test nothing tells a restricted exhaust, and one cylinder does not: the others have to show it too.
        var throttled = !job.Diesel && job.Engine.Throttle != ThrottleControl.None && !job.RunningAlone;
        if (throttled && ran)
        {
            foreach (var idle in RaisedIdle)
            {
                rows.Add(new(new(Fault.None), Prior(Fault.None) * LobeRaisesIdle / RaisedIdle.Length, withSlip - 0.01, slipSpread, State(new(0, (0, 0), new(idle, 0, RaisedIdleSpread), Aged: false))));
            }
        }
        foreach (var (idle, snap, share) in Restrictions)
        {
            var restricted = throttled ? State(new(0, (0, 0), new(idle, snap, RestrictionSpread, RestrictionSpread), Aged: false)) : 0;
            rows.Add(new(new(Fault.ExhaustRestriction), Prior(Fault.ExhaustRestriction) * share, withSlip - 0.01, slipSpread, restricted));
        }
        var cam = Prior(Fault.CamTiming);
        for (var i = 0; i < CamShifts.Length; i++)
        {
            rows.Add(new(new(Fault.CamTiming), cam * CamShares[i], withSlip + CamShifts[i], slipSpread, 0));
        }
        rows.Add(new(new(Fault.CamTiming), cam * NothingLeftOfCam * (job.Seen.Contains(Observation.NoStart) ? NothingLeftWhereNoStart : 1), withSlip + NothingLeft, NothingLeftSpread, 0));
        if (job.Banks.Count >= 2)
        {
            for (var b = 0; b < job.Banks.Count; b++)
            {
                for (var i = 0; i < NodeLikelihoods.BankShifts.Length; i++)
                {
                    rows.Add(new(new(Fault.CamTiming, b), cam / 2 / job.Banks.Count * NodeLikelihoods.BankShifts[i].Share, withSlip, slipSpread, 0, b, i + 1));
                }
            }
        }
        for (var i = 0; i < CarbonShifts.Length; i++)
        {
            rows.Add(new(new(Fault.Carbon), Prior(Fault.Carbon) * CarbonShares[i], withSlip + CarbonShifts[i], slipSpread, 0));
        }
        return rows;
    }

    // How much likelier coolant goes somewhere than by base rate: through a cylinder or beside one, and by another way.
    private (double Coolant, double Elsewhere) CoolantOdds()
    {
        var (gasC, gasE) = Has(EvidenceStage.CombustionGas) ? LikelihoodTable.Gas(job.Gas, job.Suspected.Features?.Contains(EngineFeature.EgrCooler) == true) : (0, 0);
        return (Shift(EvidenceTarget.Coolant) * Factor(gasC), Shift(EvidenceTarget.CoolantElsewhere) * Factor(gasE));
    }

    // Every row at every level that may weigh anything, with its law, and ln of the heaviest of them.
    private (List<(int Row, int Level, double Law)> Terms, double Highest) Terms(ChainSums sums)
    {
        var terms = new List<(int Row, int Level, double Law)>(rows.Count * levels.Length);
        double highest = double.NegativeInfinity;
        for (var r = 0; r < rows.Count; r++)
        {
            var row = rows[r];
            var weight = Math.Log(row.Weight) - (levels.Length == 1 ? 0 : Math.Log(row.Spread));
            for (var level = 0; level < levels.Length; level++)
            {
                var off = (levels[level] - row.Mean) / row.Spread;
                var law = levels.Length == 1 ? weight : weight - off * off / 2;
                // What cannot come near the best so far is not summed: the first row is of the engine without a cause, at every level.
                if (law + sums.AtMost(row, level) < highest + LnNegligible)
                {
                    continue;
                }
                terms.Add((r, level, law));
                highest = Math.Max(highest, law + sums.Total(row, level, withCoolant: true));
            }
        }
        return (terms, highest);
    }

    private ChainSums Chains() => chains ??= new ChainSums(this);

    private Posterior Sum()
    {
        var (coolant, elsewhere) = CoolantOdds();
        var sums = Chains();
        var (terms, highest) = Terms(sums);
        // Several causes share a level and a state: what they weigh together is shared out once.
        var together = new (double With, double Without)[states.Count * PlacesOfBanks * levels.Length];
        var ofRow = new double[rows.Count];
        double anywhere = 0, located = 0;
        foreach (var (r, level, law) in terms)
        {
            var row = rows[r];
            var with = Math.Exp(law + sums.Total(row, level, withCoolant: true) - highest);
            if (with < Negligible)
            {
                continue;
            }
            var without = Math.Min(with, Math.Exp(law + sums.Total(row, level, withCoolant: false) - highest));
            ofRow[r] += without;
            anywhere += without;
            located += coolant * (with - without);
            // Given that coolant goes somewhere in a cylinder: all that is, less what has none of it.
            ref var place = ref together[(row.State * PlacesOfBanks + PlaceOf(row)) * levels.Length + level];
            place = (place.With + coolant * with, place.Without + without * (1 + FaultOdds.CoolantNotLocated * coolant + FaultOdds.CoolantElsewhere * elsewhere - coolant));
        }
        var masses = job.Cylinders.Select(_ => new double[Posterior.Answers]).ToArray();
        for (var state = 0; state < states.Count; state++)
        {
            for (var bank = 0; bank < PlacesOfBanks; bank++)
            {
                for (var level = 0; level < levels.Length; level++)
                {
                    var (with, without) = together[(state * PlacesOfBanks + bank) * levels.Length + level];
                    if (with > 0)
                    {
                        sums.ShareOut(state, bank == 0 ? null : (bank - 1) / NodeLikelihoods.BankShifts.Length, bank == 0 ? 0 : (bank - 1) % NodeLikelihoods.BankShifts.Length + 1, level, with, without, masses);
                    }
                }
            }
        }
        foreach (var cylinder in masses)
        {
            Normalise(cylinder);
        }
        var engine = new Dictionary<EngineCause, double>
        {
            [new(Fault.GasketCoolant)] = located + FaultOdds.CoolantNotLocated * coolant * anywhere,
            [new(Fault.CoolantPathElsewhere)] = FaultOdds.CoolantElsewhere * elsewhere * anywhere,
        };
        for (var r = 0; r < rows.Count; r++)
        {
            engine[rows[r].Cause] = engine.GetValueOrDefault(rows[r].Cause) + ofRow[r];
        }
        var all = engine.Values.Sum();
        return new Posterior(masses, engine.ToDictionary(e => e.Key, e => e.Value / all));
    }

    // The timing of no bank alone, or of each bank by each shift.
    private int PlacesOfBanks => 1 + job.Banks.Count * NodeLikelihoods.BankShifts.Length;

    private static int PlaceOf(Row row) => row.Bank is { } bank ? 1 + bank * NodeLikelihoods.BankShifts.Length + row.BankShift - 1 : 0;

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

    // Everything but dry under a state of the engine: base odds of each node, and how well it would have predicted all that was read.
    private void Weigh(int index, EngineState state, Span<double> like)
    {
        nodes.Weight.CopyTo(like);
        for (var f = 0; f < odds[index].Length; f++)
        {
            var of = like[nodes.OfFault[f].From..nodes.OfFault[f].To];
            TensorPrimitives.Multiply(of, odds[index][f], of);
        }
        if (Has(EvidenceStage.Relative))
        {
            Count(read.Relative(index), like);
        }
        if (Has(EvidenceStage.LeakDownAmount))
        {
            Count(read.LeakDown(index, state.Rings, state.Aged, Has(EvidenceStage.LeakDownHeard)), like);
        }
        if (Has(EvidenceStage.Wet))
        {
            Count(read.Wet(index, state.Wet), like);
        }
        if (Has(EvidenceStage.Running))
        {
            Count(read.Running(index, state.Running), like);
        }
    }

    private void Count(int finding, Span<double> like)
    {
        if (finding != NodeLikelihoods.Unread)
        {
            TensorPrimitives.Multiply(like, read[finding], like);
        }
    }

    // Whether a cylinder's readings can tell two states apart.
    private bool TellsApart(CylinderEvidence c) => (c.Leak is not null && Has(EvidenceStage.LeakDownAmount)) || (c.LnWet is not null && Has(EvidenceStage.Wet)) || ((c.LnIdle ?? c.LnSnap) is not null && Has(EvidenceStage.Running));
}
