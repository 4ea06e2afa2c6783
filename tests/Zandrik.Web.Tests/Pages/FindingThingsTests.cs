using System.Text.Json.Nodes;
using OpenQA.Selenium;

namespace Zandrik.Web.Tests.Pages;

/// <summary>Engine sheets, vehicles, and finding them again.</summary>
public sealed class FindingThingsTests : IClassFixture<Site>, IDisposable
{
    private readonly Site site;
    private readonly Browser browser = new();

    public FindingThingsTests(Site site) => this.site = site;

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private async Task<JsonNode> RecordAsync() =>
        JsonNode.Parse(await site.Api.GetStringAsync(new Uri($"/api/v1{new Uri(browser.Url).AbsolutePath.Replace("/dry", "/record", StringComparison.Ordinal)}", UriKind.Relative), Cancel))!;

    [Fact]
    public async Task A_sheet_fills_a_new_job_in_and_changing_it_later_leaves_that_job_alone()
    {
        browser.Open(site.Address + "/engines/new");
        browser.Type("#name", "Skerry 1.6 four");
        browser.Type("#cylinders", "4");
        browser.Type("#firingOrder", "1-3-4-4");
        browser.Type("#nominal", "190");
        browser.Type("#minimum", "140");
        browser.Type("#access", "Cover off = 3\nCoils = 6");
        browser.Click(".form-end button");
        browser.UntilText("#firingOrder-problem", "2 is missing");
        browser.Value("#access").ShouldContain("Coils = 6");
        browser.Violations().ShouldBeEmpty();
        browser.Type("#firingOrder", "1-3-4-2");
        browser.Click(".form-end button");
        browser.UntilText("#sheets", "Skerry 1.6 four");

        browser.Open(site.Address + "/jobs/new");
        browser.Type("#vehicle", "Skerry pickup");
        browser.Send("#sheet", "Skerry");
        browser.Until("the sheet fills the engine in", () => browser.Value("#minimum") == "140");
        browser.Click(".form-end button");
        browser.FromPlanToDry();
        var job = browser.Url;
        ((string)(await RecordAsync())["engine"]!["name"]!).ShouldBe("Skerry 1.6 four");

        browser.Open(site.Address + "/engines?q=skerry");
        browser.Click("#sheets a.bay-link");
        browser.Type("#minimum", "185");
        browser.Click(".form-end button");
        browser.UntilText("#sheets", "version 2");
        browser.Open(job);
        browser.Find("#pad-value");
        ((double)(await RecordAsync())["engine"]!["spec"]!["minimum"]!).ShouldBe(140);
    }

    [Fact]
    public async Task An_engine_is_swapped_with_a_date_and_its_readings_go_with_it()
    {
        async Task<int> JobAsync(string vehicle, string? serial, DateTimeOffset at, double figure)
        {
            var record = new JsonObject
            {
                ["vehicle"] = new JsonObject { ["label"] = vehicle },
                ["engine"] = new JsonObject { ["cylinders"] = 1, ["name"] = "Skerry single", ["serial"] = serial },
                ["tests"] = new JsonArray(new JsonObject { ["kind"] = "compression-dry", ["unit"] = "psi", ["at"] = at, ["readings"] = new JsonArray(new JsonObject { ["cylinder"] = 1, ["value"] = figure }) }),
            };
            if (serial is null)
            {
                record["engine"]!.AsObject().Remove("serial");
            }
            return await site.JobAsync(record.ToJsonString());
        }
        var today = DateTimeOffset.UtcNow;
        var before = await JobAsync("Hay wagon", null, today.AddDays(-60), 151);
        await JobAsync("Hay wagon", null, today.AddDays(-1), 160);
        // It came out in between, and nobody had said so when the second job was written down.
        browser.Open($"{site.Address}/jobs/{before}/intake");
        browser.Unfold();
        browser.Type("#serial", "HW-1");
        browser.Click(".intake .form-end button");
        browser.Find("#pad-value");
        browser.Open(site.Address + "/search?q=hay+wagon");
        browser.Click("a[href^='/vehicles/']:not([href$='vehicles'])");
        browser.UntilText("[data-stay]", "HW-1");
        browser.UntilText("[data-stay]", "2 jobs");
        browser.Click("details.swap summary");
        browser.Script("document.querySelector('#day').value = ''");
        browser.Click("details.swap button");
        browser.UntilText("#day-problem", "Pick a date");
        browser.Script($"document.querySelector('#day').value = '{today.AddDays(-30):yyyy-MM-dd}'");
        browser.Type("#in", "HW-2");
        browser.Violations().ShouldBeEmpty();
        browser.Click("details.swap button");
        browser.UntilText(".done-note", "Swap saved.");
        browser.Texts("[data-stay]").ShouldSatisfyAllConditions(s => s[0].ShouldContain("HW-2"), s => s[0].ShouldContain("1 job"), s => s[1].ShouldContain("fitted until"), s => s.Length.ShouldBe(2));
        // The old one is put into another vehicle: there its own readings stand behind the columns.
        await JobAsync("Hay tractor", "HT-1", today.AddDays(-90), 200);
        browser.Open(site.Address + "/search?q=hay+tractor");
        browser.Click("a[href^='/vehicles/']:not([href$='vehicles'])");
        browser.Click("details.swap summary");
        browser.Type("#in", "HW-2");
        browser.Click("details.swap button");
        browser.UntilText("[data-refused]", "is fitted in Hay wagon");
        browser.Value("#in").ShouldBe("HW-2");
        browser.Type("#in", "HW-1");
        browser.Click("details.swap button");
        browser.UntilText(".done-note", "Swap saved.");
        browser.Click("[data-stay] a");
        browser.UntilText("h1", "HW-1");
        browser.All("[data-stay]").Count.ShouldBe(2);
        browser.Violations().ShouldBeEmpty();
        browser.Click(".page-head .btn-primary");
        browser.Until("the intake begins with the engine that sits there", () => browser.Value("#serial") == "HW-1");
        browser.Click(".form-end button");
        browser.FromPlanToDry();
        browser.All(".columns .ghost").Count.ShouldBe(1);
    }

    [Fact]
    public void A_vehicle_is_found_as_one_types_and_its_next_job_starts_from_the_last()
    {
        browser.Open(site.Address + "/");
        browser.Send("#finder", "island ta");
        browser.UntilText("#finder-found", "Island taxi 3");
        browser.Violations().ShouldBeEmpty();
        browser.Press(Keys.ArrowDown + Keys.ArrowDown);
        browser.Press(Keys.Enter);
        browser.UntilText("h1", "Island taxi 3");
        browser.Type("#identity", "QF 3-003");
        browser.Click("main form .btn");
        browser.UntilText(".done-note", "Saved.");
        browser.Click(".page-head .btn-primary");
        browser.Until("the name is there", () => browser.Value("#vehicle") == "Island taxi 3");
        browser.Value("#cylinders").ShouldBe("4");
        browser.Value("#odometer").ShouldBe("");
        browser.Open(site.Address + "/vehicles?q=3-003");
        browser.Text("main").ShouldContain("Island taxi 3");
    }

    [Fact]
    public void Jobs_are_filtered_by_state_person_day_and_words()
    {
        browser.Open(site.Address + "/jobs?state=closed");
        browser.Text("tbody").ShouldContain("Pier sweeper");
        browser.Text("tbody").ShouldNotContain("School minibus");
        browser.Open(site.Address + "/jobs?from=2025-05-01&to=2025-05-31");
        browser.All("tbody tr").Count.ShouldBe(1);
        browser.Open(site.Address + "/jobs?q=ticks+when");
        browser.Text("tbody").ShouldContain("Pier sweeper");
        browser.Open(site.Address + "/jobs?q=ticks+when&state=open");
        browser.UntilText("main", "No job like that");
        browser.Open(site.Address + "/jobs?from=yesterday");
        browser.UntilText(".field-problem", "year-month-day");
        browser.Open(site.Address + "/");
        browser.Send("#by", "B. Skarre");
        browser.UntilText("main", "No open job of that person");
    }

    [Fact]
    public void A_vehicle_that_was_here_brings_its_engine_and_the_job_is_opened_within_fifteen_stops()
    {
        browser.Open(site.Address + "/jobs/new");
        browser.Type("#vehicle", "Shore van 9");
        browser.Press(Keys.Tab);
        browser.Until("the engine of its last job", () => browser.Value("#cylinders") == "4");
        browser.Text("[data-from-job]").ShouldContain("Shore van 9 was here before");
        browser.Violations().ShouldBeEmpty();

        // One stop for all chips; arrows walk within, the space bar ticks.
        browser.TabTo("[data-roving] input");
        browser.Press(Keys.ArrowRight + " ");
        browser.Find("input[value=misfire-cold]").Selected.ShouldBeTrue();

        browser.Script("document.getElementById('vehicle').focus()");
        var stops = 0;
        do
        {
            browser.Press(Keys.Tab);
            stops++;
        }
        while (stops < 40 && browser.Script("return document.activeElement.matches('.form-end button')") is not true);
        stops.ShouldBeLessThanOrEqualTo(15);
        browser.Press(Keys.Enter);
        browser.UntilText("#plan-title", "In this order");
    }

    public void Dispose() => browser.Dispose();
}
