
#pragma warning disable CS1591 // The words are the trade's own terms; docs/test-record-1.schema.json lists them.

// The closed lists of the open record. In JSON every word is written in lower case with hyphens
// (OilCooler is "oil-cooler"); a word that is spelt otherwise says so on its member.
namespace Zandrik.Core.Records;

/// <summary>What the engine burns.</summary>
public enum Fuel { Petrol, Diesel, Lpg, Cng, Ethanol }

/// <summary>How the cylinders are arranged.</summary>
public enum CylinderArrangement { Inline, V, Flat, W }

/// <summary>Which way the crank turns, seen from the front of the engine.</summary>
public enum Rotation { Clockwise, Anticlockwise }

/// <summary>How the throttle plate is moved; <see cref="None"/> for an unthrottled engine.</summary>
public enum ThrottleControl { Cable, ByWire, None }

/// <summary>The gearbox behind the engine, which decides how the crank can be held.</summary>
public enum Gearbox { Manual, Automatic, None }

/// <summary>The valve lifters: clearances exist only with solid ones.</summary>
public enum Lifters { Solid, Hydraulic }

/// <summary>Features of an engine that change a test or lay a false trail.</summary>
public enum EngineFeature
{
    OilCooler, EgrCooler, CoolantHeatedIntake, Turbo, Supercharger, WetLiners, DirectInjection, WasteSpark, Carburettor, Hybrid,
}

/// <summary>What a test was done for, where it was not to judge the engine.</summary>
public enum TestRole
{
    /// <summary>To compare gauges: it judges no cylinder.</summary>
    GaugeCheck,
}

/// <summary>The units a feeler gauge is marked in: millimetres, or thousandths of an inch.</summary>
public enum ClearanceUnit { Mm, Thou }

/// <summary>A spark as it is seen in a tester.</summary>
public enum SparkSeen { Blue, Weak, None }

/// <summary>The unit of an odometer or hour meter.</summary>
public enum DistanceUnit { Km, Mi, H }

/// <summary>What the customer or the technician noticed before any test.</summary>
public enum Observation
{
    Misfire, MisfireCold, MisfireWarm, NoStart, HardStart, LowPower, RoughIdle, Noise, UnevenCrank, CoolantLoss,
    Overheated, CoolantBubbles, MilkyOil, OilInCoolant, CoolantInCylinder, OilUse, BlueSmoke, WhiteSmoke, BlackSmoke,
    BlowBy, PoorEconomy, TimingJumped, IngestedLiquid, Flooded, ExhaustPuffing, IntakePopping, Pinging, StoodLong,
    HeadOffBefore, CapOrHoseDamaged, AfterRebuild, PrePurchase,
}

/// <summary>Engine temperature during a test.</summary>
public enum EngineTemperature { Warm, Cold }

/// <summary>Throttle plate during a test: seen open, shut, or not looked at.</summary>
public enum ThrottlePlate { Open, Closed, Unverified }

/// <summary>Whether all plugs were out, or only that of the cylinder under test.</summary>
public enum PlugsRemoved { AllOut, OneAtATime }

/// <summary>A supply (fuel, ignition) during a test.</summary>
public enum Supply { Off, On }

/// <summary>The battery during a test.</summary>
public enum BatteryState { Charger, Good, Weak }

/// <summary>Where the gauge's check valve sits: at the hose tip, or in the head, which adds the hose to the chamber.</summary>
public enum CheckValvePlace { HoseTip, GaugeHead }

/// <summary>What ended each reading: a number of compressions, a needle that stopped, or a time.</summary>
public enum CountMode { Pulses, UntilStopped, Seconds }

/// <summary>Where escaping air was heard in a leak-down test.</summary>
public enum ListeningPlace { Intake, Exhaust, OilFiller, Coolant, AdjacentPlugHole, OtherPlugHole, Nowhere }

/// <summary>How strongly air was heard: an order, not a share.</summary>
public enum HeardStrength { Faint, Clear, Strong }

/// <summary>Answer of the test fluid for combustion gas in the coolant.</summary>
public enum CombustionGasResult { Positive, Unclear, Negative }

/// <summary>How the engine sounded on the starter.</summary>
public enum CrankSoundResult { Even, Uneven, Fast }

/// <summary>How the vacuum needle behaved.</summary>
public enum VacuumBehaviour { Steady, Fluctuating, Dropping, Low }

/// <summary>What was found in the fluids.</summary>
public enum FluidFinding
{
    CoolantLoss, CoolantBubbles, MilkyOil, OilInCoolant, CoolantInCylinder, OilUse, CapOrHoseDamaged, Clean, BlowBy,
    OilClean, CoolantClean, CoolantInIntake, NoOilInCoolant, NoCoolantInOil, BlowByNone, BlowBySome, BlowByMuch,
}

/// <summary>Gas out of the oil filler or breather with the engine running.</summary>
public enum BlowBy { Little, Much, Puffing }

/// <summary>What a plug looked like.</summary>
public enum PlugSign { Normal, OilWet, FuelWet, CoolantWet, CoolantCleaned, DrySoot, Flashover, Broken, WetUnknown }

/// <summary>The valve a clearance was measured at.</summary>
public enum ValveSide { Intake, Exhaust }

/// <summary>A way to judge the spread between cylinders; measures and limits in <c>Readings.SpreadLimits</c>.</summary>
public enum SpreadMethod { MakerDifference, PercentOfHighest, LowestToHighest, AroundTheMean, FixedPressure }

/// <summary>How strictly leak-down figures are read.</summary>
public enum LeakDownMethod { Strict, Workshop, Zone }

/// <summary>What was found, or is suspected: cylinder and engine-wide faults in one list.</summary>
public enum Fault
{
    Sound, Rings, Piston, IntakeValve, ExhaustValve, GasketAdjacent, GasketCoolant, IntakeNotOpening,
    ExhaustNotOpening, ShortStroke, FuelWashed, Carbon, TestError, None, CoolantPathElsewhere, CamTiming,
    GeneralWear, ExhaustRestriction, OilControl,
}

/// <summary>A line of the preparation list.</summary>
public enum PreparationItem { Warm, Battery, PlugWells, Labelled, Fuel, Ignition, Plugs, Throttle, Adapter, GaugeAtZero, Clear, AirPath, OilFiller, CoolantCap }
