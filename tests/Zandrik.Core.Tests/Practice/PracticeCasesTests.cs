using Zandrik.Core.Practice;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Practice;

public sealed class PracticeCasesTests
{
    public static TheoryData<int> Numbers => [.. Enumerable.Range(1, PracticeCases.Count)];

    [Fact]
    public void There_are_at_least_forty_over_every_theme_and_level()
    {
        PracticeCases.Count.ShouldBeGreaterThanOrEqualTo(40);
        var all = PracticeCases.All.ToList();
        foreach (var theme in Enum.GetValues<PracticeTheme>())
        {
            foreach (var level in Enum.GetValues<PracticeLevel>())
            {
                all.Count(c => c.Theme == theme && c.Level == level).ShouldBe(2, $"{theme} {level}");
            }
        }
        all.Select(c => c.Intake.Vehicle!.Label).Distinct().Count().ShouldBe(PracticeCases.Count);
        all.Select(c => c.Trap).Distinct().Count().ShouldBe(5, "every way in which a test goes wrong");
        PracticeCases.Find(0).ShouldBeNull();
        PracticeCases.Find(PracticeCases.Count + 1).ShouldBeNull();
    }

    [Theory]
    [MemberData(nameof(Numbers))]
    public void Each_has_a_shortest_good_way_that_tells_what_is_hidden(int number)
    {
        var exercise = PracticeCases.Find(number)!;
        exercise.Truths.Count.ShouldBe(exercise.Theme switch { PracticeTheme.NothingWrong or PracticeTheme.TestErrors => 0, PracticeTheme.TwoFaults => 2, _ => 1 });
        RecordRules.Check(exercise.Intake).ShouldBeEmpty();
        var way = PracticeWay.Of(exercise).ShouldNotBeNull();
        way.Minutes.ShouldBeInRange(20, 150);
        way.Steps[0].Kind.ShouldBe(StepKind.Prepare);
    }

    [Fact]
    public void The_same_number_is_the_same_exercise_however_often_it_is_drawn()
    {
        var exercise = PracticeCases.Find(15)!;
        var stand = PracticeStand.Ready;
        PracticeBench.Crank(exercise, stand, 2, 7, 0).PulsesPa.ShouldBe(PracticeBench.Crank(exercise, stand, 2, 7, 0).PulsesPa);
        PracticeBench.Crank(exercise, stand, 2, 7, 1).FinalPa.ShouldNotBe(PracticeBench.Crank(exercise, stand, 2, 7, 0).FinalPa, "two readings of a cylinder are never quite alike");
        // Held to a figure: whoever discusses it tomorrow has the same engine.
        Math.Round(PracticeBench.Crank(exercise, stand, 2, 7, 0).FinalPa / 6894.757).ShouldBe(196);
    }
}
