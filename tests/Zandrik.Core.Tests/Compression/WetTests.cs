using CsCheck;
using Zandrik.Core.Compression;
using Zandrik.Core.Conditions;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;
using Zandrik.Core.Units;
using static Zandrik.Core.Tests.Cases;

namespace Zandrik.Core.Tests.Compression;

public sealed class WetTests
{
    private static readonly EngineSheet Four = Inline(4, 205, 150) with { Fuel = Fuel.Petrol, DisplacementCc = 2000, CompressionRatio = 10 };

    private static WetJudgement Judge(double?[] dry, double?[] wet, EngineSheet? engine = null, string? wetTester = null) => WetJudgement.Of(
        new TestRecord
        {
            Engine = engine ?? Four,
            Tests = [new DryCompressionTest { Unit = PressureUnit.Psi, Tester = new Tester { Label = "G" }, Readings = Readings(dry) }],
        },
        new WetCompressionTest { Unit = PressureUnit.Psi, Tester = new Tester { Label = wetTester ?? "G" }, Readings = Readings(wet) });

    private static IReadOnlyList<CompressionReading> Readings(double?[] values) =>
        [.. values.Select((v, i) => new CompressionReading { Cylinder = i + 1, Value = v }).Where(r => r.Value is not null)];

    [Fact]
    public void What_counts_is_the_gain_beyond_a_sound_cylinders()
    {
        var three = Judge([205, 204, 140, 206], [null, null, 171, null]).Cylinders[2];
        three.Gain!.Value.ShouldBe(31.0 / 140, 1e-9);
        three.ExcessGain!.Value.ShouldBe(31.0 / 140 - 0.04, 1e-9);
        three.Rings.ShouldBe(RingsTakePart.Yes);
        three.Recovery!.Value.ShouldBe(31.0 / 66, 0.02);
        // Rings alone would leave the gauge between the dry reading and the others', also where oil raised nothing.
        three.RingsAlone!.Value.In(PressureUnit.Psi).ShouldBe(140 + three.RingsAloneRecovery!.Value * 65, 1);
        Judge([205, 204, 140, 206], [null, null, 140, null]).Cylinders[2].RingsAlone.ShouldBe(three.RingsAlone);
        three.Says.ShouldContain("rings or bore take part");
    }

    [Theory]
    [InlineData(160, 174.4, RingsTakePart.Yes)]
    [InlineData(160, 174.3, RingsTakePart.Unclear)]
    [InlineData(160, 169.7, RingsTakePart.Unclear)]
    [InlineData(160, 169.5, RingsTakePart.Unlikely)]
    public void Five_percent_takes_part_and_under_two_is_unlikely(double dry, double wet, RingsTakePart rings) =>
        Judge([205, 204, dry, 206], [null, null, wet, null]).Cylinders[2].Rings.ShouldBe(rings);

    [Fact]
    public void Sound_cylinders_oiled_alike_move_the_gain_of_a_sound_one()
    {
        var one = Judge([205, 204, 140, 206], [221, null, 160, null]);
        one.SoundGainMeasured.ShouldBeFalse();
        var two = Judge([200, 200, 140, 200], [216, 216, 160, null]);
        two.SoundGainMeasured.ShouldBeTrue();
        two.SoundGain.ShouldBe(0.04 + 0.75 * 0.04, 1e-9);
    }

    [Fact]
    public void At_the_edges_nothing_is_made_up()
    {
        // Dry equals the reference: nothing is missing, so no recovery.
        Judge([205, 205, 205, 205], [null, null, 214, null]).Cylinders[2].Recovery.ShouldBeNull();
        // Wet a little under dry gains nothing; far under it was not taken the same way.
        var under = Judge([205, 204, 140, 206], [null, null, 136, null]).Cylinders[2];
        under.Gain!.Value.ShouldBeLessThan(0);
        under.Says.ShouldContain("raised nothing");
        var wrong = Judge([205, 204, 140, 206], [null, null, 114, null]);
        wrong.Cylinders[2].IsImplausible.ShouldBeTrue();
        wrong.Cylinders[2].Gain.ShouldBeNull();
        wrong.Validity.ShouldContain(n => n.Code == ValidityCode.ImplausibleReading && n.Cylinders.Contains(3));
        // A dead cylinder: a share of nothing says nothing.
        var dead = Judge([205, 204, 0, 206], [null, null, 60, null]).Cylinders[2];
        dead.Gain.ShouldBeNull();
        dead.Says.ShouldContain("Leak-down decides");
        // No dry reading to compare with.
        Judge([205, 204, null, 206], [null, null, 171, null]).Cylinders[2].Says.ShouldContain("No dry reading");
    }

    [Theory]
    [InlineData(0.05, 0.80)]
    [InlineData(0.10, 0.80)]
    [InlineData(0.6667, 0.35)]
    [InlineData(0.9, 0.35)]
    [InlineData(0.3833, 0.575)]
    public void Recovery_is_read_against_what_rings_alone_would_give(double missing, double alone) =>
        WetJudgement.RingsAlone(missing).ShouldBe(alone, 0.001);

    [Fact]
    public void A_big_gain_that_leaves_it_far_down_is_no_proof_either_way() =>
        Judge([205, 204, 84, 206], [null, null, 94, null]).Cylinders[2].Says.ShouldContain("leak-down decides");

    [Fact]
    public void Another_gauge_and_a_flat_engine_weaken_it()
    {
        Judge([205, 204, 140, 206], [null, null, 171, null], wetTester: "H").Validity.ShouldContain(n => n.Code == ValidityCode.MixedTesters);
        Judge([205, 204, 140, 206], [null, null, 171, null], Four with { Layout = CylinderArrangement.Flat, Banks = [[1, 3], [2, 4]] }).Headline.ShouldContain("as far as oil reaches");
        WetRules.IsWeak(Four with { InclinationDeg = 45 }).ShouldBeTrue();
        WetRules.IsWeak(Four with { InclinationDeg = 30 }).ShouldBeFalse();
    }

    [Theory]
    [InlineData(2000, 10.0, Fuel.Petrol, 9.0)]      // a sixth of 55.6 cm³ is 9.26 ml
    [InlineData(2000, null, Fuel.Petrol, 10)]
    [InlineData(1000, 9.0, Fuel.Petrol, 5)]
    [InlineData(null, null, Fuel.Petrol, 10)]
    [InlineData(5000, 19.0, Fuel.Diesel, 3)]
    [InlineData(null, null, Fuel.Diesel, 3)]
    [InlineData(800, 20.0, Fuel.Diesel, 1.5)]       // a sixth of 10.5 cm³ is 1.75 ml
    public void Oil_is_measured_for_this_cylinder_and_never_fills_it(int? cc, double? ratio, Fuel fuel, double ml)
    {
        var amount = OilAmount.For(new EngineSheet { Cylinders = 4, DisplacementCc = cc, CompressionRatio = ratio, Fuel = fuel });
        amount.Ml.ShouldBe(ml);
        (amount.Ml <= (amount.Most ?? double.MaxValue)).ShouldBeTrue();
    }

    [Fact]
    public void The_sheet_or_the_shop_can_forbid_it_and_a_diesel_needs_the_sheets_word()
    {
        var shop = new ShopSettings();
        WetRules.Forbids(Four, shop).ShouldBeNull();
        WetRules.Forbids(Four, shop with { Wet = WetMethod.Never })!.ShouldContain("shop");
        WetRules.Forbids(Four with { Spec = new EngineSpec { WetAllowed = false } }, shop)!.ShouldContain("sheet");
        WetRules.Forbids(Four with { Fuel = Fuel.Diesel }, shop)!.ShouldContain("diesel");
        WetRules.Forbids(Four with { Fuel = Fuel.Diesel, Spec = new EngineSpec { WetAllowed = true } }, shop).ShouldBeNull();
    }

    [Fact]
    public void The_low_ones_and_one_sound_one_are_suggested_worst_first()
    {
        var dry = DryJudgement.Of(Four, new DryCompressionTest { Unit = PressureUnit.Psi, Readings = Readings([205, 163, 50, 206]) });
        WetRules.Suggest(dry).Select(s => s.Cylinder).ShouldBe([3, 2, 4]);
        WetRules.Suggest(dry)[^1].Why.ShouldContain("Sound");
        WetRules.Suggest(DryJudgement.Of(Four, new DryCompressionTest { Unit = PressureUnit.Psi, Readings = Readings([205, 204, 203, 206]) })).ShouldBeEmpty();
    }

    [Fact]
    public void The_rules_a_tablet_goes_by_say_what_the_oil_guard_says() =>
        Gen.Select(Gen.OneOf([.. new[] { WetGuard.Oiled, WetGuard.Spun, WetGuard.Wiped, WetGuard.Cleared }.Select(w => Gen.Const(w))]), Gen.Int[1, 4]).Array[1, 40].Sample(tried =>
        {
            List<OilEvent> kept = [];
            IReadOnlySet<string> facts = new HashSet<string>();
            foreach (var (item, cylinder) in tried)
            {
                var guard = WetGuard.Of(new TestRecord { Engine = Four }, kept);
                facts.Where(f => f.StartsWith("oil", StringComparison.Ordinal)).Order().ShouldBe(guard.Facts.Where(f => f.StartsWith("oil", StringComparison.Ordinal)).Order());
                for (var c = 1; c <= 4; c++)
                {
                    (WetGuard.ReadingRule(c).Refuses(facts) is null).ShouldBe(guard.RefusesReading(c) is null);
                }
                var e = new OilEvent(item, item is WetGuard.Oiled or WetGuard.Wiped ? cylinder : null, DateTimeOffset.UnixEpoch, item == WetGuard.Oiled ? 0.01 : null);
                var rule = WetGuard.Rule(item, cylinder, 4);
                (rule.Refuses(facts) is null).ShouldBe(guard.Refuses(e, 4) is null);
                if (rule.Refuses(facts) is null)
                {
                    kept.Add(e);
                    facts = rule.After(facts);
                }
            }
        });

    [Fact]
    public void No_wet_figure_before_oil_and_a_spin_with_the_hole_open()
    {
        var (record, at) = (new TestRecord { Engine = Four }, DateTimeOffset.UnixEpoch);
        WetGuard Guard(params OilEvent[] events) => WetGuard.Of(record, events);
        OilEvent oil3 = new(WetGuard.Oiled, 3, at), oil2 = new(WetGuard.Oiled, 2, at), spin = new(WetGuard.Spun, null, at), clear = new(WetGuard.Cleared, null, at);
        Guard().RefusesReading(3)!.ShouldContain("No oil");
        Guard(oil3).RefusesReading(3)!.ShouldContain("hole open");
        Guard(spin, oil3).RefusesReading(3)!.ShouldContain("hole open");
        Guard(oil3, spin).RefusesReading(3).ShouldBeNull();
        // Oil in another one after the spin: that one is not spun yet, the first stays so. More oil: spin again.
        Guard(oil3, spin, oil2).RefusesReading(2)!.ShouldContain("hole open");
        Guard(oil3, spin, oil2).RefusesReading(3).ShouldBeNull();
        Guard(oil3, spin, oil3).RefusesReading(3)!.ShouldContain("hole open");
        Guard(oil3, spin).HoldOil.ShouldBe([3]);
        Guard(oil3, spin, clear).HoldOil.ShouldBeEmpty();
        // A wet test that came with a record means oil, until it is run and cleared.
        var imported = record with { Tests = [new WetCompressionTest { Readings = [new CompressionReading { Cylinder = 2, Value = 150 }] }] };
        WetGuard.Of(imported, []).HoldOil.ShouldBe([2]);
        WetGuard.Of(imported, [clear with { At = at.AddHours(1) }]).HoldOil.ShouldBeEmpty();
        WetGuard.Of(imported, [oil3 with { At = at.AddHours(1) }]).HoldOil.ShouldBe([2, 3]);
    }

    [Fact]
    public void What_is_poured_is_always_counted_and_too_much_of_it_keeps_the_gauge_off_until_it_is_wiped_out()
    {
        // 500 cm³ at 10:1 have 55.6 above the piston, a sixth is 9.26 ml.
        var engine = Four with { Fuel = Fuel.Petrol, DisplacementCc = 2000, CompressionRatio = 10 };
        var at = DateTimeOffset.UnixEpoch;
        WetGuard Guard(params OilEvent[] events) => WetGuard.Of(new TestRecord { Engine = engine }, events);
        OilEvent Oil(double ml) => new(WetGuard.Oiled, 3, at, ml);
        OilEvent spin = new(WetGuard.Spun, null, at), wiped = new(WetGuard.Wiped, 3, at);
        Guard(Oil(9), spin).RefusesReading(3).ShouldBeNull();
        var sum = Guard(Oil(5), spin, Oil(5), spin);
        sum.Ml(3).ShouldBe(10);
        sum.RefusesReading(3)!.ShouldContain("10 ml in cylinder 3 is more than the 9.2 ml that fits safely");
        Guard().Refuses(Oil(90), 4).ShouldBeNull("what was really poured is recorded");
        Guard(Oil(90), spin).OverLimit.ShouldBe([3]);
        Guard(Oil(90), wiped).RefusesReading(3).ShouldBeNull();
        Guard(Oil(90), wiped, Oil(1), spin).RefusesReading(3).ShouldNotBeNull("what is left counts as full");
        Guard(Oil(90), new(WetGuard.Cleared, null, at)).Ml(3).ShouldBe(0);
        // The same of a record from elsewhere: what its readings say was poured.
        var imported = new TestRecord { Engine = engine, Tests = [new WetCompressionTest { OilMl = 40, Readings = [new CompressionReading { Cylinder = 2, Value = 150 }, new CompressionReading { Cylinder = 1, Value = 150, OilMl = 8 }] }] };
        WetGuard.Of(imported, []).OverLimit.ShouldBe([2]);
        OilAmount.Shown(9.29).ShouldBe("9.2", "a limit is rounded down");
    }

    [Fact]
    public void Oil_is_measured_in_what_the_shop_pours_with()
    {
        var shop = new ShopSettings { SquirtMl = 2 };
        OilMeasure.Of(shop).Select(m => (m.Word, m.Ml)).ShouldBe([("ml", 1), ("squirt", 2), ("cap", OilMeasure.UsualCapMl), ("spoon", OilMeasure.UsualSpoonMl)]);
        OilMeasure.Of(shop)[1].Says(3).ShouldBe("3 squirts (6 ml)");
        OilMeasure.Of(shop)[0].Says(9).ShouldBe("9 ml");
    }
}
