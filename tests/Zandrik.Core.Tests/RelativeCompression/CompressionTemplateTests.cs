using System.Numerics;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Core.Tests.RelativeCompression;

public sealed class CompressionTemplateTests
{
    private const int Orders = 20;

    private static readonly CompressionTemplate Four = new(10, 0.5e-3, 240, Orders, wear: 0);

    private static Complex[] Of(PressureLoss loss, double share, CompressionTemplate? template = null)
    {
        var found = new Complex[Orders + 1];
        (template ?? Four).Of(loss, share, found);
        return found;
    }

    private static double Distance(Complex[] a, Complex[] b) => Enumerable.Range(1, Orders).Sum(k => (a[k] - b[k]).Magnitude) / Enumerable.Range(1, Orders).Sum(k => b[k].Magnitude);

    [Fact]
    public void A_cylinder_that_lacks_nothing_is_the_sound_one_whatever_it_might_lack()
    {
        // Not filling: a mildly worn intake lobe raises the pressure, so a whole peak is one that opens less already.
        foreach (var loss in (PressureLoss[])[PressureLoss.None, PressureLoss.Leak, PressureLoss.Volume, PressureLoss.Short])
        {
            Distance(Of(loss, 1), Of(PressureLoss.None, 1)).ShouldBeLessThan(0.02, loss.ToString());
        }
    }

    [Fact]
    public void A_cylinder_brakes_more_than_it_gives_back_and_a_leaking_one_most()
    {
        // Order 0 is the mean load over the cycle; templates are for a peak of one.
        var sound = Of(PressureLoss.None, 1)[0].Real;
        sound.ShouldBeGreaterThan(0);
        Of(PressureLoss.Leak, 0.6)[0].Real.ShouldBeGreaterThan(1.5 * sound);
    }

    [Fact]
    public void Each_way_of_pumping_less_has_a_shape_of_its_own()
    {
        PressureLoss[] ways = [PressureLoss.Leak, PressureLoss.Filling, PressureLoss.Volume, PressureLoss.Short];
        foreach (var one in ways)
        {
            foreach (var other in ways.Where(w => w != one))
            {
                Distance(Of(one, 0.6), Of(other, 0.6)).ShouldBeGreaterThan(0.04, $"{one} {other}");
            }
        }
    }

    [Fact]
    public void What_is_lost_on_the_way_down_takes_from_expansion_alone()
    {
        // The mean load rises with what does not come back; and it is all of a sound cylinder's expansion at most.
        var lost = Four.LostOnTheWayDown;
        lost[0].Real.ShouldBeLessThan(0, "expansion drives: taking it away leaves more load");
        Distance([.. Of(PressureLoss.None, 1).Select((h, k) => h - 0.3 * lost[k])], Of(PressureLoss.None, 1)).ShouldBeGreaterThan(0.02);
    }

    [Fact]
    public void The_less_is_left_the_further_it_is_from_sound()
    {
        foreach (var loss in (PressureLoss[])[PressureLoss.Leak, PressureLoss.Filling, PressureLoss.Volume, PressureLoss.Short])
        {
            double[] away = [.. new[] { 0.95, 0.8, 0.6, 0.4 }.Select(s => Distance(Of(loss, s), Of(PressureLoss.None, 1)))];
            away.Zip(away.Skip(1)).ShouldAllBe(a => a.Second > a.First, loss.ToString());
        }
    }

    [Fact]
    public void The_size_of_the_engine_hardly_matters_and_its_ratio_does()
    {
        Distance(Of(PressureLoss.None, 1, new CompressionTemplate(10, 0.4e-3, 240, Orders, 0)), Of(PressureLoss.None, 1)).ShouldBeLessThan(0.05);
        Distance(Of(PressureLoss.None, 1, new CompressionTemplate(18, 0.5e-3, 240, Orders, 0)), Of(PressureLoss.None, 1)).ShouldBeGreaterThan(0.1);
    }

    [Fact]
    public void A_gasket_takes_from_both_the_more_the_larger_and_it_does_not_matter_which_is_named_first()
    {
        double before = 1;
        for (var size = 0; size < CompressionTemplate.GasketSizes; size++)
        {
            var (_, first, second) = Four.Gasket(0.5, size);
            first.ShouldBe(second, 0.02);
            first.ShouldBeLessThan(before);
            before = first;
        }
        // One half of the cycle later is one half of the cycle earlier.
        var (harmonics, _, _) = Four.Gasket(0.5, 2);
        Enumerable.Range(1, Orders).ShouldAllBe(k => k % 2 == 0 || harmonics[k].Magnitude < 0.02);
    }

    [Theory]
    [InlineData(1, 4)]
    [InlineData(1, 3)]
    [InlineData(5, 12)]
    public void A_gasket_to_the_one_before_is_that_to_the_one_after_seen_from_the_other(int slots, int of)
    {
        var (apart, size) = ((double)slots / of, 2);
        var (after, own, other) = Four.Gasket(apart, size);
        var (before, others, owns) = Four.Gasket(1 - apart, size);
        (own, other).ShouldBe((owns, others));
        var away = Enumerable.Range(0, Orders + 1).Max(k => (before[k] - after[k] * Complex.FromPolarCoordinates(1, 2 * Math.PI * k * apart)).Magnitude);
        away.ShouldBeLessThan(1e-9);
        Math.Abs(own - other).ShouldBeGreaterThan(1e-3, "the two do not lose alike, or nothing is seen of which is which");
        // Through the smallest hole next to nothing is lost: nearly two sound cylinders, the second where it stands and not as far the other way.
        foreach (var place in (ReadOnlySpan<double>)[apart, 1 - apart])
        {
            var (small, sound) = (Four.Gasket(place, 0).Harmonics, Of(PressureLoss.None, 1));
            double From(double at) => Distance(small, [.. sound.Select((h, k) => h * (1 + Complex.FromPolarCoordinates(1, -2 * Math.PI * k * at)))]);
            From(place).ShouldBeLessThan(0.5 * From(1 - place));
        }
    }

    [Fact]
    public void Behind_a_shut_throttle_a_cylinder_draws_against_the_crank()
    {
        var shut = new CompressionTemplate(10, 0.5e-3, 240, Orders, wear: CompressionTemplate.WearsUnthrottled);
        Of(PressureLoss.None, 1, shut)[0].Real.ShouldBeGreaterThan(Of(PressureLoss.None, 1)[0].Real);
    }
}
