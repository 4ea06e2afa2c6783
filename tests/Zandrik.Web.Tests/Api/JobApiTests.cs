using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json.Nodes;

namespace Zandrik.Web.Tests.Api;

public sealed class JobApiTests(Site site) : IClassFixture<Site>
{
    private const string Small = """{ "format": "zandrik-test-record", "version": 1, "engine": { "cylinders": 4 } }""";

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private static StringContent Json(string body) => new(body, Encoding.UTF8, "application/json");

    private static async Task<JsonNode> NodeAsync(HttpResponseMessage answer) =>
        JsonNode.Parse(await answer.Content.ReadAsStringAsync(Cancel))!;

    private async Task<HttpResponseMessage> PostAsync(string body, string? key = null)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, "/api/v1/jobs") { Content = Json(body) };
        if (key is not null)
        {
            request.Headers.Add("Idempotency-Key", key);
        }
        return await site.Api.SendAsync(request, Cancel);
    }

    [Fact]
    public async Task A_record_becomes_a_job_and_is_read_back_at_its_address()
    {
        foreach (var file in Directory.GetFiles(Path.Combine(Repository.Root, "demo", "records")))
        {
            var record = await File.ReadAllTextAsync(file, Cancel);
            var made = await PostAsync(record);
            made.StatusCode.ShouldBe(HttpStatusCode.Created);
            var read = await site.Api.GetAsync(made.Headers.Location, Cancel);
            JsonNode.DeepEquals(await NodeAsync(read), JsonNode.Parse(record)).ShouldBeTrue(file);
        }
    }

    [Fact]
    public async Task A_job_measured_in_another_way_than_dry_does_not_wait_for_its_first_reading()
    {
        var made = await PostAsync("""
            { "format": "zandrik-test-record", "version": 1, "vehicle": { "label": "Only air" }, "engine": { "cylinders": 4 },
              "tests": [ { "kind": "leak-down", "readings": [ { "cylinder": 2, "leakPercent": 85, "heard": [ { "at": "exhaust", "strength": "strong" } ] } ] } ] }
            """);
        made.StatusCode.ShouldBe(HttpStatusCode.Created);
        using var client = await SignedIn.ClientAsync(site.Address);
        var bay = new AngleSharp.Html.Parser.HtmlParser().ParseDocument(await client.GetStringAsync(new Uri("/", UriKind.Relative), Cancel))
            .QuerySelectorAll(".bay-link").Single(b => b.TextContent.Contains("Only air", StringComparison.Ordinal)).TextContent;
        bay.ShouldContain("Cylinder 2");
        bay.ShouldNotContain("Nothing measured");
        bay.ShouldNotContain("first reading");
    }

    [Fact]
    public async Task Bad_fields_are_problem_details_with_their_pointers()
    {
        var answer = await PostAsync(Small.Replace("4 }", "4, \"fuel\": \"steam\", \"firingOrder\": 7 }", StringComparison.Ordinal));
        answer.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        answer.Content.Headers.ContentType!.MediaType.ShouldBe("application/problem+json");
        var problem = await NodeAsync(answer);
        problem["errors"]!.AsArray().Select(e => (string)e!["pointer"]!).ShouldBe(["/engine/fuel", "/engine/firingOrder"]);
        ((string)problem["errors"]![0]!["detail"]!).ShouldBe("Use one of: petrol, diesel, lpg, cng, ethanol.");
    }

    [Theory]
    [InlineData("", HttpStatusCode.BadRequest)]
    [InlineData("not json", HttpStatusCode.BadRequest)]
    public async Task What_is_no_record_is_refused(string body, HttpStatusCode code) => (await PostAsync(body)).StatusCode.ShouldBe(code);

    [Fact]
    public async Task More_than_a_mebibyte_is_refused_with_or_without_a_length()
    {
        var large = Small[..^2] + ", \"x\": \"" + new string('a', 1024 * 1024) + "\" }";
        (await PostAsync(large)).StatusCode.ShouldBe(HttpStatusCode.RequestEntityTooLarge);
        using var chunked = new HttpRequestMessage(HttpMethod.Post, "/api/v1/jobs") { Content = Json(large) };
        chunked.Headers.TransferEncodingChunked = true;
        (await site.Api.SendAsync(chunked, Cancel)).StatusCode.ShouldBe(HttpStatusCode.RequestEntityTooLarge);
    }

    [Fact]
    public async Task Something_other_than_json_is_an_unsupported_type()
    {
        using var content = new StringContent(Small, Encoding.UTF8, "text/plain");
        (await site.Api.PostAsync("/api/v1/jobs", content, Cancel)).StatusCode.ShouldBe(HttpStatusCode.UnsupportedMediaType);
    }

    [Fact]
    public async Task The_same_key_makes_one_job()
    {
        var key = Guid.NewGuid().ToString();
        var first = await PostAsync(Small, key);
        var again = await PostAsync(Small, key);
        again.StatusCode.ShouldBe(HttpStatusCode.Created);
        again.Headers.Location.ShouldBe(first.Headers.Location);
        var other = await PostAsync(Small.Replace('4', '5'), key);
        other.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        ((string)(await NodeAsync(other))["detail"]!).ShouldContain("new key");
    }

    [Theory]
    [InlineData(null, "Send a token")]
    [InlineData("Bearer wrong", "unknown, was revoked")]
    [InlineData("Basic zandrik-demo-token", "Send a token")]
    public async Task Without_a_token_of_the_shop_nothing_opens(string? header, string says)
    {
        using var client = new HttpClient { BaseAddress = new Uri(site.Address) };
        client.DefaultRequestHeaders.TryAddWithoutValidation("Authorization", header);
        var answer = await client.GetAsync(new Uri("/api/v1/jobs/1/record", UriKind.Relative), Cancel);
        answer.StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        answer.Headers.WwwAuthenticate.ToString().ShouldBe("Bearer");
        ((string)(await NodeAsync(answer))["detail"]!).ShouldContain(says);
        (await client.PostAsync(new Uri("/api/v1/jobs", UriKind.Relative), Json(Small), Cancel)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Theory]
    [InlineData("/api/v1/jobs/999999/record")]
    [InlineData("/api/v1/nothing")]
    public async Task What_is_not_there_is_a_problem_not_a_page(string address)
    {
        var answer = await site.Api.GetAsync(new Uri(address, UriKind.Relative), Cancel);
        answer.StatusCode.ShouldBe(HttpStatusCode.NotFound);
        answer.Content.Headers.ContentType!.MediaType.ShouldBe("application/problem+json");
    }

    [Fact]
    public async Task A_wrong_method_is_a_problem_too() =>
        (await site.Api.DeleteAsync(new Uri("/api/v1/jobs/1/record", UriKind.Relative), Cancel)).IsSuccessStatusCode.ShouldBeFalse();

    [Fact]
    public async Task The_schema_the_description_and_the_health_addresses_answer()
    {
        using var client = new HttpClient { BaseAddress = new Uri(site.Address) };
        var schema = await client.GetFromJsonAsync<JsonNode>("/schema/test-record-1.json", Cancel);
        ((string)schema!["$schema"]!).ShouldContain("2020-12");
        var api = await client.GetFromJsonAsync<JsonNode>("/openapi/v1.json", Cancel);
        api!["paths"]!.AsObject().Select(p => p.Key).ShouldBe(["/schema/test-record-1.json", "/api/v1/jobs", "/api/v1/jobs/{id}/tests", "/api/v1/jobs/{id}/record", "/api/v1/jobs/{id}/captures/{capture}", "/api/v1/relative-compression", "/api/v1/relative-compression/batch", "/api/v1/diagnosis"], ignoreOrder: true);
        api["paths"]!["/api/v1/jobs"]!["post"]!["security"]!.AsArray().Count.ShouldBe(1);
        (await client.GetStringAsync(new Uri("/health/live", UriKind.Relative), Cancel)).ShouldBe("Healthy");
        (await client.GetStringAsync(new Uri("/health/ready", UriKind.Relative), Cancel)).ShouldBe("Healthy");
        var health = await client.GetFromJsonAsync<JsonNode>("/health", Cancel);
        var version = (string)health!["version"]!;
        (version, (bool)health["ready"]!).ShouldBe((typeof(Program).Assembly.GetName().Version!.ToString(3), true));
        (await client.GetStringAsync(new Uri("/sign-in", UriKind.Relative), Cancel)).ShouldContain($">Zandrik {version[..3]}</footer>");
    }

    [Fact]
    public async Task Jobs_are_listed_page_by_page_to_the_last()
    {
        var seen = new List<int>();
        var address = "/api/v1/jobs?limit=3&state=closed";
        while (address is not null)
        {
            var page = JsonNode.Parse(await site.Api.GetStringAsync(new Uri(address, UriKind.Relative), TestContext.Current.CancellationToken))!;
            seen.AddRange(page["jobs"]!.AsArray().Select(j => (int)j!["id"]!));
            address = (string?)page["next"];
        }
        seen.ShouldContain(1);
        seen.Distinct().Count().ShouldBe(seen.Count);
        (await site.Api.GetAsync(new Uri("/api/v1/jobs?limit=1000", UriKind.Relative), TestContext.Current.CancellationToken)).StatusCode.ShouldBe(System.Net.HttpStatusCode.BadRequest);
    }
}
