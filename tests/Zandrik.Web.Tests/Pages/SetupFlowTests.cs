using OpenQA.Selenium;

namespace Zandrik.Web.Tests.Pages;

/// <summary>A shop's first hour: from an empty database to the first signed verdict, by what the screens say.</summary>
public sealed class SetupFlowTests : IAsyncLifetime
{
    private readonly Site empty = new() { Demo = false };
    private readonly Browser browser = new() { As = null };

    public async ValueTask InitializeAsync() => await empty.InitializeAsync();

    public async ValueTask DisposeAsync()
    {
        browser.Dispose();
        await empty.DisposeAsync();
    }

    private void Go(string next)
    {
        browser.Click(".form-end .btn-primary");
        browser.UntilText("#setup-title", next);
    }

    private void Welcome()
    {
        browser.Open($"{empty.Address}/welcome/{empty.FirstLink}");
        browser.Type("#name", "R. Tarn");
        browser.Type("#login", "tarn");
        browser.Type("#password", "three wet plugs");
        browser.Type("#again", "three wet plugs");
        browser.Click("form .btn-primary");
        browser.UntilText("#setup-title", "What is the shop called?");
    }

    [Fact]
    public void From_the_first_link_to_the_first_signed_verdict()
    {
        Welcome();
        browser.Texts(".setup-steps .is-done .setup-step").ShouldBe(["✓Foreman R. Tarn"]);
        browser.Type("#name", "Skarn Marine & Motor");
        browser.Type("#time-zone", "Nowhere/Land");
        browser.Click(".form-end .btn-primary");
        browser.UntilText("#time-zone-problem", "Choose one of the list");
        browser.Value("#name").ShouldBe("Skarn Marine & Motor");
        browser.Type("#time-zone", "Atlantic/Faroe");
        Go("What do your gauges read?");
        browser.Click("input[name='Form.Unit'][value=bar]");
        browser.Send("#numbers", "14,1");
        Go("Which limit decides?");
        browser.Click("input[name='Form.Deciding'][value=around-the-mean]");
        browser.Violations().ShouldBeEmpty();

        // Left in the middle, it is gone on with from the bays.
        browser.Click(".page-head .btn");
        browser.UntilText(".setup-note", "4 steps are left: next limits.");
        browser.Click(".setup-note .btn-primary");
        browser.UntilText("#setup-title", "Which limit decides?");
        browser.Click("input[name='Form.Deciding'][value=around-the-mean]");
        Go("Your first tester");
        browser.Click(".form-end .btn-primary");
        browser.UntilText("#label-problem", "Say what the shop calls it.");
        browser.Type("#label", "Gauge 1");
        browser.Type("#full-scale", "20");
        Go("Your first engine sheet");
        browser.Type("#engine-name", "Tarn 1.4 inline four");
        browser.Type("#minimum", "10,5");
        browser.Click(".form-end .btn-primary");
        browser.UntilText("#preset-problem", "Choose how its cylinders sit.");
        browser.Value("#minimum").ShouldBe("10,5");
        browser.Send("#preset", "Inline four");
        Go("A sample job to look at?");
        Go("Ready");
        browser.Texts(".setup-facts li").ShouldBe(["Shop: Skarn Marine & Motor, Atlantic/Faroe", "Pressures: bar", "Spread decided by: Around the mean", "Testers: Gauge 1", "Engine sheets: Tarn 1.4 inline four", "Sample job: on, job 0001"]);
        browser.Open(empty.Address + "/");
        browser.All(".setup-note").ShouldBeEmpty("nobody is asked any more");
        browser.Text(".bays").ShouldContain("Sample, job 0001");
        browser.Open(empty.Address + "/jobs/1/plan");
        browser.UntilText("[data-sample]", "made-up readings");

        // The first job of its own, with the sheet and the gauge of the set-up.
        browser.Open(empty.Address + "/jobs/new");
        browser.Type("#vehicle", "Pilot boat 2");
        browser.Send("#sheet", "Tarn 1.4");
        browser.Until("the sheet fills the engine in", () => browser.Value("#firing-order") == "1-3-4-2");
        browser.Click(".form-end button");
        browser.FromPlanToDry();
        foreach (var (cylinder, figure) in new[] { (1, "13,2"), (2, "13,1"), (3, "6,0"), (4, "13,3") })
        {
            browser.UntilText("#pad-title", $"cylinder {cylinder}");
            browser.Press(figure + Keys.Enter);
        }
        browser.UntilText("[data-card-headline]", "Cylinder 3");
        browser.Open(browser.Url.Replace("/dry", "/verdict", StringComparison.Ordinal).Split('?')[0]);
        browser.UntilText("[data-says]", "Cylinder 3");
        browser.Click("form[action*=Agree] button");
        browser.UntilText("[data-sure]", "Sign this as R. Tarn?");
        browser.Click("[data-sure] button");
        browser.UntilText("#stamp-title", "Signed: version 1");
        browser.Complaints().Where(c => !c.Contains("422", StringComparison.Ordinal)).ShouldBeEmpty();
    }

    [Fact]
    public void Every_step_can_be_skipped_and_the_sample_taken_off_again()
    {
        Welcome();
        foreach (var next in new[] { "What do your gauges read?", "Which limit decides?", "Your first tester", "Your first engine sheet", "A sample job to look at?", "Ready" })
        {
            browser.Click(".form-end .btn-outline-primary");
            browser.UntilText("#setup-title", next);
        }
        browser.Text(".setup-facts").ShouldContain("Sample job: off");
        browser.Open(empty.Address + "/tour");
        browser.UntilText("main", "There is no job to show yet");
        browser.Click("main .btn-primary");
        browser.UntilText("#setup-title", "A sample job to look at?");
        browser.Click("[name=sample][value=true]");
        Go("Ready");
        browser.Open(empty.Address + "/tour");
        browser.UntilText(".tour-place", "1 of");
        browser.Open(empty.Address + "/setup/sample");
        browser.Click("[name=sample][value=false]");
        Go("Ready");
        browser.Text(".setup-facts").ShouldContain("Sample job: off");
        browser.Open(empty.Address + "/jobs");
        browser.UntilText("main", "No job like that");
    }
}
