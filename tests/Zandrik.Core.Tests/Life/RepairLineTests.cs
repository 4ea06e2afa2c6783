using Zandrik.Core.Life;
using Zandrik.Core.Repairs;

namespace Zandrik.Core.Tests.Life;

public sealed class RepairLineTests
{
    private static RepairOutcome Outcome(string option, double? minutes, bool? right, Estimate? planned) => new(new RepairDone { Option = option, Minutes = minutes, WasRight = right }, planned);

    [Fact]
    public void Hours_planned_stand_beside_hours_taken_and_banks_are_one_kind()
    {
        var lines = RepairLine.Of([
            Outcome("top-end-1", 600, true, new Estimate(300, 400, 620)), Outcome("top-end-2", 500, false, new Estimate(300, 400, 480)), Outcome("top-end-1", null, null, new Estimate(300, 400, 500)),
            Outcome("adjust-valves", 60, true, null),
        ]);
        lines.Select(l => l.Title).ShouldBe(["Top end", "Valve clearances, test again"]);
        var top = lines[0];
        (top.Times, top.Right, top.Wrong, top.Counted, top.Within).ShouldBe((3, 1, 1, 2, 1));
        top.PlannedMinutes!.Value.ShouldBe(((300 + 1600 + 620) / 6.0 + (300 + 1600 + 480) / 6.0) / 2, 1e-9);
        top.Ratio!.Value.ShouldBe(550 / top.PlannedMinutes.Value, 1e-9);
        (lines[1].Ratio, lines[1].Counted).ShouldBe((null, 0));
        RepairLine.Of([]).ShouldBeEmpty();
    }

    [Fact]
    public void A_word_of_another_version_is_shown_as_it_is() => new RepairDone { Option = "polish" }.Title(1).ShouldBe("polish");
}
