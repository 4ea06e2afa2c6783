using System.Net;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Web.Front;

namespace Zandrik.Web.Tests.Front;

public sealed class WarmUpTests(Site site) : IClassFixture<Site>
{
    [Fact]
    public void The_job_is_one_that_can_be_judged_and_goes_through_every_kind_of_evidence()
    {
        var said = EngineDiagnosis.Of(WarmUp.Job);
        said.Cylinders[2].Leading.Fault.ShouldBe(Fault.ExhaustValve);
        string[] findings = ["base-rate", "observations", "dry", "relative", "leak-down-amount", "leak-down-heard", "wet-excess-gain", "running", "combustion-gas"];
        said.Cylinders.SelectMany(c => c.Suspects).SelectMany(s => s.Evidence).Select(e => e.Finding).Where(f => f != "small-findings").Distinct().ShouldBe(findings, ignoreOrder: true);
    }

    [Fact]
    public async Task The_server_is_ready_once_it_went_through_a_page_a_bench_and_a_judgement()
    {
        var cancel = TestContext.Current.CancellationToken;
        HttpStatusCode status;
        do
        {
            using var answer = await site.Api.GetAsync(new Uri("/health/ready", UriKind.Relative), cancel);
            status = answer.StatusCode;
            // Before it is done nobody is told that it is.
            (status == HttpStatusCode.OK && !WarmUp.IsDone).ShouldBeFalse();
        }
        while (status != HttpStatusCode.OK);
        WarmUp.Trouble.ShouldBeNull("it went through");
    }
}
