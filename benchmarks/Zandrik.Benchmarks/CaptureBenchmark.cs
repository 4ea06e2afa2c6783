using System.Diagnostics;
using System.Globalization;
using Zandrik.Core.Physics;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Simulation;

namespace Zandrik.Benchmarks;

/// <summary>A long capture: ten seconds of cranking at a million samples a second, current and sync.</summary>
public static class CaptureBenchmark
{
    /// <summary>Writes the file.</summary>
    public static void Write(string path, int rows)
    {
        var capture = Make(rows);
        using var text = new StreamWriter(path, false, new System.Text.UTF8Encoding(false), 1 << 20);
        text.Write("Time (s),Clamp (V),Sync (V)\n");
        Span<char> line = stackalloc char[64];
        for (var i = 0; i < capture.CurrentA.Length; i++)
        {
            line.TryWrite(CultureInfo.InvariantCulture, $"{i * capture.IntervalS:0.000000},{capture.CurrentA[i] / 1000:0.00000},{capture.SyncV[i]:0.000}\n", out var written);
            text.Write(line[..written]);
        }
    }

    /// <summary>Reads and analyses the file over and over, as the code is still being compiled in the first rounds: ten times, a short one sixty. Says the median of the second half, and what the analysis alone takes for growing numbers of samples.</summary>
    public static async Task RunAsync(string path)
    {
        var engine = SimulatedEngine.InlineFour;
        var question = new CaptureQuestion { FiringOrder = engine.FiringOrder, Sync = SyncKind.EveryCycle };
        var size = new FileInfo(path).Length;
        var times = new List<double>();
        for (var round = 0; round < (size < 10e6 ? 60 : 10); round++)
        {
            GC.Collect();
            var before = GC.GetTotalAllocatedBytes();
            var watch = Stopwatch.StartNew();
            await using var file = File.OpenRead(path);
            var found = await CaptureFile.InspectAsync(file);
            file.Position = 0;
            var read = await CaptureFile.ReadAsync(file, found.Layout);
            var parsed = watch.Elapsed.TotalSeconds;
            var answer = RelativeAnalysis.Of(read.Trace!, question);
            var whole = watch.Elapsed.TotalSeconds;
            times.Add(whole);
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture,
                $"{size / 1e6:0} MB, {read.Trace!.Samples} rows: read {parsed:0.00} s ({size / 1e6 / parsed:0} MB/s), read and analysed {whole:0.00} s, {answer.CrankingRpm:0.0} rpm, {string.Join(" ", answer.Slots.Select(s => $"{s.Cylinder}:{s.RelativePercent:0.0}"))}, allocated {(GC.GetTotalAllocatedBytes() - before) / 1e6:0} MB, peak working set {Process.GetCurrentProcess().PeakWorkingSet64 / 1e6:0} MB"));
        }
        var later = times.Skip(times.Count / 2).Order().ToList();
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"read and analysed, median of the second half: {later[later.Count / 2]:0.000} s"));
        foreach (var rows in (ReadOnlySpan<int>)[100_000, 1_000_000, 10_000_000])
        {
            var capture = Make(rows);
            var best = double.MaxValue;
            for (var round = 0; round < 3; round++)
            {
                var watch = Stopwatch.StartNew();
                var trace = new StarterTrace(capture.IntervalS, true, false);
                trace.Add(capture.CurrentA, capture.SyncV);
                trace.Finish();
                var took = watch.Elapsed.TotalSeconds;
                RelativeAnalysis.Of(trace, question);
                Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"analysis alone, {rows} samples: made small {took * 1000:0} ms, all {watch.Elapsed.TotalSeconds * 1000:0} ms"));
                best = Math.Min(best, watch.Elapsed.TotalSeconds);
            }
        }
    }

    private static SimulatedCapture Make(int rows)
    {
        var engine = SimulatedEngine.InlineFour;
        var run = CrankingRun.Of(engine, new Dictionary<int, CylinderCondition> { [3] = new() { ExhaustValveM2 = 2e-6 } }, new Cranking { Seconds = 9.3 });
        return SimulatedCapture.Of(engine, run, new CaptureRecipe { SampleRateHz = rows / 10.0 });
    }
}
