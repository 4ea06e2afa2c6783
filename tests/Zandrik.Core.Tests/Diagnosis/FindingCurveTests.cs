using CsCheck;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Diagnosis;

/// <summary>What all curves of the table have in common, and the paths that air takes.</summary>
public sealed class FindingCurveTests
{
    private static readonly NodeTable Table = NodeTable.Of(new NodeSetting(false, 0.04, 0.57));

    private static FindingCurve Curve(double spread, double floor = 0.01, double range = 3) => new([-0.4], [spread], [floor], range);

    [Fact]
    public void What_is_under_a_curve_and_its_floor_is_all_there_is() => Gen.Select(Gen.Double[0.02, 0.2], Gen.Double[0.001, 0.05]).Sample((spread, floor) =>
    {
        var curve = Curve(spread, floor);
        const double Step = 0.001;
        double sum = 0;
        // The range of three about the prediction.
        for (var x = -1.9; x < 1.1; x += Step)
        {
            sum += Step * curve.At(0, x);
        }
        sum.ShouldBe(1, 0.01);
    }, iter: 30);

    [Fact]
    public void It_is_highest_at_the_prediction_and_the_same_on_both_sides() => Gen.Select(Gen.Double[0.02, 0.2], Gen.Double[0, 2]).Sample((spread, off) =>
    {
        var curve = Curve(spread);
        curve.At(0, -0.4 + off).ShouldBe(curve.At(0, -0.4 - off), 1e-9);
        curve.At(0, -0.4).ShouldBeGreaterThanOrEqualTo(curve.At(0, -0.4 + off));
        curve.At(0, -0.4 + off).ShouldBeGreaterThan(0.01 / 3 - 1e-12);
        (curve.Predicted(0), Math.Round(curve.Spread(0), 9)).ShouldBe((-0.4, Math.Round(spread, 9)));
    });

    [Theory]
    [InlineData(1e3)]
    [InlineData(-1e3)]
    [InlineData(1e-300)]
    public void However_far_off_a_reading_is_only_the_floor_is_left_and_nothing_overflows(double reading)
    {
        var curve = Curve(0.03);
        double[] all = [2];
        curve.Multiply(reading, all);
        all[0].ShouldBe(2 * curve.At(0, reading), 1e-12);
        double.IsFinite(all[0]).ShouldBeTrue();
    }

    [Fact]
    public void The_air_of_a_node_is_shared_out_whole()
    {
        foreach (var oiled in new[] { false, true })
        {
            var paths = new LeakPaths(Table, 1.3, 0.628, oiled, 0.5);
            for (var k = 0; k < Table.Nodes.Length; k += 7)
            {
                var shares = Enumerable.Range(0, LeakEvidence.Places).Sum(p => Math.Pow(10, (paths.ShareDb(p)[k] - LikelihoodTable.EarDb(Table.Nodes[k], p)) / 20));
                shares.ShouldBe(1, 1e-4, $"{Table.Nodes[k].Fault}");
                paths.LnRatio[k].ShouldBe(Math.Log(LikelihoodTable.AreasOf(Table.Nodes[k], 1.3, oiled, 0.5).Sum() / 0.628), 1e-9);
            }
        }
    }

    [Fact]
    public void More_wear_leaks_more_and_oil_seals_rings_only()
    {
        var dry = new LeakPaths(Table, 1, 0.628, oiled: false, moreRings: 0);
        var worn = new LeakPaths(Table, 1, 0.628, oiled: false, moreRings: 1);
        var oiled = new LeakPaths(Table, 1, 0.628, oiled: true, moreRings: 0);
        for (var k = 0; k < Table.Nodes.Length; k++)
        {
            worn.LnRatio[k].ShouldBeGreaterThan(dry.LnRatio[k]);
            oiled.LnRatio[k].ShouldBeLessThan(dry.LnRatio[k]);
        }
        var valve = Table.OfFault[Posterior.IndexOf(Fault.ExhaustValve)].To - 1;
        var rings = Table.OfFault[Posterior.IndexOf(Fault.Rings)].From + 12;
        (dry.LnRatio[rings] - oiled.LnRatio[rings]).ShouldBeGreaterThan(dry.LnRatio[valve] - oiled.LnRatio[valve]);
    }

    [Fact]
    public void What_is_kept_is_made_once_and_never_grows_without_end()
    {
        var made = new List<int>();
        var cache = new BoundedCache<int, string>(3, k =>
        {
            made.Add(k);
            return $"{k}";
        });
        foreach (var k in new[] { 1, 2, 1, 2, 3 })
        {
            cache.Of(k).ShouldBe($"{k}");
        }
        made.ShouldBe([1, 2, 3]);
        cache.Of(4).ShouldBe("4");
        cache.Of(1).ShouldBe("1");
        made.ShouldBe([1, 2, 3, 4, 1], "full, it starts anew");
    }

    [Fact]
    public void Many_at_once_are_told_what_each_alone_is_told()
    {
        string[] jobs = ["dry 190 188 131 191; leak 3 85 exhaust 3; wet 3 134", "diesel 6; dry 420 415 300 422 416 419; wet 3 360", "petrol 8 v 1-3-5-7/2-4-6-8; dry 190 150 148 191 190 189 192 188; run 2 100 160", "nominal 205; dry 160 158 161 159; with throttle-closed"];
        string Told(string job)
        {
            var said = EngineDiagnosis.Of(Whiteboard.Job(job));
            return string.Join("|", said.Cylinders.SelectMany(c => c.Suspects.Select(s => $"{s.Fault}{s.With}{s.Probability:R}{string.Join(",", s.Evidence.Select(e => e.WeightDb))}")).Concat(said.Suspects.Select(s => $"{s.Fault}{s.Probability:R}")));
        }
        var alone = jobs.ToDictionary(j => j, Told);
        Parallel.For(0, 80, i => Told(jobs[i % jobs.Length]).ShouldBe(alone[jobs[i % jobs.Length]]));
    }
}
