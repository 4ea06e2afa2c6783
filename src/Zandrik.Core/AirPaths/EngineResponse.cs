using System.Globalization;
using MathNet.Numerics.Interpolation;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.AirPaths;

/// <summary>
/// What leaks make of the readings of one kind of engine: the crank-angle model run once at a dozen areas, and smooth curves between. A leak is at the exhaust valve there; of pressure it costs the same
/// wherever it is. Kept for each layout, so that a job is fitted without running the model again.
/// </summary>
public sealed class EngineResponse
{
    // Added leak, mm² for half a litre; beyond the last hardly anything is left to lose.
    private static readonly double[] AreasMm2 = [0, 0.1, 0.25, 0.5, 1, 2, 4, 8, 16, 32, 64, 100], RunningAreasMm2 = [0, 0.4, 1.2, 3, 8, 20, 50, 100];
    private const double Stretch = 0.2;
    private const int Pulses = 8;

    private static readonly BoundedCache<string, EngineResponse> Known = new(64);

    private readonly Curve dry;

    // Most jobs have no running test, and a run of a whole engine costs the most.
    private readonly Lazy<(Curve Idle, Curve Snap)> running;

    private EngineResponse(SimulatedEngine engine)
    {
        Engine = engine;
        Size = engine.Size;
        SoundMm2 = (engine.RingLeakM2 + 2 * engine.ValveLeakM2) * 1e6;
        var cylinder = engine.FiringOrder[0];
        EngineUnderTest With(double mm2) => new(engine, new Dictionary<int, Physics.CylinderCondition> { [cylinder] = new() { ExhaustValveM2 = mm2 * Size * 1e-6 } });
        var gauge = GaugeRun.Of([.. AreasMm2.Select(a => (With(a), new GaugeTest { Cylinder = cylinder, Pulses = Pulses, How = new() { StepDeg = 1, Seconds = 30 } }))]);
        SoundPa = gauge[0].FinalPa;
        dry = new(AreasMm2, [.. gauge.Select(g => g.FinalPa)]);
        running = new(() =>
        {
            var runs = RunningRun.Of([.. RunningAreasMm2.Select(a => (With(a), new RunningTest { Cylinder = cylinder, How = new() { StepDeg = 3 }, WithRulesOfThumb = false }))]);
            return (new(RunningAreasMm2, [.. runs.Select(r => r.IdlePa)]), new(RunningAreasMm2, [.. runs.Select(r => r.SnapPa)]));
        });
    }

    // ln of a pressure against the first, smooth between the areas it was run at, straight on before the first.
    private sealed class Curve
    {
        private readonly CubicSpline through;
        private readonly double atFirst, last;

        public Curve(double[] mm2, double[] pa)
        {
            through = CubicSpline.InterpolatePchipSorted([.. mm2.Select(Along)], [.. pa.Select(p => Math.Max(SeverityNodes.LowestDry, Math.Log(Math.Max(LeastPa, p) / pa[0])))]);
            (atFirst, last) = (through.Differentiate(0) / Stretch, mm2[^1]);
        }

        public double At(double mm2) => mm2 <= 0 ? atFirst * mm2 : through.Interpolate(Along(Math.Min(mm2, last)));
    }

    private const double LeastPa = 500;

    /// <summary>The engine it is of.</summary>
    public SimulatedEngine Engine { get; }

    /// <summary>Cylinder over half a litre.</summary>
    public double Size { get; }

    /// <summary>What a sound cylinder lets by in all, mm².</summary>
    public double SoundMm2 { get; }

    /// <summary>What a sound cylinder reads dry in the model, Pa over the air outside.</summary>
    public double SoundPa { get; }

    /// <summary>The response of an engine like a sheet's.</summary>
    /// <param name="sheet">A sheet that passes <see cref="EngineRules"/>.</param>
    /// <returns>The response: made at the first call for such a sheet, the same one afterwards.</returns>
    public static EngineResponse Of(EngineSheet sheet)
    {
        // All that the model asks of a sheet, and nothing that is of one job.
        string Numbers(IEnumerable<double>? of) => of is null ? "" : string.Join(',', of.Select(n => n.ToString("R", CultureInfo.InvariantCulture)));
        var key = string.Create(CultureInfo.InvariantCulture, $"{sheet.Cylinders};{sheet.Fuel};{sheet.BoreMm};{sheet.StrokeMm};{sheet.DisplacementCc};{sheet.CompressionRatio};{sheet.Spec?.Nominal};{sheet.Spec?.Unit};{Numbers(sheet.FiringOrder?.Select(n => (double)n))};{Numbers(sheet.FiringAngles)}");
        return Known.Of(key, () => new EngineResponse(SheetEngine.Of(sheet)));
    }

    /// <summary>ln of dry pressure against a sound cylinder.</summary>
    /// <param name="addedMm2">Leak beyond a sound one's, mm²; a little under 0 for one that is tighter.</param>
    /// <returns>ln; 0 for a sound one.</returns>
    public double Dry(double addedMm2) => dry.At(addedMm2 / Size);

    /// <summary>The same of running idle compression.</summary>
    /// <param name="addedMm2">Leak beyond a sound one's, mm².</param>
    /// <returns>ln; 0 for a sound one.</returns>
    public double Idle(double addedMm2) => running.Value.Idle.At(addedMm2 / Size);

    /// <summary>The same after a snap.</summary>
    /// <param name="addedMm2">Leak beyond a sound one's, mm².</param>
    /// <returns>ln; 0 for a sound one.</returns>
    public double Snap(double addedMm2) => running.Value.Snap.At(addedMm2 / Size);

    private static double Along(double mm2) => Math.Log(1 + mm2 / Stretch);
}
