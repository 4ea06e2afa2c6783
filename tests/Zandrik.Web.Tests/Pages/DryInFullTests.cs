using System.Text.Json.Nodes;
using OpenQA.Selenium;

namespace Zandrik.Web.Tests.Pages;

/// <summary>The dry test as a workshop does it: gauges with a check, counts, pump-up, orders, cold and warm.</summary>
public sealed class DryInFullTests : IClassFixture<Site>, IDisposable
{
    private readonly Site site;
    private readonly Browser browser = new();

    public DryInFullTests(Site site) => this.site = site;

    private string[] Figures => browser.Texts(".columns .reading");

    private string OpenJob(string vehicle) => browser.OpenJob(site, vehicle);

    private void Enter(params string[] figures)
    {
        foreach (var figure in figures)
        {
            browser.Press(figure + Keys.Enter);
        }
        browser.UntilText("#pad-message", $"{figures[^1]} psi saved");
    }

    private async Task<JsonNode> RecordAsync(string address) =>
        JsonNode.Parse(await site.Api.GetStringAsync(new Uri($"/api/v1{address.Replace("/dry", "/record", StringComparison.Ordinal)}", UriKind.Relative), TestContext.Current.CancellationToken))!;

    [Fact]
    public async Task A_gauge_that_reads_low_is_corrected_by_its_check_and_the_verdict_with_it()
    {
        var job = OpenJob("Brass gauge");
        Enter("145", "146", "144", "145");
        browser.UntilText(".headline", "under the minimum");
        browser.Send("select[name=tester]", "Old brass");
        browser.UntilText(".conditions", "Readings are corrected by its check. Check due.");
        browser.UntilText(".headline", "under the nominal of 205");
        Figures.ShouldBe(["145", "146", "144", "145"], "what was read stays as it was read");
        browser.UntilText(".picture-note", "by the gauge's check");
        browser.Script("document.querySelector('.numbers').open = true");
        browser.Text(".numbers tbody tr:first-child").ShouldContain("153");
        browser.Violations().ShouldBeEmpty();
        var dry = (await RecordAsync(job))["tests"]![0]!;
        ((double)dry["readings"]![0]!["value"]!).ShouldBe(145);
        ((double)dry["readings"]![0]!["corrected"]!).ShouldBe(152.7, 0.05);

        // Another gauge from here on: the readings taken keep theirs, until somebody says otherwise.
        browser.Press(Keys.Tab);
        browser.Click("#pad-value");
        browser.Press("147" + Keys.Enter);
        browser.Click("#pad-ask button:last-child");
        browser.UntilText("#pad-message", "147 psi saved");
        browser.Send("select[name=tester]", "Gauge 2");
        browser.UntilText(".question", "with Gauge 2 too");
        browser.Click(".conditions form.question button");
        browser.Until("all are the new gauge's", () => browser.All(".conditions form.question").Count == 0);
        browser.UntilText(".headline", "under the minimum");
    }

    [Fact]
    public async Task A_tester_is_added_with_a_slip_on_the_way_and_is_there_for_the_next_test()
    {
        browser.Open(site.Address + "/testers/new");
        browser.Type("#label", "Gauge 2");
        browser.Script("document.querySelector('#checked-on').value = '2026-02-01'");
        foreach (var (i, reads, truly) in new[] { (1, "100", "99"), (2, "200", "98") })
        {
            browser.Type($".check-points tr:nth-child({i}) [name='Form.Reads']", reads);
            browser.Type($".check-points tr:nth-child({i}) [name='Form.Is']", truly);
        }
        browser.Click(".form-end button");
        browser.UntilText("#points-problem", "contradict each other");
        browser.Type(".check-points tr:nth-child(2) [name='Form.Is']", "198");
        browser.Click(".form-end button");
        browser.UntilText("#label-problem", "Another tester has that name");
        browser.Violations().ShouldBeEmpty();
        browser.Type("#label", "Gauge 9");
        browser.Click(".form-end button");
        browser.UntilText("main", "Gauge 9");
        browser.Text("main").ShouldContain("Check due since 2026-03-04");
        OpenJob("With gauge 9");
        browser.Send("select[name=tester]", "Gauge 9");
        browser.UntilText(".conditions", "Gauge 9: checked 2026-02-01");

        // A technician sees testers and changes none; another shop's are not there.
        using var technician = await SignedIn.ClientAsync(site.Address, "hallan");
        (await technician.GetAsync(new Uri("/testers/new", UriKind.Relative), TestContext.Current.CancellationToken)).StatusCode.ShouldBe(System.Net.HttpStatusCode.Forbidden);
        (await technician.GetStringAsync(new Uri("/testers/1", UriKind.Relative), TestContext.Current.CancellationToken)).ShouldContain("<fieldset class=\"bare\" disabled");
        (await technician.GetAsync(new Uri("/testers/9999", UriKind.Relative), TestContext.Current.CancellationToken)).StatusCode.ShouldBe(System.Net.HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task Counts_volts_and_the_pump_up_curve_go_with_the_reading()
    {
        var job = OpenJob("Pumped up");
        Enter("205");
        browser.Press(Keys.ArrowLeft);
        browser.UntilText("#pad-title", "cylinder 1");
        browser.Click("#more summary");
        browser.Type("#more [name=PumpUp]", "108 160 150");
        browser.Click("#more .btn-primary");
        browser.UntilText("#details-problem", "never falls while cranking");
        browser.Value("#more [name=PumpUp]").ShouldBe("108 160 150");
        browser.Type("#more [name=PumpUp]", "108 160 186 198 205");
        browser.Type("#more [name=BatteryV]", "10,9");
        browser.Click("#more .btn-primary");
        browser.UntilText("#pad-message", "noted");
        browser.Find(".pump-up").GetAttribute("aria-label").ShouldBe("Pump-up: 108, 160, 186, 198, 205 psi");
        browser.Violations().ShouldBeEmpty();
        var reading = (await RecordAsync(job))["tests"]![0]!["readings"]![0]!;
        ((int)reading["pulses"]!, (double)reading["firstPulse"]!, (double)reading["batteryV"]!).ShouldBe((5, 108, 10.9));
        ((double)reading["value"]!).ShouldBe(205);

        // What is noted waits for the network like a reading, and the order of the two is kept.
        browser.Network(on: false);
        browser.Type("#more [name=Seconds]", "4");
        browser.Click("#more .btn-primary");
        browser.UntilText("#outbox", "No network. One entry waits");
        browser.Network(on: true);
        browser.Until("it is sent", () => !browser.Find("#outbox").Displayed);
        ((double)(await RecordAsync(job))["tests"]![0]!["readings"]![0]!["seconds"]!).ShouldBe(4);
    }

    [Fact]
    public async Task What_is_noted_goes_with_its_reading_and_a_struck_one_stays_on_record()
    {
        var job = OpenJob("Cranked too short");
        browser.Click("#more summary");
        browser.Type("#more [name=Pulses]", "3");
        browser.Click("#pad-value");
        Enter("120");
        browser.Press(Keys.ArrowLeft);
        browser.UntilText(".taken", "3 compressions");
        browser.Click("#pad-value");
        browser.Press("150r");
        browser.UntilText("#pad-message", "150 psi saved");
        browser.Press(Keys.ArrowLeft);
        browser.UntilText(".taken li:first-child", "150 psi");
        browser.Value("#more [name=Pulses]").ShouldBe("", "nobody counted this one");
        browser.Click(".taken li:nth-child(2) .strike summary");
        browser.Click(".taken li:nth-child(2) .strike button");
        browser.UntilText("#pad-message", "120 psi struck out");
        browser.UntilText(".taken li:nth-child(2)", "struck out: cranked too short");
        browser.Violations().ShouldBeEmpty();
        var reading = (await RecordAsync(job))["tests"]![0]!["readings"]![0]!;
        ((double)reading["value"]!, reading["pulses"]).ShouldBe((150, null));
        reading["repeats"]!.ToJsonString().ShouldBe("""[{"value":120,"pulses":3,"struck":{"reason":"cranked-too-short"}}]""");

        // With the other one struck out too the cylinder is open again, and the reason is asked for.
        browser.Click(".taken li:first-child .strike summary");
        browser.Send(".taken li:first-child select[name=reason]", "other");
        browser.Click(".taken li:first-child .strike button");
        browser.UntilText("#strike-problem", "Say in a few words");
        browser.Script("document.querySelector('.taken li:first-child .strike').open = true");
        browser.Send(".taken li:first-child select[name=reason]", "other");
        browser.Type(".taken li:first-child [name=words]", "battery lead fell off");
        browser.Click(".taken li:first-child .strike button");
        browser.UntilText(".taken li:first-child", "battery lead fell off");
        Figures.ShouldAllBe(f => f == "" || f == "–", "nothing counts");
    }

    [Fact]
    public async Task How_it_is_tested_waits_for_the_network_and_only_what_was_tapped_is_sent()
    {
        var job = OpenJob("Conditions offline");
        Enter("150");
        browser.Network(on: false);
        browser.Send("select[name=Throttle]", "seen open");
        browser.UntilText("#outbox", "No network. One entry waits");
        browser.Network(on: true);
        browser.Until("it is sent", () => !browser.Find("#outbox").Displayed);
        ((string)(await RecordAsync(job))["tests"]![0]!["conditions"]!["throttle"]!).ShouldBe("open");
        // Another person's battery, set meanwhile, is not undone by a tap that did not touch it.
        using var other = await SignedIn.ClientAsync(site.Address, "hallan");
        (await other.PostFormAsync($"{job}?handler=Conditions", ("Battery", "charger"))).IsSuccessStatusCode.ShouldBeTrue();
        browser.Send("select[name=Plugs]", "all out");
        browser.Find(".condition.noted select[name=Plugs]");
        var conditions = (await RecordAsync(job))["tests"]![0]!["conditions"]!;
        ((string)conditions["throttle"]!, (string)conditions["battery"]!, (string)conditions["plugs"]!).ShouldBe(("open", "charger", "all-out"));
        // Something was read before: who put what right is said where it was put right.
        browser.Click("details.changes summary");
        browser.UntilText("[data-changes]", "M. Ostrel: Throttle: not noted, now seen open.");
        browser.UntilText("[data-changes]", "T. Hallan: Battery: not noted, now on charger.");
        browser.Type("[name=count]", "6");
        browser.Press(Keys.Tab);
        browser.UntilText("#pad-message", "6 compressions each");
        ((int)(await RecordAsync(job))["tests"]![0]!["count"]!).ShouldBe(6);
    }

    [Fact]
    public void More_than_an_engine_reads_is_asked_about_before_it_is_saved()
    {
        OpenJob("A nought too many");
        browser.Press("1500" + Keys.Enter);
        browser.UntilText("#pad-ask", "1500 psi is more than an engine of this fuel reads (at most 420 psi)");
        Figures.ShouldAllBe(f => f == "–" || f == "");
        browser.Click("#pad-ask button:first-of-type");
        browser.Press("150" + Keys.Enter);
        browser.UntilText("#pad-message", "150 psi saved");
    }

    [Fact]
    public void A_gauge_check_compares_gauges_and_judges_no_cylinder()
    {
        var job = OpenJob("Two gauges");
        browser.Send("select[name=tester]", "Gauge 2");
        browser.UntilText("#pad-message", "Measured with Gauge 2");
        browser.Click("#pad-value");
        Enter("150", "152", "151", "149");
        browser.Click(".rail-again button");
        browser.Until("a second test", () => browser.All(".rail-tests li").Count == 2);
        browser.Send("select[name=tester]", "Old brass");
        browser.UntilText("#pad-message", "Measured with Old brass");
        browser.Send("select[name=role]", "is a gauge check");
        browser.UntilText(".headline", "A gauge check: it compares gauges, and no cylinder is judged by it.");
        browser.Click("#pad-value");
        Enter("142");
        browser.UntilText("[data-gauges]", "Old brass gauge and Gauge 2 agree on cylinder 1, corrected by the last check.");
        browser.Violations().ShouldBeEmpty();
        // The bench opens on the test that judges.
        browser.Open(site.Address + job);
        Figures.ShouldBe(["150", "152", "151", "149"]);
        browser.Text(".rail-tests").ShouldContain("Old brass gauge · gauge check");
    }

    [Fact]
    public void A_barometer_brings_readings_to_sea_level_and_one_that_is_none_says_so()
    {
        OpenJob("High workshop");
        Enter("141", "142", "140", "141");
        browser.UntilText(".headline", "under the minimum");
        browser.Send("[name=BarometricKPa]", "high" + Keys.Enter);
        browser.UntilText("#barometer-problem", "from 40 to 115");
        browser.Value("[name=BarometricKPa]").ShouldBe("high");
        browser.Type("[name=BarometricKPa]", "84,1");
        browser.Send("[name=BarometricKPa]", Keys.Enter);
        browser.UntilText(".headline", "under the nominal of 205");
        browser.UntilText(".picture-note", "at sea level");
    }

    [Fact]
    public void The_pad_follows_the_order_of_testing_that_was_chosen()
    {
        OpenJob("In firing order");
        browser.Type("[name=order]", "1-3-4");
        browser.Click(".order-form button");
        browser.UntilText("#order-problem", "2 is missing");
        browser.Value("[name=order]").ShouldBe("1-3-4");
        browser.Type("[name=order]", "4 3 2 1");
        browser.Click(".order-form button");
        browser.UntilText("#pad-title", "cylinder 4");
        browser.Click("#pad-value");
        browser.Press($"201{Keys.Enter}202{Keys.Enter}");
        browser.UntilText("#pad-message", "202 psi saved");
        browser.UntilText("#pad-title", "cylinder 2");
        Figures.ShouldBe(["", "", "202", "201"]);
    }

    [Fact]
    public async Task Two_people_crank_and_count_and_the_count_stands_on_the_reading()
    {
        var job = OpenJob("Caller");
        Enter("205");
        using var phone = new Browser { As = "hallan" };
        phone.Size(390, 844, touch: true);
        phone.Open(site.Address + job.Replace("/dry", "/caller?cylinder=1", StringComparison.Ordinal));
        phone.Violations().ShouldBeEmpty();
        for (var i = 0; i < 6; i++)
        {
            phone.Click("[data-tap]");
        }
        phone.UntilText("[data-keep]", "Save 6 for cylinder 1");
        phone.Click("[data-keep]");
        phone.UntilText("[data-says]", "Cylinder 1: 6 saved.");
        phone.Text("[data-shown]").ShouldBe("2");
        browser.Script("document.querySelector('.numbers').open = true");
        browser.UntilText(".numbers tbody tr:first-child", "6 ·");
        ((int)(await RecordAsync(job))["tests"]![0]!["readings"]![0]!["pulses"]!).ShouldBe(6);
    }

    [Fact]
    public void Cold_and_warm_stand_side_by_side_and_the_test_before_is_a_ghost()
    {
        OpenJob("Cold and warm");
        browser.Send("select[name=EngineTemperature]", "cold");
        browser.UntilText(".notes", "Tested cold");
        browser.Click("#pad-value");
        Enter("150", "200", "201", "199");
        browser.Click(".rail-again button");
        browser.UntilText(".rail-tests", "Dry test 2");
        browser.Send("select[name=EngineTemperature]", "warm");
        browser.Until("it is warm", () => !browser.Text(".says").Contains("Tested cold", StringComparison.Ordinal));
        browser.Click("#pad-value");
        Enter("180", "205", "204", "206");
        browser.UntilText(".hot-cold", "+20 %");
        browser.All(".columns .ghost").Count.ShouldBe(4);
        browser.Violations().ShouldBeEmpty();

        // And on the next job of the same vehicle.
        OpenJob("Cold and warm");
        browser.All(".columns .ghost").Count.ShouldBe(4);
        browser.UntilText(".picture-note", "The test before this one");
    }

    public void Dispose() => browser.Dispose();
}
