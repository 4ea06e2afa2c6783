using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.LeakDown;

public sealed class LeakDownEntryTests
{
    private static readonly DateTimeOffset Read = new(2026, 3, 2, 9, 40, 0, TimeSpan.Zero);

    private static readonly LeakDownReading Kept = new() { Cylinder = 2, Held = 60, At = Read, Heard = [new HeardAir { At = ListeningPlace.Intake, Strength = HeardStrength.Clear }] };

    [Fact]
    public void Measured_anew_a_figure_keeps_no_sound_of_the_one_before()
    {
        LeakDownEntry.Figures(2, Kept, correct: false, Read.AddMinutes(1)).ShouldBe(new LeakDownReading { Cylinder = 2 });
        // The same air still on, or a slip of the finger: what was heard stays.
        LeakDownEntry.Figures(2, Kept, correct: false, Read.AddMinutes(-1)).ShouldBe(Kept);
        LeakDownEntry.Figures(2, Kept, correct: true, Read.AddMinutes(1)).ShouldBe(Kept);
        // Heard first and read afterwards is one reading.
        var heard = Kept with { Held = null };
        LeakDownEntry.Figures(2, heard, correct: false, Read.AddMinutes(1)).ShouldBe(heard);
        LeakDownEntry.Figures(2, null, correct: false, null).Cylinder.ShouldBe(2);
    }

    [Fact]
    public void A_tap_takes_the_place_of_the_tap_before_at_that_place_and_says_it_was_listened_at()
    {
        var empty = new LeakDownReading { Cylinder = 2 };
        var clear = LeakDownEntry.Heard(empty, ListeningPlace.Exhaust, null, HeardStrength.Clear);
        clear.Listened.ShouldBe([ListeningPlace.Exhaust]);
        var strong = LeakDownEntry.Heard(clear, ListeningPlace.Exhaust, null, HeardStrength.Strong);
        strong.Heard!.Single().Strength.ShouldBe(HeardStrength.Strong);
        // Two plug holes are two places.
        var holes = LeakDownEntry.Heard(LeakDownEntry.Heard(strong, ListeningPlace.AdjacentPlugHole, 1, HeardStrength.Faint), ListeningPlace.AdjacentPlugHole, 3, HeardStrength.Clear);
        holes.Heard!.Count.ShouldBe(3);
        var nothing = LeakDownEntry.Heard(clear, ListeningPlace.Exhaust, null, null);
        nothing.Heard.ShouldBeNull();
        nothing.Listened.ShouldBe([ListeningPlace.Exhaust]);
        // Anything heard in a record without a list means all places were listened at, and stays so.
        LeakDownEntry.Heard(Kept, ListeningPlace.Exhaust, null, null).Listened.ShouldBe(AirHeard.Everywhere);
    }

    [Fact]
    public void What_was_not_opened_was_not_listened_at()
    {
        var engine = new EngineSheet { Cylinders = 4, Fuel = Fuel.Petrol };
        LeakPreparation.NotOpened(engine, []).ShouldBeEmpty();
        var shut = LeakPreparation.NotOpened(engine, [RecordWords.Of(PreparationItem.Warm), RecordWords.Of(PreparationItem.AirPath)]);
        shut.ShouldBe([PreparationItem.OilFiller, PreparationItem.CoolantCap]);
        var everywhere = LeakDownEntry.Everywhere(new LeakDownReading { Cylinder = 2 }, shut);
        everywhere.Listened.ShouldBe([ListeningPlace.Intake, ListeningPlace.Exhaust, ListeningPlace.AdjacentPlugHole]);
        LeakDownEntry.Everywhere(new LeakDownReading { Cylinder = 2 }, []).Listened.ShouldBe(AirHeard.Everywhere);
    }

    [Fact]
    public void Every_figure_taken_stays_to_be_seen_with_its_oil_and_why_it_does_not_count()
    {
        LeakDownReading At(int minute, double held, long? by, bool oil = false) =>
            new() { Cylinder = 2, Supply = 100, Held = held, At = Read.AddMinutes(minute), SupersededBy = by, Conditions = oil ? new TestConditions { OilBefore = true } : null };
        static IReadOnlyList<LeakDownTaken> All(LeakDownTest test) => LeakDownTaken.All(new TestRecord { Tests = [test] });
        // 70 taken and listened to (two rows of one figure), 85 after oil, 60 taken back again.
        var test = new LeakDownTest { Readings = [At(0, 70, 11), At(0, 70, 12), At(5, 85, null, oil: true), At(9, 60, 14)] };
        var all = All(test);
        all.Select(t => Math.Round(t.Percent!.Value)).ShouldBe([30, 15, 40]);
        all.Select(t => t.AfterOil).ShouldBe([false, true, false]);
        all.Select(t => t.Counts).ShouldBe([false, true, false]);
        all[0].ReplacedAt.ShouldBe(Read.AddMinutes(5));
        all[2].TakenBack.ShouldBeTrue();
        All(new LeakDownTest { Readings = [At(0, 70, 12), At(0, 70, null)] }).ShouldBeEmpty("read once");
        All(new LeakDownTest { Readings = [At(0, 70, 12)] }).Single().TakenBack.ShouldBeTrue();
        // Nobody said so of the reading, but a wet reading stands between the two.
        LeakDownTaken.All(new TestRecord
        {
            Tests = [new WetCompressionTest { Readings = [new CompressionReading { Cylinder = 2, Value = 150, At = Read.AddMinutes(3) }] }, new LeakDownTest { Readings = [At(0, 70, 12), At(5, 85, null)] }],
        }).Select(t => t.AfterOil).ShouldBe([false, true]);
    }
}
