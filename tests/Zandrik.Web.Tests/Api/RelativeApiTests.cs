using System.Globalization;
using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using Zandrik.Core.Physics;
using Zandrik.Core.Simulation;

namespace Zandrik.Web.Tests.Api;

public sealed class RelativeApiTests(Site site) : IClassFixture<Site>
{
    private static readonly SimulatedEngine Four = SimulatedEngine.InlineFour;

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private static readonly Lazy<string> Weak = new(() => Csv(new() { [3] = new CylinderCondition { ExhaustValveM2 = 2e-6 } }));

    private static string Csv(Dictionary<int, CylinderCondition> condition, double seconds = 4)
    {
        var text = new StringWriter(CultureInfo.InvariantCulture);
        SimulatedCapture.Of(Four, CrankingRun.Of(Four, condition, new Cranking { Seconds = seconds }), new CaptureRecipe { SampleRateHz = 4000 }).WriteCsv(text);
        return text.ToString();
    }

    private async Task<(HttpStatusCode Status, JsonNode Body)> AskAsync(string? capture, params (string Name, string Value)[] fields)
    {
        using var form = new MultipartFormDataContent();
        if (capture is not null)
        {
            form.Add(new ByteArrayContent(Encoding.UTF8.GetBytes(capture)), "capture", "crank.csv");
        }
        foreach (var (name, value) in fields)
        {
            form.Add(new StringContent(value), name);
        }
        var answer = await site.Api.PostAsync("/api/v1/relative-compression", form, Cancel);
        return (answer.StatusCode, JsonNode.Parse(await answer.Content.ReadAsStringAsync(Cancel))!);
    }

    private async Task<JsonNode[]> BatchAsync(string? key, params (string Name, string Value)[] parts)
    {
        using var form = new MultipartFormDataContent();
        foreach (var (name, value) in parts)
        {
            if (name.EndsWith(".csv", StringComparison.Ordinal))
            {
                form.Add(new ByteArrayContent(Encoding.UTF8.GetBytes(value)), "capture", name);
            }
            else
            {
                form.Add(new StringContent(value), name);
            }
        }
        using var request = new HttpRequestMessage(HttpMethod.Post, "/api/v1/relative-compression/batch") { Content = form };
        if (key is not null)
        {
            request.Headers.Add("Idempotency-Key", key);
        }
        using var answer = await site.Api.SendAsync(request, Cancel);
        answer.StatusCode.ShouldBe(HttpStatusCode.OK);
        answer.Content.Headers.ContentType!.MediaType.ShouldBe("application/x-ndjson");
        return [.. (await answer.Content.ReadAsStringAsync(Cancel)).Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(l => JsonNode.Parse(l)!)];
    }

    [Fact]
    public async Task A_batch_answers_each_capture_as_it_alone_and_a_bad_one_stops_no_other()
    {
        var job = await site.JobAsync("""{ "engine": { "cylinders": 4, "firingOrder": [1, 3, 4, 2] } }""");
        (string, string)[] parts = [("cylinders", "4"), ("firingOrder", "1-3-4-2"), ("weak.csv", Weak.Value), ("words.csv", "no numbers here\n"), ("firingOrder", "1-2"), ("short.csv", Weak.Value),
            ("firingOrder", "1-3-4-2"), ("job", job.ToString(CultureInfo.InvariantCulture)), ("kept.csv", Weak.Value)];
        var lines = await BatchAsync("monday", parts);
        lines.Select(l => ((int)l["number"]!, (string)l["capture"]!, (int)l["status"]!)).ShouldBe([(1, "weak.csv", 200), (2, "words.csv", 422), (3, "short.csv", 400), (4, "kept.csv", 200)]);
        var (_, alone) = await AskAsync(Weak.Value, ("cylinders", "4"), ("firingOrder", "1-3-4-2"));
        lines[0]["answer"]!.ToJsonString().ShouldBe(alone.ToJsonString());
        ((bool)lines[1]["answer"]!["refused"]!).ShouldBeTrue();
        ((string)lines[2]["answer"]!["errors"]![0]!["pointer"]!).ShouldBe("/firingOrder");
        ((int)lines[3]["answer"]!["stored"]!["job"]!).ShouldBe(job);
        // Sent again after a lost answer, nothing is kept twice.
        (await BatchAsync("monday", parts))[3]["answer"]!["stored"]!.ToJsonString().ShouldBe(lines[3]["answer"]!["stored"]!.ToJsonString());
        (await site.RecordAsync(job))["tests"]!.AsArray().Count.ShouldBe(1);
        (await BatchAsync(null, ("cylinders", "4"))).Select(l => (int)l["status"]!).ShouldBe([400]);
    }

    [Fact]
    public async Task A_capture_answers_with_its_cylinders_and_what_was_assumed()
    {
        var (status, body) = await AskAsync(Weak.Value, ("cylinders", "4"), ("firingOrder", "1-3-4-2"), ("ampsPerVolt", "1000"));
        status.ShouldBe(HttpStatusCode.OK);
        ((double)body["sampleRateHz"]!).ShouldBe(4000, 1);
        ((bool)body["synchronised"]!).ShouldBeTrue();
        ((string)body["confidence"]!).ShouldBe("high");
        ((double)body["inrushAmps"]!).ShouldBeInRange(600, 700);
        var cylinders = body["cylinders"]!.AsArray();
        cylinders.Select(c => (int)c!["cylinder"]!).ShouldBe([1, 3, 4, 2]);
        cylinders.Select(c => (int)c!["slot"]!).ShouldBe([1, 2, 3, 4]);
        cylinders.Select(c => (string)c!["verdict"]!).ShouldBe(["even", "low", "even", "even"]);
        var assumed = body["assumed"]!.AsObject();
        ((int)assumed["currentColumn"]!).ShouldBe(1);
        ((int)assumed["syncColumn"]!).ShouldBe(2);
        ((string)assumed["syncKind"]!).ShouldBe("every-cycle");
        ((double)assumed["syncAngle"]!).ShouldBe(6);
        ((string)assumed["fuel"]!).ShouldBe("petrol");
        assumed.ContainsKey("ampsPerVolt").ShouldBeFalse();
    }

    [Fact]
    public async Task Without_sync_slots_have_no_cylinder_and_a_clamp_without_scale_no_amperes()
    {
        var (status, body) = await AskAsync(Weak.Value, ("cylinders", "4"), ("firingOrder", "1-3-4-2"), ("syncKind", "none"));
        status.ShouldBe(HttpStatusCode.OK);
        ((bool)body["synchronised"]!).ShouldBeFalse();
        body["cylinders"]!.AsArray().ShouldAllBe(c => !c!.AsObject().ContainsKey("cylinder"));
        body.AsObject().ContainsKey("inrushAmps").ShouldBeFalse();
        body["warnings"]!.AsArray().Select(w => (string)w!["code"]!).ShouldContain("no-sync");
    }

    [Fact]
    public async Task A_capture_that_cannot_be_judged_is_refused_without_percentages()
    {
        var (status, body) = await AskAsync(Csv([], seconds: 0.8), ("cylinders", "4"), ("firingOrder", "1-3-4-2"));
        status.ShouldBe(HttpStatusCode.UnprocessableEntity);
        ((bool)body["refused"]!).ShouldBeTrue();
        ((string)body["code"]!).ShouldBe("too-short");
        body.AsObject().ContainsKey("cylinders").ShouldBeFalse();
        var (other, words) = await AskAsync("nothing but words\nin every line\n", ("cylinders", "4"), ("firingOrder", "1-3-4-2"));
        other.ShouldBe(HttpStatusCode.UnprocessableEntity);
        ((string)words["code"]!).ShouldBe("unreadable");
    }

    [Fact]
    public async Task With_a_job_the_capture_is_kept_byte_for_byte_and_the_answer_stands_in_the_record()
    {
        var job = await site.JobAsync("""{ "engine": { "cylinders": 4, "firingOrder": [1, 3, 4, 2] } }""");
        (string, string)[] fields = [("cylinders", "4"), ("firingOrder", "1-3-4-2"), ("job", job.ToString(CultureInfo.InvariantCulture))];
        var (status, body) = await AskAsync(Weak.Value, fields);
        status.ShouldBe(HttpStatusCode.OK);
        var test = (await site.RecordAsync(job))["tests"]!.AsArray().Single()!;
        ((string)test["kind"]!).ShouldBe("relative-compression");
        var readings = test["readings"]!.AsArray();
        readings.Select(r => (int)r!["cylinder"]!).ShouldBe([1, 2, 3, 4]);
        var third = body["cylinders"]!.AsArray().Single(c => (int)c!["cylinder"]! == 3)!;
        ((double)readings[2]!["relativePercent"]!).ShouldBe((double)third["relativePercent"]!);
        ((double)readings[2]!["standardErrorPercent"]!).ShouldBe((double)third["standardErrorPercent"]!);
        var kept = (string)body["stored"]!["capture"]!;
        (await site.Api.GetStringAsync(new Uri(kept, UriKind.Relative), Cancel)).ShouldBe(Weak.Value);
        (await site.Api.GetAsync(new Uri(kept + "9", UriKind.Relative), Cancel)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await AskAsync(Weak.Value, ("cylinders", "4"), ("firingOrder", "1-3-4-2"), ("job", "99999"))).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task The_same_capture_sent_again_under_one_key_is_kept_once()
    {
        var job = await site.JobAsync("""{ "engine": { "cylinders": 4, "firingOrder": [1, 3, 4, 2] } }""");
        site.Api.DefaultRequestHeaders.Add("Idempotency-Key", "crank-once");
        try
        {
            (string, string)[] fields = [("cylinders", "4"), ("firingOrder", "1-3-4-2"), ("job", job.ToString(CultureInfo.InvariantCulture))];
            var first = await AskAsync(Weak.Value, fields);
            var second = await AskAsync(Weak.Value, fields);
            second.Status.ShouldBe(HttpStatusCode.OK);
            ((string)second.Body["stored"]!["capture"]!).ShouldBe((string)first.Body["stored"]!["capture"]!);
            (await AskAsync(Csv([]), fields)).Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
        }
        finally
        {
            site.Api.DefaultRequestHeaders.Remove("Idempotency-Key");
        }
        (await site.RecordAsync(job))["tests"]!.AsArray().Count.ShouldBe(1);
    }

    [Theory]
    [InlineData("/cylinders", "cylinders", "")]
    [InlineData("/cylinders", "cylinders", "1")]
    [InlineData("/cylinders", "cylinders", "4.5")]
    [InlineData("/firingOrder", "firingOrder", "1-3-3-2")]
    [InlineData("/firingOrder", "firingOrder", "1-2-3")]
    [InlineData("/fuel", "fuel", "coal")]
    [InlineData("/ampsPerVolt", "ampsPerVolt", "many")]
    [InlineData("/syncKind", "syncKind", "sometimes")]
    [InlineData("/firingAngles", "firingAngles", "0,90")]
    [InlineData("/firingAngles", "firingAngles", "0,NaN,360,540")]
    [InlineData("/currentColumn", "currentColumn", "99")]
    public async Task A_bad_field_is_named_by_its_pointer(string pointer, string name, string value)
    {
        var fields = new Dictionary<string, string> { ["cylinders"] = "4", ["firingOrder"] = "1-3-4-2", [name] = value };
        var (status, body) = await AskAsync(Weak.Value, [.. fields.Select(f => (f.Key, f.Value))]);
        status.ShouldBe(HttpStatusCode.BadRequest);
        body["errors"]!.AsArray().Select(e => (string)e!["pointer"]!).ShouldContain(pointer);
    }

    [Fact]
    public async Task Without_file_multipart_or_token_nothing_is_analysed()
    {
        var (status, body) = await AskAsync(null, ("cylinders", "4"), ("firingOrder", "1-3-4-2"));
        status.ShouldBe(HttpStatusCode.BadRequest);
        ((string)body["errors"]![0]!["pointer"]!).ShouldBe("/capture");
        (await site.Api.PostAsync("/api/v1/relative-compression", new StringContent("{}", Encoding.UTF8, "application/json"), Cancel)).StatusCode.ShouldBe(HttpStatusCode.UnsupportedMediaType);
        using var stranger = new HttpClient { BaseAddress = site.Api.BaseAddress };
        (await stranger.PostAsync("/api/v1/relative-compression", new MultipartFormDataContent { { new StringContent("4"), "cylinders" } }, Cancel)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }
}
