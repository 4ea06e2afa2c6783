using System.Diagnostics;
using System.Globalization;
using Zandrik.Core.Calibration;

namespace Zandrik.Benchmarks;

/// <summary>
/// Simulates engines over all faults and severities and estimates what each reading says: <c>./calibrate</c>. Works in blocks, each a file that is kept: one that was broken off goes on where it was.
/// </summary>
internal static class CalibrateCommand
{
    private const int Block = 240, Together = 48;

    public static int Run(int engines, int seed, string work, string table, DateOnly today)
    {
        Directory.CreateDirectory(work);
        var blocks = (engines + Block - 1) / Block;
        string FileOf(int block) => Path.Combine(work, string.Create(CultureInfo.InvariantCulture, $"seed-{seed}-from-{block * Block:000000}-of-{CountOf(block)}.csv"));
        int CountOf(int block) => Math.Min(Block, engines - block * Block);
        var missing = Enumerable.Range(0, blocks).Where(b => !File.Exists(FileOf(b))).ToList();
        var (clock, done) = (Stopwatch.StartNew(), 0);
        if (missing.Count < blocks)
        {
            Console.Error.WriteLine($"{(blocks - missing.Count) * Block} engines are there from before.");
        }
        Parallel.ForEach(missing, new ParallelOptions { MaxDegreeOfParallelism = Environment.ProcessorCount }, block =>
        {
            var lines = new List<string>();
            for (var i = 0; i < CountOf(block); i += Together)
            {
                lines.AddRange(CalibrationSample.Of(seed, block * Block + i, Math.Min(Together, CountOf(block) - i)).Select(s => s.ToLine()));
            }
            var half = FileOf(block) + ".half";
            File.WriteAllLines(half, lines);
            File.Move(half, FileOf(block), overwrite: true);
            var now = Interlocked.Increment(ref done);
            var left = clock.Elapsed.TotalSeconds / now * (missing.Count - now);
            Console.Error.Write(string.Create(CultureInfo.InvariantCulture, $"\r[{new string('#', 40 * now / missing.Count)}{new string('.', 40 - 40 * now / missing.Count)}] {now * Block} of {missing.Count * Block} engines, {clock.Elapsed.TotalSeconds:0} s, about {left:0} s to go   "));
        });
        Console.Error.WriteLine();
        var samples = Enumerable.Range(0, blocks).SelectMany(b => File.ReadLines(FileOf(b))).Select(CalibrationSample.Parse).ToList();
        var estimates = LikelihoodEstimator.Of(samples, seed, today);
        File.WriteAllText(table, estimates.ToJson());
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{samples.Count} engines of seed {seed} in {clock.Elapsed.TotalSeconds:0} s; {estimates.Curves.Count} curves written to {table}."));
        return 0;
    }
}
