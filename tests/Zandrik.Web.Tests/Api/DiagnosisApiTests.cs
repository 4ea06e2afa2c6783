using System.Net;
using System.Text;
using System.Text.Json.Nodes;

namespace Zandrik.Web.Tests.Api;

public sealed class DiagnosisApiTests(Site site) : IClassFixture<Site>
{
    private async Task<(HttpStatusCode Status, JsonNode Body)> AskAsync(string json, string type = "application/json")
    {
        var answer = await site.Api.PostAsync(new Uri("/api/v1/diagnosis", UriKind.Relative), new StringContent(json, Encoding.UTF8, type), TestContext.Current.CancellationToken);
        return (answer.StatusCode, JsonNode.Parse(await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken))!);
    }

    [Fact]
    public async Task A_record_answers_with_every_name_of_the_contract()
    {
        var (status, body) = await AskAsync("""
            { "format": "zandrik-test-record", "version": 1, "engine": { "cylinders": 4, "fuel": "petrol", "displacementCc": 2000, "spec": { "unit": "psi", "nominal": 190, "minimum": 140 } },
              "tests": [ { "kind": "compression-dry", "unit": "psi", "readings": [ { "cylinder": 1, "value": 190 }, { "cylinder": 2, "value": 188 }, { "cylinder": 3, "value": 131 }, { "cylinder": 4, "value": 191 } ] },
                { "kind": "leak-down", "unit": "psi", "supply": 100, "readings": [ { "cylinder": 3, "leakPercent": 85, "heard": [ { "at": "exhaust", "strength": "strong" } ] } ] } ] }
            """);
        status.ShouldBe(HttpStatusCode.OK, body.ToJsonString());
        ((string)body["engine"]!["state"]!).ShouldBe("faulty");
        ((string)body["engine"]!["headline"]!).ShouldContain("exhaust valve");
        body["engine"]!["suspects"]!.AsArray().Sum(s => (double)s!["probability"]!).ShouldBe(1, 0.01);
        var third = body["cylinders"]![2]!;
        ((string)third["state"]!).ShouldBe("low");
        var lead = third["suspects"]![0]!;
        ((string)lead["fault"]!).ShouldBe("exhaust-valve");
        var odds = 10 * Math.Log10((double)lead["probability"]! / (1 - (double)lead["probability"]!));
        lead["evidence"]!.AsArray().Sum(e => (double)e!["weightDb"]!).ShouldBe(odds, 0.3);
        lead["evidence"]!.AsArray().Where(e => e!["test"] is not null).Select(e => (int)e!["test"]!).ShouldBe([0, 1, 1]);
        body["spread"]!.AsArray().Single(s => (bool)s!["deciding"]!)!["unit"]!.GetValue<string>().ShouldBe("%");
        body["nextTests"]!.AsArray().Count.ShouldBeInRange(0, 3);
        body["actions"]!.AsArray().Select(a => (string)a!["action"]!).ShouldContain("adjust-valves");
        body["validity"]!.AsArray().ShouldNotBeNull();
    }

    [Fact]
    public async Task The_demo_jobs_give_the_same_answer_through_the_page_and_through_the_api()
    {
        using var client = await SignedIn.ClientAsync(site.Address);
        foreach (var job in new[] { 2, 8, 12 })
        {
            var (_, body) = await AskAsync((await site.RecordAsync(job)).ToJsonString());
            var page = new AngleSharp.Html.Parser.HtmlParser().ParseDocument(await client.GetStringAsync(new Uri($"/jobs/{job}/judgement", UriKind.Relative), TestContext.Current.CancellationToken));
            page.QuerySelector("[data-engine]")!.TextContent.ShouldBe((string)body["engine"]!["headline"]!);
            page.QuerySelector("[data-engine]")!.GetAttribute("data-engine").ShouldBe((string)body["engine"]!["state"]!);
            page.QuerySelectorAll("[data-next]").Select(n => n.GetAttribute("data-next")).ShouldBe(body["nextTests"]!.AsArray().Select(n => (string)n!["kind"]!));
        }
    }

    [Theory]
    [InlineData("{ \"format\": \"other\", \"version\": 1, \"engine\": { \"cylinders\": 4 } }", "/format")]
    [InlineData("{ \"format\": \"zandrik-test-record\", \"version\": 1, \"engine\": { \"cylinders\": 0 } }", "/engine/cylinders")]
    public async Task What_is_malformed_is_named_by_its_place(string json, string pointer)
    {
        var (status, body) = await AskAsync(json);
        status.ShouldBe(HttpStatusCode.BadRequest);
        body["errors"]!.AsArray().Select(e => (string)e!["pointer"]!).ShouldContain(pointer);
    }

    [Fact]
    public async Task Without_a_token_with_another_type_or_too_large_it_is_refused()
    {
        using var stranger = new HttpClient { BaseAddress = new Uri(site.Address) };
        (await stranger.PostAsync(new Uri("/api/v1/diagnosis", UriKind.Relative), new StringContent("{}", Encoding.UTF8, "application/json"), TestContext.Current.CancellationToken)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        (await AskAsync("{}", "text/plain")).Status.ShouldBe(HttpStatusCode.UnsupportedMediaType);
        (await AskAsync($"{{ \"complaint\": \"{new string('x', 1_100_000)}\" }}")).Status.ShouldBe(HttpStatusCode.RequestEntityTooLarge);
    }
}
