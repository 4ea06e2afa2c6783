using System.Globalization;
using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using AngleSharp.Html.Parser;
using OpenQA.Selenium;
using Zandrik.Core.Physics;
using Zandrik.Core.Simulation;
using Zandrik.Storage.Tests;

namespace Zandrik.Web.Tests.Pages;

/// <summary>A capture from the file to the judgement in the browser: brought, corrected, judged, looked into.</summary>
public sealed class RelativeFlowTests : IClassFixture<Site>, IDisposable
{
    private const string Four = """{ "engine": { "name": "2.0 inline four", "cylinders": 4, "fuel": "petrol", "compressionRatio": 10.2, "firingOrder": [1, 3, 4, 2] } }""";

    private static readonly Lazy<SimulatedCapture> Weak = new(() => SimulatedCapture.Of(SimulatedEngine.InlineFour,
        CrankingRun.Of(SimulatedEngine.InlineFour, new Dictionary<int, CylinderCondition> { [3] = new() { ExhaustValveM2 = 2e-6 } }), new CaptureRecipe { SampleRateHz = 4000 }));

    private readonly Site site;
    private readonly Browser browser = new();
    private readonly DirectoryInfo folder = Directory.CreateTempSubdirectory("zandrik-captures");

    public RelativeFlowTests(Site site) => this.site = site;

    public void Dispose()
    {
        browser.Dispose();
        folder.Delete(recursive: true);
    }

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private static string Number(double value) => value.ToString("0.00000", CultureInfo.InvariantCulture);

    // As an instrument of another country writes it: semicolons, decimal commas, milliseconds, sync before current, no names.
    private static string Foreign(SimulatedCapture c) =>
        string.Join('\n', Enumerable.Range(0, c.CurrentA.Length).Select(i => $"{Number(i * c.IntervalS * 1000)};{Number(c.SyncV[i])};{Number(c.CurrentA[i] / 1000)}".Replace('.', ','))) + "\n";

    private static string Plain(SimulatedCapture c)
    {
        var text = new StringWriter(CultureInfo.InvariantCulture);
        c.WriteCsv(text);
        return text.ToString();
    }

    private string FileOf(string name, string content)
    {
        var path = Path.Combine(folder.FullName, name);
        File.WriteAllText(path, content);
        return path;
    }

    private void Go(int job, string query = "")
    {
        browser.Open($"{site.Address}/jobs/{job}/relative-compression{query}");
        browser.Until("the step is awake", () => browser.Script("return document.documentElement.dataset.step ?? 'awake'") is "awake");
    }

    private void Bring(string path)
    {
        browser.Send("#file", path);
        browser.Click("[data-bring]");
    }

    private void Judge()
    {
        browser.Click("[data-judge-now]");
        browser.Until("it is judged", () => browser.All("[data-headline]").Count == 1);
        browser.Until("the trace is open", () => browser.All(".trace canvas").Count == 1 && browser.Script("return document.querySelector('.trace canvas').dataset.shown ?? null") is not null);
    }

    private async Task<JsonArray> TestsAsync(int job) => [.. ((await site.RecordAsync(job))["tests"]?.AsArray() ?? []).Select(t => t!.DeepClone())];

    [Fact]
    public async Task A_file_is_brought_corrected_judged_and_the_next_of_its_clamp_is_read_like_it()
    {
        var job = await site.JobAsync(Four);
        Go(job);
        browser.Click("[data-line=cannot-start]");
        browser.Until("it is ticked", () => browser.All("[data-line=cannot-start][aria-pressed=true]").Count == 1);
        browser.All(".capture-trace .hump").Count.ShouldBeGreaterThan(10, "a good trace is shown");

        Bring(FileOf("other-country.csv", Foreign(Weak.Value)));
        browser.UntilText("#read-title", "other-country.csv");
        browser.Value("#written").ShouldBe("semicolon-comma");
        browser.Texts(".columns-read thead tr:nth-child(2) th").Length.ShouldBe(4);
        // Sync stands before current and has no name: the guess has them the wrong way round.
        (browser.Value("#role-0"), browser.Value("#role-1"), browser.Value("#role-2")).ShouldBe(("time", "current", "sync"));
        browser.Violations().ShouldBeEmpty();
        browser.Send("#role-1", "sync");
        browser.Click("[data-judge-now]");
        browser.UntilText(".columns-read thead", "Only one column can be sync");
        browser.Value("#role-1").ShouldBe("sync", "what was chosen stays");
        browser.Send("#role-2", "starter");
        browser.Script("document.getElementById('time-unit').value = 'ms'");
        Judge();
        browser.Text("[data-headline]").ShouldStartWith("Cylinder 3 pumps");
        browser.Texts("[data-relative-table] tbody tr").Length.ShouldBe(4);
        browser.All("[data-verdict=low]").Count.ShouldBe(1);
        browser.All(".columns .error-bar").Count.ShouldBe(4);
        browser.All(".cycle-ring .dent.is-low").Count.ShouldBe(1);
        browser.Text(".rail .current").ShouldContain("4/4");
        var test = (await TestsAsync(job)).Single()!;
        ((string)test["kind"]!, (string)test["tester"]!["label"]!).ShouldBe(("relative-compression", "Starter clamp"));
        test["readings"]!.AsArray().MinBy(r => (double)r!["relativePercent"]!)!["cylinder"]!.GetValue<int>().ShouldBe(3);

        // The next one from the same clamp, of the same shape, needs no correction.
        var next = await site.JobAsync(Four);
        Go(next);
        Bring(FileOf("next.csv", Foreign(Weak.Value)));
        browser.UntilText("#read-title", "next.csv");
        browser.Text(".card-top .soft").ShouldContain("Starter clamp");
        (browser.Value("#role-1"), browser.Value("#role-2"), browser.Value("#time-unit")).ShouldBe(("sync", "current", "ms"));
        Judge();
        browser.Text("[data-headline]").ShouldStartWith("Cylinder 3 pumps", customMessage: browser.Text(".says"));
        (await site.Api.GetByteArrayAsync(new Uri($"/api/v1/jobs/{next}/captures/{browser.Script("return new URLSearchParams(location.search).get('capture')")}", UriKind.Relative), Cancel))
            .ShouldBe(Encoding.UTF8.GetBytes(Foreign(Weak.Value)), "the file is kept as it came");
    }

    [Fact]
    public async Task Read_differently_the_first_reading_no_longer_stands()
    {
        var job = await site.JobAsync(Four);
        Go(job);
        Bring(FileOf("clamp.csv", Plain(Weak.Value)));
        Judge();
        browser.Click($"a[href$='view=Preview']");
        browser.UntilText("#read-title", "clamp.csv");
        browser.Text(".card-top .soft").ShouldBe("as it was judged");
        browser.Send("#sync", "nothing usable");
        Judge();
        browser.Text("[data-headline]").ShouldStartWith("Hump ");
        browser.Text("[data-next]").ShouldContain("Take the plug out of one cylinder");
        browser.Texts(".columns .number").ShouldBe(["A", "B", "C", "D"]);
        browser.All("[data-code=no-sync]").Count.ShouldBe(1);
        browser.Violations().ShouldBeEmpty();
        var test = (await TestsAsync(job)).Single()!;
        test["readings"].ShouldBeNull("slots are no cylinders");
        test["slots"]!.AsArray().Select(s => (int)s!["slot"]!).ShouldBe([1, 2, 3, 4]);
        browser.Open($"{site.Address}/jobs/{job}/sheet");
        browser.Text(".sheet").ShouldContain("of 4 humps is low against the best");
    }

    [Fact]
    public void The_trace_is_looked_into_with_keys_mouse_and_buttons()
    {
        Go(12);
        browser.Until("the trace is open", () => browser.Script("return document.querySelector('.trace canvas')?.dataset.shown ?? null") is not null);
        double[] Shown() => [.. ((string)browser.Script("return document.querySelector('.trace canvas').dataset.shown")!).Split(' ').Select(v => double.Parse(v, CultureInfo.InvariantCulture))];
        var whole = Shown();
        whole[0].ShouldBe(0);
        browser.Click("[data-look=closer]");
        browser.Until("it is closer", () => Shown()[1] - Shown()[0] < 0.6 * whole[1]);
        browser.Script("document.querySelector('.trace canvas').focus()");
        var before = Shown();
        browser.PressHolding(Keys.Shift, Keys.ArrowRight);
        browser.Until("it is panned", () => Shown()[0] > before[0]);
        browser.Press(".");
        browser.UntilText("[data-cursor]", "cylinder");
        var cursor = browser.Text("[data-cursor]");
        cursor.ShouldMatch(@"^\d+\.\d{3} s · \d+ A · \d+ rpm · cylinder \d$");
        browser.Press(Keys.Enter + ".");
        browser.UntilText("[data-cursor]", "from the pin");
        browser.Press(Keys.Home);
        browser.Until("it is whole again", () => Math.Abs(Shown()[1] - whole[1]) < 1e-9);
        browser.Click("[data-look=settled]");
        browser.Until("it is the settled part", () => Shown()[0] > 0.5);

        browser.Complaints().ShouldBeEmpty();

        // Cylinder 4 is dead: its humps have another ground than its neighbours', in the canvas as in the server's drawing.
        var tints = (IReadOnlyCollection<object>)browser.Script("""
            const canvas = document.querySelector('.trace canvas'), about = JSON.parse(document.querySelector('.trace').dataset.look), dots = devicePixelRatio || 1;
            const [from, to] = canvas.dataset.shown.split(' ').map(Number), c = canvas.getContext('2d');
            const at = s => 48 + (canvas.clientWidth - 56) * (s - from) / (to - from);
            const colour = state => { const h = about.humps.find(h => h[0] > from && h[1] < to && about.slots[h[2] - 1].state === state), seen = new Set();
              for (let x = at(h[0]) + 1; x < at(h[1]) - 1; x++) { const d = c.getImageData(Math.round(x * dots), Math.round(24 * dots), 1, 1).data; seen.add(`${d[0]},${d[1]},${d[2]}`); } return seen.size; };
            return [colour('sound'), colour('dead')];
            """)!;
        tints.Select(t => (long)t).First().ShouldBeLessThanOrEqualTo(2, "a sound hump has one even ground");
        tints.Select(t => (long)t).Last().ShouldBeGreaterThan(2, "a dead one is hatched");
    }

    [Fact]
    public async Task A_single_sample_is_still_seen_when_the_whole_is_shown()
    {
        var capture = Weak.Value;
        var amps = (double[])capture.CurrentA.Clone();
        // In the quiet lead, where nothing else stands up.
        amps[400] = 220;
        var job = await site.JobAsync(Four);
        Go(job);
        Bring(FileOf("spike.csv", Plain(capture with { CurrentA = amps })));
        Judge();
        var inked = (bool)browser.Script("""
            const canvas = document.querySelector('.trace canvas'), dots = devicePixelRatio || 1, [from, to] = canvas.dataset.shown.split(' ').map(Number);
            const x = 48 + (canvas.clientWidth - 56) * (400 / 4000 - from) / (to - from), about = JSON.parse(document.querySelector('.trace').dataset.look);
            const bottom = canvas.clientHeight - 74, y = 20 + (bottom - 20) * (about.amps[1] - 150) / (about.amps[1] - about.amps[0]);
            const d = canvas.getContext('2d').getImageData(Math.round((x - 2) * dots), Math.round(y * dots), Math.round(5 * dots), 1).data;
            return [...d].some((v, i) => i % 4 === 3 && v > 100);
            """)!;
        inked.ShouldBeTrue("the spike reaches over 150 A in its own column of pixels");
    }

    [Fact]
    public async Task An_upload_shows_its_progress_and_can_be_cancelled_and_brought_again()
    {
        var job = await site.JobAsync(Four);
        Go(job);
        var text = Plain(Weak.Value);
        browser.Network(on: true, uploadBytesPerSecond: 20_000);
        Bring(FileOf("slow.csv", text));
        browser.UntilText("[data-sent]", "MB");
        browser.Until("the bar is on", () => (bool)browser.Script("return !document.querySelector('[data-bringing]').hidden && document.querySelector('progress').value < 1")!);
        browser.Click("[data-stop]");
        browser.UntilText("[data-upload-problem]", "Cancelled. Nothing was kept");
        ((long)browser.Script("return document.getElementById('file').files.length")!).ShouldBe(1, "the file is still chosen");
        browser.Network(on: true);
        ((long)(await TestDatabase.ExecuteAsync(site.Owner, $"select count(*) from capture c join job j on j.id = c.job_id where j.number = {job}"))!).ShouldBe(0);

        // What somebody else does meanwhile does not take the file away.
        using var client = await SignedIn.ClientAsync(site.Address, "hallan");
        (await client.PostFormAsync($"/jobs/{job}/relative-compression?handler=Guide", ("item", "shut"), ("done", "true"))).StatusCode.ShouldBe(HttpStatusCode.OK);
        browser.Until("the tick is seen", () => browser.All("[data-line=shut][aria-pressed=true]").Count == 1);
        browser.Click("[data-bring]");
        browser.UntilText("#read-title", "slow.csv");
        browser.All("[name=sync] option").Count.ShouldBe(4);
    }

    [Fact]
    public async Task With_the_network_gone_the_file_stays_chosen_and_it_says_so()
    {
        var job = await site.JobAsync(Four);
        Go(job);
        browser.Network(on: false);
        Bring(FileOf("offline.csv", Plain(Weak.Value)));
        browser.UntilText("[data-upload-problem]", "The network went away");
        browser.Network(on: true);
        browser.Click("[data-bring]");
        browser.UntilText("#read-title", "offline.csv");
    }

    // As a browser without scripts posts it.
    private static async Task<(HttpStatusCode Status, AngleSharp.Html.Dom.IHtmlDocument Page)> SendAsync(HttpClient client, int job, string? name, byte[] bytes)
    {
        var page = new HtmlParser().ParseDocument(await client.GetStringAsync(new Uri($"/jobs/{job}/relative-compression?view=Guide", UriKind.Relative), Cancel));
        using var form = new MultipartFormDataContent();
        foreach (var field in page.QuerySelectorAll("[data-upload] input[type=hidden]"))
        {
            form.Add(new StringContent(field.GetAttribute("value") ?? ""), field.GetAttribute("name")!);
        }
        if (name is not null)
        {
            form.Add(new ByteArrayContent(bytes), "file", name);
        }
        var answer = await client.PostAsync(new Uri($"/jobs/{job}/relative-compression?handler=Upload", UriKind.Relative), form, Cancel);
        return (answer.StatusCode, new HtmlParser().ParseDocument(await answer.Content.ReadAsStringAsync(Cancel)));
    }

    [Fact]
    public async Task Without_scripts_it_is_brought_and_judged_all_the_same()
    {
        var job = await site.JobAsync(Four);
        using var client = await SignedIn.ClientAsync(site.Address);
        var (status, preview) = await SendAsync(client, job, "plain.csv", Encoding.UTF8.GetBytes(Plain(Weak.Value)));
        status.ShouldBe(HttpStatusCode.OK);
        preview.QuerySelector("#read-title")!.TextContent.ShouldContain("plain.csv");
        var fields = preview.QuerySelectorAll("[form=judge], #judge [name]").Select(e => (Name: e.GetAttribute("name")!, Value: e is AngleSharp.Html.Dom.IHtmlSelectElement s ? s.Value! : e.GetAttribute("value") ?? ""))
            .Where(f => f.Name.Length > 0 && f.Name != "__RequestVerificationToken").ToArray();
        var judged = await client.PostFormAsync(preview.QuerySelector("#judge")!.GetAttribute("action")!, fields);
        var result = new HtmlParser().ParseDocument(await judged.Content.ReadAsStringAsync(Cancel));
        result.QuerySelector("[data-headline]")!.TextContent.ShouldStartWith("Cylinder 3 pumps");
        result.QuerySelectorAll(".capture-trace .hump.is-low").Length.ShouldBeGreaterThan(4, "the server's own drawing stands");
        (await TestsAsync(job)).Count.ShouldBe(1);
    }

    [Theory]
    [InlineData(null, "", "Choose the file of the capture first.")]
    [InlineData("empty.csv", "", "This file is empty.")]
    [InlineData("letter.txt", "Dear all,\nthe engine shakes.\n", "No rows of numbers were found. The first line is \"Dear all,\"")]
    public async Task A_file_that_is_no_capture_is_refused_with_what_to_do(string? name, string content, string says)
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        var (status, page) = await SendAsync(client, 10, name, Encoding.UTF8.GetBytes(content));
        status.ShouldBe(HttpStatusCode.UnprocessableEntity);
        page.QuerySelector("[data-says]")!.TextContent.ShouldContain(says);
        page.QuerySelector("#file")!.ClassList.ShouldContain("is-invalid");
    }

    [Fact]
    public async Task A_line_that_cannot_be_read_is_named_and_nothing_is_judged()
    {
        var job = await site.JobAsync(Four);
        using var client = await SignedIn.ClientAsync(site.Address);
        var rows = Plain(Weak.Value).Split('\n');
        await SendAsync(client, job, "torn.csv", Encoding.UTF8.GetBytes(string.Join('\n', rows.Take(3000)) + "\nthe pen fell\n" + string.Join('\n', rows.Skip(3000))));
        Go(job);
        Judge();
        browser.Text("[data-code=bad-rows]").ShouldContain("3001");
    }

    [Fact]
    public async Task An_engine_without_firing_order_asks_for_it_and_one_cylinder_is_not_compared()
    {
        var job = await site.JobAsync("""{ "engine": { "cylinders": 4 } }""");
        Go(job);
        Bring(FileOf("order.csv", Plain(Weak.Value)));
        browser.Type("#firing-order", "1-3-4");
        browser.Click("[data-judge-now]");
        browser.UntilText("#firing-order-problem", "Write all 4 cylinders");
        browser.Type("#firing-order", "1-3-4-2");
        Judge();
        browser.Text("[data-headline]").ShouldStartWith("Cylinder 3 pumps");
        Go(await site.JobAsync("""{ "engine": { "cylinders": 1 } }"""));
        browser.Text(".stop").ShouldContain("One cylinder has nothing to be compared with");
        browser.All("#file").ShouldBeEmpty();
    }

    [Fact]
    public async Task A_viewer_looks_and_brings_nothing()
    {
        using var client = await SignedIn.ClientAsync(site.Address, "innvik");
        var page = new HtmlParser().ParseDocument(await client.GetStringAsync(new Uri("/jobs/10/relative-compression", UriKind.Relative), Cancel));
        page.QuerySelector("#file").ShouldBeNull();
        page.QuerySelectorAll("[data-line]:not([disabled])").ShouldBeEmpty();
        (await client.PostFormAsync("/jobs/10/relative-compression?handler=Upload")).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        (await client.GetAsync(new Uri("/jobs/10/relative-compression?capture=999999", UriKind.Relative), Cancel)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await client.GetAsync(new Uri("/jobs/10/relative-compression?handler=Picture&answer=1", UriKind.Relative), Cancel)).StatusCode.ShouldBe(HttpStatusCode.NotFound, "of another job");
    }

    [Theory]
    [InlineData(11, "Even: none below 85 %", null)]
    [InlineData(12, "Cylinder 4 has no compression", null)]
    [InlineData(13, "Hump ", "no-sync")]
    [InlineData(14, "Cylinder 3 pumps", "clamp-reversed")]
    [InlineData(15, "This capture cannot be judged", null)]
    public async Task The_demo_jobs_show_what_a_capture_can_say(int job, string headline, string? warning)
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        var page = new HtmlParser().ParseDocument(await client.GetStringAsync(new Uri($"/jobs/{job}/relative-compression", UriKind.Relative), Cancel));
        page.QuerySelector("[data-headline]")!.TextContent.ShouldStartWith(headline);
        if (warning is not null)
        {
            page.QuerySelector($"[data-code={warning}]").ShouldNotBeNull();
        }
        (await TestsAsync(job)).Count.ShouldBe(job == 15 ? 0 : 1);
        if (page.QuerySelector("[data-next-step]") is { } step)
        {
            var judgement = new HtmlParser().ParseDocument(await client.GetStringAsync(new Uri($"/jobs/{job}/judgement", UriKind.Relative), Cancel));
            step.GetAttribute("data-next-step").ShouldBe(judgement.QuerySelector("[data-next]")!.GetAttribute("data-next"), "one next step on every page");
        }
        (page.QuerySelector("[data-next-step]") is not null).ShouldBe(job is 11 or 12 or 14);
        var answer = page.QuerySelector(".trace")!.GetAttribute("data-trace")!;
        (await client.GetAsync(new Uri(answer, UriKind.Relative), Cancel)).Headers.CacheControl!.ToString().ShouldContain("immutable");
    }

    [Fact]
    public async Task Before_and_after_a_repair_are_held_against_each_other_over_two_jobs()
    {
        const string Van = """{ "vehicle": { "label": "Eel van" }, "engine": { "name": "2.0 inline four", "cylinders": 4, "fuel": "petrol", "compressionRatio": 10.2, "firingOrder": [1, 3, 4, 2] } }""";
        var (before, after) = (await site.JobAsync(Van), await site.JobAsync(Van));
        async Task KeepAsync(int job, string name, SimulatedCapture capture)
        {
            using var form = new MultipartFormDataContent { { new ByteArrayContent(Encoding.UTF8.GetBytes(Plain(capture))), "capture", name } };
            foreach (var (field, value) in new[] { ("cylinders", "4"), ("firingOrder", "1-3-4-2"), ("ampsPerVolt", "1000"), ("compressionRatio", "10.2"), ("job", job.ToString(CultureInfo.InvariantCulture)) })
            {
                form.Add(new StringContent(value), field);
            }
            (await site.Api.PostAsync("/api/v1/relative-compression", form, Cancel)).StatusCode.ShouldBe(HttpStatusCode.OK);
        }
        await KeepAsync(before, "valve-burnt.csv", Weak.Value);
        browser.Open($"{site.Address}/jobs/{before}/relative-compression/before-after");
        browser.Text("[data-too-few]").ShouldStartWith("One capture of this engine is judged.");
        await KeepAsync(after, "valve-ground.csv", SimulatedCapture.Of(SimulatedEngine.InlineFour, CrankingRun.Of(SimulatedEngine.InlineFour), new CaptureRecipe { SampleRateHz = 4000, Seed = 9 }));
        Go(after);
        browser.Click("[data-before-after]");
        browser.UntilText("[data-headline]", "Cylinder 3 rose from ");
        browser.Texts("[data-changes] td:last-child").ShouldBe(["no", "no", "yes", "no"]);
        browser.All(".both-traces path.was, .both-traces path.now").Count.ShouldBe(4, "two curves and their key");
        browser.Texts(".both-traces .hump-name").Order().ShouldBe(["1", "2", "3", "4"]);
        browser.Violations(colours: true).ShouldBeEmpty();
        // The other way round, by the form.
        var (first, second) = (browser.Value("#before"), browser.Value("#after"));
        browser.Script($"document.getElementById('before').value = '{second}'; document.getElementById('after').value = '{first}'");
        browser.Click("[data-compare]");
        browser.UntilText("[data-headline]", "Cylinder 3 fell from ");
        browser.Script($"document.getElementById('before').value = '{first}'");
        browser.Click("[data-compare]");
        browser.UntilText("[data-choose]", "Choose two different captures.");
        browser.Complaints().ShouldBeEmpty();
        browser.Open($"{site.Address}/jobs/12/relative-compression/before-after?before={first}");
        browser.Text("h1").ShouldBe("There is nothing at this address", "a capture of another engine");
    }

    [Fact]
    public async Task The_mean_cycle_is_taken_away_as_a_table_and_the_trace_as_a_picture()
    {
        browser.Open($"{site.Address}/jobs/12/relative-compression");
        browser.Until("the trace is open", () => browser.Script("return document.documentElement.dataset.trace ?? null") is "awake");
        using var client = await SignedIn.ClientAsync(site.Address);
        using var table = await client.GetAsync(new Uri(browser.Attribute("[data-cycle]", "href")), TestContext.Current.CancellationToken);
        table.Content.Headers.ContentType!.MediaType.ShouldBe("text/csv");
        var rows = (await table.Content.ReadAsStringAsync(TestContext.Current.CancellationToken)).Split('\n');
        rows[0].ShouldStartWith("degrees,nearest,mean_a,cycle_1_a");
        rows.Length.ShouldBeGreaterThan(100);
        (await client.GetAsync(new Uri($"{site.Address}/jobs/9/relative-compression?handler=Cycle"), TestContext.Current.CancellationToken)).StatusCode.ShouldBe(System.Net.HttpStatusCode.NotFound);

        // The picture is made in the browser: what would be saved is caught.
        browser.Script("HTMLAnchorElement.prototype.click = function () { window.saved = this.download; }; const make = URL.createObjectURL; URL.createObjectURL = blob => { window.picture = [blob.type, blob.size > 5000]; return make.call(URL, blob); }");
        browser.Click("[data-save-trace]");
        browser.Until("it was offered", () => browser.Script("return window.saved ?? null") is "job-0012-starter-current.png");
        browser.Script("return window.picture.join()").ShouldBe("image/png,true");
    }
}
