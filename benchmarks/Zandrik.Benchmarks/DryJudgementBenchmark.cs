using BenchmarkDotNet.Attributes;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Benchmarks;

/// <summary>Judging a dry test of sixteen cylinders: what happens at every keystroke of the pad.</summary>
[MemoryDiagnoser]
public class DryJudgementBenchmark
{
    private static readonly EngineSheet Sheet = new()
    {
        Fuel = Fuel.Petrol, Cylinders = 16, Layout = CylinderArrangement.V,
        Banks = [[1, 3, 5, 7, 9, 11, 13, 15], [2, 4, 6, 8, 10, 12, 14, 16]],
        Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = 205, Minimum = 150, MaxDifference = 25 },
    };

    private readonly DryCompressionTest even = Test(i => 200 + i % 5, new TestConditions { Throttle = ThrottlePlate.Open });

    // The busiest answer: low ones, conditions that are slips, and counts that differ.
    private readonly DryCompressionTest busy = Test(
        i => i is 4 or 6 ? 120 : 200 + i % 5,
        new TestConditions { Throttle = ThrottlePlate.Closed, EngineTemperature = EngineTemperature.Cold, Battery = BatteryState.Weak, NeedleAtZero = false });

    /// <summary>Nothing to say about it.</summary>
    [Benchmark(Baseline = true)]
    public DryJudgement Even() => DryJudgement.Of(Sheet, even);

    /// <summary>Much to say about it.</summary>
    [Benchmark]
    public DryJudgement Busy() => DryJudgement.Of(Sheet, busy, shown: PressureUnit.Bar);

    private static DryCompressionTest Test(Func<int, double> psi, TestConditions conditions) => new()
    {
        Unit = PressureUnit.Psi,
        Conditions = conditions,
        Readings = [.. Enumerable.Range(1, 16).Select(c => new CompressionReading { Cylinder = c, Value = psi(c), Pulses = c == 9 ? 5 : 7, Repeats = c % 4 == 0 ? [psi(c)] : null })],
    };
}
