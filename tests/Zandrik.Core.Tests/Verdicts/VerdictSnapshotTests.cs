using System.Text.Json;
using Zandrik.Core.Conditions;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Tests.Diagnosis;
using Zandrik.Core.Units;
using Zandrik.Core.Verdicts;

namespace Zandrik.Core.Tests.Verdicts;

public sealed class VerdictSnapshotTests
{
    private const string Burnt = "dry 190 188 131 191; leak 3 85 exhaust 3; wet 3 134; run 1 100 165; rel 100 99 71 100; with throttle-closed";

    [Theory]
    [InlineData(Burnt)]
    [InlineData("petrol 4; dry 190 150 148 191; leak 2 60 plughole3 3; leak 3 62 plughole2 3")]
    [InlineData("diesel 8 v 1-3-5-7/2-4-6-8; dry 420 421 419 300 422 420 418 421")]
    [InlineData("rel 100 99 71 100")]
    [InlineData("seen misfire")]
    public void It_comes_back_from_its_own_text_as_it_was(string text)
    {
        var made = Whiteboard.Job(text).Verdict(PressureUnit.Bar);
        var written = JsonSerializer.Serialize(made, TestRecordJson.Options);
        var read = JsonSerializer.Deserialize<VerdictSnapshot>(written, TestRecordJson.Options)!;
        JsonSerializer.Serialize(read, TestRecordJson.Options).ShouldBe(written);
        read.Headline.ShouldBe(made.Headline);
        read.Cylinders.Select(c => c.Leading.Probability).ShouldBe(made.Cylinders.Select(c => c.Leading.Probability));
        read.Cylinders[0].Leading.Evidence.Count.ShouldBeGreaterThan(0);
    }

    [Fact]
    public void It_holds_every_reading_the_methods_and_what_to_take_care_of()
    {
        var made = Whiteboard.Job(Burnt).Verdict(PressureUnit.Psi);
        made.Shown[2].Readings.Select(r => r.Test).ShouldBe([StepKind.Relative, StepKind.Dry, StepKind.LeakDown, StepKind.Wet]);
        made.Shown[2].Readings[1].Says.ShouldBe("131 psi");
        made.Shown[2].Readings[2].Says.ShouldStartWith("85 % lost, ");
        made.Shown[2].Level!.Value.ShouldBe(131.0 / 191, 0.02);
        made.Methods.Count(s => s.Deciding).ShouldBe(1);
        made.Validity.ShouldContain(v => v.Code == ValidityCode.ThrottleClosed);
        made.Actions.ShouldNotBeEmpty();
        made.Cautions[^1].ShouldContain("licensed technician");
    }

    [Fact]
    public void What_was_found_does_not_tell_what_was_said()
    {
        var record = Whiteboard.Job(Burnt);
        var found = record with { Found = [new FoundFault { Cylinder = 3, Fault = Fault.Rings }] };
        JsonSerializer.Serialize(found.Verdict(PressureUnit.Psi), TestRecordJson.Options).ShouldBe(JsonSerializer.Serialize(record.Verdict(PressureUnit.Psi), TestRecordJson.Options));
    }

    [Fact]
    public void Overruled_only_the_owner_is_told_other()
    {
        var made = Whiteboard.Job(Burnt).Verdict(PressureUnit.Psi);
        var overruled = made.Overruled([new VerdictAnswer(null, Fault.None), new VerdictAnswer(3, Fault.IntakeValve)]);
        overruled.Owner.ShouldContain("Our technician's conclusion: an intake valve does not close tightly in cylinder 3.");
        made.Owner.ShouldNotContain("technician's conclusion");
        (overruled with { Owner = made.Owner }).ShouldBe(made);
    }

    [Fact]
    public void The_cautions_follow_what_is_opened_and_what_it_burns()
    {
        var petrol = new EngineSheet { Cylinders = 4, Fuel = Fuel.Petrol };
        OpeningCautions.For(petrol, [RepairAction.None]).ShouldHaveSingleItem();
        OpeningCautions.For(petrol, [RepairAction.HeadOff]).ShouldContain(c => c.Contains("cold", StringComparison.Ordinal));
        OpeningCautions.For(petrol, [RepairAction.AdjustValves]).ShouldContain(c => c.Contains("starter disabled", StringComparison.Ordinal));
        OpeningCautions.For(petrol with { Fuel = Fuel.Diesel }, [RepairAction.Overhaul]).ShouldContain(c => c.Contains("jet", StringComparison.Ordinal));
        OpeningCautions.For(petrol with { Fuel = Fuel.Lpg }, [RepairAction.HeadOff]).ShouldContain(c => c.Contains("tank valve", StringComparison.Ordinal));
        var all = OpeningCautions.For(petrol, Enum.GetValues<RepairAction>());
        all.Distinct().Count().ShouldBe(all.Count);
    }

    [Fact]
    public void The_owner_is_told_as_much_as_is_known_and_no_more()
    {
        string Of(params VerdictAnswer[] answers) => OwnerVerdict.Of([new VerdictAnswer(null, Fault.None, null, 0.9), .. answers], overruled: false);
        Of(new VerdictAnswer(1, Fault.Sound, null, 0.99)).ShouldBe("Nothing we measured points to a fault inside the engine.");
        Of(new VerdictAnswer(2, Fault.GasketAdjacent, 3, 0.99), new VerdictAnswer(3, Fault.GasketAdjacent, 2, 0.99)).ShouldBe("This almost certainly means: the head gasket is burnt through between cylinders 2 and 3.");
        Of(new VerdictAnswer(3, Fault.GasketAdjacent, 4, 0.6), new VerdictAnswer(4, Fault.GasketAdjacent, 5, 0.9), new VerdictAnswer(5, Fault.GasketAdjacent, 4, 0.97))
            .ShouldBe("This probably means: the head gasket is burnt through between cylinders 3, 4 and 5.", "one gasket, one sentence, as sure as of the least sure");
        Of(new VerdictAnswer(2, Fault.Rings, null, 0.6)).ShouldContain("This probably means");
        Of(new VerdictAnswer(2, Fault.Rings, null, 0.4)).ShouldBe("Why cylinder 2 reads as it does cannot be said yet: more has to be measured before anything is opened.");
        Of().ShouldBe("It is too early to say what that means.");
        VerdictAnswer[] sealing = [new(null, Fault.None), new(2, Fault.Sound)];
        OwnerVerdict.Of(sealing, overruled: false, EngineState.Inconclusive).ShouldBe("It is too early to say what that means.");
        OwnerVerdict.Of(sealing, overruled: true, EngineState.Inconclusive).ShouldStartWith("Nothing we measured points");
        foreach (var fault in VerdictAnswer.OfCylinder.Concat(VerdictAnswer.OfEngine).Where(f => f is not (Fault.Sound or Fault.None)))
        {
            OwnerVerdict.Of([new VerdictAnswer(null, Fault.None), new VerdictAnswer(1, fault)], overruled: true).ShouldNotContain("nothing");
        }
    }

    [Fact]
    public void With_every_reading_held_back_there_is_a_snapshot_all_the_same()
    {
        var record = Whiteboard.Job("petrol 4; dry 12.1 12.4 11.8 12");
        record = record with { Engine = record.Engine with { Spec = new EngineSpec { Unit = PressureUnit.Psi, Minimum = 150 } } };
        var made = record.Verdict(PressureUnit.Psi);
        made.Shown.ShouldAllBe(c => c.Level == null);
        (made.Shown[0].Figure, made.ShownIn).ShouldBe(("12.1", "dry, psi, held back"));
    }
}
