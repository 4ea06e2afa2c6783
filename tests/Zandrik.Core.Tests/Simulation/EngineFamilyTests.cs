using Zandrik.Core.Simulation;

namespace Zandrik.Core.Tests.Simulation;

public sealed class EngineFamilyTests
{
    [Fact]
    public void The_same_seed_draws_the_same_engine_and_many_differ_as_workshops_see_them()
    {
        EngineFamily.Draw(new SeededDraw(9), false).ShouldBe(EngineFamily.Draw(new SeededDraw(9), false));
        var many = Enumerable.Range(0, 300).Select(i => EngineFamily.Draw(new SeededDraw(i), i % 2 == 0)).ToList();
        many.ShouldAllBe(e => e.CompressionRatio >= (e.IsDiesel ? 15 : 8) && e.CompressionRatio < 24 && e.Size > 0.4 && e.Size < 6);
        many.Select(e => e.Name).Distinct().Count().ShouldBe(SimulatedEngine.All.Count, "all the invented ones are drawn about");
        // Large cylinders are tested through a larger restriction.
        many.Where(e => e.SweptM3 > 1.1e-3).ShouldAllBe(e => e.OrificeMm == 1.5);
    }

    [Fact]
    public void Cylinders_are_built_about_what_was_meant()
    {
        var draw = new SeededDraw(4);
        var built = Enumerable.Range(0, 2000).Select(_ => EngineFamily.Built(SimulatedEngine.InlineFour, draw)).ToList();
        built.Average(c => Math.Log(c.RingFactor)).ShouldBe(0, 0.02);
        Spread(built.Select(c => Math.Log(c.RingFactor))).ShouldBe(0.25, 0.015);
        Spread(built.Select(c => Math.Log(c.ValveFactor))).ShouldBe(0.4, 0.025);
        Spread(built.Select(c => c.VolumeM3 / SimulatedEngine.InlineFour.ClearanceM3)).ShouldBe(0.01, 0.001);
    }

    [Fact]
    public void Draws_are_even_and_normal()
    {
        var draw = new SeededDraw(1);
        var (even, normal) = (Enumerable.Range(0, 20_000).Select(_ => draw.Even(2, 4)).ToList(), Enumerable.Range(0, 20_000).Select(_ => draw.Normal()).ToList());
        even.ShouldAllBe(x => x >= 2 && x < 4);
        even.Average().ShouldBe(3, 0.02);
        normal.Average().ShouldBe(0, 0.03);
        Spread(normal).ShouldBe(1, 0.03);
        normal.Count(x => Math.Abs(x) > 1.96).ShouldBeInRange(850, 1150);
    }

    private static double Spread(IEnumerable<double> of)
    {
        var all = of.ToList();
        return Math.Sqrt(all.Average(x => Math.Pow(x - all.Average(), 2)));
    }
}
