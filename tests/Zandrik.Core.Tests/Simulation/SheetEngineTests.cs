using CsCheck;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;
using Zandrik.Core.Units;

namespace Zandrik.Core.Tests.Simulation;

public sealed class SheetEngineTests
{
    private static readonly GaugeTest Plain = new() { Cylinder = 1, Pulses = 8, How = new Cranking { StepDeg = 1, Seconds = 30 } };

    [Fact]
    public void Any_sheet_gives_an_engine_that_cranks_and_reads_as_such_engines_do() =>
        Gen.Select(Gen.Int[1, 16], Gen.Bool, Gen.Double[200, 1500], Gen.Int[0, 7]).Sample((n, diesel, cc, given) =>
        {
            var bore = Math.Cbrt(cc * 1000 * 4 / Math.PI);
            var engine = SheetEngine.Of(new EngineSheet
            {
                Cylinders = n, Fuel = diesel ? Fuel.Diesel : null, DisplacementCc = (given & 1) > 0 ? n * cc : null, BoreMm = (given & 2) > 0 ? bore : null, StrokeMm = (given & 4) > 0 ? bore : null,
            });
            engine.Cylinders.ShouldBe(n);
            if (given is 1 or 3 or 5 or 6 or 7)
            {
                (engine.SweptM3 * 1e6).ShouldBe(cc, 1e-6 * cc);
            }
            var runs = GaugeRun.Of([(new EngineUnderTest(engine), Plain), (new EngineUnderTest(engine), Plain with { PlugsIn = true })]);
            runs.ShouldAllBe(r => !r.Stalled && r.MeanRpm > 80 && r.MeanRpm < 450);
            (runs[0].FinalPa / 1e5).ShouldBeInRange(diesel ? 20 : 10, diesel ? 38 : 17);
            StaticLeak.Of(new(engine), new StaticTest { Cylinder = n }).Percent.ShouldBeInRange(3, 25);
            engine.Webs.Count.ShouldBeLessThan(n);
        }, iter: 60);

    [Theory]
    [InlineData(Fuel.Petrol, 150)]
    [InlineData(Fuel.Petrol, 205)]
    [InlineData(Fuel.Diesel, 380)]
    [InlineData(Fuel.Diesel, 450)]
    public void With_a_makers_figure_and_no_ratio_a_sound_cylinder_reads_it(Fuel fuel, double psi)
    {
        var engine = SheetEngine.Of(new EngineSheet { Cylinders = 4, Fuel = fuel, FiringOrder = [1, 3, 4, 2], Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = psi } });
        (GaugeRun.Of(new EngineUnderTest(engine), Plain with { Pulses = 10 }).FinalPa / PressureUnit.Psi.Pascals()).ShouldBe(psi, 0.01 * psi);
    }

    [Fact]
    public void What_the_sheet_says_is_taken()
    {
        var engine = SheetEngine.Of(new EngineSheet
        {
            Name = "Own", Cylinders = 3, Fuel = Fuel.Petrol, BoreMm = 70, StrokeMm = 80, CompressionRatio = 9, FiringOrder = [1, 2, 3], FiringAngles = [0, 200, 450], Spec = new EngineSpec { Nominal = 500 },
        });
        (engine.Name, engine.BoreM, engine.StrokeM, engine.CompressionRatio).ShouldBe(("Own", 0.070, 0.080, 9.0));
        engine.OffsetsRad().Select(r => Math.Round(r * 180 / Math.PI)).ShouldBe([0, 200, 450]);
        engine.Webs.ShouldBe([(1, 2), (2, 3)]);
    }
}
