using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Diagnosis;

public sealed class RepairActionsTests
{
    private static IReadOnlyList<ActionAdvice> Of(string job, Func<TestRecord, TestRecord>? with = null) => EngineDiagnosis.Of((with ?? (r => r))(Whiteboard.Job(job)), ledger: false).Actions;

    [Theory]
    [InlineData("petrol 4; dry 190 188 131 191; leak 3 85 exhaust 3", RepairAction.AdjustValves, "Cylinder 3: a valve does not seal: the exhaust valve.")]
    [InlineData("petrol 4; dry 190 188 131 191; leak 3 89 crankcase 3; wet 3 160", RepairAction.Overhaul, "Cylinder 3: rings or bore.")]
    [InlineData("petrol 4; dry 190 188 131 191; leak 3 89 crankcase 3; wet 3 160; seen stood-long", RepairAction.FreeRings, "Cylinder 3: rings or bore.")]
    [InlineData("petrol 4; dry 190 120 122 191; leak 2 90 plughole3 3; leak 3 90 plughole2 3", RepairAction.HeadOff, "Cylinders 2 and 3: the head gasket between neighbouring cylinders.")]
    [InlineData("petrol 4; dry 190 188 0 191; leak 3 99 crankcase 3", RepairAction.Overhaul, "Cylinder 3: a holed or broken piston.")]
    [InlineData("petrol 4; dry 190 188 150 191; leak 3 9; wet 3 156; seen ingested-liquid", RepairAction.Overhaul, "Cylinder 3: a stroke that is too short.")]
    [InlineData("petrol 4; dry 190 188 218 191; seen pinging", RepairAction.Decarbonise, "Cylinder 3: deposits.")]
    [InlineData("petrol 4; dry 195 188 189 191; leak 1 10; run 1 70 75; run 2 100 163; run 3 101 165; run 4 99 162", RepairAction.InspectTopEnd, "Cylinder 1: a valve hardly opens.")]
    [InlineData("petrol 4; dry 190 188 150 191; leak 3 70 crankcase 2; wet 3 178; plug 3 fuel-wet; seen flooded", RepairAction.RunClearRetest, "Cylinder 3: fuel-washed.")]
    [InlineData("petrol 4; dry 190 188 131 191; rel 100 99 100 99", RepairAction.RepeatTest, "Cylinder 3: a test error at this cylinder explains its reading.")]
    [InlineData("petrol 4; dry 190 188 189 191; seen coolant-loss coolant-bubbles; gas positive", RepairAction.HeadOff, "Gas or coolant goes through a gasket or crack.")]
    [InlineData("petrol 4; dry 190 188 189 191; seen coolant-loss cap-or-hose-damaged; gas negative", RepairAction.CheckCooling, "Coolant goes another way than through a cylinder.")]
    [InlineData("petrol 4; dry 130 128 131 129; leak 1 9; leak 2 10; leak 3 8; seen timing-jumped", RepairAction.CheckTiming, "All cylinders even and off their level.")]
    [InlineData("petrol 4; dry 190 188 189 191; run 1 150 142; run 2 148 144; run 3 151 143; run 4 149 141", RepairAction.CheckExhaust, "Every cylinder fails to empty.")]
    [InlineData("petrol 4; dry 130 128 131 129; wet 1 158 2 156 3 159 4 157; seen oil-use", RepairAction.Overhaul, "All cylinders alike and low: wear. Overhaul, exchange or watch is a decision about money.")]
    [InlineData("petrol 4; dry 190 188 191 189; wet 1 197 2 196; leak 1 9; leak 2 8; leak 3 10; seen oil-use blue-smoke", RepairAction.Watch, "Oil goes past its seals while the cylinders hold: no cylinder is blamed.")]
    [InlineData("petrol 4; dry 190 188 191 189", RepairAction.None, "Compression is good.")]
    [InlineData("petrol 4; dry 190 188 191 189; seen misfire", RepairAction.None, "Compression is good. For the complaint look at ignition, fuel and air.")]
    [InlineData("diesel 4; dry 430 432 428 431; seen low-power", RepairAction.None, "Compression is good. For the complaint look at fuel and air.")]
    [InlineData("petrol 4; dry 190 - - -", RepairAction.CompleteTest, "Not measured yet: 2, 3 and 4.")]
    [InlineData("petrol 4", RepairAction.CompleteTest, "Nothing is measured yet.")]
    public void What_leads_has_its_action(string job, RepairAction action, string says) => Of(job).ShouldContain(a => a.Action == action && a.Says == says, string.Join("\n", Of(job).Select(a => $"{a.Action}: {a.Says}")));

    [Fact]
    public void Hydraulic_lifters_leave_no_clearance_to_set() =>
        Of("petrol 4; dry 190 188 131 191; leak 3 85 exhaust 3", r => r with { Engine = r.Engine with { Lifters = Lifters.Hydraulic } }).Select(a => a.Action).ShouldBe([RepairAction.InspectTopEnd]);

    [Fact]
    public void A_valve_that_cannot_be_set_and_a_cooler_that_is_ruled_out_are_not_advised()
    {
        Of("petrol 4; dry 190 188 131 191; leak 3 85 exhaust 3", r => r with { Tests = [.. r.Tests!, new ValveClearanceCheck { Adjustable = false }] }).Single().ShouldSatisfyAllConditions(
            a => a.Action.ShouldBe(RepairAction.InspectTopEnd), a => a.Checks.ShouldNotContain(c => c.Contains("clearance")));
        const string Elsewhere = "petrol 4; dry 190 188 189 191; seen coolant-loss cap-or-hose-damaged; gas negative";
        string Checks(params RuledOutItem[] items) => string.Join("; ", Of(Elsewhere, r => r with { RuledOut = [.. items.Select(i => new RuledOut { Item = i })] }).SelectMany(a => a.Checks));
        Checks().ShouldContain("oil cooler blanked");
        Checks(RuledOutItem.OilCooler).ShouldNotContain("oil cooler");
        Checks(RuledOutItem.OilCooler).ShouldContain("exhaust-gas cooler blanked");
    }

    [Fact]
    public void What_nobody_knows_yet_opens_nothing()
    {
        var once = Of("petrol 4; dry 190 188 131 191; pulses 6 6 4 6").Single();
        (once.Action, once.Says).ShouldBe((RepairAction.RepeatTest, "Cylinder 3: too early to open anything."));
        Of("petrol 4; dry 190 188 131 191").Single().Action.ShouldBe(RepairAction.MeasureMore, "leak-down comes next: nothing is read again beside it");
        Of("petrol 4; dry 190 188 131 191; repeat 3 130").Single().Action.ShouldBe(RepairAction.MeasureMore);
    }

    [Fact]
    public void The_least_invasive_comes_first_and_each_once()
    {
        var actions = Of("petrol 6; dry 190 188 131 130 - 190; leak 3 85 exhaust 3; leak 4 85 exhaust 3; seen coolant-loss coolant-bubbles; gas positive").Select(a => a.Action).ToList();
        actions.ShouldBe([RepairAction.CompleteTest, RepairAction.AdjustValves, RepairAction.HeadOff]);
        Of("petrol 6; dry 190 188 131 130 - 190; leak 3 85 exhaust 3; leak 4 85 exhaust 3").ShouldContain(a => a.Says == "Cylinders 3 and 4: a valve does not seal: the exhaust valve.");
    }

    [Fact]
    public void A_head_comes_off_for_coolant_only_after_the_cheap_looks() =>
        Of("petrol 4; dry 190 188 189 191; seen coolant-loss coolant-bubbles; gas positive").First(a => a.Action == RepairAction.HeadOff).Checks[0].ShouldStartWith("first: pressure the cooling system");

    [Fact]
    public void Every_action_but_the_plain_ones_says_what_would_confirm_it()
    {
        foreach (var job in new[] { "petrol 4; dry 190 188 131 191; leak 3 85 exhaust 3", "petrol 4; dry 190 188 131 191; leak 3 89 crankcase 3; wet 3 160", "petrol 4; dry 190 188 218 191; seen pinging" })
        {
            Of(job).Where(a => a.Action is not (RepairAction.None or RepairAction.CompleteTest or RepairAction.Watch)).ShouldAllBe(a => a.Checks.Count >= 2);
        }
    }
}
