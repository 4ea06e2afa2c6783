using OpenQA.Selenium;

namespace Zandrik.Web.Tests.Pages;

/// <summary>The main job in a real browser: from the bays to a verdict on a dry test.</summary>
public sealed class DryFlowTests : IClassFixture<Site>, IDisposable
{
    private readonly Site site;
    private readonly Browser browser = new();

    public DryFlowTests(Site site) => this.site = site;

    private void OpenJob(string vehicle) => browser.OpenJob(site, vehicle);

    // Types a reading and waits for the pad to stand where it should.
    private void Enter(string figure, string thenPad)
    {
        browser.Press(figure + Keys.Enter);
        browser.UntilText("#pad-message", $": {figure} psi saved.");
        browser.UntilText("#pad-title", thenPad);
    }

    private string Headline => browser.Text(".headline").Replace('\u00A0', ' ');

    private string[] Figures => browser.Texts(".columns .reading");

    [Fact]
    public void By_keyboard_only_from_the_bays_to_a_verdict()
    {
        browser.Open(site.Address + "/");
        browser.TabTo("main a.btn-primary");
        browser.Press(Keys.Enter);
        browser.UntilText("h1", "New job");
        browser.Press("Harbour launch 5");
        browser.TabTo("#odometer");
        browser.Press("4210");
        browser.TabTo("select[name='Form.OdometerUnit']");
        browser.Press("h");
        browser.TabTo("#preset");
        browser.Press("Inline four");
        browser.Until("the preset fills the engine in", () => browser.Value("#firing-order") == "1-3-4-2");
        browser.TabTo("#nominal");
        browser.Press("205");
        browser.TabTo("#minimum");
        browser.Press("150");
        browser.TabTo(".form-end button");
        browser.Press(Keys.Enter);
        // A new job opens on its plan, and there with what is begun with.
        browser.UntilText("[data-card-next]", "Start: ");
        browser.TabTo("#rail-steps a[href$='/prepare']");
        browser.Press(Keys.Enter);
        browser.UntilText("#prepare-title", "Before the first crank");
        browser.TabTo("[data-all]");
        browser.Press(Keys.Enter);
        browser.UntilText("[data-says]", "Done, as listed.");
        browser.TabTo("#rail-steps a[href$='/dry']");
        browser.Press(Keys.Enter);
        browser.UntilText("#pad-title", "Dry · cylinder 1");
        browser.All("[data-prepared]").ShouldBeEmpty("asked and answered");

        Enter("205", "cylinder 2");
        browser.Press("86p");
        browser.UntilText("#pad-message", "86 psi saved");
        Enter("163", "cylinder 3");
        Enter("140", "cylinder 4");
        Enter("208", "cylinder 4");
        Headline.ShouldBe("Cylinders 2 and 3, neighbours, read low: 163 and 140 psi where the better ones give 207 psi.");

        // Back to 3, measured again.
        browser.Press(Keys.ArrowLeft);
        browser.UntilText("#pad-title", "Dry · cylinder 3");
        browser.Press("r");
        browser.UntilText("#pad-title", "Again · cylinder 3");
        browser.Press("160" + Keys.Enter);
        browser.UntilText(".repeats", "140");
        Figures.ShouldBe(["205", "163", "160", "208"]);
        browser.Text("[data-method=percent-of-highest]").ShouldContain("23.1 %");
        browser.Text("[data-method=percent-of-highest]").ShouldContain("decides");

        // Once round the units, and back without a digit lost.
        foreach (var (unit, figures) in new[] { ("bar", "14.1 11.2 11.0 14.3"), ("kPa", "1413 1124 1103 1434"), ("kgf/cm²", "14.4 11.5 11.2 14.6"), ("psi", "205 163 160 208") })
        {
            browser.Press("u");
            browser.UntilText(".pad-unit", unit);
            // The pad changes at once, the picture when the server answers.
            browser.Until($"the figures in {unit}", () => string.Join(' ', Figures) == figures);
        }

        browser.Press("z");
        browser.UntilText("#pad-message", "undone");
        Figures.ShouldBe(["205", "163", "140", "208"]);
        browser.Press("t");
        browser.Until("the table opens", () => browser.Find(".numbers table").Displayed);
        browser.Text(".numbers tbody tr:nth-child(2)").ShouldContain("86");
        browser.Press("?");
        browser.Until("the keys are shown", () => browser.Find("#key-help dl").Displayed);
        browser.Complaints().ShouldBeEmpty();
    }

    [Fact]
    public void By_touch_only_on_a_phone_with_the_picture_and_the_pad_first()
    {
        browser.Size(390, 844, touch: true);
        OpenJob("Pier van, by touch");
        void Tap(string figure, string button, string thenPad)
        {
            foreach (var digit in figure)
            {
                browser.Click($"[data-type='{digit}']");
            }
            browser.Click(button);
            browser.UntilText("#pad-title", thenPad);
        }
        browser.Find("#pad-value").GetAttribute("inputmode").ShouldBe("none", "the system's keyboard would cover the pad");
        Tap("2055", "[data-type=back]", "cylinder 1");
        Tap("", "[data-enter]", "cylinder 2");
        Tap("201", "[data-enter]", "cylinder 3");
        Tap("199.5", "[data-enter]", "cylinder 4");
        Tap("203", "[data-enter]", "cylinder 4");
        browser.Until("all four read", () => Figures.SequenceEqual(["205", "201", "199.5", "203"]));
        // A figure shows before it is kept; the headline is the server's.
        browser.Until("all four are judged", () => Headline == "Even and above the minimum: nothing here says a cylinder leaks.");

        browser.Click(".columns a:nth-of-type(2)");
        browser.UntilText("#pad-title", "cylinder 2");
        Tap("202", "[data-again]", "cylinder 2");
        browser.UntilText(".repeats", "201");
        browser.Click(".taken-acts > form button");
        browser.Until("the first figure counts again", () => Figures[1] == "201");

        ((long)browser.Script("return document.documentElement.scrollWidth")!).ShouldBeLessThanOrEqualTo(390);
        browser.Script("return document.querySelector('.pad').getBoundingClientRect().top - document.querySelector('.picture').getBoundingClientRect().top > 0 && document.querySelector('.says').getBoundingClientRect().top > document.querySelector('.pad').getBoundingClientRect().top")
            .ShouldBe(true);
        browser.Script("return [...document.querySelectorAll('.keys button, .pad-line button, .units button')].every(b => b.getBoundingClientRect().height >= 44)").ShouldBe(true);
        browser.Complaints().ShouldBeEmpty();
    }

    [Fact]
    public void A_key_that_comes_while_one_bench_takes_the_place_of_the_other_is_typed_into_the_new_one()
    {
        browser.OpenJob(site, "Between two benches");
        // The pad is awake once it takes keys.
        browser.Press("14");
        browser.Script("""
            const press = key => document.activeElement.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true }));
            document.addEventListener("htmx:before:swap", () => { press("5"); press("."); press("2"); press("Backspace"); press("1"); }, { once: true });
            """);
        browser.Click(".units button[value=kPa]");
        browser.Until("what was held is typed", () => browser.Value("#pad-value") == "145.1");
    }

    [Fact]
    public void Without_scripts_the_forms_still_post()
    {
        browser.Scripts(on: false);
        browser.Open(site.Address + "/jobs/new");
        browser.Type("#vehicle", "Old tablet");
        browser.Send("#preset", "V6, odd");
        browser.Click("button[formaction*=Preset]");
        browser.Until("the preset is filled in", () => browser.Value("#banks") == "1 3 5 / 2 4 6");
        browser.Type("#minimum", "150");
        browser.Value("#vehicle").ShouldBe("Old tablet", "what was typed before stays");
        browser.Click(".form-end button");
        browser.Click("[data-card-next]");
        browser.Open(browser.Url[..browser.Url.IndexOf('/', browser.Url.IndexOf("jobs/", StringComparison.Ordinal) + 5)] + "/dry");
        browser.Type("#pad-value", "junk");
        browser.Click("[data-enter]");
        browser.UntilText("#pad-message", "not a number");
        browser.Type("#pad-value", "190");
        browser.Click("[data-enter]");
        browser.UntilText("#pad-title", "cylinder 2");
        browser.Type("#pad-value", "120");
        browser.Click("[data-enter]");
        browser.UntilText("#pad-title", "cylinder 3");
        Headline.ShouldStartWith("So far, 2 of 6: cylinder 2 reads low: 120 psi");
        browser.Click(".units button[value=bar]");
        browser.UntilText(".pad-unit", "bar");
        browser.Click("[data-undo]");
        browser.UntilText("#pad-title", "cylinder 2");
        Figures.ShouldBe(["13.1", "", "", "", "", ""]);
    }

    [Fact]
    public void A_reload_in_the_middle_loses_nothing()
    {
        OpenJob("Reloaded");
        Enter("205", "cylinder 2");
        Enter("163", "cylinder 3");
        browser.Reload();
        browser.UntilText("#pad-title", "cylinder 3");
        Figures.ShouldBe(["205", "163", "", ""]);
        browser.Open(site.Address + "/");
        browser.Text("main").ShouldContain("next: dry on 3 and 4");
    }

    [Fact]
    public void Fingers_faster_than_the_network_lose_nothing_and_hit_the_right_cylinder()
    {
        OpenJob("Slow wifi");
        browser.Network(on: true, latencyMs: 300);
        // All at once, without a look: four readings, the third one again, a first pulse, and half a figure.
        browser.Press($"205{Keys.Enter}163{Keys.Enter}150{Keys.Enter}208{Keys.Enter}");
        browser.UntilText("#pad-message", "208 psi saved");
        browser.Press($"{Keys.ArrowLeft}160r86p20");
        browser.UntilText("#pad-message", "86 psi saved");
        browser.Until("the half figure waits in the pad", () => browser.Value("#pad-value") == "20");
        Figures.ShouldBe(["205", "163", "160", "208"]);
        browser.Text(".repeats").ShouldContain("150");
        browser.Text("#pad-title").ShouldContain("cylinder 3");
        browser.Press("u");
        browser.UntilText(".pad-unit", "bar");
        browser.Until("it outlives a change of unit", () => browser.Value("#pad-value") == "20");
    }

    [Fact]
    public async Task With_the_database_down_entries_wait_and_the_server_says_it_is_not_ready()
    {
        OpenJob("Database down");
        Enter("205", "cylinder 2");
        using var signedIn = await SignedIn.ClientAsync(site.Address);
        await site.DatabaseAsync(answers: false);
        try
        {
            browser.Press("163" + Keys.Enter);
            browser.UntilText("#outbox", "The database is away; what you type is kept on this tablet. One entry waits");
            browser.UntilText("#pad-title", "cylinder 3");
            (await (await signedIn.GetAsync(new Uri("/", UriKind.Relative), TestContext.Current.CancellationToken)).Content.ReadAsStringAsync(TestContext.Current.CancellationToken))
                .ShouldContain("The database is away; what you type is kept on this tablet");
            using var client = new HttpClient { BaseAddress = new Uri(site.Address) };
            (await client.GetAsync(new Uri("/health/ready", UriKind.Relative), TestContext.Current.CancellationToken)).StatusCode.ShouldBe(System.Net.HttpStatusCode.ServiceUnavailable);
            (await client.GetAsync(new Uri("/health/live", UriKind.Relative), TestContext.Current.CancellationToken)).StatusCode.ShouldBe(System.Net.HttpStatusCode.OK);
        }
        finally
        {
            await site.DatabaseAsync(answers: true);
        }
        browser.Until("it is sent by itself", () => !browser.Find("#outbox").Displayed);
        browser.UntilText("#pad-message", "163 psi saved");
        Figures.ShouldBe(["205", "163", "", ""]);
    }

    [Fact]
    public void A_condition_that_is_tapped_changes_what_is_said()
    {
        OpenJob("Throttle shut");
        foreach (var (figure, pad) in new[] { ("143", "cylinder 2"), ("142", "cylinder 3"), ("144", "cylinder 4"), ("141", "cylinder 4") })
        {
            Enter(figure, pad);
        }
        Headline.ShouldStartWith("All read low but alike");
        browser.Send("select[name=Throttle]", "shut");
        browser.UntilText(".notes", "Throttle shut");
        Headline.ShouldStartWith("Even, but under the minimum");
        browser.Text("[data-method=minimum]").ShouldContain("withheld");
        browser.Script("return document.activeElement.name").ShouldBe("Throttle", "the focus stays where the hand is");
        browser.Find(".condition.slip select").GetAttribute("name").ShouldBe("Throttle");
    }

    [Fact]
    public void A_second_dry_test_stands_beside_the_first()
    {
        OpenJob("Tested again");
        Enter("140", "cylinder 2");
        browser.Click(".rail-again button");
        browser.UntilText(".rail-tests", "Dry test 2");
        Figures.ShouldBe(["", "", "", ""]);
        Enter("200", "cylinder 2");
        browser.Click(".rail-tests li:first-child a");
        browser.Until("the first test is shown", () => Figures[0] == "140");
    }

    [Fact]
    public void A_range_is_asked_about_and_enter_past_the_last_cylinder_writes_over_nothing()
    {
        OpenJob("Between two marks");
        browser.Press("175-180" + Keys.Enter);
        browser.UntilText("#pad-ask", "175 or 180 psi? Choose the figure to save for cylinder 1.");
        browser.Find("#pad-ask button").Text.ShouldBe("177.5, the middle");
        browser.Click("#pad-ask button:last-child");
        browser.UntilText("#pad-message", "180 psi saved");
        browser.Press($"163{Keys.Enter}150{Keys.Enter}208{Keys.Enter}");
        browser.UntilText("#pad-message", "208 psi saved");
        Figures.ShouldBe(["180", "163", "150", "208"]);
        // All measured: what a further figure means is asked once, and the answer that loses nothing is the first.
        browser.Click(".columns [data-cylinder='1']");
        browser.UntilText("#pad-title", "cylinder 1");
        browser.Press("190" + Keys.Enter);
        browser.UntilText("#pad-ask", "Cylinder 1 is already measured");
        Figures[0].ShouldBe("180");
        browser.Press(Keys.Enter);
        browser.UntilText("#pad-message", "190 psi saved");
        browser.UntilText("#pad-title", "cylinder 2");
        browser.Press("170" + Keys.Enter);
        browser.UntilText("#pad-message", "170 psi saved");
        browser.UntilText("#pad-title", "cylinder 3");
        browser.Click(".columns [data-cylinder='2']");
        browser.UntilText(".repeats", "163");
        // Again outlives a change of unit.
        browser.Press("r");
        browser.UntilText("#pad-title", "Again · cylinder 2");
        browser.Press("u");
        browser.UntilText(".pad-unit", "bar");
        browser.UntilText("#pad-title", "Again · cylinder 2");
    }

    [Fact]
    public void A_closed_job_leaves_the_board_and_can_be_opened_again()
    {
        OpenJob("Closed one");
        var job = new Uri(browser.Url).AbsolutePath;
        browser.Click(".job-tools form button");
        browser.UntilText("[data-sure]", "Close this job?");
        browser.Click("[data-sure] button");
        browser.UntilText("h1", "Bays");
        browser.Text("main").ShouldNotContain("Closed one");
        browser.Open(site.Address + job);
        browser.Click(".job-tools form button");
        browser.UntilText(".job-tools form button", "Close job");
    }

    public void Dispose() => browser.Dispose();
}
