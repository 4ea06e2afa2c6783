using System.Globalization;
using System.Text;
using Zandrik.Core.Physics;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.Tests.RelativeCompression;

/// <summary>Captures for tests, each simulated once.</summary>
internal static class Captures
{
    public static readonly SimulatedCapture EvenFour = Of(SimulatedEngine.InlineFour);

    public static readonly SimulatedCapture WeakThird = Of(SimulatedEngine.InlineFour, 3, new CylinderCondition { ExhaustValveM2 = 2e-6 });

    /// <summary>The truth of <see cref="WeakThird"/>, percent of the best.</summary>
    public static readonly double WeakThirdTruth = CrankingRun.Of(SimulatedEngine.InlineFour, Weak(3, new CylinderCondition { ExhaustValveM2 = 2e-6 })).RelativePercent[2];

    public static Dictionary<int, CylinderCondition> Weak(int cylinder, CylinderCondition condition) => new() { [cylinder] = condition };

    public static SimulatedCapture Of(SimulatedEngine engine, int weak = 1, CylinderCondition? condition = null, CaptureRecipe? recipe = null, Cranking? cranking = null) =>
        SimulatedCapture.Of(engine, CrankingRun.Of(engine, condition is null ? null : Weak(weak, condition), cranking), recipe ?? new CaptureRecipe { SampleRateHz = 5000 });

    public static CaptureQuestion Question(SimulatedEngine engine, SyncKind sync = SyncKind.EveryCycle) =>
        new() { FiringOrder = engine.FiringOrder, Fuel = engine.Fuel, CompressionRatio = engine.CompressionRatio, Sync = sync };

    public static readonly CaptureQuestion Four = Question(SimulatedEngine.InlineFour);

    public static StarterTrace Trace(SimulatedCapture capture, Func<double, double>? amps = null, double time = 1)
    {
        var trace = new StarterTrace(capture.IntervalS * time, capture.SyncV.Length > 0, withBattery: true);
        trace.Add([.. capture.CurrentA.Select(a => amps is null ? a : amps(a))], capture.SyncV, capture.BatteryV);
        trace.Finish();
        return trace;
    }

    public static RelativeAnswer Answer(SimulatedCapture capture, CaptureQuestion? question = null) => RelativeAnalysis.Of(Trace(capture), question ?? Four);

    public static string Csv(SimulatedCapture capture)
    {
        var text = new StringWriter(CultureInfo.InvariantCulture) { NewLine = "\n" };
        capture.WriteCsv(text);
        return text.ToString();
    }

    public static async Task<CaptureReading> ReadAsync(byte[] file, Func<CaptureLayout, CaptureLayout>? correct = null)
    {
        var found = await CaptureFile.InspectAsync(new MemoryStream(file), cancel: TestContext.Current.CancellationToken);
        return found.Problem is { } problem ? new CaptureReading { Problem = problem }
            : await CaptureFile.ReadAsync(new MemoryStream(file), correct is null ? found.Layout : correct(found.Layout), null, TestContext.Current.CancellationToken);
    }

    public static Task<CaptureReading> ReadAsync(string file, Func<CaptureLayout, CaptureLayout>? correct = null) => ReadAsync(Encoding.UTF8.GetBytes(file), correct);

    public static Task<CaptureInspection> InspectAsync(string file) => CaptureFile.InspectAsync(new MemoryStream(Encoding.UTF8.GetBytes(file)), cancel: TestContext.Current.CancellationToken);
}
