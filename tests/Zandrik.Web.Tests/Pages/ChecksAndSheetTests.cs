using System.Net;
using System.Text;
using System.Text.Json.Nodes;

namespace Zandrik.Web.Tests.Pages;

/// <summary>The small checks, the job sheet as page and PDF, and tests added by a script.</summary>
public sealed class ChecksAndSheetTests(Site site) : IClassFixture<Site>, IAsyncLifetime
{
    private HttpClient client = null!;

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync() => client = await SignedIn.ClientAsync(site.Address);

    public ValueTask DisposeAsync()
    {
        client.Dispose();
        return ValueTask.CompletedTask;
    }

    private Task<int> JobAsync(string engine = """{ "cylinders": 4, "lifters": "solid", "features": ["egr-cooler"] }""") => site.JobAsync($$"""{ "engine": {{engine}} }""");

    private async Task<JsonArray> TestsAsync(int job) => (await site.RecordAsync(job))["tests"]?.AsArray() ?? [];

    public static TheoryData<string, (string, string)[], string, string> EveryCheck() => new()
    {
        { "fluids", [("Findings", "milky-oil"), ("Findings", "coolant-loss")], """{"kind":"fluids","findings":["milky-oil","coolant-loss"]}""", "Coolant in the oil, coolant loss." },
        { "crank-sound", [("Result", "uneven")], """{"kind":"crank-sound","result":"uneven"}""", "one cylinder holds less" },
        { "coolant-in-intake", [("Result", "yes")], """{"kind":"fluids","coolantInIntake":true}""", "Do not start it" },
        { "combustion-gas", [("Result", "positive")], """{"kind":"combustion-gas","result":"positive"}""", "rule it out first" },
        { "blow-by", [("Result", "puffing")], """{"kind":"fluids","findings":["blow-by"],"blowBy":"puffing"}""", "Gas in puffs" },
        { "manifold-vacuum", [("Value", "48,5"), ("Unit", "kPa"), ("Result", "low")], """{"kind":"manifold-vacuum","unit":"kPa","value":48.5,"behaviour":"low"}""", "low and even" },
        { "oil-use", [("Litres", "1.2"), ("Distance", "1500"), ("DistanceUnit", "km")], """{"kind":"oil-use","litres":1.2,"distance":{"value":1500,"unit":"km"}}""", "0.8 litres in 1000 km: much" },
        {
            "oil-pressure", [("Unit", "bar"), ("Rows[0].Rpm", "750"), ("Rows[0].Value", "0.6"), ("Rows[0].Minimum", "0.8"), ("Rows[0].Temperature", "hot"), ("Rows[1].Rpm", "3000"), ("Rows[1].Value", "3.1"), ("Rows[1].Temperature", "hot"), ("Rows[2].Rpm", "4000"), ("Rows[2].Value", "3.15"), ("Rows[2].Temperature", "hot"), ("Rows[2].Dash", "1.5")],
            """{"kind":"oil-pressure","unit":"bar","readings":[{"rpm":750,"oilTemperature":"hot","value":0.6,"minimum":0.8},{"rpm":3000,"oilTemperature":"hot","value":3.1},{"rpm":4000,"oilTemperature":"hot","value":3.15,"dash":1.5}]}""", "the relief valve holds it there"
        },
        {
            "valve-clearance", [("ExhaustMin", "0.25"), ("ExhaustMax", "0.35"), ("Rows[0].Exhaust", ""), ("Rows[1].Exhaust", "0.12"), ("Rows[2].Exhaust", "0.3")],
            """{"kind":"valve-clearance","unit":"mm","readings":[{"cylinder":2,"valve":"exhaust","value":0.12,"minimum":0.25,"maximum":0.35},{"cylinder":3,"valve":"exhaust","value":0.3,"minimum":0.25,"maximum":0.35}]}""", "Too tight: exhaust of 2"
        },
        { "valve-clearance", [("NotAdjustable", "true"), ("Unit", "thou")], """{"kind":"valve-clearance","unit":"thou","adjustable":false}""", "Not adjustable on this engine" },
    };

    [Theory]
    [MemberData(nameof(EveryCheck))]
    public async Task Each_check_has_its_form_its_safe_order_and_its_place_in_the_record(string kind, (string, string)[] fields, string record, string says)
    {
        var job = await JobAsync();
        var page = await client.GetStringAsync(new Uri($"/jobs/{job}/checks/{kind}", UriKind.Relative), Cancel);
        page.ShouldContain("The safe order");
        page.ShouldContain("What can fool this test");
        var answer = await client.PostFormAsync($"/jobs/{job}/checks/{kind}", fields);
        answer.StatusCode.ShouldBe(HttpStatusCode.OK);
        WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync(Cancel)).ShouldContain(says);
        var test = (await TestsAsync(job)).ShouldHaveSingleItem()!.AsObject();
        test.Remove("at");
        test.Remove("by");
        JsonNode.DeepEquals(test, JsonNode.Parse(record)).ShouldBeTrue(test.ToJsonString());
        // Typed again it takes the place of the first; nothing chosen is said by the form.
        await client.PostFormAsync($"/jobs/{job}/checks/{kind}", fields);
        (await TestsAsync(job)).Count.ShouldBe(1);
        var empty = await client.PostFormAsync($"/jobs/{job}/checks/{kind}");
        empty.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await empty.Content.ReadAsStringAsync(Cancel)).ShouldContain("field-problem");
        await client.PostFormAsync($"/jobs/{job}/checks/{kind}?handler=Back");
        (await TestsAsync(job)).ShouldBeEmpty();
    }

    [Fact]
    public async Task What_cannot_be_is_said_by_its_field_and_what_was_typed_stays()
    {
        var job = await JobAsync();
        async Task<string> BadAsync(string kind, params (string, string)[] fields)
        {
            var answer = await client.PostFormAsync($"/jobs/{job}/checks/{kind}", fields);
            answer.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
            return WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync(Cancel));
        }
        (await BadAsync("fluids", ("Findings", "clean"), ("Findings", "oil-use"))).ShouldContain("Clean goes with no other finding");
        (await BadAsync("fluids", ("Findings", "milky-oil"), ("Findings", "no-coolant-in-oil"))).ShouldContain("both found and not found");
        var vacuum = await BadAsync("manifold-vacuum", ("Value", "500"), ("Unit", "kPa"));
        vacuum.ShouldContain("Write a number from 0 to 110");
        vacuum.ShouldContain("value=\"500\"");
        (await BadAsync("oil-pressure", ("Unit", "bar"), ("Rows[0].Value", "3"))).ShouldContain("At which speed was that read?");
        (await BadAsync("valve-clearance", ("IntakeMin", "0.3"), ("IntakeMax", "0.2"), ("Rows[0].Intake", "0.25"))).ShouldContain("The largest is below the smallest");
        (await client.GetAsync(new Uri($"/jobs/{job}/checks/steam", UriKind.Relative), Cancel)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await TestsAsync(job)).ShouldBeEmpty();
    }

    [Fact]
    public async Task The_job_sheet_holds_everything_and_the_pdf_says_the_same()
    {
        var page = WebUtility.HtmlDecode(await client.GetStringAsync(new Uri("/jobs/8/sheet", UriKind.Relative), Cancel));
        foreach (var text in new[] { "Shore van 9", "For the owner", "Air crosses between 2 and 3: head gasket between them.", "throttle open", "with Gauge 2, checked 2026-06-15", "Percent of highest: 23.1 %, fail (decides)", "restriction 1 mm", "M. Ostrel", "No combustion gas found", "Technician, day" })
        {
            page.ShouldContain(text);
        }
        // What the owner reads has no unit and no word of the trade's methods.
        var owner = page[page.IndexOf("class=\"owner\"", StringComparison.Ordinal)..];
        owner = owner[..owner.IndexOf("</p>", StringComparison.Ordinal)];
        owner.ShouldContain("head gasket between the two");
        owner.ShouldNotContain("psi");

        var pdf = await client.GetAsync(new Uri("/jobs/8/sheet?handler=Pdf", UriKind.Relative), Cancel);
        pdf.Content.Headers.ContentType!.MediaType.ShouldBe("application/pdf");
        pdf.Content.Headers.ContentDisposition!.FileName.ShouldBe("zandrik-job-0008.pdf");
        var bytes = await pdf.Content.ReadAsByteArrayAsync(Cancel);
        Encoding.ASCII.GetString(bytes, 0, 5).ShouldBe("%PDF-");
        using var read = PdfSharp.Pdf.IO.PdfReader.Open(new MemoryStream(bytes), PdfSharp.Pdf.IO.PdfDocumentOpenMode.Import);
        read.Info.Title.ShouldBe("Job 0008, Shore van 9");
        read.PageCount.ShouldBeInRange(1, 2);
        (await client.GetAsync(new Uri("/jobs/9999/sheet?handler=Pdf", UriKind.Relative), Cancel)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task One_reading_of_six_is_not_called_sound_on_paper()
    {
        var job = await site.JobAsync("""{ "engine": { "cylinders": 6 }, "tests": [{ "kind": "compression-dry", "unit": "psi", "readings": [{ "cylinder": 1, "value": 168 }] }] }""");
        var page = await new AngleSharp.Html.Parser.HtmlParser().ParseDocumentAsync(await client.GetStringAsync(new Uri($"/jobs/{job}/sheet", UriKind.Relative), Cancel), Cancel);
        string Row(int cylinder) => string.Join("|", page.QuerySelectorAll("table tr").Select(r => r.QuerySelectorAll("th, td").Select(c => c.TextContent.Trim()).ToList()).First(r => r[0] == $"{cylinder}"));
        Row(1).ShouldBe("1|168||not judged|Nothing to compare it with yet.");
        Row(2).ShouldBe("2|–||untested|Not measured yet.");
    }

    [Fact]
    public async Task A_long_job_goes_on_over_pages_and_an_empty_one_says_so()
    {
        var readings = string.Join(", ", Enumerable.Range(1, 12).Select(c => $$"""{ "cylinder": {{c}}, "value": {{150 + c}}, "repeats": [{{149 + c}}] }"""));
        var dry = $$"""{ "kind": "compression-dry", "unit": "psi", "readings": [{{readings}}] }""";
        var job = await site.JobAsync($$"""{ "complaint": "{{string.Concat(Enumerable.Repeat("Wørdthatneverends", 30))}}", "engine": { "cylinders": 12, "layout": "v" }, "tests": [{{string.Join(", ", Enumerable.Repeat(dry, 6))}}] }""");
        var bytes = await client.GetByteArrayAsync(new Uri($"/jobs/{job}/sheet?handler=Pdf", UriKind.Relative), Cancel);
        using var read = PdfSharp.Pdf.IO.PdfReader.Open(new MemoryStream(bytes), PdfSharp.Pdf.IO.PdfDocumentOpenMode.Import);
        read.PageCount.ShouldBeGreaterThan(2);
        (await client.GetStringAsync(new Uri($"/jobs/{await JobAsync()}/sheet", UriKind.Relative), Cancel)).ShouldContain("No compression reading has been taken yet.");
    }

    private async Task<HttpResponseMessage> AddAsync(int job, string test, string? key = null)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, $"/api/v1/jobs/{job}/tests") { Content = new StringContent(test, Encoding.UTF8, "application/json") };
        if (key is not null)
        {
            request.Headers.Add("Idempotency-Key", key);
        }
        return await site.Api.SendAsync(request, Cancel);
    }

    [Fact]
    public async Task A_script_adds_a_test_once_for_each_key()
    {
        var job = await JobAsync();
        const string Leak = """{ "kind": "leak-down", "unit": "psi", "supply": 100, "readings": [ { "cylinder": 2, "held": 55, "heard": [ { "at": "exhaust", "strength": "clear" } ] } ], "bench": "seven" }""";
        var first = await AddAsync(job, Leak, "round-1");
        first.StatusCode.ShouldBe(HttpStatusCode.Created);
        (await (await AddAsync(job, Leak, "round-1")).Content.ReadAsStringAsync(Cancel)).ShouldBe(await first.Content.ReadAsStringAsync(Cancel));
        (await TestsAsync(job)).Count.ShouldBe(1);
        ((string)(await TestsAsync(job))[0]!["bench"]!).ShouldBe("seven", "unknown fields are kept");
        (await AddAsync(job, Leak.Replace("55", "56", StringComparison.Ordinal), "round-1")).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await AddAsync(await JobAsync(), Leak, "round-1")).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await AddAsync(job, Leak)).StatusCode.ShouldBe(HttpStatusCode.Created);
        (await TestsAsync(job)).Count.ShouldBe(2);
        var bad = await AddAsync(job, """{ "kind": "leak-down", "readings": [ { "cylinder": 9, "held": 55 } ] }""");
        bad.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await bad.Content.ReadAsStringAsync(Cancel)).ShouldContain("\"pointer\":\"/readings/0/cylinder\"");
        (await AddAsync(job, "{")).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await AddAsync(9999, Leak)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }
}
