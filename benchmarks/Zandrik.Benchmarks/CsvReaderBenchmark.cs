using System.Diagnostics;
using System.Globalization;
using nietras.SeparatedValues;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Benchmarks;

/// <summary>
/// Our reader of captures beside a well-kept package for separated values, on one file in one run, turn about. Both feed
/// the same trace; the package is told the separator and that the numbers are plain, which our reader finds out.
/// </summary>
internal static class CsvReaderBenchmark
{
    private const int Rounds = 7, Batch = 16 * 1024;

    internal static async Task RunAsync(string path)
    {
        var megabytes = new FileInfo(path).Length / 1e6;
        var (ours, sep, parallel) = (new List<double>(), new List<double>(), new List<double>());
        for (var round = 0; round < Rounds; round++)
        {
            var watch = Stopwatch.StartNew();
            await using (var file = File.OpenRead(path))
            {
                var found = await CaptureFile.InspectAsync(file);
                file.Position = 0;
                var trace = (await CaptureFile.ReadAsync(file, found.Layout)).Trace!;
                ours.Add(watch.Elapsed.TotalSeconds);
                Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"ours      {trace.Samples} rows, {ours[^1]:0.00} s"));
            }
            watch.Restart();
            var rows = BySep(path);
            sep.Add(watch.Elapsed.TotalSeconds);
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"package   {rows} rows, {sep[^1]:0.00} s"));
            watch.Restart();
            rows = BySepInParallel(path);
            parallel.Add(watch.Elapsed.TotalSeconds);
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"in parallel {rows} rows, {parallel[^1]:0.00} s"));
        }
        foreach (var (name, times) in new[] { ("ours", ours), ("package", sep), ("package, rows in parallel", parallel) })
        {
            var median = times.Order().ElementAt(Rounds / 2);
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{name,-28}{median:0.00} s, {megabytes / median:0} MB/s"));
        }
    }

    private static long BySep(string path)
    {
        using var reader = Sep.New(',').Reader().FromFile(path);
        var trace = new StarterTrace(0, true, false);
        var (amps, syncs) = (new double[Batch], new double[Batch]);
        var (n, lastS) = (0, 0.0);
        foreach (var row in reader)
        {
            lastS = row[0].Parse<double>();
            (amps[n], syncs[n]) = (row[1].Parse<double>(), row[2].Parse<double>());
            if (++n == Batch)
            {
                trace.Add(amps, syncs);
                n = 0;
            }
        }
        trace.Add(amps.AsSpan(0, n), syncs.AsSpan(0, n));
        return lastS > 0 ? trace.Samples : 0;
    }

    private static long BySepInParallel(string path)
    {
        using var reader = Sep.New(',').Reader().FromFile(path);
        var trace = new StarterTrace(0, true, false);
        Span<double> amp = stackalloc double[1];
        Span<double> sync = stackalloc double[1];
        foreach (var (_, a, s) in reader.ParallelEnumerate(row => (row[0].Parse<double>(), row[1].Parse<double>(), row[2].Parse<double>())))
        {
            (amp[0], sync[0]) = (a, s);
            trace.Add(amp, sync);
        }
        return trace.Samples;
    }
}
