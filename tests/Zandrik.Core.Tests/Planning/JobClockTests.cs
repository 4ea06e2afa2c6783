using CsCheck;
using Zandrik.Core.Planning;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Planning;

public sealed class JobClockTests
{
    private static readonly DateTimeOffset Nine = new(2026, 3, 2, 9, 0, 0, TimeSpan.Zero);

    private static StepMoment At(StepKind step, double minutes) => new(step, Nine.AddMinutes(minutes));

    [Fact]
    public void Time_between_two_moments_goes_to_the_step_of_the_later_one()
    {
        var spent = JobClock.Spent([At(StepKind.Prepare, 0), At(StepKind.Prepare, 10), At(StepKind.Dry, 14), At(StepKind.Dry, 20)]);
        spent[StepKind.Prepare].ShouldBe(TimeSpan.FromMinutes(10));
        spent[StepKind.Dry].ShouldBe(TimeSpan.FromMinutes(10));
    }

    [Fact]
    public void A_long_pause_was_something_else_and_one_of_twenty_minutes_still_counts()
    {
        JobClock.Spent([At(StepKind.Dry, 0), At(StepKind.Dry, 20)])[StepKind.Dry].ShouldBe(TimeSpan.FromMinutes(20));
        JobClock.Spent([At(StepKind.Dry, 0), At(StepKind.Dry, 20.5), At(StepKind.Dry, 22)])[StepKind.Dry].ShouldBe(TimeSpan.FromMinutes(1.5));
        JobClock.Spent([]).ShouldBeEmpty();
        JobClock.Spent([At(StepKind.Dry, 5)]).ShouldBeEmpty();
    }

    [Fact]
    public void The_order_in_which_moments_are_listed_does_not_matter_and_no_time_is_counted_twice() =>
        Gen.Double[0, 600].Array[0, 30].Sample(minutes =>
        {
            var moments = minutes.Select((m, i) => At(i % 2 == 0 ? StepKind.Dry : StepKind.LeakDown, m)).ToList();
            var forward = JobClock.Spent(moments);
            JobClock.Spent(Enumerable.Reverse(moments)).ShouldBe(forward, ignoreOrder: true);
            var all = minutes.Length == 0 ? 0 : minutes.Max() - minutes.Min();
            forward.Values.Sum(t => t.TotalMinutes).ShouldBeLessThanOrEqualTo(all + 1e-6);
        });
}
