using Zandrik.Core.Records;

namespace Zandrik.Core.Practice;

/// <summary>
/// How the engine on the practice bench stands: what was done to it and what was not. What is not ticked is not done: the
/// throttle is shut, the engine cold, the battery as it came, the other plugs in.
/// </summary>
public sealed record PracticeStand
{
    // A battery as it came, and one that was charged but has no charger on it.
    private const double AsItCame = 0.55, Full = 0.1;

    /// <summary>Everything as it should be, for a good way through an exercise.</summary>
    public static PracticeStand Ready { get; } = new()
    {
        Warm = true, ThrottleOpen = true, PlugsOut = true, RightAdapter = true, FuelOff = true, IgnitionOff = true, EverybodyClear = true, Bled = true,
    };

    /// <summary>True for an engine that was run warm.</summary>
    public bool Warm { get; init; }

    /// <summary>True with the throttle held open.</summary>
    public bool ThrottleOpen { get; init; }

    /// <summary>True with every plug out.</summary>
    public bool PlugsOut { get; init; }

    /// <summary>True with the adapter of the plug's own thread and reach; else one that adds to the chamber.</summary>
    public bool RightAdapter { get; init; }

    /// <summary>True with the fuel off.</summary>
    public bool FuelOff { get; init; }

    /// <summary>True with the ignition, or the glow plugs, off.</summary>
    public bool IgnitionOff { get; init; }

    /// <summary>True with everybody clear.</summary>
    public bool EverybodyClear { get; init; }

    /// <summary>True where the gauge is bled before each reading; else it begins where the last one ended.</summary>
    public bool Bled { get; init; }

    /// <summary>How weak the battery is, 0 to 1; no unit.</summary>
    public double WeakBattery { get; init; }

    /// <summary>True with the second gauge, which is as it should be.</summary>
    public bool SecondGauge { get; init; }

    /// <summary>How an engine stands whose preparation was ticked so.</summary>
    /// <param name="ticked">The lines that are ticked, each with the way it was done.</param>
    /// <param name="secondGauge">True where the second gauge was taken.</param>
    /// <returns>How it stands.</returns>
    public static PracticeStand Of(IReadOnlyDictionary<PreparationItem, string?> ticked, bool secondGauge = false) => new()
    {
        Warm = ticked.GetValueOrDefault(PreparationItem.Warm) == "warm",
        ThrottleOpen = ticked.ContainsKey(PreparationItem.Throttle),
        PlugsOut = ticked.TryGetValue(PreparationItem.Plugs, out var plugs) && plugs != "one-at-a-time",
        RightAdapter = ticked.ContainsKey(PreparationItem.Adapter),
        FuelOff = ticked.ContainsKey(PreparationItem.Fuel),
        IgnitionOff = ticked.ContainsKey(PreparationItem.Ignition),
        EverybodyClear = ticked.ContainsKey(PreparationItem.Clear),
        Bled = ticked.ContainsKey(PreparationItem.GaugeAtZero),
        WeakBattery = !ticked.TryGetValue(PreparationItem.Battery, out var battery) ? AsItCame : battery == "full" ? Full : 0,
        SecondGauge = secondGauge,
    };

    /// <summary>Why nobody cranks it so; absent when it may be cranked. Asked for all the same, it counts as a hazard.</summary>
    /// <returns>One sentence with what to do first; null where it may be cranked.</returns>
    public string? RefusesCranking => !FuelOff ? "The fuel is live: vapour at open plug holes burns. Fuel off first, on Prepare."
        : !IgnitionOff ? "The ignition is live: a coil strikes whoever is near it. Ignition off first, on Prepare."
        : !EverybodyClear ? "Somebody may stand at the fan or over a plug hole. Everybody clear first, on Prepare."
        : null;

    /// <summary>Why a capture of starter current shows nothing yet, with what to do; null where it can be taken.</summary>
    public string? RefusesRecording => PlugsOut ? "The plugs are out: with nothing to compress the current has no humps. Untick “All plugs out” on Prepare to put them back." : null;

    /// <summary>Why the stroke cannot be felt yet, with what to do; null where it can.</summary>
    public string? RefusesFeeling => PlugsOut ? null : "With the plugs in there is no hole to feel at. Plugs out first, on Prepare.";

    /// <summary>What was left undone, in words, for whoever looks back.</summary>
    /// <param name="engine">The engine.</param>
    /// <returns>A few words each; empty where everything was done.</returns>
    public IReadOnlyList<string> Missing(EngineSheet engine)
    {
        var throttled = engine.Fuel != Fuel.Diesel && engine.Throttle != ThrottleControl.None;
        return
        [
            .. Warm ? Array.Empty<string>() : ["engine cold"], .. ThrottleOpen || !throttled ? Array.Empty<string>() : ["throttle shut"], .. PlugsOut ? Array.Empty<string>() : ["other plugs in"],
            .. WeakBattery < 0.3 ? Array.Empty<string>() : ["battery weak"], .. RightAdapter ? Array.Empty<string>() : ["wrong adapter"], .. Bled ? Array.Empty<string>() : ["gauge not bled"],
        ];
    }
}
