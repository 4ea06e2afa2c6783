using Zandrik.Core.Compression;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Core.Safety;
using Zandrik.Core.Shops;

namespace Zandrik.Core.Planning;

/// <summary>One step of a plan.</summary>
/// <param name="Kind">The word of the test in the open record, or <c>prepare</c>.</param>
/// <param name="Name">What it is called.</param>
/// <param name="Minutes">How long it takes, about; a rule of thumb but for the sheet's own access minutes.</param>
/// <param name="Why">Why it stands here, for this engine and this complaint.</param>
/// <param name="Tools">What is needed for it.</param>
/// <param name="IfNeeded">True for a step that waits for what the ones before it show.</param>
public sealed record PlanStep(StepKind Kind, string Name, int Minutes, string Why, IReadOnlyList<string> Tools, bool IfNeeded = false);

/// <summary>
/// Which tests, in which order and why: from the complaint, what was noticed and ruled out, the fuel, and what
/// the engine allows. The order is the trade's: what needs nothing opened first, what leaves oil behind last.
/// </summary>
public static class TestPlan
{
    /// <summary>How gas in the coolant is looked for on an engine that must not be started.</summary>
    public const string WithoutStart = "It is not started for this: put the cold cooling system under pressure, up to what its cap says, and look into each cylinder with a camera.";

    /// <summary>Makes the plan.</summary>
    /// <param name="record">The job: complaint, observations, what is ruled out, the engine.</param>
    /// <param name="workshop">What the shop knows of the engine; absent for nothing.</param>
    /// <param name="shop">The shop's settings.</param>
    /// <param name="safety">What is locked, and what is not offered; absent for what the record alone says.</param>
    /// <returns>The steps in working order; never empty.</returns>
    public static IReadOnlyList<PlanStep> For(TestRecord record, WorkshopSheet? workshop, ShopSettings shop, JobSafety? safety = null)
    {
        safety ??= JobSafety.Of(record, shop: shop);
        var engine = record.Engine;
        var seen = (record.Observations ?? []).ToHashSet();
        bool Any(params Observation[] which) => which.Any(seen.Contains);
        var n = engine.Cylinders;
        var diesel = engine.Fuel == Fuel.Diesel;
        var throttled = !diesel && engine.Throttle != ThrottleControl.None;
        var access = (int)Math.Ceiling(engine.AccessMinutes ?? workshop?.AccessMinutes ?? 0);
        // What was ruled out already is not gone after again.
        var open = RuledOutList.Engine(record);
        var steps = new List<PlanStep>();

        if (safety.Liquid.IsLocked)
        {
            steps.Add(new(StepKind.Liquid, "Plugs out before it is cranked", access + StepMinutes.EachPlug * n, $"Liquid may stand in a cylinder ({string.Join("; ", safety.Liquid.Open.Select(s => s.Says))}): it does not compress and bends rods. Plugs out and read, everybody clear, crank with the holes open, dry it, then tick it off. Until then nothing is cranked with plugs in or started.", PlugTools(workshop)));
        }
        if (Any(Observation.MilkyOil, Observation.OilInCoolant, Observation.CoolantLoss, Observation.Overheated, Observation.CoolantInCylinder, Observation.WhiteSmoke))
        {
            steps.Add(new(StepKind.Fluids, "Look at the fluids", StepMinutes.Fluids, Because(seen, Observation.MilkyOil, Observation.OilInCoolant, Observation.CoolantLoss, Observation.Overheated, Observation.CoolantInCylinder, Observation.WhiteSmoke) + ": coolant and oil first, cold. Cream under the cap alone can be short trips; on the dipstick it counts.", ["torch"]));
        }
        if (open.Features?.Contains(EngineFeature.CoolantHeatedIntake) == true && Any(Observation.CoolantLoss, Observation.CoolantInCylinder, Observation.WhiteSmoke))
        {
            steps.Add(new(StepKind.CoolantInIntake, "Coolant in the intake", StepMinutes.Fluids, Because(seen, Observation.CoolantLoss, Observation.CoolantInCylinder, Observation.WhiteSmoke) + ": this engine's heated manifold can let coolant in with a sound gasket. Before any start.", ["torch"]));
        }
        if (safety.Offers(StepKind.CrankSound))
        {
            steps.Add(new(StepKind.CrankSound, "Listen to it crank", StepMinutes.CrankSound, "Even, uneven or fast: it costs nothing and says where to look.", []));
        }
        if (safety.Offers(StepKind.Relative))
        {
            steps.Add(new(StepKind.Relative, "Relative compression", StepMinutes.Relative, diesel || access >= 20
                ? $"No plug out, minutes only{(access >= 20 ? $", while the plugs are {access} minutes away" : "")}: finds an uneven cylinder before anything is taken apart."
                : "No plug out: finds an uneven cylinder. It says nothing about an evenly worn engine.", ["current clamp", "charged battery"]));
        }
        steps.Add(new(StepKind.Prepare, diesel ? "Prepare, and pull all glow plugs in order" : "Prepare, and pull all plugs in order", StepMinutes.Prepare + access + StepMinutes.EachPlug * n,
            $"{(diesel ? "Fuel shut off" : "Fuel and ignition off")}{(throttled ? ", throttle open" : "")}, {(diesel ? "glow plugs out in order" : "plugs read as they come")}{(access > 0 ? $"; {access} of these minutes are access" : "")}.", [.. PlugTools(workshop), "battery charger", throttled ? "throttle wedge with a cord" : "", "eye protection, gloves"]));
        steps.Add(new(StepKind.Plugs, "Read the plugs", StepMinutes.Plugs(n), "Each plug says something of its cylinder before any gauge does.", ["tray with numbers"]));
        steps.Add(new(StepKind.Dry, "Dry compression", StepMinutes.Dry(n), Dry(seen, record, diesel), [Gauge(diesel), AdapterText(workshop)]));
        if (Any(Observation.CoolantLoss, Observation.CoolantBubbles, Observation.Overheated, Observation.HeadOffBefore) || (!diesel && Any(Observation.WhiteSmoke)))
        {
            steps.Add(new(StepKind.CombustionGas, "Combustion gas in the coolant", StepMinutes.CombustionGas, Because(seen, Observation.CoolantLoss, Observation.CoolantBubbles, Observation.Overheated, Observation.HeadOffBefore, Observation.WhiteSmoke)
                + $": a gasket can leak to coolant with every cylinder reading well.{(open.Features?.Contains(EngineFeature.EgrCooler) == true ? " This engine's exhaust-gas cooler gives a false positive." : "")} {(safety.Liquid.IsLocked || safety.DoesNotStart ? WithoutStart : "Coolant opened and lowered cold.")}",
                safety.Liquid.IsLocked || safety.DoesNotStart ? ["cooling system pump", "camera"] : ["test fluid", "clean hose"]));
        }
        var leak = new PlanStep(StepKind.LeakDown, "Leak-down on the low cylinders", StepMinutes.LeakDown(1), $"How much is lost, and where it is heard.{(engine.Gearbox == Gearbox.Automatic ? " Automatic gearbox: the crank is held by the maker's lock, never by a bar." : "")}", ["leak-down tester", "air supply", engine.Gearbox == Gearbox.Manual ? "wheel chocks" : "crank or flywheel lock"], IfNeeded: true);
        var wet = Wet(engine, shop, diesel);
        steps.AddRange((shop.Wet, wet) switch
        {
            (_, null) => [leak],
            (WetMethod.WetFirst, { } first) => [first, leak with { Why = leak.Why + " After oil ring leakage reads low: run and clear first." }],
            (_, { } last) => [leak, last],
        });
        // What needs a running engine: not while liquid may stand in it, and not on one that does not start.
        var runs = !safety.Liquid.IsLocked && !safety.DoesNotStart;
        if (runs && throttled && Any(Observation.LowPower, Observation.RoughIdle, Observation.Misfire, Observation.MisfireCold, Observation.MisfireWarm, Observation.IntakePopping, Observation.ExhaustPuffing))
        {
            steps.Add(new(StepKind.Running, "Running and snap compression", StepMinutes.Running(n), Because(seen, Observation.LowPower, Observation.RoughIdle, Observation.Misfire, Observation.MisfireCold, Observation.MisfireWarm, Observation.IntakePopping, Observation.ExhaustPuffing)
                + ": where the dry figures are good, does each cylinder breathe?", [Gauge(diesel), "spark tester"], IfNeeded: true));
        }
        if (runs && Any(Observation.Noise, Observation.TimingJumped))
        {
            steps.Add(new(StepKind.OilPressure, "Oil pressure at several speeds", StepMinutes.OilPressure, Because(seen, Observation.Noise, Observation.TimingJumped) + ": a mechanical gauge, hot, against the dash.", ["mechanical oil gauge"], IfNeeded: true));
        }
        if (engine.Lifters == Lifters.Solid && Any(Observation.Noise, Observation.MisfireCold, Observation.MisfireWarm, Observation.ExhaustPuffing, Observation.IntakePopping))
        {
            steps.Add(new(StepKind.ValveClearance, "Valve clearances", StepMinutes.ValveClearance(n), "Solid lifters: a tight valve leaks, and gets tighter.", ["feeler gauges"], IfNeeded: true));
        }
        if (runs && throttled && Any(Observation.LowPower, Observation.RoughIdle) && !RuledOut(record, "vacuum", "air leak"))
        {
            steps.Add(new(StepKind.Vacuum, "Manifold vacuum", StepMinutes.Vacuum, Because(seen, Observation.LowPower, Observation.RoughIdle) + ": low and even is timing or wear, a beat is a valve.", ["vacuum gauge"], IfNeeded: true));
        }
        if (runs && Any(Observation.BlowBy, Observation.OilUse, Observation.BlueSmoke))
        {
            steps.Add(new(StepKind.BlowBy, "Blow-by", StepMinutes.BlowBy, Because(seen, Observation.BlowBy, Observation.OilUse, Observation.BlueSmoke) + ": gas at the oil filler, even or in puffs, and whether the breather is free.", [], IfNeeded: true));
        }
        if (Any(Observation.OilUse, Observation.BlueSmoke))
        {
            steps.Add(new(StepKind.OilUse, "Oil use over a distance", StepMinutes.OilUse, Because(seen, Observation.OilUse, Observation.BlueSmoke) + ": with sound readings it is oil-control rings, stem seals or the breather, and no cylinder is blamed.", [], IfNeeded: true));
        }
        return [.. steps.Select(s => s with { Tools = [.. s.Tools.Where(t => t.Length > 0)] })];
    }

    /// <summary>Minutes of the steps that are done in any case, and of those that wait for what they show.</summary>
    /// <returns>Minutes each, 0 or more.</returns>
    public static (int Sure, int IfNeeded) Minutes(IReadOnlyList<PlanStep> plan) =>
        (plan.Where(s => !s.IfNeeded).Sum(s => s.Minutes), plan.Where(s => s.IfNeeded).Sum(s => s.Minutes));

    private static string Dry(HashSet<Observation> seen, TestRecord record, bool diesel)
    {
        var why = "Every cylinder, the same way: does each hold its charge?";
        if (seen.Contains(Observation.MisfireCold))
        {
            why += " The misfire shows cold: test cold first, and warm for comparison.";
        }
        if (diesel && seen.Contains(Observation.WhiteSmoke))
        {
            why += " White smoke on a diesel is mostly unburnt fuel from a low or cold cylinder.";
        }
        if (record.RuledOut is { Count: > 0 } ruled)
        {
            var mechanics = ruled.Any(r => RuledOutList.ItemOf(r) is RuledOutItem.Spark or RuledOutItem.Fuel or RuledOutItem.Injector);
            why += $" Already ruled out: {string.Join(", ", ruled.Select(RuledOutList.Name))}{(mechanics ? "; so the mechanics are next" : "")}.";
        }
        return why;
    }

    private static PlanStep? Wet(EngineSheet engine, ShopSettings shop, bool diesel)
    {
        if (WetRules.Forbids(engine, shop) is not null)
        {
            return null;
        }
        return new(StepKind.Wet, "Wet compression on the low cylinders", StepMinutes.Wet(1),
            $"Do the rings take part? {(WetRules.IsWeak(engine) ? "On a flat or slanted engine oil does not reach the whole ring: weaker evidence. " : "")}A spin with the hole open comes before the gauge: liquid does not compress.",
            ["engine oil", diesel ? "syringe, 3 ml at most" : "oil can or syringe", "rag"], IfNeeded: true);
    }

    private static string Because(HashSet<Observation> seen, params Observation[] which) =>
        string.Join(", ", which.Where(seen.Contains).Select(ObservationWords.Of)) is { Length: > 0 } text ? char.ToUpperInvariant(text[0]) + text[1..] : "";

    private static bool RuledOut(TestRecord record, params string[] words) =>
        (record.RuledOut ?? []).Any(r => words.Any(w => r.What?.Contains(w, StringComparison.OrdinalIgnoreCase) == true));

    private static string Gauge(bool diesel) => diesel ? "diesel gauge to 70 bar (1000 psi)" : "compression gauge, check valve at the hose tip";

    private static string AdapterText(WorkshopSheet? w) => w?.PlugThread is { } thread
        ? FormattableString.Invariant($"adapter {thread}{(w.PlugPitchMm is { } p ? $" × {p:0.##}" : "")}{(w.PlugReachMm is { } r ? $", reach {r:0.#} mm" : "")}")
        : "adapter of the plug's thread and reach";

    private static string[] PlugTools(WorkshopSheet? w) =>
    [
        w?.PlugSocketMm is { } mm ? FormattableString.Invariant($"{mm:0.#} mm plug socket{(w.WellDepthMm is { } deep ? $", extension over {deep:0} mm" : "")}") : "plug socket and extension",
        "compressed air for the wells",
    ];
}
