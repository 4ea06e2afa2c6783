using System.Text.Json.Nodes;
using OpenQA.Selenium;

namespace Zandrik.Web.Tests.Pages;

/// <summary>Two people on one job, and the network, the tab or the server dying under them.</summary>
public sealed class NothingLostTests : IClassFixture<Site>, IDisposable
{
    private readonly Site site;
    private readonly Browser browser = new();

    public NothingLostTests(Site site) => this.site = site;

    private static string[] Figures(Browser of) => of.Texts(".columns .reading");

    private string OpenJob(string vehicle, string preset = "Inline six")
    {
        browser.Open(site.Address + "/jobs/new");
        browser.Type("#vehicle", vehicle);
        browser.Send("#preset", preset);
        browser.Until("the preset is filled in", () => browser.Value("#cylinders") != "");
        browser.Click(".form-end button");
        browser.FromPlanToDry();
        return new Uri(browser.Url).AbsolutePath;
    }

    // Every row of the job's readings, superseded ones too, as the API gives them.
    private async Task<double[]> RowsAsync(string address)
    {
        var record = JsonNode.Parse(await site.Api.GetStringAsync(new Uri($"/api/v1{address.Replace("/dry", "/record", StringComparison.Ordinal)}?all=true", UriKind.Relative), TestContext.Current.CancellationToken))!;
        return [.. record["tests"]![0]!["readings"]!.AsArray().OrderBy(r => (long)r!["id"]!).Select(r => (double)r!["value"]!)];
    }

    [Fact]
    public async Task The_network_is_cut_in_the_middle_of_six_readings_and_nothing_is_lost_or_doubled()
    {
        var job = OpenJob("Cut in the middle");
        browser.Press($"201{Keys.Enter}202{Keys.Enter}");
        browser.UntilText("#pad-message", "202 psi saved");
        browser.Network(on: false);
        browser.Press($"203{Keys.Enter}99{Keys.Enter}z204{Keys.Enter}205{Keys.Enter}");
        browser.UntilText("#outbox", "No network.");
        browser.UntilText("#pad-title", "cylinder 6");
        Figures(browser).ShouldBe(["201", "202", "203", "204", "205", ""], "what waits stands in the picture");
        browser.All(".columns .waiting").Count.ShouldBe(3);
        browser.Violations().ShouldBeEmpty();
        browser.Network(on: true);
        browser.Until("all is sent", () => !browser.Find("#outbox").Displayed);
        browser.Press($"206{Keys.Enter}");
        browser.UntilText("#pad-message", "206 psi saved");
        Figures(browser).ShouldBe(["201", "202", "203", "204", "205", "206"]);
        browser.All(".columns .waiting").ShouldBeEmpty();
        (await RowsAsync(job)).ShouldBe([201, 202, 203, 99, 204, 205, 206], "in order, once each, the one taken back too");
    }

    [Theory]
    [InlineData(4000)]
    [InlineData(600_000)]
    public async Task What_waits_outlives_the_page_though_the_tablets_database_opened_late(int afterMs)
    {
        var job = OpenJob("Opened late", "Inline four");
        // A tablet that is busy: its database opens after the page stopped waiting for it, or not while the page is there.
        using (browser.BeforeScripts("const afterMs = " + afterMs + ";" + """
            const open = IDBFactory.prototype.open;
            IDBFactory.prototype.open = function (...a) {
              const real = open.apply(this, a), request = { get result() { return real.result; } };
              real.onupgradeneeded = e => request.onupgradeneeded?.(e);
              real.onsuccess = e => setTimeout(() => request.onsuccess?.(e), afterMs);
              return request;
            };
            """))
        {
            browser.Open(site.Address + job);
            browser.Find("#pad-title");
            browser.Network(on: false);
            browser.Press($"191{Keys.Enter}");
            browser.UntilText("#outbox", "One entry waits");
            browser.Until("it lies in the database", () => afterMs > 10_000 || (bool)browser.Script("return zandrik.outbox.all().then(waiting => waiting.length === 1 && waiting[0].number > 0)")!);
        }
        browser.Open("about:blank");
        browser.Network(on: true);
        browser.Open(site.Address + "/account");
        browser.Until("all is sent", () => (bool)browser.Script("return zandrik.outbox.all().then(waiting => waiting.length === 0)")!);
        (await RowsAsync(job)).ShouldBe([191]);
    }

    [Fact]
    public async Task What_waits_outlives_the_tab()
    {
        var job = OpenJob("Tab closed", "Inline four");
        browser.Press($"181{Keys.Enter}");
        browser.UntilText("#pad-message", "181 psi saved");
        browser.Network(on: false);
        browser.Press($"182{Keys.Enter}183{Keys.Enter}");
        browser.UntilText("#outbox", "2 entries wait on this tablet");
        (await RowsAsync(job)).ShouldBe([181]);
        browser.CloseTab();

        // Any page of the shop sends what waits, not only the job's.
        browser.Network(on: true);
        browser.Open(site.Address + "/");
        browser.Until("all is sent", () => (bool)browser.Script("return zandrik.outbox.all().then(waiting => waiting.length === 0)")!);
        browser.Reload();
        browser.UntilText($"a[href='{job}'] .bay-step", "3/4");
        (await RowsAsync(job)).ShouldBe([181, 182, 183]);
    }

    [Fact]
    public async Task What_the_server_does_not_take_while_another_page_is_open_is_kept_and_said()
    {
        var job = OpenJob("A digit too many", "Inline four");
        // As long as this page is open nothing gets through, and nothing of it is sent on the way to the next.
        browser.Script("window.fetch = () => Promise.reject(new TypeError('cut'))");
        browser.Press($"2055{Keys.Enter}");
        browser.Click("#pad-ask button:last-child");
        browser.Press($"206{Keys.Enter}");
        browser.UntilText("#outbox", "2 entries wait on this tablet");
        browser.Open(site.Address + "/");
        browser.UntilText("#outbox", "Cylinder 1, 2055 psi, typed");
        browser.Text("#outbox").ShouldContain("value 2055: its step did not take it");
        browser.Open(site.Address + job);
        browser.Until("what came after it is there", () => Figures(browser).SequenceEqual(["", "206", "", ""]));
        browser.UntilText("#outbox", "2055");
        browser.Click("#outbox button");
        browser.Until("it is thrown away", () => !browser.Find("#outbox").Displayed);
    }

    [Fact]
    public async Task What_waits_belongs_to_the_person_who_typed_it()
    {
        var job = OpenJob("Signed out", "Inline four");
        browser.Press($"181{Keys.Enter}");
        browser.UntilText("#pad-message", "181 psi saved");
        browser.Script("document.cookie.split(';'); return fetch('/account').then(r => r.text()).then(t => { const d = new DOMParser().parseFromString(t, 'text/html'); const f = d.querySelector('form[action*=Out]'); return fetch('/account?handler=Out', { method: 'POST', body: new URLSearchParams(new FormData(f)) }); }).then(() => true)");
        browser.Press($"182{Keys.Enter}");
        browser.UntilText("#outbox", "You are signed out. One entry waits");
        browser.Click("#outbox button");
        browser.Click("[data-demo=hallan]");
        browser.UntilText("#outbox", "One entry waits here for M. Ostrel");
        (await RowsAsync(job)).ShouldBe([181]);
        browser.Click(".who-text");
        browser.Click("form[action*=Out] button");
        browser.Click("[data-demo=ostrel]");
        browser.Until("it is sent", () => !browser.Find("#outbox").Displayed);
        browser.Open(site.Address + job);
        browser.Until("it stands on the job", () => Figures(browser)[1] == "182");
    }

    [Fact]
    public void Two_people_on_one_job_see_each_others_readings_within_a_second()
    {
        var job = OpenJob("Two of us", "Inline four");
        using var other = new Browser { As = "hallan" };
        other.Open(site.Address + job);
        other.Press("19");
        browser.Press($"205{Keys.Enter}");
        browser.UntilText("#pad-message", "205 psi saved");
        var clock = System.Diagnostics.Stopwatch.StartNew();
        other.Until("the other sees it", () => Figures(other)[0] == "205");
        // Shown for the record; a slow machine must not fail the test over a tenth of a second.
        clock.ElapsedMilliseconds.ShouldBeLessThan(10_000);
        other.Value("#pad-value").ShouldBe("19", "half a figure is not pulled from under a finger");
        other.Press($"8{Keys.Enter}");
        browser.Until("and back", () => Figures(browser).Contains("198"));
        browser.Send("select[name=Fuel]", "on");
        other.UntilText(".notes", "Fuel was on");
        // Who only looks has no pad, and sees it all the same.
        using var viewer = new Browser { As = "innvik" };
        viewer.Open(site.Address + job);
        browser.Click("#pad-value");
        browser.Press($"201{Keys.Enter}");
        viewer.Until("the viewer sees it", () => Figures(viewer).Contains("201"));
    }

    [Fact]
    public void The_same_cylinder_read_by_two_is_kept_twice_and_asked_about()
    {
        var job = OpenJob("Whose gauge", "Inline four");
        using var other = new Browser { As = "hallan" };
        other.Open(site.Address + job);
        other.Network(on: false);
        browser.Press($"178{Keys.Enter}");
        browser.UntilText("#pad-message", "178 psi saved");
        other.Press($"145{Keys.Enter}");
        other.UntilText("#outbox", "No network.");
        other.Network(on: true);
        foreach (var screen in new[] { browser, other })
        {
            screen.UntilText("[data-choice='1']", "Two of you read cylinder 1");
            screen.Text("[data-choice='1']").ShouldContain("178, M. Ostrel");
            screen.Text("[data-choice='1']").ShouldContain("145, T. Hallan");
            screen.UntilText(".notes", "does not repeat is not a reading");
        }
        browser.Violations().ShouldBeEmpty();
        browser.Click("[data-choice='1'] button:nth-of-type(2)");
        other.Until("the choice is seen", () => Figures(other)[0] == "145" && other.All("[data-choice]").Count == 0);
    }

    // Holds what the page looks up for itself until it is let go, or the answer to one of its forms; what else is sent goes through.
    private void HoldLooks(string form = "none") => browser.Script($"const form = 'handler={form}';" + """
        const real = window.fetch, gate = new Promise(open => window.letGo = open);
        window.looks = 0;
        window.fetch = async (to, how) => {
          const answer = await real(to, how), post = how?.method === "POST";
          if (post) window.keyed = how.headers["Zandrik-Keyed"];
          if (post && !String(to.url ?? to).includes(form)) return answer;
          if (post) { await gate; return answer; }
          window.looks++;
          return { ok: answer.ok, status: answer.status, text: async () => { const text = await answer.text(); await gate; return text; } };
        };
        """);

    // What stands somewhere as soon as the page has dealt with what was held.
    private object? LetGo(string expression) => browser.Script($"window.letGo(); return new Promise(done => setTimeout(() => done({expression})))");

    [Fact]
    public async Task A_look_at_what_another_did_that_answers_late_takes_nothing_off_the_pad()
    {
        var job = OpenJob("Late answer", "Inline four");
        HoldLooks();
        using var other = await SignedIn.ClientAsync(site.Address, "hallan");
        (await other.PostFormAsync($"{job}?handler=Conditions", ("cylinder", "1"), ("Fuel", "on"))).EnsureSuccessStatusCode();
        browser.Until("it is looked at", () => (long)browser.Script("return window.looks")! == 1);
        browser.Press($"163{Keys.Enter}");
        browser.UntilText("#pad-message", "163 psi saved");
        browser.Script("return window.keyed").ShouldBe("entry", "a proxy may send it once more");
        LetGo("document.getElementById('pad-message').textContent").ShouldBe("Cylinder 1: 163 psi saved.");
        browser.UntilText(".notes", "Fuel was on");
        browser.Text("#pad-message").ShouldBe("Cylinder 1: 163 psi saved.");
        Figures(browser)[0].ShouldBe("163");

        // What is half typed beside the pad stays too.
        browser.Click("#more summary");
        browser.Type("#more [name=Pulses]", "6");
        browser.Click("#pad-value");
        (await other.PostFormAsync($"{job}?handler=Conditions", ("cylinder", "1"), ("Fuel", "on"), ("EngineTemperature", "cold"))).EnsureSuccessStatusCode();
        browser.UntilText(".notes", "Tested cold");
        browser.Value("#more [name=Pulses]").ShouldBe("6");
        browser.Click("#pad-value");
        browser.Press($"164{Keys.Enter}");
        browser.UntilText("#pad-message", "164 psi saved");
        browser.Value("#more [name=Pulses]").ShouldBe("", "it was of cylinder 2, the pad is at 3");
    }

    [Fact]
    public async Task A_list_that_was_just_changed_is_sent_whatever_another_does()
    {
        var job = OpenJob("Both at once", "Inline four");
        HoldLooks();
        using var other = await SignedIn.ClientAsync(site.Address, "hallan");
        (await other.PostFormAsync($"{job}?handler=Conditions", ("cylinder", "1"), ("Plugs", "all-out"))).EnsureSuccessStatusCode();
        browser.Until("it is looked at", () => (long)browser.Script("return window.looks")! == 1);
        browser.Send("select[name=Fuel]", "on");
        LetGo("true");
        browser.UntilText(".notes", "Fuel was on");

        // Without a network it waits like a reading, and is sent when it is back.
        browser.Network(on: false);
        browser.Send("select[name=Fuel]", "off");
        browser.UntilText("#outbox", "One entry waits");
        browser.Network(on: true);
        browser.Until("it is sent", () => !browser.Find("#outbox").Displayed);
        browser.Value("select[name=Fuel]").ShouldBe("off");
    }

    [Fact]
    public async Task What_is_wrong_with_a_figure_stays_to_be_read()
    {
        var job = OpenJob("Barometer", "Inline four");
        browser.Send("[name=BarometricKPa]", "high" + Keys.Enter);
        browser.UntilText("#barometer-problem", "from 40 to 115");
        HoldLooks();
        using var other = await SignedIn.ClientAsync(site.Address, "hallan");
        (await other.PostFormAsync($"{job}?handler=Conditions", ("cylinder", "1"), ("Fuel", "on"))).EnsureSuccessStatusCode();
        browser.Click("#pad-value");
        browser.Press($"205{Keys.Enter}");
        browser.UntilText("#pad-message", "205 psi saved");
        browser.Value("[name=BarometricKPa]").ShouldBe("high");
    }

    [Fact]
    public void A_reading_typed_while_the_unit_changes_is_told_of()
    {
        OpenJob("In bar at once", "Inline four");
        HoldLooks(form: "Unit");
        browser.Click(".units button[value=bar]");
        browser.UntilText(".pad-unit", "bar");
        browser.Press($"14.1{Keys.Enter}");
        browser.UntilText("#pad-message", "14.1 bar saved");
        LetGo("true");
        browser.Until("it is in bar", () => browser.All(".units button[value=bar][aria-pressed=true]").Count == 1);
        browser.Until("the figure is there", () => Figures(browser)[0] == "14.1");
        browser.Text("#pad-message").ShouldBe("Cylinder 1: 14.1 bar saved.");
    }

    [Fact]
    public async Task Nor_off_a_step()
    {
        var job = await site.JobAsync("""{ "engine": { "cylinders": 4, "fuel": "petrol" }, "tests": [{ "kind": "leak-down", "unit": "psi", "supply": 100, "readings": [ { "cylinder": 1, "held": 80 } ] }] }""");
        browser.Open($"{site.Address}/jobs/{job}/leak-down?cylinder=1");
        browser.Until("the step is awake", () => browser.Script("return document.documentElement.dataset.step") is "awake");
        HoldLooks();
        using var other = await SignedIn.ClientAsync(site.Address, "hallan");
        (await other.PostFormAsync($"/jobs/{job}/leak-down?handler=Hear&cylinder=1", ("hear", "exhaust|clear"))).EnsureSuccessStatusCode();
        browser.Until("it is looked at", () => (long)browser.Script("return window.looks")! == 1);
        browser.Click("[data-ear=intake]");
        browser.Until("silent at the first", () => browser.All("[data-ear=intake][data-loud=nothing]").Count == 1);
        browser.Click("[data-ear=intake]");
        browser.UntilText("[data-goes]", "intake");
        LetGo("document.querySelector('[data-ear=intake]').dataset.loud").ShouldBe("faint");
        browser.UntilText("[data-goes]", "exhaust");
        browser.Text("[data-goes]").ShouldContain("intake");

        // And it leaves the hand where it is.
        browser.Script("document.querySelector('.units button[value=bar]').focus()");
        (await other.PostFormAsync($"/jobs/{job}/leak-down?handler=Hear&cylinder=1", ("hear", "oil-filler|clear"))).EnsureSuccessStatusCode();
        browser.UntilText("[data-goes]", "oil filler");
        browser.Script("return document.activeElement.value").ShouldBe("bar");
    }

    public void Dispose() => browser.Dispose();
}
