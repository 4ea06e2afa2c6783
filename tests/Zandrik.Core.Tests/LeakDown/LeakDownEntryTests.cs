using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.LeakDown;

public sealed class LeakDownEntryTests
{
    private static readonly DateTimeOffset Read = new(2026, 3, 2, 9, 40, 0, TimeSpan.Zero);

    private static readonly LeakDownReading Kept = new() { Cylinder = 2, Held = 60, At = Read, Heard = [new HeardAir { At = ListeningPlace.Intake, Strength = HeardStrength.Clear }] };

    [Fact]
    public void Measured_anew_it_is_another_reading_and_typed_again_under_the_same_air_the_same_one()
    {
        LeakDownEntry.Which([Kept], correct: false, Read.AddMinutes(1)).ShouldBe(-1);
        LeakDownEntry.Which([Kept], correct: false, Read.AddMinutes(-1)).ShouldBe(0);
        LeakDownEntry.Which([Kept, Kept], correct: true, Read.AddMinutes(1)).ShouldBe(1);
        LeakDownEntry.Which([Kept with { Held = null }], correct: false, Read.AddMinutes(1)).ShouldBe(0, "heard first and read afterwards is one reading");
        LeakDownEntry.Which([], correct: false, null).ShouldBe(-1);
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
}
