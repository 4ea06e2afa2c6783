using CsCheck;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Diagnosis;

public sealed class SeverityNodesTests
{
    private static readonly NodeSetting Petrol = new(Diesel: false, SoundGain: 0.04, OilLeft: 0.55);
    private static readonly NodeSetting Diesel = Petrol with { Diesel = true };

    // What the motored two-litre four keeps of its pressure, by added leak in mm².
    [Theory]
    [InlineData(0, 100)]
    [InlineData(0.5, 91)] // 90 on the model
    [InlineData(1, 83)] // 81
    [InlineData(2, 69)] // 67
    [InlineData(4, 48)]
    [InlineData(6, 35)]
    [InlineData(8, 26)]
    [InlineData(14, 14)]
    public void A_leak_takes_what_it_takes_on_the_motored_engine(double area, double percent) =>
        (100 * Math.Exp(SeverityNodes.DryOf(Petrol.Loss * area))).ShouldBe(percent, 0.6);

    [Fact]
    public void More_leak_is_never_more_pressure_and_none_is_below_the_least_that_tells_anything() =>
        Gen.Select(Gen.Double[0, 12], Gen.Double[0, 3]).Sample((lost, more) =>
        {
            var (less, then) = (SeverityNodes.DryOf(lost), SeverityNodes.DryOf(lost + more));
            then.ShouldBeLessThanOrEqualTo(less);
            then.ShouldBeGreaterThanOrEqualTo(SeverityNodes.LowestDry);
            // Never more than a small leak's share of it.
            less.ShouldBeGreaterThanOrEqualTo(-lost - 1e-12);
        });

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void No_reading_falls_into_a_hole_between_two_severities_of_a_leak(bool diesel)
    {
        var nodes = SeverityNodes.Local(diesel ? Diesel : Petrol);
        foreach (var fault in new[] { Fault.Rings, Fault.Piston, Fault.IntakeValve, Fault.ExhaustValve, Fault.GasketCoolant })
        {
            var of = nodes.Where(k => k.Fault == fault && k.Weight > 0.02).OrderByDescending(k => k.Dry).ToList();
            foreach (var (mild, severe) in of.Zip(of.Skip(1)))
            {
                // Half-way lies within three standard deviations of a reading at either.
                var reach = Math.Sqrt(LikelihoodTable.DrySpread * LikelihoodTable.DrySpread + Math.Min(mild.DrySpread, severe.DrySpread) * Math.Min(mild.DrySpread, severe.DrySpread));
                ((mild.Dry - severe.Dry) / 2).ShouldBeLessThan(3 * reach, $"{fault} {mild.Dry:0.00} {severe.Dry:0.00}");
            }
        }
    }

    [Fact]
    public void One_valve_in_ten_does_not_come_to_its_seat()
    {
        foreach (var fault in new[] { Fault.IntakeValve, Fault.ExhaustValve })
        {
            var open = SeverityNodes.Local(Petrol).Where(k => k.Fault == fault && k.Intake + k.Exhaust > 14 && k.Rings == 0).ToList();
            open.Sum(k => k.Weight).ShouldBe(0.1, 1e-12);
            open.Min(k => k.Dry).ShouldBe(SeverityNodes.LowestDry, 0.01);
        }
    }

    [Fact]
    public void A_hole_in_the_crown_lets_air_past_the_rings_and_oil_brings_nothing_back()
    {
        var pistons = SeverityNodes.Local(Petrol).Where(k => k.Fault == Fault.Piston).ToList();
        pistons.ShouldAllBe(k => k.Crown > 3 && k.Rings == 0 && k.Wet <= Petrol.SoundGain);
        pistons.Sum(k => k.Weight).ShouldBe(1, 1e-12);
    }

    [Theory]
    [InlineData(Fault.Piston)]
    [InlineData(Fault.ExhaustNotOpening)]
    [InlineData(Fault.ShortStroke)]
    [InlineData(Fault.FuelWashed)]
    [InlineData(Fault.Carbon)]
    public void The_mildest_and_the_severest_are_a_quarter_as_likely_as_the_middle(Fault fault) =>
        ShouldTaper([.. SeverityNodes.Local(Petrol).Where(k => k.Fault == fault).Select(k => k.Weight)]);

    [Fact]
    public void So_are_the_leaks_of_rings_and_valves_by_themselves()
    {
        SeverityNodes.WebWeights.Count.ShouldBe(SeverityNodes.WebAreas.Count);
        SeverityNodes.WebWeights.Sum().ShouldBe(1, 1e-12);
        SeverityNodes.WebWeights.Zip(SeverityNodes.WebAreas).Where(w => w.Second < 0.5).Sum(w => w.First).ShouldBeInRange(0.10, 0.20, "one that is only heard is rare");
        var nodes = SeverityNodes.Local(Diesel);
        ShouldTaper([.. nodes.Where(k => k.Fault == Fault.Rings && k.Intake + k.Exhaust == 0).Select(k => k.Weight)]);
        ShouldTaper([.. nodes.Where(k => k.Fault == Fault.ExhaustValve && k.Rings + k.Intake == 0 && k.Exhaust < 14).Select(k => k.Weight / 0.9)]);
        ShouldTaper([.. nodes.Where(k => k.Fault == Fault.GasketCoolant && k.Coolant < 3).Select(k => k.Weight / 0.9)]);
    }

    [Fact]
    public void How_sound_cylinders_are_built_apart_is_counted_once_but_a_diesel_makes_more_of_it()
    {
        SeverityNodes.Local(Petrol).Where(k => k.Fault == Fault.Sound).ShouldAllBe(k => k.DrySpread == 0);
        SeverityNodes.Local(Diesel).Where(k => k.Fault == Fault.Sound).ShouldAllBe(k => k.DrySpread == 0.015);
    }

    private static void ShouldTaper(double[] weights)
    {
        weights.Sum().ShouldBe(1, 1e-9);
        weights[0].ShouldBe(weights[^1], 1e-12);
        weights[0].ShouldBe(0.25 * weights[weights.Length / 2], 1e-12);
        for (var i = 1; i <= weights.Length / 2; i++)
        {
            weights[i].ShouldBeGreaterThanOrEqualTo(weights[i - 1] - 1e-12);
            weights[i].ShouldBe(weights[^(i + 1)], 1e-12, "the same from either end");
        }
    }
}
