using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.Tests.RelativeCompression;

public sealed class CycleTableTests
{
    private static readonly RelativeAnswer Four = GoodTrace.For(new EngineSheet { Cylinders = 4, Fuel = Fuel.Petrol }).Answer;

    [Fact]
    public void Every_angle_has_its_cylinder_its_mean_and_each_cycle()
    {
        var rows = CycleTable.Write(Four).Split('\n', StringSplitOptions.RemoveEmptyEntries);
        rows[0].ShouldStartWith("degrees,nearest,mean_a,cycle_1_a");
        rows.Length.ShouldBe(1 + Four.MeanCycle.Count);
        rows.ShouldAllBe(r => r.Split(',').Length == 3 + Four.EachCycle.Count);
        var read = rows.Skip(1).Select(r => r.Split(',')).ToList();
        double Number(string s) => double.Parse(s, System.Globalization.CultureInfo.InvariantCulture);
        Number(read[0][0]).ShouldBe(0);
        Number(read[^1][0]).ShouldBeInRange(700, 719.999);
        foreach (var (row, i) in read.Select((r, i) => (r, i)))
        {
            Number(row[2]).ShouldBe(Four.MeanCycle[i], 0.001);
        }
        // Each slot owns a quarter of the cycle, about its own top dead centre.
        read.GroupBy(r => r[1]).Select(g => g.Count()).ShouldAllBe(n => Math.Abs(n - read.Count / 4.0) <= 2);
        foreach (var slot in Four.Slots)
        {
            read[(int)(slot.AtCycle * read.Count)][1].ShouldBe(slot.Cylinder?.ToString(System.Globalization.CultureInfo.InvariantCulture) ?? SlotNames.Letter(slot.Slot));
        }
    }

    [Fact]
    public void Without_a_cycle_there_is_but_the_head() => CycleTable.Write(Four with { MeanCycle = [], EachCycle = [] }).ShouldBe("degrees,nearest,mean_a\n");
}
