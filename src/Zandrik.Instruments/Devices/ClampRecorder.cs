using Zandrik.Instruments.Bench;
using Zandrik.Instruments.Protocol;

namespace Zandrik.Instruments.Devices;

/// <summary>A recorder with a current clamp on one channel and an event of cylinder 1 on the other.</summary>
public sealed class ClampRecorder : BenchDevice
{
    /// <summary>Longest it records, s: what it holds at its fastest.</summary>
    public const double LongestS = 60;

    private double hz = 5000;
    private long? from, to;
    private (IReadOnlyList<float> Amps, IReadOnlyList<float> Volts)? recorded;
    private readonly TimeProvider clock;

    /// <summary>Makes one on a bench.</summary>
    /// <param name="bench">The bench.</param>
    /// <param name="clock">The clock.</param>
    public ClampRecorder(SimulatedBench bench, TimeProvider clock)
        : base(bench)
    {
        this.clock = clock;
        On("ACQuire:RATE", c =>
        {
            if (c.Takes(1, 1) && c.Number(0, 100, 20_000, ("HZ", 1), ("KHZ", 1000)) is > 0 and var rate)
            {
                hz = rate;
            }
        }, most: 1);
        On("ACQuire:RATE?", c => c.Reply(hz));
        On("ACQuire:STARt", _ => (from, to, recorded) = (clock.GetTimestamp(), null, null));
        On("ACQuire:STOP", c =>
        {
            if (from is null)
            {
                c.Fail(ScpiError.SettingsConflict);
            }
            else
            {
                to ??= clock.GetTimestamp();
            }
        });
        On("ACQuire:STATe?", c => c.Reply(from is null ? "IDLE" : to is null && clock.GetElapsedTime(from.Value).TotalSeconds < LongestS ? "ACQ" : "DONE"));
        On("TRACe:CURRent?", c => WithTrace(c, t => c.Reply(DataBlock.Write(t.Amps))));
        On("TRACe:SYNC?", c => WithTrace(c, t => c.Reply(DataBlock.Write(t.Volts))));
        On("SIMulation:CRANk", c => Try(c, bench.CrankForClamp()), most: 0);
    }

    /// <inheritdoc/>
    public override string Identity => "Zandrik,Simulated clamp recorder,SIM-C1,1";

    /// <inheritdoc/>
    protected override void Reset()
    {
        base.Reset();
        (hz, from, to, recorded) = (5000, null, null, null);
    }

    private void WithTrace(CommandCall call, Action<(IReadOnlyList<float> Amps, IReadOnlyList<float> Volts)> reply)
    {
        if (from is not { } began)
        {
            call.Fail(ScpiError.NoData);
            return;
        }
        // While it records, what there is so far.
        var ended = to ?? clock.GetTimestamp();
        var longest = began + (long)(LongestS * clock.TimestampFrequency);
        var trace = recorded ?? Bench.Recorded(began, Math.Min(ended, longest), hz);
        recorded = to is null ? null : trace;
        reply(trace);
    }
}
