using Zandrik.Core.Units;
using Zandrik.Instruments.Bench;

namespace Zandrik.Instruments.Devices;

/// <summary>A leak-down tester: supply before its restriction, held behind it.</summary>
public sealed class LeakTester : BenchDevice
{
    /// <summary>Makes one on a bench.</summary>
    /// <param name="bench">The bench.</param>
    public LeakTester(SimulatedBench bench)
        : base(bench)
    {
        On("MEASure:PRESsure:SUPPly?", c => c.Reply(Shown(bench.Leak.Supply)));
        On("MEASure:PRESsure:HELD?", c => c.Reply(Shown(bench.Leak.Held)));
        On("SIMulation:AIR", c =>
        {
            if (c.Takes(1, 1) && c.Choice(0, "OFF", "ON") is >= 0 and var on)
            {
                Try(c, bench.Air(on == 1));
            }
        }, most: 1);
        On("SIMulation:SUPPly", c =>
        {
            if (c.Takes(1, 1) && c.Number(0, PressureUnit.Bar.Pascals() / 10, 15 * PressureUnit.Bar.Pascals(), PressureFactors) is > 0 and var pascals)
            {
                bench.SupplyPa = pascals;
            }
        }, most: 1);
        On("SIMulation:OFF", c =>
        {
            if (c.Takes(1, 1))
            {
                var off = c.Number(0, -360, 360, ("DEG", 1));
                bench.OffDeg = c.HasFailed ? bench.OffDeg : off;
            }
        }, most: 1);
    }

    /// <inheritdoc/>
    public override string Identity => "Zandrik,Simulated leak-down tester,SIM-L1,1";
}
