using CsCheck;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Diagnosis;

public sealed class TestOutcomesTests
{
    private const double Size = 1, Restriction = 0.628;

    private static readonly NodeTable Petrol = NodeTable.Of(new(Diesel: false, SoundGain: 0.04, OilLeft: 0.55));

    private static TestOutcomes Outcomes => Petrol.Curves.Outcomes;

    private static double[] Even => [.. Outcomes.Nodes.Select(n => n.Weight)];

    // Half one answer, half the other.
    private static double[] Between(Fault one, Fault other)
    {
        var answers = new double[Posterior.Answers];
        answers[Posterior.IndexOf(one)] += 0.5;
        answers[Posterior.IndexOf(other)] += 0.5;
        return answers;
    }

    private static double Bits(PossibleTest test, double[] answers) => TestOutcomes.Information(answers, Outcomes.Shows(test, Size, Restriction, Even));

    [Fact]
    public void No_test_tells_more_than_there_is_to_know_nor_less_than_nothing() =>
        Gen.Select(Gen.Double[0, 1].Array[Posterior.Answers], Gen.Int[0, 5]).Sample((weights, test) =>
        {
            var all = weights.Sum() + 1e-9;
            double[] answers = [.. weights.Select(w => w / all)];
            Bits((PossibleTest)test, answers).ShouldBeInRange(0, TestOutcomes.Entropy(answers) + 1e-9);
        }, iter: 100);

    [Fact]
    public void What_is_known_cannot_be_told()
    {
        var certain = new double[Posterior.Answers];
        certain[Posterior.IndexOf(Fault.ExhaustValve)] = 1;
        foreach (var test in Enum.GetValues<PossibleTest>())
        {
            Bits(test, certain).ShouldBe(0, 1e-9);
        }
    }

    [Fact]
    public void Oil_tells_rings_from_a_valve_and_nothing_of_one_valve_against_the_other()
    {
        Bits(PossibleTest.Wet, Between(Fault.Rings, Fault.ExhaustValve)).ShouldBeGreaterThan(0.25);
        Bits(PossibleTest.Wet, Between(Fault.IntakeValve, Fault.ExhaustValve)).ShouldBeLessThan(0.01);
    }

    [Fact]
    public void Listening_tells_the_valves_apart()
    {
        Bits(PossibleTest.LeakDown, Between(Fault.IntakeValve, Fault.ExhaustValve)).ShouldBeGreaterThan(0.3);
        Bits(PossibleTest.LeakDown, Between(Fault.IntakeNotOpening, Fault.ExhaustNotOpening)).ShouldBeLessThan(0.01);
    }

    [Fact]
    public void A_running_test_tells_what_does_not_open() => Bits(PossibleTest.Running, Between(Fault.IntakeNotOpening, Fault.ExhaustNotOpening)).ShouldBeGreaterThan(0.5);

    [Fact]
    public void Reading_again_tells_a_slip_and_no_leak_from_another()
    {
        Bits(PossibleTest.Repeat, Between(Fault.Rings, Fault.TestError)).ShouldBeGreaterThan(0.2);
        Bits(PossibleTest.Repeat, Between(Fault.Rings, Fault.ExhaustValve)).ShouldBe(0, 1e-9);
    }

    [Fact]
    public void A_plug_wet_with_coolant_tells_a_gasket() => Bits(PossibleTest.Plug, Between(Fault.GasketCoolant, Fault.ExhaustValve)).ShouldBeGreaterThan(0.2);

    [Theory]
    [InlineData(0.5, 0.5, 1, 0, 0, 1, 1)] // told with certainty
    [InlineData(0.5, 0.5, 0.5, 0.5, 0.5, 0.5, 0)] // told nothing
    [InlineData(0.5, 0.5, 0.9, 0.1, 0.1, 0.9, 0.531)] // 1 − H(0.1), by hand
    [InlineData(0.1, 0.9, 0.85, 0.15, 0.04, 0.96, 0.2532)] // h(0.121) − 0.1·h(0.15) − 0.9·h(0.04) = 0.5322 − 0.0610 − 0.2181, by hand
    public void Information_is_that_of_the_textbook(double first, double second, double a, double b, double c, double d, double bits) =>
        TestOutcomes.Information([first, second], [a, b, c, d]).ShouldBe(bits, 0.0005);

    [Fact]
    public void Entropy_of_even_chances_is_their_number_in_bits()
    {
        TestOutcomes.Entropy([0.25, 0.25, 0.25, 0.25]).ShouldBe(2, 1e-12);
        TestOutcomes.Entropy([1, 0]).ShouldBe(0);
    }
}
