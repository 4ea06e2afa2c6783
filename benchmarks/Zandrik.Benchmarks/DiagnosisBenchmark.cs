using System.Diagnostics;
using System.Globalization;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Benchmarks;

/// <summary>What a diagnosis costs: records with dry, wet, leak-down and running readings on every cylinder.</summary>
internal static class DiagnosisBenchmark
{
    internal static void Run()
    {
        foreach (var (what, record) in new[] { ("8 cylinders, dry alone", DryAlone(8)), ("4 cylinders", Record(4)), ("6 cylinders", Record(6)), ("16 cylinders", Record(16)) })
        {
            foreach (var ledger in new[] { false, true })
            {
                // Until what runs often is compiled for speed.
                for (var warm = Stopwatch.StartNew(); warm.Elapsed.TotalSeconds < 2;)
                {
                    EngineDiagnosis.Of(record, ledger);
                }
                const int Rounds = 400;
                var times = new List<double>();
                var before = GC.GetAllocatedBytesForCurrentThread();
                for (var i = 0; i < Rounds; i++)
                {
                    var clock = Stopwatch.StartNew();
                    EngineDiagnosis.Of(record, ledger);
                    times.Add(clock.Elapsed.TotalMilliseconds);
                }
                var allocated = (GC.GetAllocatedBytesForCurrentThread() - before) / Rounds;
                times.Sort();
                Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{what}, {(ledger ? "with ledger" : "without ledger")}, next tests included: median {times[Rounds / 2]:0.00} ms, p95 {times[Rounds * 95 / 100]:0.00} ms, {allocated / 1024} kB allocated"));
            }
        }
    }

    // An even engine with a gauge on every cylinder and nothing else: what is judged after each reading of the crowd.
    private static TestRecord DryAlone(int n) => Record(n) with
    {
        Observations = null,
        Tests = [new DryCompressionTest { Unit = PressureUnit.Psi, Readings = [.. Enumerable.Range(1, n).Select(c => new CompressionReading { Cylinder = c, Value = 180 + c })] }],
    };

    /// <summary>What a shop has of a four with one bad cylinder: dry on all, leak-down there and next door, wet there.</summary>
    internal static TestRecord Everyday()
    {
        var all = Record(4);
        var (dry, leak, wet) = (all.Tests![0], (LeakDownTest)all.Tests[1], (WetCompressionTest)all.Tests[2]);
        return all with { Tests = [dry, leak with { Readings = [.. leak.Readings!.Where(r => r.Cylinder is 3 or 4)] }, wet with { Readings = [.. wet.Readings!.Where(r => r.Cylinder == 3)] }] };
    }

    /// <summary>An engine with every test on every cylinder, one of them with a burnt exhaust valve.</summary>
    internal static TestRecord Record(int n)
    {
        double Level(int c) => c == 3 ? 131 : 188 + c % 4;
        return new TestRecord
        {
            Engine = new EngineSheet { Cylinders = n, Fuel = Fuel.Petrol, Throttle = ThrottleControl.Cable, Layout = n > 6 ? CylinderArrangement.V : CylinderArrangement.Inline, DisplacementCc = 500 * n, Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = 190 } },
            Observations = [Observation.Misfire, Observation.RoughIdle],
            Tests =
            [
                new DryCompressionTest { Unit = PressureUnit.Psi, Readings = [.. Enumerable.Range(1, n).Select(c => new CompressionReading { Cylinder = c, Value = Level(c) })] },
                new LeakDownTest { Unit = PressureUnit.Psi, Supply = 100, Readings = [.. Enumerable.Range(1, n).Select(c => new LeakDownReading { Cylinder = c, LeakPercent = c == 3 ? 85 : 9 + c % 3, Heard = c == 3 ? [new HeardAir { At = ListeningPlace.Exhaust, Strength = HeardStrength.Strong }] : null })] },
                new WetCompressionTest { Unit = PressureUnit.Psi, Readings = [.. Enumerable.Range(1, n).Select(c => new CompressionReading { Cylinder = c, Value = 1.045 * Level(c) })] },
                new RunningCompressionTest { Unit = PressureUnit.Psi, Readings = [.. Enumerable.Range(1, n).Select(c => new RunningReading { Cylinder = c, Idle = 100 + c % 3, Snap = 162 + c % 4, Purged = true })] },
            ],
        };
    }
}
