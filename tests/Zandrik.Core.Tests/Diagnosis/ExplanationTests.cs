using System.Globalization;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Diagnosis;

public sealed class ExplanationTests
{
    public static TheoryData<string> Jobs { get; } =
    [
        "dry 190 188 131 191; leak 3 85 exhaust 3; wet 3 134; run 1 100 165; run 2 98 160; rel 100 99 71 100",
        "dry 190 150 148 191; leak 2 60 plughole3 3; leak 3 62 plughole2 3; gas negative",
        "diesel 8 v 1-3-5-7/2-4-6-8; dry 420 421 419 300 422 420 418 421; seen coolant-loss coolant-bubbles",
        "dry 160 158 161 159; with throttle-closed cold",
        "plug 2 oil-wet; clearance 3 exhaust 0.1 0.2 0.3",
        "seen misfire",
    ];

    [Theory]
    [MemberData(nameof(Jobs))]
    public void Every_figure_that_is_shown_can_be_explained(string text)
    {
        var said = EngineDiagnosis.Of(Whiteboard.Job(text));
        void Explains(string ask, int cylinder = 1)
        {
            var found = Explanation.Of(said, ask, cylinder);
            found.ShouldNotBeNull($"{ask} of {cylinder}");
            found.Steps.ShouldNotBeEmpty(ask);
            found.Steps.ShouldAllBe(s => s.Says.Length > 0 && s.Sum.Length > 0 && !s.Sum.Contains("NaN", StringComparison.Ordinal));
        }
        foreach (var c in said.Cylinders)
        {
            foreach (var s in c.Suspects)
            {
                Explains(Explanation.Ask(s), c.Cylinder);
                foreach (var e in s.Evidence)
                {
                    Explains(Explanation.Ask(s, e), c.Cylinder);
                }
            }
        }
        said.Suspects.ToList().ForEach(s => Explains(Explanation.Ask(s)));
        said.Spread.ToList().ForEach(s => Explains(Explanation.Ask(s)));
        said.Next.ToList().ForEach(t => Explains(Explanation.Ask(t)));
    }

    [Fact]
    public void The_sum_that_is_written_out_comes_to_the_figure_that_is_shown()
    {
        using var _ = new InvariantFigures();
        var said = EngineDiagnosis.Of(Whiteboard.Job("dry 190 188 131 191; leak 3 85 exhaust 3"));
        var lead = said.Cylinders[2].Leading;
        var steps = Explanation.Of(said, Explanation.Ask(lead), 3)!.Steps;
        var shown = double.Parse(steps[^1].Sum.Split('=')[1].Trim(' ', '%'), CultureInfo.InvariantCulture) / 100;
        shown.ShouldBe(lead.Probability, 0.002);
        var sum = steps.Take(steps.Count - 3).Sum(s => double.Parse(s.Sum.Replace('−', '-').Replace(" dB", "", StringComparison.Ordinal), CultureInfo.InvariantCulture));
        sum.ShouldBe(10 * Math.Log10(lead.Probability / (1 - lead.Probability)), 0.06);
    }

    [Fact]
    public void A_reading_is_set_against_what_the_fault_and_a_sound_cylinder_predict()
    {
        using var _ = new InvariantFigures();
        var said = EngineDiagnosis.Of(Whiteboard.Job("dry 190 188 131 191; leak 3 85 exhaust 3"));
        var valve = said.Cylinders[2].Suspects.First(s => s.Fault == Fault.ExhaustValve);
        var dry = Explanation.Of(said, Explanation.Ask(valve, valve.Evidence.First(e => e.Finding == "dry")), 3)!;
        dry.Steps[0].Sum.ShouldBe("ln(131.0 / 190.5 psi) = −0.374");
        dry.Steps[1].Says.ShouldStartWith("the exhaust valve");
        dry.Steps[2].Says.ShouldStartWith("sound");
        Explanation.Of(said, Explanation.Ask(said.Spread.First(s => s.Method == SpreadMethod.PercentOfHighest)), 3)!.Steps[0].Sum.ShouldBe("(highest − lowest) / highest = (191 − 131) / 191 = 31.4 %");
    }

    [Theory]
    [InlineData(null, 1)]
    [InlineData("", 1)]
    [InlineData("suspect:", 1)]
    [InlineData("suspect:dragons", 1)]
    [InlineData("line:dry", 1)]
    [InlineData("line:nothing:rings", 1)]
    [InlineData("next:dragons", 1)]
    [InlineData("suspect:sound", 0)]
    [InlineData("suspect:sound", 5)]
    public void What_is_not_shown_is_not_explained(string? ask, int cylinder) => Explanation.Of(EngineDiagnosis.Of(Whiteboard.Job("dry 190 188 131 191")), ask, cylinder).ShouldBeNull();

    private sealed class InvariantFigures : IDisposable
    {
        private readonly CultureInfo before = CultureInfo.CurrentCulture;

        public InvariantFigures() => CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;

        public void Dispose() => CultureInfo.CurrentCulture = before;
    }
}
