using Zandrik.Core.Engines;
using Zandrik.Core.Records;

namespace Zandrik.Core.Preparation;

/// <summary>One line to tick before an engine is cranked.</summary>
/// <param name="Item">What it is about.</param>
/// <param name="Says">What has to be done.</param>
/// <param name="Ways">The ways it is done on this engine; one of them is noted with the tick. Empty where there is only one.</param>
/// <param name="Required">True for a line without which nobody should crank.</param>
/// <param name="Caution">What can hurt somebody here; absent where nothing can.</param>
public sealed record PreparationLine(PreparationItem Item, string Says, IReadOnlyList<PreparationWay> Ways, bool Required, string? Caution = null);

/// <summary>One way of doing a line.</summary>
/// <param name="Word">Its word, as it is stored.</param>
/// <param name="Says">What is done.</param>
/// <param name="Back">What has to be put back afterwards; absent for nothing.</param>
public sealed record PreparationWay(string Word, string Says, string? Back = null);

/// <summary>
/// What has to be ready before the first crank on this kind of engine. Petrol, gas and diesel are disabled
/// differently, and a plate moved by wire has to be seen.
/// </summary>
public static class PreparationList
{
    /// <summary>What is said of an engine that may start by itself.</summary>
    internal const string Hybrid = "A hybrid may start by itself: high voltage off and cranking only by the maker's procedure, by whoever is licensed for it.";

    /// <summary>The lines for an engine, in the order in which they are done.</summary>
    /// <param name="engine">The engine.</param>
    /// <param name="workshop">What the shop knows of it; absent for nothing.</param>
    /// <returns>The lines; never empty.</returns>
    public static IReadOnlyList<PreparationLine> For(EngineSheet engine, WorkshopSheet? workshop = null)
    {
        var diesel = engine.Fuel == Fuel.Diesel;
        var gas = engine.Fuel is Fuel.Lpg or Fuel.Cng;
        var throttled = !diesel && engine.Throttle != ThrottleControl.None;
        var lines = new List<PreparationLine>
        {
            new(PreparationItem.Warm, "Engine at the temperature the fault shows at",
                [new("warm", "warm"), new("cold", "cold, on purpose: compared with cold tests only")], false, "Hot engine: gloves. Coolant is opened only cold."),
            new(PreparationItem.Battery, "Battery full, or on a charger", [new("charger", "on a charger", "Charger off and leads stowed"), new("full", "full")], false),
            new(PreparationItem.PlugWells, "Plug wells blown out before anything is unscrewed", [], true, "Eye protection: grit flies."),
            new(PreparationItem.Labelled, diesel ? "Leads, lines and parts labelled by cylinder" : "Plugs, coils and leads labelled by cylinder", [], false),
            FuelOff(engine, diesel, gas),
            diesel
                ? new(PreparationItem.Ignition, "Glow plugs: battery isolated, then the harness unplugged", [new("isolated", "battery isolated first", "Glow-plug harness plugged in, battery connected")], true, "A live glow harness shorts on the head.")
                : new(PreparationItem.Ignition, "Ignition off, with coil energy led away", [new("coils-unplugged", "coils unplugged", "Coils plugged in, each at its cylinder"), new("lead-grounded", "lead grounded", "Lead off ground and back"), new("spark-tester", "spark testers fitted", "Spark testers off, leads back")], true, "Coil energy must have somewhere to go: a shock, or a burnt-out coil."),
            new(PreparationItem.Plugs, diesel ? "All glow plugs out, or all injectors; the same for every cylinder" : "All plugs out; the same for every cylinder",
                diesel
                    ? [new("all-glow-plugs", "all glow plugs out", "Glow plugs in, to their torque"), new("all-injectors", "all injectors out, by the maker's procedure only", "Injectors in with new sealing washers, lines tight, no leak"), new("one-at-a-time", "one at a time", "The plug back in each time")]
                    : [new("all-out", "all out", "Plugs in, to their torque; new washers where needed"), new("one-at-a-time", "one at a time", "The plug back in each time")],
                false, diesel ? "Diesel lines and rails under pressure stay closed: a jet goes through skin. Through an injector hole only by the maker's procedure." : "Support the extension: porcelain cracks."),
        };
        if (throttled)
        {
            lines.Add(engine.Throttle == ThrottleControl.ByWire
                ? new(PreparationItem.Throttle, "Throttle plate seen to be open: with its controller off the pedal moves nothing",
                    [new("seen-pedal", "pedal held, plate seen open"), new("seen-wedged", "wedged, the wedge secured, plate seen open", "Wedge out of the throttle"), new("seen-commanded", "opened by command, plate seen open")], true, "A wedge that falls in is swallowed: secure it.")
                : new(PreparationItem.Throttle, "Throttle fully open",
                    [new("pedal", "pedal held"), new("wedged", "wedged, the wedge secured", "Wedge out of the throttle")], true, "A wedge that falls in is swallowed: secure it."));
        }
        lines.Add(new(PreparationItem.Adapter, Adapter(workshop, diesel), [], true, "Start by hand, stop if it resists. O-ring oiled and bottomed, hand tight: hose first, then gauge."));
        lines.Add(new(PreparationItem.GaugeAtZero, diesel ? "Gauge to 70 bar (1000 psi), needle at zero" : "Gauge's needle at zero", [], false, "Press the relief before undoing anything."));
        lines.Add(new(PreparationItem.Clear, "Everybody clear of fan, belts and pulleys; nobody's face over an open hole", [], true, "Face away from open plug holes while it cranks; no sparks near fuel vapour." + (engine.IsHybrid ? " " + Hybrid : "")));
        return lines;
    }

    private static PreparationLine FuelOff(EngineSheet engine, bool diesel, bool gas)
    {
        if (gas)
        {
            return new(PreparationItem.Fuel, "Gas off: tank valve shut, line run empty, place ventilated",
                [new("tank-valve", "tank valve shut and line run empty", "Tank valve open, gas joints checked for leaks")], true, "Gas lies in pits and low places: ventilate, no sparks.");
        }
        if (diesel)
        {
            return new(PreparationItem.Fuel, "Fuel off",
                [new("stop-solenoid", "stop solenoid unplugged", "Stop solenoid plugged in"), new("injector-plugs", "injectors unplugged", "Injectors plugged in"), new("pump-relay", "pump relay or fuse out", "Pump relay or fuse back")], true,
                "Lines and rails stay closed under pressure: unplug, do not open.");
        }
        if (engine.Features?.Contains(EngineFeature.Carburettor) == true)
        {
            // Nothing to unplug and no clear-flood: what stands in the bowl is run out of it.
            return new(PreparationItem.Fuel, "Fuel off",
                [new("run-dry", "line shut, run until it stalls", "Fuel line open"), new("pump-relay", "electric pump: relay or fuse out", "Pump relay or fuse back"), new("shut-off", "fuel tap shut", "Fuel tap open")], true,
                "Fuel vapour and sparks do not mix.");
        }
        return new(PreparationItem.Fuel, "Fuel off",
            [
                new("pump-relay", "pump relay or fuse out", "Pump relay or fuse back"), new("injector-plugs", "injectors unplugged", "Injectors plugged in"),
                new("run-dry", "run until it stalls with the pump off", "Pump relay or fuse back"), new("shut-off", "maker's fuel shut-off", "Fuel shut-off reset"), new("clear-flood", "clear-flood mode, where it has one"),
            ], true,
            engine.Features?.Contains(EngineFeature.DirectInjection) == true
                ? "A direct-injection rail stays under pressure: unplug, do not open. Fuel vapour and sparks do not mix."
                : "Fuel vapour and sparks do not mix.");
    }

    private static string Adapter(WorkshopSheet? workshop, bool diesel)
    {
        var parts = new[]
        {
            workshop?.PlugThread, workshop?.PlugPitchMm is { } pitch ? FormattableString.Invariant($"× {pitch:0.##}") : null,
            workshop?.PlugReachMm is { } reach ? FormattableString.Invariant($"reach {reach:0.#} mm") : null,
        }.Where(p => !string.IsNullOrEmpty(p)).ToList();
        return parts.Count > 0
            ? $"Adapter of the {(diesel ? "glow plug" : "plug")}'s own thread and reach: {string.Join(' ', parts)}"
            : $"Adapter of the {(diesel ? "glow plug" : "plug")}'s own thread, pitch and reach: hold it beside one that came out";
    }

    /// <summary>What a ticked line says about the conditions of a test; fields it says nothing about stay as they are.</summary>
    /// <param name="conditions">The conditions so far.</param>
    /// <param name="item">The line.</param>
    /// <param name="way">The word of the way it was done; absent where there is only one.</param>
    /// <returns>The conditions with what the tick says.</returns>
    public static TestConditions Conditions(TestConditions conditions, PreparationItem item, string? way) => item switch
    {
        PreparationItem.Warm => conditions with { EngineTemperature = way == "cold" ? EngineTemperature.Cold : EngineTemperature.Warm },
        PreparationItem.Battery => conditions with { Battery = way == "charger" ? BatteryState.Charger : BatteryState.Good },
        PreparationItem.Fuel => conditions with { Fuel = Supply.Off },
        PreparationItem.Ignition => conditions with { Ignition = Supply.Off },
        PreparationItem.Plugs => conditions with { Plugs = way == "one-at-a-time" ? PlugsRemoved.OneAtATime : PlugsRemoved.AllOut },
        PreparationItem.Throttle => conditions with { Throttle = ThrottlePlate.Open },
        PreparationItem.GaugeAtZero => conditions with { NeedleAtZero = true },
        _ => conditions,
    };

    /// <summary>
    /// Lines of an engine's list that stand unticked on a reading taken now: those nobody ticked and nobody
    /// answered by a condition of the test either.
    /// </summary>
    /// <param name="engine">The engine.</param>
    /// <param name="ticked">The lines that are ticked.</param>
    /// <param name="conditions">What is noted on the test; absent for nothing.</param>
    /// <returns>The lines; empty where all were seen to.</returns>
    public static IReadOnlyList<PreparationItem> NotPrepared(EngineSheet engine, IReadOnlyCollection<PreparationItem> ticked, TestConditions? conditions) =>
        [.. For(engine).Select(l => l.Item).Where(i => !ticked.Contains(i) && (conditions is null || WithoutTick(conditions, i) == conditions))];

    /// <summary>The conditions after a tick was taken away: what only the tick said is no longer known.</summary>
    /// <returns>The conditions without what only the tick said.</returns>
    public static TestConditions WithoutTick(TestConditions conditions, PreparationItem item) => item switch
    {
        PreparationItem.Warm => conditions with { EngineTemperature = null },
        PreparationItem.Battery => conditions with { Battery = null },
        PreparationItem.Fuel => conditions with { Fuel = null },
        PreparationItem.Ignition => conditions with { Ignition = null },
        PreparationItem.Plugs => conditions with { Plugs = null },
        PreparationItem.Throttle => conditions with { Throttle = null },
        PreparationItem.GaugeAtZero => conditions with { NeedleAtZero = null },
        _ => conditions,
    };

    /// <summary>A line in a few words, for a reading on which it stands unticked.</summary>
    /// <returns>The words, lower case.</returns>
    public static string Short(PreparationItem item) => item switch
    {
        PreparationItem.Warm => "engine temperature",
        PreparationItem.Battery => "battery",
        PreparationItem.PlugWells => "plug wells blown out",
        PreparationItem.Labelled => "labels",
        PreparationItem.Fuel => "fuel off",
        PreparationItem.Ignition => "ignition off",
        PreparationItem.Plugs => "plugs out",
        PreparationItem.Throttle => "throttle open",
        PreparationItem.Adapter => "adapter",
        PreparationItem.GaugeAtZero => "needle at zero",
        PreparationItem.AirPath => "air box off",
        PreparationItem.OilFiller => "oil filler and dipstick off",
        PreparationItem.CoolantCap => "coolant cap off",
        _ => "everybody clear",
    };
}
