using Zandrik.Core.Calibration;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.Tests.Calibration;

public sealed class LikelihoodEstimatorTests
{
    private static readonly DateOnly Day = new(2026, 12, 1);

    // A curve that is known: ln dry falls by 0.1 a severity, about it a spread of 0.03.
    private static List<CalibrationSample> Known(int count, double slope = -0.1, double spread = 0.03)
    {
        var draw = new SeededDraw(2);
        return [.. Enumerable.Range(0, count).Select(i =>
        {
            var place = draw.Even(-0.5, SeverityFigures.Of(Fault.Rings).Count - 0.5);
            return new CalibrationSample(i, Fault.Rings, false, place, 0, slope * place + spread * draw.Normal(), 0.2, 0.6, 0, 0, 0, 0, 0, []);
        })];
    }

    [Fact]
    public void A_curve_that_is_known_is_found_with_its_spread()
    {
        var found = LikelihoodEstimator.Of(Known(3000), 2, Day);
        (found.Seed, found.Engines, found.Date).ShouldBe((2, 3000, Day));
        var dry = found.Of(Fault.Rings, false, EstimatedFinding.Dry)!;
        for (var i = 0; i < dry.Means.Count; i++)
        {
            dry.Means[i].ShouldBe(-0.1 * i, 0.012);
            // The step of a severity is part of it: 0.1 over the root of twelve.
            dry.Spreads[i].ShouldBe(Math.Sqrt(0.03 * 0.03 + 0.01 / 12), 0.006);
        }
        dry.Fit.ShouldBeInRange(0.98, 1);
        // Oil is put down for each share of the leak that it closes.
        found.Of(Fault.Rings, false, EstimatedFinding.Wet)!.Means[5].ShouldBe(0.2 / 0.4, 1e-9);
    }

    [Fact]
    public void The_order_of_the_samples_is_all_the_same()
    {
        var some = Known(400);
        LikelihoodEstimator.Of([.. Enumerable.Reverse(some)], 2, Day).ToJson().ShouldBe(LikelihoodEstimator.Of(some, 2, Day).ToJson());
    }

    [Fact]
    public void Too_few_are_refused() => Should.Throw<ArgumentException>(() => LikelihoodEstimator.Of(Known(20), 2, Day)).Message.ShouldContain("Too few engines");

    // The table that the diagnosis uses, held against engines it was not made from.
    [Fact]
    public void The_table_that_is_checked_in_is_what_other_engines_read()
    {
        var table = LikelihoodEstimates.CheckedIn;
        table.Engines.ShouldBeGreaterThanOrEqualTo(20_000);
        var others = CalibrationSample.Of(table.Seed + 76, 0, 14 * 2 * SeverityFigures.All.Count);
        var worst = 0.0;
        foreach (var curve in table.Curves)
        {
            var (shift, scatter) = Against(curve, others);
            shift.ShouldBeLessThan(4.5, $"{curve.Fault} {curve.Diesel} {curve.Finding}: the mean is off by so many standard errors");
            scatter.ShouldBeLessThan(2, $"{curve.Fault} {curve.Diesel} {curve.Finding}: readings lie so many spreads off");
            worst = Math.Max(worst, shift);
        }
        worst.ShouldBeGreaterThan(1, "of so many curves some are off by a standard error: else nothing was compared");
        // A table that is off by a tenth is told from it.
        var dry = table.Of(Fault.IntakeValve, false, EstimatedFinding.Dry)!;
        Against(dry with { Means = [.. dry.Means.Select(m => m + 0.1)] }, others).Shift.ShouldBeGreaterThan(4.5);
    }

    // How far other samples lie from a curve: their mean in standard errors (with what the curve itself may be off), and their scatter in spreads. What is known to a thousandth need not
    // be known better, and near nothing the curve of a pressure breaks off.
    private static (double Shift, double Scatter) Against(EstimatedCurve curve, IEnumerable<CalibrationSample> others)
    {
        var off = others.Where(s => s.Fault == curve.Fault && s.Diesel == curve.Diesel).Select(s => (Value: LikelihoodEstimator.Value(s, curve.Finding), At: curve.At(s.Place)))
            .Where(s => s.Value is not null && (curve.Finding is not (EstimatedFinding.Dry or EstimatedFinding.Relative) || s.At.Mean > -2)).Select(s => (s.Value!.Value - s.At.Mean) / Math.Max(0.005, s.At.Spread)).ToList();
        return (Math.Abs(off.Average()) * Math.Sqrt(off.Count), Math.Sqrt(off.Average(z => z * z)));
    }

    [Fact]
    public void What_is_written_is_read_again()
    {
        var table = LikelihoodEstimates.CheckedIn;
        var read = System.Text.Json.JsonSerializer.Deserialize<LikelihoodEstimates>(table.ToJson(), TestRecordJson.Options)!;
        read.ToJson().ShouldBe(table.ToJson());
        read.Curves.Count.ShouldBe(table.Curves.Count);
    }
}
