using Zandrik.Core.AirPaths;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;
using Zandrik.Core.Units;

namespace Zandrik.Core.Tests.AirPaths;

public sealed class EngineResponseTests
{
    private static readonly EngineSheet Four = new() { Cylinders = 4, Fuel = Fuel.Petrol, BoreMm = 84, StrokeMm = 90, CompressionRatio = 10.2, FiringOrder = [1, 3, 4, 2] };

    [Fact]
    public void Between_its_areas_it_is_the_model()
    {
        var response = EngineResponse.Of(Four);
        foreach (var mm2 in new[] { 0.37, 1.4, 5.5 })
        {
            var m2 = mm2 * response.Size * 1e-6;
            var run = GaugeRun.Of(new(response.Engine, new Dictionary<int, CylinderCondition> { [1] = new() { IntakeValveM2 = m2 } }), new GaugeTest { Cylinder = 1, Pulses = 8, How = new() { StepDeg = 1, Seconds = 30 } });
            response.Dry(m2 * 1e6).ShouldBe(Math.Log(run.FinalPa / response.SoundPa), 0.015, $"{mm2} mm²");
        }
    }

    [Fact]
    public void It_falls_throughout_and_a_tighter_cylinder_reads_a_little_more()
    {
        var response = EngineResponse.Of(Four);
        var areas = Enumerable.Range(0, 200).Select(i => 0.01 * Math.Pow(1.05, i)).ToList();
        foreach (var of in new Func<double, double>[] { response.Dry, response.Idle, response.Snap })
        {
            areas.Zip(areas.Skip(1)).ShouldAllBe(a => of(a.Second) <= of(a.First) + 1e-12);
            of(0).ShouldBe(0, 1e-12);
            of(-0.1).ShouldBeInRange(0, 0.05);
        }
        response.Idle(2).ShouldBeGreaterThan(response.Dry(2), "a running engine gives a leak less time");
    }

    [Fact]
    public void Sheets_that_differ_in_nothing_the_model_asks_share_one()
    {
        EngineResponse.Of(Four with { Name = "another", Throttle = ThrottleControl.Cable }).ShouldBeSameAs(EngineResponse.Of(Four));
        EngineResponse.Of(Four with { BoreMm = 90 }).ShouldNotBeSameAs(EngineResponse.Of(Four));
        EngineResponse.Of(Four with { CompressionRatio = null, Spec = new() { Unit = PressureUnit.Psi, Nominal = 180 } }).SoundPa.ShouldBe(180 * 6894.757, 0.03 * 180 * 6894.757);
    }
}
