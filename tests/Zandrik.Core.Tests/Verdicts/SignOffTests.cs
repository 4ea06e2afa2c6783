using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Tests.Diagnosis;
using Zandrik.Core.Units;
using Zandrik.Core.Verdicts;

namespace Zandrik.Core.Tests.Verdicts;

public sealed class SignOffTests
{
    private static readonly VerdictSnapshot Burnt = Whiteboard.Job("dry 190 188 131 191; leak 3 85 exhaust 3").Verdict(PressureUnit.Psi);

    private static string? Refused(bool agrees, string? reason, params VerdictAnswer[] answers) => new SignOff(agrees, reason, answers, "").Refuses(Burnt)?.Pointer;

    [Fact]
    public void Agreeing_needs_no_reason_and_seeing_it_otherwise_does()
    {
        Refused(agrees: true, null).ShouldBeNull();
        Refused(agrees: true, new string('x', SignOff.LongestReason + 1)).ShouldBe("/reason");
        Refused(agrees: false, null, new VerdictAnswer(3, Fault.IntakeValve)).ShouldBe("/reason");
        Refused(agrees: false, "  ", new VerdictAnswer(3, Fault.IntakeValve)).ShouldBe("/reason");
        Refused(agrees: false, "I looked", new VerdictAnswer(3, Fault.IntakeValve)).ShouldBeNull();
        Refused(agrees: false, "I looked", new VerdictAnswer(null, Fault.CamTiming)).ShouldBeNull();
    }

    [Fact]
    public void Signed_with_nothing_different_it_is_an_agreement_and_needs_no_reason()
    {
        bool Differs(VerdictSnapshot of, params VerdictAnswer[] answers) => new SignOff(false, null, answers, "").Differs(of);
        Refused(agrees: false, null, new VerdictAnswer(3, Fault.ExhaustValve), new VerdictAnswer(1, Fault.Sound)).ShouldBeNull();
        Differs(Burnt, new VerdictAnswer(3, Fault.ExhaustValve)).ShouldBeFalse();
        Differs(Burnt, new VerdictAnswer(3, Fault.IntakeValve)).ShouldBeTrue();
        // Where Zandrik cannot tell, "all sound" is an answer of its own.
        var open = Whiteboard.Job("dry 190 188 150 191; repeat 3 189").Verdict(PressureUnit.Psi);
        open.State.ShouldBe(EngineState.Inconclusive);
        VerdictAnswer[] sound = [.. Enumerable.Range(1, 4).Select(c => new VerdictAnswer(c, Fault.Sound))];
        Differs(open, sound).ShouldBeTrue();
        new SignOff(false, null, sound, "").Refuses(open)!.Pointer.ShouldBe("/reason");
        new SignOff(false, "I was there", sound, "").Refuses(open).ShouldBeNull();
    }

    [Fact]
    public void Only_what_a_place_can_have_is_said_of_it()
    {
        Refused(agrees: false, "I looked", new VerdictAnswer(3, Fault.CamTiming)).ShouldBe("/answers/3");
        Refused(agrees: false, "I looked", new VerdictAnswer(null, Fault.Rings)).ShouldBe("/answers/engine");
        Refused(agrees: false, "I looked", new VerdictAnswer(3, Fault.GasketAdjacent, 1)).ShouldBe("/answers/3");
        Refused(agrees: false, "I looked", new VerdictAnswer(3, Fault.GasketAdjacent, 4)).ShouldBeNull();
        Refused(agrees: false, "I looked", new VerdictAnswer(7, Fault.Rings)).ShouldBe("/answers/7");
    }

    [Fact]
    public void A_gasket_is_offered_once_for_each_neighbour()
    {
        var vee = Whiteboard.Job("petrol 6 v 1-3-5/2-4-6").Engine;
        VerdictAnswer.Possible(vee, 3).Where(a => a.Fault == Fault.GasketAdjacent).Select(a => a.With).ShouldBe([1, 5]);
        VerdictAnswer.Possible(vee, 2).Where(a => a.Fault == Fault.GasketAdjacent).Select(a => a.With).ShouldBe([4]);
        VerdictAnswer.Possible(vee, 9).ShouldNotContain(a => a.Fault == Fault.GasketAdjacent);
        VerdictAnswer.Possible(vee, null).Select(a => a.Fault).ShouldBe(VerdictAnswer.OfEngine);
    }

    [Fact]
    public void Where_nothing_is_measured_there_is_nothing_to_sign() =>
        new SignOff(true, null, [], "").Refuses(Whiteboard.Job("seen misfire").Verdict(PressureUnit.Psi))!.Says.ShouldStartWith("Nothing is measured yet");
}
