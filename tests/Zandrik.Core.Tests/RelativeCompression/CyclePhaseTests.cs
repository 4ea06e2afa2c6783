using Zandrik.Core.RelativeCompression;

namespace Zandrik.Core.Tests.RelativeCompression;

public sealed class CyclePhaseTests
{
    private const double StepS = 0.001;

    // Humps of the given heights round the cycle, the cycle turning as told.
    private static double[] Humps(double[] heights, Func<double, double> cyclesAt, double seconds) =>
        [.. Enumerable.Range(0, (int)(seconds / StepS)).Select(i =>
        {
            var where = cyclesAt(i * StepS);
            var slot = (where - Math.Floor(where)) * heights.Length;
            return 200 + 40 * heights[(int)slot] * Math.Sin(Math.PI * (slot - Math.Floor(slot)));
        })];

    public static TheoryData<double[], double> Engines => new()
    {
        { [1, 1, 1, 1], 2 }, { [1, 1, 0, 1], 2 }, { [1, 0.2, 1, 1, 1, 1], 1.7 }, { [1, 1, 1, 0, 1, 1, 1, 1], 1.4 }, { [1, 0.6, 1], 2.2 }, { [1, 1, 1, 1, 0, 0], 1.5 },
    };

    [Theory]
    [MemberData(nameof(Engines))]
    public void The_cycle_is_among_the_candidates_also_where_humps_are_missing(double[] heights, double hz)
    {
        var found = CycleFrequency.Candidates(Humps(heights, t => hz * t, 4), StepS, heights.Length);
        found.Any(c => Math.Abs(c.Hz / hz - 1) < 0.03).ShouldBeTrue();
        found.Count.ShouldBeLessThanOrEqualTo(6);
        found[0].Score.ShouldBe(1);
    }

    [Fact]
    public void Even_humps_are_told_from_half_and_double_their_speed()
    {
        CycleFrequency.Candidates(Humps([1, 1, 1, 1], t => 2 * t, 4), StepS, 4)[0].Hz.ShouldBe(2, 0.05);
        CycleFrequency.Candidates(Humps([1, 1, 1, 1, 1, 1], t => 1.5 * t, 4), StepS, 6)[0].Hz.ShouldBe(1.5, 0.05);
    }

    [Theory]
    [InlineData(0)]
    [InlineData(-0.12)]
    [InlineData(0.05)]
    public void A_changing_speed_is_followed_and_a_missing_hump_shifts_nothing(double change)
    {
        double At(double t) => 2 * t + change * t * t;
        var amps = Humps([1, 1, 0.1, 1], At, 4);
        // A fifth of a slot is far from taking one for the other. Hardly any unevenness within the cycle: the humps are drawn at even speed.
        var (track, _) = CyclePhase.Track(amps, StepS, 2 + 2 * change, 4, stallA: 1e6)!.Value;
        var offset = track[500] - At(0.5);
        for (var i = 300; i < amps.Length - 300; i += 100)
        {
            (track[i] - At(i * StepS)).ShouldBe(offset, 0.05);
        }
    }

    [Fact]
    public void Where_the_starter_draws_more_the_crank_turns_slower()
    {
        var amps = Humps([1, 1, 1, 1], t => 2 * t, 4);
        var (track, more) = CyclePhase.Track(amps, StepS, 2, 4, stallA: 400)!.Value;
        double Speed(double[] of, int i) => (of[i + 5] - of[i - 5]) / (10 * StepS);
        // A hump stands at an eighth of a second, a trough at a quarter of a cycle from it.
        var hump = Enumerable.Range(1000, 125).MaxBy(i => amps[i]);
        var trough = Enumerable.Range(1000, 125).MinBy(i => amps[i]);
        Speed(track, hump).ShouldBeLessThan(Speed(track, trough));
        (Speed(more, trough) - Speed(more, hump)).ShouldBeGreaterThan(1.2 * (Speed(track, trough) - Speed(track, hump)));
        track.Zip(track.Skip(1)).ShouldAllBe(p => p.Second > p.First);
    }

    [Fact]
    public void Too_little_to_follow_is_no_track()
    {
        CyclePhase.Track(Humps([1, 1, 1, 1], t => 2 * t, 0.6), StepS, 2, 4, 400).ShouldBeNull();
    }
}
