using CsCheck;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;
using static Zandrik.Core.Tests.Cases;

namespace Zandrik.Core.Tests.LeakDown;

public sealed class CrankGuardTests
{
    private static readonly EngineSheet Manual = Inline(4, 205, 150) with { Gearbox = Gearbox.Manual };
    private static readonly EngineSheet Automatic = Manual with { Gearbox = Gearbox.Automatic };

    private static CrankEvent At(int cylinder) => new(CrankGuard.Turned, $"{cylinder}", true);
    private static CrankEvent Air(bool on) => new(CrankGuard.Air, null, on);
    private static CrankEvent Tick(string word, string? way = null) => new(word, way, true);

    private static IEnumerable<CrankEvent> Held(EngineSheet engine) => CrankGuard.Of(engine, []).BeforeAir.Select(l => Tick(l.Word, l.Ways.Count > 0 ? l.Ways[0].Word : null));

    [Fact]
    public void Air_waits_for_every_line_of_this_gearbox()
    {
        CrankGuard.Of(Manual, []).BeforeAir.Select(l => l.Word).ShouldBe(["key", "stroke", "chocks", "held", "bar"]);
        CrankGuard.Of(Automatic, []).BeforeAir.Select(l => l.Word).ShouldBe(["key", "stroke", "held", "low", "bar"]);
        CrankGuard.Of(Manual with { Gearbox = Gearbox.None }, []).BeforeAir.Single(l => l.Word == "held").Ways.Select(w => w.Word).ShouldBe(["lock", "second-person"]);
        CrankGuard.Of(Manual with { Gearbox = null }, []).BeforeAir.Single(l => l.Word == "held").Ways.Select(w => w.Word).ShouldBe(["gear", "lock", "second-person"]);

        CrankGuard.Of(Manual, []).Refuses(Air(true)).ShouldBe("Set which cylinder is at TDC on compression.");
        var held = Held(Manual).ToList();
        for (var left = 1; left <= held.Count; left++)
        {
            CrankGuard.Of(Manual, [At(1), .. held.SkipLast(left)]).Refuses(Air(true))!.ShouldContain("bar off the crank");
        }
        CrankGuard.Of(Manual, [At(1), .. held]).Refuses(Air(true)).ShouldBeNull();
    }

    [Fact]
    public void Nothing_turns_under_air_nor_before_it_is_vented_and_out_of_gear()
    {
        List<CrankEvent> on = [At(1), .. Held(Manual), Air(true)];
        CrankGuard.Of(Manual, on).Refuses(At(3))!.ShouldContain("air is on");
        CrankGuard.Of(Manual, on).Refuses(Tick("vented"))!.ShouldContain("still on");
        CrankGuard.Of(Manual, on).Refuses(new("held", null, false))!.ShouldContain("shut it off");
        List<CrankEvent> off = [.. on, Air(false)];
        CrankGuard.Of(Manual, off).Refuses(At(3)).ShouldBe("Not yet to be turned: air vented: both gauges at zero; out of gear.");
        CrankGuard.Of(Manual, [.. off, Tick("vented")]).Refuses(At(3))!.ShouldContain("out of gear");
        CrankGuard.Of(Manual, [.. off, Tick("vented"), Tick("free")]).Refuses(At(3)).ShouldBeNull();
    }

    [Fact]
    public void At_the_next_cylinder_it_is_held_anew_and_venting_does_not_outlast_the_air()
    {
        List<CrankEvent> events = [At(1), .. Held(Manual), Air(true), Air(false), Tick("vented"), Tick("free"), At(3)];
        var guard = CrankGuard.Of(Manual, events);
        guard.Cylinder.ShouldBe(3);
        guard.MissingBeforeAir.Select(l => l.Word).ShouldBe(["stroke", "held", "bar"]);
        guard.IsTicked("chocks").ShouldBeTrue();
        // Before any air here the crank may go on.
        guard.Refuses(At(4)).ShouldBeNull();
        // Air once more on the same cylinder: what was vented is under pressure again.
        var again = CrankGuard.Of(Manual, [At(1), .. Held(Manual), Air(true), Air(false), Tick("vented"), Tick("free"), Air(true), Air(false)]);
        again.MissingBeforeTurning.Count.ShouldBe(2);
    }

    [Fact]
    public void Air_off_clears_what_held_this_cylinder_and_out_of_gear_is_not_held()
    {
        List<CrankEvent> off = [At(1), .. Held(Manual), Air(true), Air(false)];
        CrankGuard.Of(Manual, off).MissingBeforeAir.Select(l => l.Word).ShouldBe(["stroke", "held", "bar"]);
        CrankGuard.Of(Manual, off).Refuses(Air(true))!.ShouldContain("No air yet");
        CrankGuard.Of(Manual, [At(1), .. Held(Manual), Tick("free")]).MayOpenAir.ShouldBeFalse("out of gear");
        CrankGuard.Of(Manual, [At(1), .. Held(Manual), new("held", null, false)]).MayOpenAir.ShouldBeFalse("let go");
        var again = CrankGuard.Of(Manual, [.. off, Tick("vented"), Tick("free"), .. Held(Manual)]);
        again.MayOpenAir.ShouldBeTrue();
        again.IsTicked("free").ShouldBeFalse("held again");
    }

    [Fact]
    public void A_figure_is_refused_without_air_and_for_another_cylinder()
    {
        CrankGuard.Of(Manual, []).RefusesReading(2)!.ShouldContain("TDC on compression");
        CrankGuard.Of(Manual, [At(2)]).RefusesReading(2)!.ShouldContain("No air yet");
        CrankGuard.Of(Manual, [At(2), .. Held(Manual)]).RefusesReading(2)!.ShouldContain("air is off");
        CrankGuard.Of(Manual, [At(2), .. Held(Manual), Air(true)]).RefusesReading(2).ShouldBeNull();
        CrankGuard.Of(Manual, [At(2), .. Held(Manual), Air(true)]).RefusesReading(3).ShouldBe("The crank is at cylinder 2: turn it to 3 first, or read 2.");
    }

    [Fact]
    public void The_rules_a_tablet_goes_by_say_what_the_guard_says() =>
        Gen.Select(Gen.OneOf([.. new[] { "turned", "air", "key", "stroke", "chocks", "held", "low", "bar", "vented", "free" }.Select(w => Gen.Const(w))]), Gen.Int[1, 4], Gen.Bool).Array[1, 80].Sample(tried =>
        {
            foreach (var engine in new[] { Manual, Automatic })
            {
                List<CrankEvent> kept = [];
                IReadOnlySet<string> facts = new HashSet<string>();
                foreach (var (item, cylinder, done) in tried)
                {
                    var guard = CrankGuard.Of(engine, kept);
                    facts.Order().ShouldBe(guard.Facts.Order());
                    for (var c = 1; c <= 4; c++)
                    {
                        (CrankGuard.ReadingRule(c).Refuses(facts) is null).ShouldBe(guard.RefusesReading(c) is null);
                    }
                    var line = guard.BeforeAir.Concat(guard.BeforeTurning).FirstOrDefault(l => l.Word == item);
                    if (line is null && item is not ("turned" or "air"))
                    {
                        continue;
                    }
                    var e = new CrankEvent(item, item == "turned" ? $"{cylinder}" : line is { Ways.Count: > 0 } ? line.Ways[0].Word : null, done || item == "turned");
                    var rule = guard.Rule(e);
                    (rule.Refuses(facts) is null).ShouldBe(guard.Refuses(e) is null, $"{e} after {string.Join(", ", facts)}");
                    if (rule.Refuses(facts) is null)
                    {
                        kept.Add(e);
                        facts = rule.After(facts);
                    }
                }
            }
        });

    [Fact]
    public void Whatever_is_tried_in_whatever_order_air_is_never_on_unheld_and_the_crank_never_turns_under_pressure() =>
        Gen.Select(Gen.OneOf([.. new[] { "turned", "air", "key", "stroke", "chocks", "held", "low", "bar", "vented", "free" }.Select(w => Gen.Const(w))]), Gen.Int[1, 4], Gen.Bool).Array[1, 60].Sample(tried =>
        {
            foreach (var engine in new[] { Manual, Automatic })
            {
                List<CrankEvent> kept = [];
                foreach (var (item, cylinder, done) in tried)
                {
                    var guard = CrankGuard.Of(engine, kept);
                    var e = new CrankEvent(item, item == "turned" ? $"{cylinder}" : null, done || item == "turned");
                    if (guard.Refuses(e) is not null)
                    {
                        continue;
                    }
                    if (e is { Item: "air", Done: true } && !guard.AirIsOn)
                    {
                        guard.BeforeAir.ShouldAllBe(l => guard.IsTicked(l.Word));
                    }
                    if (e.Item == "turned")
                    {
                        guard.AirIsOn.ShouldBeFalse();
                        (!guard.AirWasOn || guard.BeforeTurning.All(l => guard.IsTicked(l.Word))).ShouldBeTrue();
                    }
                    kept.Add(e);
                }
            }
        });
}
