using Zandrik.Core.RelativeCompression;

namespace Zandrik.Core.Tests.RelativeCompression;

public sealed class CapturePictureTests
{
    private static StarterTrace Trace(int samples, Func<int, double> amps, bool withSync = false)
    {
        var trace = new StarterTrace(0.001, withSync, withBattery: false);
        trace.Add([.. Enumerable.Range(0, samples).Select(amps)], withSync ? [.. Enumerable.Range(0, samples).Select(i => i % 50 == 0 ? 5.0 : 0)] : []);
        trace.Finish();
        return trace;
    }

    [Theory]
    [InlineData(7)]
    [InlineData(64)]
    [InlineData(1000)]
    [InlineData(CapturePicture.MostSteps)]
    public void No_spike_vanishes_however_few_steps_are_kept(int steps)
    {
        // One sample of ten thousand stands out, up or down.
        var trace = Trace(10_000, i => i == 4321 ? 900 : i == 8765 ? -50 : 100);
        var picture = CapturePicture.Of(trace, new RelativeAnswer(), steps);
        picture.Lowest.Length.ShouldBeLessThanOrEqualTo(steps);
        (picture.Highest.Max(), picture.Lowest.Min()).ShouldBe((900, -50));
        (Array.IndexOf(picture.Highest, 900) * picture.StepS).ShouldBe(4.321, picture.StepS);
        picture.DurationS.ShouldBe(10, picture.StepS);
    }

    [Fact]
    public void The_clamps_zero_is_taken_off_and_a_reversed_clamp_turned_round()
    {
        var trace = Trace(100, i => -10 - i);
        var picture = CapturePicture.Of(trace, new RelativeAnswer { ZeroA = -10, Reversed = true });
        picture.Highest[0].ShouldBe(0);
        picture.Highest[99].ShouldBe(99);
        picture.Lowest.Zip(picture.Highest).ShouldAllBe(p => p.First <= p.Second);
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void Packed_and_unpacked_it_is_the_same_to_within_half_a_level(bool withSync)
    {
        var chance = new Random(3);
        var picture = CapturePicture.Of(Trace(5000, _ => 1500 * chance.NextDouble() - 300, withSync), new RelativeAnswer(), 900);
        var back = CapturePicture.Unpack(picture.Pack());
        back.StepS.ShouldBe(picture.StepS);
        back.SyncHighest.Length.ShouldBe(withSync ? picture.Highest.Length : 0);
        back.Lowest.Zip(picture.Lowest).Concat(back.Highest.Zip(picture.Highest)).Max(p => Math.Abs(p.First - p.Second)).ShouldBeLessThan(0.6f * 1500 / 65_535);
        if (withSync)
        {
            back.SyncHighest.Max().ShouldBe(5, 0.001);
        }
    }

    [Fact]
    public void A_flat_trace_and_an_empty_one_are_pictures_too()
    {
        CapturePicture.Unpack(CapturePicture.Of(Trace(10, _ => 7), new RelativeAnswer()).Pack()).Highest.ShouldAllBe(a => a == 7);
        CapturePicture.Unpack(CapturePicture.Of(Trace(0, _ => 0), new RelativeAnswer()).Pack()).Lowest.ShouldBeEmpty();
    }

    [Fact]
    public void Reduced_it_keeps_its_extremes_and_its_length()
    {
        var picture = CapturePicture.Of(Trace(5000, i => i == 77 ? 500 : i % 13, withSync: true), new RelativeAnswer());
        var small = picture.Reduced(300);
        small.Highest.Length.ShouldBeLessThanOrEqualTo(300);
        (small.Highest.Max(), small.Lowest.Min(), small.SyncHighest.Max()).ShouldBe((500, 0, 5));
        small.DurationS.ShouldBe(picture.DurationS, small.StepS);
        picture.Reduced(9999).ShouldBeSameAs(picture);
    }
}
