using CsCheck;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Core.Tests.RelativeCompression;

public sealed class StarterTraceTests
{
    private static StarterTrace Of(params double[] amps)
    {
        var trace = new StarterTrace(0.001, false, false);
        trace.Add(amps);
        trace.Finish();
        return trace;
    }

    [Fact]
    public void A_short_capture_keeps_every_sample()
    {
        var trace = Of(1, 5, 3);
        trace.Mean.ToArray().ShouldBe([1f, 5f, 3f]);
        trace.Highest.ToArray().ShouldBe([1f, 5f, 3f]);
        trace.DurationS.ShouldBe(0.003, 1e-12);
        trace.SampleRateHz.ShouldBe(1000, 1e-9);
        trace.HasSync.ShouldBeFalse();
        trace.Battery.Length.ShouldBe(0);
    }

    // Two and a half million samples are more than there are blocks: pairs are merged, and a single spike stays in its block.
    [Fact]
    public void A_long_capture_stays_bounded_and_loses_no_spike()
    {
        var trace = new StarterTrace(1e-6, true, false);
        var (amps, syncs) = (new double[100_000], new double[100_000]);
        for (var part = 0; part < 25; part++)
        {
            Array.Fill(amps, part);
            Array.Clear(syncs);
            if (part == 13)
            {
                (amps[777], syncs[4242]) = (900, 5);
            }
            trace.Add(amps, syncs);
        }
        trace.Finish();
        trace.Samples.ShouldBe(2_500_000);
        trace.Blocks.ShouldBeLessThanOrEqualTo(StarterTrace.MostBlocks);
        trace.SyncHighest.Length.ShouldBe(trace.Blocks);
        var perBlock = trace.BlockSeconds / 1e-6;
        trace.Highest[(int)(1_300_777 / perBlock)].ShouldBe(900f);
        trace.SyncHighest[(int)(1_304_242 / perBlock)].ShouldBe(5f);
        trace.SyncHighest.ToArray().Count(s => s > 0).ShouldBe(1);
        trace.Mean[(int)(2_450_000 / perBlock)].ShouldBe(24f);
    }

    [Fact]
    public void Extremes_are_counted_and_the_instruments_step_is_found()
    {
        var trace = Of(0, 2.5, 5, 5, 5, 2.5, -7.5, 0);
        trace.Extremes.ShouldBe((5, 3, -7.5, 1));
        trace.SmallestStep.ShouldBe(2.5);
        Of(4, 4, 4).SmallestStep.ShouldBe(0);
    }

    [Fact]
    public void Gaps_are_bridged_by_a_line_and_level_at_the_ends()
    {
        var trace = Of(double.NaN, 10, double.NaN, double.PositiveInfinity, double.NaN, 50, double.NaN);
        trace.Mean.ToArray().ShouldBe([10f, 10f, 20f, 30f, 40f, 50f, 50f]);
        trace.Bridged.ShouldBe(5);
        Of(double.NaN, double.NaN).Mean.ToArray().ShouldBe([0f, 0f]);
    }

    [Fact]
    public void However_samples_arrive_the_trace_is_the_same()
    {
        Gen.Select(Gen.Double[-500, 500].Array[1, 300], Gen.Int[1, 50].Array[1, 10]).Sample((values, cuts) =>
        {
            var whole = Of(values);
            var pieces = new StarterTrace(0.001, false, false);
            for (var (at, next) = (0, 0); at < values.Length; next++)
            {
                var take = Math.Min(cuts[next % cuts.Length], values.Length - at);
                pieces.Add(values.AsSpan(at, take));
                at += take;
            }
            pieces.Finish();
            return whole.Mean.SequenceEqual(pieces.Mean) && whole.Extremes == pieces.Extremes && whole.SmallestStep == pieces.SmallestStep;
        }, iter: 200);
    }

    // Whole stretches are taken at once, those with a gap sample by sample: it must not show, whatever the size of a block.
    [Fact]
    public void A_gap_changes_nothing_but_itself_also_where_blocks_are_long()
    {
        var values = Enumerable.Range(0, 3_400_000).Select(i => 200 + 50 * Math.Sin(i / 700.0) + i % 7).ToArray();
        var torn = values.ToArray();
        foreach (var gap in new[] { 17, 1_048_576, 1_500_001, 2_097_149, 2_600_002, 3_399_998 })
        {
            torn[gap] = double.NaN;
            values[gap] = values[gap - 1] + (values[gap + 1] - values[gap - 1]) / 2;
        }
        var (trace, bridged) = (Of(values), Of(torn));
        bridged.Bridged.ShouldBe(6);
        bridged.BlockSeconds.ShouldBe(trace.BlockSeconds);
        bridged.Blocks.ShouldBe(trace.Blocks);
        for (var i = 0; i < trace.Blocks; i++)
        {
            bridged.Mean[i].ShouldBe(trace.Mean[i], 1e-3);
            bridged.Lowest[i].ShouldBe(trace.Lowest[i]);
            bridged.Highest[i].ShouldBe(trace.Highest[i]);
        }
        trace.Lowest[^1].ShouldBe((float)values[^(values.Length % 4 is 0 ? 4 : values.Length % 4)..].Min());
    }
}
