using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Reports;
using Zandrik.Core.Units;
using static Zandrik.Core.Tests.Cases;

namespace Zandrik.Core.Tests.Reports;

public sealed class OwnerParagraphTests
{
    private static readonly EngineSheet Four = Inline(4, 205, 150) with { FiringOrder = [1, 3, 4, 2] };

    private static string Of(DryCompressionTest? dry, params TestEntry[] more) =>
        OwnerParagraph.Of(JudgedTests.Of(new TestRecord { Engine = Four, Tests = dry is null ? more : [dry, .. more] }));

    private static LeakDownTest Leak(params LeakDownReading[] readings) => new() { Unit = PressureUnit.Psi, Supply = 100, Readings = readings };

    [Fact]
    public void Leak_down_readings_that_disagree_accuse_nothing()
    {
        var says = Of(null, Leak(new() { Cylinder = 2, Held = 13 }, new() { Cylinder = 2, Held = 62 }, new() { Cylinder = 2, Held = 13, Heard = [new HeardAir { At = ListeningPlace.Intake, Strength = HeardStrength.Clear }] }));
        says.ShouldBe("The air test of cylinder 2 gave very different results each time, so it has to be repeated before it says anything.");
    }

    [Fact]
    public void Nothing_measured_says_only_that() => Of(null).ShouldBe("No compression reading has been taken yet.");

    [Fact]
    public void What_the_starter_told_is_told_before_any_gauge()
    {
        RelativeCompressionTest Starter(double second) => new() { Readings = [new RelativeReading { Cylinder = 1, RelativePercent = 100, StandardErrorPercent = 1 }, new RelativeReading { Cylinder = 2, RelativePercent = second, StandardErrorPercent = 2 }] };
        Of(null, Starter(60)).ShouldBe("From the current that the starter draws we compared the cylinders with each other. Cylinder 2 builds up clearly less than the best of them.");
        Of(null, Starter(97)).ShouldContain("Whether all are worn alike this cannot show.");
        Of(Dry(205, 204, 206, 203), Starter(97)).ShouldContain("this cannot show. We measured how much pressure");
        Of(null, new RelativeCompressionTest()).ShouldBe("No compression reading has been taken yet.");
    }

    [Fact]
    public void A_sound_engine_is_told_so_in_plain_words()
    {
        var says = Of(Dry(205, 204, 206, 203));
        says.ShouldContain("each of the engine's 4 cylinders");
        says.ShouldContain("All of them are as they should be.");
        says.ShouldContain("certain only when the engine is open");
    }

    [Fact]
    public void Low_watched_high_and_missing_cylinders_are_each_named()
    {
        Of(Dry(205, 120, 206, 204)).ShouldContain("Cylinder 2 builds up clearly less than the others. Cylinders 1, 3 and 4 are as they should be.");
        Of(Dry(205, 204, 182, 206)).ShouldContain("Cylinder 3 is a little behind and should be watched.");
        Of(Dry(190, 191, 190, 230)).ShouldContain("Cylinder 4 reads higher than the others, as with deposits in the cylinder.");
        Of(Dry(158, 157, 148, 156)).ShouldContain("Cylinder 3 builds up less than the maker's minimum. Cylinders 1, 2 and 4 build up less than they should.");
        Of(Dry(205)).ShouldContain("So far only cylinder 1 has been measured, so there is nothing to compare it with.");
        Of(Dry(205, 204)).ShouldContain("Cylinders 3 and 4 have no reading that counts yet.");
    }

    [Fact]
    public void Nothing_is_as_it_should_be_where_no_limit_says_so()
    {
        var shut = Proper with { Throttle = ThrottlePlate.Closed };
        Of(Dry(shut, 190, 191, 189, 192)).ShouldContain("None of them stands out; whether all are as high as they should be is not judged.");
        Of(Dry(shut, 190, 140, 189, 192)).ShouldContain("Cylinders 1, 3 and 4 do not stand out.");
        Of(Dry(shut, 170, 171, 169, 172)).ShouldContain("All of them build up less than they should.");
        Of(Dry(shut, 170, 171, 169, 172)).ShouldNotContain("as they should be.");
    }

    [Fact]
    public void A_slip_of_the_test_is_told_before_any_cylinder_is_blamed() =>
        Of(Dry(Proper with { Throttle = ThrottlePlate.Closed }, 170, 171, 169, 172)).ShouldContain("the test should be repeated");

    [Fact]
    public void Where_the_air_goes_is_told_by_what_it_points_to()
    {
        LeakDownReading Heard(ListeningPlace at, int? cylinder = null) => new() { Cylinder = 2, Held = 31, Heard = [new HeardAir { At = at, Strength = HeardStrength.Strong, Cylinder = cylinder }] };
        var dry = Dry(205, 120, 206, 204);
        Of(dry, Leak(Heard(ListeningPlace.Exhaust))).ShouldContain("About 70 percent of the compressed air put into cylinder 2 leaked out, heard most at the exhaust, which points to an exhaust valve.");
        Of(dry, Leak(Heard(ListeningPlace.Intake))).ShouldContain("an intake valve");
        Of(dry, Leak(Heard(ListeningPlace.OilFiller))).ShouldContain("piston rings or the cylinder wall");
        Of(dry, Leak(Heard(ListeningPlace.Coolant))).ShouldContain("head gasket or a crack");
        Of(dry, Leak(Heard(ListeningPlace.AdjacentPlugHole, 3))).ShouldContain("cylinder 3, which points to the head gasket between the two");
        Of(dry, Leak(Heard(ListeningPlace.OtherPlugHole, 4))).ShouldContain("by way of another cylinder");
        Of(dry, Leak(new LeakDownReading { Cylinder = 1, Held = 92 }, new LeakDownReading { Cylinder = 3, Held = 91 })).ShouldContain("Cylinders 1 and 3 hold compressed air as they should.");
    }

    [Fact]
    public void A_reading_that_is_not_used_is_not_told_as_a_finding()
    {
        // Nearly all lost on a cylinder that pumps like the others: wrong stroke, not an exhaust valve.
        var says = Of(Dry(205, 204, 206, 203), Leak(new LeakDownReading { Cylinder = 2, Held = 4, Heard = [new HeardAir { At = ListeningPlace.Exhaust, Strength = HeardStrength.Strong }] }));
        says.ShouldNotContain("exhaust");
        says.ShouldContain("All of them are as they should be.");
    }

    [Fact]
    public void Oil_running_figures_and_gas_in_the_coolant_have_their_sentences()
    {
        var dry = Dry(205, 120, 206, 204);
        WetCompressionTest Wet(double value) => new() { Unit = PressureUnit.Psi, Readings = [new CompressionReading { Cylinder = 2, Value = value }] };
        Of(dry, Wet(150)).ShouldContain("A little oil in cylinder 2 brought pressure back");
        Of(dry, Wet(124)).ShouldContain("A little oil in cylinder 2 changed nothing");
        RunningReading Run(int cylinder, double idle, double snap) => new() { Cylinder = cylinder, Idle = idle, Snap = snap, Purged = true };
        Of(Dry(205, 204, 206, 203), new RunningCompressionTest { Unit = PressureUnit.Psi, Readings = [Run(1, 110, 180), Run(2, 165, 166), Run(3, 111, 130), Run(4, 109, 181)] })
            .ShouldContain("cylinder 2 cannot let the burnt gas out properly. With the engine running, cylinder 3 cannot draw in enough air.");
        Of(dry, new CombustionGasTest { Result = CombustionGasResult.Positive }).ShouldContain("contains combustion gas");
        // The latest of a kind counts.
        var latest = Of(dry, new CombustionGasTest { Result = CombustionGasResult.Positive }, new CombustionGasTest { Result = CombustionGasResult.Negative });
        latest.ShouldContain("No combustion gas");
        latest.ShouldNotContain("contains combustion gas");
    }

    [Fact]
    public void No_unit_and_no_word_of_the_methods_reaches_the_owner()
    {
        var says = Of(Dry(205, 120, 206, 180), Leak(new LeakDownReading { Cylinder = 2, Held = 31, Heard = [new HeardAir { At = ListeningPlace.Exhaust }] }), new WetCompressionTest { Unit = PressureUnit.Psi, Readings = [new CompressionReading { Cylinder = 2, Value = 150 }] });
        foreach (var word in new[] { "psi", "bar", "kPa", "mm²", "school", "median", "TDC", "reference" })
        {
            says.ShouldNotContain(word);
        }
    }
}
