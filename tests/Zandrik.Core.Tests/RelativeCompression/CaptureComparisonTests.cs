using CsCheck;
using Zandrik.Core.Physics;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.Tests.RelativeCompression;

public sealed class CaptureComparisonTests
{
    private static readonly int[] Order = [1, 3, 4, 2];

    private static ComparedCapture Capture(double error, params double[] percentByCylinder) => new(new RelativeAnswer
    {
        Synchronised = true, Cycles = 12, CrankingRpm = 200,
        Slots = [.. Order.Select((c, i) => new RelativeSlot(i + 1, c, percentByCylinder[c - 1], error, RelativeVerdict.Even, 90, i / 4.0))],
    }, new CaptureQuestion { FiringOrder = Order }, new Dictionary<int, double>());

    private static ComparedCapture Simulated(int seed, CylinderCondition? third)
    {
        var capture = Captures.Of(SimulatedEngine.InlineFour, 3, third, new CaptureRecipe { SampleRateHz = 4000, Seed = seed });
        return new(Captures.Answer(capture), Captures.Four, new Dictionary<int, double>());
    }

    [Fact]
    public void A_valve_that_was_ground_shows_and_nothing_else_does()
    {
        var (was, isNow) = (Simulated(1, new CylinderCondition { ExhaustValveM2 = 2e-6 }), Simulated(2, null));
        var found = CaptureComparison.Of(was, isNow);
        found.Cylinders.Where(c => c.IsMoreThanChance).Select(c => c.Cylinder).ShouldBe([3]);
        found.Says.ShouldStartWith("Cylinder 3 rose from ");
        CaptureComparison.Of(isNow, was).Says.ShouldStartWith("Cylinder 3 fell from ");
        CaptureComparison.Of(Simulated(3, null), isNow).Says.ShouldBe("No cylinder changed by more than chance");
    }

    [Fact]
    public void Of_engines_that_did_not_change_one_in_twenty_is_called_changed()
    {
        var random = new Random(17);
        double Gauss() => Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());
        ComparedCapture Drawn() => Capture(1.5, [.. Enumerable.Range(0, 4).Select(_ => 90 + 1.5 * Gauss())]);
        var called = Enumerable.Range(0, 4000).Count(_ => CaptureComparison.Of(Drawn(), Drawn()).Cylinders.Any(c => c.IsMoreThanChance));
        (called / 4000.0).ShouldBeInRange(0.04, 0.06);
    }

    [Fact]
    public void The_change_the_other_way_round_is_the_same_with_the_other_sign() => Gen.Select(Gen.Double[5, 100].Array[4], Gen.Double[5, 100].Array[4], Gen.Double[0.3, 6], Gen.Double[0.3, 6]).Sample((a, b, ea, eb) =>
    {
        var (there, back) = (CaptureComparison.Of(Capture(ea, a), Capture(eb, b)).Cylinders, CaptureComparison.Of(Capture(eb, b), Capture(ea, a)).Cylinders);
        for (var i = 0; i < 4; i++)
        {
            there[i].ChangePercent.ShouldBe(-back[i].ChangePercent, 1e-12);
            (there[i].ErrorPercent, there[i].IsMoreThanChance).ShouldBe((back[i].ErrorPercent, back[i].IsMoreThanChance));
        }
    });

    [Fact]
    public void What_a_doubtful_capture_shows_is_called_no_change()
    {
        var doubtful = Capture(1, 99, 98, 40, 100);
        doubtful = doubtful with { Answer = doubtful.Answer with { Confidence = Confidence.Low } };
        var found = CaptureComparison.Of(Capture(1, 99, 98, 100, 99), doubtful);
        found.Cylinders.ShouldAllBe(c => !c.IsMoreThanChance);
        found.Says.ShouldBe("Not sure enough to say that a cylinder changed");
        found.Notes.ShouldContain(n => n.StartsWith("The capture after is of low confidence", StringComparison.Ordinal));
    }

    [Fact]
    public void Other_speed_and_a_best_cylinder_that_fell_are_said()
    {
        var after = Capture(1, 100, 99, 100, 80);
        var found = CaptureComparison.Of(Capture(1, 82, 81, 80, 100), after with { Answer = after.Answer with { CrankingRpm = 260 } });
        found.Notes.ShouldContain(n => n.StartsWith("Cranked at 200 rpm before and 260 rpm after.", StringComparison.Ordinal));
        found.Notes.ShouldContain(n => n.StartsWith("Cylinder 4 was the best before and is at 80 % after.", StringComparison.Ordinal));
    }

    [Fact]
    public void Humps_without_names_are_not_compared_unless_a_gauge_names_them()
    {
        var named = Capture(1, 99, 98, 60, 100);
        var blind = named with { Answer = named.Answer with { Synchronised = false, Slots = [.. named.Answer.Slots.Select(s => s with { Cylinder = null })] } };
        CaptureComparison.Of(blind, named).Problem!.ShouldStartWith("Nothing tells which hump of the capture before is which cylinder.");
        CaptureComparison.Of(named, blind).Cylinders.ShouldBeEmpty();
        var byGauge = blind with { Gauge = new Dictionary<int, double> { [1] = 100, [2] = 98, [3] = 58, [4] = 99 } };
        var found = CaptureComparison.Of(byGauge, named);
        found.Cylinders.ShouldAllBe(c => c.ChangePercent == 0);
        found.Notes.ShouldContain(n => n.StartsWith("In the capture before the gauge readings", StringComparison.Ordinal));
    }

    [Fact]
    public void Refused_captures_other_firing_orders_and_a_plug_that_was_out_are_told_apart()
    {
        var one = Capture(1, 99, 98, 60, 100);
        CaptureComparison.Of(one, one with { Answer = new RelativeAnswer { Refused = new(CaptureCode.TooShort, "Too short.") } }).Problem!.ShouldStartWith("The capture after could not be judged.");
        CaptureComparison.Of(one, one with { Question = one.Question with { FiringOrder = [1, 2, 4, 3] } }).Problem!.ShouldContain("1-3-4-2 and 1-2-4-3");
        CaptureComparison.Of(one, one with { Answer = one.Answer with { Unplugged = 3 } }).Cylinders.Select(c => c.Cylinder).ShouldBe([1, 2, 4]);
    }
}
