using Zandrik.Core.Physics;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.Tests.Simulation;

public sealed class CrankingRunTests
{
    private static readonly SimulatedEngine Four = SimulatedEngine.InlineFour;

    private static Dictionary<int, CylinderCondition> One(int cylinder, CylinderCondition condition) => new() { [cylinder] = condition };

    // Values of the model's own check table.
    [Theory]
    [InlineData(1e5, 2.0207)]
    [InlineData(6e5, 1.9973)]
    [InlineData(8e5, 1.6519)]
    [InlineData(9.5e5, 0.9054)]
    [InlineData(9.9e5, 0.4139)]
    public void Flow_through_an_orifice_has_the_models_check_values(double downstreamPa, double gramsPerSecond)
    {
        (CylinderGas.Flow(1e-6, 10e5, 400, downstreamPa, 300) * 1000).ShouldBe(gramsPerSecond, 0.001 * gramsPerSecond);
        CylinderGas.Flow(1e-6, downstreamPa, 300, 10e5, 400).ShouldBe(-CylinderGas.Flow(1e-6, 10e5, 400, downstreamPa, 300), 1e-12);
        CylinderGas.Flow(0, 10e5, 400, downstreamPa, 300).ShouldBe(0);
    }

    [Theory]
    [InlineData(0, 54.21, 0)]
    [InlineData(30, 97.36, 28.621)]
    [InlineData(90, 343.27, 45.000)]
    [InlineData(180, 552.97, 0)]
    [InlineData(246, 438.00, -35.698)]
    public void Volume_and_lever_of_the_inline_four_have_the_models_check_values(double degrees, double ml, double millimetresPerRadian)
    {
        var (phi, piston) = (degrees * Math.PI / 180, Math.PI / 4 * Four.BoreM * Four.BoreM);
        (CylinderGas.Volume(phi, Four.ClearanceM3, piston, Four.StrokeM / 2, Four.RodM) * 1e6).ShouldBe(ml, 0.01);
        (CylinderGas.Lever(phi, Four.StrokeM / 2, Four.RodM) * 1000).ShouldBe(millimetresPerRadian, 0.002);
    }

    // Settled mean current, inrush and speed of the model's table for sound engines, within the tolerances it names.
    public static TheoryData<string, double, double, double> Table => new()
    {
        { "1.2 inline three", 120, 577, 261 },
        { "2.0 inline four", 161, 663, 244 },
        { "2.2 flat four", 169, 667, 238 },
        { "5.0 V8 diesel", 300, 1213, 165 },
        { "9.5 inline six, truck diesel", 289, 1254, 164 },
    };

    [Theory]
    [MemberData(nameof(Table))]
    public void A_sound_engine_draws_and_turns_as_the_model_says(string name, double meanA, double inrushA, double rpm)
    {
        var run = CrankingRun.Of(SimulatedEngine.All.Single(e => e.Name == name), null, new Cranking { Seconds = 6, StepDeg = 0.5 });
        run.MeanA.ShouldBe(meanA, 0.04 * meanA);
        run.CurrentA.Max().ShouldBe(inrushA, 0.05 * inrushA);
        run.MeanRpm.ShouldBe(rpm, 0.03 * rpm);
    }

    /// <summary>Rows of the table: engine, fault, severity, hump of the current and of the torque of cylinder 1.</summary>
    public static TheoryData<string> Humps => [.. """
        P4 Rings 0 91 95
        P4 Rings 1 71 82
        P4 Rings 2 47 63
        P4 ExhaustValve 2 34 51
        P4 GasketCoolant 1 90 94
        P4 GasketAdjacent 1 59 72
        P4 IntakeNotOpening 0 115 110
        P4 ShortStroke 2 84 82
        P4 Carbon 2 108 109
        P4 FuelWashed 2 75 85
        P3T Rings 1 77 83
        P3T GasketAdjacent 1 79 89
        F4 IntakeValve 1 71 82
        V8D Rings 0 78 89
        V8D Rings 2 18 38
        V8D GasketAdjacent 1 100 97
        V8D IntakeNotOpening 2 85 91
        V8D Carbon 2 110 108
        I6D ExhaustValve 1 48 66
        I6D GasketAdjacent 1 27 49
        """.Split('\n', StringSplitOptions.TrimEntries)];

    [Theory]
    [MemberData(nameof(Humps))]
    public void Humps_stand_as_high_as_the_table_says(string row)
    {
        var part = row.Split(' ');
        double Number(int i) => double.Parse(part[i], System.Globalization.CultureInfo.InvariantCulture);
        SimulatedEngine[] engines = [SimulatedEngine.InlineThree, Four, SimulatedEngine.FlatFour, SimulatedEngine.VEightDiesel, SimulatedEngine.InlineSixTruck];
        var engine = engines[Array.IndexOf(["P3T", "P4", "F4", "V8D", "I6D"], part[0])];
        var how = new Cranking { Seconds = 6, StepDeg = 0.5 };
        var condition = SimulatedFault.Of(engine, Enum.Parse<Zandrik.Core.Records.Fault>(part[1]), Number(2), neighbour: engine.Webs[0].Second);
        var humps = CrankingHumps.Of(CrankingRun.Of(engine, One(1, condition), how), how);
        humps.CurrentPercent[0].ShouldBe(Number(3), 5);
        humps.TorquePercent[0].ShouldBe(Number(4), 3);
    }

    [Fact]
    public void Sound_cylinders_are_alike()
    {
        foreach (var engine in SimulatedEngine.All)
        {
            CrankingRun.Of(engine).RelativePercent.Min().ShouldBeGreaterThan(99, engine.Name);
        }
    }

    [Fact]
    public void A_leak_lowers_its_own_cylinder_more_the_larger_it_is_and_hardly_any_other()
    {
        double[] peaks = [.. new[] { 0, 0.5, 2, 6, 60 }.Select(mm2 => CrankingRun.Of(Four, One(3, new() { RingM2 = mm2 * 1e-6 })).RelativePercent[2])];
        peaks.Zip(peaks.Skip(1)).ShouldAllBe(p => p.Second < p.First);
        peaks[^1].ShouldBeLessThan(4);
        CrankingRun.Of(Four, One(3, new() { RingM2 = 2e-6 })).RelativePercent.Where((_, i) => i != 2).Min().ShouldBeGreaterThan(97);
    }

    [Fact]
    public void The_cylinder_that_carries_a_fault_can_be_any()
    {
        var peaks = Enumerable.Range(1, 4).Select(c => CrankingRun.Of(Four, One(c, new() { ExhaustValveM2 = 2e-6 })).RelativePercent[c - 1]).ToArray();
        (peaks.Max() - peaks.Min()).ShouldBeLessThan(1.5);
    }

    [Fact]
    public void A_dead_cylinder_lets_the_crank_turn_faster_and_a_cold_engine_slower()
    {
        var sound = CrankingRun.Of(Four).MeanRpm;
        CrankingRun.Of(Four, One(1, new() { RingM2 = 60e-6 })).MeanRpm.ShouldBeGreaterThan(sound);
        CrankingRun.Of(Four, null, new Cranking { Cold = true }).MeanRpm.ShouldBeLessThan(sound);
        CrankingRun.Of(Four, null, new Cranking { WeakBattery = 0.6 }).MeanRpm.ShouldBeLessThan(sound);
    }

    [Fact]
    public void A_gasket_takes_from_both_neighbours()
    {
        var peaks = CrankingRun.Of(Four, One(2, new() { GasketTo = 3, GasketM2 = 2.5e-6 })).RelativePercent;
        peaks[1].ShouldBeLessThan(80);
        peaks[2].ShouldBeLessThan(80);
        peaks[0].ShouldBeGreaterThan(97);
    }
}
