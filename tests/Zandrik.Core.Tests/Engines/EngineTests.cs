using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Tests.Engines;

public sealed class EngineTests
{
    private static readonly EngineSheet V6 = new()
    {
        Cylinders = 6, Layout = CylinderArrangement.V, Banks = [[1, 3, 5], [2, 4, 6]], FiringOrder = [1, 2, 3, 4, 5, 6],
    };

    private static string Problem(EngineSheet engine, string pointer) =>
        EngineRules.Check(engine).Single(p => p.Pointer == pointer).Says;

    [Fact]
    public void Every_preset_is_a_consistent_engine_with_all_its_firing_orders()
    {
        EnginePreset.All.Select(p => p.Id).ShouldBeUnique();
        foreach (var preset in EnginePreset.All)
        {
            foreach (var order in preset.FiringOrders)
            {
                EngineRules.Check(new EngineSheet { Cylinders = preset.Cylinders, Layout = preset.Layout, Banks = preset.Banks, FiringOrder = order })
                    .ShouldBeEmpty($"{preset.Label} {CylinderList.Text(order)}");
            }
        }
    }

    [Theory]
    [InlineData(0)]
    [InlineData(17)]
    public void An_engine_has_one_to_sixteen_cylinders(int cylinders) =>
        Problem(new EngineSheet { Cylinders = cylinders }, "/cylinders").ShouldContain("1 to 16");

    [Fact]
    public void A_firing_order_names_every_cylinder_once() =>
        Problem(V6 with { FiringOrder = [1, 2, 2, 4, 5, 9] }, "/firingOrder")
            .ShouldBe("Name each of the 6 cylinders once: 3, 6 are missing; 2 more than once; 9 not on this engine.");

    [Fact]
    public void Banks_hold_every_cylinder_once_and_fit_the_layout()
    {
        Problem(V6 with { Banks = [[1, 3, 5], [2, 4]] }, "/banks").ShouldContain("6 is missing");
        Problem(V6 with { Banks = [[1, 2, 3, 4, 5, 6]] }, "/banks").ShouldContain("two banks");
        Problem(V6 with { Layout = CylinderArrangement.Inline }, "/banks").ShouldContain("one bank");
        EngineRules.Check(V6 with { Layout = CylinderArrangement.W, Banks = [[1, 2], [3, 4], [5, 6]] }).ShouldBeEmpty();
    }

    [Fact]
    public void Firing_angles_follow_the_firing_order()
    {
        EngineRules.Check(V6 with { FiringAngles = [0, 90, 240, 330, 480, 570] }).ShouldBeEmpty("uneven firing is allowed");
        Problem(V6 with { FiringAngles = [0, 90, 80, 330, 480, 570] }, "/firingAngles").ShouldContain("rise");
        Problem(V6 with { FiringAngles = [0, 120] }, "/firingAngles").ShouldContain("6 angles");
    }

    [Fact]
    public void Figures_fit_each_other()
    {
        Problem(V6 with { Spec = new EngineSpec { Nominal = 205, Minimum = 210 } }, "/spec/minimum").ShouldContain("above the nominal (205)");
        Problem(V6 with { Spec = new EngineSpec { Nominal = 0 } }, "/spec/nominal").ShouldContain("above 0");
        Problem(V6 with { Spec = new EngineSpec { Unit = PressureUnit.Bar, Nominal = 205 } }, "/spec/nominal").ShouldContain("100 bar");
        EngineRules.Check(V6 with { Spec = new EngineSpec { Nominal = 205, Minimum = 205 } }).ShouldBeEmpty();
    }

    [Fact]
    public void Neighbours_sit_beside_each_other_in_one_bank()
    {
        var layout = CylinderLayout.Of(V6);
        layout.AreNeighbours(1, 3).ShouldBeTrue();
        layout.AreNeighbours(3, 1).ShouldBeTrue();
        layout.AreNeighbours(1, 2).ShouldBeFalse("they are in different banks");
        layout.AreNeighbours(1, 5).ShouldBeFalse();
    }

    [Fact]
    public void Without_banks_a_usual_numbering_is_assumed_and_said()
    {
        var v8 = CylinderLayout.Of(new EngineSheet { Cylinders = 8, Layout = CylinderArrangement.V });
        v8.Banks.ShouldBe([[1, 3, 5, 7], [2, 4, 6, 8]]);
        v8.IsAssumed.ShouldBeTrue();
        CylinderLayout.Of(new EngineSheet { Cylinders = 3 }).Banks.ShouldBe([[1, 2, 3]]);
    }

    [Theory]
    [InlineData("1-3-4-2")]
    [InlineData("1 3 4 2")]
    [InlineData(" 1, 3,4 ,2")]
    public void Lists_are_read_as_people_type_them(string typed) => CylinderList.Read(typed).ShouldBe([1, 3, 4, 2]);

    [Fact]
    public void A_list_with_something_else_in_it_is_none()
    {
        CylinderList.Read("1-x-2").ShouldBeNull();
        CylinderList.ReadBanks("1 3 / 2 b").ShouldBeNull();
        CylinderList.ReadBanks("1 3 5/2 4 6").ShouldBe([[1, 3, 5], [2, 4, 6]]);
    }
}
