using System.Collections.Concurrent;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Core.Simulation;

/// <summary>A capture as it should look, of a simulated engine like the one at hand: for whoever is about to take one.</summary>
public static class GoodTrace
{
    // Enough for a picture; a real capture has more samples.
    private const double RateHz = 2000;
    private const double CrankS = 3.4;

    private static readonly ConcurrentDictionary<SimulatedEngine, (CapturePicture, RelativeAnswer)> Made = [];

    /// <summary>The trace and what is found in it.</summary>
    /// <param name="engine">The engine; one with as many cylinders and the same fuel is taken, else the nearest.</param>
    /// <returns>The trace as it is drawn, and its analysis.</returns>
    public static (CapturePicture Picture, RelativeAnswer Answer) For(EngineSheet engine)
    {
        var like = SimulatedEngine.All.OrderBy(e => Math.Abs(e.Cylinders - engine.Cylinders)).ThenBy(e => e.Fuel == Fuel.Diesel != (engine.Fuel == Fuel.Diesel)).First();
        return Made.GetOrAdd(like, Make);
    }

    private static (CapturePicture, RelativeAnswer) Make(SimulatedEngine engine)
    {
        var capture = SimulatedCapture.Of(engine, CrankingRun.Of(engine, null, new Cranking { Seconds = CrankS }), new CaptureRecipe { SampleRateHz = RateHz, NoiseA = 1.5 });
        var trace = new StarterTrace(capture.IntervalS, withSync: true, withBattery: false);
        trace.Add(capture.CurrentA, capture.SyncV);
        trace.Finish();
        var answer = RelativeAnalysis.Of(trace, new CaptureQuestion { FiringOrder = engine.FiringOrder, FiringAngles = engine.FiringAngles, Fuel = engine.Fuel, CompressionRatio = engine.CompressionRatio, Sync = SyncKind.EveryCycle });
        return (CapturePicture.Of(trace, answer), answer);
    }
}
