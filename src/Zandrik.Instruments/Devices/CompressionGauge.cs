using Zandrik.Instruments.Bench;
using Zandrik.Instruments.Protocol;

namespace Zandrik.Instruments.Devices;

/// <summary>A compression gauge with a check valve and a relief: what it shows, holds and has written down.</summary>
public sealed class CompressionGauge : BenchDevice
{
    /// <summary>Makes one on a bench.</summary>
    /// <param name="bench">The bench.</param>
    public CompressionGauge(SimulatedBench bench)
        : base(bench)
    {
        On("MEASure:PRESsure?", c => c.Reply(Shown(bench.NeedlePa)));
        On("FETCh:PRESsure:PEAK?", c => c.Reply(Shown(bench.HeldPa)));
        On("FETCh:PRESsure:FIRSt?", c => WithPulses(c, p => c.Reply(Shown(p[0]))));
        On("FETCh:PRESsure:PULSes?", c => WithPulses(c, p => c.Reply(string.Join(',', p.Select(x => Shown(x).ToString("0.###", System.Globalization.CultureInfo.InvariantCulture))))));
        On("FETCh:COUNt?", c => c.Reply(FormattableString.Invariant($"{bench.PulsesPa.Count}")));
        On("PRESsure:RELease", c => Try(c, bench.Bleed()));
        On("TRACe:RATE?", c => c.Reply(FormattableString.Invariant($"{SimulatedBench.TraceHz}")));
        On("TRACe:PRESsure?", c =>
        {
            if (bench.TracePa is { Count: > 0 } trace)
            {
                c.Reply(DataBlock.Write([.. trace.Select(x => (float)Shown(x))]));
            }
            else
            {
                c.Fail(ScpiError.NoData);
            }
        });
        On("SIMulation:CRANk", c =>
        {
            var compressions = c.Count == 0 ? 8 : (int)c.Number(0, 1, 40);
            if (!c.HasFailed)
            {
                Try(c, bench.Crank(compressions));
            }
        }, most: 1);
        On("SIMulation:RUN", c =>
        {
            if (c.Takes(1, 1) && c.Choice(0, "IDLE", "SNAP", "OFF") is >= 0 and var run)
            {
                if (run == 2)
                {
                    bench.Stop();
                }
                else
                {
                    Try(c, run == 0 ? bench.Idle() : bench.Snap());
                }
            }
        }, most: 1);
    }

    /// <inheritdoc/>
    public override string Identity => "Zandrik,Simulated compression gauge,SIM-G1,1";

    private void WithPulses(CommandCall call, Action<IReadOnlyList<double>> reply)
    {
        if (Bench.PulsesPa is { Count: > 0 } pulses)
        {
            reply(pulses);
        }
        else
        {
            call.Fail(ScpiError.NoData);
        }
    }
}
