using System.Collections.Concurrent;
using System.Diagnostics;
using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;
using Npgsql;

namespace Zandrik.Web.Tests.Pages;

/// <summary>Whatever page somebody looks at, it tells one story of a job; and a page costs one question to the database.</summary>
public sealed class OneStoryTests(Site site) : IClassFixture<Site>, IAsyncLifetime
{
    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private HttpClient client = null!;

    public async ValueTask InitializeAsync() => client = await SignedIn.ClientAsync(site.Address);

    public ValueTask DisposeAsync()
    {
        client.Dispose();
        return ValueTask.CompletedTask;
    }

    private async Task<IHtmlDocument> PageAsync(string address) => new HtmlParser().ParseDocument(await client.GetStringAsync(new Uri(address, UriKind.Relative), Cancel));

    // Records as they may come: any tests, in any order, whole and half done, begun twice, with and without signs.
    private static JsonObject Record(Random chance, int n)
    {
        JsonArray Readings(Func<int, JsonObject> make, double share) => [.. Enumerable.Range(1, 4).Where(_ => chance.NextDouble() < share).Select(c => { var r = make(c); r["cylinder"] = c; return (JsonNode)r; })];
        double level = chance.Next(90, 205);
        double Dry() => chance.Next(4) == 0 ? chance.Next(30, 200) : level + chance.Next(-6, 6);
        var tests = new JsonArray();
        for (var i = chance.Next(5); i > 0; i--)
        {
            var share = chance.Next(3) == 0 ? 0.4 : 1;
            tests.Add(chance.Next(6) switch
            {
                0 or 1 => new JsonObject { ["kind"] = "compression-dry", ["unit"] = "psi", ["readings"] = Readings(_ => new JsonObject { ["value"] = Dry() }, share) },
                2 => new JsonObject { ["kind"] = "leak-down", ["unit"] = "psi", ["supply"] = 100, ["readings"] = Readings(_ => new JsonObject { ["leakPercent"] = chance.Next(3, 90), ["heard"] = new JsonArray(new JsonObject { ["at"] = chance.Next(2) == 0 ? "exhaust" : "oil-filler", ["strength"] = "clear" }) }, share / 2) },
                3 => new JsonObject { ["kind"] = "relative-compression", ["readings"] = Readings(_ => new JsonObject { ["relativePercent"] = chance.Next(40, 100) }, share) },
                4 => new JsonObject { ["kind"] = "compression-running", ["unit"] = "psi", ["readings"] = Readings(_ => new JsonObject { ["idle"] = chance.Next(60, 110), ["snap"] = chance.Next(80, 170) }, share) },
                _ => new JsonObject { ["kind"] = "combustion-gas", ["result"] = chance.Next(2) == 0 ? "positive" : "negative" },
            });
        }
        string[] signs = ["misfire", "coolant-loss", "no-start", "oil-use", "coolant-in-cylinder"];
        return new JsonObject
        {
            ["format"] = "zandrik-test-record", ["version"] = 1, ["vehicle"] = new JsonObject { ["label"] = $"Story {n}" },
            ["engine"] = new JsonObject { ["cylinders"] = 4, ["fuel"] = chance.Next(3) == 0 ? "diesel" : "petrol", ["layout"] = "inline", ["displacementCc"] = 2000, ["spec"] = new JsonObject { ["unit"] = "psi", ["nominal"] = 190, ["minimum"] = 140 } },
            ["observations"] = new JsonArray([.. signs.Where(_ => chance.Next(5) == 0).Select(s => (JsonNode)s)]), ["tests"] = tests,
        };
    }

    [Fact]
    public async Task While_a_dry_test_is_begun_anew_every_page_and_the_sheet_say_that_the_one_before_it_is_judged()
    {
        static string Dry(params int[] psi) => $$"""{ "kind": "compression-dry", "unit": "psi", "readings": [{{string.Join(',', psi.Select((value, i) => $$"""{ "cylinder": {{i + 1}}, "value": {{value}} }"""))}}] }""";
        async Task<string?[]> SaidAsync(params string[] tests)
        {
            var job = await site.JobAsync($$"""{ "engine": { "cylinders": 6 }, "tests": [{{string.Join(',', tests)}}] }""");
            string[] pages = ["dry", "wet", "leak-down", "judgement", "verdict", "sheet"];
            var said = new List<string?>();
            foreach (var page in pages)
            {
                var shown = await PageAsync($"/jobs/{job}/{page}");
                said.Add(page == "sheet" ? shown.QuerySelectorAll("li").Select(l => l.TextContent.Trim()).SingleOrDefault(t => t.StartsWith("The dry test begun", StringComparison.Ordinal))
                    : shown.QuerySelector("[data-begun-anew], [data-code=begun-anew]")?.TextContent);
            }
            return [.. said];
        }
        (await SaidAsync(Dry(170, 171, 90, 172, 170, 169), Dry(165))).ShouldAllBe(said => said == "The dry test begun last has 1 of 6 cylinders so far. The one before it is judged until this one has half as many.");
        (await SaidAsync(Dry(170, 171, 90, 172, 170, 169), Dry(165, 168, 88))).ShouldAllBe(said => said == null);
    }

    [Fact]
    public async Task Every_page_tells_the_same_of_a_job()
    {
        var chance = new Random(20261129);
        for (var n = 0; n < 12; n++)
        {
            var record = Record(chance, n);
            using var sent = new StringContent(record.ToJsonString(), Encoding.UTF8, "application/json");
            using var answer = await site.Api.PostAsync(new Uri("/api/v1/jobs", UriKind.Relative), sent, Cancel);
            var text = await answer.Content.ReadAsStringAsync(Cancel);
            answer.StatusCode.ShouldBe(HttpStatusCode.Created, text);
            var job = (int)JsonNode.Parse(text)!["id"]!;

            var judgement = await PageAsync($"/jobs/{job}/judgement");
            var headline = Text(judgement, ".headline[data-says]");
            var state = judgement.QuerySelector("[data-engine]")!.GetAttribute("data-engine");
            var next = Next(judgement.QuerySelector("[data-card-next]:not([data-card-next=verdict])") ?? judgement.QuerySelector("[data-next]"));
            var untouched = next is not "liquid" && States(judgement, "svg.columns .column").All(s => s == "is-untested");
            foreach (var step in (string[])["dry", "leak-down", "wet", "plugs", "checks/combustion-gas"])
            {
                var page = await PageAsync($"/jobs/{job}/{step}");
                Text(page, "[data-card-headline]").ShouldBe(headline, $"{step} of {record.ToJsonString()}");
                // Where the page itself is what is done next, its own controls are the way; before anything is read the gauge waits at its step, and the plugs lead to it.
                var onward = untouched ? step switch { "dry" => null, "plugs" => "compression-dry", _ => next } : next == KindOf(step) ? null : next ?? "verdict";
                Next(page.QuerySelector("[data-card-next]")).ShouldBe(onward, $"{step} of {record.ToJsonString()}");
                page.QuerySelector(".judgement-card h3")?.TextContent.ShouldBe($"Cylinder {judgement.QuerySelector("svg.columns .selected")!.GetAttribute("data-cylinder")}", step);
                page.QuerySelector("[data-judgement]")!.GetAttribute("data-judgement").ShouldBe(state);
            }
            var verdict = await PageAsync($"/jobs/{job}/verdict");
            Text(verdict, ".headline[data-says]").ShouldBe(headline);
            verdict.QuerySelector("[data-engine]")!.GetAttribute("data-engine").ShouldBe(state);

            var bays = await PageAsync("/");
            var bay = bays.QuerySelector($".bay-link[href='/jobs/{job}/dry']")!;
            bay.QuerySelector(".bay-says")!.TextContent.Replace('\u00a0', ' ').Trim().ShouldBe(headline);
            bay.QuerySelector(".bay-foot span")!.TextContent.ShouldStartWith(next is null ? "no further test needed" : "next: ");
            States(bay, "svg.strip > g").ShouldBe(States(judgement, "svg.columns .column"), record.ToJsonString());

            // A record that comes alone says of the engine what the job does.
            using var again = new StringContent(record.ToJsonString(), Encoding.UTF8, "application/json");
            var said = JsonNode.Parse(await (await site.Api.PostAsync(new Uri("/api/v1/diagnosis", UriKind.Relative), again, Cancel)).Content.ReadAsStringAsync(Cancel))!;
            ((string)said["engine"]!["headline"]!).ShouldBe(headline);
            ((string)said["engine"]!["state"]!).ShouldBe(state);
        }

        static string KindOf(string step) => step switch { "dry" => "compression-dry", "wet" => "compression-wet", "plugs" => "plug-inspection", _ => step.Replace("checks/", "", StringComparison.Ordinal) };
        static string[] States(AngleSharp.Dom.IParentNode within, string css) => [.. within.QuerySelectorAll(css).Select(c => c.ClassList.Single(k => k.StartsWith("is-", StringComparison.Ordinal)))];
        static string Text(IHtmlDocument page, string css) => page.QuerySelector(css)!.TextContent.Trim();
        static string? Next(AngleSharp.Dom.IElement? of) => of?.GetAttribute("data-card-next") ?? of?.GetAttribute("data-next");
    }

    [Fact]
    public async Task A_page_asks_the_database_once_and_once_more_after_a_change()
    {
        var asked = new ConcurrentQueue<string>();
        var database = new NpgsqlConnectionStringBuilder(site.Connection).Database!;
        using var listener = new ActivityListener
        {
            ShouldListenTo = s => s.Name == "Npgsql",
            Sample = (ref ActivityCreationOptions<ActivityContext> _) => ActivitySamplingResult.AllData,
            // Whatever else runs in this process has another database.
            ActivityStopped = a =>
            {
                if (a.TagObjects.Any(t => t.Value as string == database) && a.OperationName is not ("open" or "connect"))
                {
                    asked.Enqueue(string.Join(' ', a.TagObjects.Select(t => $"{t.Key}={t.Value}")));
                }
            },
        };
        foreach (var address in (string[])["/jobs/8/dry", "/jobs/8/judgement", "/jobs/8/leak-down", "/jobs/8/plan", "/"])
        {
            // Only loaded, so that a listener hears nothing of the first time.
            await client.GetStringAsync(new Uri(address, UriKind.Relative), Cancel);
            ActivitySource.AddActivityListener(listener);
            asked.Clear();
            await client.GetStringAsync(new Uri(address, UriKind.Relative), Cancel);
            asked.Count.ShouldBe(1, $"{address}: {string.Join('\n', asked)}");
        }
        (await client.PostFormAsync("/jobs/8/dry?handler=Unit", ("unit", "bar"))).EnsureSuccessStatusCode();
        foreach (var (address, count) in (IEnumerable<(string, int)>)[("/jobs/8/judgement", 1), ("/", 1)])
        {
            asked.Clear();
            await client.GetStringAsync(new Uri(address, UriKind.Relative), Cancel);
            asked.Count.ShouldBe(count, $"{address}: the form's own answer had it loaded already: {string.Join('\n', asked)}");
        }
        (await site.Api.PostAsync(new Uri("/api/v1/jobs/8/tests", UriKind.Relative), new StringContent("""{ "kind": "oil-use", "litres": 1, "distance": { "value": 1000, "unit": "km" } }""", Encoding.UTF8, "application/json"), Cancel)).EnsureSuccessStatusCode();
        asked.Clear();
        await client.GetStringAsync(new Uri("/jobs/8/judgement", UriKind.Relative), Cancel);
        asked.Count.ShouldBe(2, string.Join('\n', asked));
    }

    [Fact]
    public async Task A_page_that_is_still_the_same_is_not_sent_again()
    {
        async Task<(HttpStatusCode Status, string? Tag, string Body)> GetAsync(HttpClient by, string address, string? tag = null)
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, address);
            if (tag is not null)
            {
                request.Headers.TryAddWithoutValidation("If-None-Match", tag);
            }
            using var answer = await by.SendAsync(request, Cancel);
            return (answer.StatusCode, answer.Headers.ETag?.ToString(), await answer.Content.ReadAsStringAsync(Cancel));
        }
        foreach (var address in (string[])["/jobs/8/dry", "/jobs/8/judgement", "/jobs/8/verdict", "/"])
        {
            await GetAsync(client, address);
            var first = await GetAsync(client, address);
            first.Tag.ShouldNotBeNull(address);
            var second = await GetAsync(client, address, first.Tag);
            second.Status.ShouldBe(HttpStatusCode.NotModified, address);
            second.Body.ShouldBeEmpty();
            // Another address, another person, another way of asking: another page.
            (await GetAsync(client, address + "?cylinder=2", first.Tag)).Status.ShouldBe(HttpStatusCode.OK);
            using var colleague = await SignedIn.ClientAsync(site.Address, "hallan");
            (await GetAsync(colleague, address, first.Tag)).Status.ShouldBe(HttpStatusCode.OK);
            (await client.PostFormAsync("/jobs/8/dry?handler=Unit", ("unit", address.Length % 2 == 0 ? "bar" : "psi"))).EnsureSuccessStatusCode();
            (await GetAsync(client, address, first.Tag)).Status.ShouldBe(HttpStatusCode.OK, "the unit was changed since");
        }
        // What is made anew each time has none, and pages are kept by nobody between server and bay.
        (await GetAsync(client, "/jobs/8/sheet")).Tag.ShouldBeNull();
        using var page = await client.GetAsync(new Uri("/jobs/8/dry", UriKind.Relative), Cancel);
        page.Headers.CacheControl!.ToString().ShouldBe("no-cache, private");
        page.Headers.Vary.ShouldContain("Cookie");
        using var form = await client.GetAsync(new Uri("/jobs/8/intake", UriKind.Relative), Cancel);
        form.Headers.CacheControl!.NoStore.ShouldBeTrue();
    }
}
