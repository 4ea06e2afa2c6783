using CsCheck;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Engines;

public sealed class CrankScheduleTests
{
    private static CrankSchedule Of(string order, string? angles = null, Rotation? rotation = Rotation.Clockwise)
    {
        var firing = CylinderList.Read(order)!;
        return CrankSchedule.Of(new EngineSheet
        {
            Cylinders = firing.Count, FiringOrder = firing, Rotation = rotation,
            FiringAngles = angles is null ? null : [.. angles.Split(' ').Select(a => double.Parse(a, System.Globalization.CultureInfo.InvariantCulture))],
        })!;
    }

    public static TheoryData<string, int> EveryPreset() =>
        new(EnginePreset.All.SelectMany(p => p.FiringOrders.Select((_, i) => (p.Id, i))));

    [Theory]
    [MemberData(nameof(EveryPreset))]
    public void Every_preset_visits_each_cylinder_once_in_two_turns_from_any_start(string id, int order)
    {
        var preset = EnginePreset.All.Single(p => p.Id == id);
        var schedule = CrankSchedule.Of(new EngineSheet { Cylinders = preset.Cylinders, FiringOrder = preset.FiringOrders[order] })!;
        Gen.Int[1, preset.Cylinders].Sample(start =>
        {
            var round = schedule.Round(start);
            round[0].ShouldBe(new CrankTurn(start, 0));
            round.Select(t => t.Cylinder).Order().ShouldBe(Enumerable.Range(1, preset.Cylinders));
            var home = schedule.Degrees(round[^1].Cylinder, start);
            (round.Sum(t => t.Degrees) + home).ShouldBe(720, 1e-9);
            round.Skip(1).ShouldAllBe(t => Math.Abs(t.Degrees - 720.0 / preset.Cylinders) < 1e-9);
        });
    }

    [Theory]
    [MemberData(nameof(EveryPreset))]
    public void A_companion_is_one_turn_apart_both_ways_and_exists_on_even_numbers_only(string id, int order)
    {
        var preset = EnginePreset.All.Single(p => p.Id == id);
        var schedule = CrankSchedule.Of(new EngineSheet { Cylinders = preset.Cylinders, FiringOrder = preset.FiringOrders[order] })!;
        foreach (var station in schedule.Stations)
        {
            if (preset.Cylinders % 2 == 1)
            {
                schedule.CompanionOf(station.Cylinder).ShouldBeNull();
                continue;
            }
            var companion = schedule.CompanionOf(station.Cylinder)!.Value;
            schedule.CompanionOf(companion).ShouldBe(station.Cylinder);
            schedule.Degrees(station.Cylinder, companion).ShouldBe(360, 1e-9);
        }
    }

    [Fact]
    public void Uneven_angles_that_add_up_to_two_turns_keep_every_step_forward() =>
        Gen.Select(Gen.Double[0.5, 719].Array[1, 11], Gen.Int[0, 1000]).Sample((rest, pick) =>
        {
            double[] angles = [0, .. rest.Order()];
            var order = Enumerable.Range(1, angles.Length).ToList();
            var schedule = CrankSchedule.Of(new EngineSheet { Cylinders = angles.Length, FiringOrder = order, FiringAngles = angles })!;
            var start = 1 + pick % angles.Length;
            var round = schedule.Round(start);
            round.ShouldAllBe(t => t.Degrees >= 0 && t.Degrees < 720);
            (round.Sum(t => t.Degrees) + schedule.Degrees(round[^1].Cylinder, start)).ShouldBe(720, 1e-6);
        });

    [Fact]
    public void Inline_three_and_five_go_by_240_and_144_degrees()
    {
        var three = Of("1-3-2");
        three.NextAfter(1).ShouldBe(new CrankTurn(3, 240));
        three.NextAfter(3).ShouldBe(new CrankTurn(2, 240));
        three.NextAfter(2).ShouldBe(new CrankTurn(1, 240));
        var five = Of("1-2-4-5-3");
        five.NextAfter(5).Cylinder.ShouldBe(3);
        five.NextAfter(5).Degrees.ShouldBe(144, 1e-9);
        five.Says(3, 2).ShouldBe("Turn the crank 288° clockwise, seen from the front, to cylinder 2.");
    }

    [Fact]
    public void An_uneven_two_and_an_uneven_v6_go_by_the_angles_of_the_sheet()
    {
        // Both pistons on one pin of a two at 90 degrees between its banks: 270, then 450.
        var two = Of("1-2", "0 270");
        two.NextAfter(1).ShouldBe(new CrankTurn(2, 270));
        two.NextAfter(2).ShouldBe(new CrankTurn(1, 450));
        two.CompanionOf(1).ShouldBeNull();
        two.Says(2, 1).ShouldBe("Turn the crank 450° (one full turn and 90°) clockwise, seen from the front, to cylinder 1.");
        // 90 and 150 in turn.
        var six = Of("1-6-5-4-3-2", "0 90 240 330 480 570");
        six.Round(5).Select(t => (t.Cylinder, t.Degrees)).ShouldBe([(5, 0), (4, 90), (3, 150), (2, 90), (1, 150), (6, 90)]);
        Enumerable.Range(1, 6).ShouldAllBe(c => six.CompanionOf(c) == null);
    }

    [Fact]
    public void A_v8_steps_over_what_is_done_and_adds_the_degrees_up()
    {
        var eight = Of("1-8-4-3-6-5-7-2");
        eight.NextAfter(4).ShouldBe(new CrankTurn(3, 90));
        eight.NextAfter(4, c => c is 7 or 2).ShouldBe(new CrankTurn(7, 360));
        eight.NextAfter(4, c => c == 4).ShouldBeNull();
        eight.CompanionOf(4).ShouldBe(7);
        eight.Says(4, 7).ShouldBe("Turn the crank 360° (one full turn) clockwise, seen from the front, to cylinder 7.");
    }

    [Fact]
    public void An_anticlockwise_engine_is_turned_its_own_way_and_an_unknown_one_is_not_guessed()
    {
        Of("1-3-4-2", rotation: Rotation.Anticlockwise).Says(1, 4).ShouldBe("Turn the crank 360° (one full turn) anticlockwise, seen from the front, to cylinder 4.");
        Of("1-3-4-2", rotation: null).Says(4, 2).ShouldBe("Turn the crank 180° (half a turn) in the direction it runs to cylinder 2.");
        Of("1-3-4-2").Says(3, 3).ShouldBe("The crank is at cylinder 3.");
    }

    [Fact]
    public void Without_a_firing_order_nothing_is_said_but_one_cylinder_needs_none()
    {
        CrankSchedule.Of(new EngineSheet { Cylinders = 4 }).ShouldBeNull();
        var one = CrankSchedule.Of(new EngineSheet { Cylinders = 1 })!;
        one.NextAfter(1).ShouldBe(new CrankTurn(1, 720));
        one.Says(1, 1).ShouldContain("two full turns");
        Should.Throw<ArgumentOutOfRangeException>(() => one.AngleOf(2));
    }

    [Fact]
    public void Two_that_fire_together_are_not_turned_between()
    {
        var pair = Of("1-2", "0 0");
        pair.Says(1, 2).ShouldBe("Cylinder 2 is at top dead centre with 1: do not turn.");
    }
}
