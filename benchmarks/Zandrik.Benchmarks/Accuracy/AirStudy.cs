using System.Diagnostics;
using System.Globalization;
using System.Text;
using Zandrik.Core.AirPaths;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Benchmarks.Accuracy;

/// <summary>How near the fitted leak areas come to those of simulated engines, whether the intervals hold, and what a fit costs.</summary>
internal static class AirStudy
{
    public static void Run(int engines, int seed)
    {
        foreach (var world in ModelWorld.All)
        {
            foreach (var stage in "cd")
            {
                var all = new (ModelledEngine Engine, AirFit Fit, double Ms)[engines];
                Parallel.For(0, engines, new ParallelOptions { MaxDegreeOfParallelism = Environment.ProcessorCount }, i =>
                {
                    var engine = ModelledEngine.Draw(seed + i, world);
                    var job = JobEvidence.Of(engine.Record(stage));
                    var clock = Stopwatch.StartNew();
                    all[i] = (engine, AirFit.Of(job), clock.Elapsed.TotalMilliseconds);
                });
                var (wide, held, usual, usualHeld, right, faults) = (new List<double>(), 0, 0, 0, 0, 0);
                var per = new Dictionary<LeakPlace, (int N, int Held)>();
                foreach (var (engine, fit, _) in all)
                {
                    foreach (var c in fit.Cylinders)
                    {
                        var truth = engine.AreasMm2(c.Cylinder);
                        var leaks = engine.Truth(c.Cylinder) is Fault.Rings or Fault.Piston or Fault.IntakeValve or Fault.ExhaustValve or Fault.GasketCoolant or Fault.GasketAdjacent;
                        var mainPath = leaks ? truth.MaxBy(t => t.Value.Mm2 - t.Value.Sound).Key : default;
                        if (leaks)
                        {
                            faults++;
                            right += c.Main?.Path == mainPath ? 1 : 0;
                        }
                        foreach (var p in c.Paths.Where(p => p.Path is not LeakPlace.Neighbour))
                        {
                            var (mm2, _) = truth[p.Path];
                            var inside = mm2 >= p.LowMm2 * 0.999 && mm2 <= p.HighMm2 * 1.001;
                            if (leaks && p.Path == mainPath)
                            {
                                continue;
                            }
                            if (mm2 > 0)
                            {
                                (usual, usualHeld) = (usual + 1, usualHeld + (inside ? 1 : 0));
                                var (n, h) = per.GetValueOrDefault(p.Path);
                                per[p.Path] = (n + 1, h + (inside ? 1 : 0));
                            }
                        }
                        if (leaks && (c.Paths.FirstOrDefault(p => p.Path == mainPath) is { } main))
                        {
                            wide.Add(Math.Abs(main.Mm2 / truth[mainPath].Mm2 - 1));
                            held += truth[mainPath].Mm2 >= main.LowMm2 && truth[mainPath].Mm2 <= main.HighMm2 ? 1 : 0;
                        }
                        else if (leaks)
                        {
                            wide.Add(1);
                        }
                    }
                }
                double Median(IEnumerable<double> of) => of.Order().ElementAt(of.Count() / 2);
                Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"| {world.Name} | ({stage}) | {wide.Count} | {100 * Median(wide):0} % | {100.0 * held / wide.Count:0} % | {100.0 * right / faults:0} % | {usual} | {100.0 * usualHeld / usual:0} % | {Median(all.Select(a => a.Ms)):0} ms | {string.Join(' ', per.Select(p => $"{p.Key} {100 * p.Value.Held / p.Value.N}"))} |"));
            }
        }
    }

    public static void Cost()
    {
        foreach (var (cylinders, fuel) in new[] { (4, Fuel.Petrol), (6, Fuel.Petrol), (8, Fuel.Diesel), (12, Fuel.Petrol) })
        {
            var text = new StringBuilder();
            var record = Full(cylinders, fuel);
            var first = Stopwatch.StartNew();
            AirFit.Of(JobEvidence.Of(record));
            text.Append(CultureInfo.InvariantCulture, $"{cylinders} cylinders, {fuel}: first of its kind {first.Elapsed.TotalMilliseconds:0} ms, then ");
            var times = Enumerable.Range(0, 9).Select(_ =>
            {
                var clock = Stopwatch.StartNew();
                AirFit.Of(JobEvidence.Of(record));
                return clock.Elapsed.TotalMilliseconds;
            }).Order().ToList();
            Console.WriteLine(text.Append(CultureInfo.InvariantCulture, $"{times[4]:0.0} ms (median of nine, slowest {times[^1]:0.0})"));
        }
    }

    // Everything measured at every cylinder, one with a leak.
    private static TestRecord Full(int n, Fuel fuel)
    {
        var all = Enumerable.Range(1, n).ToList();
        var level = fuel == Fuel.Diesel ? 420 : 190;
        return new()
        {
            Engine = new EngineSheet { Cylinders = n, Fuel = fuel, Layout = n > 6 ? CylinderArrangement.V : CylinderArrangement.Inline, BoreMm = 84 + n, StrokeMm = 90, Spec = new() { Nominal = level, Unit = Core.Units.PressureUnit.Psi, WetAllowed = true } },
            Tests =
            [
                new DryCompressionTest { Unit = Core.Units.PressureUnit.Psi, Readings = [.. all.Select(c => new CompressionReading { Cylinder = c, Value = c == 2 ? 0.6 * level : level - c % 3 * 4 })] },
                new WetCompressionTest { Unit = Core.Units.PressureUnit.Psi, OilMl = 10, Readings = [.. all.Select(c => new CompressionReading { Cylinder = c, Value = c == 2 ? 0.63 * level : 1.04 * level - c % 3 * 4 })] },
                new LeakDownTest { Unit = Core.Units.PressureUnit.Psi, Supply = 100, Readings = [.. all.Select(c => new LeakDownReading { Cylinder = c, LeakPercent = c == 2 ? 80 : 9 + c % 4, Heard = c == 2 ? [new() { At = ListeningPlace.Exhaust, Strength = HeardStrength.Strong }] : [new() { At = ListeningPlace.Nowhere }] })] },
                .. fuel == Fuel.Diesel ? Array.Empty<TestEntry>() : [new RunningCompressionTest { Unit = Core.Units.PressureUnit.Psi, Readings = [.. all.Select(c => new RunningReading { Cylinder = c, Purged = true, Idle = 100 - c % 3, Snap = 162 - c % 4 })] }],
            ],
        };
    }
}
