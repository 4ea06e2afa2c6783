using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>What an observation speaks for.</summary>
public enum EvidenceTarget
{
    /// <summary>For or against a fault of every cylinder.</summary>
    Cylinder,

    /// <summary>For a cause of the whole engine.</summary>
    Engine,

    /// <summary>For burnt webs between neighbours.</summary>
    Webs,

    /// <summary>For gas or coolant through a gasket or crack.</summary>
    Coolant,

    /// <summary>For coolant lost by another way.</summary>
    CoolantElsewhere,
}

/// <summary>One line of the table of observations.</summary>
/// <param name="Seen">What was noticed.</param>
/// <param name="For">What it speaks for.</param>
/// <param name="Fault">The fault or cause; none for coolant and webs.</param>
/// <param name="Db">How much, decibans; below zero against it.</param>
public sealed record ObservationWeight(Observation Seen, EvidenceTarget For, Fault Fault, double Db);

/// <summary>What was noticed before any reading, as weights on the odds. Rules of the trade. Several that speak for one thing: the strongest, and four tenths of the rest; from −6 to 14 dB.</summary>
public static class ObservationWeights
{
    private const double Rest = 0.4, Least = -6, Most = 14, MostCoolant = 25, MostElsewhere = 18;

    /// <summary>The table.</summary>
    public static IReadOnlyList<ObservationWeight> All { get; } = [.. Table()];

    private static IEnumerable<ObservationWeight> Table()
    {
        static ObservationWeight C(Observation seen, double db) => new(seen, EvidenceTarget.Coolant, Fault.GasketCoolant, db);
        static ObservationWeight E(Observation seen, double db) => new(seen, EvidenceTarget.CoolantElsewhere, Fault.CoolantPathElsewhere, db);
        static ObservationWeight W(Observation seen, double db) => new(seen, EvidenceTarget.Webs, Fault.GasketAdjacent, db);
        static ObservationWeight L(Observation seen, Fault fault, double db) => new(seen, EvidenceTarget.Cylinder, fault, db);
        static ObservationWeight N(Observation seen, Fault cause, double db) => new(seen, EvidenceTarget.Engine, cause, db);
        return
        [
            C(Observation.CoolantLoss, 7), E(Observation.CoolantLoss, 10),
            C(Observation.Overheated, 5), E(Observation.Overheated, 3), W(Observation.Overheated, 4),
            C(Observation.CoolantBubbles, 9), E(Observation.CoolantBubbles, 2),
            C(Observation.CoolantInCylinder, 9), E(Observation.CoolantInCylinder, 2),
            C(Observation.MilkyOil, 8), E(Observation.MilkyOil, 7),
            C(Observation.OilInCoolant, 9), E(Observation.OilInCoolant, 13),
            C(Observation.WhiteSmoke, 5), E(Observation.WhiteSmoke, 2),
            C(Observation.CapOrHoseDamaged, -2), E(Observation.CapOrHoseDamaged, 13),
            C(Observation.HeadOffBefore, 2), W(Observation.HeadOffBefore, 3),
            C(Observation.MisfireCold, 2),
            L(Observation.OilUse, Fault.Rings, 4), N(Observation.OilUse, Fault.GeneralWear, 5),
            L(Observation.BlueSmoke, Fault.Rings, 4), N(Observation.BlueSmoke, Fault.GeneralWear, 4),
            L(Observation.BlowBy, Fault.Rings, 5), L(Observation.BlowBy, Fault.Piston, 8), N(Observation.BlowBy, Fault.GeneralWear, 5),
            L(Observation.Flooded, Fault.FuelWashed, 11), N(Observation.Flooded, Fault.FuelWashed, 14),
            L(Observation.NoStart, Fault.FuelWashed, 4), N(Observation.NoStart, Fault.FuelWashed, 4), N(Observation.NoStart, Fault.CamTiming, 5), N(Observation.NoStart, Fault.GeneralWear, 2),
            L(Observation.HardStart, Fault.FuelWashed, 3), N(Observation.HardStart, Fault.FuelWashed, 3), N(Observation.HardStart, Fault.CamTiming, 3), N(Observation.HardStart, Fault.GeneralWear, 2),
            L(Observation.BlackSmoke, Fault.FuelWashed, 2), N(Observation.BlackSmoke, Fault.FuelWashed, 2),
            N(Observation.TimingJumped, Fault.CamTiming, 13), L(Observation.TimingJumped, Fault.IntakeValve, 4), L(Observation.TimingJumped, Fault.ExhaustValve, 4),
            L(Observation.IngestedLiquid, Fault.ShortStroke, 13),
            L(Observation.Pinging, Fault.Carbon, 6), N(Observation.Pinging, Fault.Carbon, 6),
            L(Observation.ExhaustPuffing, Fault.ExhaustValve, 6),
            L(Observation.IntakePopping, Fault.IntakeValve, 6), L(Observation.IntakePopping, Fault.IntakeNotOpening, 2),
            L(Observation.StoodLong, Fault.Rings, 3), L(Observation.StoodLong, Fault.IntakeValve, 2), L(Observation.StoodLong, Fault.ExhaustValve, 2),
            N(Observation.LowPower, Fault.GeneralWear, 2), N(Observation.LowPower, Fault.CamTiming, 2), N(Observation.LowPower, Fault.ExhaustRestriction, 4),
            L(Observation.LowPower, Fault.IntakeNotOpening, 2), L(Observation.LowPower, Fault.ExhaustNotOpening, 2),
            L(Observation.UnevenCrank, Fault.Sound, -2),
            L(Observation.Misfire, Fault.Sound, -1.5), L(Observation.MisfireCold, Fault.Sound, -1), L(Observation.MisfireWarm, Fault.Sound, -1),
            L(Observation.RoughIdle, Fault.Sound, -0.7),
            N(Observation.AfterRebuild, Fault.CamTiming, 3), N(Observation.AfterRebuild, Fault.TestError, 1),
        ];
    }

    /// <summary>The weight on one thing, dB.</summary>
    /// <param name="seen">What was noticed.</param>
    /// <param name="engine">The engine: an oil cooler, a heated intake, a diesel's smoke change what a sign means.</param>
    /// <param name="what">What is asked.</param>
    /// <param name="fault">The fault or cause; ignored for coolant and webs.</param>
    /// <param name="coolantInIntake">True where coolant stands in the intake: by a heated manifold, where the engine has one that was not ruled out.</param>
    /// <returns>dB; 0 where the sign says nothing of it.</returns>
    public static double Of(IReadOnlySet<Observation> seen, EngineSheet engine, EvidenceTarget what, Fault fault = Fault.None, bool coolantInIntake = false)
    {
        var heated = engine.Features?.Contains(EngineFeature.CoolantHeatedIntake) == true;
        double[] intake = !coolantInIntake ? [] : what switch { EvidenceTarget.Coolant => [heated ? 2 : 5], EvidenceTarget.CoolantElsewhere => [heated ? 14 : 6], _ => [] };
        var weights = All.Where(w => w.For == what && seen.Contains(w.Seen) && (what is not (EvidenceTarget.Cylinder or EvidenceTarget.Engine) || w.Fault == fault)).Select(w => Here(w, engine)).Concat(intake).OrderByDescending(Math.Abs).ToList();
        return weights.Count == 0 ? 0 : Math.Clamp(weights[0] + Rest * weights.Skip(1).Sum(), Least, what switch { EvidenceTarget.Coolant => MostCoolant, EvidenceTarget.CoolantElsewhere => MostElsewhere, _ => Most });
    }

    private static double Here(ObservationWeight w, EngineSheet engine)
    {
        bool Has(EngineFeature f) => engine.Features?.Contains(f) == true;
        return (w.Seen, w.For) switch
        {
            (Observation.MilkyOil, EvidenceTarget.Coolant) when Has(EngineFeature.OilCooler) => 5,
            (Observation.OilInCoolant, EvidenceTarget.Coolant) when Has(EngineFeature.OilCooler) => 4,
            (Observation.MilkyOil or Observation.OilInCoolant, EvidenceTarget.CoolantElsewhere) when Has(EngineFeature.OilCooler) => w.Db + 3,
            (Observation.WhiteSmoke, EvidenceTarget.Coolant) when engine.Fuel == Fuel.Diesel => 1,
            (Observation.CoolantInCylinder, EvidenceTarget.Coolant) when Has(EngineFeature.CoolantHeatedIntake) => 5,
            (Observation.CoolantInCylinder, EvidenceTarget.CoolantElsewhere) when Has(EngineFeature.CoolantHeatedIntake) => 8,
            _ => w.Db,
        };
    }
}
