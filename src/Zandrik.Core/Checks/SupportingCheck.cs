using Zandrik.Core.Records;
using Zandrik.Core.Safety;

namespace Zandrik.Core.Checks;

/// <summary>
/// A small check beside the compression tests: what it is for, the order in which it is done so that nobody is hurt,
/// and what makes it false. Rules of the trade; the maker's procedure comes first.
/// </summary>
/// <param name="Kind">Which it is; two of them stand among the fluids in a record.</param>
/// <param name="Name">What it is called.</param>
/// <param name="Short">The same in a word or two, for the rail.</param>
/// <param name="WhatFor">What it can show.</param>
/// <param name="SafeOrder">How it is done, step by step.</param>
/// <param name="MadeFalseBy">What makes it say something that is not so.</param>
public sealed record SupportingCheck(StepKind Kind, string Name, string Short, string WhatFor, IReadOnlyList<string> SafeOrder, IReadOnlyList<string> MadeFalseBy)
{
    /// <summary>Every check, in working order.</summary>
    public static IReadOnlyList<SupportingCheck> All { get; } =
    [
        new(StepKind.Fluids, "Fluids", "Fluids", "Coolant and oil say where the two have met, before anything is taken off.",
            ["Engine cold. A hot system scalds when it is opened.", "Coolant: level, colour, oil on it.", "Oil: dipstick, then the filler cap.", "Cap, hoses and the outside of the engine for leaks."],
            ["Cream under the filler cap alone can be short trips; on the dipstick it counts.", "An oil cooler mixes fluids with a sound gasket."]),
        new(StepKind.CrankSound, "Crank sound", "Crank sound", "Even, one uneven, or all fast: a first look that costs nothing.",
            ["Fuel and ignition off, everybody clear of fan, belts and pulleys.", "Listen to two or three seconds on the starter."],
            ["A weak battery slows every cylinder.", "Plugs out it tells nothing."]),
        new(StepKind.CoolantInIntake, "Coolant in the intake", "Intake wet?", "A manifold heated by coolant can let it into a cylinder with a sound gasket.",
            ["Engine off and cold.", "Throttle body off or open: look and feel for wet, sweet-smelling traces.", "Found: do not start the engine. Liquid does not compress."],
            ["Condensed water after a cold night; fuel from a flooded start."]),
        new(StepKind.CombustionGas, "Combustion gas in the coolant", "Coolant gas", "Gas in the coolant is a gasket or a crack, also where every cylinder reads well.",
            ["Open and lower the coolant cold; catch it.", "Fit the tester, block the overflow.", "Warm the engine up and let it idle a few minutes, exhaust led outside.", "Draw air from above the coolant through the fluid; never coolant.", "Let it cool before the tester comes off."],
            ["Coolant or tailpipe air drawn in.", "An exhaust-gas cooler that leaks gives a false positive.", "Too short or too cold gives a false negative: right about 17 times in 20."]),
        new(StepKind.OilPressure, "Oil pressure", "Oil pressure", "A mechanical gauge against the dash, hot, at several speeds: bearings and pump, or the relief valve.",
            ["Engine off to fit the gauge; hose clear of belts and exhaust.", "Run until the oil is hot; check for leaks before you lean in.", "Read at idle, then at the speeds the maker names."],
            ["Cold oil reads high.", "The same pressure from a certain speed on is the relief valve, not wear."]),
        new(StepKind.ValveClearance, "Valve clearances", "Clearances", "A tight valve leaks, and gets tighter; a loose one opens late and little.",
            ["Engine cold, key out.", "Turn by hand in its direction, each cylinder at TDC on compression.", "Feeler drags lightly; write down what fits."],
            ["Measured warm, or on the flank of the lobe.", "Hydraulic lifters have none to measure."]),
        new(StepKind.Vacuum, "Manifold vacuum", "Vacuum", "Low and even is timing or wear, a beat is one valve, a slow fall is a blocked exhaust.",
            ["Gauge behind the throttle; engine warm, idling, exhaust led outside, park brake on.", "Hands and hose clear of fan and belts.", "Read it steady, then on a short blip."],
            ["Air leaks anywhere behind the throttle.", "Height: about 3.5 kPa less for each 300 m."]),
        new(StepKind.OilUse, "Oil use", "Oil use", "With sound readings oil goes by control rings, stem seals or the breather, and no cylinder is to blame.",
            ["Fill to the mark on level ground, wait, note the odometer.", "After a distance fill to the same mark and note how much."],
            ["Leaks outside count as use.", "Fuel or coolant in the oil hides it."]),
        new(StepKind.BlowBy, "Blow-by", "Blow-by", "Gas from the crankcase: rings, or a piston; in puffs it is one cylinder.",
            ["Engine warm, idling, park brake on, exhaust led outside.", "Loosen the oil filler cap and lay it on: does it dance, does it blow?", "Face and sleeves clear of fan and belts; hot oil spits."],
            ["A blocked breather blows with sound rings.", "A turbocharger's seals let gas in too."]),
    ];

    /// <summary>The coolant gas test on an engine that does not start, or must not be started.</summary>
    private static readonly string[] GasWithoutStart =
    [
        "Engine off and cold: it is not started for this.",
        "Cooling system under pressure with a hand pump, cold, up to what its cap says and no more.",
        "Watch the gauge for some minutes: does it fall, and is anything wet outside?",
        "Plugs out, camera into each cylinder: drops, a washed piston crown, a wet wall?",
        "Found in a cylinder: note it with the fluids or at its plug. The fluid's own answer needs a running engine.",
    ];

    /// <summary>How the check is done as a job stands: an engine that is not started is looked at without.</summary>
    /// <param name="safety">How the job stands.</param>
    /// <returns>The steps in the order in which nobody is hurt, at least one.</returns>
    public IReadOnlyList<string> OrderFor(JobSafety safety) => Kind == StepKind.CombustionGas && safety.GasWithoutStart ? GasWithoutStart : SafeOrder;

    /// <summary>Why a check is not done as a job stands; absent when it may be. Only what cranks with plugs in or starts the engine is ever locked.</summary>
    /// <param name="kind">The check.</param>
    /// <param name="safety">How the job stands.</param>
    /// <returns>One sentence with what to do first; null when it may be done.</returns>
    public static string? Locked(StepKind kind, JobSafety safety) => kind switch
    {
        StepKind.CrankSound => safety.ForbidsCranking,
        StepKind.CombustionGas or StepKind.Vacuum or StepKind.BlowBy or StepKind.OilPressure => safety.ForbidsStart,
        _ => safety.ForbidsWriting,
    };

    /// <summary>The check of a kind; absent for a step that is none.</summary>
    /// <returns>The check; null for a step that is none.</returns>
    public static SupportingCheck? Of(StepKind kind) => All.FirstOrDefault(c => c.Kind == kind);

    /// <summary>The kind of check a test of a record is; absent for a compression test, a leak-down or the plugs.</summary>
    /// <returns>The check's step; null for a compression test, a leak-down or the plugs.</returns>
    public static StepKind? KindOf(TestEntry test) => test switch
    {
        FluidsCheck { BlowBy: not null } => StepKind.BlowBy,
        FluidsCheck { CoolantInIntake: not null } => StepKind.CoolantInIntake,
        FluidsCheck => StepKind.Fluids,
        CrankSoundCheck => StepKind.CrankSound,
        CombustionGasTest => StepKind.CombustionGas,
        OilPressureTest => StepKind.OilPressure,
        ValveClearanceCheck => StepKind.ValveClearance,
        ManifoldVacuumTest => StepKind.Vacuum,
        OilUseCheck => StepKind.OilUse,
        _ => null,
    };
}
