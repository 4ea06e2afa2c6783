using Zandrik.Core.Records;

namespace Zandrik.Web.Intake;

/// <summary>Observations as a technician asks for them: how it runs, what it loses, what it shows, what happened to it.</summary>
public static class ObservationGroups
{
    /// <summary>The groups in the order of asking; every observation is in one.</summary>
    public static IReadOnlyList<(string Title, IReadOnlyList<Observation> Observations)> All { get; } =
    [
        ("How it runs",
        [
            Observation.Misfire, Observation.MisfireCold, Observation.MisfireWarm, Observation.NoStart, Observation.HardStart,
            Observation.LowPower, Observation.RoughIdle, Observation.Noise, Observation.UnevenCrank, Observation.PoorEconomy, Observation.Pinging,
        ]),
        ("What it loses",
        [
            Observation.CoolantLoss, Observation.OilUse, Observation.Overheated, Observation.CoolantBubbles, Observation.MilkyOil,
            Observation.OilInCoolant, Observation.CoolantInCylinder, Observation.CapOrHoseDamaged,
        ]),
        ("What it shows",
        [
            Observation.BlueSmoke, Observation.WhiteSmoke, Observation.BlackSmoke, Observation.BlowBy, Observation.ExhaustPuffing, Observation.IntakePopping,
        ]),
        ("What happened to it",
        [
            Observation.TimingJumped, Observation.IngestedLiquid, Observation.Flooded, Observation.StoodLong, Observation.HeadOffBefore,
            Observation.AfterRebuild, Observation.PrePurchase,
        ]),
    ];
}
