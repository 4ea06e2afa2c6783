using System.Diagnostics;
using System.Net;
using OpenQA.Selenium;
using Zandrik.Core.Practice;

namespace Zandrik.Web.Tests.Pages;

/// <summary>The practice bench in the browser: from the pick to what was hidden, by keyboard and by finger.</summary>
public sealed class PracticeFlowTests : IClassFixture<Site>, IDisposable
{
    private readonly Site site;
    private readonly Browser browser = new();

    public PracticeFlowTests(Site site) => this.site = site;

    public void Dispose() => browser.Dispose();

    private void Go(string page)
    {
        browser.Open(site.Address + page);
        browser.Script("localStorage.setItem('zandrik.at-once', 'on')");
    }

    private int Begin(int exercise)
    {
        Go("/practice");
        browser.Type("section[aria-labelledby=pick-title] [name=number]", $"{exercise}");
        browser.Press(Keys.Enter);
        browser.Until("the exercise is open", () => browser.All("[data-start]").Count > 0);
        return int.Parse(browser.Url.Split('/')[^1], System.Globalization.CultureInfo.InvariantCulture);
    }

    // Everything on the list but what is left out.
    private void Prepare(int job, params string[] leaveOut)
    {
        Go($"/jobs/{job}/prepare");
        for (var i = 0; i < 14; i++)
        {
            var left = browser.Script($$"""
                const out = {{System.Text.Json.JsonSerializer.Serialize(leaveOut)}};
                const next = [...document.querySelectorAll('form[action$="/prepare"], form[action*="/prepare?"]')].filter(f => f.item && !out.includes(f.item.value) && !f.closest('.ticked'));
                const button = next[0]?.querySelector('button[name=way]');
                button?.click();
                return next.length;
                """) as long? ?? 0;
            if (left == 0)
            {
                return;
            }
            browser.Until("one more is ticked", () => browser.Script("""return document.querySelectorAll('form[action*="/prepare"]').length""") is long && (browser.Script($"return [...document.querySelectorAll('form[action*=\"/prepare\"]')].filter(f => f.item && !{System.Text.Json.JsonSerializer.Serialize(leaveOut)}.includes(f.item.value) && !f.closest('.ticked')).length") as long? ?? 99) < left);
        }
    }

    private double Crank(string figure)
    {
        browser.Press(Keys.Enter);
        browser.UntilText("[data-gauge-says]", figure);
        return double.Parse(browser.Text("[data-gauge-says]").Split(": ")[1].Split(' ')[0], System.Globalization.CultureInfo.InvariantCulture);
    }

    // What is looked at anew while a finger is down takes the tap with it, as it does from anybody's: then it is tapped again.
    private void TapUntilSaid(string css, string text)
    {
        browser.Tap(css);
        var since = Stopwatch.StartNew();
        browser.Until(text, () =>
        {
            if (browser.Text("[data-gauge-says]").Contains(text, StringComparison.Ordinal))
            {
                return true;
            }
            if (since.Elapsed > TimeSpan.FromSeconds(6))
            {
                browser.Tap(css);
                since.Restart();
            }
            return false;
        });
    }

    [Fact]
    public void From_the_pick_to_what_was_hidden_by_keyboard_alone()
    {
        var exercise = PracticeCases.Find(6)!;
        var job = Begin(6);
        browser.Text(".practice-band").ShouldContain("nothing here counts as work");
        browser.Text(".practice-complaint").ShouldContain(exercise.Intake.Complaint!);
        browser.Violations().ShouldBeEmpty();
        Prepare(job);
        Go($"/jobs/{job}/dry");
        browser.All("#pad-value").ShouldBeEmpty("a figure comes from the engine, not from the keyboard");
        browser.TabTo("[data-do=dry]");
        var read = Enumerable.Range(1, 4).Select(c => Crank($"Cylinder {c}: ")).ToList();
        browser.Texts(".columns .reading").ShouldBe(read.Select(r => $"{r:0}"));
        read[1].ShouldBeLessThan(0.8 * read[0]);
        browser.Find("[data-practice-clock]").Text.ShouldBe("45");
        browser.Text("[data-trace-of]").ShouldContain("Practice bench");
        browser.Until("the trace is drawn", () => browser.Script("return document.querySelector('[data-trace-of] img').naturalWidth") is > 0L);
        browser.Violations().ShouldBeEmpty();

        // Called by keyboard: the first letter of what is chosen, then the call.
        Go($"/practice/{job}/call");
        browser.TabTo("[data-call]");
        browser.Press(Keys.Enter);
        browser.Text("#call-problem").ShouldContain("Say what is wrong");
        browser.TabTo("[name=c2]");
        browser.Press("head gasket between 2 and 3");
        browser.TabTo("[name=repair][value=gasket]");
        browser.Press(Keys.Space);
        browser.Violations().ShouldBeEmpty();
        browser.TabTo("[data-call]");
        browser.Press(Keys.Enter);
        browser.Until("what was hidden is shown", () => browser.All("[data-reveal]").Count > 0);
        browser.Text(".truth").ShouldContain("head gasket between 2 and 3");
        browser.Text("[data-score]").ShouldContain("40 of 40");
        browser.Text("[data-good-way]").ShouldContain("Leak-down of 2");
        browser.Text("[data-others='2']").ShouldContain("(it is)");
        browser.Find(".air-drawing").ShouldNotBeNull();
        browser.Violations().ShouldBeEmpty();
        // What is over is over.
        Go($"/jobs/{job}/dry");
        browser.Text("[data-closed-banner]").ShouldContain("Called");
        browser.All("[data-do=dry]").ShouldBeEmpty();
        Go("/practice");
        browser.Text("[data-runs]").ShouldContain("of 100");
        browser.Texts("[data-progress] tr").ShouldContain(t => t.StartsWith("Head gasket", StringComparison.Ordinal) && t.Contains('1', StringComparison.Ordinal));
        browser.Complaints().ShouldAllBe(c => c.Contains("422", StringComparison.Ordinal), "the call that said nothing");
    }

    [Fact]
    public void A_shut_throttle_that_nobody_ticked_shows_in_the_reading()
    {
        var open = Begin(10);
        Prepare(open);
        Go($"/jobs/{open}/dry");
        browser.TabTo("[data-do=dry]");
        var with = Crank("Cylinder 1: ");
        var shut = Begin(10);
        Prepare(shut, "throttle");
        Go($"/jobs/{shut}/dry");
        browser.TabTo("[data-do=dry]");
        var without = Crank("Cylinder 1: ");
        (without / with).ShouldBeInRange(0.8, 0.97);
    }

    [Fact]
    public void By_finger_at_phone_size_air_is_put_on_read_and_listened_to()
    {
        browser.Size(390, 844, touch: true);
        var job = Begin(11);
        Prepare(job);
        Go($"/jobs/{job}/dry");
        browser.Tap("[data-do=dry]");
        browser.UntilText("[data-gauge-says]", "Cylinder 1: ");
        // A leak-down without air says what to do, and is no hazard.
        Go($"/jobs/{job}/leak-down");
        browser.Tap("[aria-label='Crank at cylinder 1']");
        browser.Until("the crank is set", () => browser.All("[data-guard=stroke]").Count > 0);
        TapUntilSaid("[data-do=feel]", "stroke");
        if (browser.Text("[data-gauge-says]").Contains("exhaust stroke", StringComparison.Ordinal))
        {
            TapUntilSaid("[data-do=turn-round]", "Turned once round");
        }
        foreach (var word in new[] { "key", "stroke", "held", "low", "chocks", "bar" }.Where(w => browser.All($"[data-guard={w}]").Count > 0))
        {
            browser.Tap($"[data-guard={word}] button");
            browser.Until(word, () => browser.All($"[data-guard={word}].ticked").Count > 0);
        }
        browser.Tap("[data-air-on]");
        browser.Until("the air is on", () => browser.All("[data-air-off]").Count > 0);
        TapUntilSaid("[data-do=leak-down]", "held");
        browser.UntilText("[data-lost]", "%");
        TapUntilSaid("[data-ear=exhaust]", "Exhaust: ");
        browser.Text("[data-gauge-says]").ShouldContain("strong");
        browser.Attribute("[data-ear=exhaust]", "data-loud").ShouldBe("strong");
        ((long)browser.Script("return document.documentElement.scrollWidth")!).ShouldBeLessThanOrEqualTo(390);
        browser.Complaints().ShouldBeEmpty();
    }

    [Fact]
    public void What_would_hurt_somebody_is_refused_and_counted()
    {
        var job = Begin(18);
        Prepare(job, "fuel");
        Go($"/jobs/{job}/dry");
        browser.Click("[data-do=dry]");
        browser.UntilText("[data-gauge-says]", "The fuel is live");
        Go($"/practice/{job}");
        browser.Text("main").ShouldContain("1 hazard.");
        browser.Texts(".columns .reading").ShouldBeEmpty();
    }

    [Fact]
    public async Task The_bench_is_its_trainees_and_the_foremans_to_look_at_and_has_no_way_out_into_work()
    {
        var mine = Begin(2);
        using var foreman = await SignedIn.ClientAsync(site.Address);
        using var hallan = await SignedIn.ClientAsync(site.Address, "hallan");
        using var skarre = await SignedIn.ClientAsync(site.Address, "skarre");
        async Task<int> RunOfAsync(HttpClient who, string number)
        {
            var answer = await who.PostFormAsync("/practice?handler=Begin", ("number", number));
            return int.Parse(answer.RequestMessage!.RequestUri!.AbsolutePath.Split('/')[^1], System.Globalization.CultureInfo.InvariantCulture);
        }
        async Task<HttpStatusCode> GetAsync(HttpClient who, string page) => (await who.GetAsync(new Uri(page, UriKind.Relative), TestContext.Current.CancellationToken)).StatusCode;
        var run = await RunOfAsync(hallan, "2");
        (await GetAsync(hallan, $"/jobs/{run}/dry")).ShouldBe(HttpStatusCode.OK);
        (await GetAsync(skarre, $"/jobs/{run}/dry")).ShouldBe(HttpStatusCode.NotFound);
        (await GetAsync(skarre, $"/practice/{run}")).ShouldBe(HttpStatusCode.NotFound);
        (await GetAsync(foreman, $"/jobs/{run}/dry")).ShouldBe(HttpStatusCode.OK);
        (await foreman.PostFormAsync($"/practice/{run}/do", ("act", "look-over"))).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        // Typed figures, the record, the verdict, the sheet for selling: none of it on the bench.
        (await hallan.PostFormAsync($"/jobs/{run}/dry?handler=Enter&cylinder=1", ("value", "180"), ("unit", "psi"), ("kind", "Reading"))).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        (await GetAsync(hallan, $"/jobs/{run}/dry?handler=Record")).ShouldBe(HttpStatusCode.Forbidden);
        foreach (var page in new[] { "verdict", "selling", "decide", "sheet", "owner", "intake", "refit", "plugs" })
        {
            (await hallan.GetAsync(new Uri($"/jobs/{run}/{page}", UriKind.Relative), TestContext.Current.CancellationToken)).RequestMessage!.RequestUri!.AbsolutePath.ShouldBe($"/practice/{run}", page);
        }
        using var api = new HttpClient { BaseAddress = new Uri(site.Address) };
        api.DefaultRequestHeaders.Authorization = new("Bearer", "zandrik-demo-token");
        (await GetAsync(api, $"/api/v1/jobs/{run}")).ShouldBe(HttpStatusCode.NotFound);
        var bays = await foreman.GetStringAsync(new Uri("/", UriKind.Relative), TestContext.Current.CancellationToken);
        bays.ShouldNotContain($"{run}");
        bays.ShouldNotContain($"{mine}");
        (await foreman.GetStringAsync(new Uri("/search?q=run", UriKind.Relative), TestContext.Current.CancellationToken)).ShouldNotContain("900000");
        // Without scripts the act is done too, and its page is shown again.
        var done = await hallan.PostFormAsync($"/practice/{run}/do", ("act", "look-over"), ("back", $"/jobs/{run}/dry"));
        done.RequestMessage!.RequestUri!.AbsolutePath.ShouldBe($"/jobs/{run}/dry");
        (await hallan.PostFormAsync($"/practice/{run}/do", ("act", "look-over"), ("back", "https://elsewhere.example/"))).RequestMessage!.RequestUri!.AbsolutePath.ShouldBe($"/jobs/{run}/plan");
    }

    [Fact]
    public void The_foreman_sets_an_exercise_and_the_technician_finds_it()
    {
        Go("/practice");
        browser.Type("section[aria-labelledby=set-title] [name=number]", "99");
        browser.Click("[data-set]");
        browser.Text(".field-problem").ShouldContain("48");
        browser.Type("section[aria-labelledby=set-title] [name=number]", "22");
        browser.Send("[name=person]", "B. Skarre");
        browser.Type("[name=says]", "A small one.");
        browser.Click("[data-set]");
        browser.UntilText("[data-said]", "Exercise 22 is set");
        using var skarre = new Browser { As = "skarre" };
        skarre.Open($"{site.Address}/practice");
        skarre.Text("[data-set-for-me]").ShouldContain("Exercise 22");
        skarre.Text("[data-set-for-me]").ShouldContain("A small one.");
        skarre.All("[data-set]").ShouldBeEmpty();
        skarre.Click("[data-set-for-me] button");
        skarre.Until("it is begun", () => skarre.All("[data-start]").Count > 0);
    }
}
