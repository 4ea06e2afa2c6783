using CsCheck;
using Zandrik.Core.Records;
using Zandrik.Core.Verdicts;

namespace Zandrik.Core.Tests.Verdicts;

public sealed class ShopOutcomesTests
{
    private static Outcome Of(Fault found, Fault program, Fault people, double given = 0.5) => new(new VerdictAnswer(1, found), new VerdictAnswer(1, program, null, 0.8), new VerdictAnswer(1, people), given);

    [Fact]
    public void Each_fault_says_how_often_it_was_said_and_what_was_said_instead()
    {
        var outcomes = ShopOutcomes.Of([
            Of(Fault.ExhaustValve, Fault.ExhaustValve, Fault.ExhaustValve, 0.9), Of(Fault.ExhaustValve, Fault.Rings, Fault.ExhaustValve, 0.2), Of(Fault.ExhaustValve, Fault.Rings, Fault.Rings, 0.1),
            Of(Fault.Sound, Fault.Sound, Fault.Piston, 0.8), new Outcome(new VerdictAnswer(null, Fault.CamTiming), new VerdictAnswer(null, Fault.CamTiming), new VerdictAnswer(null, Fault.None), 0.7),
            new Outcome(new VerdictAnswer(2, Fault.Rings), null, null, null)]);
        outcomes.Unsaid.ShouldBe(1);
        outcomes.Lines.Select(l => l.Fault).ShouldBe([Fault.ExhaustValve, Fault.Sound, Fault.CamTiming]);
        var valve = outcomes.Lines[0];
        (valve.Found, valve.ProgramRight, valve.PeopleRight).ShouldBe((3, 1, 2));
        valve.MeanGiven.ShouldBe(0.4, 1e-9);
        valve.ProgramSaid.ShouldBe([(Fault.Rings, 2), (Fault.ExhaustValve, 1)]);
        outcomes.Lines[2].OfEngine.ShouldBeTrue();
        outcomes.Lines.ShouldAllBe(l => l.OwnShare == null);
    }

    [Fact]
    public void A_gasket_to_another_neighbour_is_another_fault()
    {
        new VerdictAnswer(2, Fault.GasketAdjacent, 3).Agrees(new VerdictAnswer(2, Fault.GasketAdjacent, 1)).ShouldBeFalse();
        new VerdictAnswer(2, Fault.GasketAdjacent, 3).Agrees(new VerdictAnswer(2, Fault.GasketAdjacent)).ShouldBeTrue();
    }

    [Fact]
    public void The_shops_own_rate_stands_beside_the_base_rate_from_thirty_on()
    {
        Outcome[] Times(int n) => [.. Enumerable.Repeat(Of(Fault.Rings, Fault.Rings, Fault.Rings), n), .. Enumerable.Repeat(Of(Fault.Piston, Fault.Piston, Fault.Piston), 10)];
        ShopOutcomes.Of(Times(OutcomeLine.Enough - 1)).Lines.ShouldAllBe(l => l.OwnShare == null && l.BaseShare == null);
        var rings = ShopOutcomes.Of(Times(OutcomeLine.Enough)).Lines[0];
        rings.OwnShare!.Value.ShouldBe(30.0 / 40, 1e-9);
        rings.BaseShare!.Value.ShouldBeInRange(0.1, 0.5);
        ShopOutcomes.Of(Times(OutcomeLine.Enough), dieselShare: 1).Lines[0].BaseShare!.Value.ShouldNotBe(rings.BaseShare.Value);
    }

    [Fact]
    public void Nobody_is_right_more_often_than_something_was_found() => Gen.Select(Gen.Int[0, 12], Gen.Int[0, 12], Gen.Int[0, 12]).Array[0, 60].Sample(found =>
    {
        var outcomes = ShopOutcomes.Of([.. found.Select(f => Of(VerdictAnswer.OfCylinder[f.Item1], VerdictAnswer.OfCylinder[f.Item2], VerdictAnswer.OfCylinder[f.Item3]))]);
        outcomes.Lines.Sum(l => l.Found).ShouldBe(found.Length);
        outcomes.Lines.ShouldAllBe(l => l.ProgramRight <= l.Found && l.PeopleRight <= l.Found && l.ProgramSaid.Sum(s => s.Times) == l.Found && l.PeopleSaid.Sum(s => s.Times) == l.Found);
    }, iter: 200);
}
