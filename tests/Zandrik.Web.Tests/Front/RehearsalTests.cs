using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Web.Front;

namespace Zandrik.Web.Tests.Front;

public sealed class RehearsalTests
{
    [Fact]
    public void The_job_is_one_that_can_be_judged_and_goes_through_every_kind_of_evidence()
    {
        var said = EngineDiagnosis.Of(Rehearsal.Job);
        said.Cylinders[2].Leading.Fault.ShouldBe(Fault.ExhaustValve);
        string[] findings = ["base-rate", "observations", "dry", "relative", "leak-down-amount", "leak-down-heard", "wet-excess-gain", "running", "combustion-gas"];
        said.Cylinders.SelectMany(c => c.Suspects).SelectMany(s => s.Evidence).Select(e => e.Finding).Where(f => f != "small-findings").Distinct().ShouldBe(findings, ignoreOrder: true);
    }

    [Fact]
    public async Task It_ends_when_the_server_stops_and_by_itself()
    {
        using var stopped = new Rehearsal();
        await stopped.StartAsync(TestContext.Current.CancellationToken);
        await stopped.StopAsync(TestContext.Current.CancellationToken);
        // Stopped before it began or between two rounds: over, and nothing broke.
        (stopped.ExecuteTask!.IsCompleted, stopped.ExecuteTask.IsFaulted).ShouldBe((true, false));
        using var left = new Rehearsal();
        await left.StartAsync(TestContext.Current.CancellationToken);
        await left.ExecuteTask!;
        left.ExecuteTask.IsCompletedSuccessfully.ShouldBeTrue();
    }
}
